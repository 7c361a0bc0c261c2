using Microsoft.EntityFrameworkCore;
using PostTide.Core.Filing;
using PostTide.Core.Messages;
using PostTide.Core.Tickets;
using PostTide.Core.Workflows;
using PostTide.Mail;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Engine.Deeds;

/// <summary>A message whose deeds are being recorded: its row, its prepared text and its bytes.</summary>
/// <param name="Row">The arrival.</param>
/// <param name="Prepared">The text decisions rest on.</param>
/// <param name="Raw">The bytes as received.</param>
/// <param name="IsNew">Whether it is being planned for the first time, so that no record refers to it yet.</param>
public sealed record MessageAtHand(Message Row, PreparedMessage Prepared, byte[] Raw, bool IsNew = false)
{
    /// <summary>The record of its prepared text, where that has still to be saved.</summary>
    public Prepared? ToKeep { get; init; }
}

/// <summary>
/// Carries out the deeds that stay inside Post Tide, in the caller's transaction: queue items, tickets, file records. Each
/// gives the words for the deed's history.
/// </summary>
internal sealed class InsideDeeds(PostTideContext db, FileStore files, string ticketPrefix)
{
    /// <summary>The items opened here, by message: looking through all that is tracked for each message costs the square of a batch.</summary>
    private readonly Dictionary<long, Item> _opened = [];

    /// <summary>Places the message in a queue. A message already being worked on moves instead of being there twice.</summary>
    public async Task<string> PlaceAsync(MessageAtHand message, PlaceContent content, DateTimeOffset now, string? person, CancellationToken stop)
    {
        var queue = await db.Queues.FindAsync([content.QueueId], stop) ?? throw new InvalidOperationException("The queue is gone.");
        var item = await FindOpenItemAsync(message, stop);
        if (item is null)
        {
            item = new Item { QueueId = queue.Id, MessageId = message.Row.Id, PlacedAt = now };
            db.Items.Add(item);
            _opened[message.Row.Id] = item;
            AddEntry(item, EntryKind.Opened, $"Placed in {queue.Name}", now, person, message.Row.Id);
        }
        else if (item.QueueId != queue.Id)
        {
            item.QueueId = queue.Id;
            AddEntry(item, EntryKind.HandedOn, $"Handed on to {queue.Name}", now, person, message.Row.Id);
        }

        item.DueAt = content.DueAt ?? item.DueAt;
        return $"Placed in {queue.Name}";
    }

    /// <summary>Opens a ticket or adds to the one named, and gives its reference.</summary>
    public async Task<(Ticket Ticket, string Note)> TicketAsync(
        MessageAtHand message, TicketContent content, DateTimeOffset now, string? person, CancellationToken stop)
    {
        var ticket = content.Reference is { } reference ? await FindTicketAsync(reference, stop) : null;
        if (ticket is not null)
        {
            AddEntry(ticket, EntryKind.Message, message.Prepared.Subject, now, person, message.Row.Id);
            ticket.ChangedAt = now;
            if (ticket.State != TicketState.Open)
            {
                ticket.State = TicketState.Open;
                ticket.ClosedAt = null;
                AddEntry(ticket, EntryKind.Reopened, "Reopened by this message", now, person, message.Row.Id);
            }

            return (ticket, $"Added to {ticket.Reference}");
        }

        var number = await db.Database.SqlQuery<long>($"SELECT nextval('ticket_number') AS \"Value\"").SingleAsync(stop);
        ticket = new Ticket
        {
            Number = number,
            Reference = TicketReference.Format(ticketPrefix, number),
            Label = content.Label,
            Priority = content.Priority,
            Summary = content.Summary,
            Description = content.Description,
            RequesterName = message.Prepared.From.Name,
            RequesterAddress = message.Prepared.From.Address,
            OpenedAt = now,
            ChangedAt = now,
            MessageId = message.Row.Id,
            ConversationId = message.Row.ConversationId,
        };
        db.Tickets.Add(ticket);
        AddEntry(ticket, EntryKind.Opened, $"Opened, {content.Label}", now, person, message.Row.Id);
        return (ticket, $"Opened {ticket.Reference}");
    }

    /// <summary>Saves attachments: the bytes first, then the records. The same content in the same folder is kept once.</summary>
    public async Task<string> FileAsync(MessageAtHand message, FileContent content, Deed deed, DateTimeOffset now, CancellationToken stop)
    {
        var said = new List<string>();
        foreach (var attachment in content.Attachments)
        {
            var bytes = MailReader.AttachmentOf(message.Raw, attachment.Index)
                ?? throw new InvalidOperationException($"The attachment {attachment.Name} cannot be found in the message.");
            var hash = await files.WriteAsync(bytes, stop);
            said.Add(await RecordFileAsync(message, content.Folder, attachment, hash, bytes.Length, deed, now, stop));
        }

        return string.Join("; ", said);
    }

    public static Entry NewEntry(EntryKind kind, string text, DateTimeOffset now, string? person, long? message) =>
        new() { Kind = kind, Text = text, At = now, Person = person, MessageId = message };

    private async Task<string> RecordFileAsync(
        MessageAtHand message, string folder, FiledAttachment attachment, string hash, long size, Deed deed, DateTimeOffset now, CancellationToken stop)
    {
        for (var number = 1; ; number++)
        {
            var name = SafeName.Numbered(attachment.Name, number);
            var taken = db.Files.Local.FirstOrDefault(f => f.Folder == folder && f.Name == name)
                ?? await db.Files.FirstOrDefaultAsync(f => f.Folder == folder && f.Name == name, stop);
            if (taken?.Sha256 == hash)
            {
                return $"{name} is there already with the same content";
            }

            if (taken is not null)
            {
                continue;
            }

            db.Files.Add(new FiledFile
            {
                Folder = folder,
                Name = name,
                Sha256 = hash,
                Size = size,
                DeclaredType = message.Prepared.Attachments[attachment.Index].DeclaredType,
                MessageId = message.Row.Id,
                DeedId = deed.Id,
                FiledAt = now,
            });
            return folder.Length == 0 ? $"Filed {name}" : $"Filed {folder}/{name}";
        }
    }

    /// <summary>A message that is just being planned can only be in a queue by a deed of this very batch.</summary>
    private async Task<Item?> FindOpenItemAsync(MessageAtHand message, CancellationToken stop) =>
        _opened.TryGetValue(message.Row.Id, out var opened) && opened.State != ItemState.Done
            ? opened
            : (message.IsNew ? null : await db.Items.FirstOrDefaultAsync(i => i.MessageId == message.Row.Id && i.State != ItemState.Done, stop));

    private async Task<Ticket?> FindTicketAsync(string reference, CancellationToken stop) =>
        db.Tickets.Local.FirstOrDefault(t => t.Reference == reference)
            ?? await db.Tickets.FirstOrDefaultAsync(t => t.Reference == reference, stop);

    private void AddEntry(Item item, EntryKind kind, string text, DateTimeOffset now, string? person, long? message)
    {
        var entry = NewEntry(kind, text, now, person, message);
        entry.ItemId = item.Id;
        db.Entries.Add(entry);
    }

    private void AddEntry(Ticket ticket, EntryKind kind, string text, DateTimeOffset now, string? person, long? message)
    {
        var entry = NewEntry(kind, text, now, person, message);
        entry.TicketId = ticket.Id;
        db.Entries.Add(entry);
    }
}
