using System.Net;
using System.Net.Http.Json;
using System.Text.Json.Nodes;
using Shouldly;
using Xunit;

namespace PostTide.System.Tests;

/// <summary>The log: found by what one remembers; stuck deeds are retried, aimed elsewhere or dropped, alone or together.</summary>
[Collection(nameof(SharedOffice))]
public sealed class LogTests(Office office)
{
    private async Task<long> AddDestinationAsync(string url)
    {
        var name = $"Log {Guid.NewGuid():N}";
        using var saved = await office.Http.PutAsJsonAsync("/api/setup/destinations/0", new { id = 0, name, url });
        saved.EnsureSuccessStatusCode();
        return (await office.GetAsync("/api/setup"))["destinations"]!.AsArray().Single(d => d!["name"]!.GetValue<string>() == name)!["id"]!.GetValue<long>();
    }

    /// <summary>Messages whose passing on is stuck, because nothing answers where it goes.</summary>
    private async Task<List<long>> StickAsync(string mark, int count)
    {
        var nowhere = await AddDestinationAsync("http://127.0.0.1:9/");
        for (var i = 0; i < count; i++)
        {
            await office.SendAsync(Office.Mail($"{mark} {i}", "Words.\n", to: "harbour@saltmarrow.example"), "harbour@saltmarrow.example");
            var id = (await office.PlannedAsync($"{mark} {i}"))["row"]!["id"]!;
            await office.PostAsync($"/api/messages/{id}/pass-on", new { destinationId = nowhere });
        }

        JsonArray stuck = [];
        await Office.EventuallyAsync(async () =>
            (stuck = (await office.GetAsync($"/api/log/deeds?show=Stuck&kind=PassOn&text={Uri.EscapeDataString(mark)}"))["deeds"]!.AsArray()).Count == count);
        return [.. stuck.Select(d => d!["id"]!.GetValue<long>())];
    }

    private async Task<string> StateAsync(string mark) =>
        (await office.GetAsync($"/api/log/deeds?kind=PassOn&text={Uri.EscapeDataString(mark)}"))["deeds"]![0]!["state"]!.GetValue<string>();

    [Fact]
    public async Task Stuck_deeds_are_found_dropped_together_and_accounted_for()
    {
        var mark = $"Log drop {Guid.NewGuid():N}";
        var stuck = await StickAsync(mark, 3);
        using var desk = await office.SignInAsync("desk@saltmarrow.example");
        (await desk.PostAsJsonAsync("/api/deeds/drop", new { ids = stuck })).StatusCode.ShouldBe(HttpStatusCode.Forbidden);
        var result = (await office.PostAsync("/api/deeds/drop", new { ids = stuck.Append(stuck[0]) }))!;
        (result["changed"]!.GetValue<int>(), result["left"]!.GetValue<int>()).ShouldBe((3, 0));
        (await office.PostAsync("/api/deeds/drop", new { ids = stuck }))!["left"]!.GetValue<int>().ShouldBe(3, "what is settled is left alone");
        (await office.GetAsync($"/api/log/deeds?show=Stuck&text={Uri.EscapeDataString(mark)}"))["total"]!.GetValue<int>().ShouldBe(0);
        (await office.GetAsync($"/api/log/deeds?show=Skipped&kind=PassOn&text={Uri.EscapeDataString(mark)}"))["total"]!.GetValue<int>().ShouldBe(3);
    }

    [Fact]
    public async Task A_stuck_deed_is_aimed_elsewhere_and_its_history_says_so()
    {
        var mark = $"Log change {Guid.NewGuid():N}";
        var id = (await StickAsync(mark, 1))[0];
        (await Should.ThrowAsync<HttpRequestException>(office.PostAsync($"/api/deeds/{id}/change", new { destinationId = (long?)null, folder = "Done" }))).StatusCode.ShouldBe(HttpStatusCode.Conflict);
        var good = await AddDestinationAsync($"{office.StandIns.BaseAddress}records");
        await office.PostAsync($"/api/deeds/{id}/change", new { destinationId = good, folder = (string?)null });
        await Office.EventuallyAsync(async () => await StateAsync(mark) == "Done");
        var deed = (await office.GetAsync($"/api/log/deeds?kind=PassOn&text={Uri.EscapeDataString(mark)}"))["deeds"]![0]!;
        deed["history"]!.ToJsonString().ShouldContain("Changed from");
        (await Should.ThrowAsync<HttpRequestException>(office.PostAsync($"/api/deeds/{id}/change", new { destinationId = good, folder = (string?)null }))).Message.ShouldContain("not stuck");
    }

