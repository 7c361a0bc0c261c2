using System.Net;
using System.Net.Http.Json;
using System.Text.Json.Nodes;
using Shouldly;
using Xunit;

namespace PostTide.System.Tests;

/// <summary>What helps whoever builds a workflow, on a running office: marks, kept examples, smallest changes, kinds, overlaps, documents.</summary>
public sealed class WorkflowHelpTests(Office office) : IClassFixture<Office>
{
    private const string Line =
        """{"id":"l1","case":"Any","categoryId":null,"andWhen":{"all":[],"any":[],"none":[]},"queues":[{"queueId":QUEUE,"dueInMinutes":60}],"ticket":null,"files":[],"replies":[],"passOns":[],"inMailbox":null}""";

    private async Task<JsonNode> WorkflowAsync(string name, string word)
    {
        var setup = await office.GetAsync("/api/setup");
        var made = await office.PostAsync("/api/workflows", new { name });

        // First in the order, so that no other workflow takes the mail before it.
        var others = (await office.GetAsync("/api/workflows")).AsArray().Select(w => (long)w!["id"]!).Where(id => id != (long)made!["id"]!);
        (await office.Http.PutAsJsonAsync("/api/workflows/order", new { ids = others.Prepend((long)made!["id"]!) })).EnsureSuccessStatusCode();
        var view = await office.GetAsync($"/api/workflows/{made!["id"]}");
        var sheet = view["sheet"]!.DeepClone();
        sheet["takesIn"]!["all"] = JsonNode.Parse($$"""[{"id":"c1","part":"Subject","test":"Word","values":["{{word}}"]}]""");
        sheet["lines"] = new JsonArray(JsonNode.Parse(Line.Replace("QUEUE", setup["queues"]![0]!["id"]!.ToString(), StringComparison.Ordinal)));
        return await PutSheetAsync((long)made["id"]!, sheet, view);
    }

    private async Task<JsonNode> PutSheetAsync(long id, JsonNode sheet, JsonNode view)
    {
        using var saved = await office.Http.PutAsJsonAsync($"/api/workflows/{id}/sheet", new { sheet, number = (int)view["number"]!, revision = (int)view["revision"]! });
        saved.StatusCode.ShouldBe(HttpStatusCode.OK);
        return JsonNode.Parse(await saved.Content.ReadAsStringAsync())!;
    }

    private async Task<long> MailAsync(string subject, string from, string body = "Words.\r\n")
    {
        var id = $"{Guid.NewGuid():N}@help.example";
        var mail = $"From: {from}\r\nTo: harbour@saltmarrow.example\r\nSubject: {subject}\r\nMessage-ID: <{id}>\r\n\r\n{body}";
        await office.UploadAsync("mail.eml", global::System.Text.Encoding.ASCII.GetBytes(mail), carryOut: false);
        await Office.EventuallyAsync(async () => await office.CountAsync($"SELECT count(*) FROM messages WHERE mail_id = '{id}' AND state = 'Planned'") == 1);
        return await office.CountAsync($"SELECT id FROM messages WHERE mail_id = '{id}'");
    }

    private async Task<JsonNode> RehearseAsync(JsonNode view) => (await office.PostAsync($"/api/workflows/{view["id"]}/rehearsal", new { }))!;

    [Fact]
    public async Task A_marked_message_is_kept_and_asked_about_before_an_edition_that_does_otherwise_goes_live()
    {
        var word = $"w{Guid.NewGuid():N}"[..10];
        var message = await MailAsync($"About {word}", "a@help.example");
        var view = await WorkflowAsync($"Kept {word}", word);
        var id = (long)view["id"]!;
        var rehearsal = await RehearseAsync(view);
        var kept = await office.PostAsync($"/api/workflows/{id}/examples", new { rehearsalId = rehearsal["id"], messageId = message, mark = "AsMeant" });
        ((bool)kept!["expected"]!["takenIn"]!).ShouldBeTrue();
        kept["differences"]!.AsArray().ShouldBeEmpty();

        var sheet = view["sheet"]!.DeepClone();
        sheet["takesIn"]!["all"]![0]!["values"] = new JsonArray("somethingelse");
        view = await PutSheetAsync(id, sheet, view);
        (await office.GetAsync($"/api/workflows/{id}/examples"))[0]!["differences"]!.AsArray().ShouldHaveSingleItem()!["what"]!.GetValue<string>().ShouldBe("outcome");
        using (var refused = await office.Http.PostAsync($"/api/workflows/{id}/live", null))
        {
            refused.StatusCode.ShouldBe(HttpStatusCode.Conflict);
            (await refused.Content.ReadAsStringAsync()).ShouldContain("a kept example fails");
        }

        using (var despite = await office.Http.PostAsync($"/api/workflows/{id}/live?despiteExamples=true", null))
        {
            despite.StatusCode.ShouldBe(HttpStatusCode.OK);
        }

        var again = await RehearseAsync(view);
        var row = (await office.GetAsync($"/api/rehearsals/{again["id"]}/messages?view=LeftAlone"))["messages"]!.AsArray().First(m => (long)m!["messageId"]! == message)!;
        ((bool)row["exampleHolds"]!).ShouldBeFalse();
        (await office.Http.DeleteAsync($"/api/workflows/{id}/examples/{message}")).EnsureSuccessStatusCode();
        (await office.GetAsync($"/api/workflows/{id}/examples")).AsArray().ShouldBeEmpty();
        await office.Http.PutAsync($"/api/workflows/{id}/paused?paused=true", null);
    }

