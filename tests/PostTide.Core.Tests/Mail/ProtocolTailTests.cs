using System.Text;
using PostTide.Mail.Imap;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Mail;

/// <summary>What is kept of a conversation with a mail server, for the detail behind an error.</summary>
public sealed class ProtocolTailTests
{
    private static ProtocolTail Server(string said)
    {
        var tail = new ProtocolTail();
        var bytes = Encoding.Latin1.GetBytes("...." + said);
        tail.LogServer(bytes, 4, bytes.Length - 4);
        return tail;
    }

    [Fact]
    public void Every_line_is_kept_without_its_end() =>
        Server("* OK ready\r\nA1 NO [AUTHENTICATIONFAILED] wrong\r\n\r\n").ToString().ShouldBe("S: * OK ready\nS: A1 NO [AUTHENTICATIONFAILED] wrong\nS: ");

    [Fact]
    public void Long_lines_and_control_characters_are_cut_away()
    {
        Server(new string('x', 5_000) + "\r\n").ToString().Length.ShouldBeLessThanOrEqualTo(163);
        Server("a\tb\0c\u001b[31m\r\n").ToString().ShouldBe("S: abc[31m");
    }

    [Fact]
    public void Only_the_last_lines_are_kept()
    {
        var tail = Server(string.Concat(Enumerable.Range(0, 100).Select(i => $"line {i}\r\n")));
        var lines = tail.ToString().Split('\n');
        lines.Length.ShouldBe(40);
        lines[^1].ShouldBe("S: line 99");
    }

    [Fact]
    public void The_text_of_mail_is_not_kept_beyond_its_beginning()
    {
        var mail = string.Concat(Enumerable.Range(0, 10_000).Select(i => $"secret {i}\r\n"));
        Server("* 1 FETCH (BODY[] {99}\r\n" + mail).ToString().ShouldNotContain("secret 9999");
    }

    [Fact]
    public void What_is_found_to_be_a_secret_is_starred()
    {
        var tail = new ProtocolTail { AuthenticationSecretDetector = new Detector() };
        var bytes = "A1 AUTHENTICATE PLAIN hidden\r\n"u8.ToArray();
        tail.LogClient(bytes, 0, bytes.Length);
        tail.ToString().ShouldBe("C: A1 AUTHENTICATE PLAIN ******");
        tail.LogConnect(new Uri("imap://mail.example:143"));
        tail.ToString().ShouldEndWith("\nconnected to imap://mail.example:143/");
    }

    private sealed class Detector : MailKit.IAuthenticationSecretDetector
    {
        public IList<MailKit.AuthenticationSecret> DetectSecrets(byte[] buffer, int offset, int count) =>
            [new MailKit.AuthenticationSecret(Encoding.ASCII.GetString(buffer).IndexOf("hidden", StringComparison.Ordinal), 6)];
    }
}
