using PostTide.Core.Matching;
using PostTide.Core.Rehearsal;
using PostTide.Core.Workflows;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Workflows;

/// <summary>First or every line that fits, lines switched off, and several deeds to a cell.</summary>
public sealed class EveryLineTests
{
    private static Line Line(string id, long queue, string? word = null) => new()
    {
        Id = id,
        Queues = [new PlaceSpec(queue, null)],
        AndWhen = word is null ? ConditionSet.Empty : new ConditionSet { All = [Made.Text("c" + id, MessagePart.Subject, MatchTest.Contains, word)] },
    };

    private static readonly Sheet First = Made.Sheet(Line("l1", 1, "berth"), Line("l2", 2), Line("l3", 1, "crane"));

    [Fact]
    public void Only_the_first_line_that_fits_is_carried_out_but_all_that_fit_are_known()
    {
        var verdict = Made.Decide(Made.Message(), First);
        verdict.LineId.ShouldBe("l1");
        verdict.Fits.ShouldBe(["l1", "l2"]);
        verdict.Deeds.Select(d => d.Says).ShouldBe(["place in Berthing desk"]);
    }

    [Fact]
    public void Every_line_that_fits_is_carried_out_when_asked_and_what_two_ask_for_is_done_once()
    {
        var sheet = First with { EveryLine = true, Lines = First.Lines.Add(Line("l4", 1)) };
        var verdict = Made.Decide(Made.Message(), sheet);
        verdict.Deeds.Select(d => d.Target).ShouldBe(["1", "2"]);
        verdict.Reasons.Select(r => r.Text).ShouldContain("line 2 fits");
        var summary = RehearsalSummary.Of(Rehearser.Run([Made.Message()], [], Made.Edition(sheet), 0, Made.Context));
        summary.Lines.Keys.Order().ShouldBe(["l1", "l2", "l4"]);
        summary.Overlaps.Select(o => (o.First, o.Second, o.Messages)).ShouldBe([("l1", "l2", 1), ("l1", "l4", 1), ("l2", "l4", 1)]);
    }

    [Fact]
    public void A_line_that_is_switched_off_fits_nothing() =>
        Made.Decide(Made.Message(), First with { Lines = [First.Lines[0] with { Off = true }, .. First.Lines.Skip(1)] }).LineId.ShouldBe("l2");

    [Fact]
    public void A_cell_holds_several_deeds()
    {
        var line = new Line { Id = "l1", Queues = [new PlaceSpec(1, null), new PlaceSpec(2, 60)], Files = [new FileSpec("A", []), new FileSpec("B", [])], PassOns = [new PassOnSpec(1)] };
        var message = Made.Message() with { Attachments = [new Core.Messages.Attachment(0, "a.pdf", "x/y", 3)] };
        Made.Decide(message, Made.Sheet(line)).Deeds.Select(d => (d.Kind, d.Target)).ShouldBe(
            [(DeedKind.Place, "1"), (DeedKind.Place, "2"), (DeedKind.File, "A"), (DeedKind.File, "B"), (DeedKind.PassOn, "1")]);
    }

    [Fact]
    public void A_kept_run_of_what_is_live_gives_the_same_rehearsal_for_every_edit()
    {
        var mail = Enumerable.Range(1, 600).Select(i => Made.Message(i % 3 == 0 ? "Crane" : "Berth", "x\n") with { Id = i, ConversationId = i / 5, ArrivedAt = Made.Noon.AddMinutes(i) }).ToList();
        var earlier = Made.Edition(Made.Sheet(new Line { Id = "e", Ticket = new TicketSpec(TicketMode.OpenOrAdd, "x") }) with
        {
            TakesIn = new ConditionSet { All = [Made.Text("x", MessagePart.Subject, MatchTest.Contains, "crane")] },
            Limits = new Limits { SkipLaterWorkflows = false },
        }, 9, "Cranes");
        var was = Made.Edition(First with { TakesIn = ConditionSet.Empty, Addresses = ["berths@saltmarrow.example"] }, number: 1);
        var kept = LiveRun.Of(mail, [earlier, was], 1, 0, Made.Context);
        foreach (var sheet in new[] { First, First with { EveryLine = true }, Made.Sheet(new Line { Id = "t", Ticket = new TicketSpec(TicketMode.AddOnly, "x") }) with { TakesIn = ConditionSet.Empty, Addresses = ["berths@saltmarrow.example"] } })
        {
            var candidate = Made.Edition(sheet, number: 2);
            var fresh = Rehearser.Run(mail, [earlier, was], candidate, 0, Made.Context);
            var again = Rehearser.Run(kept, candidate);
            again.Messages.Select(m => string.Join(' ', m.After.Deeds.Select(d => d.Says + d.SkippedBecause))).ShouldBe(fresh.Messages.Select(m => string.Join(' ', m.After.Deeds.Select(d => d.Says + d.SkippedBecause))));

            // The same as the planner by itself, message by message with everything that came before.
            var context = Made.Context;
            foreach (var message in fresh.Messages)
            {
                context = context with { Now = message.Message.ArrivedAt };
                var plan = Planner.Plan(message.Message, [earlier, candidate], context);
                context = context.After(plan, message.Message.ConversationId);
                plan.Verdicts[1].Deeds.Select(d => (d.Says, d.SkippedBecause)).ShouldBe(message.After.Deeds.Select(d => (d.Says, d.SkippedBecause)));
            }
        }
    }
}
