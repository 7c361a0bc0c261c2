using System.Collections.Immutable;
using PostTide.Core.Matching;
using PostTide.Core.Messages;
using PostTide.Core.Workflows;

namespace PostTide.Core.Rehearsal;

/// <summary>
/// Works out on every core what editions make of messages, before the messages go through them one by one. Only what rests on
/// tickets opened on the way is left to that pass.
/// </summary>
internal sealed class JudgedAhead(ImmutableArray<Edition> earlier, ImmutableArray<Edition> last, PlanContext context)
{
    private const int MessagesToABatch = 256;

    private readonly ImmutableArray<Edition> _all = [.. earlier, .. last];
    private readonly ImmutableArray<bool> _waits = [.. earlier.Concat(last).Select(e => RestsOnTickets(e.Sheet, context))];

    /// <summary>The messages in their order, each with the judgements on it; the next batch is judged while one is looked at.</summary>
    public IEnumerable<(PreparedMessage Message, JudgedMessage Judged)> Judge(IEnumerable<PreparedMessage> messages, CancellationToken stop)
    {
        using var batches = messages.Chunk(MessagesToABatch).GetEnumerator();
        var next = Begin();
        while (next is not null)
        {
            stop.ThrowIfCancellationRequested();
            var (batch, judged) = next.GetAwaiter().GetResult();
            next = Begin();
            for (var i = 0; i < batch.Length; i++)
            {
                yield return (batch[i], judged[i]);
            }
        }

        Task<(PreparedMessage[], JudgedMessage[])>? Begin()
        {
            if (!batches.MoveNext())
            {
                return null;
            }

            var batch = batches.Current;
            return Task.Run(() => (batch, Judge(batch)));
        }
    }

    private JudgedMessage[] Judge(PreparedMessage[] batch)
    {
        var judged = new JudgedMessage[batch.Length];
        Parallel.For(0, batch.Length, i => judged[i] = Judge(batch[i]));
        return judged;
    }

    private JudgedMessage Judge(PreparedMessage message)
    {
        var judgements = new Judgement?[_all.Length];
        var surroundings = (context with { Now = message.ArrivedAt, SorterWords = false }).For(message);
        for (var i = 0; i < _all.Length; i++)
        {
            if (_waits[i])
            {
                continue;
            }

            var sheet = _all[i].Sheet;
            var judgement = judgements[i] = Judgement.Of(message, sheet, surroundings);
            if (i < earlier.Length && judgement.IsTakenIn && sheet.Limits.SkipLaterWorkflows)
            {
                break;
            }
        }

        return new JudgedMessage(_all, judgements);
    }

    private static bool RestsOnTickets(Sheet sheet, PlanContext context) =>
        sheet.Sets().Any(s => s.Set.Leaves().SelectMany(c => Unfold(c, context)).Any(c => c.Part == MessagePart.HasTicket));

    private static IEnumerable<Condition> Unfold(Condition condition, PlanContext context) =>
        condition is { Part: MessagePart.Saved, SavedId: { } id } && context.SavedConditions.TryGetValue(id, out var saved) ? saved.Set.Leaves() : [condition];
}

/// <summary>What was worked out about one message.</summary>
internal readonly record struct JudgedMessage(ImmutableArray<Edition> Editions, Judgement?[] Judgements)
{
    /// <summary>The judgement worked out ahead, or worked out now.</summary>
    public Judgement Of(PreparedMessage message, Edition edition, PlanContext context)
    {
        for (var i = 0; i < Editions.Length; i++)
        {
            if (ReferenceEquals(Editions[i], edition) && Judgements[i] is { } judgement)
            {
                return judgement;
            }
        }

        return Judgement.Of(message, edition.Sheet, context.For(message));
    }
}
