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
    public IEnumerable<WordSpan> FindIn(string text, int start, int length)
    {
        var words = Words.In(text, start, length).ToList();
        var folded = words.ConvertAll(w => Words.Fold(text.Substring(w.Start, w.Length)));
        for (var i = 0; i < words.Count; i++)
        {
            if (!_byFirstWord.TryGetValue(folded[i], out var phrases))
            {
                continue;
            }

            var best = phrases.Where(p => Follows(folded, i, p)).MaxBy(p => p.Length);
            if (best is not null)
            {
                var end = words[i + best.Length - 1];
                yield return new WordSpan(words[i].Start, end.Start + end.Length - words[i].Start);
            }
        }
    }

    private static bool Follows(List<string> words, int at, string[] phrase)
    {
        if (at + phrase.Length > words.Count)
        {
            return false;
        }

        for (var i = 1; i < phrase.Length; i++)
        {
            if (!string.Equals(words[at + i], phrase[i], StringComparison.Ordinal))
            {
                return false;
            }
        }

        return true;
    }
}
