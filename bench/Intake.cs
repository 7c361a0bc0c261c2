using System.Diagnostics;
using System.Globalization;
using System.Security.Cryptography;
using MailKit;
using MailKit.Net.Imap;
using MailKit.Search;
using MailKit.Security;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.EntityFrameworkCore;
using MimeKit;
using Npgsql;
using PostTide.Core.Workflows;
using PostTide.Engine.Mailboxes;
using PostTide.Peers;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Bench;

/// <summary>
/// From a real mail server into planned messages, beside a bare program that fetches the same messages in the same batches, parses
/// them and COPYs the bytes with ten columns into one table. Both in one run on the same Dovecot and the same PostgreSQL.
/// </summary>
internal static class Intake
{
    private const int Rounds = 5;
    private const int Batch = 200;

    public static async Task RunAsync(string corpus, int count)
    {
        var database = Environment.GetEnvironmentVariable("PostTide__Database")!;
        var mail = Read(corpus).Take(count).ToList();
        await using var source = NpgsqlDataSource.Create(database);
        using var dovecot = new Dovecot();
        await AddWorkflowAsync(database);
        Console.WriteLine($"{mail.Count} messages, {mail.Sum(m => (long)m.Length) / 1_000_000.0:F1} MB, five rounds; the first warms both up");
        for (var round = 0; round <= Rounds; round++)
        {
            var user = $"round{round}@example.test";
            dovecot.AddUser(user);
            dovecot.Fill(user, mail);

            // The server sorts a new mailbox at its first opening: neither program is to pay for that.
            await OpenAsync(dovecot.Port, user);
            var bare = await BareAsync(source, dovecot.Port, user);
            var memory = ServerMemory();
            var (ours, queued) = await OursAsync(source, database, dovecot.Port, user, mail.Count);
            Console.WriteLine(string.Create(CultureInfo.InvariantCulture,
                $"round {round}: bare program {bare.TotalMilliseconds:F0} ms; into planned messages {ours.TotalMilliseconds:F0} ms ({mail.Count / ours.TotalSeconds:F0}/s), {ours / bare:F2} times; {queued} deeds; server memory {memory} to {ServerMemory()} MB"));
        }

        await LatencyAsync(source, database, dovecot);
    }

