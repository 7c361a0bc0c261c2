using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Logging;
using Npgsql;
using PostTide.Core.Matching;
using PostTide.Core.Messages;
using PostTide.Core.Workflows;
using PostTide.Engine.Deeds;
using PostTide.Engine.Sorting;
using PostTide.Store;
using PostTide.Store.Bulk;
using PostTide.Store.Records;

namespace PostTide.Engine.Planning;

/// <summary>
/// Decides on stored messages, a batch at a time: prepared text, plan, deeds and the mark “planned” are written in one
/// transaction. Whatever happens to the process, a message is either wholly planned or not at all.
/// </summary>
public sealed partial class BatchPlanner(IServiceScopeFactory scopes, PlanningSetup setup, FreshMail fresh, TimeProvider clock, ILogger<BatchPlanner> log)
{
    /// <summary>At most this many messages and bytes to a batch.</summary>
    private const int MostMessages = 250;
    private const long MostBytes = 64_000_000;

    /// <summary>Planning is done by one process at a time: limits over time need to see what was planned before.</summary>
    private const long PlanningLock = 0x7069_6c6f_7469;

    /// <summary>Plans the next batch and gives the number of messages; 0 when there is nothing to do.</summary>
    /// <param name="atArrival">Whether the plan's clock stands at each message's arrival instead of now.</param>
    /// <param name="stop">Stops between batches; a batch that has begun is either finished or undone.</param>
    /// <param name="most">At most this many messages; null for as many as make a good batch.</param>
    public async Task<int> PlanNextAsync(bool atArrival, CancellationToken stop, int? most = null)
    {
        try
        {
            return await PlanAsync(most ?? MostMessages, atArrival, stop);
        }
        catch (Exception e) when (IsAboutOneMessage(e))
        {
            LogBatchFailed(e);
            return await PlanOneByOneAsync(atArrival, stop);
        }
    }

    /// <summary>
    /// Decides on messages that the caller is just storing, in the caller's transaction: their rows are then written once instead of
    /// twice. Only where nothing has to be done before: nobody else is planning, nothing earlier waits, no outside sorter is to be asked.
    /// </summary>
    /// <param name="db">The caller's context, in a transaction; nothing is saved here.</param>
    /// <param name="recorder">Records the deeds in that context.</param>
    /// <param name="messages">New rows that are not saved yet, and what they hold.</param>
    /// <param name="stop">Gives up.</param>
    /// <returns>Whether they were decided on; otherwise they are planned after they were stored.</returns>
    internal async Task<bool> DecideAsStoredAsync(
        PostTideContext db, DeedRecorder recorder, IReadOnlyList<(Message Row, ReadMessage Read)> messages, CancellationToken stop)
    {
        if (messages.Count == 0
            || !await db.Database.SqlQuery<bool>($"SELECT pg_try_advisory_xact_lock({PlanningLock}) AS \"Value\"").SingleAsync(stop)
            || await Unplanned(db).AnyAsync(stop)
            || await db.Sorters.AnyAsync(s => s.AsksOutside, stop))
        {
            return false;
        }

        await DecideAsync(db, recorder, [.. messages.Select(m => (m.Row, m.Read, Kept: false))], atArrival: false, stop);
        return true;
    }

    /// <summary>Waits for the turn to plan, until the end of the transaction.</summary>
    internal static Task LockAsync(PostTideContext db, CancellationToken stop) =>
        db.Database.ExecuteSqlAsync($"SELECT pg_advisory_xact_lock({PlanningLock})", stop);

    /// <summary>A batch failed: the message that made it fail is set aside with its reason, the others go on.</summary>
    private async Task<int> PlanOneByOneAsync(bool atArrival, CancellationToken stop)
    {
        try
        {
            return await PlanAsync(1, atArrival, stop);
        }
        catch (Exception e) when (IsAboutOneMessage(e))
        {
            LogMessageFailed(e);
            await using var scope = scopes.CreateAsyncScope();
            var db = scope.ServiceProvider.GetRequiredService<PostTideContext>();
            var next = await Unplanned(db).FirstAsync(stop);
            await db.Messages.Where(m => m.Id == next.Id).ExecuteUpdateAsync(
                s => s.SetProperty(m => m.State, MessageState.Unreadable).SetProperty(m => m.Problem, $"It could not be planned: {e.Message}"), stop);
            return 1;
        }
    }

    /// <summary>The database being away, or the process stopping, says nothing about a message.</summary>
    internal static bool IsAboutOneMessage(Exception e) =>
        e is not OperationCanceledException and not NpgsqlException { IsTransient: true }
        && e is not PostgresException { SqlState: "57P01" or "57P02" or "57P03" or "53300" }
        && e.GetBaseException() is not (NpgsqlException { IsTransient: true } or System.Net.Sockets.SocketException or IOException);

    private static IOrderedQueryable<Message> Unplanned(PostTideContext db) =>
        db.Messages.Where(m => m.State == MessageState.Arrived).OrderBy(m => m.Id);

