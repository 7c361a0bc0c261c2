using System.Collections.Immutable;
using PostTide.Core.Messages;

namespace PostTide.Core.Matching;

/// <summary>What of a message a condition looks at. Which tests go with which part is in <see cref="PartTests"/>.</summary>
public enum MessagePart
{
    /// <summary>The sender as shown; whole it counts by the address and by the name as well.</summary>
    Sender,
    SenderAddress,

    /// <summary>What follows the last <c>@</c> of the sender's address.</summary>
    SenderDomain,
    SenderName,

    /// <summary>The address the mail was originally written to; To and Cc where that is not known.</summary>
    OriginallyTo,

    /// <summary>Every address the message reached or names.</summary>
    Recipient,

    /// <summary>The detail of the address originally written to, as in <c>user+detail@domain</c> (RFC 5233).</summary>
    Tag,
    Subject,

    /// <summary>The subject without reply and forward marks (RFC 5256 §2.1).</summary>
    BaseSubject,

    /// <summary>What is new in the body, or all of it with <see cref="Condition.WholeBody"/>.</summary>
    Body,
    SubjectOrBody,

    /// <summary>The header fields called <see cref="Condition.Name"/>.</summary>
    Header,

    /// <summary>One word of the body, or one line, at <see cref="Condition.Place"/>.</summary>
    WordAtPlace,
    AttachmentName,

    /// <summary>The type of an attachment as its content shows it, such as <c>application/pdf</c>.</summary>
    AttachmentType,

    /// <summary>The fact called <see cref="Condition.Name"/>.</summary>
    Fact,

    /// <summary>The List-Id of a mailing list (RFC 2919).</summary>
    ListId,

    /// <summary>Whether there is an attachment at all.</summary>
    Attachment,

    /// <summary>Whether the message is automatic, and of which kind.</summary>
    Automatic,

    /// <summary>The number of attachments.</summary>
    AttachmentCount,

    /// <summary>The size of an attachment in bytes, decoded.</summary>
    AttachmentSize,

    /// <summary>The size of the message in bytes, as received.</summary>
    Size,

    /// <summary>Days between sending and deciding, by the Date field.</summary>
    Age,

    /// <summary>Which message of its conversation it is, from 1.</summary>
    ConversationNumber,

    /// <summary>The day it arrived, on the desk's clocks.</summary>
    ArrivalDate,

    /// <summary>The day it says it was sent, on the clocks it was sent by.</summary>
    SentDate,

    /// <summary>The day of the week on which it arrived, on the desk's clocks.</summary>
    Weekday,

    /// <summary>The time of day at which it arrived, on the desk's clocks.</summary>
    Hour,

    /// <summary>Whether it arrived within the desk's business hours.</summary>
    BusinessHours,

    /// <summary>Whether it answers a message of ours.</summary>
    AnswersOurs,

    /// <summary>Whether it belongs to a ticket, by naming it or by its conversation.</summary>
    HasTicket,

    /// <summary>What a trusted host found with the method <see cref="Condition.Name"/>: spf, dkim, dmarc (RFC 8601).</summary>
    Authentication,

    /// <summary>The category it was sorted into. Known to the conditions of lines only.</summary>
    Category,

    /// <summary>The saved condition <see cref="Condition.SavedId"/>.</summary>
    Saved,

    /// <summary>The nested conditions of <see cref="Condition.Set"/>.</summary>
    Group,
}

/// <summary>How a condition compares. Case makes no difference unless <see cref="Condition.SameCase"/> is set.</summary>
public enum MatchTest
{
    /// <summary>The value stands somewhere in the part (RFC 5228 §2.7.1 <c>:contains</c>).</summary>
    Contains,

    /// <summary>The part is the value, whole (<c>:is</c>). For senders and recipients the address or the display name.</summary>
    Is,

    /// <summary>The part begins with the value.</summary>
    Begins,

    /// <summary>The part ends with the value.</summary>
    Ends,

    /// <summary>The value stands in the part as a whole word or phrase.</summary>
    Word,

    /// <summary>The whole part fits a pattern with <c>*</c> for any text and <c>?</c> for one character (<c>:matches</c>).</summary>
    Matches,

    /// <summary>A regular expression fits somewhere in the part, in time linear in its length.</summary>
    Regex,

    /// <summary>A word or phrase of a shared keyword list stands in the part.</summary>
    HasAnyWordIn,

    /// <summary>There is one; it is so.</summary>
    Present,

    /// <summary>There is none; it is not so.</summary>
    Absent,

    /// <summary>A number or a time lies between two ends, both included, of which one may be open.</summary>
    Between,

    /// <summary>It is one of the values: days of the week, results, categories.</summary>
    OneOf,
}

/// <summary>One condition of a sheet. Which of the fields count depends on part and test.</summary>
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

    /// <summary>The header field, the fact or the method of authentication.</summary>
    public string? Name { get; init; }

    /// <summary>Quoted history and signature are looked at too.</summary>
    public bool WholeBody { get; init; }

    /// <summary>Capital and small letters are told apart.</summary>
    public bool SameCase { get; init; }
    public WordPlace? Place { get; init; }

    /// <summary>The lower end of a number, itself included; null for open.</summary>
    public double? Least { get; init; }

    /// <summary>The upper end of a number, itself included; null for open.</summary>
    public double? Most { get; init; }

    /// <summary>The first day (ISO 8601, <c>2026-11-25</c>) or minute (<c>08:30</c>); null for open.</summary>
    public string? From { get; init; }

    /// <summary>The last day, or the minute after the last; before <see cref="From"/> for hours over midnight; null for open.</summary>
    public string? Until { get; init; }
    public long? SavedId { get; init; }

    /// <summary>Nested conditions, for <see cref="MessagePart.Group"/>.</summary>
    public ConditionSet? Set { get; init; }

    /// <summary>The condition itself, or for a group every condition in it, however deep.</summary>
    public IEnumerable<Condition> Leaves() => Part == MessagePart.Group ? Set?.Each().SelectMany(c => c.Leaves()) ?? [] : [this];
}

/// <summary>A place in the body, counted over lines that hold a word.</summary>
/// <param name="Line">1 for the first line, -1 for the last, and so on.</param>
/// <param name="Word">1 for the first word of the line, -1 for the last; null for the whole line.</param>
public sealed record WordPlace(int Line, int? Word = null);

/// <summary>Conditions that must all hold, of which at least one must hold, and of which none may hold.</summary>
public sealed record ConditionSet
{
    public static readonly ConditionSet Empty = new();

    public ImmutableArray<Condition> All { get; init; } = [];
    public ImmutableArray<Condition> Any { get; init; } = [];
    public ImmutableArray<Condition> None { get; init; } = [];

    public bool IsEmpty() => All.IsEmpty && Any.IsEmpty && None.IsEmpty;

    public IEnumerable<Condition> Each() => All.Concat(Any).Concat(None);

    /// <summary>Every condition that is not a group, however deep it stands.</summary>
    public IEnumerable<Condition> Leaves() => Each().SelectMany(c => c.Leaves());
}

/// <summary>Conditions under a name, for use on several sheets.</summary>
public sealed record SavedCondition(long Id, string Name, ConditionSet Set);
