using System.Net;
using System.Net.Http.Json;
using System.Text.Json.Nodes;
using MimeKit;
using Shouldly;
using Xunit;

namespace PostTide.System.Tests;

/// <summary>What the places show: searches, counts that balance, folders, setup.</summary>
[Collection(nameof(SharedOffice))]
public sealed class PlacesTests(Office office)
{
    private static string[] Subjects(JsonNode page) => [.. page["messages"]!.AsArray().Select(m => m!["subject"]!.GetValue<string>())];

    private async Task<JsonNode> SendAsync(MimeMessage mail, string to = "harbour@saltmarrow.example")
    {
        await office.SendAsync(mail, to);
        return await office.PlannedAsync(mail.Subject!);
    }

    [Fact]
    public async Task Today_balances_messages_and_deeds()
    {
        await SendAsync(Office.Mail("Balance one", "A berth.\n"), "berths@saltmarrow.example");
        var today = await office.GetAsync("/api/today");
        var day = today["days"]!.AsArray()[^1]!;
        int Of(JsonNode node, string name) => node[name]!.GetValue<int>();
        Of(day, "all").ShouldBe(Of(day, "takenIn") + Of(day, "leftAlone") + Of(day, "copies") + Of(day, "unreadable"));
        var deeds = today["deeds"]!;
        Of(deeds, "all").ShouldBe(Of(deeds, "done") + Of(deeds, "waiting") + Of(deeds, "stuck") + Of(deeds, "skipped"));
        Of(deeds, "all").ShouldBe((int)await office.CountAsync("SELECT count(*) FROM deeds"));
        today["hours"]!.AsArray().Count.ShouldBe(24);
        today["hours"]!.AsArray().Sum(h => Of(h!, "cameIn")).ShouldBeGreaterThan(0);
    }

    [Fact]
    public async Task Mail_is_found_by_words_by_a_part_of_a_word_by_sender_and_by_file_name()
    {
        var mail = Office.Mail("Zephyrine regatta", "The quincunx of buoys.\n", "Xanthippe Vole <xv@vole.example>", "harbour@saltmarrow.example");
        var body = new BodyBuilder { TextBody = ((TextPart)mail.Body!).Text };
        body.Attachments.Add("astrolabe.csv", "a,b"u8.ToArray());
        mail.Body = body.ToMessageBody();
        await SendAsync(mail);
        foreach (var words in new[] { "quincunx", "zephyrine quincunx", "ephyri", "xanthippe", "vole.example", "astrolabe.csv", "\"quincunx of buoys\"" })
        {
            Subjects(await office.GetAsync($"/api/messages?text={Uri.EscapeDataString(words)}")).ShouldContain("Zephyrine regatta", words);
        }

        foreach (var words in new[] { "quincunx nowhere", "\"buoys quincunx\"", "%", "_ephyrine" })
        {
            Subjects(await office.GetAsync($"/api/messages?text={Uri.EscapeDataString(words)}")).ShouldNotContain("Zephyrine regatta", words);
        }
    }

    [Fact]
    public async Task A_list_is_read_page_by_page_without_a_gap_or_a_repeat()
    {
        for (var i = 0; i < 65; i++)
        {
            await office.SendAsync(Office.Mail($"Pageturner {i}", "x\n", to: "harbour@saltmarrow.example"), "harbour@saltmarrow.example");
        }

        await office.PlannedAsync("Pageturner 64");
        await Office.EventuallyAsync(async () => (await office.GetAsync("/api/messages?text=Pageturner"))["total"]!.GetValue<int>() == 65);
        var first = await office.GetAsync("/api/messages?text=Pageturner");
        var second = await office.GetAsync($"/api/messages?text=Pageturner&beforeTime={Uri.EscapeDataString(first["nextTime"]!.GetValue<string>())}&beforeId={first["nextId"]}");
        Subjects(first).Length.ShouldBe(60);
        Subjects(first).Concat(Subjects(second)).Distinct().Count().ShouldBe(65);
        second["nextId"].ShouldBeNull();
    }

