using System.Collections.Immutable;
using PostTide.Core.Messages;
using PostTide.Core.Workflows;

namespace PostTide.Core.Rehearsal;

/// <summary>What is live makes of one message, as far as it matters to a workflow.</summary>
/// <param name="Message">The message.</param>
/// <param name="Skipper">The earlier workflow that takes it in and skips later ones; null when the workflow sees it.</param>
/// <param name="Before">The live edition's verdict; null when the workflow has never been live.</param>
/// <param name="OpensTicket">Whether an earlier workflow opens a ticket for its conversation.</param>
public sealed record LiveStep(PreparedMessage Message, Edition? Skipper, Verdict? Before, bool OpensTicket);

/// <summary>
/// What the live editions make of past mail, up to and with one workflow. It is the same for every edit of that workflow, so that
/// it is worked out once and only the edition in hand anew. (What the edition in hand does could change an earlier workflow’s mind
/// only through a ticket it opens and a condition on tickets there; that is left out.)
/// </summary>
public sealed record LiveRun(ImmutableArray<LiveStep> Steps, ImmutableArray<Edition> Earlier, Edition? Was, PlanContext Context)
{
    /// <summary>Runs what is live over the messages, in the order of their arrival.</summary>
    /// <param name="messages">The past messages.</param>
    /// <param name="live">The live editions of every workflow, in order.</param>
    /// <param name="workflowId">The workflow that is going to be rehearsed.</param>
    /// <param name="position">Where it stands among the live ones when it has no live edition yet.</param>
    /// <param name="context">The context without any past replies.</param>
    /// <param name="stop">Stops between batches.</param>
    public static LiveRun Of(
        IEnumerable<PreparedMessage> messages, IReadOnlyList<Edition> live, long workflowId, int position, PlanContext context, CancellationToken stop = default)
    {
        var index = live.ToList().FindIndex(e => e.WorkflowId == workflowId);

        // Workflows further down cannot change the verdict of this one.
        var earlier = live.Take(index >= 0 ? index : Math.Clamp(position, 0, live.Count)).ToImmutableArray();
        var was = index >= 0 ? live[index] : null;
        ImmutableArray<Edition> last = was is null ? [] : [was];
        var ahead = new JudgedAhead(earlier, last, context);
        var side = new RehearsedSide([.. earlier, .. last], context);
        var steps = ImmutableArray.CreateBuilder<LiveStep>();
        foreach (var (message, judged) in ahead.Judge(messages.OrderBy(m => m.ArrivedAt).ThenBy(m => m.Id), stop))
        {
            var verdicts = side.Plan(message, judged.Of).Verdicts;
            Edition? skipper = null;
            var opens = false;
            for (var i = 0; i < earlier.Length && skipper is null; i++)
            {
                skipper = verdicts[i].Outcome == Outcome.TakenIn && earlier[i].Sheet.Limits.SkipLaterWorkflows ? earlier[i] : null;
                opens |= verdicts[i].Deeds.Any(d => d is { SkippedBecause: null, Content: TicketContent { Reference: null } });
            }

            steps.Add(new LiveStep(message, skipper, was is null ? null : RehearsedSide.Brief(verdicts[^1]), opens));
        }

        return new LiveRun(steps.ToImmutable(), earlier, was, context);
    }
}
