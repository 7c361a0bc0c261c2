namespace PostTide.Core.Text;

/// <summary>A word's place in a text, and a number that equal words share whatever their case and accents.</summary>
public readonly record struct TextWord(int Start, int Length, uint Hash)
{
    public int End => Start + Length;

    /// <summary>The number of a word: FNV-1a over its plain letters. Different words may share it, so that it only rules out.</summary>
    public static uint HashOf(ReadOnlySpan<char> word)
    {
        var hash = 2_166_136_261u;
        foreach (var c in word)
        {
            if (!PlainLetters.IsMark(c))
            {
                hash = (hash ^ PlainLetters.Of(c)) * 16_777_619u;
            }
        }

        return hash;
    }
}

/// <summary>A text that is searched: its words, twelve bytes to each, and its plain letters are made when first asked for and kept with it.</summary>
public sealed class SearchedText(string text)
{
    private TextWord[]? _words;
    private string? _plain;

    public string Text { get; } = text;

    /// <summary>The text in <see cref="PlainLetters"/>, of the same length.</summary>
    public string Plain => _plain ??= PlainLetters.Of(Text);

    /// <summary>The words that lie within a stretch of the text, in order.</summary>
    public ReadOnlySpan<TextWord> WordsIn(int start, int length)
    {
        // Two threads may both cut it: they cut the same.
        var all = _words ??= Cut(Text);
        var first = FirstAtOrAfter(all, start);
        var last = FirstAtOrAfter(all, start + length);
        if (last > first && all[last - 1].End > start + length)
        {
            last--;
        }

        return all.AsSpan(first, last - first);
    }

    private static TextWord[] Cut(string text) =>
        [.. Words.In(text, 0, text.Length).Select(w => new TextWord(w.Start, w.Length, TextWord.HashOf(text.AsSpan(w.Start, w.Length))))];

    private static int FirstAtOrAfter(TextWord[] words, int start)
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
