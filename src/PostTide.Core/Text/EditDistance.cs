namespace PostTide.Core.Text;

/// <summary>
/// How many letters two words differ by: insertions, deletions, changes, and neighbours exchanged (the optimal string alignment
/// distance, after Damerau, CACM 7(3), 1964).
/// </summary>
public static class EditDistance
{
    private const int LongestWord = 64;

    /// <summary>The distance in plain letters; <paramref name="most"/> + 1 when it is larger than that, or a word is very long.</summary>
    public static int Between(ReadOnlySpan<char> a, ReadOnlySpan<char> b, int most)
    {
        if (a.Length > LongestWord || b.Length > LongestWord || Math.Abs(a.Length - b.Length) > most)
        {
            return most + 1;
        }

        Span<int> before = stackalloc int[b.Length + 1], last = stackalloc int[b.Length + 1], row = stackalloc int[b.Length + 1];
        for (var j = 0; j <= b.Length; j++)
        {
            last[j] = j;
        }

        for (var i = 1; i <= a.Length; i++)
        {
            row[0] = i;
            for (var j = 1; j <= b.Length; j++)
            {
                var same = PlainLetters.Of(a[i - 1]) == PlainLetters.Of(b[j - 1]);
                row[j] = Math.Min(Math.Min(last[j] + 1, row[j - 1] + 1), last[j - 1] + (same ? 0 : 1));
                if (i > 1 && j > 1 && PlainLetters.Of(a[i - 1]) == PlainLetters.Of(b[j - 2]) && PlainLetters.Of(a[i - 2]) == PlainLetters.Of(b[j - 1]))
                {
                    row[j] = Math.Min(row[j], before[j - 2] + 1);
                }
            }

            last.CopyTo(before);
            row.CopyTo(last);
        }

        return Math.Min(last[b.Length], most + 1);
    }
}
