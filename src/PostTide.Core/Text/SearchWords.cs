using System.Globalization;
using System.Text;

namespace PostTide.Core.Text;

/// <summary>
/// The words a search looks for: those of <see cref="Words"/> in plain letters, cut once more where two are joined by a dot or an
/// apostrophe, so that a part of a host name is found too. Case, accents and invisible marks make no difference; a character of a
/// script written without spaces is a word. What is typed into a search is cut the same way as what is searched.
/// </summary>
public static class SearchWords
{
    /// <summary>Longer words are cut: nobody types them, and an index has its limits.</summary>
    public const int Longest = 100;

    /// <summary>The words of a text in their order, with spaces between them.</summary>
    public static string Of(string text)
    {
        var words = new StringBuilder(text.Length);
        Add(words, new SearchedText(text), 0, text.Length);
        return words.ToString();
    }

    /// <summary>The words of the new part of a body, as far as <paramref name="most"/> characters of it.</summary>
    public static string OfNewPart(BodyText body, int most)
    {
        var words = new StringBuilder();
        foreach (var stretch in body.NewStretches)
        {
            var length = Math.Min(stretch.Length, most);
            Add(words, body.Searched, stretch.Start, length);
            most -= length;
        }

        return words.ToString();
    }

    private static void Add(StringBuilder words, SearchedText text, int start, int length)
    {
        foreach (var word in text.WordsIn(start, length))
        {
            var from = word.Start;
            for (var at = word.Start; at <= word.End; at++)
            {
                if (at == word.End || Joins(text.Text[at]))
                {
                    Add(words, text.Text.AsSpan(from, at - from));
                    from = at + 1;
                }
            }
        }
    }

    private static bool Joins(char c) => c is '\'' or '’' or '.' or ':' or '·';

    private static void Add(StringBuilder words, ReadOnlySpan<char> word)
    {
        var before = words.Length;
        foreach (var c in word.Length > Longest ? word[..Longest] : word)
        {
            if (!PlainLetters.IsMark(c) && (c < '\u0080' || char.GetUnicodeCategory(c) != UnicodeCategory.Format))
            {
                if (words.Length == before && before > 0)
                {
                    words.Append(' ');
                }

                words.Append(PlainLetters.Of(c));
            }
        }
    }
}
