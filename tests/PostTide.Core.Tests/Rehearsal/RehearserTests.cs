using PostTide.Core.Matching;
using PostTide.Core.Messages;
using PostTide.Core.Rehearsal;
using PostTide.Core.Workflows;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Rehearsal;

public sealed class RehearserTests
{
    private static readonly Sheet Live = Made.Sheet(Made.Line() with { Replies = [new ReplySpec(2, ReplyMode.Check)] });

    private static readonly PreparedMessage[] Mail =
    [
        At(1, "Berth"), At(2, "Mooring"), At(3, "Something else"), At(4, "Berth again"),
    ];

    private static PreparedMessage At(long id, string subject) =>
        Made.Message(subject, "Text.\n") with { Id = id, ArrivedAt = Made.Noon.AddDays(-10 + id * 0.5), ConversationId = id };

    private static RehearsalResult Run(Sheet inHand, Sheet? live = null) => Rehearser.Run(
        Mail, live is null ? [] : [Made.Edition(live)], Made.Edition(inHand, number: 2), 0, Made.Context);

    [Fact]
    public void Without_a_change_nothing_changes()
    {
        var summary = RehearsalSummary.Of(Run(Live, Live));
        (summary.Messages, summary.TakenIn, summary.LeftAlone, summary.Changes).ShouldBe((4, 3, 1, 0));
    }

    [Fact]
    public void A_change_is_shown_as_old_and_new()
    {
        var changed = Live with { Lines = [Live.Lines[0] with { Queues = [new PlaceSpec(2, 60)] }] };
        var result = Run(changed, Live);
        result.Changes.Count().ShouldBe(3);
        Difference.Between(result.Messages[0].Before!, result.Messages[0].After)
            .ShouldBe([new Difference("Place", "place in Berthing desk", "place in Large berths")]);
    }

    [Fact]
    public void A_workflow_that_was_never_live_has_no_changes_but_its_verdicts()
    {
        var summary = RehearsalSummary.Of(Run(Live));
        (summary.TakenIn, summary.Changes).ShouldBe((3, 0));
    }

    [Fact]
    public void Limits_over_time_act_as_they_would_have()
    {
        // The messages are twelve hours apart, so of three from one sender the second and third fall within 24 hours of a reply.
        var replies = Run(Live, Live).Messages.Where(m => m.After.Outcome == Outcome.TakenIn).Select(m => m.After.Deeds[1].SkippedBecause is null);
        replies.ShouldBe([true, false, true]);
    }

    [Fact]
    public void Every_count_opens_exactly_its_messages()
    {
        var result = Run(Live with { TakesIn = Live.TakesIn with { None = [Made.Text("n", MessagePart.Subject, MatchTest.Contains, "again")] } }, Live);
        var summary = RehearsalSummary.Of(result);
        int Open(RehearsalView view, string? id = null) => result.Messages.Count(m => new RehearsalSelection(view, id).Holds(m));
        Open(RehearsalView.TakenIn).ShouldBe(summary.TakenIn);
        Open(RehearsalView.LeftAlone).ShouldBe(summary.LeftAlone);
        Open(RehearsalView.NearMisses).ShouldBe(summary.NearMisses);
        Open(RehearsalView.Changes).ShouldBe(summary.Changes);
        Open(RehearsalView.Line, "l1").ShouldBe(summary.Lines["l1"]);
        Open(RehearsalView.Condition, "c1").ShouldBe(summary.Conditions["c1"]);
        Open(RehearsalView.HeldReplies).ShouldBe(summary.HeldReplies);
        Open(RehearsalView.SkippedDeeds).ShouldBe(summary.SkippedDeeds);
        Open(RehearsalView.Deed, nameof(DeedKind.Place)).ShouldBe(summary.Deeds[DeedKind.Place]);
        (summary.NearMisses, summary.Changes).ShouldBe((1, 1));
        (summary.TakenIn + summary.LeftAlone + summary.Skipped).ShouldBe(summary.Messages);
        summary.Days.Sum(d => d.TakenIn + d.LeftAlone).ShouldBe(summary.Messages);
    }

    [Fact]
    public void The_rehearsal_calls_the_same_planner_as_live_mail()
    {
        var rehearsal = Run(Live, Live);
        var rehearsed = rehearsal.Explain(rehearsal.Messages[0]).After;
        var planned = Planner.Plan(Mail[0], [Made.Edition(Live, number: 2)], Made.Context with { Now = Mail[0].ArrivedAt }).Verdicts[0];
        System.Text.Json.JsonSerializer.Serialize(rehearsed).ShouldBe(System.Text.Json.JsonSerializer.Serialize(planned));
    }
}
