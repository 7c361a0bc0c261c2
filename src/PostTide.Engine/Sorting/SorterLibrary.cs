using System.Collections.Concurrent;
using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;
using PostTide.Core.Sorting;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Engine.Sorting;

/// <summary>Trained sorters kept in memory: read when a number was trained, not for every message.</summary>
public sealed class SorterLibrary
{
    private readonly ConcurrentDictionary<long, (DateTimeOffset At, TrainedSorter Sorter)> _kept = new();
    private readonly Lock _keeping = new();
    private IReadOnlyDictionary<long, SorterInUse> _inUse = ImmutableDictionary<long, SorterInUse>.Empty;

    /// <summary>Every sorter with the number that is in use. As long as nothing changed it is the same dictionary.</summary>
    public async Task<IReadOnlyDictionary<long, SorterInUse>> InUseAsync(PostTideContext db, CancellationToken stop)
    {
        var rows = await db.Sorters.AsNoTracking()
            .Select(s => new { s.Id, s.Name, s.AsksOutside, Number = s.Numbers.Where(n => n.State == SorterNumberState.InUse).Select(n => new { n.Id, n.Number, n.TrainedAt }).FirstOrDefault() })
            .ToListAsync(stop);
        var sorters = new Dictionary<long, SorterInUse>();
        foreach (var row in rows)
        {
            var trained = row.Number is { TrainedAt: { } at } number ? await ReadAsync(db, number.Id, at, stop) : null;
            sorters[row.Id] = new SorterInUse(row.Id, row.Name, trained is null ? 0 : row.Number!.Number, trained) { AsksOutside = row.AsksOutside };
        }

        lock (_keeping)
        {
            if (sorters.Count != _inUse.Count || sorters.Any(s => _inUse.GetValueOrDefault(s.Key) != s.Value))
            {
                _inUse = sorters;
            }

            return _inUse;
        }
    }

    /// <summary>The sorter as its number in hand was last trained; null before that.</summary>
    public async Task<SorterInUse?> InHandAsync(PostTideContext db, long sorterId, CancellationToken stop)
    {
        var row = await db.SorterNumbers.AsNoTracking()
            .Where(n => n.SorterId == sorterId && n.State == SorterNumberState.InHand && n.TrainedAt != null && n.Model != null)
            .Select(n => new { n.Id, n.Number, n.TrainedAt, Name = db.Sorters.Where(s => s.Id == sorterId).Select(s => s.Name).First() })
            .SingleOrDefaultAsync(stop);
        return row is not null && await ReadAsync(db, row.Id, row.TrainedAt!.Value, stop) is { } trained ? new SorterInUse(sorterId, row.Name, row.Number, trained) : null;
    }

    private async Task<TrainedSorter?> ReadAsync(PostTideContext db, long numberId, DateTimeOffset trainedAt, CancellationToken stop)
    {
        if (_kept.TryGetValue(numberId, out var kept) && kept.At == trainedAt)
        {
            return kept.Sorter;
        }

        if (await db.SorterNumbers.AsNoTracking().Where(n => n.Id == numberId).Select(n => n.Model).SingleOrDefaultAsync(stop) is not { } model)
        {
            return null;
        }

        try
        {
            var sorter = SorterFile.Read(model);
            _kept[numberId] = (trainedAt, sorter);
            return sorter;
        }
        catch (SorterFileException)
        {
            // Trained by another version: mail goes on, unsure, until a person puts a number into use that was trained by this one.
            return null;
        }
    }
}
