namespace PostTide.Core.Text;

/// <summary>What may differ between two words that still count as the same.</summary>
/// <param name="SameCase">Whether capital and small letters are told apart.</param>
/// <param name="SameAccents">Whether letters with and without accents are told apart.</param>
public readonly record struct WordComparison(bool SameCase, bool SameAccents)
{
    /// <summary>Case makes no difference, accents do.</summary>
    public static readonly WordComparison Usual = new(false, true);

    /// <summary>Whether two words in form C are the same. The typographic apostrophe is always the plain one.</summary>
    public bool Same(ReadOnlySpan<char> a, ReadOnlySpan<char> b)
    {
        if (SameAccents && a.Length != b.Length)
        {
            return false;
        }

        int i = 0, j = 0;
        while (true)
        {
            if (!SameAccents)
            {
                i = PassMarks(a, i);
                j = PassMarks(b, j);
            }

            if (i == a.Length || j == b.Length)
            {
                return i == a.Length && j == b.Length;
            }

            if (!Same(a[i++], b[j++]))
            {
                return false;
            }
        }
    }

    private bool Same(char a, char b)
    {
        if (a == b || (IsApostrophe(a) && IsApostrophe(b)))
        {
            return true;
        }

        return (SameCase, SameAccents) switch
        {
            (true, true) => false,
            (false, true) => char.ToUpperInvariant(a) == char.ToUpperInvariant(b),
            (false, false) => PlainLetters.Of(a) == PlainLetters.Of(b),
            _ => PlainLetters.Of(a) == PlainLetters.Of(b) && char.IsUpper(a) == char.IsUpper(b),
        };
    }

    private static bool IsApostrophe(char c) => c is '\'' or '’';

    private static int PassMarks(ReadOnlySpan<char> text, int at)
    {
        while (at < text.Length && PlainLetters.IsMark(text[at]))
        {
            at++;
        }

        return at;
    }
}
