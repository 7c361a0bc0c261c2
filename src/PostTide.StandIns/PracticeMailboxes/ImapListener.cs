using System.Net;
using System.Net.Sockets;

namespace PostTide.StandIns.PracticeMailboxes;

/// <summary>Listens for IMAP clients on loopback.</summary>
public sealed partial class ImapListener(int port, PracticeStore store, Misbehaviour wrong, ILogger<ImapListener> log) : BackgroundService
{
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        if (port == 0)
        {
            return;
        }

        using var listener = new TcpListener(IPAddress.Loopback, port);
        listener.Start();
        try
        {
            while (!stoppingToken.IsCancellationRequested)
            {
                _ = ServeAsync(await listener.AcceptTcpClientAsync(stoppingToken), stoppingToken);
            }
        }
        catch (OperationCanceledException) when (stoppingToken.IsCancellationRequested)
        {
            // Stopped.
        }
    }

    private async Task ServeAsync(TcpClient client, CancellationToken stop)
    {
        try
        {
            using (client)
            using (var conversation = new ImapConversation(client, store, wrong))
            {
                await conversation.RunAsync(stop);
            }
        }
        catch (Exception e) when (e is IOException or SocketException or OperationCanceledException or ObjectDisposedException)
        {
            // The client has gone, or was sent away.
        }
        catch (Exception e)
        {
            LogFailed(e);
        }
    }

    [LoggerMessage(LogLevel.Error, "A practice IMAP conversation failed")]
    private partial void LogFailed(Exception e);
}
