using CsCheck;
using PostTide.Core.Replies;
using PostTide.Core.Text;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Text;

/// <summary>RFC 5321 §4.1.2 and §4.5.3.1, RFC 6531: which forms are addresses.</summary>
public sealed class AddressesInTextTests
{
    private static string[] In(string text) => [.. AddressesInText.In(text, 0, text.Length).Select(s => text.Substring(s.Start, s.Length))];

    [Theory]
    [InlineData("Customer: ada@tester.example, paid.", new[] { "ada@tester.example" })]
    [InlineData("<mailto:a.b+c@d-e.example>", new[] { "a.b+c@d-e.example" })]
    [InlineData("a@b and @c and d@", new string[0])]
    [InlineData("köln@müller.example.", new[] { "köln@müller.example" })]
    [InlineData("two: a@b.example;c@d.example", new[] { "a@b.example", "c@d.example" })]
    public void Finds_addresses_in_running_text(string text, string[] expected) => In(text).ShouldBe(expected);

    [Theory]
    [InlineData("ada@tester.example", true)]
    [InlineData("a..b@tester.example", false)]
    [InlineData("ada@tester.example\r\nBcc: x@y.example", false)]
    [InlineData("Ada <ada@tester.example>", false)]
    [InlineData("ada", false)]
    [InlineData("", false)]
    public void Only_a_plain_address_can_be_written_to(string address, bool plain) => ReplySafety.IsPlainAddress(address).ShouldBe(plain);

    [Fact]
    public void Whatever_is_plain_has_no_line_end_and_one_at_sign_before_a_dotted_domain() =>
        Gen.Select(Gen.String[0, 20], Gen.String[0, 20], (a, b) => $"{a}@{b}").Sample(text =>
        {
            if (ReplySafety.IsPlainAddress(text))
            {
                text.ShouldNotContain('\n');
                text.ShouldNotContain('\r');
                text[(text.LastIndexOf('@') + 1)..].ShouldContain('.');
            }
        });
}
