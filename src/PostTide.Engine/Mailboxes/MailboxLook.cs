using System.Security.Cryptography;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Logging;
using Microsoft.Extensions.Options;
using NodaTime;
using PostTide.Core.Time;
using PostTide.Engine.Arrivals;
using PostTide.Engine.Deeds;
using PostTide.Engine.Planning;
using PostTide.Mail.Imap;
using PostTide.Store;
using PostTide.Store.Bulk;
using PostTide.Store.Records;

namespace PostTide.Engine.Mailboxes;

/// <summary>What a look came to.</summary>
/// <param name="Found">Messages it found.</param>
/// <param name="Behind">Messages it left for the next look.</param>
public sealed record LookResult(int Found, int Behind);

/// <summary>Somebody else has moved on with this mailbox, or its settings have changed: begin anew.</summary>
public sealed class LookOvertakenException() : Exception("The mailbox is looked after elsewhere, or was changed.");

/// <summary>
/// One look at a mailbox: everything after the last UID is stored, in ascending order. The mark moves on in the transaction that
/// stores the messages, so that whatever is cut off is neither lost nor taken twice. Flags and moves make no difference to it. Where it
/// is possible the messages are planned in that transaction too.
/// </summary>
public sealed partial class MailboxLook(
    IServiceScopeFactory scopes, BatchPlanner planner, ArrivalSignal signal, FreshMail fresh, IOptions<EngineOptions> options, TimeProvider clock, ILogger<MailboxLook> log)
{
    private const int MostToABatch = 200;
    private const long MostBytesToABatch = 16_000_000;

    /// <summary>Looks once.</summary>
    /// <exception cref="MailboxTroubleException">The mailbox cannot be read.</exception>
    /// <exception cref="LookOvertakenException">Somebody else looks after it, or it was changed.</exception>
    public async Task<LookResult> RunAsync(Connection connection, ImapSession session, CancellationToken stop)
    {
        await RecogniseFolderAsync(connection, session, stop);
        var uids = await FindAsync(connection, session, stop);
        var taken = connection.Cap is { } cap && cap < uids.Count ? uids.Take(cap).ToList() : uids;
        var behind = uids.Count - taken.Count;
        if (taken.Count > 0)
        {
            var run = await BeginAsync(connection, uids.Count, behind, stop);
            var storing = Task.FromResult(0);
            try
            {
                foreach (var chunk in taken.Chunk(MostToABatch))
                {
                    foreach (var (asked, batch) in BySize(chunk, await session.ListAsync(chunk, stop)))
                    {
                        // The next messages are fetched and made ready while these are stored.
                        var fetched = Prepare(await FetchAsync(connection, session, batch, stop), connection.Folder);
                        var number = await storing;
                        storing = StoreAsync(connection, run, number, asked, fetched, stop);
                    }
                }

                await storing;
            }
            finally
            {
                await storing.ContinueWith(_ => { }, CancellationToken.None, TaskContinuationOptions.ExecuteSynchronously, TaskScheduler.Default);
            }

            await FinishAsync(run, stop);
        }

        await RestAsync(connection, behind, stop);
        return new LookResult(uids.Count, behind);
    }

    /// <summary>When to look next.</summary>
    public static DateTimeOffset? NextLook(Connection connection, DateTimeOffset look) =>
        new Pace(connection.PaceMinutes, connection.Hours?.Read()).NextAfter(Instant.FromDateTimeOffset(look))?.ToDateTimeOffset();

    /// <summary>UIDs count under one UIDVALIDITY only; when it changes, everything there is recognised again by its content.</summary>
    private async Task RecogniseFolderAsync(Connection connection, ImapSession session, CancellationToken stop)
    {
        if (connection.UidValidity == session.UidValidity)
        {
            return;
        }

        var first = connection.UidValidity == 0;
        var next = session.UidNext != 0 ? session.UidNext : await session.FindAsync(0, null, stop) is { Count: > 0 } all ? all[^1] + 1 : 1;
        connection.UidValidity = session.UidValidity;
        connection.LastUid = 0;
        connection.FirstNewUid = first ? next : 0;
        connection.RecogniseUpTo = first ? 0 : next - 1;
        await ChangeAsync(connection, s => s
            .SetProperty(c => c.UidValidity, connection.UidValidity).SetProperty(c => c.LastUid, 0L)
            .SetProperty(c => c.FirstNewUid, connection.FirstNewUid).SetProperty(c => c.RecogniseUpTo, connection.RecogniseUpTo), stop);
    }

    /// <summary>
    /// What lay there before is read as far back as was asked for; what came since is read whatever date it bears, as a message
    /// moved into the folder keeps its old one.
    /// </summary>
    private static async Task<List<uint>> FindAsync(Connection connection, ImapSession session, CancellationToken stop)
    {
        var after = (uint)connection.LastUid;
        var lastOld = (uint)Math.Max(connection.FirstNewUid - 1, connection.RecogniseUpTo);
        if (after >= lastOld)
        {
            return [.. await session.FindAsync(after, null, stop)];
        }

        var old = (await session.FindAsync(after, connection.Since, stop)).Where(u => u <= lastOld);
        return [.. old, .. await session.FindAsync(lastOld, null, stop)];
    }

    /// <summary>What is fetched at once, and the UIDs that are dealt with by it: those not listed are gone.</summary>
    private static IEnumerable<(List<uint> Asked, List<ListedMail> Batch)> BySize(uint[] uids, IReadOnlyList<ListedMail> listed)
    {
        var byUid = listed.ToDictionary(l => l.Uid);
        var (asked, batch, bytes) = (new List<uint>(), new List<ListedMail>(), 0L);
        foreach (var uid in uids)
        {
            if (byUid.TryGetValue(uid, out var mail))
            {
                if (batch.Count > 0 && bytes + mail.Size > MostBytesToABatch)
                {
                    yield return (asked, batch);
                    (asked, batch, bytes) = ([], [], 0);
                }

                batch.Add(mail);
                bytes += mail.Size;
            }

            asked.Add(uid);
        }

        yield return (asked, batch);
    }

    private async Task<IReadOnlyList<FetchedMail>> FetchAsync(Connection connection, ImapSession session, List<ListedMail> batch, CancellationToken stop)
    {
        IReadOnlyList<FetchedMail> fetched = batch.Count == 0 ? [] : await session.FetchAsync(batch, options.Value.LargestMessage, stop);
        if (connection.MarkRead && fetched.Count > 0)
        {
            // Before they are stored: if that fails they are fetched again, read or not.
            await session.MarkReadAsync([.. fetched.Select(f => f.Listed.Uid)], stop);
        }

        return fetched;
    }

    /// <summary>Stores messages and plans them; when one of them cannot be planned, all are stored and planning looks at them one by one.</summary>
    private async Task<int> StoreAsync(
        Connection connection, Run run, int number, List<uint> asked, List<ReadyMail> ready, CancellationToken stop)
    {
        // Away from the caller, which goes on to fetch.
        await Task.Yield();
        try
        {
            return await StoreAsync(connection, run, number, asked, ready, plan: true, stop);
        }
        catch (Exception e) when (e is not LookOvertakenException && BatchPlanner.IsAboutOneMessage(e))
        {
            LogNotPlanned(e);
            return await StoreAsync(connection, run, number, asked, ready, plan: false, stop);
        }
    }

    private async Task<int> StoreAsync(
        Connection connection, Run run, int number, List<uint> asked, List<ReadyMail> ready, bool plan, CancellationToken stop)
    {
        await using var scope = scopes.CreateAsyncScope();
        var outbox = scope.ServiceProvider.GetRequiredService<IDeedOutbox>();
        var db = outbox.Db;
        db.ChangeTracker.AutoDetectChangesEnabled = false;
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var upTo = asked[^1];
        await FenceAsync(db, connection, upTo, stop);
        foreach (var uid in asked.Except(ready.Select(m => m.Mail.Listed.Uid)))
        {
            db.RunMessages.Add(new RunMessage
            {
                RunId = run.Id,
                Number = ++number,
                Source = KeyOf(connection, uid),
                Outcome = RunOutcome.Gone,
                Because = "It was moved or deleted before it could be read.",
            });
        }

        var mails = ready.ConvertAll(m => (m.Mail, m.Hash, Key: KeyOf(connection, m.Mail.Listed.Uid)));
        var known = await FindKnownAsync(db, connection, mails, stop);
        await Arrivals.Arrivals.StoreRawsAsync(db, mails.Select(m => (m.Hash, m.Mail.Bytes)), stop);
        var now = clock.GetUtcNow();
        var rows = new List<(Message Row, ReadMessage Read)>(mails.Count);
        foreach (var ((mail, hash, key), read) in mails.Zip(ready, (mail, m) => (mail, m.Read)))
        {
            if (known.Contains(key))
            {
                db.RunMessages.Add(new RunMessage { RunId = run.Id, Number = ++number, Source = key, Outcome = RunOutcome.Known, Because = "It was here already." });
                continue;
            }

            var row = NewMessage(connection, run, mail, hash, key, now);
            await db.Messages.AddAsync(row, stop);
            if (read is not null)
            {
                rows.Add((row, read.Of(row)));
            }
        }

        var planned = plan && await planner.DecideAsStoredAsync(db, scope.ServiceProvider.GetRequiredService<DeedRecorder>(), rows, stop);
        if (!planned)
        {
            KeepForPlanning(db, rows);
            await db.NotifyAsync(Changes.Mail);
        }

        await db.SaveInBulkAsync(stop);
        db.ChangeTracker.AutoDetectChangesEnabled = true;
        await outbox.CommitAsync(stop);
        connection.LastUid = upTo;
        if (!planned)
        {
            HandOn(rows);
        }

        return number;
    }

    /// <summary>
    /// Records the text made ready with the new messages; planning finds it done. A message that cannot be read is left to planning,
    /// which says why.
    /// </summary>
    private static void KeepForPlanning(PostTideContext db, List<(Message Row, ReadMessage Read)> rows)
    {
        foreach (var (row, read) in rows)
        {
            if (read.Prepared is { } prepared)
            {
                PreparedRows.Describe(row, prepared);
                db.Prepared.Add(PreparedRows.Record(read));
            }
        }
    }

    private void HandOn(List<(Message Row, ReadMessage Read)> rows)
    {
        foreach (var (row, read) in rows.Where(r => r.Read.Prepared is not null))
        {
            fresh.Keep(row.Id, read);
        }

        signal.Arrived();
    }

    /// <summary>Makes the text of fetched messages ready, while their bytes are at hand.</summary>
    private static List<ReadyMail> Prepare(IReadOnlyList<FetchedMail> fetched, string folder) =>
        [.. fetched.AsParallel().AsOrdered().Select(mail => new ReadyMail(
            mail, Convert.ToHexStringLower(SHA256.HashData(mail.Bytes)), mail.TooLarge ? null : PreparedRows.Read(mail.Bytes, folder)))];

    private Message NewMessage(Connection connection, Run run, FetchedMail mail, string hash, string key, DateTimeOffset now)
    {
        var arrived = mail.Listed.ArrivedAt == DateTimeOffset.MinValue || mail.Listed.ArrivedAt > now ? now : mail.Listed.ArrivedAt.ToUniversalTime();
        var wasThere = mail.Listed.Uid < connection.FirstNewUid || (mail.Listed.Uid <= connection.RecogniseUpTo && arrived < connection.ConnectedAt);
        return new Message
        {
            MailboxId = connection.MailboxId,
            SourceKey = key,
            RawSha256 = hash,
            Size = mail.TooLarge ? mail.Listed.Size : mail.Bytes.Length,
            ArrivedAt = arrived,
            TakenAt = now,
            RunId = run.Id,
            Old = wasThere && connection.OldMail == OldMail.Keep,
            State = mail.TooLarge ? MessageState.Unreadable : MessageState.Arrived,
            Problem = mail.TooLarge
                ? $"It is larger than {options.Value.LargestMessage / 1_000_000} MB, the largest message taken. Only its header was read; the message is still in the mailbox."
                : null,
        };
    }

    /// <summary>
    /// The keys of messages that are here already. After a change of UIDVALIDITY a message is known again by its very bytes, each
    /// kept record for one message only, and gets its new place.
    /// </summary>
    private static async Task<HashSet<string>> FindKnownAsync(
        PostTideContext db, Connection connection, List<(FetchedMail Mail, string Hash, string Key)> mails, CancellationToken stop)
    {
        var keys = mails.Select(m => m.Key).ToArray();
        var known = (await db.Messages.Where(m => m.MailboxId == connection.MailboxId && keys.Contains(m.SourceKey)).Select(m => m.SourceKey).ToListAsync(stop))
            .ToHashSet(StringComparer.Ordinal);
        var recognised = mails.Where(m => m.Mail.Listed.Uid <= connection.RecogniseUpTo && !known.Contains(m.Key)).ToList();
        if (recognised.Count == 0)
        {
            return known;
        }

        var hashes = recognised.Select(m => m.Hash).Distinct().ToArray();
        var prefix = $"imap:{connection.UidValidity}:";
        var kept = (await db.Messages.AsNoTracking()
                .Where(m => m.MailboxId == connection.MailboxId && hashes.Contains(m.RawSha256) && !m.SourceKey.StartsWith(prefix))
                .OrderBy(m => m.Id).Select(m => new { m.Id, m.RawSha256 }).ToListAsync(stop))
            .GroupBy(m => m.RawSha256).ToDictionary(g => g.Key, g => new Queue<long>(g.Select(m => m.Id)));
        foreach (var (_, hash, key) in recognised)
        {
            if (kept.TryGetValue(hash, out var left) && left.TryDequeue(out var id))
            {
                await db.Messages.Where(m => m.Id == id).ExecuteUpdateAsync(s => s.SetProperty(m => m.SourceKey, key).SetProperty(m => m.MovedTo, (string?)null), stop);
                known.Add(key);
            }
        }

        return known;
    }

    /// <summary>Moves the mark within the transaction, and makes sure that nobody else has moved it in the meantime.</summary>
    private static async Task FenceAsync(PostTideContext db, Connection connection, uint upTo, CancellationToken stop)
    {
        var moved = await db.Connections
            .Where(c => c.MailboxId == connection.MailboxId && c.Revision == connection.Revision && c.UidValidity == connection.UidValidity && c.LastUid == connection.LastUid)
            .ExecuteUpdateAsync(s => s.SetProperty(c => c.LastUid, (long)upTo), stop);
        if (moved == 0)
        {
            throw new LookOvertakenException();
        }
    }

    private async Task<Run> BeginAsync(Connection connection, int found, int behind, CancellationToken stop)
    {
        await using var scope = scopes.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<PostTideContext>();
        var run = new Run
        {
            Kind = RunKind.Look,
            State = RunState.Running,
            MailboxId = connection.MailboxId,
            StartedAt = clock.GetUtcNow(),
            LookedAt = found,
            CarriedOver = behind,
            Choice = connection.Folder,
        };
        db.Runs.Add(run);
        await db.SaveChangesAsync(stop);
        return run;
    }

    private async Task FinishAsync(Run run, CancellationToken stop)
    {
        await using var scope = scopes.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<PostTideContext>();
        var now = clock.GetUtcNow();
        await db.Runs.Where(r => r.Id == run.Id).ExecuteUpdateAsync(
            s => s.SetProperty(r => r.State, RunState.Finished).SetProperty(r => r.EndedAt, now), stop);
        await db.NotifyAsync(Changes.Runs);
    }

    private async Task RestAsync(Connection connection, int behind, CancellationToken stop)
    {
        var now = clock.GetUtcNow();
        connection.NextLookAt = NextLook(connection, now);
        var recovered = connection.Problem is not null;
        (connection.Behind, connection.LastLookAt, connection.Failures, connection.Problem) = (behind, now, 0, null);
        await ChangeAsync(connection, s => s
            .SetProperty(c => c.LastLookAt, now).SetProperty(c => c.NextLookAt, connection.NextLookAt).SetProperty(c => c.Behind, behind)
            .SetProperty(c => c.Failures, 0).SetProperty(c => c.Problem, (string?)null).SetProperty(c => c.ProblemDetail, (string?)null)
            .SetProperty(c => c.ProblemSince, (DateTimeOffset?)null).SetProperty(c => c.Pushed, connection.Pushed), stop, notify: recovered);
    }

    private async Task ChangeAsync(
        Connection connection, Action<Microsoft.EntityFrameworkCore.Query.UpdateSettersBuilder<Connection>> set, CancellationToken stop, bool notify = false)
    {
        await using var scope = scopes.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<PostTideContext>();
        if (await db.Connections.Where(c => c.MailboxId == connection.MailboxId && c.Revision == connection.Revision).ExecuteUpdateAsync(set, stop) == 0)
        {
            throw new LookOvertakenException();
        }

        if (notify)
        {
            await db.NotifyAsync(Changes.Runs);
        }
    }

    private static string KeyOf(Connection connection, uint uid) => new SourceKey((uint)connection.UidValidity, uid, connection.Folder).ToString();

    [LoggerMessage(LogLevel.Warning, "New messages could not be planned as they were stored; they are stored first")]
    private partial void LogNotPlanned(Exception e);

    /// <summary>A fetched message with its SHA-256 and its text made ready; null when it was not fetched whole.</summary>
    private sealed record ReadyMail(FetchedMail Mail, string Hash, ReadMessage? Read);
}
