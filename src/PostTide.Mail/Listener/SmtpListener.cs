using System.Buffers;
using System.Net;
using SmtpServer;
using SmtpServer.ComponentModel;
using SmtpServer.Mail;
using SmtpServer.Net;
using SmtpServer.Protocol;
using SmtpServer.Storage;

namespace PostTide.Mail.Listener;

/// <summary>A message as it came in over SMTP.</summary>
/// <param name="TransactionId">One id for each accepted transaction.</param>
/// <param name="From">MAIL FROM, empty for the null path.</param>
/// <param name="Recipients">RCPT TO, those that were accepted.</param>
/// <param name="Bytes">The bytes as received.</param>
/// <param name="ConnectingHost">The IP address of the host that handed it over.</param>
public sealed record ReceivedMail(Guid TransactionId, string From, IReadOnlyList<string> Recipients, byte[] Bytes, string? ConnectingHost = null);

/// <summary>What the listener asks of whoever keeps the mail.</summary>
public interface IMailIntake
{
    /// <summary>Whether mail to this address is taken; otherwise it is refused with 550 at RCPT.</summary>
    Task<bool> AcceptsAsync(string address, CancellationToken stop);

    /// <summary>Keeps a message. Only when this returns is the sender told that it was accepted.</summary>
    Task KeepAsync(ReceivedMail mail, CancellationToken stop);
}

/// <summary>Where to listen and how much to take.</summary>
/// <param name="Endpoint">The address and port.</param>
/// <param name="LargestMessage">In bytes; more is refused with 552.</param>
/// <param name="ServerName">The name in the greeting.</param>
public sealed record SmtpListenerOptions(IPEndPoint Endpoint, int LargestMessage, string ServerName);

/// <summary>Listens for mail over SMTP (RFC 5321).</summary>
public sealed class SmtpListener
{
    private readonly SmtpServer.SmtpServer _server;

    public SmtpListener(SmtpListenerOptions options, IMailIntake intake, Action<Exception> onFault)
    {
        var services = new ServiceProvider();
        services.Add(new Store(intake, onFault));
        services.Add((IMailboxFilterFactory)new DelegatingMailboxFilterFactory(_ => new Filter(intake)));
        services.Add((IEndpointListenerFactory)new NoDelayListenerFactory());
        _server = new SmtpServer.SmtpServer(
            new SmtpServerOptionsBuilder()
                .ServerName(options.ServerName)
                .Endpoint(e => e.Endpoint(options.Endpoint))
                .MaxMessageSize(options.LargestMessage, MaxMessageSizeHandling.Strict)
                .MaxRetryCount(20)
                .Build(),
            services);
    }

    /// <summary>Listens until stopped.</summary>
    public Task RunAsync(CancellationToken stop) => _server.StartAsync(stop);

    private static string Text(IMailbox mailbox) =>
        string.IsNullOrEmpty(mailbox.User) && string.IsNullOrEmpty(mailbox.Host) ? "" : $"{mailbox.User}@{mailbox.Host}";

    private sealed class Filter(IMailIntake intake) : MailboxFilter
    {
        public override Task<bool> CanDeliverToAsync(ISessionContext context, IMailbox to, IMailbox from, CancellationToken stop) =>
            intake.AcceptsAsync(Text(to), stop);
    }

    private sealed class Store(IMailIntake intake, Action<Exception> onFault) : MessageStore
    {
        public override async Task<SmtpResponse> SaveAsync(
            ISessionContext context, IMessageTransaction transaction, ReadOnlySequence<byte> buffer, CancellationToken stop)
        {
            try
            {
                var recipients = transaction.To.Select(Text).ToList();
                context.Properties.TryGetValue(EndpointListener.RemoteEndPointKey, out var remote);
                var host = (remote as IPEndPoint)?.Address.ToString();
                await intake.KeepAsync(new ReceivedMail(Guid.NewGuid(), Text(transaction.From), recipients, buffer.ToArray(), host), stop);
                return SmtpResponse.Ok;
            }
            catch (Exception e) when (e is not OutOfMemoryException)
            {
                // 4yz: the sender keeps the message and tries again (RFC 5321 §4.2.1). Nothing is lost.
                onFault(e);
                return new SmtpResponse(SmtpReplyCode.Aborted, "the message could not be stored just now, try again later");
            }
        }
    }
}
