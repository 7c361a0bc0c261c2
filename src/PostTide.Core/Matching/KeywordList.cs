using System.Collections.Immutable;
using PostTide.Core.Text;

namespace PostTide.Core.Matching;

/// <summary>How the words of a keyword list are compared with a text.</summary>
public sealed record KeywordOptions
{
    public static readonly KeywordOptions Usual = new();

    /// <summary>An entry must stand as whole words; otherwise it may stand within longer ones.</summary>
    public bool WholeWords { get; init; } = true;

    /// <summary>Capital and small letters are told apart.</summary>
    public bool SameCase { get; init; }

    /// <summary>Letters with and without accents are told apart.</summary>
    public bool SameAccents { get; init; } = true;

    /// <summary>The last word of an entry may bear a simple English ending; see <see cref="WordEndings"/>. Needs whole words.</summary>
    public bool Endings { get; init; }
}

/// <summary>A shared list of words and phrases. Looking for all of them costs what looking for one does.</summary>
public sealed class KeywordList
{
    private const int RuledOutBits = 1 << 16;

    private readonly WordComparison _comparison;
    private readonly ulong[] _mayBegin = new ulong[RuledOutBits / 64];
    private readonly Dictionary<uint, List<Phrase>> _byFirstWord = [];
    private readonly WordParts? _parts;

    /// <summary>Prepares a list for matching. Entries without a word in them are passed over where whole words count.</summary>
    public KeywordList(long id, string name, IEnumerable<string> words, KeywordOptions? options = null)
    {
        Id = id;
        Name = name;
        Options = options ?? KeywordOptions.Usual;
        Entries = [.. words];
        _comparison = new WordComparison(Options.SameCase, Options.SameAccents);
        if (!Options.WholeWords)
        {
            _parts = new WordParts(Entries, _comparison);
            return;
        }

        foreach (var form in Entries.SelectMany(e => Options.Endings ? WordEndings.FormsOf(e) : [e]))
        {
            Add(Phrase.Of(form.Normalize()));
        }
    }

    public long Id { get; }
    public string Name { get; }
    public ImmutableArray<string> Entries { get; }
    public KeywordOptions Options { get; }

    /// <summary>Where entries stand in the given stretch of a text. The time does not depend on the number of entries.</summary>
    /// <param name="text">The text.</param>
    /// <param name="start">Where the stretch begins.</param>
    /// <param name="length">How long it is.</param>
    /// <param name="most">No more places than this are looked for.</param>
    public IReadOnlyList<WordSpan> FindIn(SearchedText text, int start, int length, int most = int.MaxValue)
    {
        if (_parts is not null)
        {
            return _parts.FindIn(text, start, length, most);
        }

        var words = text.WordsIn(start, length);
        List<WordSpan>? found = null;
        for (var i = 0; i < words.Length; i++)
        {
            var bit = words[i].Hash & (RuledOutBits - 1);
            if ((_mayBegin[bit / 64] >> (int)(bit % 64) & 1) != 0
                && _byFirstWord.TryGetValue(words[i].Hash, out var phrases) && LongestAt(text.Text, words[i..], phrases) is var count and > 0)
            {
                (found ??= []).Add(new WordSpan(words[i].Start, words[i + count - 1].End - words[i].Start));
                if (found.Count >= most)
                {
                    break;
                }
            }
        }

        return found ?? (IReadOnlyList<WordSpan>)[];
    }

    private void Add(Phrase phrase)
    {
        if (phrase.Hashes.IsEmpty)
        {
            return;
        }

        var first = phrase.Hashes[0];
        var bit = first & (RuledOutBits - 1);
        _mayBegin[bit / 64] |= 1UL << (int)(bit % 64);
        if (!_byFirstWord.TryGetValue(first, out var phrases))
        {
            _byFirstWord[first] = phrases = [];
        }

        phrases.Add(phrase);
    }

    /// <summary>The number of words of the longest phrase that stands here; 0 for none.</summary>
    private int LongestAt(string text, ReadOnlySpan<TextWord> words, List<Phrase> phrases)
    {
        var longest = 0;
        foreach (var phrase in phrases)
        {
            if (phrase.Hashes.Length > longest && phrase.StandsAt(text, words, _comparison))
            {
                longest = phrase.Hashes.Length;
            }
        }

        return longest;
    }
}

/// <summary>The words of an entry, ready to be compared with the words of a text.</summary>
internal sealed record Phrase(ImmutableArray<string> Words, ImmutableArray<uint> Hashes)
{
    public static Phrase Of(string entry)
    {
        ImmutableArray<string> words = [.. Text.Words.In(entry, 0, entry.Length).Select(w => entry.Substring(w.Start, w.Length))];
        return new Phrase(words, [.. words.Select(w => TextWord.HashOf(w))]);
    }

    /// <summary>Whether the words of a text begin with this phrase.</summary>
    public bool StandsAt(string text, ReadOnlySpan<TextWord> words, WordComparison comparison)
    {
        if (Hashes.IsEmpty || Hashes.Length > words.Length)
        {
            return false;
        }

        for (var i = 0; i < Hashes.Length; i++)
        {
            if (words[i].Hash != Hashes[i] || !comparison.Same(text.AsSpan(words[i].Start, words[i].Length), Words[i]))
            {
                return false;
            }
        }

        return true;
    }
}
