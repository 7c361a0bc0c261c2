using CsCheck;
using PostTide.Core.Matching;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Matching;

public sealed class KeywordListTests
{
    private static string[] Find(string text, params string[] words) =>
        [.. new KeywordList(1, "list", words).FindIn(text, 0, text.Length).Select(s => text.Substring(s.Start, s.Length))];

    [Theory]
    [InlineData("A Berth please", "Berth")]
    [InlineData("the finger berth", "finger berth")]
    [InlineData("BERTHS", null)]
    [InlineData("unberth", null)]
    [InlineData("finger\nberth", "finger\nberth")]
    public void Words_and_phrases_are_matched_whole_and_whatever_their_case(string text, string? found) =>
        Find(text, "berth", "finger berth").ShouldBe(found is null ? [] : text.Contains("finger", StringComparison.Ordinal) ? [found, "berth"] : [found]);

    [Fact]
    public void The_longest_phrase_at_a_place_wins() => Find("visitors' pontoon east", "visitors' pontoon", "visitors").ShouldBe(["visitors' pontoon"]);

    [Fact]
    public void Ten_thousand_words_are_found_each_in_its_text()
    {
        var words = Enumerable.Range(0, 10_000).Select(i => $"word{i}x").ToArray();
        Find("nothing word9999x here word17x end", words).ShouldBe(["word9999x", "word17x"]);
    }

    [Fact]
    public void An_entry_without_a_word_is_passed_over() => Find("a - b", "-", "  ").ShouldBeEmpty();

    [Fact]
    public void Every_place_found_is_an_entry_of_the_list() => Gen.String[Gen.Char["ab "], 0, 30].Sample(text =>
    {
        foreach (var found in Find(text, "a", "ab", "a b"))
        {
            new[] { "a", "ab", "a b" }.ShouldContain(string.Join(' ', found.Split(' ', StringSplitOptions.RemoveEmptyEntries)));
        }
    });
}
