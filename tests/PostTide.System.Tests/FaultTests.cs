using System.Net.Http.Json;
using System.Text;
using System.Text.Json.Nodes;
using PostTide.StandIns.PracticeMailboxes;
using PostTide.System.Tests.Peers;
using Shouldly;
using Xunit;

namespace PostTide.System.Tests;

/// <summary>
/// A mailbox under load while something breaks, twenty times at random moments: no message is lost, none is planned twice, no
/// outside deed that was acknowledged is repeated, and every run balances.
/// </summary>
public sealed class FaultTests
{
    private const int Rounds = 20;
    private const int Messages = 400;
    private const string User = "faults@peer.example";

    [Fact]
    public Task The_server_is_killed_twenty_times() => UnderFaultsAsync(async (office, _) =>
    {
        await office.KillServerAsync();
        await office.StartServerAsync();
    });

    [Fact]
    public Task The_database_is_restarted_twenty_times() => UnderFaultsAsync((_, postgres) =>
    {
        postgres.Restart();
        return Task.CompletedTask;
    });

    [Fact]
    public Task The_mail_server_drops_connections_twenty_times() => UnderFaultsAsync(async (office, _) =>
    {
        await MisbehaveAsync(office, new MisbehaviourRequest(DropsEvery: Random.Shared.Next(2, 9)));
        await Task.Delay(Random.Shared.Next(50, 400));
        await MisbehaveAsync(office, new MisbehaviourRequest(Refuses: Random.Shared.Next(2) == 0));
        await Task.Delay(Random.Shared.Next(50, 400));
        await MisbehaveAsync(office, new MisbehaviourRequest());
    });

    private static async Task UnderFaultsAsync(Func<Office, Postgres, Task> breakAsync)
    {
        using var postgres = new Postgres();
        await using var office = new Office { OwnServer = postgres.Connection };
        await office.InitializeAsync();
        await office.StandIns.PutAsync($"/mailboxes/{User}", null);
        await AddWorkflowAsync(office);
        var mailbox = Office.Mailbox("Under faults", User);
        mailbox["connection"] = JsonNode.Parse(
            $$"""
            {"host":"127.0.0.1","port":{{office.ImapPort}},"tls":"None","user":"{{User}}","password":"{{PracticeStore.Password}}","folder":"INBOX","backDays":30,
             "oldMail":"CarryOut","markRead":false,"paceMinutes":1,"hours":null,"cap":null,"paused":false}
            """);
        var id = await office.SaveMailboxAsync(mailbox);

        // Mail pours in all the while, whatever is broken: it comes to the mail server, not to Post Tide.
        var pouring = Task.Run(async () =>
        {
            for (var i = 0; i < Messages; i++)
            {
                var mail = $"From: p@faults.example\r\nSubject: Pour {i}\r\nMessage-ID: <pour-{i}@faults.example>\r\n\r\nWords {i}.\r\n";
                (await office.StandIns.PostAsync($"/mailboxes/{User}/messages", new ByteArrayContent(Encoding.ASCII.GetBytes(mail)))).EnsureSuccessStatusCode();
                await Task.Delay(25);
            }
        });
        for (var round = 0; round < Rounds; round++)
        {
            await Task.Delay(Random.Shared.Next(20, 500));
            await breakAsync(office, postgres);
        }

        await pouring;
        await Office.EventuallyAsync(async () => await office.CountAsync("SELECT count(*) FROM messages WHERE state = 'Planned'") >= Messages);
        await Office.EventuallyAsync(async () => await office.CountAsync("SELECT count(*) FROM deeds WHERE state NOT IN ('Done', 'Stuck')") == 0);
        await RetryStuckAsync(office);

        (await office.CountAsync("SELECT count(*) FROM messages")).ShouldBe(Messages);
        (await office.CountAsync("SELECT count(DISTINCT mail_id) FROM messages")).ShouldBe(Messages);
        (await office.CountAsync("SELECT count(*) FROM plans")).ShouldBe(Messages);
        (await office.CountAsync("SELECT count(*) FROM items")).ShouldBe(Messages);
        (await office.CountAsync("SELECT count(*) FROM deeds WHERE kind = 'PassOn'")).ShouldBe(Messages);
        await ShouldNotHaveRepeatedAsync(office);
        (await office.CountAsync($"""
            SELECT count(*) FROM runs r WHERE r.mailbox_id = {id} AND r.state = 'Finished'
            AND r.looked_at <> r.carried_over + (SELECT count(*) FROM messages m WHERE m.run_id = r.id) + (SELECT count(*) FROM run_messages x WHERE x.run_id = r.id)
            """)).ShouldBe(0);

        // The last message may be planned a moment before the look that took it writes down that it has ended.
        await Office.EventuallyAsync(async () => await office.CountAsync("SELECT count(*) FROM runs WHERE state = 'Running'") == 0);
    }

    /// <summary>The other application has each record once; one it was offered again is one whose try was cut off, and says so.</summary>
    private static async Task ShouldNotHaveRepeatedAsync(Office office)
    {
        var records = JsonNode.Parse(await office.StandIns.GetStringAsync("/records"))!.AsArray();
        records.Count.ShouldBe(Messages);
        foreach (var record in records.Where(r => r!["repeats"]!.GetValue<int>() > 0))
        {
            (await office.CountAsync($"SELECT count(*) FROM deeds WHERE key = '{record!["key"]}' AND (may_have_begun OR attempts > 1)"))
                .ShouldBe(1, "only a try that was cut off is made again");
        }
    }

    private static async Task RetryStuckAsync(Office office)
    {
        while (await office.CountAsync("SELECT count(*) FROM deeds WHERE state = 'Stuck'") > 0)
        {
            var stuck = (await office.GetAsync("/api/log/deeds?show=Stuck"))["deeds"]!.AsArray().Select(d => d!["id"]!.GetValue<long>()).ToList();
            await office.PostAsync("/api/deeds/retry", new { ids = stuck });
            await Office.EventuallyAsync(async () => await office.CountAsync($"SELECT count(*) FROM deeds WHERE id IN ({string.Join(',', stuck)}) AND state <> 'Done'") == 0);
        }
    }

    private static async Task AddWorkflowAsync(Office office)
    {
        var setup = await office.GetAsync("/api/setup");
        var line = $$"""
            {"id":"l1","case":"Any","categoryId":null,"andWhen":{"all":[],"any":[],"none":[]},"queues":[{"queueId":{{setup["queues"]![0]!["id"]}},"dueInMinutes":60}],
             "ticket":null,"files":[],"replies":[],"passOns":[{"destinationId":{{setup["destinations"]![0]!["id"]}}}],"inMailbox":null}
            """;
        await CatchUpTests.AddWorkflowAsync(office, "Faults", "faults.example", line);
    }

    private static async Task MisbehaveAsync(Office office, MisbehaviourRequest how) =>
        (await office.StandIns.PostAsJsonAsync("/misbehaviour", how)).EnsureSuccessStatusCode();
}
