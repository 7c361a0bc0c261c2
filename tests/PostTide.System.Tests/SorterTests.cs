using System.Net;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json.Nodes;
using Shouldly;
using Xunit;

namespace PostTide.System.Tests;

/// <summary>Sorters on a running office: labelled, trained in the background, put into use, asked by workflows, corrected by people.</summary>
public sealed class SorterTests(Office office) : IClassFixture<Office>
{
    private static readonly string[] Berth = ["berth", "mooring", "overnight", "pontoon", "yacht"];
    private static readonly string[] Fuel = ["diesel", "litres", "petrol", "tank", "delivery"];
    private static readonly string[] Other = ["invoice", "statement", "offer", "newsletter", "reminder"];

    private static string TextOf(string[] own, int seed)
    {
        var random = new Random(seed);
        return string.Join(' ', Enumerable.Range(0, 8).Select(i => i % 3 == 2 ? "please" : own[random.Next(own.Length)]));
    }

    private static JsonObject Settings(params (string Id, string Description)[] categories) => new()
    {
        ["categories"] = new JsonArray([.. categories.Select(c => (JsonNode)new JsonObject { ["id"] = c.Id, ["name"] = c.Id, ["description"] = c.Description, ["cues"] = new JsonArray(), ["rightAtLeast"] = null })]),
        ["rightAtLeast"] = 0.9,
        ["costlyMistakes"] = new JsonArray(),
    };

    /// <summary>Old mail of a kind, brought in; gives the messages.</summary>
    private async Task<long[]> BringInAsync(string kind, string[] own, int count)
    {
        var mark = $"{Guid.NewGuid():N}"[..12];
        var mbox = new StringBuilder();
        for (var i = 0; i < count; i++)
        {
            mbox.Append(global::System.Globalization.CultureInfo.InvariantCulture, $"From a@b.example Mon Nov 23 10:00:00 2026\nFrom: {kind}{i}@sort.example\nTo: harbour@saltmarrow.example\nSubject: {own[i % own.Length]}\nMessage-ID: <{mark}-{i}@sort.example>\nDate: Mon, 23 Nov 2026 10:00:00 +0000\n\n{TextOf(own, i)}\n\n");
        }

        await office.UploadAsync("kind.mbox", Encoding.ASCII.GetBytes(mbox.ToString()), carryOut: false);
        await Office.EventuallyAsync(async () => await office.CountAsync($"SELECT count(*) FROM messages WHERE mail_id LIKE '{mark}-%' AND state = 'Planned'") == count);
        var ids = new List<long>();
        for (var i = 0; i < count; i++)
        {
            ids.Add(await office.CountAsync($"SELECT id FROM messages WHERE mail_id = '{mark}-{i}@sort.example'"));
        }

        return [.. ids];
    }

    private async Task<long> SorterAsync(JsonObject settings)
    {
        var made = await office.PostAsync("/api/sorters", new { name = $"Sorter {Guid.NewGuid():N}"[..20] });
        var id = (long)made!["id"]!;
        await SaveAsync(id, settings);
        return id;
    }

    private async Task SaveAsync(long id, JsonObject settings)
    {
        var view = await office.GetAsync($"/api/sorters/{id}");
        using var saved = await office.Http.PutAsJsonAsync($"/api/sorters/{id}/settings", new { settings, number = (int)view["number"]!, revision = (int)view["revision"]! });
        saved.StatusCode.ShouldBe(HttpStatusCode.OK, await saved.Content.ReadAsStringAsync());
    }

    private async Task LabelAsync(long id, IEnumerable<long> messages, string? categoryId)
    {
        foreach (var messageId in messages)
        {
            using var labelled = await office.Http.PutAsJsonAsync($"/api/sorters/{id}/labels", new { messageId, categoryId });
            labelled.EnsureSuccessStatusCode();
        }
    }

    private async Task<JsonNode> TrainedAsync(long id, int examples)
    {
        JsonNode view = new JsonObject();
        await Office.EventuallyAsync(async () =>
        {
            view = await office.GetAsync($"/api/sorters/{id}");
            return !(bool)view["due"]! && view["training"] is null && (int)view["numbers"]![0]!["trainedOn"]! == examples && (bool)view["numbers"]![0]!["hasModel"]!;
        });
        return view;
    }

    private async Task UseAsync(long id, int number) => (await office.Http.PostAsync($"/api/sorters/{id}/use?number={number}", null)).EnsureSuccessStatusCode();

