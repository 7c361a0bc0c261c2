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

    /// <summary>What the rehearsed edition may depend on, where that differs.</summary>
    internal PlanContext Changed { get; init; } = new();

    public IEnumerable<RehearsedMessage> TakenIn => Messages.Where(m => m.After.Outcome == Outcome.TakenIn);
    public IEnumerable<RehearsedMessage> LeftAlone => Messages.Where(m => m.After.Outcome != Outcome.TakenIn);
    public IEnumerable<RehearsedMessage> Changes => Messages.Where(m => m.Changed);
    public IEnumerable<RehearsedMessage> NearMisses => Messages.Where(m => m.After.NearMiss);

    /// <summary>A message of this rehearsal with every reason and the words it rests on.</summary>
    public RehearsedMessage Explain(RehearsedMessage message) => message with
    {
        Before = message.Before is null ? null : WithReasons(message.Message, message.Before, Before.IsEmpty ? After : Before, Context),
        After = WithReasons(message.Message, message.After, After, Changed),
    };

    /// <summary>By how little the rehearsed edition missed a message; null when it did not miss it nearly.</summary>
    public Shortfall? ShortfallOf(RehearsedMessage message) => message.After.NearMiss ? Shortfall.Of(message.Message, After[^1].Sheet, Changed) : null;

    /// <summary>The reasons do not depend on what was replied before; the deeds do, and are as they came out then.</summary>
    private static Verdict WithReasons(PreparedMessage message, Verdict verdict, ImmutableArray<Edition> editions, PlanContext context)
    {
        var again = Planner.Plan(message, editions, context with { Now = message.ArrivedAt }).Verdicts.First(v => v.WorkflowId == verdict.WorkflowId);
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
        IEnumerable<PreparedMessage> messages, IReadOnlyList<Edition> live, Edition candidate, int position, PlanContext context, CancellationToken stop = default) =>
        Run(LiveRun.Of(messages, live, candidate.WorkflowId, position, context, stop), candidate, stop: stop);

    /// <summary>Rehearses an edition against a run of what is live.</summary>
    /// <param name="live">What is live.</param>
    /// <param name="candidate">The edition rehearsed.</param>
    /// <param name="changed">What the edition may depend on, where that is rehearsed too, such as a sorter that is not in use yet; null for what is.</param>
    /// <param name="stop">Stops between batches.</param>
    public static RehearsalResult Run(LiveRun live, Edition candidate, PlanContext? changed = null, CancellationToken stop = default)
    {
        var context = changed ?? live.Context;
        var ahead = new JudgedAhead([], [candidate], context);
        var side = new RehearsedSide([candidate], context);
        var isLive = changed is null && live.Was?.Number == candidate.Number;
        var rehearsed = ImmutableArray.CreateBuilder<RehearsedMessage>(live.Steps.Length);
        var at = 0;
        foreach (var (message, judged) in ahead.Judge(live.Steps.Select(s => s.Message), stop))
        {
            var step = live.Steps[at++];
            var verdict = step.Skipper is { } skipper ? Planner.Skipped(candidate, skipper) : RehearsedSide.Brief(side.Plan(message, judged.Of).Verdicts[0]);
            if (step.OpensTicket)
            {
                side.TicketOpened(message.ConversationId);
            }

            rehearsed.Add(new RehearsedMessage(message, isLive ? verdict : step.Before, verdict));
        }

        return new RehearsalResult(rehearsed.ToImmutable(), candidate.Sheet.EveryLine)
        {
            Before = live.Was is null || isLive ? [] : [.. live.Earlier, live.Was],
            After = [.. live.Earlier, candidate],
            Context = live.Context,
            Changed = context,
        };
    }
}
