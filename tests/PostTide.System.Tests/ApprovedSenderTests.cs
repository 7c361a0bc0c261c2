using System.Net.Http.Json;
using System.Text.Json.Nodes;
using MimeKit;
using Shouldly;
using Xunit;

namespace PostTide.System.Tests;

/// <summary>Mailboxes that take only approved senders: others' mail is held, can be found, and goes on when released.</summary>
[Collection(nameof(SharedOffice))]
public sealed class ApprovedSenderTests(Office office)
{
    private async Task<string> AddMailboxAsync(Action<JsonObject> change)
    {
        var address = $"closed-{Guid.NewGuid():N}@saltmarrow.example";
        var mailbox = Office.Mailbox("Closed", address);
        var approval = JsonNode.Parse("""{"approved":["tern.example"],"trustedServers":["mx.saltmarrow.example"],"trustedHosts":[],"unproved":"Hold"}""")!.AsObject();
        change(approval);
        mailbox["approval"] = approval;
        await office.SaveMailboxAsync(mailbox);
        await Task.Delay(TimeSpan.FromSeconds(1.2)); // the book of addresses is read anew every second
        return address;
    }

    private async Task<JsonNode> SendAsync(string to, string from, Action<MimeMessage>? change = null)
    {
        var subject = $"closed {Guid.NewGuid():N}";
        var mail = Office.Mail(subject, "Words.\n", from, to);
        change?.Invoke(mail);
        await office.SendAsync(mail, to);
        return await office.PlannedAsync(subject);
    }

    [Fact]
    public async Task A_stranger_is_held_can_be_found_and_is_planned_once_released()
    {
        var to = await AddMailboxAsync(a => a["trustedHosts"] = new JsonArray("127.0.0.0/8"));
        var held = await SendAsync(to, "stranger@elsewhere.example");
        held["row"]!["state"]!.GetValue<string>().ShouldBe("Held");
        held["senderCheck"]!.GetValue<string>().ShouldBe("stranger@elsewhere.example is not an approved sender");
        held["verdicts"]!.AsArray().ShouldBeEmpty();
        held["prepared"]!["subject"].ShouldNotBeNull("it can be read");
        (await office.GetAsync("/api/today"))["needsPerson"]!.AsArray().ShouldContain(n => n!["kind"]!.GetValue<string>() == "held");
        var id = held["row"]!["id"]!.GetValue<long>();
        (await office.GetAsync("/api/messages?show=Held"))["messages"]!.AsArray().ShouldContain(m => m!["id"]!.GetValue<long>() == id);

        using var desk = await office.SignInAsync("desk@saltmarrow.example");
        (await desk.PostAsJsonAsync("/api/messages/release", new { messageIds = new[] { id } })).StatusCode.ShouldBe(global::System.Net.HttpStatusCode.Forbidden);
        (await office.PostAsync("/api/messages/release", new { messageIds = new[] { id } }))!.GetValue<int>().ShouldBe(1);
        await Office.EventuallyAsync(async () => (await office.GetAsync($"/api/messages/{id}"))["row"]!["state"]!.GetValue<string>() == "Planned");
        (await office.GetAsync($"/api/messages/{id}"))["verdicts"]!.AsArray().ShouldNotBeEmpty();
    }

    [Fact]
    public async Task An_approved_sender_handed_over_by_a_trusted_host_goes_on()
    {
        var to = await AddMailboxAsync(a => a["trustedHosts"] = new JsonArray("127.0.0.1"));
        var taken = await SendAsync(to, "maud@tern.example");
        taken["row"]!["state"]!.GetValue<string>().ShouldBe("Planned");
        taken["senderCheck"]!.GetValue<string>().ShouldContain("the trusted host 127.0.0.1 handed the message over");
    }

    [Fact]
    public async Task A_forged_sender_is_held_and_a_proved_one_goes_on()
    {
        var to = await AddMailboxAsync(_ => { });
        (await SendAsync(to, "maud@tern.example"))["row"]!["state"]!.GetValue<string>().ShouldBe("Held", "nothing proves it");
        var forged = await SendAsync(to, "maud@tern.example", m => m.Headers.Insert(0, "Authentication-Results", "mx.attacker.example; dmarc=pass header.from=tern.example"));
        forged["row"]!["state"]!.GetValue<string>().ShouldBe("Held", "anybody can write such a field");
        var proved = await SendAsync(to, "maud@tern.example", m => m.Headers.Insert(0, "Authentication-Results", "mx.saltmarrow.example; dmarc=pass header.from=tern.example"));
        proved["row"]!["state"]!.GetValue<string>().ShouldBe("Planned");
    }

    [Fact]
    public async Task An_unproved_sender_may_be_let_through_and_the_message_says_so()
    {
        var to = await AddMailboxAsync(a => a["unproved"] = "LetThrough");
        var taken = await SendAsync(to, "maud@tern.example");
        taken["row"]!["state"]!.GetValue<string>().ShouldBe("Planned");
        taken["senderCheck"]!.GetValue<string>().ShouldContain("nothing proves that the message was written there");
    }

    [Fact]
    public async Task A_tagged_address_of_its_own_delivers_beside_the_plain_one()
    {
        var user = $"tag{Guid.NewGuid():N}";
        var mailbox = Office.Mailbox("Tagged", $"{user}@saltmarrow.example");
        mailbox["addresses"]!.AsArray().Add(JsonNode.Parse($$"""{"address":"{{user}}+web@saltmarrow.example","name":"the web form"}"""));
        var id = await office.SaveMailboxAsync(mailbox);
        await Task.Delay(TimeSpan.FromSeconds(1.2));
        var taken = await SendAsync($"{user}+web@saltmarrow.example", "ada@tester.example");
        taken["prepared"]!["originallyTo"]![0]!.GetValue<string>().ShouldBe($"{user}+web@saltmarrow.example");
        var kept = (await office.GetAsync("/api/setup"))["mailboxes"]!.AsArray().Single(m => m!["id"]!.GetValue<long>() == id)!;
        kept["addresses"]![1]!["name"]!.GetValue<string>().ShouldBe("the web form");
    }
}
