using CsCheck;
using PostTide.Core.Text;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Text;

/// <summary>Words as searches look for them: what is typed and what is searched are cut alike.</summary>
public sealed class SearchWordsTests
{
    [Theory]
    [InlineData("Jörg Ångström", "jorg angstrom")]
    [InlineData("STRASSE Straße", "strasse straße")]
    [InlineData("ann@quay.example", "ann quay example")]
    [InlineData("SH-1042: Re: don’t", "sh 1042 re don t")]
    [InlineData("crew_list-2.PDF", "crew_list 2 pdf")]
    [InlineData("価格はいくら", "価 格 は い く ら")]
    [InlineData("naı̈ve cafe\u0301", "naıve cafe")]
    [InlineData("co\u00ADoperate", "cooperate")]
    [InlineData("Ελλάδα Москва", "ελλαδα москва")]
    [InlineData("?! … — \n\t", "")]
    [InlineData("", "")]
    public void A_text_becomes_its_words(string text, string words) => SearchWords.Of(text).ShouldBe(words);

    [Fact]
    public void A_word_without_end_is_cut() => SearchWords.Of(new string('a', 5_000) + " b").ShouldBe(new string('a', SearchWords.Longest) + " b");

    [Fact]
    public void Of_a_body_the_new_part_is_taken_as_far_as_is_asked()
    {
        var body = BodySplitter.Split("Yes, on Friday.\n> Which day?\nSame berth.\n-- \nAnn\n");
        SearchWords.OfNewPart(body, 1_000).ShouldBe("yes on friday same berth");
        SearchWords.OfNewPart(body, 8).ShouldBe("yes on");
        SearchWords.OfNewPart(body, 0).ShouldBe("");
    }

    [Fact]
    public void Cutting_again_changes_nothing_and_case_makes_no_difference() =>
        Gen.String[Gen.OneOf(Gen.Char['a', 'z'], Gen.Char['A', 'Z'], Gen.Char[" .'-_@:éÜñ価\u0301\u00AD"], Gen.Char), 0, 60].Sample(text =>
        {
            var words = SearchWords.Of(text);
            SearchWords.Of(words).ShouldBe(words);
            words.ShouldNotContain("  ");
            (words.Length == 0 || (words[0] != ' ' && words[^1] != ' ')).ShouldBeTrue();
        });
}
