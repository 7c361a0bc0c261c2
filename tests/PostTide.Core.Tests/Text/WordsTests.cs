using CsCheck;
using PostTide.Core.Text;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Text;

/// <summary>Word borders after Unicode UAX #29; the cases are worked by hand from its rules.</summary>
public sealed class WordsTests
{
    private static string[] In(string text) => [.. Words.In(text, 0, text.Length).Select(w => text.Substring(w.Start, w.Length))];

    [Theory]
    [InlineData("a berth, please", new[] { "a", "berth", "please" })]
    [InlineData("visitors' pontoon", new[] { "visitors", "pontoon" })]
    [InlineData("can't won’t", new[] { "can't", "won’t" })]
    [InlineData("Ångström naïve", new[] { "Ångström", "naïve" })]
    [InlineData("港湾", new[] { "港", "湾" })]
    [InlineData("кран 3", new[] { "кран", "3" })]
    [InlineData("e\u0301cole", new[] { "e\u0301cole" })]
    [InlineData("a\U0001F6A2b", new[] { "a", "b" })]
    [InlineData("", new string[0])]
    public void Finds_words(string text, string[] expected) => In(text).ShouldBe(expected);

    [Fact]
    public void Spans_are_ordered_and_lie_inside_whatever_the_text() => Gen.String.Sample(text =>
    {
        var end = 0;
        foreach (var word in Words.In(text, 0, text.Length))
        {
            word.Start.ShouldBeGreaterThanOrEqualTo(end);
            word.Length.ShouldBeGreaterThan(0);
            end = word.Start + word.Length;
        }

        end.ShouldBeLessThanOrEqualTo(text.Length);
    });
}