    /// <summary>A sorter with twelve examples of two kinds and of none, number 1 in use.</summary>
    private async Task<(long Id, long[] Berths)> InUseAsync()
    {
        var id = await SorterAsync(Settings(("berth", "Asks for a place to moor."), ("fuel", "Wants diesel or petrol.")));
        var berths = await BringInAsync("berth", Berth, 12);
        await LabelAsync(id, berths, "berth");
        await LabelAsync(id, await BringInAsync("fuel", Fuel, 12), "fuel");
        await LabelAsync(id, await BringInAsync("other", Other, 12), null);
        await TrainedAsync(id, 36);
        await UseAsync(id, 1);
        return (id, berths);
    }

    /// <summary>A live workflow that asks the sorter about mail to one address, first in the order.</summary>
    private async Task<(long Id, string Address)> WorkflowAsync(long sorterId)
    {
        var address = $"s{Guid.NewGuid():N}"[..10] + "@saltmarrow.example";
        await office.SaveMailboxAsync(Office.Mailbox($"Box {address}", address));
        var setup = await office.GetAsync("/api/setup");
        long Queue(string name) => (long)setup["queues"]!.AsArray().First(q => (string)q!["name"]! == name)!["id"]!;
        var made = await office.PostAsync("/api/workflows", new { name = $"Sorts {address}" });
        var id = (long)made!["id"]!;
        var others = (await office.GetAsync("/api/workflows")).AsArray().Select(w => (long)w!["id"]!).Where(w => w != id);
        (await office.Http.PutAsJsonAsync("/api/workflows/order", new { ids = others.Prepend(id) })).EnsureSuccessStatusCode();
        var view = await office.GetAsync($"/api/workflows/{id}");
        var sheet = view["sheet"]!.DeepClone();
        sheet["addresses"] = new JsonArray(address);
        sheet["sorterId"] = sorterId;
        sheet["categories"] = JsonNode.Parse("""[{"id":"berth","name":"berth","bySorter":true,"when":{"all":[],"any":[],"none":[]}},{"id":"fuel","name":"fuel","bySorter":true,"when":{"all":[],"any":[],"none":[]}}]""");
        JsonNode Line(string lineId, string @case, string? category, string queue) => JsonNode.Parse(
            $$"""{"id":"{{lineId}}","case":"{{@case}}","categoryId":{{(category is null ? "null" : $"\"{category}\"")}},"suretyFrom":null,"andWhen":{"all":[],"any":[],"none":[]},"queues":[{"queueId":{{Queue(queue)}},"dueInMinutes":60}],"ticket":null,"files":[],"replies":[],"passOns":[],"inMailbox":null}""")!;
        sheet["lines"] = new JsonArray(Line("l1", "Category", "berth", "Berthing desk"), Line("l2", "Category", "fuel", "Fuel dock"), Line("l3", "NoneOfThese", null, "Front office"), Line("l4", "Unsure", null, "Sort by hand"));
        using (var saved = await office.Http.PutAsJsonAsync($"/api/workflows/{id}/sheet", new { sheet, number = (int)view["number"]!, revision = (int)view["revision"]! }))
        {
            saved.StatusCode.ShouldBe(HttpStatusCode.OK, await saved.Content.ReadAsStringAsync());
        }

        using var live = await office.Http.PostAsync($"/api/workflows/{id}/live", null);
        live.StatusCode.ShouldBe(HttpStatusCode.OK, await live.Content.ReadAsStringAsync());
        return (id, address);
    }

    private async Task<(JsonNode Message, long Id)> MailAsync(string text, string to)
    {
        var subject = $"About {Guid.NewGuid():N}";
        await office.SendAsync(Office.Mail(subject, text, to: to), to);
        var view = await office.PlannedAsync(subject);
        return (view, (long)view["row"]!["id"]!);
    }

    private static JsonNode VerdictOf(JsonNode message, long workflow) => message["verdicts"]!.AsArray().First(v => (long)v!["workflowId"]! == workflow)!;

    private Task<long> ItemsAsync(long message, string queue) =>
        office.CountAsync($"SELECT count(*) FROM items i JOIN queues q ON q.id = i.queue_id WHERE i.message_id = {message} AND q.name = '{queue}' AND i.state <> 'Done'");

