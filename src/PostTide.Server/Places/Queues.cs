using System.Security.Claims;
using Microsoft.EntityFrameworkCore;
using PostTide.Engine;
using PostTide.Engine.Deeds;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Server.Places;

/// <summary>An item of a queue.</summary>
public sealed record ItemRow(
    long Id, long QueueId, long MessageId, string SenderName, string SenderAddress, string Subject, int AttachmentCount, DateTimeOffset PlacedAt,
    DateTimeOffset? DueAt, ItemState State, DateTimeOffset? WaitsUntil, string? TakenBy, bool Mine);

/// <summary>The open and waiting items of a queue, the most pressing first.</summary>
public sealed record QueueItems(long Id, string Name, DateTimeOffset Now, IReadOnlyList<ItemRow> Items, int DoneToday);

/// <summary>An item with its timeline.</summary>
public sealed record ItemView(ItemRow Item, string QueueName, IReadOnlyList<EntryView> Entries);

/// <summary>Handing on to another queue.</summary>
public sealed record HandOnRequest(long QueueId, string? Note);

/// <summary>Setting aside; without a time until somebody takes it up again.</summary>
public sealed record WaitRequest(DateTimeOffset? Until);

/// <summary>A note for the timeline.</summary>
public sealed record NoteRequest(string Text);

/// <summary>Queues and the work on their items.</summary>
internal static class Queues
{
    private const int MostItems = 1_000;
    private const int LongestNote = 10_000;

    public static void MapQueues(this RouteGroupBuilder api)
    {
        var group = api.MapGroup("").WithTags("Queues");
        group.MapGet("/queues", (PostTideContext db, TimeProvider clock, CancellationToken stop) =>
            Today.QueueLoads(db, clock.GetUtcNow()).ToListAsync(stop));
        group.MapGet("/queues/{id:long}/items", ReadItemsAsync);
        group.MapGet("/items/{id:long}", ReadItemAsync);
        var desk = group.MapGroup("/items/{id:long}").RequireAuthorization(Permissions.Desk);
        desk.MapPost("/take", TakeAsync);
        desk.MapPost("/put-back", (long id, ItemChanges change, CancellationToken stop) => change.DoAsync(id, (item, _) =>
        {
            item.TakenById = null;
            return (EntryKind.Changed, "Put back");
        }, stop));
        desk.MapPost("/done", (long id, ItemChanges change, CancellationToken stop) => change.DoAsync(id, (item, now) =>
        {
            (item.State, item.DoneAt, item.WaitsUntil) = (ItemState.Done, now, null);
            return (EntryKind.Done, "Done");
        }, stop));
        desk.MapPost("/reopen", (long id, ItemChanges change, CancellationToken stop) => change.DoAsync(id, (item, _) =>
        {
            (item.State, item.DoneAt, item.WaitsUntil) = (ItemState.Open, null, null);
            return (EntryKind.Reopened, "Taken up again");
        }, stop));
        desk.MapPost("/wait", (long id, WaitRequest request, ItemChanges change, CancellationToken stop) => change.DoAsync(id, (item, _) =>
        {
            (item.State, item.WaitsUntil) = (ItemState.Waiting, request.Until);
            return (EntryKind.Waiting, request.Until is { } until ? $"Waits until {until.UtcDateTime:d MMMM HH:mm} UTC" : "Waits");
        }, stop));
        desk.MapPost("/hand-on", HandOnAsync);
        desk.MapPost("/note", (long id, NoteRequest request, ItemChanges change, CancellationToken stop) =>
            change.DoAsync(id, (_, _) => (EntryKind.Note, NoteText(request)), stop));
    }

    /// <summary>The text of a note, refused when it is empty or too long.</summary>
    internal static string NoteText(NoteRequest request) => string.IsNullOrWhiteSpace(request.Text) ? throw new RefusedException("The note is empty.")
        : request.Text.Length > LongestNote ? throw new RefusedException($"A note has at most {LongestNote} characters.")
        : request.Text.Trim();

