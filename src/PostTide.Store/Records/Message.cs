using NpgsqlTypes;
using PostTide.Core.Messages;

namespace PostTide.Store.Records;

/// <summary>The bytes of a message as received. Never changed.</summary>
public sealed class Raw
{
    /// <summary>SHA-256 of the bytes, lower-case hexadecimal.</summary>
    public required string Sha256 { get; set; }
    public required byte[] Bytes { get; set; }
}

/// <summary>How far a message has come.</summary>
public enum MessageState
{
    /// <summary>Stored, not yet decided on.</summary>
    Arrived,

    /// <summary>Decided on; its plan and deeds are recorded.</summary>
    Planned,

    /// <summary>Kept back: its sender is not approved. A person releases it or leaves it.</summary>
    Held,

    /// <summary>It could not be read as mail; the bytes are kept and <see cref="Message.Problem"/> says why.</summary>
    Unreadable,
}

/// <summary>One arrival in one mailbox. Holds what lists show; the text is in <see cref="Prepared"/>.</summary>
public sealed class Message
{
    public long Id { get; set; }
    public long MailboxId { get; set; }

    /// <summary>What makes the arrival one of its kind in its mailbox: its place there, the SMTP transaction, or the content of an uploaded file.</summary>
    public required string SourceKey { get; set; }
    public required string RawSha256 { get; set; }
    public long Size { get; set; }

    /// <summary>When it reached the office: INTERNALDATE of a connected mailbox, otherwise when Post Tide took it.</summary>
    public DateTimeOffset ArrivedAt { get; set; }

    /// <summary>When Post Tide stored it.</summary>
    public DateTimeOffset TakenAt { get; set; }

    /// <summary>The look or upload that took it; null for mail that came by SMTP.</summary>
    public long? RunId { get; set; }

    /// <summary>Where it lies now when a deed has moved it within its mailbox; null for where it was read.</summary>
    public string? MovedTo { get; set; }

    /// <summary>It was there before the mailbox was connected, or was brought in as old mail: workflows see it only in a catch-up run.</summary>
    public bool Old { get; set; }

    /// <summary>The IP address of the host that handed it over by SMTP.</summary>
    public string? ConnectingHost { get; set; }

    /// <summary>What was found out about its sender, where only approved senders may write.</summary>
    public string? SenderCheck { get; set; }

    /// <summary>Who released it after it was held.</summary>
    public string? ReleasedBy { get; set; }

    /// <summary>MAIL FROM; empty for the null path, null when not known.</summary>
    public string? EnvelopeFrom { get; set; }
    public string[] EnvelopeTo { get; set; } = [];
    public MessageState State { get; set; }
    public string? Problem { get; set; }
    public DateTimeOffset? PlannedAt { get; set; }

    /// <summary>The Message-ID field without angle brackets, or empty.</summary>
    public string MailId { get; set; } = "";
    public long? ConversationId { get; set; }

    /// <summary>The earlier arrival with the same Message-ID and sender in the same mailbox; such a copy is not planned again.</summary>
    public long? DuplicateOfId { get; set; }
    public string SenderName { get; set; } = "";
    public string SenderAddress { get; set; } = "";
    public string Subject { get; set; } = "";
    public int AttachmentCount { get; set; }
    public AutomaticKind? Automatic { get; set; }

    /// <summary>Whether any workflow took it in.</summary>
    public bool TakenIn { get; set; }
}

/// <summary>A message's text made ready for matching, and what searches look at.</summary>
public sealed class Prepared
{
    public long MessageId { get; set; }
    public int Version { get; set; }

    /// <summary>The whole prepared message.</summary>
    public required PreparedMessage Document { get; set; }
    public DateTimeOffset ArrivedAt { get; set; }
    public required string Subject { get; set; }
    public required string Sender { get; set; }

    /// <summary>The words of subject, sender, attachment names and new part as searches look for them, cut to what an index takes.</summary>
    public required string Words { get; set; }
    public NpgsqlTsVector Search { get; set; } = null!;
}

/// <summary>A Message-ID that was seen, in a message or in its references, and the conversation it belongs to.</summary>
public sealed class ConversationId
{
    public required string MailId { get; set; }
    public long Conversation { get; set; }
}