    [Fact]
    public async Task A_sorter_starts_with_descriptions_learns_from_labels_and_goes_into_use_only_by_a_person()
    {
        var id = await SorterAsync(Settings(("berth", "Asks for a place to moor a yacht overnight."), ("fuel", "Wants diesel or petrol delivered.")));
        var berths = await BringInAsync("berth", Berth, 12);
        var fuels = await BringInAsync("fuel", Fuel, 12);
        var cold = await TrainedAsync(id, 0);
        cold["evaluation"]!["examples"]!.GetValue<int>().ShouldBe(0);
        cold["advice"]!.AsArray().ShouldNotBeEmpty();
        var next = await office.GetAsync($"/api/sorters/{id}/next?count=4");
        next.AsArray().Count.ShouldBe(4);
        var first = next[0]!;
        first["sureties"]!.AsArray().Select(s => (string?)s!["categoryId"]).ShouldBe(["berth", "fuel"]);
        (await office.GetAsync($"/api/sorters/{id}/next?count=1&passed={first["message"]!["id"]}"))[0]!["message"]!["id"]!.GetValue<long>().ShouldNotBe((long)first["message"]!["id"]!);

        await LabelAsync(id, berths, "berth");
        await LabelAsync(id, fuels, "fuel");
        var trained = await TrainedAsync(id, 24);
        ((double)trained["evaluation"]!["accuracy"]!["value"]!).ShouldBeGreaterThan(0.9);
        trained["evaluation"]!["learning"]!.AsArray().ShouldNotBeEmpty();
        ((int)trained["labelsToday"]!).ShouldBe(24);
        (await office.GetAsync("/api/sorters")).AsArray().Single(s => (long)s!["id"]! == id)!["inUse"].ShouldBeNull("training puts nothing into use");

        var page = await office.GetAsync($"/api/sorters/{id}/examples?is=berth&said=berth");
        var count = (int)page["total"]!;
        count.ShouldBeGreaterThan(9);
        var cell = trained["evaluation"]!["confusion"]!.AsArray().First(c => (string?)c!["is"] == "berth" && (string?)c["said"] == "berth")!;
        ((int)cell["count"]! + (int)cell["unsure"]!).ShouldBe(count, "a number opens as many messages as it says");

        await UseAsync(id, 1);
        (await office.GetAsync($"/api/sorters/{id}"))["state"]!.GetValue<string>().ShouldBe("InUse");
        var reasons = await office.GetAsync($"/api/sorters/{id}/reasons/{berths[0]}");
        reasons["explanation"]!["decision"]!["categoryId"]!.GetValue<string>().ShouldBe("berth");
        reasons["nearest"]!.AsArray().Count.ShouldBe(5);

        // The next change begins number 2; number 1 stays in use and can come back.
        await Task.WhenAll(berths.Take(6).Select(m => LabelAsync(id, [m], "berth")));
        await LabelAsync(id, [berths[0]], "fuel");
        var second = await TrainedAsync(id, 24);
        ((int)second["number"]!).ShouldBe(2);
        second["comparison"]!["compared"]!.GetValue<int>().ShouldBe(24);
        await UseAsync(id, 2);
        await UseAsync(id, 1);
        (await office.GetAsync($"/api/sorters/{id}"))["numbers"]!.AsArray().Single(n => (string)n!["state"]! == "InUse")!["number"]!.GetValue<int>().ShouldBe(1);
        (await office.CountAsync($"SELECT count(*) FROM audit_log WHERE what LIKE 'Put number % into use'")).ShouldBeGreaterThanOrEqualTo(3);
    }

