using System.Security.Claims;
using Microsoft.EntityFrameworkCore;
using PostTide.Core.Workflows;
using PostTide.Engine;
using PostTide.Engine.Deeds;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Server.Places;

/// <summary>A ticket in a list.</summary>
public sealed record TicketRow(
    string Reference, string Label, TicketPriority Priority, TicketState State, string Summary, string RequesterName, string RequesterAddress,
    DateTimeOffset OpenedAt, DateTimeOffset ChangedAt);

/// <summary>Tickets found, and how many there are in each state.</summary>
public sealed record TicketList(IReadOnlyList<TicketRow> Tickets, int Open, int Waiting, int Closed, bool More);

/// <summary>One ticket with its timeline, messages and files.</summary>
public sealed record TicketView(
    TicketRow Ticket, string Description, long MessageId, IReadOnlyList<EntryView> Entries, IReadOnlyList<MessageRow> Messages, IReadOnlyList<FileRow> Files);

/// <summary>A change of a ticket; what is left out stays.</summary>
public sealed record TicketChange(TicketState? State, TicketPriority? Priority, string? Label, string? Summary);

/// <summary>Tickets.</summary>
internal static class Tickets
{
    private const int Most = 300;

    public static void MapTickets(this RouteGroupBuilder api)
    {
        var group = api.MapGroup("/tickets").WithTags("Tickets");
        group.MapGet("", ListAsync);
        group.MapGet("/{reference}", ReadAsync);
        group.MapPost("/{reference}/note", NoteAsync).RequireAuthorization(Permissions.Desk);
        group.MapPost("/{reference}/change", ChangeAsync).RequireAuthorization(Permissions.Desk);
    }

    private static async Task<TicketList> ListAsync(PostTideContext db, CancellationToken stop, TicketState? state = null, string text = "")
    {
        var found = db.Tickets.AsNoTracking();
        if (state is { } wanted)
        {
            found = found.Where(t => t.State == wanted);
        }

        if (text.Trim() is { Length: > 0 } words)
        {
            found = found.Where(t => EF.Functions.ILike(t.Reference, $"%{words}%") || EF.Functions.ILike(t.Summary, $"%{words}%")
                || EF.Functions.ILike(t.RequesterAddress, $"%{words}%") || EF.Functions.ILike(t.RequesterName, $"%{words}%"));
        }

        var rows = await found.OrderByDescending(t => t.ChangedAt).Take(Most + 1).Select(t => new TicketRow(
            t.Reference, t.Label, t.Priority, t.State, t.Summary, t.RequesterName, t.RequesterAddress, t.OpenedAt, t.ChangedAt)).ToListAsync(stop);
        var counts = await db.Tickets.GroupBy(t => t.State).Select(g => new { g.Key, Count = g.Count() }).ToDictionaryAsync(g => g.Key, g => g.Count, stop);
        return new TicketList(
            [.. rows.Take(Most)], counts.GetValueOrDefault(TicketState.Open), counts.GetValueOrDefault(TicketState.Waiting),
            counts.GetValueOrDefault(TicketState.Closed), rows.Count > Most);
    }

    private static async Task<TicketView> ReadAsync(string reference, PostTideContext db, CancellationToken stop)
    {
        var t = await FindAsync(db, reference, stop);
        var entries = await db.Entries.AsNoTracking().Where(e => e.TicketId == t.Id).OrderBy(e => e.At).ThenBy(e => e.Id).ToListAsync(stop);
        var messages = await db.Messages.AsNoTracking()
            .Where(m => m.Id == t.MessageId || (t.ConversationId != null && m.ConversationId == t.ConversationId) || db.Entries.Any(e => e.TicketId == t.Id && e.MessageId == m.Id))
            .OrderBy(m => m.ArrivedAt).ToListAsync(stop);
        var ids = messages.Select(m => m.Id).ToArray();
        var files = await db.Files.AsNoTracking().Where(f => ids.Contains(f.MessageId)).OrderBy(f => f.FiledAt).ToListAsync(stop);
        return new TicketView(
            new TicketRow(t.Reference, t.Label, t.Priority, t.State, t.Summary, t.RequesterName, t.RequesterAddress, t.OpenedAt, t.ChangedAt),
            t.Description, t.MessageId, entries.ConvertAll(EntryView.Of), messages.ConvertAll(MessageRow.Of), files.ConvertAll(FileRow.Of));
    }

    private static async Task NoteAsync(string reference, NoteRequest request, PostTideContext db, TimeProvider clock, ClaimsPrincipal user, CancellationToken stop)
    {
        var ticket = await FindAsync(db, reference, stop);
        Add(db, ticket, EntryKind.Note, Queues.NoteText(request), clock, user);
        await db.SaveChangesAsync(stop);
        await db.NotifyAsync(Changes.Tickets);
    }

    private static async Task ChangeAsync(
        string reference, TicketChange change, PostTideContext db, TimeProvider clock, ClaimsPrincipal user, CancellationToken stop)
    {
        var ticket = await FindAsync(db, reference, stop);
        if (change.State is { } state && state != ticket.State)
        {
            ticket.State = state;
            ticket.ClosedAt = state == TicketState.Closed ? clock.GetUtcNow() : null;
            var (kind, text) = state switch
            {
                TicketState.Closed => (EntryKind.Done, "Closed"),
                TicketState.Waiting => (EntryKind.Waiting, "Waits"),
                _ => (EntryKind.Reopened, "Opened again"),
            };
            Add(db, ticket, kind, text, clock, user);
        }

        if (change.Priority is { } priority && priority != ticket.Priority)
        {
            Add(db, ticket, EntryKind.Changed, $"Priority {Lower(ticket.Priority)} → {Lower(priority)}", clock, user);
            ticket.Priority = priority;
        }

        if (change.Label?.Trim() is { Length: > 0 } label && label != ticket.Label)
        {
            Add(db, ticket, EntryKind.Changed, $"Kind {ticket.Label} → {label}", clock, user);
            ticket.Label = label;
        }

        if (change.Summary?.Trim() is { Length: > 0 } summary && summary != ticket.Summary)
        {
            Add(db, ticket, EntryKind.Changed, $"Summary {ticket.Summary} → {summary}", clock, user);
            ticket.Summary = summary;
        }

        await db.SaveChangesAsync(stop);
        await db.NotifyAsync(Changes.Tickets);
    }

    private static string Lower(TicketPriority priority) => priority.ToString().ToLowerInvariant();

    private static async Task<Ticket> FindAsync(PostTideContext db, string reference, CancellationToken stop) =>
        await db.Tickets.SingleOrDefaultAsync(t => t.Reference == reference, stop) ?? throw new RefusedException($"There is no ticket {reference}.");

    private static void Add(PostTideContext db, Ticket ticket, EntryKind kind, string text, TimeProvider clock, ClaimsPrincipal user)
    {
        ticket.ChangedAt = clock.GetUtcNow();
        db.Entries.Add(new Entry { TicketId = ticket.Id, Kind = kind, Text = text, At = ticket.ChangedAt, Person = user.DisplayName() });
    }
}
