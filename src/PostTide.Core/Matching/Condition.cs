using System.Collections.Immutable;
using PostTide.Core.Messages;

namespace PostTide.Core.Matching;

/// <summary>The part of a message a condition looks at.</summary>
public enum MessagePart
{
    Sender,
    Recipient,
    Subject,
    Body,
    SubjectOrBody,
    AttachmentName,

    /// <summary>Whether there is an attachment at all.</summary>
    Attachment,

    /// <summary>Whether the message is automatic, and of which kind.</summary>
    Automatic,
}

/// <summary>How a condition compares. The first three are the match types of RFC 5228 §2.7.1, ignoring case.</summary>
public enum MatchTest
{
    /// <summary>The value stands somewhere in the part.</summary>
    Contains,

    /// <summary>The part is the value, whole. For senders and recipients the address or the display name.</summary>
    Is,

    /// <summary>The whole part fits a pattern with <c>*</c> for any text and <c>?</c> for one character.</summary>
    Matches,

    /// <summary>A word or phrase of a shared keyword list stands in the part, as whole words.</summary>
    HasAnyWordIn,

    /// <summary>There is one (for attachments and automatic mail).</summary>
    Present,
}

/// <summary>One condition of a sheet.</summary>
public sealed record Condition
{
    /// <summary>An id that stays with the condition across editions, so that counts can be compared.</summary>
    public string Id { get; init; } = "";
    public MessagePart Part { get; init; }
    public MatchTest Test { get; init; }

    /// <summary>The values, any of which makes the condition hold.</summary>
    public ImmutableArray<string> Values { get; init; } = [];

    /// <summary>The keyword list, for <see cref="MatchTest.HasAnyWordIn"/>.</summary>
    public long? KeywordListId { get; init; }

    /// <summary>The kinds that count, for <see cref="MessagePart.Automatic"/>; empty for any.</summary>
    public ImmutableArray<AutomaticKind> Kinds { get; init; } = [];
}

/// <summary>Conditions that must all hold, of which at least one must hold, and of which none may hold.</summary>
public sealed record ConditionSet
{
    public static readonly ConditionSet Empty = new();

    public ImmutableArray<Condition> All { get; init; } = [];
    public ImmutableArray<Condition> Any { get; init; } = [];
    public ImmutableArray<Condition> None { get; init; } = [];

    public bool IsEmpty() => All.IsEmpty && Any.IsEmpty && None.IsEmpty;

    public IEnumerable<Condition> Each() => All.Concat(Any).Concat(None);
}
