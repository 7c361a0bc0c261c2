using System.Text;
using PostTide.Core.Text;

namespace PostTide.Store.Search;

/// <summary>
/// What a person types to find mail: words that must all occur, “words in quotes” that must follow each other, -words that must
/// not occur, and OR between words one of which is enough. Anything else is read as words: no text is a mistake.
/// </summary>
public static class SearchText
{
    /// <summary>The same for PostgreSQL's <c>websearch_to_tsquery</c>, its words cut as those of messages are; empty when there is none.</summary>
    public static string Read(string text)
    {
        var asked = new StringBuilder();
        var or = false;
        foreach (var (piece, quoted, not) in Pieces(text))
        {
            if (!quoted && !not && piece.Equals("or", StringComparison.OrdinalIgnoreCase))
            {
                or = asked.Length > 0;
            }
            else if (SearchWords.Of(piece) is { Length: > 0 } words)
            {
                // What looks like one word may be several, which then follow each other.
                asked.Append(asked.Length == 0 ? "" : or ? " or " : " ").Append(not ? "-" : "").Append('"').Append(words).Append('"');
                or = false;
            }
        }

        return asked.ToString();
    }

    private static IEnumerable<(string Piece, bool Quoted, bool Not)> Pieces(string text)
    {
        var at = 0;
        while (at < text.Length)
        {
            if (char.IsWhiteSpace(text[at]))
            {
                at++;
                continue;
            }

            var not = text[at] == '-' && at + 1 < text.Length && !char.IsWhiteSpace(text[at + 1]);
            at += not ? 1 : 0;
            var quoted = text[at] == '"';
            var from = quoted ? at + 1 : at;
            var to = from;
            while (to < text.Length && (quoted ? text[to] != '"' : !char.IsWhiteSpace(text[to]) && text[to] != '"'))
            {
                to++;
            }

            yield return (text[from..to], quoted, not);
            at = quoted ? to + 1 : to;
        }
    }
}
