using System.Globalization;
using System.Text;

namespace PostTide.Core.Text;

/// <summary>
/// Letters without case and accents: the form in which words are looked up before they are compared exactly. One character
/// always becomes one character, so that places in the plain text are places in the text itself.
/// </summary>
public static class PlainLetters
{
    private static readonly char[] Table = MakeTable();

    /// <summary>The plain form of one UTF-16 unit: lower case, its accents removed, the typographic apostrophe made plain.</summary>
    public static char Of(char c) => Table[c];

    /// <summary>The plain form of a text, of the same length.</summary>
    public static string Of(string text) => string.Create(text.Length, text, static (span, source) =>
    {
        for (var i = 0; i < span.Length; i++)
        {
            span[i] = Table[source[i]];
        }
    });

    /// <summary>Whether a unit is a mark that belongs to the letter before it and counts for nothing in plain form.</summary>
    public static bool IsMark(char c) => c >= '\u0300' && CharUnicodeInfo.GetUnicodeCategory(c) == UnicodeCategory.NonSpacingMark;

    private static char[] MakeTable()
    {
        var table = new char[char.MaxValue + 1];
        for (var i = 0; i < table.Length; i++)
        {
            table[i] = Plain((char)i);
        }

        return table;
    }

    private static char Plain(char c)
    {
        if (c < '\u0080')
        {
            return char.ToLowerInvariant(c);
        }

        if (c == '’')
        {
            return '\'';
        }

        if (!char.IsLetter(c))
        {
            return c;
        }

        // A letter that is written as a base and marks loses the marks; syllables made of several letters stay whole.
        var parts = c.ToString().Normalize(NormalizationForm.FormD);
        var first = parts.Length > 1 && parts.Skip(1).All(IsMark) ? parts[0] : c;
        return char.ToLowerInvariant(first);
    }
}
