using System.Net.Http.Json;
using System.Text.Json.Nodes;
using Shouldly;
using Xunit;

namespace PostTide.System.Tests;

/// <summary>Catch-up runs: looked over, confirmed, stopped, taken up again; what was done is not done again; the accounts balance.</summary>
[Collection(nameof(SharedOffice))]
public sealed class CatchUpTests(Office office)
{
    private const string PlaceAndReply =
        """{"id":"l1","case":"Any","categoryId":null,"andWhen":{"all":[],"any":[],"none":[]},"queues":[{"queueId":QUEUE,"dueInMinutes":60}],"ticket":{"mode":"OpenOrAdd","label":"Old matter","priority":"Normal"},"files":[],"replies":[{"templateId":TEMPLATE,"mode":"Send","delayMinutes":0,"to":"Sender"}],"passOns":[],"inMailbox":null}""";

    /// <summary>A request for a catch-up.</summary>
    public static object Request(long workflow, string text = "", IReadOnlyList<long>? ids = null, string show = "All", int most = 500) =>
        new { workflowId = workflow, text, mailboxId = (long?)null, show, from = (string?)null, until = (string?)null, ids, most };

    /// <summary>A live workflow that takes mail from a sender's domain.</summary>
    public static async Task<long> AddWorkflowAsync(Office office, string name, string from, string line)
    {
        var made = await office.PostAsync("/api/workflows", new { name });
        var view = await office.GetAsync($"/api/workflows/{made!["id"]}");
        var sheet = view["sheet"]!.DeepClone();
        sheet["takesIn"]!["all"] = new JsonArray(JsonNode.Parse($$"""{"id":"c1","part":"Sender","test":"Contains","values":["{{from}}"],"keywordListId":null,"kinds":[]}"""));
        sheet["facts"] = new JsonArray("sender_name", "subject");
        sheet["lines"] = new JsonArray(JsonNode.Parse(line));
        using var saved = await office.Http.PutAsJsonAsync($"/api/workflows/{view["id"]}/sheet", new { sheet, number = view["number"]!.GetValue<int>(), revision = view["revision"]!.GetValue<int>() });
        (await saved.Content.ReadAsStringAsync()).ShouldContain("revision");
        await office.PostAsync($"/api/workflows/{view["id"]}/live");
        return view["id"]!.GetValue<long>();
    }

    private async Task<(long Workflow, string Domain)> SetUpAsync()
    {
        var domain = $"d{Guid.NewGuid():N}.example";
        var setup = await office.GetAsync("/api/setup");
        var template = setup["templates"]!.AsArray().Single(t => t!["name"]!.GetValue<string>() == "Complaint: received")!["id"];
        var line = PlaceAndReply.Replace("QUEUE", $"{setup["queues"]![0]!["id"]}", StringComparison.Ordinal).Replace("TEMPLATE", $"{template}", StringComparison.Ordinal);
        return (await AddWorkflowAsync(office, $"Catch {domain[..8]}", domain, line), domain);
    }

    /// <summary>Brings in old mail of a domain, and waits until it can be found.</summary>
    private async Task BringInAsync(string domain, int count)
    {
        var mbox = string.Concat(Enumerable.Range(0, count).Select(i =>
            $"From x Mon Oct  5 09:00:00 2026\nFrom: Writer {i} <w{i}@{domain}>\nTo: berths@saltmarrow.example\nDate: Mon, 5 Oct 2026 09:{i % 60:D2}:00 +0000\nSubject: Old matter {i} {domain}\nMessage-ID: <{i}@{domain}>\n\nSome words.\n\n"));
        (await office.UploadAsync("old.mbox", global::System.Text.Encoding.ASCII.GetBytes(mbox), carryOut: false))["taken"]!.GetValue<int>().ShouldBe(count);
        await Office.EventuallyAsync(async () => await office.CountAsync($"SELECT count(*) FROM messages WHERE sender_address LIKE '%@{domain}' AND state = 'Planned'") == count);
    }

    private async Task<JsonNode> FinishedAsync(long run)
    {
        JsonNode? view = null;
        await Office.EventuallyAsync(async () => (view = await office.GetAsync($"/api/log/runs/{run}"))["state"]!.GetValue<string>() == "Finished");
        return view!;
    }

    private static int N(JsonNode view, string name) => view[name]!.GetValue<int>();

    private static void ShouldBalance(JsonNode run)
    {
        (N(run, "takenIn") + N(run, "leftAlone") + N(run, "toCome")).ShouldBe(N(run, "lookedAt") - N(run, "excluded"));
        (N(run, "done") + N(run, "waiting") + N(run, "stuck") + N(run, "skipped")).ShouldBe(N(run, "planned"));
    }

