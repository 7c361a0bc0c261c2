using Microsoft.EntityFrameworkCore;
using Npgsql;
using PostTide.Core.Messages;
using PostTide.Core.Workflows;
using PostTide.Store;
using PostTide.Store.Bulk;
using PostTide.Store.Records;
using Shouldly;
using Xunit;

namespace PostTide.System.Tests;

/// <summary>Saving many rows at once leaves in the database what saving them one by one leaves, to the last column.</summary>
public sealed class BulkSaveTests(Office office) : IClassFixture<Office>
{
    private static readonly DateTimeOffset Now = new(2026, 11, 25, 12, 30, 15, TimeSpan.Zero);

    private PostTideContext Open()
    {
        var options = new DbContextOptionsBuilder<PostTideContext>();
        PostTideContext.Configure(options, office.Connection);
        return new PostTideContext(options.Options);
    }

    /// <summary>Messages with everything that hangs on them, through nulls, texts of every alphabet, documents, arrays and enums.</summary>
    private static async Task<List<Message>> AddAsync(PostTideContext db, string mark, int count)
    {
        var mailbox = await db.Mailboxes.OrderBy(m => m.Id).FirstAsync();
        var queue = await db.Queues.OrderBy(q => q.Id).FirstAsync();
        var messages = new List<Message>();
        for (var i = 0; i < count; i++)
        {
            var hash = $"{mark}-{i}".PadRight(64, 'x');
            var message = new Message
            {
                MailboxId = mailbox.Id,
                SourceKey = $"{mark}:{i}",
                RawSha256 = hash,
                Size = i,
                ArrivedAt = Now.AddMinutes(i),
                TakenAt = Now,
                State = MessageState.Planned,
                EnvelopeFrom = i % 2 == 0 ? null : "",
                EnvelopeTo = i % 3 == 0 ? [] : ["a@b.example", "Jörg <j@ö.example>"],
                Subject = $"Wie viel? 価格 🚢 \"{i}\" \\ \t",
                SenderName = "Žofie",
                SenderAddress = $"{mark}@x.example",
                MailId = $"{mark}-{i}@x.example",
                Automatic = i % 2 == 0 ? AutomaticKind.Bounce : null,
                TakenIn = true,
            };
            db.Raws.Add(new Raw { Sha256 = hash, Bytes = [0, 255, (byte)i, 10, 13, 92] });
            await db.Messages.AddAsync(message);
            messages.Add(message);
            db.Plans.Add(new PlanRecord { MessageId = message.Id, Current = true, PlannedAt = Now, PreparedVersion = 2, Verdicts = [] });
            var item = new Item { QueueId = queue.Id, MessageId = message.Id, PlacedAt = Now, DueAt = i % 2 == 0 ? null : Now.AddHours(1) };
            db.Items.Add(item);
            item.Entries.Add(new Entry { Kind = EntryKind.Opened, Text = "Placed", At = Now, MessageId = message.Id });
            var deed = new Deed
            {
                Key = Guid.NewGuid(),
                MessageId = message.Id,
                Kind = DeedKind.Place,
                Target = $"queue:{queue.Id}",
                Says = "place it",
                Content = new PlaceContent(queue.Id, null),
                CreatedAt = Now,
                State = DeedState.Done,
                DoneAt = Now,
            };
            db.Deeds.Add(deed);
            deed.History.Add(new DeedChange { DeedId = deed.Id, State = DeedState.Done, At = Now, Note = null });
        }

        return messages;
    }

    private async Task<string> RowsAsync(string table, string mark, params string[] apartFrom)
    {
        var without = string.Concat(apartFrom.Select(c => $" - '{c}'"));
        await using var connection = new NpgsqlConnection(office.Connection);
        await connection.OpenAsync();
        var id = table == "messages" ? "t.id" : "t.message_id";
        await using var command = new NpgsqlCommand(
            $"SELECT string_agg(replace((to_jsonb(t){without})::text, '{mark}', 'MARK'), E'\\n' ORDER BY m.id) FROM {table} t JOIN messages m ON m.id = {id} WHERE m.sender_address = '{mark}@x.example'",
            connection);
        return (string)(await command.ExecuteScalarAsync())!;
    }

