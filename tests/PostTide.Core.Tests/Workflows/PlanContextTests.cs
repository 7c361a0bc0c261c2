using PostTide.Core.Workflows;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Workflows;

/// <summary>What one plan leaves behind for the next message of the same pass.</summary>
public sealed class PlanContextTests
{
    private static PlanContext After(Line line) =>
        Made.Context.After(Planner.Plan(Made.Message(), [Made.Edition(Made.Sheet(line with { Id = "l1" }))], Made.Context), 7);

    [Fact]
    public void A_reply_is_remembered_for_its_workflow_and_address_only()
    {
        var after = After(new Line { Replies = [new ReplySpec(2, ReplyMode.Check)] });
        after.LastReplies.Keys.ShouldBe([PlanContext.ReplyKey(1, "MAUD@tern.example")]);
        after.LastReplies.Values.ShouldBe([Made.Noon]);
    }

    [Fact]
    public void A_skipped_reply_is_not() =>
        Made.Context.After(
            Planner.Plan(Made.Message(), [Made.Edition(Made.Sheet(new Line { Id = "l1", Replies = [new ReplySpec(99, ReplyMode.Check)] }))], Made.Context), 7)
            .LastReplies.ShouldBeEmpty();

    [Fact]
    public void An_opened_ticket_belongs_to_the_conversation()
    {
        var after = After(new Line { Ticket = new TicketSpec(TicketMode.OpenOrAdd, "Berth") });
        after.TicketOfConversation.ShouldContainKey(7);
        Made.Decide(Made.Message(), Made.Sheet(new Line { Id = "l1", Ticket = new TicketSpec(TicketMode.AddOnly, "") }), after).Deeds[0].SkippedBecause.ShouldBeNull();
    }

    [Fact]
    public void Other_deeds_leave_nothing_behind() => After(Made.Line()).ShouldBe(Made.Context);
}
