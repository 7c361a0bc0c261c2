namespace PostTide.Core.Matching;

/// <summary>The <c>:matches</c> patterns of RFC 5228 §2.7.1: <c>*</c> any text, <c>?</c> one character, <c>\</c> takes the next literally.</summary>
public sealed class Wildcard
{
    private readonly List<Piece[]> _runs = [];
    private readonly bool _sameCase;
    private readonly bool _fixedStart;
    private readonly bool _fixedEnd;

    /// <summary>Reads a pattern. Every text is a pattern, so this never fails.</summary>
    /// <param name="pattern">The pattern.</param>
    /// <param name="sameCase">Whether capital and small letters are told apart.</param>
    public Wildcard(string pattern, bool sameCase = false)
    {
        _sameCase = sameCase;
        var run = new List<Piece>();
        _fixedStart = true;
        var star = false;
        for (var i = 0; i < pattern.Length; i++)
        {
            var c = pattern[i];
            star = c == '*';
            if (star)
            {
                _fixedStart &= i > 0;
                if (run.Count > 0)
                {
                    _runs.Add([.. run]);
                    run.Clear();
                }
            }
            else if (c == '\\' && i + 1 < pattern.Length)
            {
                run.Add(new Piece(pattern[++i], false));
            }
            else
            {
                run.Add(new Piece(c, c == '?'));
            }
        }

        _fixedEnd = !star;
        if (run.Count > 0)
        {
            _runs.Add([.. run]);
        }
    }

    /// <summary>
    /// Whether the whole of <paramref name="text"/> fits; the places its literal pieces stand at are added to
    /// <paramref name="places"/>. Takes at most the product of both lengths, and no more than one pass for usual patterns.
    /// </summary>
    public bool Fits(string text, List<(int Start, int Length)> places)
    {
        var at = 0;
        for (var i = 0; i < _runs.Count; i++)
        {
            var run = _runs[i];
            var last = i == _runs.Count - 1 && _fixedEnd;
            var first = i == 0 && _fixedStart;
            int found;
            if (last)
            {
                found = text.Length - run.Length;
                if (found < at || (first && found != 0) || !FitsAt(text, found, run))
                {
                    return false;
                }
            }
            else
            {
                found = first ? (FitsAt(text, 0, run) ? 0 : -1) : Find(text, at, run);
                if (found < 0)
                {
                    return false;
                }
            }

            places.Add((found, run.Length));
            at = found + run.Length;
        }

        // A pattern without any literal fits everything if it holds a star, and only the empty text if it is empty.
        return _runs.Count > 0 || !_fixedEnd || text.Length == 0;
    }

    private int Find(string text, int from, Piece[] run)
    {
        for (var at = from; at + run.Length <= text.Length; at++)
        {
            if (FitsAt(text, at, run))
            {
                return at;
            }
        }

        return -1;
    }

    private bool FitsAt(string text, int at, Piece[] run)
    {
        if (at + run.Length > text.Length)
        {
            return false;
        }

        for (var i = 0; i < run.Length; i++)
        {
            if (!run[i].Any && !Same(run[i].Character, text[at + i]))
            {
                return false;
            }
        }

        return true;
    }

    private bool Same(char a, char b) => a == b || (!_sameCase && char.ToUpperInvariant(a) == char.ToUpperInvariant(b));

    private readonly record struct Piece(char Character, bool Any);
}
