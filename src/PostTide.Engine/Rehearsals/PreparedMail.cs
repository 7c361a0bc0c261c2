using System.Collections.Concurrent;
using Microsoft.EntityFrameworkCore;
using PostTide.Core.Messages;
using PostTide.Store;

namespace PostTide.Engine.Rehearsals;

/// <summary>Prepared messages kept in memory for rehearsals: read once, then only what is new.</summary>
public sealed class PreparedMail : IDisposable
{
    /// <summary>A rehearsal over “all mail” reaches back at most this many messages.</summary>
    public const int Most = 50_000;

    private readonly ConcurrentDictionary<long, PreparedMessage> _kept = new();
    private readonly SemaphoreSlim _reading = new(1, 1);

    public void Dispose() => _reading.Dispose();

    /// <summary>The messages that arrived since a time, without copies of others, oldest first.</summary>
    public async Task<IReadOnlyList<PreparedMessage>> SinceAsync(PostTideContext db, DateTimeOffset since, CancellationToken stop)
    {
        var rows = await db.Messages.AsNoTracking()
            .Where(m => m.ArrivedAt >= since && m.DuplicateOfId == null && m.State == Store.Records.MessageState.Planned)
            .OrderByDescending(m => m.ArrivedAt).ThenByDescending(m => m.Id)
            .Take(Most)
            .Select(m => new { m.Id, m.ConversationId })
            .ToListAsync(stop);
        await KeepAsync(db, [.. rows.Select(r => r.Id)], stop);
        rows.Reverse();
        return
        [
            .. rows.Where(r => _kept.ContainsKey(r.Id)).Select(r =>
                _kept[r.Id] is var kept && kept.ConversationId == r.ConversationId ? kept : kept with { ConversationId = r.ConversationId ?? 0 }),
        ];
    }

    /// <summary>Single messages by their ids; those without a text are missing from the answer.</summary>
    public async Task<IReadOnlyDictionary<long, PreparedMessage>> OfAsync(PostTideContext db, IReadOnlyList<long> ids, CancellationToken stop)
    {
        await KeepAsync(db, ids, stop);
        return ids.Where(_kept.ContainsKey).Distinct().ToDictionary(id => id, id => _kept[id]);
    }

    /// <summary>Reads what is missing, and lets go of other messages when there are too many.</summary>
    private async Task KeepAsync(PostTideContext db, IReadOnlyList<long> ids, CancellationToken stop)
    {
        await _reading.WaitAsync(stop);
        try
        {
            foreach (var missing in ids.Where(IsMissing).Chunk(2_000))
            {
                foreach (var document in await db.Prepared.AsNoTracking().Where(p => missing.Contains(p.MessageId)).Select(p => p.Document).ToListAsync(stop))
                {
                    _kept[document.Id] = document;
                }
            }

            if (_kept.Count > 2 * Most)
            {
                var wanted = ids.ToHashSet();
                foreach (var id in _kept.Keys.Where(id => !wanted.Contains(id)))
                {
                    _kept.TryRemove(id, out _);
                }
            }
        }
        finally
        {
            _reading.Release();
        }
    }

    private bool IsMissing(long id) => !_kept.TryGetValue(id, out var kept) || kept.Version < PreparedMessage.CurrentVersion;
}
