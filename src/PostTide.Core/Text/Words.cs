using System.Text;

namespace PostTide.Core.Text;

/// <summary>A word's place in a text.</summary>
public readonly record struct WordSpan(int Start, int Length);

/// <summary>
/// Finds words: runs of letters, marks and digits, joined over an apostrophe or a hyphen-free dot between letters as in
/// Unicode UAX #29 (rules WB5 to WB7); a character of a script written without spaces is a word of its own.
/// </summary>
public static class Words
{
    /// <summary>The words of <paramref name="text"/> between <paramref name="start"/> and its end after <paramref name="length"/>.</summary>
    public static IEnumerable<WordSpan> In(string text, int start, int length)
    {
        var end = start + length;
        var at = start;
        while (at < end)
        {
            if (!TryRune(text, at, end, out var rune) || !IsWordRune(rune))
            {
                at += Math.Max(1, TryRune(text, at, end, out var skip) ? skip.Utf16SequenceLength : 1);
                continue;
            }

            var from = at;
            at += rune.Utf16SequenceLength;
            var alone = IsIdeographic(rune);
            while (at < end && TryRune(text, at, end, out var next))
            {
                if (IsMark(next) || (!alone && IsWordRune(next) && !IsIdeographic(next)))
                {
                    at += next.Utf16SequenceLength;
                }
                else if (!alone && IsMidLetter(next) && at + 1 < end && Rune.IsLetter(rune)
                    && TryRune(text, at + 1, end, out var beyond) && Rune.IsLetter(beyond) && !IsIdeographic(beyond))
                {
                    at += 1 + beyond.Utf16SequenceLength;
                }
                else
                {
                    break;
                }
            }

            yield return new WordSpan(from, at - from);
        }
    }

    private static bool TryRune(string text, int at, int end, out Rune rune)
    {
        var done = Rune.DecodeFromUtf16(text.AsSpan(at, end - at), out rune, out _);
        return done == System.Buffers.OperationStatus.Done;
    }

    private static bool IsWordRune(Rune rune) => Rune.IsLetterOrDigit(rune) || rune.Value == '_';

    private static bool IsMidLetter(Rune rune) => rune.Value is '\'' or '’' or '.' or ':' or '·';

    private static bool IsMark(Rune rune) => Rune.GetUnicodeCategory(rune) is System.Globalization.UnicodeCategory.NonSpacingMark
        or System.Globalization.UnicodeCategory.SpacingCombiningMark or System.Globalization.UnicodeCategory.EnclosingMark
        or System.Globalization.UnicodeCategory.Format;

    private static bool IsIdeographic(Rune rune) => rune.Value is (>= 0x3040 and <= 0x309F) or (>= 0x3400 and <= 0x4DBF)
        or (>= 0x4E00 and <= 0x9FFF) or (>= 0xF900 and <= 0xFAFF) or (>= 0x20000 and <= 0x3FFFF)
        or (>= 0x0E00 and <= 0x0EFF);
}
