using CsCheck;
using PostTide.Core.Text;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Text;

public sealed class SearchedTextTests
{
    [Fact]
    public void Gives_the_words_of_a_stretch()
    {
        const string Text = "Dear ALL,\nthe Berth’s gone";
        new SearchedText(Text).WordsIn(10, Text.Length - 10).ToArray().Select(w => Text.Substring(w.Start, w.Length)).ShouldBe(["the", "Berth’s", "gone"]);
    }

    [Fact]
    public void Agrees_with_cutting_the_stretch_by_itself_at_every_line() => Gen.String[Gen.Char["ab'é \n"], 0, 40].Sample(text =>
    {
        var (at, searched) = (0, new SearchedText(text));
        foreach (var line in text.Split('\n'))
        {
            searched.WordsIn(at, line.Length).ToArray().Select(w => (w.Start, w.Length))
                .ShouldBe(Words.In(text, at, line.Length).Select(w => (w.Start, w.Length)));
            at += line.Length + 1;
        }
    });
}
