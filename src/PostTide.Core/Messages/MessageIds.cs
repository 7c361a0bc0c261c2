using System.Collections.Immutable;

namespace PostTide.Core.Messages;

/// <summary>Message identifiers of RFC 5322 §3.6.4, kept without their angle brackets.</summary>
public static class MessageIds
{
    private const int Longest = 998;

    /// <summary>
    /// The identifiers a message answers, oldest first: its References, and In-Reply-To where References lack it
    /// (RFC 5256 §3, step 1). Repeats and identifiers beyond a line's length are left out.
    /// </summary>
    public static ImmutableArray<string> Answered(IEnumerable<string> references, IEnumerable<string> inReplyTo)
    {
        var seen = new HashSet<string>(StringComparer.Ordinal);
        return [.. references.Concat(inReplyTo).Select(Bare).Where(id => id.Length is > 0 and <= Longest && seen.Add(id))];
    }

    /// <summary>An identifier without angle brackets, white space and control characters.</summary>
    public static string Bare(string id) =>
        new([.. id.Where(c => !char.IsControl(c) && !char.IsWhiteSpace(c) && c is not '<' and not '>')]);
}
