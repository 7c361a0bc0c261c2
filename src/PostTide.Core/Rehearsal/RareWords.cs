using System.Collections.Immutable;
using PostTide.Core.Messages;
using PostTide.Core.Text;

namespace PostTide.Core.Rehearsal;

/// <summary>The words of messages that other mail seldom has.</summary>
internal static class RareWords
{
    private const int ShortestWord = 4;
    private const int WordsLookedAt = 200;

    /// <summary>The words of a message that the fewest other messages have, those of the subject first where equal.</summary>
    public static ImmutableArray<string> Of(PreparedMessage message, IReadOnlyList<PreparedMessage> mail, int most)
    {
        var words = In(message).Take(WordsLookedAt).DistinctBy(w => w.Hash).ToList();
        var frequency = Frequencies(words.Select(w => w.Hash), mail);

        // A word nobody else uses is more often a name or a slip than the matter itself.
        return [.. words.OrderBy(w => frequency[w.Hash] <= 1 ? mail.Count : frequency[w.Hash]).Take(most).Select(w => w.Text.ToLowerInvariant())];
    }

    /// <summary>The words of a message, those of the subject first, short ones and numbers left out.</summary>
    public static IEnumerable<(uint Hash, string Text)> In(PreparedMessage message)
    {
        foreach (var word in message.SearchedSubject.WordsIn(0, message.Subject.Length).ToArray())
        {
            if (IsTelling(message.Subject, word))
            {
                yield return (word.Hash, message.Subject.Substring(word.Start, word.Length));
            }
        }

        foreach (var stretch in message.Body.NewStretches)
        {
            foreach (var word in message.Body.Searched.WordsIn(stretch.Start, stretch.Length).ToArray())
            {
                if (IsTelling(message.Body.Text, word))
                {
                    yield return (word.Hash, message.Body.Text.Substring(word.Start, word.Length));
                }
            }
        }
    }

    /// <summary>In how many messages each of the words stands.</summary>
    public static Dictionary<uint, int> Frequencies(IEnumerable<uint> words, IReadOnlyList<PreparedMessage> mail)
    {
        var counts = words.Distinct().ToDictionary(w => w, _ => 0);
        var seen = new HashSet<uint>();
        foreach (var message in mail)
        {
            seen.Clear();
            Count(message.SearchedSubject.WordsIn(0, message.Subject.Length));
            foreach (var stretch in message.Body.NewStretches)
            {
                Count(message.Body.Searched.WordsIn(stretch.Start, stretch.Length));
            }
        }

        return counts;

        void Count(ReadOnlySpan<TextWord> found)
        {
            foreach (var word in found)
            {
                if (counts.TryGetValue(word.Hash, out var count) && seen.Add(word.Hash))
                {
                    counts[word.Hash] = count + 1;
                }
            }
        }
    }

    private static bool IsTelling(string text, TextWord word) =>
        word.Length is >= ShortestWord and <= 40 && !text.AsSpan(word.Start, word.Length).ContainsAnyInRange('0', '9');
}
