using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Options;
using PostTide.Core.Workflows;
using PostTide.Destinations;
using PostTide.Engine.Mailboxes;
using PostTide.Mail;
using PostTide.Mail.Imap;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Engine.Deeds;

/// <summary>Another handler is carrying this deed out just now; the durable message is tried again later.</summary>
public sealed class DeedBusyException(Guid deed) : Exception($"The deed {deed} is being carried out elsewhere.");

/// <summary>
/// Carries out deeds that reach outside: replies, passing on, effects in the mailbox. The deed's record decides, not the message that points at
/// it: a stopped or finished deed is left alone, a failed try is recorded together with the hand-over of the next one.
/// </summary>
public sealed class OutsideDeeds(
    IServiceScopeFactory scopes, FileStore files, MailSender sender, IHttpClientFactory http, MailboxEffects mailboxes, IOptions<EngineOptions> options,
    TimeProvider clock)
{
    /// <summary>The name of the HTTP client for destinations.</summary>
    public const string HttpClientName = "destinations";

    private static readonly DeedState[] Unfinished = [DeedState.Waiting, DeedState.Delayed, DeedState.UnderWay];

    /// <summary>Carries out one deed, or does nothing when there is nothing left to do.</summary>
    public async Task CarryOutAsync(Guid key, CancellationToken stop)
    {
        await using var scope = scopes.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<PostTideContext>();
        var id = await db.Deeds.Where(d => d.Key == key && Unfinished.Contains(d.State)).Select(d => (long?)d.Id).SingleOrDefaultAsync(stop);
        if (id is null)
        {
            return;
        }

        // A lock of the session: it goes with the connection, so a killed process never leaves it behind.
        await db.Database.OpenConnectionAsync(stop);
        if (!await db.Database.SqlQuery<bool>($"SELECT pg_try_advisory_lock({id.Value}) AS \"Value\"").SingleAsync(stop))
        {
            throw new DeedBusyException(key);
        }

        try
        {
            await TryOnceAsync(id.Value, stop);
        }
        finally
        {
            await db.Database.ExecuteSqlAsync($"SELECT pg_advisory_unlock({id.Value})", CancellationToken.None);
            await db.Database.CloseConnectionAsync();
        }
    }

    private async Task TryOnceAsync(long id, CancellationToken stop)
    {
        await using var scope = scopes.CreateAsyncScope();
        var outbox = scope.ServiceProvider.GetRequiredService<IDeedOutbox>();
        var db = outbox.Db;
        var deed = await db.Deeds.SingleAsync(d => d.Id == id, stop);
        if (!Unfinished.Contains(deed.State))
        {
            return;
        }

        var reply = deed.Kind == DeedKind.Reply ? await db.Replies.SingleAsync(r => r.DeedId == id, stop) : null;
        Begin(deed, reply);
        await db.SaveChangesAsync(stop);
        var (result, says) = await TryAsync(db, deed, reply, stop);

        // What came of it is recorded together with the hand-over of the next try, whatever else is being stopped.
        await using var transaction = await db.Database.BeginTransactionAsync(CancellationToken.None);
        deed.NotBefore = null;
        switch (result)
        {
            case Tried.Done:
                DeedRecorder.Move(deed, DeedState.Done, clock.GetUtcNow(), says);
                await AddToTimelinesAsync(db, deed, reply, CancellationToken.None);
                break;
            case Tried.Pointless:
                DeedRecorder.Move(deed, DeedState.Skipped, clock.GetUtcNow(), says);
                break;
            default:
                await FailAsync(outbox, deed, says, result == Tried.Never);
                break;
        }

        await db.NotifyAsync(Changes.Deeds, Changes.Replies, Changes.Tickets, Changes.Queues);
        await outbox.CommitAsync(CancellationToken.None);
    }

    /// <summary>Reaches out once, and gives the other side's answer or what went wrong.</summary>
    private async Task<(Tried Result, string Says)> TryAsync(PostTideContext db, Deed deed, Reply? reply, CancellationToken stop)
    {
        try
        {
            return (Tried.Done, deed.Kind switch
            {
                DeedKind.Reply => await SendAsync(reply!, stop),
                DeedKind.Mailbox => await ApplyAsync(db, deed, stop),
                _ => await PassOnAsync(db, deed, stop),
            });
        }
        catch (SendFailedException e)
        {
            reply!.Uncertain |= e.Uncertain;
            return (e.Final ? Tried.Never : Tried.Failed, e.Message);
        }
        catch (MessageGoneException e)
        {
            return (Tried.Pointless, e.Message);
        }
        catch (Exception e) when (e is PassingOnFailedException or MailboxTroubleException)
        {
            return (Tried.Failed, e.Message);
        }
        catch (Exception e) when (e is FileNotFoundException or InvalidOperationException or FormatException or MailboxRefusedException)
        {
            return (Tried.Never, e.Message);
        }
    }

    /// <summary>Marks the try before it is made. A try already marked was cut off, and may have reached the other side.</summary>
    private void Begin(Deed deed, Reply? reply)
    {
        var cutOff = deed.State == DeedState.UnderWay;
        deed.MayHaveBegun |= cutOff;
        if (cutOff && reply is not null)
        {
            reply.Uncertain = true;
        }

        deed.Attempts++;
        DeedRecorder.Move(deed, DeedState.UnderWay, clock.GetUtcNow(), cutOff ? "The try before was cut off; this one carries the same identifier" : null);
    }

    private async Task FailAsync(IDeedOutbox outbox, Deed deed, string why, bool final)
    {
        var waits = options.Value.Waits;
        var now = clock.GetUtcNow();
        deed.MayHaveBegun = true;
        if (final || deed.Attempts > waits.Count)
        {
            DeedRecorder.Move(deed, DeedState.Stuck, now, why);
            return;
        }

        deed.NotBefore = now.AddSeconds(waits[deed.Attempts - 1]);
        DeedRecorder.Move(deed, DeedState.Waiting, now, why);
        deed.Because = why;
        await outbox.HandOverAsync(deed);
    }

    private async Task<string> SendAsync(Reply reply, CancellationToken stop)
    {
        byte[]? attachment = null;
        if (reply.AttachmentSha256 is { } hash)
        {
            await using var file = files.Open(hash);
            using var memory = new MemoryStream();
            await file.CopyToAsync(memory, stop);
            attachment = memory.ToArray();
        }

        var outgoing = new OutgoingReply(
            reply.From, options.Value.OfficeName, reply.To, reply.Subject, reply.Body, reply.MailId, reply.InReplyTo,
            reply.References, reply.Automatic, reply.AttachmentName, attachment);
        return await sender.SendAsync(ReplyMail.Write(outgoing, clock.GetUtcNow()), stop);
    }

    private async Task<string> ApplyAsync(PostTideContext db, Deed deed, CancellationToken stop)
    {
        var message = await db.Messages.SingleAsync(m => m.Id == deed.MessageId, stop);
        return await mailboxes.ApplyAsync(db, message, (MailboxContent)deed.Content, deed.MayHaveBegun, stop);
    }

    private async Task<string> PassOnAsync(PostTideContext db, Deed deed, CancellationToken stop)
    {
        var content = (PassOnContent)deed.Content;
        var destination = await db.Destinations.AsNoTracking().SingleOrDefaultAsync(d => d.Id == content.DestinationId, stop)
            ?? throw new InvalidOperationException("The destination is gone.");
        var message = await db.Messages.AsNoTracking().SingleAsync(m => m.Id == deed.MessageId, stop);
        var workflow = await db.Workflows.Where(w => w.Id == deed.WorkflowId).Select(w => w.Name).SingleOrDefaultAsync(stop);
        var ticket = await db.Tickets.Where(t => t.ConversationId == message.ConversationId && t.ConversationId != null)
            .OrderByDescending(t => t.Number).Select(t => t.Reference).FirstOrDefaultAsync(stop);
        var record = new PassedOn(
            message.Id, workflow, message.Subject, message.SenderAddress, message.ArrivedAt, ticket,
            content.Facts.ToDictionary(f => f.Name, f => f.Value));
        return await new HttpDestination(http.CreateClient(HttpClientName)).PassOnAsync(destination.Url, deed.Key, record, stop);
    }

    private async Task AddToTimelinesAsync(PostTideContext db, Deed deed, Reply? reply, CancellationToken stop)
    {
        if (deed.Kind == DeedKind.Mailbox)
        {
            return;
        }

        var kind = reply is null ? EntryKind.PassedOn : EntryKind.Reply;
        var text = reply is null ? deed.Says : $"Reply sent to {reply.To}";
        var items = await db.Items.Where(i => i.MessageId == deed.MessageId && i.State != ItemState.Done).Select(i => i.Id).ToListAsync(stop);
        var tickets = await db.Messages.Where(m => m.Id == deed.MessageId && m.ConversationId != null)
            .SelectMany(m => db.Tickets.Where(t => t.ConversationId == m.ConversationId)).Select(t => t.Id).ToListAsync(stop);
        foreach (var (item, ticket) in items.Select(i => ((long?)i, (long?)null)).Concat(tickets.Select(t => ((long?)null, (long?)t))))
        {
            var entry = InsideDeeds.NewEntry(kind, text, clock.GetUtcNow(), reply?.CheckedBy, deed.MessageId);
            (entry.ItemId, entry.TicketId, entry.DeedId) = (item, ticket, deed.Id);
            db.Entries.Add(entry);
        }
    }
}

/// <summary>What came of a try.</summary>
internal enum Tried
{
    Done,

    /// <summary>It may go better later.</summary>
    Failed,

    /// <summary>It cannot go better, however often it is tried.</summary>
    Never,

    /// <summary>There is nothing left to do it to.</summary>
    Pointless,
}

/// <summary>Receives the durable message.</summary>
public static class CarryOutHandler
{
    public static Task Handle(CarryOut command, OutsideDeeds deeds, CancellationToken stop) => deeds.CarryOutAsync(command.Deed, stop);
}
