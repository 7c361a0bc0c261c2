using System.Net;
using PostTide.Mail.Listener;
using PostTide.StandIns;
using PostTide.StandIns.PracticeMailboxes;

var builder = WebApplication.CreateBuilder(args);
builder.Logging.SetMinimumLevel(LogLevel.Warning);
builder.Services.AddSingleton<Misbehaviour>();
builder.Services.AddSingleton(s =>
{
    var store = new PracticeStore(s.GetRequiredService<IConfiguration>()["StandIns:MailFolder"]);
    store.OpenAll();
    return store;
});
builder.Services.AddHostedService(s => new ImapListener(
    s.GetRequiredService<IConfiguration>().GetValue("StandIns:ImapPort", 7143), s.GetRequiredService<PracticeStore>(), s.GetRequiredService<Misbehaviour>(),
    s.GetRequiredService<ILogger<ImapListener>>()));
builder.Services.AddSingleton<PracticeMailHost>();
builder.Services.AddSingleton<PracticeApplication>();
builder.Services.AddSingleton<PracticeSorter>();
builder.Services.AddSingleton(s => new Trickle(
    s.GetRequiredService<IConfiguration>().GetValue("StandIns:PostTideSmtpPort", 7125),
    s.GetRequiredService<PracticeMailHost>(),
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
