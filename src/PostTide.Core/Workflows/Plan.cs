using System.Collections.Immutable;
using System.Text.Json.Serialization;
using PostTide.Core.Facts;
using PostTide.Core.Matching;
using PostTide.Core.Sorting;

namespace PostTide.Core.Workflows;

/// <summary>What the editions decided about one message.</summary>
public sealed record Plan(long MessageId, ImmutableArray<Verdict> Verdicts)
{
    public bool TakenIn => Verdicts.Any(v => v.Outcome == Outcome.TakenIn);
}

/// <summary>What one workflow made of a message.</summary>
public enum Outcome
{
    TakenIn,
    LeftAlone,

    /// <summary>An earlier workflow took it in and skips the later ones.</summary>
    Skipped,
}

/// <summary>One workflow's verdict with its reasons and what follows.</summary>
public sealed record Verdict
{
    public required long WorkflowId { get; init; }
    public required string WorkflowName { get; init; }
    public required int Edition { get; init; }
    public required Outcome Outcome { get; init; }

    /// <summary>The category, null for none of these or when not taken in.</summary>
    public string? CategoryId { get; init; }

    /// <summary>What the sheet's sorter said; null when it was not asked.</summary>
    public SorterVerdict? Sorter { get; init; }

    /// <summary>The first line that is carried out, null when none fits.</summary>
    public string? LineId { get; init; }

    /// <summary>Every line that fits, carried out or not, in their order.</summary>
    public ImmutableArray<string> Fits { get; init; } = [];

    public ImmutableArray<Reason> Reasons { get; init; } = [];
    public ImmutableArray<Fact> Facts { get; init; } = [];
    public ImmutableArray<PlannedDeed> Deeds { get; init; } = [];

    /// <summary>The conditions under “takes in” that held, by id, for counting.</summary>
    public ImmutableArray<string> Held { get; init; } = [];

    /// <summary>Whether the message was written to one of the sheet's addresses.</summary>
    public bool Addressed { get; init; }

    /// <summary>Left alone because of exactly one condition, the address counting as one, while another one held.</summary>
    public bool NearMiss { get; init; }
}

/// <summary>One step of the explanation, with the words it rests on.</summary>
/// <param name="Text">A sentence without a full stop.</param>
/// <param name="Evidence">Where in the message it stands.</param>
public sealed record Reason(string Text, ImmutableArray<Evidence> Evidence);

/// <summary>The kinds of deed.</summary>
public enum DeedKind
{
    Place,
    Ticket,
    File,
    Reply,
    PassOn,

    /// <summary>Effects on the message in the mailbox it was read from.</summary>
    Mailbox,
}

/// <summary>One thing to be carried out for one message.</summary>
/// <param name="Kind">What kind.</param>
/// <param name="Target">What it is aimed at; with message, workflow and kind it makes the deed one of its kind.</param>
/// <param name="Says">The deed in plain words.</param>
/// <param name="Content">What is needed to carry it out.</param>
/// <param name="SkippedBecause">Why it is not done at all; null when it is to be done.</param>
/// <param name="HeldBecause">Why it waits for a person although the line says to send; null when it does not.</param>
public sealed record PlannedDeed(
    DeedKind Kind, string Target, string Says, DeedContent Content, string? SkippedBecause = null, string? HeldBecause = null)
{
    /// <summary>0 for the first time; higher when the same deed is done once more because a person asked for it.</summary>
    public int Repeat { get; init; }
}

/// <summary>What a deed needs to be carried out.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(PlaceContent), "place")]
[JsonDerivedType(typeof(TicketContent), "ticket")]
[JsonDerivedType(typeof(FileContent), "file")]
[JsonDerivedType(typeof(ReplyContent), "reply")]
[JsonDerivedType(typeof(PassOnContent), "passOn")]
[JsonDerivedType(typeof(MailboxContent), "mailbox")]
public abstract record DeedContent;

/// <summary>Place in a queue.</summary>
public sealed record PlaceContent(long QueueId, DateTimeOffset? DueAt) : DeedContent;

/// <summary>Open a ticket, or add to the one named.</summary>
public sealed record TicketContent(
    string? Reference, string Label, TicketPriority Priority, string Summary, string Description) : DeedContent
{
    /// <summary>Stands for the ticket an earlier message of the same pass opened, whose number is not known yet.</summary>
    public const string JustOpened = "(opened just before)";
}

/// <summary>File attachments: the folder and the safe name for each.</summary>
public sealed record FileContent(string Folder, ImmutableArray<FiledAttachment> Attachments) : DeedContent;

/// <summary>An attachment and the name it is filed under.</summary>
public sealed record FiledAttachment(int Index, string Name);

/// <summary>Reply: whom to, with which headers, and when it may go.</summary>
public sealed record ReplyContent(
    long TemplateId, string To, ReplyMode Mode, DateTimeOffset? NotBefore, ImmutableArray<string> MissingValues) : DeedContent;

/// <summary>Pass the facts on to a destination.</summary>
public sealed record PassOnContent(long DestinationId, ImmutableArray<Fact> Facts) : DeedContent;

/// <summary>Effects on the message in its mailbox, in order.</summary>
public sealed record MailboxContent(ImmutableArray<MailboxEffect> Effects) : DeedContent;