    [Fact]
    public async Task Automatic_mail_is_shown_as_such_and_never_answered()
    {
        var notice = Office.Mail("Out of office: berth", "I am away. About your berth.\n");
        notice.Headers.Add("Auto-Submitted", "auto-replied");
        var message = await SendAsync(notice, "berths@saltmarrow.example");
        message["row"]!["automatic"]!.GetValue<string>().ShouldBe("AbsenceNotice");
        message["deeds"]!.AsArray().ShouldNotContain(d => d!["kind"]!.GetValue<string>() == "Reply");
        Subjects(await office.GetAsync("/api/messages?show=Automatic")).ShouldContain("Out of office: berth");
    }

    [Fact]
    public async Task Files_are_listed_by_folder_with_the_ones_above_and_kept_once_by_content()
    {
        async Task FileAsync(string subject, byte[] bytes)
        {
            var mail = Office.Mail(subject, "papers\n", to: "harbour@saltmarrow.example");
            var body = new BodyBuilder { TextBody = "papers" };
            body.Attachments.Add("plan.txt", bytes);
            mail.Body = body.ToMessageBody();
            var message = await SendAsync(mail);
            await office.PostAsync($"/api/messages/{message["row"]!["id"]}/file", new { folder = "Drawings/2026" });
        }

        await FileAsync("Drawing one", "one"u8.ToArray());
        await FileAsync("Drawing two", "two"u8.ToArray());
        await FileAsync("Drawing one again", "one"u8.ToArray());
        var list = await office.GetAsync("/api/files?folder=Drawings");
        list["files"]!.AsArray().Select(f => f!["name"]!.GetValue<string>()).Order(StringComparer.Ordinal).ShouldBe(["plan (2).txt", "plan.txt"]);
        list["folders"]!.AsArray().Where(f => f!["path"]!.GetValue<string>().StartsWith("Drawings", StringComparison.Ordinal))
            .Select(f => (f!["path"]!.GetValue<string>(), f["files"]!.GetValue<int>())).ShouldBe([("Drawings", 2), ("Drawings/2026", 2)]);
    }

    [Fact]
    public async Task A_ticket_is_changed_noted_closed_and_reopened_by_an_answer()
    {
        var mail = Office.Mail("Ticket story", "Something about a lamp.\n", to: "harbour@saltmarrow.example");
        var id = (await SendAsync(mail))["row"]!["id"];
        await office.PostAsync($"/api/messages/{id}/ticket", new { label = "Lamp", priority = "Normal" });
        var reference = (await office.GetAsync($"/api/messages/{id}"))["tickets"]![0]!.GetValue<string>();
        await office.PostAsync($"/api/tickets/{reference}/change", new { state = (string?)null, priority = "High", label = (string?)null, summary = "Lamp on the mole" });
        await office.PostAsync($"/api/tickets/{reference}/note", new { text = "Ordered." });
        await office.PostAsync($"/api/tickets/{reference}/change", new { state = "Closed", priority = (string?)null, label = (string?)null, summary = (string?)null });
        var ticket = await office.GetAsync($"/api/tickets/{reference}");
        (ticket["ticket"]!["state"]!.GetValue<string>(), ticket["ticket"]!["summary"]!.GetValue<string>()).ShouldBe(("Closed", "Lamp on the mole"));
        ticket["entries"]!.AsArray().Select(e => e!["text"]!.GetValue<string>())
            .ShouldBe(["Opened, Lamp", "Priority normal → high", "Summary Ticket story → Lamp on the mole", "Ordered.", "Closed"]);

        // An answer that names the ticket, through a line that adds to tickets.
        await SendAsync(Office.Mail($"Re: berth {reference}", "A berth question.\n"), "berths@saltmarrow.example");
        (await office.GetAsync($"/api/tickets/{reference}"))["ticket"]!["state"]!.GetValue<string>().ShouldBe("Open");
        (await office.GetAsync($"/api/tickets?text={reference}"))["tickets"]!.AsArray().Count.ShouldBe(1);
    }

    [Fact]
    public async Task Two_people_cannot_take_the_same_item()
    {
        var message = await SendAsync(Office.Mail("Taken twice", "Hello.\n", to: "harbour@saltmarrow.example"));
        var item = message["items"]![0]!["item"]!["id"];
        using var other = await office.SignInAsync("desk@saltmarrow.example");
        (await other.PostAsJsonAsync($"/api/items/{item}/take", new { })).EnsureSuccessStatusCode();
        (await Should.ThrowAsync<HttpRequestException>(office.PostAsync($"/api/items/{item}/take"))).Message.ShouldContain("Somebody else has taken this item.");
        (await other.PostAsJsonAsync($"/api/items/{item}/put-back", new { })).EnsureSuccessStatusCode();
        await office.PostAsync($"/api/items/{item}/take");
    }

