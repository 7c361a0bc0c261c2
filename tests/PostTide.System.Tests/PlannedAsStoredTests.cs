using Npgsql;
using PostTide.System.Tests.Peers;
using Shouldly;
using Xunit;

namespace PostTide.System.Tests;

/// <summary>
/// Mail of a connected mailbox is planned in the transaction that stores it; where that cannot be, it is stored first and planned
/// afterwards, and nobody sees a difference.
/// </summary>
[Collection(nameof(SharedPeers))]
public sealed class PlannedAsStoredTests(Peers.Peers peers)
{
    /// <summary>The lock planning takes, as PostgreSQL's list of locks shows it.</summary>
    private const long PlanningLock = 0x7069_6c6f_7469;
    private readonly Office _office = peers.Office;

    [Theory]
    [InlineData(PeerKind.Dovecot)]
    [InlineData(PeerKind.PoorPractice)]
    public async Task Bytes_message_plan_and_deeds_come_from_one_transaction(PeerKind kind)
    {
        var box = await peers.Get(kind).NewBoxAsync();
        await box.ConnectAsync();
        await box.AppendAsync(box.Mail($"Berth for {box.User}"));
        await box.PlannedAsync(1);

        // A row that was written once still bears the number of the transaction that made it.
        (await _office.CountAsync($"""
            SELECT count(*) FROM messages m JOIN raws r ON r.sha256 = m.raw_sha256 JOIN prepared p ON p.message_id = m.id JOIN plans l ON l.message_id = m.id
            WHERE m.mailbox_id = {box.Id} AND m.state = 'Planned' AND m.xmin = r.xmin AND m.xmin = p.xmin AND m.xmin = l.xmin
            """)).ShouldBe(1);
    }

    [Fact]
    public async Task What_cannot_be_planned_is_set_aside_and_the_rest_of_its_batch_is_planned()
    {
        var box = await peers.Get(PeerKind.Dovecot).NewBoxAsync();
        var bad = $"Bad {Guid.NewGuid():N}";
        foreach (var subject in new[] { "One", "Two", bad, "Three", "Four" })
        {
            await box.AppendAsync(box.Mail(subject));
        }

        // The database refuses the plan of one message, whoever asks.
        await _office.RunAsync($"""
            CREATE FUNCTION refuse_plan() RETURNS trigger LANGUAGE plpgsql AS $$
            BEGIN
                IF EXISTS (SELECT 1 FROM messages m JOIN raws r ON r.sha256 = m.raw_sha256 WHERE m.id = NEW.message_id AND position('{bad}'::bytea IN r.bytes) > 0) THEN
                    RAISE EXCEPTION 'no plan for this one';
                END IF;
                RETURN NEW;
            END $$;
            CREATE TRIGGER refuse_plan BEFORE INSERT ON plans FOR EACH ROW EXECUTE FUNCTION refuse_plan()
            """);
        try
        {
            await box.ConnectAsync(c => c["oldMail"] = "CarryOut");
            await box.PlannedAsync(5);
        }
        finally
        {
            await _office.RunAsync("DROP TRIGGER refuse_plan ON plans; DROP FUNCTION refuse_plan()");
        }

        (await box.CountAsync("state = 'Planned' AND subject IN ('One', 'Two', 'Three', 'Four')")).ShouldBe(4);
        (await box.CountAsync("state = 'Unreadable' AND problem LIKE 'It could not be planned: %no plan for this one%'")).ShouldBe(1);
        (await _office.CountAsync($"SELECT count(*) FROM plans p JOIN messages m ON m.id = p.message_id WHERE m.mailbox_id = {box.Id}")).ShouldBe(4);
        (await _office.CountAsync($"SELECT count(*) FROM runs WHERE mailbox_id = {box.Id} AND looked_at = 5")).ShouldBe(1, "the look itself went well");
    }

    [Fact]
    public async Task While_others_plan_mail_is_stored_and_searched_and_planned_afterwards()
    {
        var box = await peers.Get(PeerKind.Dovecot).NewBoxAsync();
        await box.ConnectAsync();
        await using (var other = new NpgsqlConnection($"{_office.Connection};Pooling=false"))
        {
            await other.OpenAsync();
            await using (var take = new NpgsqlCommand($"SELECT pg_advisory_lock({PlanningLock})", other))
            {
                await take.ExecuteNonQueryAsync();
            }

            await box.AppendAsync(box.Mail("Stored already"));
            await Office.EventuallyAsync(async () =>
            {
                await box.LookAsync();
                return await box.CountAsync("state = 'Arrived' AND planned_at IS NULL") == 1;
            });
            (await _office.CountAsync($"SELECT count(*) FROM prepared p JOIN messages m ON m.id = p.message_id WHERE m.mailbox_id = {box.Id} AND p.search @@ to_tsquery('simple', 'stored')")).ShouldBe(1);
        }

        await box.PlannedAsync(1);
        (await box.CountAsync("state = 'Planned' AND subject = 'Stored already'")).ShouldBe(1);
    }
}
