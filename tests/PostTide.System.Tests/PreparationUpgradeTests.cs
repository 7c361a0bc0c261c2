using MimeKit;
using PostTide.Core.Messages;
using Shouldly;
using Xunit;

namespace PostTide.System.Tests;

/// <summary>Messages an earlier version prepared are prepared again from their bytes when the server starts.</summary>
public sealed class PreparationUpgradeTests(Office office) : IClassFixture<Office>
{
    [Fact]
    public async Task Older_messages_can_be_asked_everything_after_a_start()
    {
        var message = new MimeMessage { Subject = "Prepared before", Body = new TextPart("plain") { Text = "A berth?\n" } };
        message.From.Add(new MailboxAddress("", "a@upgrade.example"));
        message.Headers.Add("X-Upgrade", "yes");
        await office.SendAsync(message);
        await office.PlannedAsync("Prepared before");
        var id = await office.CountAsync("SELECT id FROM messages WHERE subject = 'Prepared before'");

        // As the first version left it: without header fields, and marked as its own.
        await office.RunAsync($"UPDATE prepared SET version = 1, words = '', document = ((document::jsonb - 'header') || '{{\"version\":1}}')::json WHERE message_id = {id}");
        await office.KillServerAsync();
        await office.StartServerAsync();
        await Office.EventuallyAsync(async () => await office.CountAsync($"SELECT count(*) FROM prepared WHERE version < {PreparedMessage.CurrentVersion}") == 0);
        (await office.CountAsync($"SELECT count(*) FROM prepared WHERE message_id = {id} AND document::text LIKE '%X-Upgrade%'")).ShouldBe(1);
        (await office.GetAsync("/api/messages?text=berth"))["messages"]!.AsArray().Count.ShouldBe(1, "its words are found again");
    }
}
