using System.Net;
using System.Net.Sockets;
using MailKit;
using MailKit.Net.Imap;
using MailKit.Security;

namespace PostTide.Mail.Imap;

/// <summary>Opens mailboxes over IMAP (RFC 3501), step by step, so that a failure names its step.</summary>
public static class ImapConnector
{
    private static readonly TimeSpan ConnectTimeout = TimeSpan.FromSeconds(10);
    private const int AnswerTimeoutMilliseconds = 30_000;

    /// <summary>The mechanisms a password can be used with, the safest first.</summary>
    private static readonly string[] Mechanisms = ["SCRAM-SHA-512", "SCRAM-SHA-256", "SCRAM-SHA-1", "CRAM-MD5", "PLAIN", "LOGIN"];

    /// <summary>Connects, signs in and opens the folder.</summary>
    /// <param name="account">Where and as whom.</param>
    /// <param name="write">Whether flags may be changed; otherwise the folder is opened with EXAMINE and nothing can.</param>
    /// <param name="stop">Gives up.</param>
    /// <exception cref="MailboxTroubleException">A step failed.</exception>
    public static async Task<ImapSession> OpenAsync(ImapAccount account, bool write, CancellationToken stop)
    {
        var step = ConnectStep.Name;
        var tail = new ProtocolTail();
        var client = new ImapClient(tail) { Timeout = AnswerTimeoutMilliseconds };
        try
        {
            var addresses = await ResolveAsync(account.Host, stop);
            step = ConnectStep.Port;
            var socket = await ConnectAsync(addresses, account.Port, stop);
            step = ConnectStep.Tls;
            await client.ConnectAsync(socket, account.Host, account.Port, Secure(account.Tls), stop);
            step = ConnectStep.SignIn;
            await SignInAsync(client, account, stop);
            step = ConnectStep.Folder;
            var folder = await FindFolderAsync(client, account.Folder, stop);
            await folder.OpenAsync(write ? FolderAccess.ReadWrite : FolderAccess.ReadOnly, stop);
            return new ImapSession(client, (ImapFolder)folder, account, tail);
        }
        catch (Exception e) when (IsTrouble(e, stop))
        {
            client.Dispose();
            throw Trouble(step, account, tail, e);
        }
        catch
        {
            client.Dispose();
            throw;
        }
    }

    /// <summary>The folder by its full name, with the server's separator or “/”.</summary>
    internal static async Task<IMailFolder> FindFolderAsync(ImapClient client, string name, CancellationToken stop)
    {
        if (name.Equals("INBOX", StringComparison.OrdinalIgnoreCase))
        {
            return client.Inbox!;
        }

        var separator = client.PersonalNamespaces.Count > 0 ? client.PersonalNamespaces[0].DirectorySeparator : '/';
        return await client.GetFolderAsync(separator == '\0' ? name : name.Replace('/', separator), stop);
    }

    /// <summary>Trouble of the other side or on the way, not of our own and not a wish to stop.</summary>
    internal static bool IsTrouble(Exception e, CancellationToken stop) => e is not MailboxTroubleException
        && (e is SocketException or IOException or AuthenticationException or CommandException or ProtocolException or FolderNotFoundException
                or SslHandshakeException or ServiceNotConnectedException or ServiceNotAuthenticatedException or FolderNotOpenException
                or NotSupportedException or TimeoutException or ObjectDisposedException
            || (e is OperationCanceledException && !stop.IsCancellationRequested));

    internal static MailboxTroubleException Trouble(ConnectStep step, ImapAccount account, ProtocolTail tail, Exception e)
    {
        var at = $"{account.Host}:{account.Port}";
        var says = step switch
        {
            ConnectStep.Name => $"The name {account.Host} is not known: {e.Message}",
            ConnectStep.Port => $"Nothing answers at {at}: {e.Message}",
            ConnectStep.Tls => e is SslHandshakeException
                ? $"No private connection could be made with {at}; the certificate may not be valid for this name, or the port may not speak TLS"
                : account.Tls == MailTls.None ? $"What answers at {at} does not greet like an IMAP server: {e.Message}" : $"No private connection could be made with {at}: {e.Message}",
            ConnectStep.SignIn => e is AuthenticationException ? $"The server refused the user name or the password of {account.User}" : $"Signing in failed: {e.Message}",
            _ => e is FolderNotFoundException ? $"There is no folder “{account.Folder}” in this mailbox" : $"The connection to the mailbox failed: {e.Message}",
        };
        var said = e switch
        {
            ImapCommandException { ResponseText.Length: > 0 } command => $"{command.Response.ToString().ToUpperInvariant()} {command.ResponseText}",
            _ => tail.ToString(),
        };
        return new MailboxTroubleException(step, says, said, e);
    }

    private static async Task<IPAddress[]> ResolveAsync(string host, CancellationToken stop)
    {
        var addresses = await Dns.GetHostAddressesAsync(host, stop);
        return addresses.Length > 0 ? addresses : throw new SocketException((int)SocketError.HostNotFound);
    }

    private static async Task<Socket> ConnectAsync(IPAddress[] addresses, int port, CancellationToken stop)
    {
        using var limit = CancellationTokenSource.CreateLinkedTokenSource(stop);
        limit.CancelAfter(ConnectTimeout);
        var socket = new Socket(SocketType.Stream, ProtocolType.Tcp) { NoDelay = true };
        try
        {
            await socket.ConnectAsync(addresses, port, limit.Token);
            return socket;
        }
        catch (OperationCanceledException) when (!stop.IsCancellationRequested)
        {
            socket.Dispose();
            throw new TimeoutException($"no answer within {ConnectTimeout.TotalSeconds:0} seconds");
        }
        catch
        {
            socket.Dispose();
            throw;
        }
    }

    private static SecureSocketOptions Secure(MailTls tls) => tls switch
    {
        MailTls.Implicit => SecureSocketOptions.SslOnConnect,
        MailTls.StartTls => SecureSocketOptions.StartTls,
        _ => SecureSocketOptions.None,
    };

    /// <summary>Signs in with one mechanism: a wrong password tried by several in turn is slow, and some servers then close the account.</summary>
    private static async Task SignInAsync(ImapClient client, ImapAccount account, CancellationToken stop)
    {
        var offered = client.AuthenticationMechanisms;
        var chosen = Mechanisms.FirstOrDefault(offered.Contains);
        offered.Clear();
        if (chosen is not null)
        {
            offered.Add(chosen);
        }

        if (chosen is not null && SaslMechanism.Create(chosen, new NetworkCredential(account.User, account.Password)) is { } mechanism)
        {
            await client.AuthenticateAsync(mechanism, stop);
            return;
        }

        // No mechanism is left that takes a password, so the library uses the LOGIN command where the server allows it.
        await client.AuthenticateAsync(account.User, account.Password, stop);
    }
}
