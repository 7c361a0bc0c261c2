using System.Net;
using System.Net.Http.Json;
using System.Text.Json.Nodes;
using Shouldly;
using Xunit;

namespace PostTide.System.Tests;

/// <summary>Editions and rehearsals over HTTP.</summary>
[Collection(nameof(SharedOffice))]
public sealed class WorkflowTests(Office office)
{
    private async Task<JsonNode> PutSheetAsync(JsonNode view, JsonNode sheet, HttpStatusCode expected = HttpStatusCode.OK)
    {
        using var answer = await office.Http.PutAsJsonAsync(
            $"/api/workflows/{view["id"]}/sheet", new { sheet, number = view["number"]!.GetValue<int>(), revision = view["revision"]!.GetValue<int>() });
        answer.StatusCode.ShouldBe(expected, await answer.Content.ReadAsStringAsync());
        return JsonNode.Parse(await answer.Content.ReadAsStringAsync())!;
    }

    private async Task<JsonNode> BeginAsync()
    {
        var made = await office.PostAsync("/api/workflows", new { name = $"Lamps {Guid.NewGuid():N}" });
        return await office.GetAsync($"/api/workflows/{made!["id"]}");
    }

    private static JsonNode Lamps(JsonNode view, string word)
    {
        var sheet = view["sheet"]!.DeepClone();
        sheet["takesIn"]!["all"] = new JsonArray(JsonNode.Parse($$"""{"id":"c1","part":"Subject","test":"Contains","values":["{{word}}"],"keywordListId":null,"kinds":[]}"""));
        sheet["lines"] = new JsonArray(JsonNode.Parse("""{"id":"l1","case":"Any","categoryId":null,"andWhen":{"all":[],"any":[],"none":[]},"queues":[],"ticket":null,"files":[],"replies":[],"passOns":[]}"""));
        return sheet;
    }

    [Fact]
    public async Task An_edition_in_hand_is_saved_rehearsed_put_live_kept_and_brought_back()
    {
        var view = await BeginAsync();
        view = await PutSheetAsync(view, Lamps(view, "lantern"));
        view["problems"]!.AsArray().ShouldBeEmpty();
        view = (await office.PostAsync($"/api/workflows/{view["id"]}/live"))!;
        view["state"]!.GetValue<string>().ShouldBe("Live");

        view = await PutSheetAsync(view, Lamps(view, "lamp"));
        (view["number"]!.GetValue<int>(), view["state"]!.GetValue<string>()).ShouldBe((2, "InHand"));
        view["changesToLive"]!.AsArray().Count.ShouldBe(1);
        view = (await office.PostAsync($"/api/workflows/{view["id"]}/live"))!;
        view["editions"]!.AsArray().Select(e => e!["state"]!.GetValue<string>()).ShouldBe(["Live", "Past"]);

        view = (await office.PostAsync($"/api/workflows/{view["id"]}/bring-back?number=1"))!;
        view["number"]!.GetValue<int>().ShouldBe(3);
        view["sheet"]!.ToJsonString().ShouldContain("lantern");
    }

    [Fact]
    public async Task A_sheet_with_problems_cannot_go_live()
    {
        var view = await BeginAsync();
        (await Should.ThrowAsync<HttpRequestException>(office.PostAsync($"/api/workflows/{view["id"]}/live"))).Message.ShouldContain("cannot go live yet");
    }

    [Fact]
    public async Task Two_people_do_not_overwrite_each_other()
    {
        var view = await BeginAsync();
        await PutSheetAsync(view, Lamps(view, "first"));
        var refused = await PutSheetAsync(view, Lamps(view, "second"), HttpStatusCode.Conflict);
        refused["title"]!.GetValue<string>().ShouldContain("Somebody else changed this sheet");
    }

    [Fact]
    public async Task A_rehearsal_carries_nothing_out_and_its_counts_open_their_messages()
    {
        await office.SendAsync(Office.Mail("A gimbal lamp", "Berth lamp.\n"));
        await office.PlannedAsync("A gimbal lamp");
        var view = await BeginAsync();
        view = await PutSheetAsync(view, Lamps(view, "gimbal"));
        var before = await office.CountAsync("SELECT count(*) FROM deeds");

        // The berth workflow takes this message in first and skips later ones, so the new one never sees it.
        var rehearsal = (await office.PostAsync($"/api/workflows/{view["id"]}/rehearsal?days=30"))!;
        rehearsal["summary"]!["skipped"]!.GetValue<int>().ShouldBeGreaterThan(0);
        var order = (await office.GetAsync("/api/workflows")).AsArray().Select(w => w!["id"]!.GetValue<long>()).ToList();
        order.Remove(view["id"]!.GetValue<long>());
        using (await office.Http.PutAsJsonAsync("/api/workflows/order", new { ids = order.Prepend(view["id"]!.GetValue<long>()) }))
        {
        }

        rehearsal = (await office.PostAsync($"/api/workflows/{view["id"]}/rehearsal"))!;
        rehearsal["summary"]!["takenIn"]!.GetValue<int>().ShouldBe(1);
        var page = await office.GetAsync($"/api/rehearsals/{rehearsal["id"]}/messages?view=Line&key=l1");
        page["total"]!.GetValue<int>().ShouldBe(1);
        var opened = await office.GetAsync($"/api/rehearsals/{rehearsal["id"]}/messages/{page["messages"]![0]!["messageId"]}");
        opened["inHand"]!["reasons"]![0]!["evidence"]![0]!["text"]!.GetValue<string>().ShouldBe("gimbal");
        (await office.CountAsync("SELECT count(*) FROM deeds")).ShouldBe(before);
    }

    [Fact]
    public async Task A_sheet_that_is_no_sheet_is_refused_with_the_place()
    {
        var view = await BeginAsync();
        var sheet = Lamps(view, "x");
        sheet["takesIn"]!["all"]![0]!["test"] = "Guesses";
        var refused = await PutSheetAsync(view, sheet, HttpStatusCode.BadRequest);
        refused["title"]!.GetValue<string>().ShouldContain("test");
    }
}