    [Fact]
    public async Task An_address_added_in_setup_takes_mail_within_seconds_and_a_removed_one_does_not()
    {
        var address = $"new-{Guid.NewGuid():N}@saltmarrow.example";
        using (var saved = await office.Http.PutAsJsonAsync("/api/setup/mailboxes/0", Office.Mailbox("New", address)))
        {
            saved.EnsureSuccessStatusCode();
        }

        await Office.EventuallyAsync(async () =>
        {
            try
            {
                await office.SendAsync(Office.Mail("To a new address", "x\n"), address);
                return true;
            }
            catch (MailKit.Net.Smtp.SmtpCommandException)
            {
                return false;
            }
        });
        await office.PlannedAsync("To a new address");
        var setup = await office.GetAsync("/api/setup");
        setup["log"]!.AsArray().Select(l => l!["what"]!.GetValue<string>()).ShouldContain("Saved the mailbox “New”");
        var id = setup["mailboxes"]!.AsArray().Single(m => m!["name"]!.GetValue<string>() == "New")!["id"];

        // A mailbox that holds mail is kept: the mail refers to it.
        using var removed = await office.Http.DeleteAsync($"/api/setup/mailboxes/{id}");
        removed.StatusCode.ShouldBe(HttpStatusCode.Conflict);
    }

    [Fact]
    public async Task Two_mailboxes_cannot_share_an_address()
    {
        using var saved = await office.Http.PutAsJsonAsync("/api/setup/mailboxes/0", Office.Mailbox("Second", "berths@saltmarrow.example"));
        saved.StatusCode.ShouldBe(HttpStatusCode.Conflict);
        (await saved.Content.ReadAsStringAsync()).ShouldContain("There is one like this already.");
    }

    [Fact]
    public async Task A_paused_workflow_sees_no_mail_and_goes_on_when_it_is_wanted()
    {
        var fuel = (await office.GetAsync("/api/workflows")).AsArray().Single(w => w!["name"]!.GetValue<string>() == "Fuel orders")!["id"];
        async Task PauseAsync(bool paused)
        {
            using var answer = await office.Http.PutAsync($"/api/workflows/{fuel}/paused?paused={(paused ? "true" : "false")}", null);
            answer.EnsureSuccessStatusCode();
        }

        await PauseAsync(true);
        var message = await SendAsync(Office.Mail("Diesel while paused", "40 litres of diesel.\n"), "fuel@saltmarrow.example");
        message["verdicts"]!.AsArray().ShouldNotContain(v => v!["workflowName"]!.GetValue<string>() == "Fuel orders");
        await PauseAsync(false);
        message = await SendAsync(Office.Mail("Diesel again", "40 litres of diesel.\n"), "fuel@saltmarrow.example");
        message["verdicts"]!.AsArray().ShouldContain(v => v!["workflowName"]!.GetValue<string>() == "Fuel orders" && v["outcome"]!.GetValue<string>() == "TakenIn");
    }

    [Fact]
    public async Task What_is_not_there_is_told_plainly()
    {
        (await Should.ThrowAsync<HttpRequestException>(office.GetAsync("/api/messages/1"))).StatusCode.ShouldBe(HttpStatusCode.NotFound);
        (await Should.ThrowAsync<HttpRequestException>(office.PostAsync("/api/items/1/done"))).Message.ShouldContain("This item is gone.");
        (await Should.ThrowAsync<HttpRequestException>(office.PostAsync("/api/deeds/1/retry"))).Message.ShouldContain("This deed is gone.");
        using var ticket = await office.Http.GetAsync("/api/tickets/SH-1");
        (await ticket.Content.ReadAsStringAsync()).ShouldContain("There is no ticket SH-1.");
        using var rehearsal = await office.Http.GetAsync($"/api/rehearsals/{Guid.NewGuid()}/messages?view=All");
        (await rehearsal.Content.ReadAsStringAsync()).ShouldContain("no longer kept");
    }
}
