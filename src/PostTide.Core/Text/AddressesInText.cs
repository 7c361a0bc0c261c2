namespace PostTide.Core.Text;

/// <summary>Finds e-mail addresses in running text: dot-atom local part and dotted domain of RFC 5321 §4.1.2, with RFC 6531 letters.</summary>
public static class AddressesInText
{
    private const int LongestLocal = 64;
    private const int LongestDomain = 253;

    /// <summary>The addresses of a stretch in order. One pass over the text, looking out from each <c>@</c>.</summary>
    public static IEnumerable<WordSpan> In(string text, int start, int length)
    {
        var end = start + length;
        for (var at = text.IndexOf('@', start, length); at >= 0; at = at + 1 < end ? text.IndexOf('@', at + 1, end - at - 1) : -1)
        {
            var from = at;
            while (from > start && at - from < LongestLocal && IsAtomText(text[from - 1]))
            {
                from--;
            }

            var to = at + 1;
            while (to < end && to - at <= LongestDomain && (char.IsLetterOrDigit(text[to]) || text[to] is '-' or '.'))
            {
                to++;
            }

            while (to > at + 1 && text[to - 1] is '.' or '-')
            {
                to--;
            }

            while (from < at && text[from] is '.' or '\'')
            {
                from++;
            }

            var domain = text.AsSpan(at + 1, to - at - 1);
            if (from < at && text[at - 1] != '.' && domain.IndexOf('.') > 0 && domain.IndexOf("..") < 0 && domain[0] != '-')
            {
                yield return new WordSpan(from, to - from);
            }
        }
    }

    private static bool IsAtomText(char c) => char.IsLetterOrDigit(c) || "!#$%&'*+-/=?^_`{|}~.".Contains(c, StringComparison.Ordinal);
}
