using System.Collections.Immutable;
using System.Security.Claims;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using PostTide.Core.Filing;
using PostTide.Core.Messages;
using PostTide.Core.Workflows;
using PostTide.Engine.Arrivals;
using PostTide.Engine.Deeds;
using PostTide.Mail;
using PostTide.Store;
using PostTide.Store.Records;
using PostTide.Store.Search;

namespace PostTide.Server.Places;

/// <summary>One message with everything that was decided and done about it.</summary>
/// <param name="Row">The message as in a list.</param>
/// <param name="Mailbox">The mailbox it arrived in.</param>
/// <param name="Size">Bytes as received.</param>
/// <param name="SenderCheck">What was found out about its sender, where only approved ones may write.</param>
/// <param name="Prepared">The text decisions rest on; null when the message could not be read.</param>
/// <param name="HasHtml">Whether there is an HTML part to show.</param>
/// <param name="DuplicateOfId">The message it is a copy of.</param>
/// <param name="Verdicts">What each workflow made of it, with its reasons.</param>
/// <param name="Deeds">What was planned and done.</param>
/// <param name="Conversation">The other messages of its conversation.</param>
/// <param name="Tickets">The references of its tickets.</param>
/// <param name="Items">Where it lies in queues.</param>
/// <param name="Files">Files saved from it.</param>
public sealed record MessageView(
    MessageRow Row, string Mailbox, long Size, string? SenderCheck, PreparedMessage? Prepared, bool HasHtml, long? DuplicateOfId, ImmutableArray<Verdict> Verdicts,
    IReadOnlyList<DeedView> Deeds, IReadOnlyList<MessageRow> Conversation, IReadOnlyList<string> Tickets, IReadOnlyList<ItemView> Items,
    IReadOnlyList<FileRow> Files);

/// <summary>Placing by hand.</summary>
public sealed record PlaceRequest(long QueueId, int? DueInMinutes);

/// <summary>Opening a ticket by hand, or adding to the message's ticket.</summary>
public sealed record TicketRequest(string Label, TicketPriority Priority);

/// <summary>Filing by hand.</summary>
public sealed record FileRequest(string Folder);

/// <summary>Passing on by hand.</summary>
public sealed record PassOnRequest(long DestinationId);

/// <summary>A reply by hand.</summary>
public sealed record ReplyRequest(string To, string Body, long? TemplateId);

/// <summary>Held messages to let go on.</summary>
public sealed record ReleaseRequest(IReadOnlyList<long> MessageIds);

/// <summary>Mail: search, and one message with its reasons and deeds.</summary>
internal static class MailPlace
{
    private const int ExportedAtOnce = 50;

    public static void MapMail(this RouteGroupBuilder api)
    {
        var group = api.MapGroup("/messages").WithTags("Mail");
        group.MapGet("", SearchAsync);
        group.MapGet("/export", ExportAsync).ExcludeFromDescription();
        group.MapGet("/{id:long}", ReadAsync);
        group.MapGet("/{id:long}/html", ReadHtmlAsync).ExcludeFromDescription();
        group.MapGet("/{id:long}/raw", ReadRawAsync).ExcludeFromDescription();
        group.MapGet("/{id:long}/attachments/{index:int}", ReadAttachmentAsync).ExcludeFromDescription();
        group.MapPost("/release", ReleaseAsync).RequireAuthorization(Permissions.Keeper);
        var desk = group.MapGroup("/{id:long}").RequireAuthorization(Permissions.Desk);
        desk.MapPost("/place", (long id, PlaceRequest r, DeedsByHand hand, ClaimsPrincipal user, CancellationToken stop) =>
            DoAsync(hand, id, new Line { Queues = [new PlaceSpec(r.QueueId, r.DueInMinutes)] }, user, stop));
        desk.MapPost("/ticket", (long id, TicketRequest r, DeedsByHand hand, ClaimsPrincipal user, CancellationToken stop) =>
            DoAsync(hand, id, new Line { Ticket = new TicketSpec(TicketMode.OpenOrAdd, r.Label, r.Priority) }, user, stop));
        desk.MapPost("/file", (long id, FileRequest r, DeedsByHand hand, ClaimsPrincipal user, CancellationToken stop) =>
            DoAsync(hand, id, new Line { Files = [new FileSpec(r.Folder, [])] }, user, stop));
        desk.MapPost("/pass-on", (long id, PassOnRequest r, DeedsByHand hand, ClaimsPrincipal user, CancellationToken stop) =>
            DoAsync(hand, id, new Line { PassOns = [new PassOnSpec(r.DestinationId)] }, user, stop));
        desk.MapGet("/reply-draft", (long id, long? templateId, DeedsByHand hand, CancellationToken stop) => hand.DraftAsync(id, templateId, stop));
        desk.MapPost("/reply", (long id, ReplyRequest r, DeedsByHand hand, ClaimsPrincipal user, CancellationToken stop) =>
            hand.ReplyAsync(id, r.To, r.Body, r.TemplateId, user.DisplayName(), stop));
    }

