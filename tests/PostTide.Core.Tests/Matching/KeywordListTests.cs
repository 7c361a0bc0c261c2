using CsCheck;
using PostTide.Core.Matching;
using PostTide.Core.Text;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Matching;

public sealed class KeywordListTests
{
    private static string[] Find(string text, params string[] words) =>
        [.. new KeywordList(1, "list", words).FindIn(new SearchedText(text), 0, text.Length).Select(s => text.Substring(s.Start, s.Length))];

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

    private static string[] FindWith(KeywordOptions options, string text, params string[] words) =>
        [.. new KeywordList(1, "list", words, options).FindIn(new SearchedText(text), 0, text.Length).Select(s => text.Substring(s.Start, s.Length))];

    [Fact]
    public void Words_within_longer_ones_are_found_when_asked() =>
        FindWith(new KeywordOptions { WholeWords = false }, "Unberthed at the BERTH", "berth", "berthed").ShouldBe(["berthed", "BERTH"]);

    [Fact]
    public void Case_is_told_apart_when_asked()
    {
        FindWith(new KeywordOptions { SameCase = true }, "SOS and sos", "SOS").ShouldBe(["SOS"]);
        FindWith(new KeywordOptions { SameCase = true, WholeWords = false }, "xSOSx and xsosx", "SOS").ShouldBe(["SOS"]);
    }

    [Fact]
    public void Accents_make_a_difference_unless_said_otherwise()
    {
        FindWith(new KeywordOptions(), "le réseau", "reseau").ShouldBeEmpty();
        FindWith(new KeywordOptions { SameAccents = false }, "le réseau", "reseau").ShouldBe(["réseau"]);
        FindWith(new KeywordOptions { SameAccents = false }, "Muller", "Müller").ShouldBe(["Muller"]);
        FindWith(new KeywordOptions { SameAccents = false, WholeWords = false }, "SubréseauX", "reseau").ShouldBe(["réseau"]);
        FindWith(new KeywordOptions { SameAccents = false, SameCase = true, WholeWords = false }, "Réseau réseau", "reseau").ShouldBe(["réseau"]);
    }

    [Theory]
    [InlineData("berth", "berths berthed berthing berth's berth", 5)]
    [InlineData("delivery", "deliveries delivery", 2)]
    [InlineData("moore", "moored mooring moores", 3)]
    [InlineData("at", "ats ating", 0)]
    public void Simple_endings_count_when_asked(string word, string text, int found) => FindWith(new KeywordOptions { Endings = true }, text, word).Length.ShouldBe(found);

    [Fact]
    public void Composed_and_decomposed_letters_and_both_apostrophes_are_the_same()
    {
        Find("\u00c9COLE", "e\u0301cole").ShouldBe(["\u00c9COLE"]);
        Find("the visitors’ pontoon", "visitors' pontoon").ShouldBe(["visitors’ pontoon"]);
        Find("don’t", "don't").ShouldBe(["don’t"]);
    }
}
