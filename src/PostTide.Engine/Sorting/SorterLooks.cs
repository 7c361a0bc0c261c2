using System.Collections.Concurrent;
using Microsoft.EntityFrameworkCore;
using PostTide.Core.Messages;
using PostTide.Core.Sorting;
using PostTide.Engine.Deeds;
using PostTide.Engine.Rehearsals;
using PostTide.Store;

namespace PostTide.Engine.Sorting;

/// <summary>A message as a sorter sees it: how sure it is of each category and why.</summary>
public sealed record SorterLook(PreparedMessage Message, IReadOnlyList<CategorySurety> Sureties, SorterExplanation Explanation);

/// <summary>Looks through a sorter at single messages: the next ones to label, the reasons, the nearest examples.</summary>
public sealed class SorterLooks(PreparedMail mail, SorterLibrary library, TimeProvider clock)
{
    /// <summary>The mail from which the next messages to label are chosen.</summary>
    private static readonly TimeSpan Reaches = TimeSpan.FromDays(90);
    private const int MostLookedAt = 3_000;
    private const int FewestSeen = 30;

    private readonly ConcurrentDictionary<long, (TrainedSorter Sorter, int Labels, ExampleIndex Index)> _indexes = new();

    /// <summary>The trained number in hand, or the one in use where none is in hand or trained.</summary>
    public async Task<SorterInUse?> CurrentAsync(PostTideContext db, long sorterId, CancellationToken stop) =>
        await library.InHandAsync(db, sorterId, stop) ?? ((await library.InUseAsync(db, stop)).GetValueOrDefault(sorterId) is { Trained: not null } inUse ? inUse : null);

    /// <summary>The messages without a label that the sorter would learn most from.</summary>
    public async Task<IReadOnlyList<SorterLook>> NextAsync(PostTideContext db, long sorterId, int count, IReadOnlyCollection<long> passed, CancellationToken stop)
    {
        if (await CurrentAsync(db, sorterId, stop) is not { Trained: { } trained })
        {
            return [];
        }

        var labelled = (await db.SorterLabels.AsNoTracking().Where(l => l.SorterId == sorterId).Select(l => l.MessageId).ToListAsync(stop)).ToHashSet();
        labelled.UnionWith(passed);
        var since = clock.GetUtcNow() - Reaches;
        var recent = (await mail.SinceAsync(db, since, stop)).Where(m => !labelled.Contains(m.Id)).ToList();

        // Where workflows ask the sorter already, the mail they ask about teaches more than mail it never sees.
        var asked = (await db.Sorted.AsNoTracking().Where(s => s.SorterId == sorterId && s.At >= since).Select(s => s.MessageId).ToListAsync(stop)).ToHashSet();
        var seen = recent.Where(m => asked.Contains(m.Id)).ToList();
        var pool = (seen.Count >= FewestSeen ? seen : recent).TakeLast(MostLookedAt).ToList();
        return [.. UsefulNext.Choose(trained, pool, count).Select(m => Look(trained, m))];
    }

    /// <summary>One message.</summary>
    public async Task<SorterLook> LookAsync(PostTideContext db, SorterInUse sorter, long messageId, CancellationToken stop) =>
        Look(sorter.Trained!, (await mail.OfAsync(db, [messageId], stop)).GetValueOrDefault(messageId) ?? throw new RefusedException("The message is gone."));

    /// <summary>The examples most like a message.</summary>
    public async Task<IReadOnlyList<NearExample>> NearestAsync(PostTideContext db, SorterInUse sorter, PreparedMessage message, int count, CancellationToken stop)
    {
        var labels = await db.SorterLabels.AsNoTracking().Where(l => l.SorterId == sorter.Id).Select(l => new { l.MessageId, l.CategoryId }).ToListAsync(stop);
        if (!_indexes.TryGetValue(sorter.Id, out var kept) || kept.Sorter != sorter.Trained || kept.Labels != labels.Count)
        {
            var texts = await mail.OfAsync(db, labels.ConvertAll(l => l.MessageId), stop);
            var examples = labels.Where(l => texts.ContainsKey(l.MessageId)).Select(l => new SorterExample(l.MessageId, l.CategoryId, texts[l.MessageId])).ToList();
            _indexes[sorter.Id] = kept = (sorter.Trained!, labels.Count, new ExampleIndex(sorter.Trained!, examples));
        }

        return kept.Index.Nearest(message, count);
    }

    private static SorterLook Look(TrainedSorter trained, PreparedMessage message) => new(message, trained.Sureties(message), SorterExplanation.Of(trained, message));
}
