using System.Net;
using PostTide.Mail.Listener;
using PostTide.StandIns;

var builder = WebApplication.CreateBuilder(args);
builder.Logging.SetMinimumLevel(LogLevel.Warning);
builder.Services.AddSingleton<PracticeMailHost>();
builder.Services.AddSingleton<PracticeApplication>();
builder.Services.AddSingleton(s => new Trickle(
    s.GetRequiredService<IConfiguration>().GetValue("StandIns:PostTideSmtpPort", 7125),
    TimeSpan.FromSeconds(s.GetRequiredService<IConfiguration>().GetValue("StandIns:TrickleSeconds", 45))));
builder.Services.AddHostedService(s => s.GetRequiredService<Trickle>());
builder.Services.AddHostedService(s => new PracticeListener(
    new SmtpListener(
        new SmtpListenerOptions(
            new IPEndPoint(IPAddress.Loopback, s.GetRequiredService<IConfiguration>().GetValue("StandIns:SmtpPort", 7126)), 50_000_000, "practice-mail-host"),
        s.GetRequiredService<PracticeMailHost>(),
        _ => { })));

var app = builder.Build();
app.MapPracticePages();
app.Run();

/// <summary>Runs the practice mail host's listener.</summary>
internal sealed class PracticeListener(SmtpListener listener) : BackgroundService
{
    protected override Task ExecuteAsync(CancellationToken stoppingToken) => listener.RunAsync(stoppingToken);
}
