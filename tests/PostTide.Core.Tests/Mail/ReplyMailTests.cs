using CsCheck;
using MimeKit;
using PostTide.Mail;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Mail;

/// <summary>RFC 3834 §3.1 and RFC 5322 §3.6: what a reply looks like on the wire.</summary>
public sealed class ReplyMailTests
{
    private static readonly OutgoingReply Reply = new(
        "berths@saltmarrow.example", "Saltmarrow Harbour Office", "ada@x.example", "Re: Berth für Möwe", "Dear Ada,\nyes.\n", "reply.1@saltmarrow.example",
        "m1@x.example", ["m0@x.example", "m1@x.example"], Automatic: true, "Visitor berths.pdf", "%PDF-1.4"u8.ToArray());

    private static (MimeMessage Message, string Wire) Write(OutgoingReply reply)
    {
        using var memory = new MemoryStream();
        ReplyMail.Write(reply, Made.Noon).WriteTo(memory);
        memory.Position = 0;
        return (MimeMessage.Load(memory), System.Text.Encoding.UTF8.GetString(memory.ToArray()));
    }

    [Fact]
    public void Everything_arrives_as_it_was_meant()
    {
        var (m, _) = Write(Reply);
        (m.Subject, m.MessageId, m.InReplyTo, m.Headers["Auto-Submitted"]).ShouldBe(("Re: Berth für Möwe", "reply.1@saltmarrow.example", "m1@x.example", "auto-replied"));
        m.References.ShouldBe(["m0@x.example", "m1@x.example"]);
        m.TextBody!.ReplaceLineEndings("\n").ShouldBe("Dear Ada,\nyes.\n");
        ((MimePart)m.Attachments.ShouldHaveSingleItem()).FileName.ShouldBe("Visitor berths.pdf");
        m.Date.ShouldBe(Made.Noon);
    }

    [Fact]
    public void The_same_reply_is_the_same_message_each_time() => Write(Reply with { AttachmentName = null }).Message.MessageId.ShouldBe(Write(Reply with { AttachmentName = null }).Message.MessageId);

    [Fact]
    public void A_reply_a_person_wrote_is_not_marked_automatic() => Write(Reply with { Automatic = false }).Message.Headers["Auto-Submitted"].ShouldBeNull();

    [Fact]
    public void No_value_can_add_a_header() => Gen.Select(Gen.String, Gen.String).Sample((subject, name) =>
    {
        var before = Write(Reply).Message.Headers.Select(h => h.Field).Order(StringComparer.Ordinal).ToList();
        var (m, _) = Write(Reply with { Subject = Core.Text.CleanText.Line($"x\r\nBcc: y@z.example {subject}"), FromName = Core.Text.CleanText.Line(name) });
        m.Headers.Select(h => h.Field).Order(StringComparer.Ordinal).ShouldBe(before);
        m.Bcc.ShouldBeEmpty();
    }, iter: 200);
}