    /// <summary>Single arrivals: from the server's IDLE notice, as another client hears it, to the moment the message is planned.</summary>
    private static async Task LatencyAsync(NpgsqlDataSource source, string database, Dovecot dovecot)
    {
        const int Messages = 100;
        const string User = "single@example.test";
        dovecot.AddUser(User);
        await OpenAsync(dovecot.Port, User);
        var id = await ConnectAsync(database, dovecot.Port, User);
        await UntilAsync(source, $"SELECT count(*) FROM connections WHERE mailbox_id = {id} AND last_look_at IS NOT NULL", 1);
        using var client = await OpenAsync(dovecot.Port, User, keep: true);
        using var listener = await OpenAsync(dovecot.Port, User, keep: true);
        using var done = new CancellationTokenSource();
        var noticed = DateTimeOffset.MaxValue;
        listener!.Inbox!.CountChanged += (_, _) => noticed = DateTimeOffset.UtcNow;
        var idling = listener.IdleAsync(done.Token);
        var times = new List<double>();
        for (var i = 0; i < Messages; i++)
        {
            var message = new MimeMessage { MessageId = $"single-{i}@example.test", Subject = $"single {i}", Body = new TextPart("plain") { Text = "one of many\n" } };
            message.From.Add(new MimeKit.MailboxAddress("", "a@example.test"));
            noticed = DateTimeOffset.MaxValue;
            await client!.Inbox!.AppendAsync(message);
            await UntilAsync(source, $"SELECT count(*) FROM messages WHERE mailbox_id = {id} AND planned_at IS NOT NULL", i + 1);
            await using var command = source.CreateCommand($"SELECT max(planned_at) FROM messages WHERE mailbox_id = {id}");
            var planned = new DateTimeOffset((DateTime)(await command.ExecuteScalarAsync())!);
            while (noticed == DateTimeOffset.MaxValue)
            {
                await Task.Delay(5);
            }

            times.Add((planned - noticed).TotalMilliseconds);
            await Task.Delay(50);
        }

        await done.CancelAsync();
        await idling;
        times.Sort();
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture,
            $"{Messages} single arrivals, from the server's IDLE notice to planned: p50 {times[Messages / 2]:F0} ms, p95 {times[Messages * 95 / 100]:F0} ms, most {times[^1]:F0} ms"));
    }

    private static IEnumerable<byte[]> Read(string corpus) =>
        Directory.GetFiles(corpus, "*.txt", SearchOption.AllDirectories).Order(StringComparer.Ordinal).Select(File.ReadAllBytes);

    private static async Task<ImapClient?> OpenAsync(int port, string user, bool keep = false)
    {
        var client = new ImapClient();
        await client.ConnectAsync("127.0.0.1", port, SecureSocketOptions.None);
        await client.AuthenticateAsync(new SaslMechanismPlain(user, Dovecot.Password));
        await client.Inbox!.OpenAsync(FolderAccess.ReadWrite);
        if (keep)
        {
            return client;
        }

        await client.DisconnectAsync(quit: true);
        client.Dispose();
        return null;
    }

    private static async Task<TimeSpan> BareAsync(NpgsqlDataSource source, int port, string user)
    {
        await using (var create = source.CreateCommand(
            "DROP TABLE IF EXISTS bare; CREATE TABLE bare (id bigserial PRIMARY KEY, raw bytea, sha text, sender text, recipient text, subject text, mail_id text, size bigint, arrived timestamptz, attachments int, state text)"))
        {
            await create.ExecuteNonQueryAsync();
        }

        var clock = Stopwatch.StartNew();
        using var client = (await OpenAsync(port, user, keep: true))!;
        var folder = (ImapFolder)client.Inbox!;
        var uids = await folder.SearchAsync(SearchQuery.All);
        await using var connection = await source.OpenConnectionAsync();
        foreach (var batch in uids.Chunk(Batch))
        {
            var dates = (await folder.FetchAsync(batch, MessageSummaryItems.UniqueId | MessageSummaryItems.InternalDate)).ToDictionary(s => s.UniqueId, s => s.InternalDate);
            var rows = new List<(byte[] Bytes, MimeMessage Message, DateTimeOffset? At)>(batch.Length);
            await folder.GetStreamsAsync(batch, async (_, _, uid, stream, stop) =>
            {
                var bytes = new byte[stream.Length];
                await stream.ReadExactlyAsync(bytes, stop);
                rows.Add((bytes, await MimeMessage.LoadAsync(new MemoryStream(bytes), stop), dates[uid]));
            });
            await using var copy = await connection.BeginBinaryImportAsync(
                "COPY bare (raw, sha, sender, recipient, subject, mail_id, size, arrived, attachments, state) FROM STDIN (FORMAT BINARY)");
            foreach (var (bytes, message, at) in rows)
            {
                await copy.StartRowAsync();
                await copy.WriteAsync(bytes);
                await copy.WriteAsync(Convert.ToHexStringLower(SHA256.HashData(bytes)));
                await copy.WriteAsync(Clean(message.From.ToString()));
                await copy.WriteAsync(Clean(message.To.ToString()));
                await copy.WriteAsync(Clean(message.Subject ?? ""));
                await copy.WriteAsync(Clean(message.MessageId ?? ""));
                await copy.WriteAsync((long)bytes.Length);
                await copy.WriteAsync((at ?? DateTimeOffset.UnixEpoch).UtcDateTime);
                await copy.WriteAsync(message.Attachments.Count());
                await copy.WriteAsync("new");
            }

            await copy.CompleteAsync();
        }

        return clock.Elapsed;
    }

    private static string Clean(string text) => text.Replace("\0", "", StringComparison.Ordinal);

    private static async Task<(TimeSpan Took, long Deeds)> OursAsync(NpgsqlDataSource source, string database, int port, string user, int count)
    {
        var clock = Stopwatch.StartNew();
        var id = await ConnectAsync(database, port, user);

        // The server notices a new mailbox within a second; the clock that counts starts with its look.
        await UntilAsync(source, $"SELECT count(*) FROM runs WHERE mailbox_id = {id}", 1);
        var begun = clock.Elapsed;
        await UntilAsync(source, $"SELECT count(*) FROM messages WHERE mailbox_id = {id} AND state <> 'Arrived'", count);
        var took = clock.Elapsed - begun;
        return (took, await CountAsync(source, $"SELECT count(*) FROM deeds d JOIN messages m ON m.id = d.message_id WHERE m.mailbox_id = {id}"));
    }

    private static async Task<long> ConnectAsync(string database, int port, string user)
    {
        await using var db = Context(database);
        var keys = Path.Combine(Environment.GetEnvironmentVariable("PostTide__DataFolder")!, "keys");
        var secrets = new MailboxSecrets(DataProtectionProvider.Create(new DirectoryInfo(keys), b => b.SetApplicationName("posttide")));
        var mailbox = new Mailbox
        {
            Name = user,
            Addresses = [new Store.Records.MailboxAddress { Address = user }],
            Connection = new Connection
            {
                Host = "127.0.0.1",
                Port = port,
                User = user,
                ProtectedPassword = secrets.Protect(Dovecot.Password),
                Folder = "INBOX",
                OldMail = OldMail.CarryOut,
                ConnectedAt = DateTimeOffset.UtcNow,
                Since = DateTimeOffset.UtcNow.AddYears(-30),
            },
        };
        db.Mailboxes.Add(mailbox);
        await db.SaveChangesAsync();
        return mailbox.Id;
    }

    /// <summary>Takes everything but what nobody writes, and places it in a queue; mailing lists open tickets as well.</summary>
    private static async Task AddWorkflowAsync(string database)
    {
        await using var db = Context(database);
        var queue = await db.Queues.FirstAsync();
        var sheet = new Sheet
        {
            TakesIn = new Core.Matching.ConditionSet { None = [new Core.Matching.Condition { Id = "c1", Part = Core.Matching.MessagePart.Subject, Test = Core.Matching.MatchTest.Contains, Values = ["nobody writes this"] }] },
            Lines = [new Line { Id = "l1", Queues = [new PlaceSpec(queue.Id, 60)] }],
        };
        db.Workflows.Add(new Workflow
        {
            Name = "Everything",
            Position = -1,
            Editions = [new WorkflowEdition { Number = 1, State = EditionState.Live, Sheet = sheet, ChangedAt = DateTimeOffset.UtcNow, LiveSince = DateTimeOffset.UtcNow }],
        });
        await db.SaveChangesAsync();
    }

    private static PostTideContext Context(string database)
    {
        var options = new DbContextOptionsBuilder<PostTideContext>();
        PostTideContext.Configure(options, database);
        return new PostTideContext(options.Options);
    }

    private static async Task UntilAsync(NpgsqlDataSource source, string sql, long count)
    {
        while (await CountAsync(source, sql) < count)
        {
            await Task.Delay(20);
        }
    }

    private static async Task<long> CountAsync(NpgsqlDataSource source, string sql)
    {
        await using var command = source.CreateCommand(sql);
        return (long)(await command.ExecuteScalarAsync())!;
    }

    /// <summary>The resident memory of the server process in MB; 0 when it is not known.</summary>
    private static long ServerMemory()
    {
        var id = int.TryParse(Environment.GetEnvironmentVariable("POSTTIDE_SERVER_PID"), CultureInfo.InvariantCulture, out var given) ? given : 0;
        try
        {
            using var process = Process.GetProcessById(id);
            return process.WorkingSet64 / 1_000_000;
        }
        catch (ArgumentException)
        {
            return 0;
        }
    }
}
