using System.Buffers;
using PostTide.Core.Matching;
using PostTide.Core.Messages;
using PostTide.Core.Text;

namespace PostTide.Core.Sorting;

/// <summary>A stretch of one of a message's texts that a sorter looks at.</summary>
internal readonly record struct LookedAtStretch(EvidencePlace Place, int Index, SearchedText Text, int Start, int Length);

/// <summary>Something about the message that is not a word of it, such as an unsubscribe link.</summary>
/// <param name="Key">What it is, for the model.</param>
/// <param name="Says">What it is, for people.</param>
internal readonly record struct LookedAtMark(string Key, string Says);

/// <summary>
/// What a sorter looks at: subject, the new part of the body, attachment names and kinds, the sender's domain. Quoted history,
/// signatures and links are set aside; that there are links, and one to unsubscribe, stays as a mark.
/// </summary>
internal sealed class LookedAt
{
    /// <summary>How much of the body's beginning and of its end is looked at, in characters.</summary>
    private const int Beginning = 4_000;
    private const int End = 1_500;
    private const int MostAttachments = 20;

    private static readonly SearchValues<string> LinkStarts =
        SearchValues.Create(["http://", "https://", "ftp://", "mailto:", "www."], StringComparison.OrdinalIgnoreCase);

    private static readonly SearchValues<char> LinkEnds = SearchValues.Create(" \t\n\u00a0<>\"'");

    private LookedAt(List<LookedAtStretch> stretches, List<LookedAtMark> marks)
    {
        Stretches = stretches;
        Marks = marks;
    }

    public IReadOnlyList<LookedAtStretch> Stretches { get; }
    public IReadOnlyList<LookedAtMark> Marks { get; }

    public static LookedAt In(PreparedMessage message)
    {
        var stretches = new List<LookedAtStretch> { new(EvidencePlace.Subject, 0, message.SearchedSubject, 0, message.Subject.Length) };
        var marks = new List<LookedAtMark>();
        var (links, unsubscribe) = AddBody(message.Body, stretches);
        for (var i = 0; i < Math.Min(message.Attachments.Length, MostAttachments); i++)
        {
            var attachment = message.Attachments[i];
            var name = new SearchedText(attachment.Name);
            stretches.Add(new(EvidencePlace.Attachment, i, name, 0, attachment.Name.Length));
            var kind = attachment.Type.Length > 0 ? attachment.Type : attachment.DeclaredType;
            marks.Add(new($"attachment {kind}", $"an attachment of the kind {kind}"));
        }

        AddDomains(message.From.Domain, marks);
        if (links > 0)
        {
            marks.Add(links < 3 ? new("few links", "one or two links") : links < 10 ? new("links", "several links") : new("many links", "ten links or more"));
        }

        if (unsubscribe || message.Header.Any(f => f.Name.Equals("List-Unsubscribe", StringComparison.OrdinalIgnoreCase)))
        {
            marks.Add(new("unsubscribe", "an unsubscribe link"));
        }

        return new LookedAt(stretches, marks);
    }

    /// <summary>The text of the stretches, one to a line, for a reader that is not ours.</summary>
    public string AsText() => string.Join('\n', Stretches.Select(s => s.Text.Text.Substring(s.Start, s.Length)));

    private static (int Links, bool Unsubscribe) AddBody(BodyText body, List<LookedAtStretch> stretches)
    {
        var total = body.NewStretches.Sum(s => s.Length);
        var (links, unsubscribe, passed) = (0, false, 0);
        foreach (var stretch in body.NewStretches)
        {
            // Of a long text the middle is left out: what is asked for stands at the beginning or at the end.
            if (total <= Beginning + End)
            {
                AddWithoutLinks(stretch.Start, stretch.Length);
            }
            else
            {
                var early = Math.Clamp(Beginning - passed, 0, stretch.Length);
                var late = Math.Clamp(total - End - passed, early, stretch.Length);
                AddWithoutLinks(stretch.Start, early);
                AddWithoutLinks(stretch.Start + late, stretch.Length - late);
            }

            passed += stretch.Length;
        }

        return (links, unsubscribe);

        void AddWithoutLinks(int start, int length)
        {
            var from = start;
            var end = start + length;
            while (NextLink(body.Text, from, end) is { Length: > 0 } link)
            {
                Add(from, link.Start - from);
                from = link.Start + link.Length;
                links++;
                unsubscribe |= body.Text.AsSpan(link.Start, link.Length).Contains("unsubscribe", StringComparison.OrdinalIgnoreCase);
            }

            Add(from, end - from);
        }

        void Add(int start, int length)
        {
            if (length > 0)
            {
                stretches.Add(new(EvidencePlace.Body, 0, body.Searched, start, length));
            }
        }
    }

    /// <summary>The domain and the one above it, so that hosts of one sender count together.</summary>
    private static void AddDomains(string domain, List<LookedAtMark> marks)
    {
        for (var rest = domain; rest.Contains('.', StringComparison.Ordinal); rest = rest[(rest.IndexOf('.', StringComparison.Ordinal) + 1)..])
        {
            marks.Add(new($"from {rest}", $"the sender’s domain {rest}"));
        }
    }

    /// <summary>A URI (RFC 3986) in running text or a host that begins with www, up to the next blank or bracket; nothing where there is none.</summary>
    internal static WordSpan NextLink(string text, int from, int end)
    {
        var at = text.AsSpan(from, end - from).IndexOfAny(LinkStarts);
        if (at < 0)
        {
            return default;
        }

        var length = text.AsSpan(from + at, end - from - at).IndexOfAny(LinkEnds);
        return new WordSpan(from + at, length < 0 ? end - from - at : length);
    }
}