    private static async Task<IReadOnlyList<string>> DoAsync(DeedsByHand hand, long id, Line line, ClaimsPrincipal user, CancellationToken stop) =>
        [.. (await hand.DoAsync(id, line, user.DisplayName(), stop)).Select(d => d.Says)];

    private static async Task<MessagePage> SearchAsync(
        PostTideContext db, CancellationToken stop, string text = "", long? mailboxId = null, MessageShow show = MessageShow.All, long? workflowId = null,
        DateTimeOffset? from = null, DateTimeOffset? until = null, DateTimeOffset? beforeTime = null, long? beforeId = null, long? runId = null)
    {
        var found = MessageSearch.Find(db, new MessageQuery(text, mailboxId, show, from?.ToUniversalTime(), until?.ToUniversalTime(), workflowId, runId));
        var page = await MessageSearch.Page(found, beforeTime?.ToUniversalTime(), beforeId).ToListAsync(stop);
        var last = page.Count == MessageSearch.PageSize ? page[^1] : null;
        return new MessagePage(
            page.ConvertAll(MessageRow.Of), last?.ArrivedAt, last?.Id, beforeId is null ? await found.CountAsync(stop) : null);
    }

    /// <summary>Everything a search finds as one mbox file (RFC 4155), oldest first, written as it is read.</summary>
    private static PushStreamHttpResult Export(PostTideContext db, MessageQuery query, CancellationToken stop) => TypedResults.Stream(
        async body =>
        {
            var rows = await MessageSearch.Find(db, query).OrderBy(m => m.ArrivedAt).ThenBy(m => m.Id)
                .Select(m => new { m.RawSha256, m.EnvelopeFrom, m.SenderAddress, m.ArrivedAt }).ToListAsync(stop);
            foreach (var chunk in rows.Chunk(ExportedAtOnce))
            {
                var hashes = chunk.Select(r => r.RawSha256).Distinct().ToArray();
                var raws = await db.Raws.AsNoTracking().Where(r => hashes.Contains(r.Sha256)).ToDictionaryAsync(r => r.Sha256, r => r.Bytes, stop);
                foreach (var row in chunk)
                {
                    await MboxWriter.WriteAsync(body, row.EnvelopeFrom ?? row.SenderAddress, row.ArrivedAt, raws[row.RawSha256], stop);
                }
            }
        },
        "application/mbox", "mail.mbox");

    private static PushStreamHttpResult ExportAsync(
        PostTideContext db, CancellationToken stop, string text = "", long? mailboxId = null, MessageShow show = MessageShow.All, long? workflowId = null,
        DateTimeOffset? from = null, DateTimeOffset? until = null, long? runId = null) =>
        Export(db, new MessageQuery(text, mailboxId, show, from?.ToUniversalTime(), until?.ToUniversalTime(), workflowId, runId), stop);

    /// <summary>Lets held messages go on as if they had just arrived.</summary>
    private static async Task<int> ReleaseAsync(ReleaseRequest request, PostTideContext db, ArrivalSignal signal, ClaimsPrincipal user, CancellationToken stop)
    {
        var name = user.DisplayName();
        var released = await db.Messages.Where(m => request.MessageIds.Contains(m.Id) && m.State == MessageState.Held)
            .ExecuteUpdateAsync(s => s.SetProperty(m => m.State, MessageState.Arrived).SetProperty(m => m.ReleasedBy, name), stop);
        signal.Arrived();
        return released;
    }

    private static async Task<Results<Ok<MessageView>, NotFound>> ReadAsync(long id, PostTideContext db, ClaimsPrincipal user, CancellationToken stop)
    {
        var row = await db.Messages.AsNoTracking().SingleOrDefaultAsync(m => m.Id == id, stop);
        if (row is null)
        {
            return TypedResults.NotFound();
        }

        var prepared = await db.Prepared.AsNoTracking().Where(p => p.MessageId == id).Select(p => p.Document).SingleOrDefaultAsync(stop);
        var verdicts = await db.Plans.AsNoTracking().Where(p => p.MessageId == id && p.Current).Select(p => p.Verdicts).SingleOrDefaultAsync(stop);
        var deeds = await DeedView.Select(db, db.Deeds.Where(d => d.MessageId == id).OrderBy(d => d.Id)).ToListAsync(stop);
        var conversation = await db.Messages.AsNoTracking().Where(m => m.ConversationId != null && m.ConversationId == row.ConversationId && m.Id != id)
            .OrderBy(m => m.ArrivedAt).Take(100).ToListAsync(stop);
        var tickets = await db.Tickets.AsNoTracking()
            .Where(t => t.MessageId == id || (t.ConversationId != null && t.ConversationId == row.ConversationId) || db.Entries.Any(e => e.TicketId == t.Id && e.MessageId == id))
            .OrderBy(t => t.Number).Select(t => t.Reference).ToListAsync(stop);
        var files = await db.Files.AsNoTracking().Where(f => f.MessageId == id).ToListAsync(stop);
        var mailbox = await db.Mailboxes.Where(m => m.Id == row.MailboxId).Select(m => m.Name).SingleAsync(stop);
        return TypedResults.Ok(new MessageView(
            MessageRow.Of(row), mailbox, row.Size, row.SenderCheck, prepared, prepared is not null && await HasHtmlAsync(db, row, stop), row.DuplicateOfId,
            verdicts.IsDefault ? [] : verdicts, deeds, conversation.ConvertAll(MessageRow.Of), tickets, await ReadItemsAsync(db, id, user, stop),
            files.ConvertAll(FileRow.Of)));
    }

