using System.Collections.Immutable;
using PostTide.Core.Workflows;

namespace PostTide.Store.Records;

/// <summary>What the live editions decided about a message, with every reason.</summary>
public sealed class PlanRecord
{
    public long Id { get; set; }
    public long MessageId { get; set; }

    /// <summary>Only the latest plan of a message is current; earlier ones are kept.</summary>
    public bool Current { get; set; }
    public DateTimeOffset PlannedAt { get; set; }

    /// <summary>The version of the prepared text the reasons point into.</summary>
    public int PreparedVersion { get; set; }
    public ImmutableArray<Verdict> Verdicts { get; set; } = [];
}

/// <summary>How far a deed has come.</summary>
public enum DeedState
{
    /// <summary>About to be carried out.</summary>
    Waiting,

    /// <summary>A reply that a person has to check first.</summary>
    Checking,

    /// <summary>A reply that waits for its time and can still be stopped.</summary>
    Delayed,
    UnderWay,
    Done,
    Skipped,

    /// <summary>Failed all its tries; waits for a person.</summary>
    Stuck,

    /// <summary>Stopped by a person.</summary>
    Dropped,
}

/// <summary>One thing to be carried out for one message.</summary>
public sealed class Deed
{
    public long Id { get; set; }

    /// <summary>The idempotency key towards other applications, and the core of a reply's Message-ID.</summary>
    public Guid Key { get; set; }
    public long MessageId { get; set; }

    /// <summary>The workflow that planned it; null for a deed done by hand.</summary>
    public long? WorkflowId { get; set; }
    public int? Edition { get; set; }
    public string? LineId { get; set; }

    /// <summary>The catch-up run that planned it; null for a deed of mail as it arrived.</summary>
    public long? RunId { get; set; }

    /// <summary>0 for the first time; counted up when a person asks for the same deed again.</summary>
    public int Repeat { get; set; }
    public DeedKind Kind { get; set; }
    public required string Target { get; set; }
    public required string Says { get; set; }
    public required DeedContent Content { get; set; }
    public DeedState State { get; set; }

    /// <summary>Why it is in this state: the reason for a skip, for waiting, for being stuck.</summary>
    public string? Because { get; set; }
    public int Attempts { get; set; }

    /// <summary>An earlier try may have got part of the way.</summary>
    public bool MayHaveBegun { get; set; }
    public DateTimeOffset CreatedAt { get; set; }
    public DateTimeOffset? NotBefore { get; set; }
    public DateTimeOffset? DoneAt { get; set; }
    public List<DeedChange> History { get; set; } = [];
}

/// <summary>One change of a deed's state.</summary>
public sealed class DeedChange
{
    public long Id { get; set; }
    public long DeedId { get; set; }
    public DeedState State { get; set; }
    public DateTimeOffset At { get; set; }

    /// <summary>What happened, in words: where it was put, what the other side answered.</summary>
    public string? Note { get; set; }

    /// <summary>The person who did it; null when Post Tide did.</summary>
    public string? Person { get; set; }
}
