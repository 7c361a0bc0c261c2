using PostTide.Core.Messages;

namespace PostTide.Store.Records;

/// <summary>Where mail comes in. Its addresses deliver into it.</summary>
public sealed class Mailbox
{
    public long Id { get; set; }
    public required string Name { get; set; }
    public List<MailboxAddress> Addresses { get; set; } = [];

    /// <summary>The IMAP mailbox it is read from; null when mail only comes to it by SMTP and uploads.</summary>
    public Connection? Connection { get; set; }

    /// <summary>Who may write to it; null for everybody. Mail of others is held.</summary>
    public ApprovalPolicy? Approval { get; set; }
}

/// <summary>An address whose mail is accepted, together with its sub-addresses (RFC 5233).</summary>
public sealed class MailboxAddress
{
    public long Id { get; set; }
    public long MailboxId { get; set; }

    /// <summary>The address in lower case; no two mailboxes share one.</summary>
    public required string Address { get; set; }

    /// <summary>What the address is for, in a few words; may be empty.</summary>
    public string Name { get; set; } = "";
}

/// <summary>An address or domain that is never written to.</summary>
public sealed class DoNotMailEntry
{
    public long Id { get; set; }

    /// <summary>An address or a bare domain, in lower case.</summary>
    public required string AddressOrDomain { get; set; }
    public DateTimeOffset AddedAt { get; set; }
}
