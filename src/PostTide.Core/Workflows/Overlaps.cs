using System.Collections.Immutable;
using PostTide.Core.Messages;

namespace PostTide.Core.Workflows;

/// <summary>Two workflows that both take in some messages.</summary>
/// <param name="First">The workflow further up.</param>
/// <param name="Second">The one further down.</param>
/// <param name="Both">The messages both take in, each taken by itself.</param>
/// <param name="Answered">Those among them that both would reply to.</param>
/// <param name="Skipped">Whether the second does not see them because the first skips later workflows.</param>
public sealed record Overlap(long First, long Second, ImmutableArray<long> Both, ImmutableArray<long> Answered, bool Skipped);

/// <summary>Which messages several workflows take in.</summary>
/// <param name="Messages">How many messages were looked at.</param>
/// <param name="Taken">The number of messages each workflow takes in by itself, by workflow.</param>
/// <param name="Pairs">The pairs of workflows that share messages.</param>
public sealed record OverlapMap(int Messages, ImmutableDictionary<long, int> Taken, ImmutableArray<Overlap> Pairs)
{
    /// <summary>
    /// Asks every edition about every message as if it were the only one, so that what the order and “later workflows are
    /// skipped” keep apart is seen as well.
    /// </summary>
    public static OverlapMap Of(IReadOnlyList<PreparedMessage> messages, IReadOnlyList<Edition> editions, PlanContext context)
    {
        var taken = new (bool TakesIn, bool Replies)[messages.Count][];
        Parallel.For(0, messages.Count, i => taken[i] = [.. editions.Select(e => Ask(messages[i], e, context))]);
        var pairs = ImmutableArray.CreateBuilder<Overlap>();
        for (var a = 0; a < editions.Count; a++)
        {
            for (var b = a + 1; b < editions.Count; b++)
            {
                ImmutableArray<int> both = [.. Enumerable.Range(0, messages.Count).Where(i => taken[i][a].TakesIn && taken[i][b].TakesIn)];
                if (both.Length > 0)
                {
                    pairs.Add(new Overlap(
                        editions[a].WorkflowId, editions[b].WorkflowId, [.. both.Select(i => messages[i].Id)],
                        [.. both.Where(i => taken[i][a].Replies && taken[i][b].Replies).Select(i => messages[i].Id)],
                        editions[a].Sheet.Limits.SkipLaterWorkflows));
                }
            }
        }

        return new OverlapMap(
            messages.Count, editions.Select((e, n) => (e.WorkflowId, Count: taken.Count(t => t[n].TakesIn))).ToImmutableDictionary(p => p.WorkflowId, p => p.Count),
            pairs.ToImmutable());
    }

    private static (bool, bool) Ask(PreparedMessage message, Edition edition, PlanContext context)
    {
        var judgement = Judgement.Of(message, edition.Sheet, (context with { Now = message.ArrivedAt }).For(message));
        return (judgement.IsTakenIn, judgement.Carried(edition.Sheet).Any(f => !f.Line.Replies.IsEmpty));
    }
}
