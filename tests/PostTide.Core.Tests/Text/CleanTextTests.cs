using PostTide.Core.Text;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Text;

public sealed class CleanTextTests
{
    [Theory]
    [InlineData("a\r\nb\rc\nd", "a\nb\nc\nd")]
    [InlineData("a\tb", "a\tb")]
    [InlineData("a\0b\u0007c\u001Bd", "abcd")]
    [InlineData("e\u0301", "é")]
    [InlineData("\u05D0\u05D1 🚢", "\u05D0\u05D1 🚢")]
    public void A_body_keeps_its_lines_and_loses_what_cannot_be_shown(string text, string expected) => CleanText.Body(text).ShouldBe(expected);

    [Fact]
    public void A_lone_surrogate_is_shown_as_broken() => CleanText.Body("a\uD83Db").ShouldBe("a\uFFFDb");

    [Theory]
    [InlineData("  a\r\n b\tc ", "a  b c")]
    [InlineData("a\u0085b", "a b")]
    [InlineData("\0", "")]
    public void A_line_is_one_line(string text, string expected) => CleanText.Line(text).ShouldBe(expected);
}
