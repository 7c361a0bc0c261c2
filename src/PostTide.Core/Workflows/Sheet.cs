using System.Collections.Immutable;
using PostTide.Core.Facts;
using PostTide.Core.Matching;
using PostTide.Core.Sorting;

namespace PostTide.Core.Workflows;

/// <summary>One workflow as a document of five bands: takes in, sorts into, reads out, does, limits.</summary>
public sealed record Sheet
{
    public static readonly Sheet Empty = new();

    /// <summary>Takes in: the addresses whose mail is looked at; empty for every address.</summary>
    public ImmutableArray<string> Addresses { get; init; } = [];

    /// <summary>Takes in: the conditions.</summary>
    public ConditionSet TakesIn { get; init; } = ConditionSet.Empty;

    /// <summary>Sorts into: the categories in order; what fits none is “none of these”.</summary>
    public ImmutableArray<Category> Categories { get; init; } = [];

    /// <summary>Sorts into: the sorter that is asked where no category's conditions hold; null for none.</summary>
    public long? SorterId { get; init; }

    /// <summary>Reads out: the names of the facts read; see <see cref="BuiltInFacts"/>.</summary>
    public ImmutableArray<string> Facts { get; init; } = [];

    /// <summary>Does: the lines in order.</summary>
    public ImmutableArray<Line> Lines { get; init; } = [];

    /// <summary>Does: every line that fits is carried out, in order; otherwise only the first.</summary>
    public bool EveryLine { get; init; }

    public Limits Limits { get; init; } = new();

    /// <summary>Every set of conditions on the sheet, with the id of what it belongs to.</summary>
    public IEnumerable<(string At, ConditionSet Set)> Sets() =>
        Categories.Select(c => (c.Id, c.When)).Concat(Lines.Select(l => (l.Id, l.AndWhen))).Prepend(("takes in", TakesIn));
}

/// <summary>When a line applies, as to the category.</summary>
public enum LineCase
{
    /// <summary>The message was sorted into the line's category.</summary>
    Category,

    /// <summary>The message fits none of the categories.</summary>
    NoneOfThese,

    /// <summary>Whatever the category, unsure or not.</summary>
    Any,

    /// <summary>The sorter was not sure enough.</summary>
    Unsure,
}

/// <summary>One row under “does”: when it fits, and what then happens. A line without any deed leaves the message alone.</summary>
public sealed record Line
{
    public string Id { get; init; } = "";
    public LineCase Case { get; init; } = LineCase.Any;
    public string? CategoryId { get; init; }

    /// <summary>The sorter has to be at least this sure, 0 to 1; null where it does not matter. What conditions or a person decided is certain.</summary>
    public double? SuretyFrom { get; init; }

    /// <summary>Further conditions that must hold.</summary>
    public ConditionSet AndWhen { get; init; } = ConditionSet.Empty;

    public ImmutableArray<PlaceSpec> Queues { get; init; } = [];
    public TicketSpec? Ticket { get; init; }
    public ImmutableArray<FileSpec> Files { get; init; } = [];
    public ImmutableArray<ReplySpec> Replies { get; init; } = [];
    public ImmutableArray<PassOnSpec> PassOns { get; init; } = [];
    public MailboxSpec? InMailbox { get; init; }

    /// <summary>A line that is switched off fits nothing; it stays on the sheet.</summary>
    public bool Off { get; init; }

    /// <summary>A remark for whoever reads the sheet.</summary>
    public string? Note { get; init; }

    /// <summary>Whether the line carries anything out.</summary>
    public bool DoesNothing() =>
        Queues.IsEmpty && Ticket is null && Files.IsEmpty && Replies.IsEmpty && PassOns.IsEmpty && InMailbox is not { Effects.IsEmpty: false };
}

/// <summary>Place the message in a queue.</summary>
/// <param name="QueueId">The queue.</param>
/// <param name="DueInMinutes">When it is due, in minutes after arrival; null for no due time.</param>
public sealed record PlaceSpec(long QueueId, int? DueInMinutes);

/// <summary>What to do about a ticket.</summary>
public enum TicketMode
{
    /// <summary>Add to the ticket the message refers to; open one when it refers to none.</summary>
    OpenOrAdd,

    /// <summary>Add to the ticket it refers to; nothing when it refers to none.</summary>
    AddOnly,
}

/// <summary>Open a ticket or add to the one referred to.</summary>
/// <param name="Mode">Which of the two.</param>
/// <param name="Label">What kind of ticket it is, such as “Berth booking”.</param>
/// <param name="Priority">Low, normal or high.</param>
public sealed record TicketSpec(TicketMode Mode, string Label, TicketPriority Priority = TicketPriority.Normal);

/// <summary>How pressing a ticket is.</summary>
public enum TicketPriority
{
    Low,
    Normal,
    High,
}

/// <summary>File the attachments.</summary>
/// <param name="Folder">The folder, a Liquid pattern over the facts and <c>arrived</c>, such as <c>Slips/{{ arrived | date: "%Y/%m" }}</c>.</param>
/// <param name="OnlyEndings">File name endings to take, without dots; empty for all.</param>
public sealed record FileSpec(string Folder, ImmutableArray<string> OnlyEndings);

/// <summary>What becomes of a reply once it is written.</summary>
public enum ReplyMode
{
    /// <summary>It waits for a person to check it.</summary>
    Check,

    /// <summary>It is sent, after the delay if there is one.</summary>
    Send,
}

/// <summary>Whom a reply goes to.</summary>
public enum ReplyTo
{
    /// <summary>The Reply-To address, or the sender where there is none (RFC 5322 §3.6.2).</summary>
    Sender,

    /// <summary>The first e-mail address in the body, for notices that name the customer in their text.</summary>
    FirstAddressInBody,
}

/// <summary>Reply from a template.</summary>
/// <param name="TemplateId">The template.</param>
/// <param name="Mode">Draft for checking, or send.</param>
/// <param name="DelayMinutes">How long a sent reply waits first, in minutes, during which it can be stopped.</param>
/// <param name="To">Whom it goes to.</param>
public sealed record ReplySpec(long TemplateId, ReplyMode Mode, int DelayMinutes = 0, ReplyTo To = ReplyTo.Sender);

/// <summary>Pass the message's facts on to another application.</summary>
public sealed record PassOnSpec(long DestinationId);

/// <summary>What is done to a message where it lies, in the mailbox it was read from.</summary>
/// <param name="Effects">In the order in which they are carried out; a move comes last.</param>
public sealed record MailboxSpec(ImmutableArray<MailboxEffect> Effects);

/// <summary>The last band: what holds the workflow back.</summary>
public sealed record Limits
{
    /// <summary>At most one reply to a sender in this many hours; null for no limit.</summary>
    public int? OneReplyPerSenderHours { get; init; } = 24;

    /// <summary>Whether workflows further down do not see a message this one took in.</summary>
    public bool SkipLaterWorkflows { get; init; } = true;
}

/// <summary>An edition of a workflow, ready to plan with.</summary>
/// <param name="WorkflowId">The workflow.</param>
/// <param name="WorkflowName">Its name, for reasons.</param>
/// <param name="Number">The number of the edition.</param>
/// <param name="Sheet">The sheet.</param>
public sealed record Edition(long WorkflowId, string WorkflowName, int Number, Sheet Sheet);