    private async Task<int> PlanAsync(int most, bool atArrival, CancellationToken stop)
    {
        await using var scope = scopes.CreateAsyncScope();
        var outbox = scope.ServiceProvider.GetRequiredService<IDeedOutbox>();
        var recorder = scope.ServiceProvider.GetRequiredService<DeedRecorder>();
        var db = outbox.Db;

        // Looked for once, at the end: after every lookup it would cost the square of the batch.
        db.ChangeTracker.AutoDetectChangesEnabled = false;
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        await LockAsync(db, stop);
        var rows = await TakeAsync(db, most, stop);
        if (rows.Count == 0)
        {
            return 0;
        }

        await DecideAsync(db, recorder, await ReadAllAsync(db, rows, stop), atArrival, stop);
        await db.SaveInBulkAsync(stop);
        db.ChangeTracker.AutoDetectChangesEnabled = true;
        await outbox.CommitAsync(stop);
        return rows.Count;
    }

    /// <summary>Decides on messages and adds what follows to what the caller saves.</summary>
    private async Task DecideAsync(
        PostTideContext db, DeedRecorder recorder, IReadOnlyList<(Message Row, ReadMessage Read, bool Kept)> messages, bool atArrival, CancellationToken stop)
    {
        var readable = new List<MessageAtHand>(messages.Count);
        foreach (var (row, read, kept) in messages)
        {
            if (read.Prepared is { } prepared)
            {
                readable.Add(new MessageAtHand(row, prepared, read.Raw, IsNew: true) { ToKeep = kept ? null : PreparedRows.Record(read) });
            }
            else
            {
                row.State = MessageState.Unreadable;
                row.Problem = read.Problem;
            }
        }

        readable = await HoldAsync(db, readable, stop);
        var at = await setup.ReadAsync(db, stop);
        var context = await PastOf.AddAsync(db, readable.ConvertAll(m => m.Prepared), at.Context, stop);
        var conversations = await Conversations.ReadAsync(db, readable.Select(m => m.Prepared), stop);
        var originals = await FindOriginalsAsync(db, readable, stop);
        var tickets = await ReadTicketsAsync(db, readable, conversations, stop);
        context = context with { TicketOfConversation = tickets };
        foreach (var message in readable)
        {
            context = context with { Now = atArrival ? message.Row.ArrivedAt : clock.GetUtcNow() };
            context = await PlanOneAsync(db, recorder, message, at.Live, context, conversations, originals, stop);
        }

        await db.NotifyAsync(Changes.Mail, Changes.Queues, Changes.Tickets, Changes.Files, Changes.Replies, Changes.Deeds);
    }

    /// <summary>Keeps back mail of senders who are not approved, where only approved ones may write. It can be found and released.</summary>
    private static async Task<List<MessageAtHand>> HoldAsync(PostTideContext db, List<MessageAtHand> messages, CancellationToken stop)
    {
        var policies = await db.Mailboxes.AsNoTracking().Where(m => m.Approval != null).ToDictionaryAsync(m => m.Id, m => m.Approval!, stop);
        var goOn = new List<MessageAtHand>(messages.Count);
        foreach (var message in messages)
        {
            var row = message.Row;
            if (!policies.TryGetValue(row.MailboxId, out var policy) || row.Old)
            {
                goOn.Add(message);
                continue;
            }

            var approval = SenderApproval.Decide(message.Prepared, row.ConnectingHost, policy);
            row.SenderCheck = approval.Because;
            if (approval.Holds && row.ReleasedBy is null)
            {
                PreparedRows.Describe(row, message.Prepared);
                row.State = MessageState.Held;
                KeepPrepared(db, message);
            }
            else
            {
                goOn.Add(message);
            }
        }

        return goOn;
    }

    private static void KeepPrepared(PostTideContext db, MessageAtHand message)
    {
        if (message.ToKeep is { } record)
        {
            db.Prepared.Add(record);
        }
    }

    private static async Task<List<Message>> TakeAsync(PostTideContext db, int most, CancellationToken stop)
    {
        var sizes = await Unplanned(db).Take(most).Select(m => new { m.Id, m.Size }).ToListAsync(stop);
        var sum = 0L;
        var ids = sizes.TakeWhile((m, i) => i == 0 || (sum += m.Size) < MostBytes).Select(m => m.Id).ToArray();
        return ids.Length == 0 ? [] : await db.Messages.Where(m => ids.Contains(m.Id)).OrderBy(m => m.Id).ToListAsync(stop);
    }

    /// <summary>The messages as they were prepared when they were stored, or prepared now.</summary>
    private async Task<IReadOnlyList<(Message Row, ReadMessage Read, bool Kept)>> ReadAllAsync(PostTideContext db, List<Message> rows, CancellationToken stop)
    {
        var ids = rows.Select(r => r.Id).ToArray();
        var kept = (await db.Prepared.AsNoTracking().Where(p => ids.Contains(p.MessageId)).Select(p => p.MessageId).ToListAsync(stop)).ToHashSet();
        var handed = rows.Select(r => kept.Contains(r.Id) ? fresh.Take(r.Id) : null).ToList();
        var hashes = rows.Where((_, i) => handed[i] is null).Select(r => r.RawSha256).Distinct().ToArray();
        var raws = hashes.Length == 0 ? [] : await db.Raws.AsNoTracking().Where(r => hashes.Contains(r.Sha256)).ToDictionaryAsync(r => r.Sha256, r => r.Bytes, stop);
        return [.. rows.Zip(handed).AsParallel().AsOrdered().Select(r => (r.First, r.Second ?? PreparedRows.Read(r.First, raws[r.First.RawSha256]), kept.Contains(r.First.Id)))];
    }

