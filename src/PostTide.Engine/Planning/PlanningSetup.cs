using System.Collections.Concurrent;
using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Options;
using PostTide.Core.Matching;
using PostTide.Core.Replies;
using PostTide.Core.Time;
using PostTide.Core.Workflows;
using PostTide.Engine.Sorting;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Engine.Planning;

/// <summary>What planning needs besides messages: the live editions in order, and the context as it stands in the records.</summary>
public sealed record Setup(ImmutableArray<Edition> Live, PlanContext Context);

/// <summary>Reads the setup. Keyword lists are prepared once for each revision.</summary>
public sealed class PlanningSetup(IOptions<EngineOptions> options, SorterLibrary sorters, TimeProvider clock)
{
    private readonly ConcurrentDictionary<long, (int Revision, KeywordList List)> _lists = new();
    private readonly Lock _keeping = new();
    private IReadOnlyDictionary<long, KeywordList> _keptLists = ImmutableDictionary<long, KeywordList>.Empty;

    /// <summary>The live editions of workflows that are not paused, and everything they may name.</summary>
    public async Task<Setup> ReadAsync(PostTideContext db, CancellationToken stop)
    {
        var live = await db.Workflows.AsNoTracking()
            .Where(w => !w.Paused)
            .OrderBy(w => w.Position).ThenBy(w => w.Id)
            .Select(w => new { w.Id, w.Name, Edition = w.Editions.FirstOrDefault(e => e.State == EditionState.Live) })
            .Where(w => w.Edition != null)
            .ToListAsync(stop);
        return new Setup(
            [.. live.Select(w => new Edition(w.Id, w.Name, w.Edition!.Number, w.Edition.Sheet))],
            new PlanContext
            {
                Now = clock.GetUtcNow(),
                KeywordLists = await ReadListsAsync(db, stop),
                SavedConditions = await db.SavedConditions.AsNoTracking().ToDictionaryAsync(c => c.Id, c => new SavedCondition(c.Id, c.Name, c.Set), stop),
                Desk = await ReadDeskAsync(db, stop),
                TrustedServers = [.. (await db.Mailboxes.AsNoTracking().Where(m => m.Approval != null).Select(m => m.Approval!).ToListAsync(stop)).SelectMany(a => a.TrustedServers)],
                Queues = await db.Queues.AsNoTracking().ToDictionaryAsync(q => q.Id, q => q.Name, stop),
                Destinations = await db.Destinations.AsNoTracking().ToDictionaryAsync(d => d.Id, d => d.Name, stop),
                Templates = await db.Templates.AsNoTracking()
                    .ToDictionaryAsync(t => t.Id, t => new ReplyTemplate(t.Id, t.Name, t.Body, t.AttachmentName), stop),
                Sorters = await sorters.InUseAsync(db, stop),
                TicketPrefix = options.Value.TicketPrefix,
                OurAddresses = [.. await db.Addresses.AsNoTracking().Select(a => a.Address).ToListAsync(stop)],
                DoNotMail = [.. await db.DoNotMail.AsNoTracking().Select(a => a.AddressOrDomain).ToListAsync(stop)],
            });
    }

    private async Task<IReadOnlyDictionary<long, KeywordList>> ReadListsAsync(PostTideContext db, CancellationToken stop)
    {
        var revisions = await db.KeywordLists.AsNoTracking().Select(k => new { k.Id, k.Revision }).ToListAsync(stop);
        var stale = revisions.Where(r => !_lists.TryGetValue(r.Id, out var kept) || kept.Revision != r.Revision).Select(r => r.Id).ToArray();
        foreach (var record in stale.Length == 0 ? [] : await db.KeywordLists.AsNoTracking().Where(k => stale.Contains(k.Id)).ToListAsync(stop))
        {
            _lists[record.Id] = (record.Revision, new KeywordList(record.Id, record.Name, record.Words, OptionsOf(record)));
        }

        // The same lists give the same dictionary, so that what was worked out with them can be kept.
        lock (_keeping)
        {
            var lists = revisions.Where(r => _lists.ContainsKey(r.Id)).ToDictionary(r => r.Id, r => _lists[r.Id].List);
            if (lists.Count != _keptLists.Count || lists.Any(l => !ReferenceEquals(_keptLists.GetValueOrDefault(l.Key), l.Value)))
            {
                _keptLists = lists;
            }

            return _keptLists;
        }
    }

    private static KeywordOptions OptionsOf(KeywordListRecord record) => new()
    {
        WholeWords = record.WholeWords,
        SameCase = record.SameCase,
        SameAccents = record.SameAccents,
        Endings = record.Endings,
    };

    private static async Task<ActiveHours> ReadDeskAsync(PostTideContext db, CancellationToken stop) =>
        await db.DeskHours.AsNoTracking().SingleOrDefaultAsync(o => o.Id == DeskHours.TheOne, stop) is { } hours
            && ActiveHours.Read(hours.From, hours.Until, hours.Days, hours.Zone) is { } desk
            ? desk
            : MatchContext.UsualDesk;
}
