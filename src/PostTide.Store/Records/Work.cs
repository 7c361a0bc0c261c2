using PostTide.Core.Workflows;

namespace PostTide.Store.Records;

/// <summary>A shared queue.</summary>
public sealed class Queue
{
    public long Id { get; set; }
    public required string Name { get; set; }
    public int Position { get; set; }
}

/// <summary>How far a queue item has come.</summary>
public enum ItemState
{
    Open,

    /// <summary>Set aside until its time, or until the sender answers.</summary>
    Waiting,
    Done,
}

/// <summary>A message in a queue. It belongs to one queue at a time.</summary>
public sealed class Item
{
    public long Id { get; set; }
    public long QueueId { get; set; }
    public long MessageId { get; set; }
    public ItemState State { get; set; }
    public DateTimeOffset PlacedAt { get; set; }
    public DateTimeOffset? DueAt { get; set; }
    public DateTimeOffset? WaitsUntil { get; set; }
    public DateTimeOffset? DoneAt { get; set; }
    public long? TakenById { get; set; }
    public Person? TakenBy { get; set; }
    public Message Message { get; set; } = null!;
    public List<Entry> Entries { get; set; } = [];

    /// <summary>Counts the changes, so that two people do not take the same item.</summary>
    public uint Version { get; set; }
}

/// <summary>How far a ticket has come.</summary>
public enum TicketState
{
    Open,
    Waiting,
    Closed,
}

/// <summary>A ticket. Its number is never used again.</summary>
public sealed class Ticket
{
    public long Id { get; set; }
    public long Number { get; set; }

    /// <summary>Prefix and number, as it is written in mail.</summary>
    public required string Reference { get; set; }
    public required string Label { get; set; }
    public TicketPriority Priority { get; set; }
    public TicketState State { get; set; }
    public required string Summary { get; set; }
    public required string Description { get; set; }
    public string RequesterName { get; set; } = "";
    public string RequesterAddress { get; set; } = "";
    public DateTimeOffset OpenedAt { get; set; }
    public DateTimeOffset ChangedAt { get; set; }
    public DateTimeOffset? ClosedAt { get; set; }
    public long MessageId { get; set; }
    public long? ConversationId { get; set; }
    public List<Entry> Entries { get; set; } = [];
}

/// <summary>What an entry records.</summary>
public enum EntryKind
{
    Opened,
    Message,
    Note,
    Reply,
    File,
    Taken,
    HandedOn,
    Waiting,
    Done,
    Reopened,
    Changed,
    PassedOn,
}

/// <summary>One line in the timeline of an item or a ticket.</summary>
public sealed class Entry
{
    public long Id { get; set; }
    public long? ItemId { get; set; }
    public long? TicketId { get; set; }
    public EntryKind Kind { get; set; }
    public DateTimeOffset At { get; set; }
    public string? Person { get; set; }
    public string Text { get; set; } = "";
    public long? MessageId { get; set; }
    public long? DeedId { get; set; }
}
