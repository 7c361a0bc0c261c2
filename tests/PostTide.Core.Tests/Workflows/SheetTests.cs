using System.Text.Json;
using PostTide.Core.Matching;
using PostTide.Core.Sorting;
using PostTide.Core.Workflows;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Workflows;

public sealed class SheetTests
{
    [Fact]
    public void A_finished_sheet_has_no_problems() => SheetCheck.Check(Made.Sheet(Made.Line()), Made.Context).ShouldBeEmpty();

    [Fact]
    public void Every_unfinished_thing_is_named_where_it_stands()
    {
        var sheet = new Sheet
        {
            TakesIn = new ConditionSet { All = [Made.Text("c1", MessagePart.Subject, MatchTest.Contains), Made.Words("c2") with { KeywordListId = 9 }] },
            Categories = [new Category { Id = "k1", Name = "" }],
            Lines =
            [
                new Line { Id = "l1", Case = LineCase.Category, CategoryId = "gone", Queues = [new PlaceSpec(9, -1)], Replies = [new ReplySpec(9, ReplyMode.Send)], PassOns = [new PassOnSpec(9)], Files = [new FileSpec("{{ x", [])] },
            ],
        };
        var problems = SheetCheck.Check(sheet, Made.Context);
        problems.Select(p => p.At).Distinct().ShouldBe(["c1", "c2", "k1", "l1"]);
        problems.Count(p => p.At == "l1").ShouldBe(6);
    }

    [Fact]
    public void An_empty_sheet_cannot_go_live() => SheetCheck.Check(Sheet.Empty, Made.Context).Select(p => p.At).ShouldBe(["takes in", "does"]);

    [Fact]
    public void Ids_used_twice_are_a_problem() => SheetCheck.Check(Made.Sheet(Made.Line(), Made.Line()), Made.Context).ShouldHaveSingleItem().At.ShouldBe("sheet");

    [Fact]
    public void Editions_are_compared_in_words()
    {
        var before = Made.Sheet(Made.Line());
        var after = before with
        {
            Addresses = ["berths@saltmarrow.example"],
            Lines = [Made.Line() with { Queues = [new PlaceSpec(2, 60)] }],
            Limits = before.Limits with { OneReplyPerSenderHours = null },
        };
        EditionComparison.Between(before, after, Made.Context).ShouldBe(
        [
            new SheetChange("takes in", null, "mail to berths@saltmarrow.example"),
            new SheetChange("does", "line 1, anything; queue Berthing desk, due in 60 min", "line 1, anything; queue Large berths, due in 60 min"),
            new SheetChange("limits", "one reply per sender in 24 h", "replies without a limit per sender"),
        ]);
        EditionComparison.Between(after, after, Made.Context).ShouldBeEmpty();
    }

    [Fact]
    public void A_sheet_survives_writing_and_reading()
    {
        var sheet = Made.Sheet(Made.Line() with { Replies = [new ReplySpec(1, ReplyMode.Send, 5)], Files = [new FileSpec("A/{{ subject }}", ["pdf"])] });
        var written = JsonSerializer.Serialize(sheet);
        JsonSerializer.Serialize(JsonSerializer.Deserialize<Sheet>(written)).ShouldBe(written);
    }
}
