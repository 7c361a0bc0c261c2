using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;
using PostTide.Core.Facts;
using PostTide.Core.Replies;
using PostTide.Core.Tickets;
using PostTide.Core.Workflows;
using PostTide.Engine.Planning;
using PostTide.Store;

namespace PostTide.Engine.Deeds;

/// <summary>A request that cannot be carried out, said in a sentence for the person who made it.</summary>
public sealed class RefusedException(string why) : Exception(why);

/// <summary>A draft of a reply written by hand: the filled template and what is missing in it.</summary>
public sealed record ReplyDraft(string To, string Subject, string Body, ImmutableArray<string> Missing);

/// <summary>Deeds a person does for one message. They go the same way as a workflow's.</summary>
public sealed class DeedsByHand(IDeedOutbox outbox, DeedRecorder recorder, PlanningSetup setup, TimeProvider clock)
{
    private readonly PostTideContext _db = outbox.Db;

    /// <summary>Does what a line says; the line must hold no reply.</summary>
    /// <exception cref="RefusedException">It cannot be done.</exception>
    public async Task<ImmutableArray<PlannedDeed>> DoAsync(long messageId, Line line, string person, CancellationToken stop)
    {
        var (message, context) = await ReadAsync(messageId, stop);
        var facts = AllFacts(message);
        var planned = DeedPlanner.DeedsOf([line], message.Prepared, facts, 0, new Limits { OneReplyPerSenderHours = null }, context);
        if (planned.FirstOrDefault(d => d.SkippedBecause is not null) is { } skipped)
        {
            throw new RefusedException($"Not done: {skipped.SkippedBecause}.");
        }

        await using var transaction = await _db.Database.BeginTransactionAsync(stop);
        await recorder.RecordAsync(message, planned, facts, DecidedBy.ByHand(person), context, stop);
        await _db.NotifyAsync(Changes.Queues, Changes.Tickets, Changes.Files, Changes.Deeds);
        await outbox.CommitAsync(stop);
        return planned;
    }

    /// <summary>Fills a template for a message, or begins an empty reply.</summary>
    public async Task<ReplyDraft> DraftAsync(long messageId, long? templateId, CancellationToken stop)
    {
        var (message, context) = await ReadAsync(messageId, stop);
        var to = (message.Prepared.ReplyTo ?? message.Prepared.From).Address;
        var subject = ReplyHeaders.For(message.Prepared, Guid.Empty, "none").Subject;
        if (templateId is not { } id || !context.Templates.TryGetValue(id, out var template))
        {
            return new ReplyDraft(to, subject, "", []);
        }

        var ticket = context.TicketOfConversation.GetValueOrDefault(message.Prepared.ConversationId);
        var filled = LiquidText.Fill(template.Body, DeedPlanner.ValuesFor(message.Prepared, AllFacts(message), ticket));
        return filled.Error is { } error
            ? throw new RefusedException($"The template cannot be filled: {error}")
            : new ReplyDraft(to, subject, filled.Text, filled.Missing);
    }

    /// <summary>Sends a reply a person wrote.</summary>
    /// <exception cref="RefusedException">The address cannot or must not be written to, or nothing was written.</exception>
    public async Task ReplyAsync(long messageId, string to, string body, long? templateId, string person, CancellationToken stop)
    {
        var (message, context) = await ReadAsync(messageId, stop);
        if (!ReplySafety.IsPlainAddress(to))
        {
            throw new RefusedException("This is not an address that can be written to.");
        }

        if (context.DoNotMail.Contains(to.ToLowerInvariant()) || context.DoNotMail.Contains(to[(to.LastIndexOf('@') + 1)..].ToLowerInvariant()))
        {
            throw new RefusedException("This address is on the do-not-mail list.");
        }

        if (string.IsNullOrWhiteSpace(body))
        {
            throw new RefusedException("The reply is empty.");
        }

        var template = templateId is { } id ? await _db.Templates.FindAsync([id], stop) : null;
        await using var transaction = await _db.Database.BeginTransactionAsync(stop);
        await recorder.SendByHandAsync(message, to, body, template, person, clock.GetUtcNow());
        await _db.NotifyAsync(Changes.Replies, Changes.Deeds);
        await outbox.CommitAsync(stop);
    }

    private static ImmutableArray<Fact> AllFacts(MessageAtHand message) =>
        [.. BuiltInFacts.Names.Select(name => BuiltInFacts.Read(name, message.Prepared))];

    private async Task<(MessageAtHand, PlanContext)> ReadAsync(long messageId, CancellationToken stop)
    {
        var row = await _db.Messages.SingleOrDefaultAsync(m => m.Id == messageId, stop) ?? throw new RefusedException("The message is gone.");
        var prepared = await _db.Prepared.AsNoTracking().Where(p => p.MessageId == messageId).Select(p => p.Document).SingleOrDefaultAsync(stop)
            ?? throw new RefusedException("This message could not be read as mail, so nothing can be done with it.");
        var raw = await _db.Raws.AsNoTracking().Where(r => r.Sha256 == row.RawSha256).Select(r => r.Bytes).SingleAsync(stop);
        prepared = prepared with { ConversationId = row.ConversationId ?? 0 };
        var context = (await setup.ReadAsync(_db, stop)).Context;
        var named = TicketReference.FindIn(prepared, context.TicketPrefix).Select(e => e.Text.ToUpperInvariant()).ToArray();
        var tickets = await _db.Tickets.AsNoTracking()
            .Where(t => named.Contains(t.Reference) || (t.ConversationId != null && t.ConversationId == row.ConversationId))
            .OrderBy(t => t.Number).ToListAsync(stop);
        context = context with { KnownTickets = [.. tickets.Select(t => t.Reference)] };
        if (tickets.LastOrDefault(t => t.ConversationId == row.ConversationId) is { } ticket)
        {
            context = context with { TicketOfConversation = context.TicketOfConversation.SetItem(prepared.ConversationId, ticket.Reference) };
        }

        return (new MessageAtHand(row, prepared, raw), context);
    }
}
