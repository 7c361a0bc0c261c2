using System.Collections.Immutable;
using System.Runtime.CompilerServices;
using System.Text.RegularExpressions;
using PostTide.Core.Text;

namespace PostTide.Core.Matching;

/// <summary>The test of a condition on texts, with its patterns read once.</summary>
internal sealed class TextTest
{
    /// <summary>More places than this are not collected for one condition; the first ones explain it.</summary>
    public const int MostEvidence = 20;

    private static readonly ConditionalWeakTable<Condition, TextTest> Known = [];

    private readonly Condition _condition;
    private readonly StringComparison _case;
    private readonly WordComparison _words;
    private readonly ImmutableArray<Wildcard> _wildcards = [];
    private readonly ImmutableArray<Phrase> _phrases = [];
    private readonly ImmutableArray<Regex> _expressions = [];

    private TextTest(Condition condition)
    {
        _condition = condition;
        _case = condition.SameCase ? StringComparison.Ordinal : StringComparison.OrdinalIgnoreCase;
        _words = WordComparison.Usual with { SameCase = condition.SameCase };
        switch (condition.Test)
        {
            case MatchTest.Matches:
                _wildcards = [.. condition.Values.Select(v => new Wildcard(v, condition.SameCase))];
                break;
            case MatchTest.Word:
                _phrases = [.. condition.Values.Select(v => Phrase.Of(v.Normalize()))];
                break;
            case MatchTest.Regex:
                _expressions = [.. condition.Values.Select(v => LinearRegex.Read(v, condition.SameCase).Regex).OfType<Regex>()];
                break;
        }
    }

    public static TextTest Of(Condition condition) => Known.GetValue(condition, static c => new TextTest(c));

    /// <summary>Whether the test holds on a text; the places it rests on are added to <paramref name="found"/>.</summary>
    public bool HoldsOn(in TextField field, IReadOnlyDictionary<long, KeywordList> lists, List<Evidence> found)
    {
        var before = found.Count;
        var held = false;
        switch (_condition.Test)
        {
            case MatchTest.HasAnyWordIn when _condition.KeywordListId is { } id && lists.TryGetValue(id, out var list):
                foreach (var word in list.FindIn(field.WithWords, field.Start, field.Length, Math.Max(1, MostEvidence - found.Count)))
                {
                    held = true;
                    Add(field.At(word.Start, word.Length), found);
                }

                return held;
            case MatchTest.Word:
                foreach (var phrase in _phrases)
                {
                    held |= HasPhrase(field, phrase, found);
                }

                return held;
            case MatchTest.Regex:
                foreach (var expression in _expressions)
                {
                    held |= Fits(field, expression, found);
                }

                return held;
            case MatchTest.Matches:
                foreach (var wildcard in _wildcards)
                {
                    held |= Fits(field, wildcard, found);
                }

                return held;
            case MatchTest.Present:
                found.Add(field.At(field.Start, field.Length));
                return found.Count > before;
            default:
                foreach (var value in _condition.Values)
                {
                    held |= Compare(field, value, found);
                }

                return held;
        }
    }

    private bool Compare(in TextField field, string value, List<Evidence> found)
    {
        switch (_condition.Test)
        {
            case MatchTest.Contains:
                return Contains(field, value, found);
            case MatchTest.Is:
                return AnyWhole(field, found, (span, _) => span.Equals(value, _case) ? (0, span.Length) : null);
            case MatchTest.Begins:
                return AnyWhole(field, found, (span, _) => span.StartsWith(value, _case) ? (0, value.Length) : null);
            case MatchTest.Ends:
                return AnyWhole(field, found, (span, _) => EndOf(span).EndsWith(value, _case) ? (EndOf(span).Length - value.Length, value.Length) : null);
            default:
                return false;
        }
    }

    private bool Contains(in TextField field, string value, List<Evidence> found)
    {
        if (value.Length == 0)
        {
            return true;
        }

        var end = field.Start + field.Length;
        var at = field.Text.IndexOf(value, field.Start, field.Length, _case);
        var held = at >= 0;
        while (at >= 0 && found.Count < MostEvidence)
        {
            found.Add(field.At(at, value.Length));
            var from = at + value.Length;
            at = field.Text.IndexOf(value, from, end - from, _case);
        }

        return held;
    }

    private delegate (int Start, int Length)? WholeTest(ReadOnlySpan<char> whole, int start);

    private static bool AnyWhole(in TextField field, List<Evidence> found, WholeTest test)
    {
        if (test(field.Span, field.Start) is { } itself)
        {
            Add(field.At(field.Start + itself.Start, itself.Length), found);
            return true;
        }

        foreach (var (start, length) in field.Parts.IsDefault ? [] : field.Parts)
        {
            if (test(field.Text.AsSpan(start, length), start) is { } part)
            {
                Add(field.At(start + part.Start, part.Length), found);
                return true;
            }
        }

        return false;
    }

    /// <summary>A body ends with its last line, not with the line end behind it.</summary>
    private static ReadOnlySpan<char> EndOf(ReadOnlySpan<char> span) => span.TrimEnd();

    private bool HasPhrase(in TextField field, Phrase phrase, List<Evidence> found)
    {
        var held = false;
        var words = field.WithWords.WordsIn(field.Start, field.Length);
        for (var i = 0; i < words.Length && found.Count < MostEvidence; i++)
        {
            if (phrase.StandsAt(field.Text, words[i..], _words))
            {
                held = true;
                found.Add(field.At(words[i].Start, words[i + phrase.Hashes.Length - 1].End - words[i].Start));
            }
        }

        return held;
    }

    private static bool Fits(in TextField field, Regex expression, List<Evidence> found)
    {
        var held = false;
        foreach (var match in expression.EnumerateMatches(field.Span))
        {
            held = true;
            if (found.Count >= MostEvidence)
            {
                break;
            }

            if (match.Length > 0)
            {
                found.Add(field.At(field.Start + match.Index, match.Length));
            }
        }

        return held;
    }

    private static bool Fits(in TextField field, Wildcard wildcard, List<Evidence> found)
    {
        var places = new List<(int Start, int Length)>();
        var text = field.Text;
        foreach (var (start, length) in field.Parts.IsDefault ? [(field.Start, field.Length)] : field.Parts.Prepend((field.Start, field.Length)))
        {
            places.Clear();
            if (wildcard.Fits(text.Substring(start, length), places))
            {
                foreach (var place in places)
                {
                    Add(field.At(start + place.Start, place.Length), found);
                }

                return true;
            }
        }

        return false;
    }

    private static void Add(Evidence evidence, List<Evidence> found)
    {
        if (found.Count < MostEvidence)
        {
            found.Add(evidence);
        }
    }
}
