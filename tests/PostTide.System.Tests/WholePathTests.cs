using System.Net;
using System.Text;
using System.Text.Json.Nodes;
using MimeKit;
using Shouldly;
using Xunit;

namespace PostTide.System.Tests;

/// <summary>The whole path: mail comes in over SMTP, one workflow decides, every kind of deed is done.</summary>
[Collection(nameof(SharedOffice))]
public sealed class WholePathTests(Office office)
{
    private static string[] Kinds(JsonNode message) => [.. message["deeds"]!.AsArray().Select(d => $"{d!["kind"]} {d["state"]}")];

    [Fact]
    public async Task A_large_vessel_gets_an_item_a_ticket_a_file_and_a_draft_that_is_sent_when_checked()
    {
        var mail = Office.Mail("Berth for MV Quill", "We act as agents for MV Quill, LOA 88 m, and ask for a berth.\n");
        var body = new BodyBuilder { TextBody = ((TextPart)mail.Body!).Text };
        body.Attachments.Add("../../etc/passwd.pdf", Encoding.ASCII.GetBytes("%PDF-1.4"));
        mail.Body = body.ToMessageBody();
        await office.SendAsync(mail);

        var message = await office.PlannedAsync("Berth for MV Quill");
        Kinds(message).ShouldBe(["Place Done", "Ticket Done", "File Done", "Reply Checking"]);
        message["items"]![0]!["queueName"]!.GetValue<string>().ShouldBe("Large berths");
        message["files"]![0]!["name"]!.GetValue<string>().ShouldBe("passwd.pdf");
        var reference = message["tickets"]![0]!.GetValue<string>();

        using var file = await office.Http.GetAsync($"/api/files/{message["files"]![0]!["id"]}/content");
        (await file.Content.ReadAsStringAsync()).ShouldBe("%PDF-1.4");
        file.Content.Headers.ContentType!.MediaType.ShouldBe("application/octet-stream");
        file.Content.Headers.ContentDisposition!.DispositionType.ShouldBe("attachment");

        var deed = message["deeds"]![3]!["id"]!.GetValue<long>();
        await office.PostAsync($"/api/replies/{deed}/send");
        var sent = await ReceivedAsync("Re: Berth for MV Quill");
        sent.Headers["Auto-Submitted"].ShouldBe("auto-replied");
        sent.InReplyTo.ShouldBe(mail.MessageId);
        sent.References.ShouldBe([mail.MessageId!]);
        sent.From.Mailboxes.Single().Address.ShouldBe("berths@saltmarrow.example");
        sent.TextBody!.ShouldContain(reference);
        await Office.EventuallyAsync(async () => Kinds(await office.GetAsync($"/api/messages/{message["row"]!["id"]}"))[3] == "Reply Done");
    }

    [Fact]
    public async Task A_fault_is_passed_on_once_and_the_receiver_sees_its_key()
    {
        var mail = Office.Mail("[Plantwatch] FAULT CR-1 Quay crane 1: test", "State: FAULT\n", "notices@plantwatch.example", "plant@saltmarrow.example");
        await office.SendAsync(mail, "plant@saltmarrow.example");
        var message = await office.PlannedAsync(mail.Subject!);
        JsonNode? record = null;
        await Office.EventuallyAsync(async () =>
        {
            record = JsonNode.Parse(await office.StandIns.GetStringAsync("/records"))!.AsArray()
                .FirstOrDefault(r => r!["body"]!.GetValue<string>().Contains($"\"message\":{message["row"]!["id"]},", StringComparison.Ordinal));
            return record is not null;
        });
        Guid.TryParse(record!["key"]!.GetValue<string>(), out _).ShouldBeTrue();
        record["repeats"]!.GetValue<int>().ShouldBe(0);
    }

    [Fact]
    public async Task A_failing_application_makes_the_deed_stuck_and_a_person_can_have_it_tried_again()
    {
        await SwitchAsync("application-fails", true);
        var mail = Office.Mail("[Plantwatch] FAULT PU-3 stuck test", "State: FAULT\n", "notices@plantwatch.example", "plant@saltmarrow.example");
        await office.SendAsync(mail, "plant@saltmarrow.example");
        var id = (await office.PlannedAsync(mail.Subject!))["row"]!["id"]!;
        JsonNode? deed = null;
        await Office.EventuallyAsync(async () =>
        {
            deed = (await office.GetAsync($"/api/messages/{id}"))["deeds"]!.AsArray().Single(d => d!["kind"]!.GetValue<string>() == "PassOn");
            return deed!["state"]!.GetValue<string>() == "Stuck";
        });
        deed!["because"]!.GetValue<string>().ShouldContain("503");
        deed["attempts"]!.GetValue<int>().ShouldBe(6);

        await SwitchAsync("application-fails", false);
        await office.PostAsync($"/api/deeds/{deed["id"]}/retry");
        await Office.EventuallyAsync(async () => Kinds(await office.GetAsync($"/api/messages/{id}")).Contains("PassOn Done"));
    }