    [Fact]
    public async Task A_message_that_should_have_been_taken_is_by_one_of_the_smallest_changes()
    {
        var word = $"w{Guid.NewGuid():N}"[..10];
        var message = await MailAsync("Quite another matter", $"b@{word}.example");
        var view = await WorkflowAsync($"Changes {word}", word);
        var changes = await office.GetAsync($"/api/workflows/{view["id"]}/smallest-changes?messageId={message}");
        changes.AsArray().ShouldNotBeEmpty();
        var change = changes.AsArray().First(c => c!["listAdditions"]!.AsArray().Count == 0)!;
        view = await PutSheetAsync((long)view["id"]!, change["sheet"]!.DeepClone(), view);
        var rehearsal = await RehearseAsync(view);
        (await office.GetAsync($"/api/rehearsals/{rehearsal["id"]}/messages?view=TakenIn"))["messages"]!.AsArray().ShouldContain(m => (long)m!["messageId"]! == message);
        ((int)rehearsal["summary"]!["takenIn"]!).ShouldBe((int)change["also"]! + 1);
    }

    [Fact]
    public async Task The_kind_of_a_message_is_found_with_its_figures()
    {
        var domain = $"d{Guid.NewGuid():N}"[..10] + ".example";
        long[] chosen = [await MailAsync("Weekly figures", $"a@{domain}"), await MailAsync("Weekly figures", $"a@{domain}")];
        var kinds = (await office.PostAsync("/api/workflows/kind", new { messageIds = chosen, days = (int?)null }))!.AsArray();
        var sender = kinds.First(k => k!["text"]!.GetValue<string>().Contains(domain, StringComparison.Ordinal))!;
        ((double)sender["precision"]!).ShouldBe(1);
        ((double)sender["recall"]!).ShouldBe(1);
        using var none = await office.Http.PostAsJsonAsync("/api/workflows/kind", new { messageIds = Array.Empty<long>(), days = (int?)null });
        none.StatusCode.ShouldBe(HttpStatusCode.Conflict);
    }

    [Fact]
    public async Task Two_live_workflows_that_take_the_same_mail_are_on_the_map()
    {
        var word = $"w{Guid.NewGuid():N}"[..10];
        var message = await MailAsync($"Both {word}", "c@help.example");
        var second = await WorkflowAsync($"Second {word}", word);
        var views = new[] { await WorkflowAsync($"First {word}", word), second };
        foreach (var view in views)
        {
            (await office.Http.PostAsync($"/api/workflows/{view["id"]}/live", null)).EnsureSuccessStatusCode();
        }

        var map = await office.GetAsync("/api/workflows/overlaps?days=90");
        var pair = map["pairs"]!.AsArray().First(p => (long)p!["first"]! == (long)views[0]["id"]! && (long)p["second"]! == (long)views[1]["id"]!)!;
        ((int)pair["both"]!).ShouldBe(1);
        ((bool)pair["skipped"]!).ShouldBeTrue();
        pair["messages"]![0]!["id"]!.GetValue<long>().ShouldBe(message);
        foreach (var view in views)
        {
            await office.Http.PutAsync($"/api/workflows/{view["id"]}/paused?paused=true", null);
        }
    }

    [Fact]
    public async Task A_workflow_taken_out_and_brought_in_again_is_the_same()
    {
        var word = $"w{Guid.NewGuid():N}"[..10];
        var view = await WorkflowAsync($"Out {word}", word);
        var yaml = await office.Http.GetStringAsync($"/api/workflows/{view["id"]}/file");
        var preview = (await office.PostAsync("/api/workflows/import/preview", new { yaml, replace = false }))!;
        preview["problems"]!.AsArray().ShouldBeEmpty();
        preview["changes"]!.AsArray().ShouldBeEmpty();
        ((long)preview["workflowId"]!).ShouldBe((long)view["id"]!);

        var renamed = yaml.Replace($"Out {word}", $"In {word}", StringComparison.Ordinal) + "keywordLists:\n- name: New words " + word + "\n  words: [berth, 'no', 12]\n";
        preview = (await office.PostAsync("/api/workflows/import/preview", new { yaml = renamed, replace = false }))!;
        preview["workflowId"].ShouldBeNull();
        preview["new"]![0]!.GetValue<string>().ShouldContain(word);
        var made = (await office.PostAsync("/api/workflows/import", new { yaml = renamed, replace = false }))!;
        (await office.GetAsync($"/api/workflows/{made["id"]}"))["sheet"]!.ToJsonString().ShouldBe(view["sheet"]!.ToJsonString());
        (await office.GetAsync("/api/setup"))["keywordLists"]!.AsArray().First(l => l!["name"]!.GetValue<string>().Contains(word, StringComparison.Ordinal))!["words"]!.AsArray()
            .Select(w => w!.GetValue<string>()).ShouldBe(["berth", "no", "12"]);

        using var broken = await office.Http.PostAsJsonAsync("/api/workflows/import", new { yaml = "name: x\ndoes:\n  - category: Gone\n", replace = false });
        broken.StatusCode.ShouldBe(HttpStatusCode.Conflict);
        (await broken.Content.ReadAsStringAsync()).ShouldContain("Nothing was brought in: line 3");
    }

