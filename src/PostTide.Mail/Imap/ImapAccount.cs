namespace PostTide.Mail.Imap;

/// <summary>How a connection is made private.</summary>
public enum MailTls
{
    /// <summary>Not at all: only for a server on the same machine or a network of one's own.</summary>
    None,

    /// <summary>By STARTTLS on the plain port (RFC 3501 §6.2.1); refused when the server does not offer it.</summary>
    StartTls,

    /// <summary>From the first byte, port 993 (RFC 8314).</summary>
    Implicit,
}

/// <summary>Where a mailbox lies and how to sign in.</summary>
public sealed record ImapAccount(string Host, int Port, MailTls Tls, string User, string Password, string Folder);

/// <summary>The steps by which a mailbox is reached, in order.</summary>
public enum ConnectStep
{
    Name,
    Port,
    Tls,
    SignIn,
    Folder,
}

/// <summary>A mailbox could not be reached or used.</summary>
/// <param name="step">The step that failed.</param>
/// <param name="says">What happened, in a sentence.</param>
/// <param name="serverSaid">The server's own words, or what the protocol carried last; empty when there is nothing.</param>
/// <param name="inner">What went wrong underneath.</param>
public sealed class MailboxTroubleException(ConnectStep step, string says, string serverSaid, Exception? inner = null) : Exception(says, inner)
{
    public ConnectStep Step { get; } = step;
    public string ServerSaid { get; } = serverSaid;
}

/// <summary>A message as a server holds it, before its bytes are read.</summary>
/// <param name="Uid">Its UID under the folder's UIDVALIDITY.</param>
/// <param name="Size">RFC822.SIZE in bytes; only the server's word.</param>
/// <param name="ArrivedAt">INTERNALDATE.</param>
public sealed record ListedMail(uint Uid, long Size, DateTimeOffset ArrivedAt);

/// <summary>A message as fetched.</summary>
/// <param name="Listed">What the server says about it.</param>
/// <param name="Bytes">The bytes; only the header when <paramref name="TooLarge"/>.</param>
/// <param name="TooLarge">Larger than what is taken, so that only its header was fetched.</param>
public sealed record FetchedMail(ListedMail Listed, byte[] Bytes, bool TooLarge);
