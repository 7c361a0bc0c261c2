using PostTide.Core.Rehearsal;
using PostTide.Core.Workflows;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Rehearsal;

public sealed class DifferenceTests
{
    private static Verdict Verdict(Line line, PlanContext? context = null) => Made.Decide(Made.Message(), Made.Sheet(line with { Id = "l1" }), context);

    [Fact]
    public void Equal_verdicts_differ_in_nothing()
    {
        var verdict = Verdict(Made.Line());
        Difference.Between(verdict, verdict).ShouldBeEmpty();
        Difference.Same(verdict, verdict).ShouldBeTrue();
    }

    [Fact]
    public void An_added_and_a_removed_deed_have_one_side_only()
    {
        var plain = Verdict(Made.Line());
        var more = Verdict(Made.Line() with { PassOns = [new PassOnSpec(1)] });
        Difference.Between(plain, more).ShouldBe([new Difference("PassOn", null, "pass on to Register")]);
        Difference.Between(more, plain).ShouldBe([new Difference("PassOn", "pass on to Register", null)]);
    }

    [Fact]
    public void A_skip_or_a_hold_is_part_of_the_difference()
    {
        var check = Verdict(new Line { Replies = [new ReplySpec(2, ReplyMode.Check)] });
        var blocked = Verdict(new Line { Replies = [new ReplySpec(2, ReplyMode.Check)] }, Made.Context with { DoNotMail = ["tern.example"] });
        var difference = Difference.Between(check, blocked).ShouldHaveSingleItem();
        difference.Before!.ShouldContain("held: a value is missing: vessel");
        difference.After!.ShouldContain("skipped: the address is on the do-not-mail list");
    }

    [Fact]
    public void The_outcome_comes_first()
    {
        var left = Made.Decide(Made.Message("x", "y\n"), Made.Sheet(Made.Line()));
        Difference.Between(left, Verdict(Made.Line())).Select(d => d.What).ShouldBe(["outcome", "Place"]);
    }
}
