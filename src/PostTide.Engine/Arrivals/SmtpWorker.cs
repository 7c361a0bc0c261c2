using System.Net;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;
using Microsoft.Extensions.Options;
using PostTide.Mail.Listener;

namespace PostTide.Engine.Arrivals;

/// <summary>Runs the SMTP listener as long as the process runs.</summary>
public sealed partial class SmtpWorker(Arrivals arrivals, IOptions<EngineOptions> options, ILogger<SmtpWorker> log) : BackgroundService
{
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        var at = options.Value;
        if (at.SmtpPort == 0)
        {
            return;
        }

        var endpoint = new IPEndPoint(IPAddress.Parse(at.SmtpAddress), at.SmtpPort);
        var listener = new SmtpListener(new SmtpListenerOptions(endpoint, at.LargestMessage, "posttide"), arrivals, LogNotStored);
        LogListening(endpoint);
        await listener.RunAsync(stoppingToken);
    }

    [LoggerMessage(LogLevel.Information, "Taking mail over SMTP at {Endpoint}")]
    private partial void LogListening(IPEndPoint endpoint);

    [LoggerMessage(LogLevel.Error, "A message could not be stored; its sender was asked to try again")]
    private partial void LogNotStored(Exception e);
}
