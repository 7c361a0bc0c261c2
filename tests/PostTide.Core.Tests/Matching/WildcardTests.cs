using CsCheck;
using PostTide.Core.Matching;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Matching;

/// <summary>RFC 5228 §2.7.1, match type <c>:matches</c>, under the comparator <c>i;ascii-casemap</c>.</summary>
public sealed class WildcardTests
{
    private static bool Fits(string pattern, string text) => new Wildcard(pattern).Fits(text, []);

    /// <summary>The table of §2.7.1: "frobnitzm" is, contains and matches.</summary>
    [Theory]
    [InlineData("*frop*", "frobnitzm", false)]
    [InlineData("frob*", "frobnitzm", true)]
    [InlineData("*bnit*", "frobnitzm", true)]
    [InlineData("frob?itzm", "frobnitzm", true)]
    [InlineData("frob?tzm", "frobnitzm", false)]
    [InlineData("", "", true)]
    [InlineData("", "x", false)]
    [InlineData("*", "", true)]
    [InlineData("*", "anything", true)]
    [InlineData("?", "", false)]
    [InlineData("??", "ab", true)]
    [InlineData("a*a", "a", false)]
    [InlineData("a*a", "aa", true)]
    [InlineData("*ab*ab", "abab", true)]
    [InlineData("*ab*ab", "ab", false)]
    public void Star_is_any_text_and_question_mark_one_character(string pattern, string text, bool fits) => Fits(pattern, text).ShouldBe(fits);

    [Theory]
    [InlineData("FROB*", "frobnitzm")]
    [InlineData("frob*", "FROBNITZM")]
    public void Case_makes_no_difference(string pattern, string text) => Fits(pattern, text).ShouldBeTrue();

    /// <summary>§2.7.1: "\?" and "\*" match the characters themselves.</summary>
    [Theory]
    [InlineData(@"50\*", "50*", true)]
    [InlineData(@"50\*", "50 %", false)]
    [InlineData(@"what\?", "what?", true)]
    [InlineData(@"what\?", "whatx", false)]
    [InlineData(@"a\\b", @"a\b", true)]
    public void A_backslash_takes_the_next_character_as_it_is(string pattern, string text, bool fits) => Fits(pattern, text).ShouldBe(fits);

    [Fact]
    public void Agrees_with_a_matcher_that_tries_everything() =>
        Gen.Select(Gen.String[Gen.Char["ab*?"], 0, 8], Gen.String[Gen.Char["ab"], 0, 8]).Sample((pattern, text) =>
            Fits(pattern, text).ShouldBe(TryAll(pattern, text), $"{pattern} on {text}"));

    private static bool TryAll(string pattern, string text) => pattern.Length == 0 ? text.Length == 0 : pattern[0] switch
    {
        '*' => Enumerable.Range(0, text.Length + 1).Any(i => TryAll(pattern[1..], text[i..])),
        '?' => text.Length > 0 && TryAll(pattern[1..], text[1..]),
        _ => text.Length > 0 && text[0] == pattern[0] && TryAll(pattern[1..], text[1..]),
    };

    [Fact]
    public void A_hostile_pattern_stays_cheap() =>
        Fits(string.Concat(Enumerable.Repeat("*a", 200)) + "b", new string('a', 100_000)).ShouldBeFalse();
}
