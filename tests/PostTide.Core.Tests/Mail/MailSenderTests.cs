using System.Net;
using System.Net.Sockets;
using MimeKit;
using PostTide.Mail;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Mail;

/// <summary>Sending against a host that says exactly what the test tells it to (RFC 5321).</summary>
public sealed class MailSenderTests
{
    private static MimeMessage Message()
    {
        var message = new MimeMessage { Subject = "x", Body = new TextPart("plain") { Text = "x" } };
        message.From.Add(new MailboxAddress("", "a@b.example"));
        message.To.Add(new MailboxAddress("", "c@d.example"));
        return message;
    }

    /// <summary>A host that gives these answers in turn, one to each line or message it gets, and then hangs up.</summary>
    private static async Task<string> SendAsync(params string[] answers)
    {
        using var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        var host = Task.Run(async () =>
        {
            using var client = await listener.AcceptTcpClientAsync();
            await using var stream = client.GetStream();
            using var reader = new StreamReader(stream);
            var data = false;
            foreach (var answer in answers)
            {
                await stream.WriteAsync(System.Text.Encoding.ASCII.GetBytes(answer + "\r\n"));
                while (await reader.ReadLineAsync() is { } line && data && line != ".")
                {
                }

                data = answer.StartsWith("354", StringComparison.Ordinal);
                if (data)
                {
                    while (await reader.ReadLineAsync() is { } line && line != ".")
                    {
                    }

                    data = false;
                }
            }
        });
        var port = ((IPEndPoint)listener.LocalEndpoint).Port;
        return await new MailSender(new MailHost("127.0.0.1", port)).SendAsync(Message(), CancellationToken.None);
    }

    [Fact]
    public async Task A_refusal_for_good_is_final()
    {
        var error = await Should.ThrowAsync<SendFailedException>(SendAsync("220 ready", "250 hello", "250 ok", "550 no such user"));
        (error.Final, error.Uncertain).ShouldBe((true, false));
        error.Message.ShouldContain("550");
    }

    [Fact]
    public async Task A_refusal_for_now_is_tried_again()
    {
        var error = await Should.ThrowAsync<SendFailedException>(SendAsync("220 ready", "250 hello", "250 ok", "451 try later"));
        (error.Final, error.Uncertain).ShouldBe((false, false));
    }

    [Fact]
    public async Task A_connection_that_breaks_before_the_answer_leaves_it_uncertain()
    {
        var error = await Should.ThrowAsync<SendFailedException>(SendAsync("220 ready", "250 hello", "250 ok", "250 ok", "354 go on"));
        (error.Final, error.Uncertain).ShouldBe((false, true));
    }

    [Fact]
    public async Task A_host_that_is_not_there_leaves_nothing_uncertain()
    {
        using var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        var port = ((IPEndPoint)listener.LocalEndpoint).Port;
        listener.Stop();
        var error = await Should.ThrowAsync<SendFailedException>(new MailSender(new MailHost("127.0.0.1", port)).SendAsync(Message(), CancellationToken.None));
        (error.Final, error.Uncertain).ShouldBe((false, false));
    }
}