    [Fact]
    public async Task In_bulk_and_one_by_one_leave_the_same_rows()
    {
        await using (var db = Open())
        {
            await AddAsync(db, "bulk", 20);
            await using var transaction = await db.Database.BeginTransactionAsync();
            await db.SaveInBulkAsync(CancellationToken.None);
            db.ChangeTracker.Entries().ShouldAllBe(e => e.State == EntityState.Unchanged);
            await transaction.CommitAsync();
        }

        await using (var db = Open())
        {
            await AddAsync(db, "each", 20);
            await db.SaveChangesAsync();
        }

        string[] own = ["id", "message_id", "raw_sha256", "key", "item_id", "deed_id"];
        foreach (var table in new[] { "messages", "plans", "items", "deeds", "entries" })
        {
            var bulk = await RowsAsync(table, "bulk", own);
            bulk.ShouldBe(await RowsAsync(table, "each", own), table);
            bulk.Split('\n').Length.ShouldBe(20);
        }

        (await office.CountAsync("SELECT count(*) FROM raws r JOIN raws o ON o.bytes = r.bytes WHERE r.sha256 LIKE 'bulk-%' AND o.sha256 LIKE 'each-%'")).ShouldBe(20);
        (await office.CountAsync("SELECT count(*) FROM deed_history h JOIN deeds d ON d.id = h.deed_id JOIN messages m ON m.id = d.message_id WHERE m.sender_address = 'bulk@x.example'")).ShouldBe(20);
    }

    [Theory]
    [InlineData(3)] // Few changes go the usual way.
    [InlineData(40)]
    public async Task Changes_reach_the_rows_they_belong_to_and_no_others(int count)
    {
        var mark = $"change{count}";
        await using (var db = Open())
        {
            await AddAsync(db, mark, count + 2);
            await db.SaveChangesAsync();
        }

        await using (var db = Open())
        {
            var rows = await db.Messages.Where(m => m.SenderAddress == mark + "@x.example").OrderBy(m => m.Id).ToListAsync();
            foreach (var (row, i) in rows.Take(count).Select((r, i) => (r, i)))
            {
                row.Subject = $"changed {i}";
                row.Problem = i % 2 == 0 ? "something" : null;
                row.PlannedAt = Now;
            }

            await using var transaction = await db.Database.BeginTransactionAsync();
            await db.SaveInBulkAsync(CancellationToken.None);
            await db.SaveChangesAsync();
            await transaction.CommitAsync();
        }

        var mine = $"FROM messages WHERE sender_address = '{mark}@x.example'";
        (await office.CountAsync($"SELECT count(*) {mine} AND subject = 'changed ' || size AND planned_at IS NOT NULL")).ShouldBe(count);
        (await office.CountAsync($"SELECT count(*) {mine} AND problem IS NOT NULL")).ShouldBe((count + 1) / 2);
        (await office.CountAsync($"SELECT count(*) {mine} AND subject LIKE 'Wie viel%' AND planned_at IS NULL")).ShouldBe(2);
    }

    [Fact]
    public async Task What_is_refused_undoes_all_of_it()
    {
        await using (var db = Open())
        {
            await AddAsync(db, "twice", 10);
            await db.SaveChangesAsync();
        }

        var before = await office.CountAsync("SELECT (SELECT count(*) FROM messages) + (SELECT count(*) FROM items) + (SELECT count(*) FROM entries)");
        await using (var db = Open())
        {
            var again = await AddAsync(db, "fresh", 9);
            again[8].SourceKey = "twice:4";
            await using var transaction = await db.Database.BeginTransactionAsync();
            var refused = await Should.ThrowAsync<PostgresException>(db.SaveInBulkAsync(CancellationToken.None));
            refused.SqlState.ShouldBe(PostgresErrorCodes.UniqueViolation);
        }

        (await office.CountAsync("SELECT (SELECT count(*) FROM messages) + (SELECT count(*) FROM items) + (SELECT count(*) FROM entries)")).ShouldBe(before);
    }
}