    [Fact]
    public async Task A_stopped_reply_is_not_sent_and_can_be_taken_back()
    {
        await office.SendAsync(Office.Mail("Berth for Stopwatch", "A visitor berth please.\n", "stop@tester.example"));
        var message = await office.PlannedAsync("Berth for Stopwatch");
        var deed = message["deeds"]!.AsArray().Single(d => d!["kind"]!.GetValue<string>() == "Reply")!;
        deed["state"]!.GetValue<string>().ShouldBe("Checking");
        deed["because"]!.GetValue<string>().ShouldBe("a value is missing: sender_name");
        await office.PostAsync($"/api/replies/{deed["id"]}/do-not-send");
        (await Should.ThrowAsync<HttpRequestException>(office.PostAsync($"/api/replies/{deed["id"]}/send"))).StatusCode.ShouldBe(HttpStatusCode.Conflict);
        await office.PostAsync($"/api/replies/{deed["id"]}/take-back");
        (await office.GetAsync("/api/replies?show=Checking"))["replies"]!.AsArray().ShouldContain(r => r!["deedId"]!.GetValue<long>() == deed["id"]!.GetValue<long>());
    }

    [Fact]
    public async Task Answers_find_their_conversation_and_ticket_in_whatever_order_they_arrive()
    {
        var first = Office.Mail("Berth for Orderly", "A berth for Orderly please.\n");
        first.MessageId = "orderly-1@tester.example";
        var answer = Office.Mail("Re: Berth for Orderly", "One more thing about the berth.\n");
        answer.MessageId = "orderly-2@tester.example";
        answer.InReplyTo = first.MessageId;
        answer.References.Add(first.MessageId);
        await office.SendAsync(answer);
        var second = await office.PlannedAsync("Re: Berth for Orderly");
        await office.SendAsync(first);
        var late = await office.PlannedAsync("Berth for Orderly");
        late["prepared"]!["conversationId"]!.GetValue<long>().ShouldBe(second["prepared"]!["conversationId"]!.GetValue<long>());
        late["tickets"]!.AsArray().Select(t => t!.GetValue<string>()).ShouldBe(second["tickets"]!.AsArray().Select(t => t!.GetValue<string>()));
    }

    [Fact]
    public async Task The_same_message_twice_is_planned_once_and_shown_as_a_copy()
    {
        var mail = Office.Mail("Berth for Twice", "A berth for us.\n");
        mail.MessageId = "twice@tester.example";
        await office.SendAsync(mail);
        await office.PlannedAsync("Berth for Twice");
        await office.SendAsync(mail);
        await Office.EventuallyAsync(async () => (await office.GetAsync("/api/messages?text=Twice&show=Duplicate"))["messages"]!.AsArray().Count == 1);
        (await office.CountAsync("SELECT count(*) FROM items i JOIN messages m ON m.id = i.message_id WHERE m.mail_id = 'twice@tester.example'")).ShouldBe(1);
    }

    [Fact]
    public async Task A_deed_by_hand_goes_the_same_way()
    {
        await office.SendAsync(Office.Mail("A question about lamps", "Which lamps?\n", to: "harbour@saltmarrow.example"), "harbour@saltmarrow.example");
        var id = (await office.PlannedAsync("A question about lamps"))["row"]!["id"]!;
        await office.PostAsync($"/api/messages/{id}/ticket", new { label = "Lamp", priority = "High" });
        await office.PostAsync($"/api/messages/{id}/reply", new { to = "ada@tester.example", body = "Yellow ones.", templateId = (long?)null });
        (await Should.ThrowAsync<HttpRequestException>(office.PostAsync($"/api/messages/{id}/file", new { folder = "X" }))).Message.ShouldContain("there is no attachment");
        var sent = await ReceivedAsync("Re: A question about lamps");
        sent.Headers["Auto-Submitted"].ShouldBeNull();
        var message = await office.GetAsync($"/api/messages/{id}");
        message["tickets"]!.AsArray().Count.ShouldBe(1);
    }

    [Fact]
    public async Task An_item_is_taken_handed_on_set_aside_and_done_with_every_step_in_its_timeline()
    {
        await office.SendAsync(Office.Mail("A question about ropes", "Which ropes?\n", to: "harbour@saltmarrow.example"), "harbour@saltmarrow.example");
        var message = await office.PlannedAsync("A question about ropes");
        var item = message["items"]![0]!["item"]!["id"]!;
        var queue = (await office.GetAsync("/api/queues")).AsArray().First(q => q!["name"]!.GetValue<string>() == "Front office")!["id"]!.GetValue<long>();
        await office.PostAsync($"/api/items/{item}/take");
        await office.PostAsync($"/api/items/{item}/note", new { text = "Ask Ketil" });
        await office.PostAsync($"/api/items/{item}/hand-on", new { queueId = queue, note = "yours" });
        await office.PostAsync($"/api/items/{item}/wait", new { until = (string?)null });
        await office.PostAsync($"/api/items/{item}/done");
        var kinds = (await office.GetAsync($"/api/items/{item}"))["entries"]!.AsArray().Select(e => e!["kind"]!.GetValue<string>());
        kinds.ShouldBe(["Opened", "Taken", "Note", "HandedOn", "Waiting", "Done"]);
    }

    private async Task SwitchAsync(string what, bool on)
    {
        using var form = new FormUrlEncodedContent([new KeyValuePair<string, string>("on", on ? "yes" : "no")]);
        (await office.StandIns.PostAsync($"/switch/{what}", form)).EnsureSuccessStatusCode();
    }

    private async Task<MimeMessage> ReceivedAsync(string subject)
    {
        MimeMessage? found = null;
        await Office.EventuallyAsync(async () =>
        {
            foreach (var mail in JsonNode.Parse(await office.StandIns.GetStringAsync("/mail"))!.AsArray())
            {
                var message = await MimeMessage.LoadAsync(new MemoryStream(Encoding.UTF8.GetBytes(mail!["source"]!.GetValue<string>())));
                found = message.Subject == subject ? message : found;
            }

            return found is not null;
        });
        return found!;
    }
}
