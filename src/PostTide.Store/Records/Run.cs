using System.Collections.Immutable;

namespace PostTide.Store.Records;

/// <summary>The kinds of run.</summary>
public enum RunKind
{
    /// <summary>One look at a connected mailbox.</summary>
    Look,

    /// <summary>A workflow carried out on chosen old messages.</summary>
    CatchUp,
}

/// <summary>How far a run has come.</summary>
public enum RunState
{
    /// <summary>A catch-up that is being looked over; nothing is done yet.</summary>
    Draft,
    Running,

    /// <summary>A person asked it to stop, or stopped it; it can go on.</summary>
    Stopped,
    Finished,

    /// <summary>Ended by trouble, which <see cref="Run.Problem"/> names.</summary>
    Failed,
}

/// <summary>One look at a mailbox or one catch-up. Its balance is counted from messages and deeds, never kept beside them.</summary>
public sealed class Run
{
    public long Id { get; set; }
    public RunKind Kind { get; set; }
    public RunState State { get; set; }
    public long? MailboxId { get; set; }
    public long? WorkflowId { get; set; }

    /// <summary>The edition a catch-up carries out, fixed when it was looked over.</summary>
    public int? Edition { get; set; }
    public string? Person { get; set; }
    public DateTimeOffset StartedAt { get; set; }
    public DateTimeOffset? EndedAt { get; set; }

    /// <summary>How many messages a look found, or a catch-up chose, in the words of whoever chose them.</summary>
    public int LookedAt { get; set; }

    /// <summary>How many messages a look left for the next one.</summary>
    public int CarriedOver { get; set; }

    /// <summary>What was chosen, in words.</summary>
    public string Choice { get; set; } = "";

    /// <summary>Whether replies go out as the lines say, instead of waiting for a person.</summary>
    public bool SendReplies { get; set; }
    public string? Problem { get; set; }

    /// <summary>The protocol detail behind a problem.</summary>
    public string? Detail { get; set; }
}

/// <summary>What became of a message in a run.</summary>
public enum RunOutcome
{
    /// <summary>Chosen for a catch-up and not yet come to.</summary>
    Chosen,

    /// <summary>Taken out of a catch-up by a person.</summary>
    Excluded,
    TakenIn,
    LeftAlone,

    /// <summary>A look found it, and it was here already.</summary>
    Known,

    /// <summary>A look found it, and it was gone before it could be read.</summary>
    Gone,
}

/// <summary>A message of a run. A look writes down only those that it did not simply take.</summary>
public sealed class RunMessage
{
    public long RunId { get; set; }
    public int Number { get; set; }
    public long? MessageId { get; set; }

    /// <summary>What the mailbox calls it, where it is no message of ours.</summary>
    public string Source { get; set; } = "";
    public RunOutcome Outcome { get; set; }
    public string? Because { get; set; }

    /// <summary>The deeds, as <c>kind target</c>, a person wants done again although they were done before.</summary>
    public string[] Again { get; set; } = [];
}

/// <summary>A deed a catch-up planned and did not make, because it was done before.</summary>
public sealed class RunSkip
{
    public long Id { get; set; }
    public long RunId { get; set; }
    public long MessageId { get; set; }
    public Core.Workflows.DeedKind Kind { get; set; }
    public required string Says { get; set; }
    public required string Because { get; set; }

    /// <summary>The deed that was there.</summary>
    public long DeedId { get; set; }
}

/// <summary>How far an upload has come.</summary>
public enum UploadState
{
    /// <summary>The file is on its way.</summary>
    Receiving,

    /// <summary>Its messages are being taken in.</summary>
    TakingIn,
    Stopped,
    Finished,
    Failed,
}

/// <summary>A message of an upload that was not taken, and why.</summary>
/// <param name="File">The file as named by the person.</param>
/// <param name="Number">Which message of an mbox file, from 1; null for a single message.</param>
/// <param name="Why">The reason in a sentence.</param>
public sealed record RefusedUpload(string File, int? Number, string Why);

/// <summary>A mail file being brought in. Its bytes lie in the data folder until it is finished. Taken + duplicates + refused = looked at.</summary>
public sealed class Upload
{
    public Guid Id { get; set; }
    public required string Name { get; set; }
    public long MailboxId { get; set; }
    public required string Person { get; set; }
    public DateTimeOffset StartedAt { get; set; }
    public UploadState State { get; set; }

    /// <summary>Bytes of the whole file, and of what has come of it.</summary>
    public long Size { get; set; }
    public long Received { get; set; }

    /// <summary>Whether workflows act on its messages, or they are kept as old mail.</summary>
    public bool CarryOut { get; set; }

    /// <summary>The sorter its messages are examples for; null for none.</summary>
    public long? SorterId { get; set; }

    /// <summary>The category they belong to; null for none of these.</summary>
    public string? CategoryId { get; set; }

    /// <summary>Messages dealt with; where to go on.</summary>
    public int LookedAt { get; set; }
    public int Taken { get; set; }
    public int Duplicates { get; set; }
    public ImmutableArray<RefusedUpload> Refused { get; set; } = [];
    public string? Problem { get; set; }
}