    private async Task<long> BeginAsync(long workflow, string domain) => (await office.PostAsync("/api/catch-ups", Request(workflow, domain)))!.GetValue<long>();

    [Fact]
    public async Task Old_mail_is_left_alone_until_a_catch_up_does_exactly_what_its_preview_said()
    {
        var (workflow, domain) = await SetUpAsync();
        await BringInAsync(domain, 5);
        (await office.CountAsync($"SELECT count(*) FROM deeds d JOIN messages m ON m.id = d.message_id WHERE m.sender_address LIKE '%@{domain}'")).ShouldBe(0);

        var run = await BeginAsync(workflow, domain);
        var first = (await office.GetAsync($"/api/catch-ups/{run}/messages"))["messages"]![0]!;
        first["subject"]!.GetValue<string>().ShouldStartWith("Old matter 0");
        await office.PostAsync($"/api/catch-ups/{run}/exclude", new { messageIds = new[] { first["messageId"]!.GetValue<long>() }, exclude = true });
        var preview = await office.GetAsync($"/api/catch-ups/{run}/preview");
        (N(preview, "chosen"), N(preview, "takenIn"), N(preview, "excluded")).ShouldBe((4, 4, 1));
        preview["writtenTo"]!.AsArray().Select(a => a!.GetValue<string>()).ShouldBe(Enumerable.Range(1, 4).Select(i => $"w{i}@{domain}"));
        (await office.CountAsync($"SELECT count(*) FROM deeds WHERE run_id = {run}")).ShouldBe(0, "a preview does nothing");

        await office.PostAsync($"/api/catch-ups/{run}/confirm");
        var done = await FinishedAsync(run);
        ShouldBalance(done);
        (N(done, "planned"), N(done, "done"), N(done, "waiting"), N(done, "excluded")).ShouldBe((12, 8, 4, 1), "a queue, a ticket, and a reply that waits for checking, for four messages");
        (await office.CountAsync($"SELECT count(*) FROM deeds WHERE run_id = {run} AND kind = 'Reply' AND state = 'Checking' AND because LIKE '%old mail%'")).ShouldBe(4);
        var lines = (await office.GetAsync($"/api/log/runs/{run}/lines")).AsArray();
        lines.ShouldContain(l => l!["what"]!.GetValue<string>() == "Excluded");
    }

    [Fact]
    public async Task What_was_done_is_never_done_again_unless_that_very_deed_is_asked_for()
    {
        var (workflow, domain) = await SetUpAsync();
        await BringInAsync(domain, 2);
        var first = await BeginAsync(workflow, domain);
        await office.PostAsync($"/api/catch-ups/{first}/confirm");
        await FinishedAsync(first);

        var second = await BeginAsync(workflow, domain);
        var rows = (await office.GetAsync($"/api/catch-ups/{second}/messages"))["messages"]!.AsArray();
        rows.SelectMany(r => r!["deeds"]!.AsArray()).ShouldAllBe(d => d!["skipped"] != null);
        var place = rows[0]!["deeds"]!.AsArray().Single(d => d!["kind"]!.GetValue<string>() == "Place")!;
        await office.PostAsync($"/api/catch-ups/{second}/again", new { messageId = rows[0]!["messageId"]!.GetValue<long>(), kind = "Place", target = place["target"]!.GetValue<string>(), again = true });
        await office.PostAsync($"/api/catch-ups/{second}/confirm");
        var done = await FinishedAsync(second);
        ShouldBalance(done);
        (N(done, "planned"), N(done, "done"), N(done, "skipped")).ShouldBe((6, 1, 5));
        (await office.CountAsync($"SELECT count(*) FROM run_skips WHERE run_id = {second} AND because = 'it was done before'")).ShouldBe(3);
        (await office.CountAsync($"SELECT count(*) FROM run_skips WHERE run_id = {second} AND because = 'it is under way already'")).ShouldBe(2, "the replies wait for checking");
        (await office.CountAsync($"SELECT count(*) FROM tickets t JOIN messages m ON m.id = t.message_id WHERE m.sender_address LIKE '%@{domain}'")).ShouldBe(2);
        (await office.CountAsync($"SELECT max(repeat) FROM deeds WHERE run_id = {second}")).ShouldBe(1);
    }

