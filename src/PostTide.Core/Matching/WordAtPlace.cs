using PostTide.Core.Text;

namespace PostTide.Core.Matching;

/// <summary>Finds the word at a place such as “the second word of the first line”.</summary>
public static class WordAtPlace
{
    /// <summary>Where the word or the line stands in the body; null when the body has no such place.</summary>
    /// <param name="body">The body.</param>
    /// <param name="place">The place. Lines without a word in them are not counted.</param>
    /// <param name="whole">Whether quoted history and signature are counted too.</param>
    public static WordSpan? Find(BodyText body, WordPlace place, bool whole)
    {
        var lines = whole ? LinesOf(body.Searched, 0, body.Text.Length) : body.NewStretches.SelectMany(s => LinesOf(body.Searched, s.Start, s.Length));
        if (Nth([.. lines], place.Line) is not { } line)
        {
            return null;
        }

        return place.Word is { } number ? Nth(WordsOf(body.Searched, line), number) : line;
    }

    private static List<WordSpan> WordsOf(SearchedText text, WordSpan line)
    {
        var words = new List<WordSpan>();
        foreach (var word in text.WordsIn(line.Start, line.Length))
        {
            words.Add(new WordSpan(word.Start, word.Length));
        }

        return words;
    }

    private static IEnumerable<WordSpan> LinesOf(SearchedText text, int start, int length)
    {
        var end = start + length;
        for (var at = start; at < end;)
        {
            var next = text.Text.IndexOf('\n', at, end - at);
            var to = next < 0 ? end : next;
            if (!text.WordsIn(at, to - at).IsEmpty)
            {
                yield return new WordSpan(at, to - at);
            }

            at = to + 1;
        }
    }

    private static WordSpan? Nth(List<WordSpan> spans, int number)
    {
        var index = number > 0 ? number - 1 : spans.Count + number;
        return number != 0 && index >= 0 && index < spans.Count ? spans[index] : null;
    }
}