    private static async Task<QueueItems> ReadItemsAsync(long id, PostTideContext db, TimeProvider clock, ClaimsPrincipal user, CancellationToken stop)
    {
        var queue = await db.Queues.FindAsync([id], stop) ?? throw new RefusedException("This queue is gone.");
        var now = clock.GetUtcNow();
        var me = user.PersonId();
        var items = await Rows(db.Items.Where(i => i.QueueId == id && i.State != ItemState.Done).OrderBy(i => i.DueAt == null).ThenBy(i => i.DueAt).ThenBy(i => i.Id).Take(MostItems), me)
            .ToListAsync(stop);
        var done = await db.Items.CountAsync(i => i.QueueId == id && i.DoneAt >= now.UtcDateTime.Date.ToUniversalTime(), stop);
        return new QueueItems(queue.Id, queue.Name, now, items, done);
    }

    private static async Task<ItemView> ReadItemAsync(long id, PostTideContext db, ClaimsPrincipal user, CancellationToken stop)
    {
        var row = await Rows(db.Items.Where(i => i.Id == id), user.PersonId()).SingleOrDefaultAsync(stop) ?? throw new RefusedException("This item is gone.");
        var name = await db.Queues.Where(q => q.Id == row.QueueId).Select(q => q.Name).SingleAsync(stop);
        var entries = await db.Entries.AsNoTracking().Where(e => e.ItemId == id).OrderBy(e => e.At).ThenBy(e => e.Id).ToListAsync(stop);
        return new ItemView(row, name, entries.ConvertAll(EntryView.Of));
    }

    internal static IQueryable<ItemRow> Rows(IQueryable<Item> items, long me) => items.AsNoTracking().Select(i => new ItemRow(
        i.Id, i.QueueId, i.MessageId, i.Message.SenderName, i.Message.SenderAddress, i.Message.Subject, i.Message.AttachmentCount, i.PlacedAt,
        i.DueAt, i.State, i.WaitsUntil, i.TakenBy == null ? null : i.TakenBy.DisplayName, i.TakenById == me));

    private static Task TakeAsync(long id, ItemChanges change, ClaimsPrincipal user, CancellationToken stop) => change.DoAsync(id, (item, _) =>
    {
        if (item.TakenById is not null && item.TakenById != user.PersonId())
        {
            throw new RefusedException("Somebody else has taken this item.");
        }

        (item.TakenById, item.State, item.WaitsUntil) = (user.PersonId(), ItemState.Open, null);
        return (EntryKind.Taken, "Taken");
    }, stop);

    private static async Task HandOnAsync(long id, HandOnRequest request, ItemChanges change, PostTideContext db, CancellationToken stop)
    {
        var queue = await db.Queues.FindAsync([request.QueueId], stop) ?? throw new RefusedException("This queue is gone.");
        await change.DoAsync(id, (item, _) =>
        {
            (item.QueueId, item.TakenById) = (queue.Id, null);
            return (EntryKind.HandedOn, string.IsNullOrWhiteSpace(request.Note) ? $"Handed on to {queue.Name}" : $"Handed on to {queue.Name}: {request.Note.Trim()}");
        }, stop);
    }
}

/// <summary>Changes an item and writes the change into its timeline.</summary>
public sealed class ItemChanges(PostTideContext db, TimeProvider clock, IHttpContextAccessor http)
{
    /// <summary>Applies a change, which gives the entry for the timeline.</summary>
    public async Task DoAsync(long id, Func<Item, DateTimeOffset, (EntryKind Kind, string Text)> change, CancellationToken stop)
    {
        var item = await db.Items.SingleOrDefaultAsync(i => i.Id == id, stop) ?? throw new RefusedException("This item is gone.");
        var now = clock.GetUtcNow();
        var (kind, text) = change(item, now);
        db.Entries.Add(new Entry
        {
            ItemId = id,
            Kind = kind,
            Text = text,
            At = now,
            MessageId = item.MessageId,
            Person = http.HttpContext!.User.DisplayName(),
        });
        await db.SaveChangesAsync(stop);
        await db.NotifyAsync(Changes.Queues);
    }
}