    [Fact]
    public async Task Deeds_are_narrowed_by_workflow_mailbox_and_time_and_paged_without_a_gap()
    {
        for (var i = 0; i < 45; i++)
        {
            await office.SendAsync(Office.Mail($"[Plantwatch] FAULT PU-{i} log", "State: FAULT\n", "notices@plantwatch.example", "plant@saltmarrow.example"), "plant@saltmarrow.example");
        }

        await Office.EventuallyAsync(async () => await office.CountAsync("SELECT count(*) FROM messages WHERE subject LIKE '%FAULT PU-% log' AND state = 'Planned'") == 45);
        var plant = (await office.GetAsync("/api/setup"))["mailboxes"]!.AsArray().Single(m => m!["name"]!.GetValue<string>() == "Plant room")!["id"];
        var workflow = (await office.GetAsync("/api/workflows")).AsArray().Single(w => w!["name"]!.GetValue<string>() == "Plant faults")!["id"];
        var query = $"/api/log/deeds?mailboxId={plant}&workflowId={workflow}&text=log";
        var first = await office.GetAsync(query);
        var seen = first["deeds"]!.AsArray().Select(d => d!["id"]!.GetValue<long>()).ToList();
        var page = first;
        while (page["nextId"] is { } next)
        {
            page = await office.GetAsync($"{query}&beforeId={next}");
            seen.AddRange(page["deeds"]!.AsArray().Select(d => d!["id"]!.GetValue<long>()));
        }

        seen.Count.ShouldBe(first["total"]!.GetValue<int>());
        seen.ShouldBeUnique();
        seen.ShouldBeInOrder(SortDirection.Descending);
        (await office.GetAsync($"{query}&until=2020-01-01T00:00:00Z"))["total"]!.GetValue<int>().ShouldBe(0);
        (await office.GetAsync($"{query}&from=2020-01-01T00:00:00Z"))["total"]!.GetValue<int>().ShouldBe(seen.Count);
        (await office.GetAsync("/api/log/deeds?runId=999999"))["total"]!.GetValue<int>().ShouldBe(0);
    }

    [Theory]
    [InlineData("", 400)] // no name at all
    [InlineData("not a host name!", 400)]
    [InlineData("127.0.0.1", 409)] // no password
    public async Task A_connection_that_cannot_be_is_refused_at_its_field(string host, int status)
    {
        var mailbox = Office.Mailbox("Never", $"never-{Guid.NewGuid():N}@saltmarrow.example");
        mailbox["connection"] = JsonNode.Parse(
            $$"""{"host":"{{host}}","port":993,"tls":"Implicit","user":"u","password":null,"folder":"INBOX","backDays":9,"oldMail":"Keep","markRead":false,"paceMinutes":15,"hours":null,"cap":null,"paused":false}""");
        using var answer = await office.Http.PutAsJsonAsync("/api/setup/mailboxes/0", mailbox);
        ((int)answer.StatusCode).ShouldBe(status);
    }

    [Theory]
    [InlineData("paceMinutes", "0", "between 1 minute and a day")]
    [InlineData("cap", "0", "between 1 and 100,000")]
    [InlineData("port", "70000", "between 1 and 65535")]
    [InlineData("backDays", "-1", "between 0 and 3,650")]
    [InlineData("hours", """{"from":"7","until":"19:00","days":[1],"zone":"Europe/London"}""", "need two times")]
    [InlineData("hours", """{"from":"07:00","until":"19:00","days":[],"zone":"Europe/London"}""", "at least one day")]
    [InlineData("hours", """{"from":"07:00","until":"19:00","days":[1],"zone":"Mars/Base"}""", "a time zone")]
    public async Task A_setting_out_of_its_bounds_is_said_with_its_bounds(string field, string value, string says)
    {
        var mailbox = Office.Mailbox("Never", $"never-{Guid.NewGuid():N}@saltmarrow.example");
        var connection = JsonNode.Parse(
            """{"host":"mail.example","port":993,"tls":"Implicit","user":"u","password":"p","folder":"INBOX","backDays":9,"oldMail":"Keep","markRead":false,"paceMinutes":15,"hours":null,"cap":null,"paused":false}""")!.AsObject();
        connection[field] = JsonNode.Parse(value);
        mailbox["connection"] = connection;
        using var answer = await office.Http.PutAsJsonAsync("/api/setup/mailboxes/0", mailbox);
        answer.StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await answer.Content.ReadAsStringAsync()).ShouldContain(says);
    }

    [Theory]
    [InlineData("""{"approved":[],"trustedServers":[],"trustedHosts":[],"unproved":"Hold"}""", "everything would be held")]
    [InlineData("""{"approved":["not an address"],"trustedServers":[],"trustedHosts":[],"unproved":"Hold"}""", "neither an address nor a domain")]
    [InlineData("""{"approved":["tern.example"],"trustedServers":[],"trustedHosts":["10.0.0.0/99"],"unproved":"Hold"}""", "neither an IP address nor a network")]
    public async Task A_list_of_approved_senders_that_makes_no_sense_is_refused(string approval, string says)
    {
        var mailbox = Office.Mailbox("Never", $"never-{Guid.NewGuid():N}@saltmarrow.example");
        mailbox["approval"] = JsonNode.Parse(approval);
        using var answer = await office.Http.PutAsJsonAsync("/api/setup/mailboxes/0", mailbox);
        answer.StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await answer.Content.ReadAsStringAsync()).ShouldContain(says);
    }
}
