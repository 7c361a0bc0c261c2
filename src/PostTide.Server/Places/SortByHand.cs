using System.Security.Claims;
using Microsoft.EntityFrameworkCore;
using PostTide.Core.Sorting;
using PostTide.Engine;
using PostTide.Engine.CatchUps;
using PostTide.Engine.Sorting;
using PostTide.Store;
using PostTide.Store.Records;
using PostTide.Store.Search;

namespace PostTide.Server.Places;

/// <summary>Sorting by hand: a person decides about one message, the sorter learns from it, and the workflow goes on with it.</summary>
internal static class SortByHand
{
    public static void MapSortByHand(this RouteGroupBuilder api)
    {
        var group = api.MapGroup("/messages/{messageId:long}/sorting").WithTags("Sorters");
        group.MapGet("", ReadAsync);
        group.MapPost("/{sorterId:long}", DecideAsync).RequireAuthorization(Permissions.Desk);
    }

    /// <summary>What each sorter that was asked about a message says, and what people said.</summary>
    private static async Task<List<MessageSorting>> ReadAsync(long messageId, PostTideContext db, SorterLooks looks, SorterLibrary library, SorterNumbers numbers, CancellationToken stop)
    {
        var asked = await db.Sorted.AsNoTracking().Where(s => s.MessageId == messageId).ToListAsync(stop);
        var labels = await db.SorterLabels.AsNoTracking().Where(l => l.MessageId == messageId).ToListAsync(stop);
        var inUse = await library.InUseAsync(db, stop);
        var views = new List<MessageSorting>();
        foreach (var id in asked.Select(s => s.SorterId).Union(labels.Select(l => l.SorterId)))
        {
            var settings = (await OutsideAsker.SettingsAsync(db, [id], stop)).GetValueOrDefault(id) ?? SorterSettings.Empty;
            var said = asked.FirstOrDefault(s => s.SorterId == id);
            var label = labels.FirstOrDefault(l => l.SorterId == id);
            var sureties = inUse.GetValueOrDefault(id) is { Trained: not null } sorter
                ? (await looks.LookAsync(db, sorter, messageId, stop)).Sureties
                : [.. settings.Categories.Select(c => new CategorySurety(c.Id, 0)), new CategorySurety(null, 0)];
            views.Add(new MessageSorting(
                id, inUse.GetValueOrDefault(id)?.Name ?? "", sureties, [.. (await numbers.UsedByAsync(id, stop)).Select(u => new Named(u.Id, u.Name))],
                said?.CategoryId, said?.Unsure ?? true, settings.Categories.ToDictionary(c => c.Id, c => c.Name), label is not null, label?.CategoryId, label?.By));
        }

        return views;
    }

    /// <summary>Keeps a decision, and has the workflows that asked the sorter go on with it.</summary>
    /// <returns>The runs that carry the workflows out.</returns>
    private static async Task<List<long>> DecideAsync(
        long messageId, long sorterId, SortByHandRequest r, PostTideContext db, SorterLabels labels, SorterNumbers numbers, CatchUpRuns runs, TimeProvider clock,
        ClaimsPrincipal user, CancellationToken stop)
    {
        var person = user.DisplayName();
        var said = await db.Sorted.AsNoTracking().SingleOrDefaultAsync(s => s.SorterId == sorterId && s.MessageId == messageId, stop);
        await labels.SetAsync(sorterId, messageId, r.CategoryId, said is { Unsure: false } ? LabelSource.NotRight : LabelSource.SortedByHand, person, stop);
        if (r.ItemId is { } itemId && await db.Items.SingleOrDefaultAsync(i => i.Id == itemId && i.MessageId == messageId, stop) is { } item)
        {
            var now = clock.GetUtcNow();
            (item.State, item.DoneAt, item.WaitsUntil) = (ItemState.Done, now, null);
            var settings = (await OutsideAsker.SettingsAsync(db, [sorterId], stop))[sorterId];
            db.Entries.Add(new Entry { ItemId = itemId, Kind = EntryKind.Done, Text = $"Sorted as {SorterAdvice.NameOf(settings, r.CategoryId)}", At = now, MessageId = messageId, Person = person });
            await db.SaveChangesAsync(stop);
            await db.NotifyAsync(Changes.Queues);
        }

        var started = new List<long>();
        if (r.CarryOut)
        {
            var live = await db.Workflows.AsNoTracking().Where(w => w.Editions.Any(e => e.State == EditionState.Live)).Select(w => w.Id).ToListAsync(stop);
            foreach (var (workflowId, _) in (await numbers.UsedByAsync(sorterId, stop)).Where(u => live.Contains(u.Id)))
            {
                var run = await runs.DraftAsync(workflowId, new CatchUpChoice(new MessageQuery(), [messageId], 1), sendReplies: true, person, stop);
                await runs.ConfirmAsync(run.Id, stop);
                started.Add(run.Id);
            }
        }

        return started;
    }
}
