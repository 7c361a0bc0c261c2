namespace PostTide.Core.Messages;

/// <summary>The base subject of RFC 5256 §2.1: the subject without reply and forward marks, list tags and trailers.</summary>
public static class BaseSubject
{
    // RFC 5256 knows "re", "fw" and "fwd"; the others are the same words of other languages (common practice, no source).
    private static readonly string[] Prefixes = ["re", "fw", "fwd", "aw", "wg", "sv", "vs", "antw", "tr", "rv"];

    /// <summary>Extracts the base subject. An empty result means the subject held nothing but marks.</summary>
    public static string Of(string subject)
    {
        // Step 1: runs of white space become one space.
        var text = string.Join(' ', subject.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
        while (true)
        {
            // Step 2: trailing "(fwd)".
            while (text.EndsWith("(fwd)", StringComparison.OrdinalIgnoreCase))
            {
                text = text[..^5].TrimEnd();
            }

            // Steps 3 to 5: leading marks and tags, as long as they keep coming and something is left.
            while (StripLeader(ref text) || StripTag(ref text))
            {
            }

            // Step 6: "[fwd: … ]" around the whole.
            if (text.StartsWith("[fwd:", StringComparison.OrdinalIgnoreCase) && text.EndsWith(']'))
            {
                text = text[5..^1].Trim();
                continue;
            }

            return text;
        }
    }

    /// <summary>Removes <c>*tags re [tag] :</c> at the start (subj-leader); tags before the mark go with it.</summary>
    private static bool StripLeader(ref string text)
    {
        var at = 0;
        while (TagEnd(text, at) is { } tagEnd)
        {
            at = tagEnd;
        }

        foreach (var prefix in Prefixes)
        {
            if (!text.AsSpan(at).StartsWith(prefix, StringComparison.OrdinalIgnoreCase))
            {
                continue;
            }

            var next = SkipSpace(text, at + prefix.Length);
            next = SkipSpace(text, TagEnd(text, next) ?? next);
            if (next < text.Length && text[next] == ':')
            {
                text = text[(next + 1)..].TrimStart();
                return true;
            }
        }

        return false;
    }

    /// <summary>Removes one <c>[tag]</c> at the start unless nothing would be left.</summary>
    private static bool StripTag(ref string text)
    {
        if (TagEnd(text, 0) is not { } end || end >= text.Length)
        {
            return false;
        }

        text = text[end..];
        return true;
    }

    private static int? TagEnd(string text, int at)
    {
        if (at >= text.Length || text[at] != '[')
        {
            return null;
        }

        var close = text.IndexOf(']', at);
        var inner = close < 0 ? -1 : text.AsSpan(at + 1, close - at - 1).IndexOf('[');
        return close < 0 || inner >= 0 || text.AsSpan(at).StartsWith("[fwd:", StringComparison.OrdinalIgnoreCase)
            ? null
            : SkipSpace(text, close + 1);
    }

    private static int SkipSpace(string text, int at)
    {
        while (at < text.Length && text[at] == ' ')
        {
            at++;
        }

        return at;
    }
}
