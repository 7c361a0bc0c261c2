using System.Runtime.CompilerServices;

namespace PostTide.Core.Text;

/// <summary>A word's place and the form in which it is compared.</summary>
public readonly record struct FoldedWord(int Start, int Length, string Folded)
{
    public int End => Start + Length;
}

/// <summary>The words of a text, cut and folded once for as long as the text is in memory.</summary>
public static class FoldedWords
{
    private static readonly ConditionalWeakTable<string, FoldedWord[]> Known = [];

    /// <summary>The words that lie within a stretch of the text, in order.</summary>
    public static ReadOnlySpan<FoldedWord> In(string text, int start, int length)
    {
        var all = Known.GetValue(text, Cut);
        var first = FirstAtOrAfter(all, start);
        var last = first;
        while (last < all.Length && all[last].End <= start + length)
        {
            last++;
        }

        return all.AsSpan(first, last - first);
    }

    private static FoldedWord[] Cut(string text) =>
        [.. Words.In(text, 0, text.Length).Select(w => new FoldedWord(w.Start, w.Length, Words.Fold(text.Substring(w.Start, w.Length))))];

    private static int FirstAtOrAfter(FoldedWord[] words, int start)
    {
        var (low, high) = (0, words.Length);
        while (low < high)
        {
            var middle = (low + high) / 2;
            (low, high) = words[middle].Start < start ? (middle + 1, high) : (low, middle);
        }

        return low;
    }
}
