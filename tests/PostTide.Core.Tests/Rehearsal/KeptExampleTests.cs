using PostTide.Core.Matching;
using PostTide.Core.Rehearsal;
using PostTide.Core.Sorting;
using PostTide.Core.Workflows;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Rehearsal;

public sealed class KeptExampleTests
{
    private static readonly Sheet Sheet = Made.Sheet(Made.Line()) with
    {
        Categories = [new Category { Id = "k1", Name = "Visitor", When = new ConditionSet { All = [Made.Text("k", MessagePart.Subject, MatchTest.Contains, "tern")] } }],
    };

    private static CheckedExample Check(Sheet sheet, Expectation expected, string subject = "Berth for Tern") =>
        KeptExamples.Check(Made.Edition(sheet), [new KeptExample(Made.Message(subject, "x\n"), expected)], Made.Context).ShouldHaveSingleItem();

    [Fact]
    public void What_an_edition_came_to_holds_for_that_edition()
    {
        var verdict = Made.Decide(Made.Message("Berth for Tern", "x\n"), Sheet);
        var expected = Expectation.Of(verdict, Sheet);
        expected.ShouldBe(new Expectation(true, "Visitor", expected.Deeds));
        Check(Sheet, expected).Fails.ShouldBeFalse();
        Check(Sheet, Expectation.Of(Made.Decide(Made.Message("Crane", "x\n"), Sheet), Sheet), "Crane").Fails.ShouldBeFalse();
    }

    [Fact]
    public void Another_outcome_category_or_deed_fails_and_says_how()
    {
        var expected = Expectation.Of(Made.Decide(Made.Message("Berth for Tern", "x\n"), Sheet), Sheet);
        Check(Sheet with { TakesIn = new ConditionSet { All = [Made.Text("n", MessagePart.Subject, MatchTest.Is, "nothing")] } }, expected)
            .Differences.ShouldBe([new Difference("outcome", "taken in", "left alone")]);
        Check(Sheet with { Categories = [] }, expected with { Deeds = null }).Differences.ShouldBe([new Difference("category", "Visitor", "none of these")]);
        Check(Sheet with { Lines = [Made.Line() with { Queues = [new PlaceSpec(2, null)] }] }, expected)
            .Differences.ShouldBe([new Difference("deeds", "place in Berthing desk", "place in Large berths")]);
    }

    [Fact]
    public void What_is_not_said_does_not_matter() =>
        Check(Sheet with { Categories = [], Lines = [] }, new Expectation(true)).Fails.ShouldBeFalse();
}
