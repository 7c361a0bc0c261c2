using PostTide.Core.Text;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Text;

public sealed class HtmlTextTests
{
    [Theory]
    [InlineData("<p>One</p><p>Two</p>", "One\n\nTwo")]
    [InlineData("One<br>Two", "One\nTwo")]
    [InlineData("<style>p{}</style><script>alert(1)</script>Seen", "Seen")]
    [InlineData("<table><tr><td>Length</td><td>12 m</td></tr></table>", "Length 12 m")]
    [InlineData("a&nbsp;&amp;&lt;b", "a &<b")]
    public void Gives_the_visible_text(string html, string expected) => HtmlText.ToPlainText(html).ShouldBe(expected);

    [Fact]
    public void Quoted_blocks_are_marked_so_that_they_can_be_set_aside() =>
        BodySplitter.Split(HtmlText.ToPlainText("<p>New</p><blockquote>Old</blockquote>")).NewPart.ShouldBe("New");

    [Fact]
    public void Deep_nesting_costs_no_stack() =>
        HtmlText.ToPlainText(string.Concat(Enumerable.Repeat("<div>", 20_000)) + "deep").ShouldContain("deep");
}