    private async Task<PlanContext> PlanOneAsync(
        PostTideContext db, DeedRecorder recorder, MessageAtHand message, ImmutableArray<Edition> live, PlanContext context,
        Conversations conversations, Dictionary<(long, string, string), long> originals, CancellationToken stop)
    {
        var row = message.Row;
        row.ConversationId = await conversations.JoinAsync(message.Prepared, row.Id, stop);
        var prepared = message.Prepared with { ConversationId = row.ConversationId.Value };
        message = message with { Prepared = prepared };
        PreparedRows.Describe(row, prepared);
        KeepPrepared(db, message);
        row.State = MessageState.Planned;
        row.PlannedAt = clock.GetUtcNow();

        var key = (row.MailboxId, row.MailId, prepared.From.Key);
        if (row.MailId.Length > 0 && !originals.TryAdd(key, row.Id))
        {
            row.DuplicateOfId = originals[key];
            db.Plans.Add(new PlanRecord { MessageId = row.Id, Current = true, PlannedAt = context.Now, PreparedVersion = prepared.Version });
            return context;
        }

        if (row.Old)
        {
            // It was there before the mailbox was connected: a catch-up run carries workflows out on it, nothing else does.
            db.Plans.Add(new PlanRecord { MessageId = row.Id, Current = true, PlannedAt = context.Now, PreparedVersion = prepared.Version });
            return context;
        }

        context = context with { Conversations = ImmutableDictionary<long, ConversationPlace>.Empty.Add(prepared.Id, conversations.NextPlace(prepared)) };
        var plan = Planner.Plan(prepared, live, context);
        row.TakenIn = plan.TakenIn;
        db.Plans.Add(new PlanRecord
        {
            MessageId = row.Id,
            Current = true,
            PlannedAt = context.Now,
            PreparedVersion = prepared.Version,
            Verdicts = plan.Verdicts,
        });
        SortedRows.Add(db, row.Id, plan.Verdicts, context.Now);
        context = context.After(plan, prepared.ConversationId);
        foreach (var verdict in plan.Verdicts)
        {
            var ticket = await recorder.RecordAsync(message, verdict.Deeds, verdict.Facts, DecidedBy.Of(verdict), context, stop);
            if (ticket is not null)
            {
                context = context with
                {
                    TicketOfConversation = context.TicketOfConversation.SetItem(prepared.ConversationId, ticket),
                    KnownTickets = context.KnownTickets.Add(ticket),
                };
            }
        }

        return context;
    }

    /// <summary>The tickets of the conversations this batch continues.</summary>
    private static async Task<ImmutableDictionary<long, string>> ReadTicketsAsync(
        PostTideContext db, List<MessageAtHand> messages, Conversations conversations, CancellationToken stop)
    {
        var ids = messages.SelectMany(m => conversations.KnownTo(m.Prepared)).Distinct().ToArray();
        var tickets = await db.Tickets.AsNoTracking()
            .Where(t => t.ConversationId != null && ids.Contains(t.ConversationId.Value))
            .OrderBy(t => t.Number)
            .Select(t => new { Conversation = t.ConversationId!.Value, t.Reference })
            .ToListAsync(stop);
        return tickets.GroupBy(t => t.Conversation).ToImmutableDictionary(g => g.Key, g => g.Last().Reference);
    }

    /// <summary>Earlier arrivals that a message of this batch may be a copy of, by mailbox, Message-ID and sender.</summary>
    private static async Task<Dictionary<(long, string, string), long>> FindOriginalsAsync(
        PostTideContext db, List<MessageAtHand> messages, CancellationToken stop)
    {
        var mailboxes = messages.Select(m => m.Row.MailboxId).Distinct().ToArray();
        var ids = messages.Select(m => m.Prepared.MessageId).Where(id => id.Length > 0).Distinct().ToArray();
        var earlier = await db.Messages.AsNoTracking()
            .Where(m => mailboxes.Contains(m.MailboxId) && m.State == MessageState.Planned && m.DuplicateOfId == null && ids.Contains(m.MailId))
            .Select(m => new { m.MailboxId, m.MailId, m.SenderAddress, m.Id })
            .ToListAsync(stop);
        return earlier.GroupBy(m => (m.MailboxId, m.MailId, m.SenderAddress)).ToDictionary(g => g.Key, g => g.Min(m => m.Id));
    }

    [LoggerMessage(LogLevel.Warning, "A batch of messages could not be planned; its messages are tried one by one")]
    private partial void LogBatchFailed(Exception e);

    [LoggerMessage(LogLevel.Error, "A message could not be planned and was set aside")]
    private partial void LogMessageFailed(Exception e);
}
