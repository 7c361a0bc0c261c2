using System.Collections.Immutable;
using System.Text.Json.Serialization;
using PostTide.Core.Matching;
using PostTide.Core.Sorting;
using PostTide.Core.Text;

namespace PostTide.Core.Messages;

/// <summary>One attachment as the message declares it. Name and type come from the sender and are not to be trusted.</summary>
/// <param name="Index">Its place among the attachments of the message, from 0.</param>
/// <param name="Name">The declared file name, decoded, possibly empty or hostile.</param>
/// <param name="DeclaredType">The declared media type.</param>
/// <param name="Size">The decoded size in bytes.</param>
/// <param name="Type">The media type its content shows; empty where the content shows none.</param>
public sealed record Attachment(int Index, string Name, string DeclaredType, long Size, string Type = "");

/// <summary>A message made ready for matching and planning. Everything a decision may rest on is in here, and nothing else.</summary>
public sealed record PreparedMessage
{
    /// <summary>The version of the preparation; reasons point into the text this version made.</summary>
    public const int CurrentVersion = 3;

    private readonly Kept<SearchedText> _searchedSubject = new();
    private readonly Kept<EmailAddress[]> _recipients = new();
    private readonly KeptDecisions _sorted = new();

    public long Id { get; init; }
    public int Version { get; init; } = CurrentVersion;

    /// <summary>The Message-ID without angle brackets, or empty.</summary>
    public string MessageId { get; init; } = "";

    /// <summary>In-Reply-To and References in order, oldest first, without angle brackets (RFC 5322 §3.6.4).</summary>
    public ImmutableArray<string> References { get; init; } = [];

    public EmailAddress From { get; init; } = EmailAddress.None;
    public EmailAddress? ReplyTo { get; init; }

    /// <summary>The envelope sender; empty for the null return path, null when it is not known (an uploaded file).</summary>
    public string? ReturnPath { get; init; }

    public ImmutableArray<EmailAddress> To { get; init; } = [];
    public ImmutableArray<EmailAddress> Cc { get; init; } = [];

    /// <summary>The addresses the mail was originally written to: envelope recipient, Delivered-To, X-Original-To.</summary>
    public ImmutableArray<string> OriginallyTo { get; init; } = [];

    public string Subject { get; init; } = "";

    /// <summary>The subject with its words.</summary>
    [JsonIgnore]
    public SearchedText SearchedSubject => _searchedSubject.Of(Subject, static s => new SearchedText(s));
    public DateTimeOffset? SentAt { get; init; }
    public DateTimeOffset ArrivedAt { get; init; }
    public BodyText Body { get; init; } = BodyText.Empty;
    public ImmutableArray<Attachment> Attachments { get; init; } = [];
    public ImmutableArray<AutomaticMark> Automatic { get; init; } = [];

    /// <summary>The size in bytes as received.</summary>
    public long Size { get; init; }

    /// <summary>The header fields in order, values decoded and unfolded, cut to a length.</summary>
    public ImmutableArray<HeaderField> Header { get; init; } = [];

    /// <summary>The folder of a connected mailbox it was read from; null when it came another way.</summary>
    public string? Folder { get; init; }

    /// <summary>Authentication-Results (RFC 8601) as the header has them, top first. Who wrote them is not checked here.</summary>
    public ImmutableArray<AuthenticationResult> Authentication { get; init; } = [];

    /// <summary>The conversation this message belongs to; 0 before it is stored.</summary>
    public long ConversationId { get; init; }

    /// <summary>The text that evidence in a place points into.</summary>
    public string TextAt(EvidencePlace place, int index) => place switch
    {
        EvidencePlace.Sender => From.Shown,
        EvidencePlace.Recipient => Recipients()[index].Shown,
        EvidencePlace.Subject => Subject,
        EvidencePlace.Body => Body.Text,
        EvidencePlace.Attachment => Attachments[index].Name,
        EvidencePlace.Sign => Automatic[index].Sign,
        EvidencePlace.Header => Header[index].Value,
        _ => throw new ArgumentOutOfRangeException(nameof(place)),
    };

    /// <summary>Every address the message reached or names, without repeats: what conditions on the recipient look at.</summary>
    public IReadOnlyList<EmailAddress> Recipients() => _recipients.Of(this, static m => m.FindRecipients());

    /// <summary>What a sorter makes of it; worked out when first asked for.</summary>
    internal SorterDecision SortedBy(TrainedSorter sorter) => _sorted.Of(this, sorter, s => s.Sort(this));

    private EmailAddress[] FindRecipients()
    {
        var seen = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        return
        [
            .. To.Concat(Cc)
                .Concat(OriginallyTo.Select(a => new EmailAddress("", a)))
                .Where(a => a.Address.Length > 0 && seen.Add(a.Address)),
        ];
    }
}