    [Fact]
    public async Task A_run_can_be_stopped_and_goes_on_and_survives_kills()
    {
        var (workflow, domain) = await SetUpAsync();
        await BringInAsync(domain, 120);
        var run = await BeginAsync(workflow, domain);
        await office.PostAsync($"/api/catch-ups/{run}/confirm");
        await Office.EventuallyAsync(async () => N(await office.GetAsync($"/api/log/runs/{run}"), "takenIn") > 0);
        await office.KillServerAsync();
        await office.StartServerAsync();
        await Office.EventuallyAsync(async () =>
        {
            var view = await office.GetAsync($"/api/log/runs/{run}");
            ShouldBalance(view);
            if (view["state"]!.GetValue<string>() == "Running")
            {
                await office.PostAsync($"/api/catch-ups/{run}/stop");
            }

            return true;
        });
        var stopped = await office.GetAsync($"/api/log/runs/{run}");
        if (stopped["state"]!.GetValue<string>() == "Stopped")
        {
            await office.PostAsync($"/api/catch-ups/{run}/resume");
        }

        var done = await FinishedAsync(run);
        ShouldBalance(done);
        (N(done, "takenIn"), N(done, "planned")).ShouldBe((120, 360));
        (await office.CountAsync($"SELECT count(*) FROM (SELECT message_id, kind FROM deeds WHERE run_id = {run} GROUP BY 1, 2 HAVING count(*) > 1) twice")).ShouldBe(0);
        (await office.CountAsync($"SELECT count(*) FROM (SELECT message_id FROM items GROUP BY 1 HAVING count(*) > 1) twice")).ShouldBe(0);
    }

    [Fact]
    public async Task What_would_happen_to_one_message_is_said_and_then_done()
    {
        var (workflow, domain) = await SetUpAsync();
        await BringInAsync(domain, 1);
        var id = await office.CountAsync($"SELECT id FROM messages WHERE sender_address = 'w0@{domain}'");
        var tried = await office.GetAsync($"/api/messages/{id}/try?workflowId={workflow}");
        tried["deeds"]!.AsArray().Count.ShouldBe(3);
        tried["verdict"]!["reasons"]![0]!["evidence"]![0]!["text"]!.GetValue<string>().ShouldBe(domain);
        (await office.CountAsync($"SELECT count(*) FROM deeds WHERE message_id = {id}")).ShouldBe(0);
        var run = (await office.PostAsync($"/api/messages/{id}/do?workflowId={workflow}"))!.GetValue<long>();
        await FinishedAsync(run);
        (await office.CountAsync($"SELECT count(*) FROM deeds WHERE message_id = {id}")).ShouldBe(3);
        (await office.GetAsync($"/api/messages/{id}/try?workflowId={workflow}"))["deeds"]!.AsArray().ShouldAllBe(d => d!["skipped"] != null);
        var other = (await office.GetAsync("/api/workflows")).AsArray().First(w => w!["id"]!.GetValue<long>() != workflow && w["liveEdition"] is not null)!["id"];
        (await office.GetAsync($"/api/messages/{id}/try?workflowId={other}"))["leftBecause"].ShouldNotBeNull();
    }

    [Fact]
    public async Task A_run_whose_edition_is_no_longer_live_is_not_carried_out()
    {
        var (workflow, domain) = await SetUpAsync();
        await BringInAsync(domain, 1);
        var run = await BeginAsync(workflow, domain);
        var view = await office.GetAsync($"/api/workflows/{workflow}");
        var sheet = view["sheet"]!.DeepClone();
        sheet["limits"]!["oneReplyPerSenderHours"] = 48;
        using (await office.Http.PutAsJsonAsync($"/api/workflows/{workflow}/sheet", new { sheet, number = view["number"]!.GetValue<int>(), revision = view["revision"]!.GetValue<int>() }))
        {
        }

        await office.PostAsync($"/api/workflows/{workflow}/live");
        (await Should.ThrowAsync<HttpRequestException>(office.PostAsync($"/api/catch-ups/{run}/confirm"))).Message.ShouldContain("Nothing was done");
        using var discarded = await office.Http.DeleteAsync($"/api/catch-ups/{run}");
        discarded.EnsureSuccessStatusCode();
        (await office.CountAsync($"SELECT count(*) FROM runs WHERE id = {run}")).ShouldBe(0);
    }

    [Theory]
    [InlineData(0, "between 1 and 10,000")]
    [InlineData(500, "No message is chosen")]
    public async Task A_choice_of_nothing_is_refused(int most, string says)
    {
        var (workflow, _) = await SetUpAsync();
        var error = await Should.ThrowAsync<HttpRequestException>(office.PostAsync("/api/catch-ups", Request(workflow, $"nothing-{Guid.NewGuid():N}", most: most)));
        error.Message.ShouldContain(says);
    }
}
