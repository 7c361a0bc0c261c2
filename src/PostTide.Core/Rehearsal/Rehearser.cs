using System.Collections.Immutable;
using PostTide.Core.Messages;
using PostTide.Core.Workflows;

namespace PostTide.Core.Rehearsal;

/// <summary>One message in a rehearsal: what the live edition makes of it and what the edition in hand would.</summary>
/// <param name="Message">The message.</param>
/// <param name="Before">The live edition's verdict; null when the workflow has never been live.</param>
/// <param name="After">The rehearsed edition's verdict.</param>
public sealed record RehearsedMessage(PreparedMessage Message, Verdict? Before, Verdict After)
{
    /// <summary>Whether going live would change what happens to such a message.</summary>
    public bool Changed => Before is not null && !Difference.Same(Before, After);
}

/// <summary>
/// A rehearsal: the workflow run over past messages with nothing carried out. Of ten thousand verdicts nobody reads all, so
/// they are kept without the words they rest on; <see cref="Explain"/> finds those again.
/// </summary>
public sealed record RehearsalResult(ImmutableArray<RehearsedMessage> Messages, bool EveryLine = false)
{
    /// <summary>The earlier workflows with the live edition, and with the one rehearsed.</summary>
    internal ImmutableArray<Edition> Before { get; init; } = [];
    internal ImmutableArray<Edition> After { get; init; } = [];
    internal PlanContext Context { get; init; } = new();

    public IEnumerable<RehearsedMessage> TakenIn => Messages.Where(m => m.After.Outcome == Outcome.TakenIn);
    public IEnumerable<RehearsedMessage> LeftAlone => Messages.Where(m => m.After.Outcome != Outcome.TakenIn);
    public IEnumerable<RehearsedMessage> Changes => Messages.Where(m => m.Changed);
    public IEnumerable<RehearsedMessage> NearMisses => Messages.Where(m => m.After.NearMiss);

    /// <summary>A message of this rehearsal with every reason and the words it rests on.</summary>
    public RehearsedMessage Explain(RehearsedMessage message) => message with
    {
        Before = message.Before is null ? null : WithReasons(message.Message, message.Before, Before.IsEmpty ? After : Before),
        After = WithReasons(message.Message, message.After, After),
    };

    /// <summary>By how little the rehearsed edition missed a message; null when it did not miss it nearly.</summary>
    public Shortfall? ShortfallOf(RehearsedMessage message) => message.After.NearMiss ? Shortfall.Of(message.Message, After[^1].Sheet, Context) : null;

    /// <summary>The reasons do not depend on what was replied before; the deeds do, and are as they came out then.</summary>
    private Verdict WithReasons(PreparedMessage message, Verdict verdict, ImmutableArray<Edition> editions)
    {
        var again = Planner.Plan(message, editions, Context with { Now = message.ArrivedAt }).Verdicts.First(v => v.WorkflowId == verdict.WorkflowId);
        return verdict with { Reasons = again.Outcome == verdict.Outcome ? again.Reasons : verdict.Reasons, Facts = again.Facts };
    }
}

/// <summary>Runs an edition over many past messages, side by side with the live one.</summary>
public static class Rehearser
{
    /// <summary>
    /// Rehearses <paramref name="candidate"/> in its place among the live editions. Messages are taken in the order of their
    /// arrival, each at its own time, so that limits over time act as they would have.
    /// </summary>
    /// <param name="messages">The past messages.</param>
    /// <param name="live">The live editions of every workflow, in order.</param>
    /// <param name="candidate">The edition rehearsed.</param>
    /// <param name="position">Where it stands among the live ones when it has no live edition yet.</param>
    /// <param name="context">The context without any past replies: a rehearsal makes its own.</param>
    /// <param name="stop">Stops between batches.</param>
    public static RehearsalResult Run(
        IEnumerable<PreparedMessage> messages, IReadOnlyList<Edition> live, Edition candidate, int position, PlanContext context, CancellationToken stop = default)
    {
        var index = live.ToList().FindIndex(e => e.WorkflowId == candidate.WorkflowId);
        index = index >= 0 ? index : Math.Clamp(position, 0, live.Count);

        // Workflows further down cannot change the verdict of this one.
        var earlier = live.Take(index).ToImmutableArray();
        var was = live.FirstOrDefault(e => e.WorkflowId == candidate.WorkflowId);
        var ahead = new JudgedAhead(earlier, was is null || was.Number == candidate.Number ? [candidate] : [was, candidate], context);
        var before = was is null || was.Number == candidate.Number ? null : new Side([.. earlier, was], context);
        var after = new Side([.. earlier, candidate], context);
        var rehearsed = ImmutableArray.CreateBuilder<RehearsedMessage>();
        foreach (var (message, judged) in ahead.Judge(messages.OrderBy(m => m.ArrivedAt).ThenBy(m => m.Id), stop))
        {
            var verdict = after.Verdict(message, judged.Of, candidate.WorkflowId);
            var earlierVerdict = before?.Verdict(message, judged.Of, candidate.WorkflowId) ?? (was is null ? null : verdict);
            rehearsed.Add(new RehearsedMessage(message, earlierVerdict, verdict));
        }

        return new RehearsalResult(rehearsed.ToImmutable(), candidate.Sheet.EveryLine)
        {
            Before = before is null ? [] : [.. earlier, was!],
            After = [.. earlier, candidate],
            Context = context,
        };
    }

    /// <summary>One set of editions making its way through the messages with its own growing context.</summary>
    private sealed class Side(IReadOnlyList<Edition> editions, PlanContext context)
    {
        private PlanContext _context = context;

        public Verdict Verdict(PreparedMessage message, Judge judge, long workflowId)
        {
            _context = _context with { Now = message.ArrivedAt };
            var plan = Planner.Plan(message, editions, _context, judge);
            _context = _context.After(plan, message.ConversationId);
            return Brief(plan.Verdicts.First(v => v.WorkflowId == workflowId));
        }

        /// <summary>The verdict with its first reason only, and without the words.</summary>
        private static Verdict Brief(Verdict verdict) => verdict with
        {
            Reasons = verdict.Reasons.IsEmpty ? [] : [verdict.Reasons[0].Evidence.IsEmpty ? verdict.Reasons[0] : new Reason(verdict.Reasons[0].Text, [])],
            Facts = [],
            Deeds = verdict.Deeds.Any(d => d.Content is TicketContent) ? [.. verdict.Deeds.Select(Brief)] : verdict.Deeds,
        };

        /// <summary>A ticket’s description is the message’s text once more.</summary>
        private static PlannedDeed Brief(PlannedDeed deed) => deed.Content is TicketContent ticket ? deed with { Content = ticket with { Description = "" } } : deed;
    }
}
