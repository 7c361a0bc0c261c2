using System.Text;
using PostTide.Core.Messages;
using PostTide.Core.Text;
using PostTide.Mail;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Mail;

/// <summary>Reading mail: the examples of RFC 5322 appendix A and RFC 2047 §8, and mail that is broken on purpose.</summary>
public sealed class MailReaderTests
{
    private static PreparedMessage Prepare(string mail) =>
        Preparation.Prepare(MailReader.Read(Encoding.UTF8.GetBytes(mail.ReplaceLineEndings("\r\n"))), Envelope.Unknown, Made.Noon);

    /// <summary>RFC 5322, appendix A.1.1.</summary>
    [Fact]
    public void Reads_the_first_example()
    {
        var m = Prepare("From: John Doe <jdoe@machine.example>\nTo: Mary Smith <mary@example.net>\nSubject: Saying Hello\nDate: Fri, 21 Nov 1997 09:55:06 -0600\nMessage-ID: <1234@local.machine.example>\n\nThis is a message just to say hello.\nSo, \"Hello\".\n");
        m.From.ShouldBe(new EmailAddress("John Doe", "jdoe@machine.example"));
        m.Subject.ShouldBe("Saying Hello");
        m.MessageId.ShouldBe("1234@local.machine.example");
        m.SentAt.ShouldBe(new DateTimeOffset(1997, 11, 21, 9, 55, 6, TimeSpan.FromHours(-6)));
        m.Body.NewPart.ShouldBe("This is a message just to say hello.\nSo, \"Hello\".");
    }

    /// <summary>RFC 5322, appendix A.2: a reply to a reply.</summary>
    [Fact]
    public void Reads_the_references_of_a_reply_to_a_reply()
    {
        var m = Prepare("To: \"Mary Smith: Personal Account\" <smith@home.example>\nFrom: John Doe <jdoe@machine.example>\nSubject: Re: Saying Hello\nDate: Fri, 21 Nov 1997 11:00:00 -0600\nMessage-ID: <abcd.1234@local.machine.test>\nIn-Reply-To: <3456@example.net>\nReferences: <1234@local.machine.example> <3456@example.net>\n\nThis is a reply to your reply.\n");
        m.References.ShouldBe(["1234@local.machine.example", "3456@example.net"]);
        m.To[0].ShouldBe(new EmailAddress("Mary Smith: Personal Account", "smith@home.example"));
    }

    /// <summary>RFC 2047, §8.</summary>
    [Theory]
    [InlineData("=?US-ASCII?Q?Keith_Moore?= <moore@cs.utk.edu>", "Keith Moore")]
    [InlineData("=?ISO-8859-1?Q?Keld_J=F8rn_Simonsen?= <keld@dkuug.dk>", "Keld Jørn Simonsen")]
    [InlineData("=?ISO-8859-1?Q?Andr=E9?= Pirard <PIRARD@vm1.ulg.ac.be>", "André Pirard")]
    public void Decodes_encoded_words_in_names(string from, string name) => Prepare($"From: {from}\n\nx\n").From.Name.ShouldBe(name);

    [Fact]
    public void Decodes_encoded_words_in_a_subject() =>
        Prepare("From: a@b.example\nSubject: =?ISO-8859-1?B?SWYgeW91IGNhbiByZWFkIHRoaXMgeW8=?=\n =?ISO-8859-2?B?dSB1bmRlcnN0YW5kIHRoZSBleGFtcGxlLg==?=\n\nx\n")
            .Subject.ShouldBe("If you can read this you understand the example.");

    /// <summary>RFC 2231, §3 and §4: continued and encoded parameter values.</summary>
    [Fact]
    public void Reads_continued_file_names()
    {
        var m = Prepare("From: a@b.example\nMIME-Version: 1.0\nContent-Type: multipart/mixed; boundary=x\n\n--x\n\ntext\n--x\nContent-Type: application/pdf\nContent-Disposition: attachment; filename*0*=us-ascii'en'This%20is%20even%20more%20;\n filename*1*=%2A%2A%2Afun%2A%2A%2A%20; filename*2=\"isn't it!.pdf\"\n\nhi\n--x--\n");
        m.Attachments.ShouldHaveSingleItem().Name.ShouldBe("This is even more ***fun*** isn't it!.pdf");
    }

    [Fact]
    public void Keeps_every_address_it_was_delivered_to()
    {
        var m = Preparation.Prepare(
            MailReader.Read("From: a@b.example\r\nTo: list@x.example\r\nDelivered-To: one@x.example\r\nX-Original-To: two@x.example\r\n\r\nx"u8.ToArray()),
            new Envelope("a@b.example", ["three+tag@x.example"]), Made.Noon);
        m.OriginallyTo.ShouldBe(["three+tag@x.example", "one@x.example", "two@x.example"]);
    }

    [Theory]
    [InlineData("")]
    [InlineData("%PDF-1.4 this is not mail")]
    [InlineData("just some words\nand a second line\n")]
    public void What_is_not_mail_is_refused_with_a_reason(string text) =>
        Should.Throw<UnreadableMailException>(() => MailReader.Read(Encoding.UTF8.GetBytes(text))).Message.ShouldNotBeEmpty();

    [Theory]
    [InlineData("From: a@b.example\nContent-Type: multipart/mixed; boundary=x\n\n--x\nContent-Type: text/plain\n\nthe border is never closed")]
    [InlineData("From: a@b.example\nContent-Type: multipart/mixed\n\nno border at all")]
    [InlineData("From: a@b.example\nContent-Transfer-Encoding: base64\n\n!!!! not base64 ====\n")]
    [InlineData("From: a@b.example\nContent-Type: text/plain; charset=no-such-charset\n\n\u00e9\n")]
    [InlineData("From: =?utf-8?B?broken\nSubject: =?x?y?z?=\n\nx\n")]
    [InlineData("From: a@b.example\nContent-Type: ;;;\nDate: yesterday\nMessage-ID: <<<>\n\nx\n")]
    public void Broken_mail_is_read_as_far_as_it_goes(string mail) => Prepare(mail).From.ShouldNotBeNull();

    [Fact]
    public void Nested_beyond_reason_does_not_exhaust_the_stack()
    {
        var mail = new StringBuilder("From: a@b.example\n");
        for (var i = 0; i < 3_000; i++)
        {
            mail.Append(System.Globalization.CultureInfo.InvariantCulture, $"Content-Type: multipart/mixed; boundary=b{i}\n\n--b{i}\n");
        }

        Should.NotThrow(() => Prepare(mail.ToString()));
    }

    [Fact]
    public void Html_alone_is_read_as_its_text() =>
        Prepare("From: a@b.example\nContent-Type: text/html\n\n<p>A <b>berth</b></p><script>x</script>\n").Body.NewPart.ShouldBe("A berth");
}
