using System.Collections.Immutable;
using CsCheck;
using PostTide.Core.Matching;
using PostTide.Core.Sorting;
using PostTide.Core.Workflows;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Workflows;

public sealed class TableAnalysisTests
{
    private static readonly Category Large = new() { Id = "k1", Name = "Large", When = new ConditionSet { All = [Made.Text("k1c", MessagePart.Subject, MatchTest.Contains, "large")] } };
    private static readonly Category Small = new() { Id = "k2", Name = "Small", When = new ConditionSet { All = [Made.Text("k2c", MessagePart.Subject, MatchTest.Contains, "small")] } };

    private static Line Line(string id, Category? category = null, params Condition[] all) => Made.Line(id) with
    {
        Case = category is null ? LineCase.Any : LineCase.Category,
        CategoryId = category?.Id,
        AndWhen = new ConditionSet { All = [.. all] },
    };

    private static Line None(string id) => Made.Line(id) with { Case = LineCase.NoneOfThese };

    private static Condition Subject(string value, MatchTest test = MatchTest.Contains) => Made.Text("s" + value, MessagePart.Subject, test, value);

    private static TableFinding[] Find(Sheet sheet) => [.. TableAnalysis.Of(sheet, Made.Context.SavedConditions)];

    private static TableFinding[] Find(params Line[] lines) => Find(Made.Sheet(lines) with { Categories = [Large, Small] });

    [Fact]
    public void A_line_behind_one_for_anything_is_never_reached() =>
        Find(Line("l1"), Line("l2", Large)).ShouldHaveSingleItem().ShouldSatisfyAllConditions(
            f => f.Kind.ShouldBe(FindingKind.NeverReached), f => f.At.ShouldBe("l2"), f => f.InTheWay.ShouldBe(["l1"]), f => f.Text.ShouldContain("line 1"));

    [Fact]
    public void A_narrower_line_behind_a_wider_one_is_never_reached() =>
        Find(Line("l1", Large, Subject("ber")), Line("l2", Large, Subject("berth"), Subject("tern")), Line("l3"))
            .ShouldHaveSingleItem().At.ShouldBe("l2");

    [Fact]
    public void The_other_way_round_and_with_every_line_nothing_is_in_the_way()
    {
        Find(Line("l1", Large, Subject("berth")), Line("l2", Large, Subject("ber")), Line("l3")).ShouldBeEmpty();
        Find(Made.Sheet(Line("l1"), Line("l2", Large)) with { Categories = [Large], EveryLine = true }).ShouldBeEmpty();
        Find(Line("l1") with { Off = true }, Line("l2", Large), Line("l3")).ShouldBeEmpty();
    }

    [Fact]
    public void Lines_for_every_category_are_together_in_the_way_of_one_for_anything() =>
        Find(Line("l1", Large), Line("l2", Small), None("l3"), Line("l4")).ShouldHaveSingleItem().InTheWay.ShouldBe(["l1", "l2", "l3"]);

    [Fact]
    public void Conditions_that_exclude_each_other_are_found()
    {
        Condition size = new() { Id = "a", Part = MessagePart.Size, Test = MatchTest.Between, Least = 100 };
        Find(Line("l1", null, size, size with { Id = "b", Least = null, Most = 50 }), Line("l2")).ShouldHaveSingleItem().Kind.ShouldBe(FindingKind.Impossible);
        Find(Line("l1", Large, Made.Text("c", MessagePart.Category, MatchTest.OneOf, "k2")), Line("l2")).ShouldHaveSingleItem().Kind.ShouldBe(FindingKind.Impossible);
        var contradiction = Line("l1", null, Subject("berth")) with { AndWhen = new ConditionSet { All = [Subject("berth")], None = [Subject("ber")] } };
        Find(contradiction, Line("l2")).ShouldHaveSingleItem().Kind.ShouldBe(FindingKind.Impossible);
    }

    [Fact]
    public void A_category_that_an_earlier_one_always_takes_first_is_found() =>
        Find(Made.Sheet(Line("l1")) with { Categories = [Large, Small with { When = new ConditionSet { All = [Subject("very large")] } }] })
            .ShouldHaveSingleItem().ShouldSatisfyAllConditions(f => f.Kind.ShouldBe(FindingKind.NeverSorted), f => f.InTheWay.ShouldBe(["k1"]));

    [Fact]
    public void Categories_without_a_line_that_always_fits_are_named() =>
        Find(Line("l1", Large), Line("l2", Small, Subject("x"))).Select(f => (f.Kind, f.At)).ShouldBe([(FindingKind.FallsThrough, "k2"), (FindingKind.FallsThrough, "")]);

    private static readonly Gen<Line> Lines = Gen.Select(Gen.Int[0, 3], Gen.String[Gen.Char["ab"], 1, 2].Array[0, 2], Gen.Bool, Gen.Bool).Select((kind, words, none, off) =>
        Made.Line() with
        {
            Case = kind == 0 ? LineCase.Any : kind == 1 ? LineCase.NoneOfThese : LineCase.Category,
            CategoryId = kind == 2 ? "k1" : kind == 3 ? "k2" : null,
            Off = off && kind == 1,
            AndWhen = none ? new ConditionSet { None = [.. words.Select(w => Subject(w))] } : new ConditionSet { All = [.. words.Select(w => Subject(w))] },
        });

    [Fact]
    public void A_line_said_never_to_fit_is_carried_out_for_no_message() =>
        Gen.Select(Lines.Array[1, 5], Gen.String[Gen.Char["ab "], 0, 8], Gen.Bool).Sample((lines, subject, large) =>
        {
            var sheet = Made.Sheet([.. lines.Select((l, i) => l with { Id = $"l{i}" })]) with
            {
                TakesIn = ConditionSet.Empty,
                Categories = [Large with { When = new ConditionSet { All = [Subject("a")] } }, Small with { When = new ConditionSet { All = [Subject("b")] } }],
            };
            var verdict = Made.Decide(Made.Message(subject.Trim() + (large ? "ab" : ""), "x\n"), sheet);
            Find(sheet).Where(f => f.Kind is FindingKind.NeverReached or FindingKind.Impossible).ShouldAllBe(f => f.At != verdict.LineId);
            if (verdict.LineId is null)
            {
                Find(sheet).ShouldContain(f => f.Kind == FindingKind.FallsThrough && f.At == (verdict.CategoryId ?? ""));
            }
        }, iter: 5_000);

    [Fact]
    public void Two_workflows_that_take_the_same_message_are_on_the_map_in_their_order()
    {
        var replying = Made.Sheet(Made.Line() with { Replies = [new ReplySpec(1, ReplyMode.Check)] });
        ImmutableArray<Edition> editions = [Made.Edition(replying), Made.Edition(replying with { Limits = new Limits { SkipLaterWorkflows = false } }, 2, "Second"), Made.Edition(Made.Sheet(Made.Line()) with { TakesIn = new ConditionSet { All = [Subject("crane")] } }, 3, "Cranes")];
        var map = OverlapMap.Of([Made.Message(), Made.Message("Crane at the berth") with { Id = 8 }, Made.Message("Noise", "x\n") with { Id = 9 }], editions, Made.Context);
        map.Taken.OrderBy(t => t.Key).Select(t => t.Value).ShouldBe([2, 2, 1]);
        map.Pairs.Select(p => (p.First, p.Second, p.Both.Length, p.Answered.Length, p.Skipped)).ShouldBe([(1, 2, 2, 2, true), (1, 3, 1, 0, true), (2, 3, 1, 0, false)]);
    }
}
