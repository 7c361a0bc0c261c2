using System.Collections.Immutable;

namespace PostTide.Core.Text;

/// <summary>
/// Splits a body into what is new, what is quoted and the signature. Sources: RFC 3676 §4.5 (quoting with <c>&gt;</c>) and
/// §4.3 (the signature line <c>-- </c>); the lines with which mail programs introduce quoted mail are common practice.
/// </summary>
public static class BodySplitter
{
    private static readonly string[] DividerWords =
        ["original message", "forwarded message", "ursprüngliche nachricht", "message d'origine", "mensaje original", "weitergeleitete nachricht"];

    private static readonly string[] IntroductionEnds = ["wrote:", "schrieb:", "a écrit :", "a écrit:", "escribió:", "schreef:", "skrev:"];

    private static readonly string[] HeaderStarts = ["from:", "von:", "de:", "van:", "fra:"];
    private static readonly string[] HeaderFollows = ["sent:", "date:", "to:", "gesendet:", "an:", "datum:", "envoyé", "subject:", "betreff:"];

    /// <summary>Splits <paramref name="text"/>, whose lines end in LF. Takes time proportional to its length.</summary>
    public static BodyText Split(string text)
    {
        var stretches = ImmutableArray.CreateBuilder<Stretch>();
        var current = StretchKind.New;
        var start = 0;
        var rest = false;

        void Turn(StretchKind kind, int at)
        {
            if (kind == current)
            {
                return;
            }

            if (at > start)
            {
                stretches.Add(new Stretch(current, start, at - start));
            }

            current = kind;
            start = at;
        }

        var at = 0;
        while (at < text.Length)
        {
            var end = text.IndexOf('\n', at);
            var next = end < 0 ? text.Length : end + 1;
            var line = text.AsSpan(at, (end < 0 ? text.Length : end) - at);
            if (!rest)
            {
                if (BeginsQuotedRest(text, line, next))
                {
                    Turn(StretchKind.Quoted, at);
                    rest = true;
                }
                else if (line.TrimStart().StartsWith(">", StringComparison.Ordinal) || IntroducesQuote(text, line, next))
                {
                    Turn(StretchKind.Quoted, at);
                }
                else if (line.SequenceEqual("-- ") || line.SequenceEqual("--"))
                {
                    Turn(StretchKind.Signature, at);
                }
                else if (current == StretchKind.Quoted && !line.IsWhiteSpace())
                {
                    Turn(StretchKind.New, at);
                }
            }

            at = next;
        }

        if (text.Length > start)
        {
            stretches.Add(new Stretch(current, start, text.Length - start));
        }

        return new BodyText(text, stretches.ToImmutable());
    }

    /// <summary>A divider line, or the header block of an earlier message: everything after it is earlier mail.</summary>
    private static bool BeginsQuotedRest(string text, ReadOnlySpan<char> line, int next)
    {
        var trimmed = line.Trim();
        if (trimmed.StartsWith("-", StringComparison.Ordinal))
        {
            var inner = trimmed.Trim("-_ ");
            foreach (var word in DividerWords)
            {
                if (inner.Equals(word, StringComparison.OrdinalIgnoreCase))
                {
                    return true;
                }
            }
        }

        return StartsWithAny(trimmed, HeaderStarts) && StartsWithAny(LineAt(text, next).Trim(), HeaderFollows);
    }

    /// <summary>"On … somebody wrote:" on this line, or broken over this line and the next, followed by a quoted line.</summary>
    private static bool IntroducesQuote(string text, ReadOnlySpan<char> line, int next)
    {
        var trimmed = line.Trim();
        if (trimmed.Length is 0 or > 200)
        {
            return false;
        }

        var second = LineAt(text, next);
        var after = next + second.Length + 1;
        var introduces = EndsWithAny(trimmed, IntroductionEnds) && NextWrittenLineIsQuoted(text, next);
        var broken = EndsWithAny(second.Trim(), IntroductionEnds) && second.Length < 200 && NextWrittenLineIsQuoted(text, after)
            && (trimmed.StartsWith("On ", StringComparison.Ordinal) || trimmed.StartsWith("Am ", StringComparison.Ordinal)
                || trimmed.StartsWith("Le ", StringComparison.Ordinal));
        return introduces || broken;
    }

    private static bool NextWrittenLineIsQuoted(string text, int at)
    {
        for (var skipped = 0; at < text.Length && skipped < 3; skipped++)
        {
            var line = LineAt(text, at);
            if (!line.IsWhiteSpace())
            {
                return line.TrimStart().StartsWith(">", StringComparison.Ordinal);
            }

            at += line.Length + 1;
        }

        return false;
    }

    private static ReadOnlySpan<char> LineAt(string text, int at)
    {
        if (at >= text.Length)
        {
            return [];
        }

        var end = text.IndexOf('\n', at);
        return text.AsSpan(at, (end < 0 ? text.Length : end) - at);
    }

    private static bool StartsWithAny(ReadOnlySpan<char> line, string[] starts)
    {
        foreach (var start in starts)
        {
            if (line.StartsWith(start, StringComparison.OrdinalIgnoreCase))
            {
                return true;
            }
        }

        return false;
    }

    private static bool EndsWithAny(ReadOnlySpan<char> line, string[] ends)
    {
        foreach (var end in ends)
        {
            if (line.EndsWith(end, StringComparison.OrdinalIgnoreCase))
            {
                return true;
            }
        }

        return false;
    }
}
