using System.Text;
using CsCheck;
using MimeKit;
using PostTide.Mail;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Mail;

/// <summary>Header values are read by a shorter way where nothing is encoded; MimeKit's own reading is the reference.</summary>
public sealed class HeaderValueTests
{
    private static void ShouldAgree(string field)
    {
        var raw = Encoding.Latin1.GetBytes($"From: a@b.example\r\nX-Field:{field}\r\n\r\nHello\r\n");
        var reference = MimeMessage.Load(new MemoryStream(raw)).Headers["X-Field"];
        MailReader.Read(raw).Header.Single(h => h.Name == "X-Field").Value.ShouldBe(reference);
    }

    [Theory]
    [InlineData(" plain")]
    [InlineData(" folded\r\n over two lines")]
    [InlineData("\r\n \tfolded at once")]
    [InlineData(" =?utf-8?q?caf=C3=A9?= and more")]
    [InlineData(" caf\u00e9 in Latin-1")]
    [InlineData("  spaces around  ")]
    [InlineData("")]
    public void Both_ways_give_the_same(string field) => ShouldAgree(field);

    [Fact]
    public void Both_ways_give_the_same_for_whatever_stands_in_a_field() =>
        Gen.OneOf(Gen.String[Gen.Char[' ', '~'], 0, 40], Gen.Const("\r\n "), Gen.Const("\r\n\t"), Gen.Const("=?utf-8?b?w6k=?=")).List[0, 6]
            .Select(parts => " x" + string.Concat(parts))
            .Where(field => !field.Contains("\r\n \r\n", StringComparison.Ordinal) && !field.EndsWith("\r\n ", StringComparison.Ordinal) && !field.EndsWith("\r\n\t", StringComparison.Ordinal))
            .Sample(ShouldAgree);

    [Fact]
    public void Results_of_authentication_are_read_top_first_with_what_was_checked()
    {
        var raw = "Authentication-Results: mx.one.example; spf=pass smtp.mailfrom=a@b.example\r\nReceived: from x by y\r\nAuthentication-Results: broken\r\nAuthentication-Results: mx.two.example; dkim=fail header.d=B.Example\r\nFrom: a@b.example\r\n\r\nHello\r\n"u8.ToArray();
        var results = MailReader.Read(raw).Authentication;
        results.Select(r => (r.Server, r.Method, r.Result, r.Field, r.AboveReceived)).ShouldBe([("mx.one.example", "spf", "pass", 0, true), ("mx.two.example", "dkim", "fail", 2, false)]);
        results[0].Properties["smtp.mailfrom"].ShouldBe("a@b.example");
        results[1].Properties["header.d"].ShouldBe("b.example");
    }
}