    private static async Task<List<ItemView>> ReadItemsAsync(PostTideContext db, long id, ClaimsPrincipal user, CancellationToken stop)
    {
        var rows = await Queues.Rows(db.Items.Where(i => i.MessageId == id).OrderBy(i => i.Id), user.PersonId()).ToListAsync(stop);
        var names = await db.Queues.ToDictionaryAsync(q => q.Id, q => q.Name, stop);
        var ids = rows.Select(r => r.Id).ToArray();
        var entries = await db.Entries.AsNoTracking().Where(e => e.ItemId != null && ids.Contains(e.ItemId.Value)).OrderBy(e => e.At).ThenBy(e => e.Id).ToListAsync(stop);
        return rows.ConvertAll(r => new ItemView(r, names[r.QueueId], [.. entries.Where(e => e.ItemId == r.Id).Select(EntryView.Of)]));
    }

    private static async Task<bool> HasHtmlAsync(PostTideContext db, Message row, CancellationToken stop) =>
        await RawOfAsync(db, row, stop) is { } raw && MailReader.HtmlOf(raw) is not null;

    /// <summary>The HTML part made safe, as a page that may load and run nothing, for a sandboxed frame.</summary>
    private static async Task<Results<ContentHttpResult, NotFound>> ReadHtmlAsync(long id, HttpContext http, PostTideContext db, CancellationToken stop)
    {
        if (await db.Messages.AsNoTracking().SingleOrDefaultAsync(m => m.Id == id, stop) is not { State: MessageState.Planned or MessageState.Held } row
            || MailReader.HtmlOf((await RawOfAsync(db, row, stop))!) is not { } html)
        {
            return TypedResults.NotFound();
        }

        http.Response.Headers.ContentSecurityPolicy =
            "default-src 'none'; style-src 'unsafe-inline'; frame-ancestors 'self'; sandbox allow-popups allow-popups-to-escape-sandbox";
        var shown = SafeHtml.Clean(html);
        var note = shown is null ? "This HTML is too long or too deeply nested to be shown. The text beside it is complete." : shown.Note;
        var banner = note is null ? "" : $"<p style=\"color:#53636d;font-size:12px;border-bottom:1px solid #d8d3c3;padding-bottom:6px\">{note}</p>";
        return TypedResults.Content(
            "<!doctype html><meta charset=utf-8><title>Message</title>"
            + "<body style=\"font:14px/1.5 system-ui,sans-serif;color:#13222c;background:#fffefb;margin:12px;overflow-wrap:anywhere\">"
            + banner + shown?.Html, "text/html; charset=utf-8");
    }

    private static async Task<Results<FileStreamHttpResult, NotFound>> ReadRawAsync(long id, PostTideContext db, CancellationToken stop)
    {
        var row = await db.Messages.AsNoTracking().SingleOrDefaultAsync(m => m.Id == id, stop);
        return row is null ? TypedResults.NotFound() : Downloads.Of(new MemoryStream((await RawOfAsync(db, row, stop))!), $"message-{id}.eml");
    }

    private static async Task<Results<FileStreamHttpResult, NotFound>> ReadAttachmentAsync(long id, int index, PostTideContext db, CancellationToken stop)
    {
        var row = await db.Messages.AsNoTracking().SingleOrDefaultAsync(m => m.Id == id && (m.State == MessageState.Planned || m.State == MessageState.Held), stop);
        var prepared = await db.Prepared.AsNoTracking().Where(p => p.MessageId == id).Select(p => p.Document).SingleOrDefaultAsync(stop);
        return row is not null && prepared is not null && MailReader.AttachmentOf((await RawOfAsync(db, row, stop))!, index) is { } bytes
            ? Downloads.Of(new MemoryStream(bytes), SafeName.File(prepared.Attachments[index].Name))
            : TypedResults.NotFound();
    }

    private static Task<byte[]?> RawOfAsync(PostTideContext db, Message row, CancellationToken stop) =>
        db.Raws.AsNoTracking().Where(r => r.Sha256 == row.RawSha256).Select(r => (byte[]?)r.Bytes).SingleOrDefaultAsync(stop);
}
