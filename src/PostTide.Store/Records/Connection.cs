using PostTide.Core.Time;

namespace PostTide.Store.Records;

/// <summary>How a connection is made private; the values are those of the mail part.</summary>
public enum ConnectionTls
{
    None,
    StartTls,
    Implicit,
}

/// <summary>What becomes of mail that lay in the mailbox before it was connected.</summary>
public enum OldMail
{
    /// <summary>Kept for rehearsal and catch-up; no workflow acts on it.</summary>
    Keep,

    /// <summary>Treated like mail that has just arrived.</summary>
    CarryOut,
}

/// <summary>The hours in which a mailbox is looked at, as set up.</summary>
/// <param name="From">HH:mm.</param>
/// <param name="Until">HH:mm.</param>
/// <param name="Days">ISO days of the week, 1 for Monday.</param>
/// <param name="Zone">A name of the IANA time zone database.</param>
public sealed record LookHours(string From, string Until, IReadOnlyList<int> Days, string Zone)
{
    /// <summary>The hours to compute with; null when they cannot be read.</summary>
    public ActiveHours? Read() => ActiveHours.Read(From, Until, Days, Zone);
}

/// <summary>The IMAP mailbox behind a mailbox: how it is reached, how it is looked at, and how far that has come.</summary>
public sealed class Connection
{
    public long MailboxId { get; set; }
    public required string Host { get; set; }
    public int Port { get; set; }
    public ConnectionTls Tls { get; set; }
    public required string User { get; set; }

    /// <summary>Encrypted; the key lies outside the database.</summary>
    public required string ProtectedPassword { get; set; }
    public required string Folder { get; set; }

    /// <summary>Mail that arrived before this is not read.</summary>
    public DateTimeOffset Since { get; set; }
    public OldMail OldMail { get; set; }

    /// <summary>Whether messages are marked as read when they were taken.</summary>
    public bool MarkRead { get; set; }
    public int PaceMinutes { get; set; } = 15;
    public LookHours? Hours { get; set; }

    /// <summary>The most messages a look takes; null for no limit. The rest is carried over.</summary>
    public int? Cap { get; set; }
    public bool Paused { get; set; }

    /// <summary>Grows with each change of the settings above, so that whoever looks after the mailbox begins anew.</summary>
    public int Revision { get; set; }
    public DateTimeOffset ConnectedAt { get; set; }

    /// <summary>UIDVALIDITY under which the UIDs below count; 0 before the first look.</summary>
    public long UidValidity { get; set; }

    /// <summary>Every message up to this UID was dealt with.</summary>
    public long LastUid { get; set; }

    /// <summary>Messages below this UID were there before the mailbox was connected.</summary>
    public long FirstNewUid { get; set; }

    /// <summary>UIDVALIDITY has changed and what is already here is being recognised again, up to this UID; 0 otherwise.</summary>
    public long RecogniseUpTo { get; set; }
    public DateTimeOffset? LastLookAt { get; set; }
    public DateTimeOffset? NextLookAt { get; set; }

    /// <summary>How many messages the last look found and left for the next one.</summary>
    public int Behind { get; set; }

    /// <summary>Whether the server tells of new mail by itself just now (IDLE).</summary>
    public bool Pushed { get; set; }

    /// <summary>Failed tries in a row.</summary>
    public int Failures { get; set; }
    public string? Problem { get; set; }

    /// <summary>The server's words behind the problem.</summary>
    public string? ProblemDetail { get; set; }
    public DateTimeOffset? ProblemSince { get; set; }
}