    [Fact]
    public async Task Saved_conditions_desk_hours_and_list_options_are_set_up_and_used()
    {
        var word = string.Concat(Guid.NewGuid().ToByteArray().Take(10).Select(b => (char)('a' + (b % 26))));
        using (var hours = await office.Http.PutAsJsonAsync("/api/setup/desk-hours", new { zone = "Europe/London", from = "08:30", until = "17:00", days = new[] { 1, 2, 3, 4, 5 } }))
        {
            hours.EnsureSuccessStatusCode();
        }

        using (var wrong = await office.Http.PutAsJsonAsync("/api/setup/desk-hours", new { zone = "Nowhere/Else", from = "08:30", until = "17:00", days = new[] { 1 } }))
        {
            wrong.StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        }

        (await office.Http.PutAsJsonAsync("/api/setup/keyword-lists/0", new { id = 0, name = word, description = "", words = new[] { word }, options = new { wholeWords = true, sameCase = false, sameAccents = true, endings = true } }))
            .EnsureSuccessStatusCode();
        var list = (await office.GetAsync("/api/setup"))["keywordLists"]!.AsArray().First(l => l!["name"]!.GetValue<string>() == word)!;
        var set = JsonNode.Parse($$"""{"all":[{"id":"s1","part":"Subject","test":"HasAnyWordIn","keywordListId":{{list["id"]}}}],"any":[],"none":[]}""");
        (await office.Http.PutAsJsonAsync("/api/setup/saved-conditions/0", new { id = 0, name = "S" + word, description = "", set })).EnsureSuccessStatusCode();
        using (var used = await office.Http.DeleteAsync($"/api/setup/keyword-lists/{list["id"]}"))
        {
            used.StatusCode.ShouldBe(HttpStatusCode.Conflict);
        }

        var message = await MailAsync($"Many {word}s", "d@help.example");
        var saved = (await office.GetAsync("/api/setup"))["savedConditions"]!.AsArray().First(c => c!["name"]!.GetValue<string>() == "S" + word)!;
        var view = await WorkflowAsync($"Saved {word}", "nothing");
        var sheet = view["sheet"]!.DeepClone();
        sheet["takesIn"]!["all"] = JsonNode.Parse($$"""[{"id":"c1","part":"Saved","test":"Present","savedId":{{saved["id"]}}}]""");
        view = await PutSheetAsync((long)view["id"]!, sheet, view);
        var rehearsal = await RehearseAsync(view);
        (await office.GetAsync($"/api/rehearsals/{rehearsal["id"]}/messages?view=TakenIn"))["messages"]!.AsArray().ShouldHaveSingleItem()!["messageId"]!.GetValue<long>().ShouldBe(message);
        using var kept = await office.Http.DeleteAsync($"/api/setup/saved-conditions/{saved["id"]}");
        kept.StatusCode.ShouldBe(HttpStatusCode.Conflict);
    }

    [Fact]
    public async Task A_Sieve_script_becomes_a_workflow_and_a_workflow_a_script()
    {
        var word = $"w{Guid.NewGuid():N}"[..10];
        var read = (await office.PostAsync("/api/workflows/import/sieve", new { script = $"require \"fileinto\";\nif header :contains \"subject\" \"{word}\" {{\n  fileinto \"Done\";\n  redirect \"a@b.example\";\n}}\n", name = word }))!;
        read["notes"]!.AsArray().ShouldHaveSingleItem()!["line"]!.GetValue<int>().ShouldBe(4);
        var made = (await office.PostAsync("/api/workflows/import", new { yaml = (string)read["yaml"]!, replace = false }))!;
        var export = await office.GetAsync($"/api/workflows/{made["id"]}/sieve");
        ((string)export["script"]!).ShouldContain($"header :contains \"Subject\" \"{word}\"");
        var broken = (await office.PostAsync("/api/workflows/import/sieve", new { script = "if true {", name = word }))!;
        broken["yaml"].ShouldBeNull();
        broken["notes"]![0]!["text"]!.GetValue<string>().ShouldBe("The script ends too early.");
    }
}
