using System.Collections.Concurrent;
using MailKit.Net.Smtp;
using MailKit.Security;
using MimeKit;
using Shouldly;
using Xunit;

namespace PostTide.System.Tests;

/// <summary>The server is killed with SIGKILL while mail pours in: nothing acknowledged is lost, nothing is done twice.</summary>
public sealed class KillTests
{
    private const int Messages = 500;
    private const int Senders = 4;

    [Fact]
    public async Task Killing_the_server_while_500_messages_pour_in_loses_none_and_does_nothing_twice()
    {
        await using var office = new Office();
        await office.InitializeAsync();
        var waiting = new ConcurrentQueue<int>(Enumerable.Range(0, Messages));
        var acknowledged = new ConcurrentBag<int>();
        var senders = Enumerable.Range(0, Senders).Select(_ => PourAsync(office, waiting, acknowledged)).ToList();

        foreach (var after in new[] { 60, 200, 350 })
        {
            await Office.EventuallyAsync(() => Task.FromResult(acknowledged.Count >= after));
            await office.KillServerAsync();
            await office.StartServerAsync();
        }

        await Task.WhenAll(senders);
        await Office.EventuallyAsync(async () => await office.CountAsync("SELECT count(*) FROM messages WHERE state = 'Arrived'") == 0);

        // A message whose acknowledgement was cut off is sent again, and then recognised as a copy.
        (await office.CountAsync("SELECT count(DISTINCT mail_id) FROM messages WHERE state = 'Planned'")).ShouldBe(Messages);
        acknowledged.Distinct().Count().ShouldBe(Messages);
        (await office.CountAsync("SELECT count(*) FROM messages WHERE state = 'Planned' AND duplicate_of_id IS NULL")).ShouldBe(Messages);
        (await office.CountAsync("SELECT count(*) FROM items")).ShouldBe(Messages);
        (await office.CountAsync("SELECT count(*) FROM (SELECT message_id FROM items GROUP BY message_id HAVING count(*) > 1) twice")).ShouldBe(0);
        (await office.CountAsync("SELECT count(*) FROM plans p JOIN messages m ON m.id = p.message_id WHERE m.duplicate_of_id IS NULL")).ShouldBe(Messages);

        // Every outside deed reaches the practice application, each under a key of its own.
        await Office.EventuallyAsync(async () => await office.CountAsync("SELECT count(*) FROM deeds WHERE kind = 'PassOn' AND state <> 'Done'") == 0);
        var deeds = await office.CountAsync("SELECT count(*) FROM deeds WHERE kind = 'PassOn'");
        deeds.ShouldBe(Messages);
        var records = global::System.Text.Json.Nodes.JsonNode.Parse(await office.StandIns.GetStringAsync("/records"))!.AsArray();
        records.Count.ShouldBe(Messages);
    }

    private static async Task PourAsync(Office office, ConcurrentQueue<int> waiting, ConcurrentBag<int> acknowledged)
    {
        while (waiting.TryDequeue(out var number))
        {
            var mail = Office.Mail($"[Plantwatch] FAULT PU-1 number {number}", "State: FAULT\n", "notices@plantwatch.example", "plant@saltmarrow.example");
            mail.MessageId = $"pour-{number}@plantwatch.example";
            while (!await TrySendAsync(office, mail))
            {
                await Task.Delay(100);
            }

            acknowledged.Add(number);
        }
    }

    private static async Task<bool> TrySendAsync(Office office, MimeMessage mail)
    {
        try
        {
            using var client = new SmtpClient { Timeout = 10_000 };
            await client.ConnectAsync("127.0.0.1", office.SmtpPort, SecureSocketOptions.None);
            await client.SendAsync(mail, new MailboxAddress("", "notices@plantwatch.example"), [new MailboxAddress("", "plant@saltmarrow.example")]);
            return true;
        }
        catch (Exception e) when (e is IOException or global::System.Net.Sockets.SocketException or SmtpProtocolException or SmtpCommandException or TimeoutException or OperationCanceledException)
        {
            return false;
        }
    }
}
