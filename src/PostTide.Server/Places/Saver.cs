using Microsoft.EntityFrameworkCore;
using PostTide.Engine;
using PostTide.Engine.Deeds;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Server.Places;

/// <summary>Saves what is set up, writes it into the audit log and tells the pages.</summary>
public sealed class Saver(PostTideContext db, TimeProvider clock, IHttpContextAccessor http)
{
    public PostTideContext Db => db;

    /// <summary>The record with this id, or a new one for the id 0.</summary>
    public async Task<T> FindOrAddAsync<T>(long id, Func<T> make, CancellationToken stop)
        where T : class
    {
        if (id != 0)
        {
            return await db.Set<T>().FindAsync([id], stop) ?? throw new RefusedException("This was removed in the meantime. Nothing was saved.");
        }

        var made = make();
        db.Add(made);
        return made;
    }

    public async Task SaveAsync(string what, CancellationToken stop)
    {
        db.Audit.Add(new AuditEntry { At = clock.GetUtcNow(), Person = http.HttpContext!.User.DisplayName(), What = what });
        await db.SaveChangesAsync(stop);
        await db.NotifyAsync(Changes.Setup);
    }

    /// <summary>Removes a record unless a workflow or other records still use it.</summary>
    public async Task RemoveAsync<T>(long id, string kind, CancellationToken stop)
        where T : class
    {
        var record = await db.Set<T>().FindAsync([id], stop) ?? throw new RefusedException($"This {kind} is gone already.");
        await RefuseIfOnASheetAsync<T>(id, kind, stop);
        db.Remove(record);
        await SaveAsync($"Removed a {kind}", stop);
    }

    private async Task RefuseIfOnASheetAsync<T>(long id, string kind, CancellationToken stop)
    {
        var workflows = await db.Workflows.AsNoTracking().Include(w => w.Editions.Where(e => e.State != EditionState.Past)).ToListAsync(stop);
        var users = workflows.Where(w => w.Editions.Any(e => SheetUse.Uses<T>(e.Sheet, id))).Select(w => $"“{w.Name}”").ToList();
        var conditions = typeof(T) == typeof(KeywordListRecord) ? await db.SavedConditions.AsNoTracking().ToListAsync(stop) : [];
        users.AddRange(conditions.Where(c => c.Set.Leaves().Any(l => l.KeywordListId == id)).Select(c => $"the saved condition “{c.Name}”"));
        if (users.Count > 0)
        {
            throw new RefusedException($"This {kind} is used by {string.Join(" and ", users)}, so it was kept.");
        }
    }
}

/// <summary>Finds what a sheet refers to.</summary>
internal static class SheetUse
{
    public static bool Uses<T>(Core.Workflows.Sheet sheet, long id) => typeof(T).Name switch
    {
        nameof(Queue) => sheet.Lines.Any(l => l.Queues.Any(q => q.QueueId == id)),
        nameof(Template) => sheet.Lines.Any(l => l.Replies.Any(r => r.TemplateId == id)),
        nameof(Destination) => sheet.Lines.Any(l => l.PassOns.Any(p => p.DestinationId == id)),
        nameof(KeywordListRecord) => sheet.Sets().Any(s => s.Set.Leaves().Any(c => c.KeywordListId == id)),
        nameof(SavedConditionRecord) => sheet.Sets().Any(s => s.Set.Leaves().Any(c => c.SavedId == id)),
        _ => false,
    };
}
