using System.Collections.Immutable;
using PostTide.Core.Matching;
using PostTide.Core.Messages;
using PostTide.Core.Rehearsal;
using PostTide.Core.Workflows;

namespace PostTide.Core.Formats;

/// <summary>
/// A workflow with everything it needs as one document, everything named by name. Its JSON Schema is published as
/// <c>docs/workflow.schema.json</c>.
/// </summary>
public sealed record WorkflowDocument
{
    /// <summary>The version of the format.</summary>
    public int PostTide { get; init; } = 1;
    public string Name { get; init; } = "";
    public ImmutableArray<string> Addresses { get; init; } = [];
    public SetDocument TakesIn { get; init; } = new();
    public ImmutableArray<CategoryDocument> SortsInto { get; init; } = [];

    /// <summary>The sorter asked where no category's conditions hold, by name. Sorters themselves do not travel with a workflow.</summary>
    public string? Sorter { get; init; }
    public ImmutableArray<string> ReadsOut { get; init; } = [];
    public ImmutableArray<LineDocument> Does { get; init; } = [];
    public bool EveryLine { get; init; }
    public LimitsDocument? Limits { get; init; }
    public ImmutableArray<KeywordListDocument> KeywordLists { get; init; } = [];
    public ImmutableArray<SavedConditionDocument> SavedConditions { get; init; } = [];
    public ImmutableArray<TemplateDocument> Templates { get; init; } = [];
    public ImmutableArray<ExampleDocument> Examples { get; init; } = [];
}

/// <summary>Conditions that must all hold, of which one must hold, and of which none may hold.</summary>
public record SetDocument
{
    public ImmutableArray<ConditionDocument> All { get; init; } = [];
    public ImmutableArray<ConditionDocument> Any { get; init; } = [];
    public ImmutableArray<ConditionDocument> None { get; init; } = [];

    public bool IsEmpty() => All.IsEmpty && Any.IsEmpty && None.IsEmpty;
}

/// <summary>One condition; a group has its own conditions under all, any and none.</summary>
public sealed record ConditionDocument : SetDocument
{
    /// <summary>Keeps the condition the same across editions; made when it is missing.</summary>
    public string? Id { get; init; }
    public MessagePart? Part { get; init; }
    public MatchTest? Test { get; init; }
    public ImmutableArray<string> Values { get; init; } = [];
    public string? KeywordList { get; init; }
    public ImmutableArray<AutomaticKind> Kinds { get; init; } = [];

    /// <summary>The header field, the fact or the method of authentication.</summary>
    public string? Name { get; init; }
    public bool WholeBody { get; init; }
    public bool SameCase { get; init; }
    public int? Line { get; init; }
    public int? Word { get; init; }
    public double? Least { get; init; }
    public double? Most { get; init; }
    public string? From { get; init; }
    public string? Until { get; init; }
    public string? Saved { get; init; }
}

/// <summary>A category with its conditions, or one the sorter recognises.</summary>
public sealed record CategoryDocument(string Name, string? Id = null, SetDocument? When = null, bool BySorter = false);

/// <summary>A line: for a category, for none of these, for what the sorter is unsure about, or for anything.</summary>
public sealed record LineDocument
{
    public string? Id { get; init; }
    public string? Category { get; init; }
    public bool NoneOfThese { get; init; }
    public bool Unsure { get; init; }

    /// <summary>The least surety, 0 to 1.</summary>
    public double? SuretyFrom { get; init; }
    public SetDocument? And { get; init; }
    public ImmutableArray<QueueDocument> Queues { get; init; } = [];
    public TicketSpec? Ticket { get; init; }
    public ImmutableArray<FileDocument> Files { get; init; } = [];
    public ImmutableArray<ReplyDocument> Replies { get; init; } = [];
    public ImmutableArray<string> PassOn { get; init; } = [];
    public ImmutableArray<MailboxEffect> InMailbox { get; init; } = [];
    public bool Off { get; init; }
    public string? Note { get; init; }
}

/// <summary>A queue by name.</summary>
public sealed record QueueDocument(string Queue, int? DueInMinutes = null);

/// <summary>A folder for attachments.</summary>
public sealed record FileDocument(string Folder)
{
    public ImmutableArray<string> OnlyEndings { get; init; } = [];
}

/// <summary>A reply from a template by name.</summary>
public sealed record ReplyDocument(string Template, ReplyMode Mode = ReplyMode.Check, int DelayMinutes = 0, ReplyTo To = ReplyTo.Sender);

/// <summary>What holds the workflow back; what is not said is as usual.</summary>
public sealed record LimitsDocument
{
    /// <summary>0 for no limit.</summary>
    public int? OneReplyPerSenderHours { get; init; }
    public bool? SkipLaterWorkflows { get; init; }
}

/// <summary>A keyword list with its words.</summary>
public sealed record KeywordListDocument(string Name)
{
    public string? Description { get; init; }
    public KeywordOptions? Options { get; init; }
    public ImmutableArray<string> Words { get; init; } = [];
}

/// <summary>A saved condition.</summary>
public sealed record SavedConditionDocument(string Name)
{
    public string? Description { get; init; }
    public SetDocument? Set { get; init; }
}

/// <summary>A template of replies.</summary>
public sealed record TemplateDocument(string Name, string Body);

/// <summary>A kept example, its message named by Message-ID.</summary>
public sealed record ExampleDocument(string MessageId, Expectation Expected);
