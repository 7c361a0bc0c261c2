using System.Collections.Immutable;
using PostTide.Core.Text;

namespace PostTide.Core.Matching;

/// <summary>A shared list of words and phrases, matched as whole words whatever their case.</summary>
public sealed class KeywordList
{
    private readonly Dictionary<string, List<string[]>> _byFirstWord = new(StringComparer.Ordinal);

    /// <summary>Prepares a list for matching. Entries without a word in them are passed over.</summary>
    public KeywordList(long id, string name, IEnumerable<string> words)
    {
        Id = id;
        Name = name;
        Entries = [.. words];
        foreach (var entry in Entries)
        {
            var phrase = Words.In(entry, 0, entry.Length).Select(w => Words.Fold(entry.Substring(w.Start, w.Length))).ToArray();
            if (phrase.Length == 0)
            {
                continue;
            }

            if (!_byFirstWord.TryGetValue(phrase[0], out var phrases))
            {
                _byFirstWord[phrase[0]] = phrases = [];
            }

            phrases.Add(phrase);
        }
    }

    public long Id { get; }
    public string Name { get; }
    public ImmutableArray<string> Entries { get; }

    /// <summary>Where entries stand in the given stretch of a text. The time does not depend on the number of entries.</summary>
    public IReadOnlyList<WordSpan> FindIn(string text, int start, int length)
    {
        var words = FoldedWords.In(text, start, length);
        List<WordSpan>? found = null;
        for (var i = 0; i < words.Length; i++)
        {
            if (_byFirstWord.TryGetValue(words[i].Folded, out var phrases) && LongestAt(words[i..], phrases) is var count and > 0)
            {
                (found ??= []).Add(new WordSpan(words[i].Start, words[i + count - 1].End - words[i].Start));
            }
        }

        return found ?? (IReadOnlyList<WordSpan>)[];
    }

    /// <summary>The number of words of the longest phrase that stands here; 0 for none.</summary>
    private static int LongestAt(ReadOnlySpan<FoldedWord> words, List<string[]> phrases)
    {
        var longest = 0;
        foreach (var phrase in phrases)
        {
            if (phrase.Length > longest && Follows(words, phrase))
            {
                longest = phrase.Length;
            }
        }

        return longest;
    }

    private static bool Follows(ReadOnlySpan<FoldedWord> words, string[] phrase)
    {
        if (phrase.Length > words.Length)
        {
            return false;
        }

        for (var i = 1; i < phrase.Length; i++)
        {
            if (!string.Equals(words[i].Folded, phrase[i], StringComparison.Ordinal))
            {
                return false;
            }
        }

        return true;
    }
}