    [Fact]
    public async Task Live_mail_is_sorted_unsure_mail_waits_and_a_choice_made_there_teaches_and_carries_on()
    {
        var (sorter, _) = await InUseAsync();
        var (workflow, address) = await WorkflowAsync(sorter);
        var (sure, sureId) = await MailAsync("berth mooring overnight pontoon yacht", address);
        VerdictOf(sure, workflow)["categoryId"]!.GetValue<string>().ShouldBe("berth");
        (await ItemsAsync(sureId, "Berthing desk")).ShouldBe(1);
        VerdictOf(sure, workflow)["reasons"]!.AsArray().ShouldContain(r => ((string)r!["text"]!).StartsWith("sorted as “berth”, surety", StringComparison.Ordinal) && r["evidence"]!.AsArray().Count > 0);

        var (unsure, unsureId) = await MailAsync("qqqq wwww rrrr", address);
        VerdictOf(unsure, workflow)["sorter"]!["unsure"]!.GetValue<bool>().ShouldBeTrue();
        (await ItemsAsync(unsureId, "Sort by hand")).ShouldBe(1);
        var sorting = (await office.GetAsync($"/api/messages/{unsureId}/sorting"))[0]!;
        ((bool)sorting["unsure"]!, (bool)sorting["labelled"]!).ShouldBe((true, false));

        var item = await office.CountAsync($"SELECT id FROM items WHERE message_id = {unsureId}");
        await office.PostAsync($"/api/messages/{unsureId}/sorting/{sorter}", new { categoryId = "fuel", carryOut = true, itemId = item });
        await Office.EventuallyAsync(async () => await ItemsAsync(unsureId, "Fuel dock") == 1);
        (await ItemsAsync(unsureId, "Sort by hand")).ShouldBe(0);
        (await office.CountAsync($"SELECT count(*) FROM sorter_labels WHERE sorter_id = {sorter} AND message_id = {unsureId} AND category_id = 'fuel' AND source = 'SortedByHand'")).ShouldBe(1);
        (await office.CountAsync($"SELECT count(*) FROM deeds WHERE message_id = {unsureId}")).ShouldBe(2, "what was done is not done again");
        await TrainedAsync(sorter, 37);

        // A correction of what was decided counts over time.
        await office.PostAsync($"/api/messages/{sureId}/sorting/{sorter}", new { categoryId = (string?)null, carryOut = true, itemId = (long?)null });
        await Office.EventuallyAsync(async () => await ItemsAsync(sureId, "Front office") == 1);
        var time = await office.GetAsync($"/api/sorters/{sorter}/over-time");
        time["weeks"]!.AsArray().Where(w => (string?)w!["categoryId"] == "berth").Sum(w => (int)w!["decided"]!).ShouldBe(1);
        time["weeks"]!.AsArray().Sum(w => (int)w!["corrected"]!).ShouldBe(1, "what the sorter had said is kept beside the correction");
        (await office.CountAsync($"SELECT count(*) FROM sorter_labels WHERE sorter_id = {sorter} AND source = 'NotRight'")).ShouldBe(1);
    }

    [Fact]
    public async Task A_number_in_hand_is_rehearsed_against_the_one_in_use()
    {
        var (sorter, berths) = await InUseAsync();
        var (workflow, address) = await WorkflowAsync(sorter);
        await MailAsync("berth mooring overnight pontoon yacht", address);
        await LabelAsync(sorter, berths, "fuel");
        await TrainedAsync(sorter, 36);
        var same = await office.PostAsync($"/api/workflows/{workflow}/rehearsal?days=30", new { });
        ((int)same!["summary"]!["changes"]!).ShouldBe(0);
        var changed = await office.PostAsync($"/api/workflows/{workflow}/rehearsal?days=30&sorterInHand=true", new { });
        ((int)changed!["summary"]!["changes"]!).ShouldBe(1);
        var row = (await office.GetAsync($"/api/rehearsals/{changed["id"]}/messages?view=Changes"))["messages"]!.AsArray().Single()!;
        row["categoryId"]!.GetValue<string>().ShouldBe("fuel");
        using var removed = await office.Http.DeleteAsync($"/api/sorters/{sorter}");
        removed.StatusCode.ShouldBe(HttpStatusCode.Conflict);
        (await removed.Content.ReadAsStringAsync()).ShouldContain("asks this sorter");
    }

