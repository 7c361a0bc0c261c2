using System.Diagnostics;
using System.Globalization;
using System.Security.Cryptography;
using MailKit.Net.Smtp;
using MailKit.Security;
using MimeKit;
using Npgsql;
using PostTide.StandIns.Saltmarrow;

namespace PostTide.Bench;

/// <summary>
/// From SMTP to planned, beside the same messages inserted one by one into a bare table of raw bytes and ten columns. Both in
/// one run on the same PostgreSQL; the ratio is what counts.
/// </summary>
internal static class Arrivals
{
    private const int Connections = 4;

    public static async Task RunAsync(int count)
    {
        var database = Environment.GetEnvironmentVariable("PostTide__Database")!;
        var port = int.Parse(Environment.GetEnvironmentVariable("PostTide__SmtpPort")!, CultureInfo.InvariantCulture);
        var mail = new Generator(7).History(DateTimeOffset.UtcNow, 30, count).ToList();
        await using var source = NpgsqlDataSource.Create(database);

        await SendAsync(mail.Take(50).ToList(), port);
        await PlannedAsync(source);
        var before = await CountAsync(source);
        for (var round = 1; round <= 3; round++)
        {
            var inserts = await InsertAsync(source, mail);
            var clock = Stopwatch.StartNew();
            await SendAsync(mail, port);
            var accepted = clock.Elapsed;
            await PlannedAsync(source);
            var planned = clock.Elapsed;
            var (p50, p95) = await LatencyAsync(source, count);
            Console.WriteLine(string.Create(CultureInfo.InvariantCulture,
                $"round {round}: {count} messages; bare inserts {count / inserts.TotalSeconds:F0}/s; SMTP accepted {count / accepted.TotalSeconds:F0}/s; "
                + $"SMTP to planned {count / planned.TotalSeconds:F0}/s, {planned / inserts:F1} times the inserts; arrival to planned p50 {p50:F0} ms, p95 {p95:F0} ms"));
        }

        Console.WriteLine($"{await CountAsync(source) - before} messages planned in all");
    }

    private static async Task SendAsync(List<MadeMail> mail, int port) => await Task.WhenAll(Enumerable.Range(0, Connections).Select(async lane =>
    {
        using var client = new SmtpClient();
        await client.ConnectAsync("127.0.0.1", port, SecureSocketOptions.None);
        foreach (var m in mail.Where((_, i) => i % Connections == lane))
        {
            m.Message.MessageId = $"{Guid.NewGuid():N}@bench.example";
            await client.SendAsync(m.Message, new MailboxAddress("", m.EnvelopeFrom.Length == 0 ? "a@b.example" : m.EnvelopeFrom), [new MailboxAddress("", m.EnvelopeTo)]);
        }

        await client.DisconnectAsync(quit: true);
    }));

    private static async Task<TimeSpan> InsertAsync(NpgsqlDataSource source, List<MadeMail> mail)
    {
        await using (var create = source.CreateCommand(
            "DROP TABLE IF EXISTS bare; CREATE TABLE bare (id bigserial PRIMARY KEY, raw bytea, sha text, sender text, recipient text, subject text, mail_id text, size bigint, arrived timestamptz, attachments int, state text)"))
        {
            await create.ExecuteNonQueryAsync();
        }

        var rows = mail.ConvertAll(m => (Mail: m, Bytes: m.ToBytes()));
        var clock = Stopwatch.StartNew();
        await Task.WhenAll(Enumerable.Range(0, Connections).Select(async lane =>
        {
            await using var connection = await source.OpenConnectionAsync();
            foreach (var (m, bytes) in rows.Where((_, i) => i % Connections == lane))
            {
                await using var insert = new NpgsqlCommand("INSERT INTO bare (raw, sha, sender, recipient, subject, mail_id, size, arrived, attachments, state) VALUES ($1,$2,$3,$4,$5,$6,$7,$8,$9,$10)", connection);
                foreach (var value in new object[] { bytes, Convert.ToHexStringLower(SHA256.HashData(bytes)), m.EnvelopeFrom, m.EnvelopeTo, m.Message.Subject ?? "", m.Message.MessageId ?? "", (long)bytes.Length, DateTime.UtcNow, 0, "new" })
                {
                    insert.Parameters.AddWithValue(value);
                }

                await insert.ExecuteNonQueryAsync();
            }
        }));
        return clock.Elapsed;
    }

    private static async Task PlannedAsync(NpgsqlDataSource source)
    {
        while (true)
        {
            await using var command = source.CreateCommand("SELECT count(*) FROM messages WHERE state = 'Arrived'");
            if ((long)(await command.ExecuteScalarAsync())! == 0)
            {
                return;
            }

            await Task.Delay(10);
        }
    }

    private static async Task<(double P50, double P95)> LatencyAsync(NpgsqlDataSource source, int count)
    {
        await using var command = source.CreateCommand(
            "SELECT percentile_cont(ARRAY[0.5, 0.95]) WITHIN GROUP (ORDER BY ms) FROM (SELECT extract(epoch FROM planned_at - arrived_at) * 1000 AS ms FROM messages ORDER BY id DESC LIMIT $1) latest");
        command.Parameters.AddWithValue(count);
        var percentiles = (double[])(await command.ExecuteScalarAsync())!;
        return (percentiles[0], percentiles[1]);
    }

    private static async Task<long> CountAsync(NpgsqlDataSource source)
    {
        await using var command = source.CreateCommand("SELECT count(*) FROM messages WHERE state = 'Planned'");
        return (long)(await command.ExecuteScalarAsync())!;
    }
}
