using PostTide.Core.Matching;
using PostTide.Core.Sorting;
using PostTide.Core.Workflows;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Workflows;

public sealed class PlannerTests
{
    [Fact]
    public void A_message_that_fits_is_taken_in_with_reasons_on_its_words()
    {
        var verdict = Made.Decide(Made.Message(), Made.Sheet(Made.Line()) with { Addresses = ["berths@saltmarrow.example"] });
        verdict.Outcome.ShouldBe(Outcome.TakenIn);
        verdict.Reasons.Select(r => r.Text).ShouldBe(
            ["it was written to berths@saltmarrow.example", "subject or body has any word in “Berthing words”", "line 1 fits"]);
        verdict.Reasons[1].Evidence.Select(e => (e.Place, e.Text)).ShouldBe([(EvidencePlace.Subject, "Berth"), (EvidencePlace.Body, "berth")]);
        verdict.Deeds.ShouldHaveSingleItem().Says.ShouldBe("place in Berthing desk");
    }

    [Fact]
    public void The_address_it_was_originally_written_to_decides_over_To()
    {
        var message = Made.Message() with { OriginallyTo = ["fuel@saltmarrow.example"] };
        Made.Decide(message, Made.Sheet(Made.Line()) with { Addresses = ["berths@saltmarrow.example"] }).Outcome.ShouldBe(Outcome.LeftAlone);
        Made.Decide(message, Made.Sheet(Made.Line()) with { Addresses = ["fuel@saltmarrow.example"] }).Outcome.ShouldBe(Outcome.TakenIn);
    }

    [Fact]
    public void To_decides_when_nothing_better_is_known() =>
        Made.Decide(Made.Message() with { OriginallyTo = [] }, Made.Sheet(Made.Line()) with { Addresses = ["berths@saltmarrow.example"] }).Outcome.ShouldBe(Outcome.TakenIn);

    [Fact]
    public void A_message_without_the_words_says_which_condition_failed()
    {
        var verdict = Made.Decide(Made.Message("Hello", "Nothing.\n"), Made.Sheet(Made.Line()));
        verdict.Outcome.ShouldBe(Outcome.LeftAlone);
        verdict.NearMiss.ShouldBeFalse();
        verdict.Reasons.ShouldHaveSingleItem().Text.ShouldBe("not so: subject or body has any word in “Berthing words”");
    }

    [Fact]
    public void One_failure_beside_something_that_held_is_a_near_miss()
    {
        var sheet = Made.Sheet(Made.Line());
        sheet = sheet with { TakesIn = sheet.TakesIn with { None = [Made.Text("n", MessagePart.Subject, MatchTest.Contains, "tern")] } };
        var verdict = Made.Decide(Made.Message(), sheet);
        verdict.NearMiss.ShouldBeTrue();
        verdict.Reasons.ShouldHaveSingleItem().Evidence.ShouldHaveSingleItem().Text.ShouldBe("Tern");
    }

    [Fact]
    public void Only_the_wrong_address_is_a_near_miss_too() =>
        Made.Decide(Made.Message(), Made.Sheet(Made.Line()) with { Addresses = ["fuel@saltmarrow.example"] }).NearMiss.ShouldBeTrue();

    [Fact]
    public void The_first_category_that_holds_and_the_first_line_that_fits_are_the_ones()
    {
        var large = new Category { Id = "k1", Name = "Large", When = new ConditionSet { Any = [Made.Text("x", MessagePart.Body, MatchTest.Contains, "LOA")] } };
        var small = new Category { Id = "k2", Name = "Small", When = new ConditionSet { Any = [Made.Words("y")] } };
        var sheet = Made.Sheet(
            Made.Line("l1") with { Case = LineCase.Category, CategoryId = "k1", Queues = [new PlaceSpec(2, null)] },
            Made.Line("l2") with { Case = LineCase.Category, CategoryId = "k2" },
            Made.Line("l3")) with
        { Categories = [large, small] };
        Made.Decide(Made.Message(body: "A berth, LOA 40 m\n"), sheet).LineId.ShouldBe("l1");
        Made.Decide(Made.Message(), sheet).LineId.ShouldBe("l2");
        Made.Decide(Made.Message(), sheet with { Categories = [] }).LineId.ShouldBe("l3");
    }

    [Fact]
    public void None_of_these_has_a_line_of_its_own()
    {
        var never = new Category { Id = "k1", Name = "Never", When = new ConditionSet { Any = [Made.Text("x", MessagePart.Body, MatchTest.Contains, "never")] } };
        var sheet = Made.Sheet(Made.Line() with { Case = LineCase.NoneOfThese }) with { Categories = [never] };
        var verdict = Made.Decide(Made.Message(), sheet);
        verdict.CategoryId.ShouldBeNull();
        verdict.LineId.ShouldBe("l1");
        verdict.Reasons.Select(r => r.Text).ShouldContain("sorted as none of these");
    }

    [Fact]
    public void A_line_without_a_deed_leaves_the_message_alone()
    {
        var verdict = Made.Decide(Made.Message(), Made.Sheet(new Line { Id = "l1" }));
        verdict.Outcome.ShouldBe(Outcome.TakenIn);
        verdict.Deeds.ShouldBeEmpty();
    }

    [Fact]
    public void A_later_workflow_is_skipped_unless_the_limits_say_otherwise()
    {
        var first = Made.Sheet(Made.Line());
        var second = Made.Edition(Made.Sheet(Made.Line()), 2, "Second");
        Planner.Plan(Made.Message(), [Made.Edition(first), second], Made.Context).Verdicts[1].Outcome.ShouldBe(Outcome.Skipped);
        var lenient = first with { Limits = first.Limits with { SkipLaterWorkflows = false } };
        Planner.Plan(Made.Message(), [Made.Edition(lenient), second], Made.Context).Verdicts[1].Outcome.ShouldBe(Outcome.TakenIn);
    }

    [Fact]
    public void The_same_message_editions_and_context_give_the_same_plan()
    {
        var edition = Made.Edition(Made.Sheet(Made.Line() with { Ticket = new TicketSpec(TicketMode.OpenOrAdd, "Berth"), Replies = [new ReplySpec(1, ReplyMode.Send, 10)] }));
        string Plan() => System.Text.Json.JsonSerializer.Serialize(Planner.Plan(Made.Message(), [edition], Made.Context));
        Plan().ShouldBe(Plan());
    }
}
