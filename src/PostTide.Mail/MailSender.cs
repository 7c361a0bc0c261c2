using System.Net.Sockets;
using MailKit;
using MailKit.Net.Smtp;
using MailKit.Security;
using MimeKit;

namespace PostTide.Mail;

/// <summary>Where outgoing mail is handed over.</summary>
public sealed record MailHost(string Host, int Port);

/// <summary>Sending failed.</summary>
/// <param name="why">What happened, in a sentence.</param>
/// <param name="uncertain">The message was handed over but the answer was lost: it may have been accepted.</param>
/// <param name="final">The host refused for good (RFC 5321 §4.2.1, 5yz); trying again will not help.</param>
/// <param name="inner">What went wrong underneath.</param>
public sealed class SendFailedException(string why, bool uncertain, bool final, Exception inner) : Exception(why, inner)
{
    public bool Uncertain { get; } = uncertain;
    public bool Final { get; } = final;
}

/// <summary>Hands mail to a mail host over SMTP.</summary>
public sealed class MailSender(MailHost host)
{
    private const int TimeoutMilliseconds = 20_000;

    /// <summary>Sends one message and gives the host's answer.</summary>
    /// <exception cref="SendFailedException">It was refused, or the host could not be reached.</exception>
    public async Task<string> SendAsync(MimeMessage message, CancellationToken stop)
    {
        using var client = new SmtpClient { Timeout = TimeoutMilliseconds };
        var handedOver = false;
        try
        {
            await client.ConnectAsync(host.Host, host.Port, SecureSocketOptions.None, stop);
            handedOver = true;
            var answer = await client.SendAsync(message, stop);
            handedOver = false;
            await client.DisconnectAsync(quit: true, CancellationToken.None);
            return answer;
        }
        catch (SmtpCommandException e)
        {
            throw new SendFailedException(
                $"The mail host answered {(int)e.StatusCode}: {e.Message}", uncertain: false, final: (int)e.StatusCode >= 500, e);
        }
        catch (Exception e) when (e is SocketException or IOException or ProtocolException or SmtpProtocolException or TimeoutException or ServiceNotConnectedException)
        {
            var why = handedOver ? "The connection to the mail host broke before it answered" : "The mail host could not be reached";
            throw new SendFailedException($"{why}: {e.Message}", handedOver, final: false, e);
        }
    }
}
