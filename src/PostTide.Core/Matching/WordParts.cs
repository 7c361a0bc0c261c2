using System.Buffers;
using System.Collections.Immutable;
using PostTide.Core.Text;

namespace PostTide.Core.Matching;

/// <summary>Entries that may stand anywhere, within words too.</summary>
internal sealed class WordParts
{
    private readonly WordComparison _comparison;
    private readonly SearchValues<string> _search;
    private readonly ImmutableArray<int> _lengths;
    private readonly Dictionary<string, ImmutableArray<string>> _entries;

    public WordParts(IEnumerable<string> entries, WordComparison comparison)
    {
        _comparison = comparison;
        string[] wanted = [.. entries.Select(e => e.Trim().Normalize()).Where(e => e.Length > 0)];
        _search = SearchValues.Create([.. wanted.Select(Searched)], Case);
        _entries = wanted.GroupBy(Searched, StringComparer.FromComparison(Case))
            .ToDictionary(g => g.Key, g => g.ToImmutableArray(), StringComparer.FromComparison(Case));
        _lengths = [.. wanted.Select(w => w.Length).Distinct().OrderDescending()];
    }

    private StringComparison Case => _comparison.SameCase && _comparison.SameAccents ? StringComparison.Ordinal : StringComparison.OrdinalIgnoreCase;

    /// <summary>Where entries stand, the longest at each place; the next is looked for behind it.</summary>
    public IReadOnlyList<WordSpan> FindIn(SearchedText text, int start, int length, int most)
    {
        var searched = _comparison.SameAccents ? text.Text : text.Plain;
        List<WordSpan>? found = null;
        var end = start + length;
        for (var at = start; at < end && (found is null || found.Count < most);)
        {
            var next = searched.AsSpan(at, end - at).IndexOfAny(_search);
            if (next < 0)
            {
                break;
            }

            at += next;
            var longest = LongestAt(text.Text, searched, at, end);
            if (longest > 0)
            {
                (found ??= []).Add(new WordSpan(at, longest));
            }

            at += Math.Max(1, longest);
        }

        return found ?? (IReadOnlyList<WordSpan>)[];
    }

    private int LongestAt(string text, string searched, int at, int end)
    {
        var entries = _entries.GetAlternateLookup<ReadOnlySpan<char>>();
        foreach (var length in _lengths)
        {
            if (at + length <= end && entries.TryGetValue(searched.AsSpan(at, length), out var originals)
                && originals.Any(o => _comparison.Same(text.AsSpan(at, length), o)))
            {
                return length;
            }
        }

        return 0;
    }

    private string Searched(string entry) => _comparison.SameAccents ? entry : PlainLetters.Of(entry);
}
