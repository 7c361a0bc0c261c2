using System.Net.Sockets;
using MailKit.Net.Smtp;
using MailKit.Security;
using PostTide.Mail.Listener;
using PostTide.StandIns.Saltmarrow;

namespace PostTide.StandIns;

/// <summary>
/// Lets fresh made-up mail come while the demo runs: into the mailboxes on the practice mail server, or straight to Post Tide where
/// an address has none.
/// </summary>
public sealed class Trickle(int smtpPort, PracticeMailHost host, TimeSpan every) : BackgroundService
{
    private readonly Generator _generator = new((int)(DateTime.UtcNow.Ticks % int.MaxValue));

    public bool Paused { get; set; } = every <= TimeSpan.Zero;

    /// <summary>Sends one message now.</summary>
    public async Task SendOneAsync(CancellationToken stop)
    {
        var mail = _generator.One(DateTimeOffset.UtcNow);
        var plain = mail.EnvelopeTo.Replace("+web", "", StringComparison.Ordinal);
        if (Office.MailboxOf(plain) is not null)
        {
            await host.KeepAsync(new ReceivedMail(Guid.NewGuid(), mail.EnvelopeFrom, [mail.EnvelopeTo], mail.ToBytes()), stop);
            return;
        }

        using var client = new SmtpClient();
        await client.ConnectAsync("127.0.0.1", smtpPort, SecureSocketOptions.None, stop);
        await client.SendAsync(
            mail.Message, mail.EnvelopeFrom.Length == 0 ? new MimeKit.MailboxAddress("", "") : MimeKit.MailboxAddress.Parse(mail.EnvelopeFrom),
            [MimeKit.MailboxAddress.Parse(mail.EnvelopeTo)], stop);
        await client.DisconnectAsync(quit: true, stop);
    }

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        using var timer = new PeriodicTimer(every > TimeSpan.Zero ? every : TimeSpan.FromDays(1));
        while (await timer.WaitForNextTickAsync(stoppingToken))
        {
            try
            {
                if (!Paused)
                {
                    await SendOneAsync(stoppingToken);
                }
            }
            catch (Exception e) when (e is SocketException or IOException or SmtpCommandException or SmtpProtocolException or InvalidOperationException)
            {
                // Post Tide is not listening just now; the next one will come.
            }
        }
    }
}
