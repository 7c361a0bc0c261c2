using PostTide.Mail;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Mail;

public sealed class SafeHtmlTests
{
    [Theory]
    [InlineData("<script>alert(1)</script>ok")]
    [InlineData("<img src=https://tracker.example/x.png onerror=alert(1)>ok")]
    [InlineData("<a href='javascript:alert(1)'>ok</a>")]
    [InlineData("<p style='background:url(https://tracker.example)'>ok</p>")]
    [InlineData("<form action=https://x.example><input name=a></form>ok")]
    [InlineData("<iframe src=https://x.example></iframe>ok")]
    [InlineData("<svg><script>alert(1)</script></svg>ok")]
    [InlineData("<link rel=stylesheet href=https://x.example>ok")]
    [InlineData("<meta http-equiv=refresh content='0;url=https://x.example'>ok")]
    [InlineData("<table background=https://tracker.example/x.png><tr><td>ok</td></tr></table>")]
    public void Nothing_that_runs_or_loads_is_left(string html)
    {
        var clean = SafeHtml.Clean(html)!.Html;
        clean.ShouldContain("ok");
        foreach (var part in new[] { "script", "onerror", "tracker", "javascript", "style", "form", "iframe", "svg", "<img", "<link", "<meta", "background" })
        {
            clean.ShouldNotContain(part, Case.Insensitive);
        }
    }

    [Fact]
    public void Pictures_left_out_are_counted() => SafeHtml.Clean("<img src=a><img src=b>text")!.Note.ShouldBe("2 pictures are not loaded.");

    [Fact]
    public void Links_open_elsewhere_and_tell_nothing() =>
        SafeHtml.Clean("<a href='https://x.example'>x</a>")!.Html.ShouldContain("rel=\"noopener noreferrer nofollow\"");

    [Fact]
    public void Too_deep_or_too_long_is_not_cleaned_at_all()
    {
        SafeHtml.Clean(string.Concat(Enumerable.Repeat("<div>", 1_000))).ShouldBeNull();
        SafeHtml.Clean(new string('x', SafeHtml.Longest + 1)).ShouldBeNull();
    }
}