    [Fact]
    public async Task Labels_come_from_queues_and_uploads_as_well()
    {
        var id = await SorterAsync(Settings(("berth", ""), ("fuel", "")));
        var (_, message) = await MailAsync("Something for the harbour", "harbour@saltmarrow.example");
        var queue = await office.CountAsync($"SELECT queue_id FROM items WHERE message_id = {message} LIMIT 1");
        var preview = await office.PostAsync($"/api/sorters/{id}/gather", new { from = "Queue", id = queue, categoryId = "berth", most = 1_000, write = false });
        (await office.CountAsync($"SELECT count(*) FROM sorter_labels WHERE sorter_id = {id}")).ShouldBe(0, "a preview writes nothing");
        var written = await office.PostAsync($"/api/sorters/{id}/gather", new { from = "Queue", id = queue, categoryId = "berth", most = 1_000, write = true });
        ((int)written!).ShouldBe((int)preview!);
        (await office.CountAsync($"SELECT count(*) FROM sorter_labels WHERE sorter_id = {id} AND source = 'PastRouting'")).ShouldBe((int)written!);
        ((int)(await office.PostAsync($"/api/sorters/{id}/gather", new { from = "Queue", id = queue, categoryId = "fuel", most = 1_000, write = true }))!).ShouldBe(0, "messages keep the label they have");

        var mailbox = await office.CountAsync("SELECT id FROM mailboxes ORDER BY id LIMIT 1");
        var mail = Encoding.ASCII.GetBytes($"From: a@b.example\r\nTo: c@d.example\r\nSubject: Brought in\r\nMessage-ID: <{Guid.NewGuid():N}@b.example>\r\n\r\ndiesel\r\n");
        string Meta(string key, string value) => $"{key} {Convert.ToBase64String(Encoding.UTF8.GetBytes(value))}";
        using var create = new HttpRequestMessage(HttpMethod.Post, "/api/uploads");
        create.Headers.Add("Tus-Resumable", "1.0.0");
        create.Headers.Add("Upload-Length", $"{mail.Length}");
        create.Headers.Add("Upload-Metadata", string.Join(',', Meta("filename", "fuel.eml"), Meta("mailboxId", $"{mailbox}"), Meta("carryOut", "false"), Meta("sorterId", $"{id}"), Meta("categoryId", "fuel")));
        using var begun = await office.Http.SendAsync(create);
        begun.StatusCode.ShouldBe(HttpStatusCode.Created);
        (await office.AppendAsync(begun.Headers.Location!.ToString().Split('/')[^1], 0, mail)).EnsureSuccessStatusCode();
        await Office.EventuallyAsync(async () => await office.CountAsync($"SELECT count(*) FROM sorter_labels WHERE sorter_id = {id} AND source = 'Folder' AND category_id = 'fuel'") == 1);
        await TrainedAsync(id, (int)written! + 1);
    }

    [Fact]
    public async Task What_cannot_be_is_refused_and_says_what_was_kept()
    {
        var id = await SorterAsync(Settings(("berth", ""), ("fuel", "")));
        var view = await office.GetAsync($"/api/sorters/{id}");
        async Task RefusedAsync(Task<HttpResponseMessage> answer, string says)
        {
            using var response = await answer;
            response.StatusCode.ShouldBe(HttpStatusCode.Conflict);
            (await response.Content.ReadAsStringAsync()).ShouldContain(says);
        }

        await RefusedAsync(office.Http.PutAsJsonAsync($"/api/sorters/{id}/settings", new { settings = Settings(("a", ""), ("a", "")), number = 1, revision = (int)view["revision"]! }), "Nothing was changed");
        await RefusedAsync(office.Http.PutAsJsonAsync($"/api/sorters/{id}/settings", new { settings = Settings(("a", "")), number = 1, revision = 0 }), "Somebody else changed this sorter");
        await RefusedAsync(office.Http.PutAsJsonAsync($"/api/sorters/{id}/labels", new { messageId = 1, categoryId = "gone" }), "category is gone");
        await RefusedAsync(office.Http.PutAsJsonAsync($"/api/sorters/{id}/labels", new { messageId = -1, categoryId = "berth" }), "message is gone");
        await RefusedAsync(office.Http.PostAsync($"/api/sorters/{id}/use?number=9", null), "no number 9");
        await RefusedAsync(office.Http.PostAsync($"/api/sorters/{id}/discard", null), "no other number");
        await RefusedAsync(office.Http.PostAsJsonAsync("/api/sorters", new { name = " " }), "needs a name");
        await RefusedAsync(office.Http.GetAsync("/api/sorters/999999"), "gone");

        // A category that goes takes its examples with it.
        var messages = await BringInAsync("berth", Berth, 3);
        await LabelAsync(id, messages, "berth");
        await SaveAsync(id, Settings(("fuel", "Wants diesel.")));
        (await office.CountAsync($"SELECT count(*) FROM sorter_labels WHERE sorter_id = {id}")).ShouldBe(0);
        (await office.Http.DeleteAsync($"/api/sorters/{id}")).EnsureSuccessStatusCode();
        (await office.CountAsync($"SELECT count(*) FROM sorter_numbers WHERE sorter_id = {id}")).ShouldBe(0);
    }
}
