using JasperFx.Resources;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.Extensions.Configuration;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Options;
using PostTide.Destinations;
using PostTide.Engine.Arrivals;
using PostTide.Engine.CatchUps;
using PostTide.Engine.Deeds;
using PostTide.Engine.Mailboxes;
using PostTide.Engine.Planning;
using PostTide.Engine.Rehearsals;
using PostTide.Engine.Sorting;
using PostTide.Mail;
using PostTide.Store;
using Wolverine;
using Wolverine.EntityFrameworkCore;
using Wolverine.ErrorHandling;
using Wolverine.Postgresql;

namespace PostTide.Engine;

/// <summary>Puts the engine together.</summary>
public static class EngineServices
{
    /// <summary>The schema of the messaging library's own tables.</summary>
    private const string MessagingSchema = "messaging";

    private static readonly TimeSpan DestinationTimeout = TimeSpan.FromSeconds(15);

    /// <summary>What every process needs that plans mail, whatever becomes of the outside deeds.</summary>
    public static IServiceCollection AddPlanning(this IServiceCollection services, IConfiguration configuration)
    {
        services.Configure<EngineOptions>(configuration.GetSection(EngineOptions.Section));
        var folder = configuration.GetSection(EngineOptions.Section)[nameof(EngineOptions.DataFolder)] ?? "data";
        services.AddDataProtection().PersistKeysToFileSystem(new DirectoryInfo(Path.Combine(folder, "keys"))).SetApplicationName("posttide");
        services.AddSingleton<MailboxSecrets>();
        services.AddSingleton(TimeProvider.System);
        services.AddSingleton<ArrivalSignal>();
        services.AddSingleton<AddressBook>();
        services.AddSingleton<Arrivals.Arrivals>();
        services.AddSingleton<SorterLibrary>();
        services.AddSingleton<PlanningSetup>();
        services.AddSingleton<FreshMail>();
        services.AddSingleton<BatchPlanner>();
        services.AddSingleton(s => new FileStore(Path.Combine(s.GetRequiredService<IOptions<EngineOptions>>().Value.DataFolder, "files")));
        services.AddScoped<DeedRecorder>();
        return services;
    }

    /// <summary>The whole engine: mail comes in, is planned, and its deeds are carried out.</summary>
    public static IHostApplicationBuilder AddEngine(this IHostApplicationBuilder builder)
    {
        var database = builder.Configuration.GetSection(EngineOptions.Section)[nameof(EngineOptions.Database)] ?? "";
        builder.Services.AddPlanning(builder.Configuration);
        builder.Services.AddScoped<IDeedOutbox, DurableOutbox>();
        builder.Services.AddScoped<DeedsByHand>();
        builder.Services.AddScoped<DeedDesk>();
        builder.Services.AddSingleton<Uploads>();
        builder.Services.AddSingleton<OutsideDeeds>();
        builder.Services.AddSingleton<MailboxEffects>();
        builder.Services.AddSingleton<MailboxLook>();
        builder.Services.AddScoped<CatchUpRuns>();
        builder.Services.AddSingleton<CatchUpSteps>();
        builder.Services.AddSingleton<PreparedMail>();
        builder.Services.AddSingleton<TrainingProgress>();
        builder.Services.AddScoped<SorterLabels>();
        builder.Services.AddScoped<SorterNumbers>();
        builder.Services.AddSingleton<SorterLooks>();
        builder.Services.AddSingleton<OutsideSecrets>();
        builder.Services.AddSingleton<OutsideAsker>();
        builder.Services.AddSingleton<Rehearsals.Rehearsals>();
        builder.Services.AddSingleton<Rehearsals.WorkflowHelp>();
        builder.Services.AddSingleton(s => new MailSender(MailHostOf(s.GetRequiredService<IOptions<EngineOptions>>().Value)));
        builder.Services.AddHttpClient(OutsideDeeds.HttpClientName, http => http.Timeout = DestinationTimeout)
            .ConfigurePrimaryHttpMessageHandler(HttpDestination.Handler);
        builder.Services.AddHttpClient(OutsideAsker.HttpClientName).ConfigurePrimaryHttpMessageHandler(HttpDestination.Handler);
        builder.Services.AddHostedService<PlanningWorker>();
        builder.Services.AddHostedService<PreparationUpgrade>();
        builder.Services.AddHostedService<SmtpWorker>();
        builder.Services.AddHostedService<MailboxKeeper>();
        builder.Services.AddHostedService<CatchUpWorker>();
        builder.Services.AddHostedService<TrainingWorker>();
        builder.Services.AddHostedService<UploadWorker>();
        builder.Services.AddDbContextWithWolverineIntegration<PostTideContext>(o => PostTideContext.Configure(o, database), MessagingSchema);
        builder.UseWolverine(o => Configure(o, database));
        builder.Services.AddResourceSetupOnStartup();
        return builder;
    }

    private static MailHost MailHostOf(EngineOptions options) => new(options.MailHost, options.MailHostPort);

    private static void Configure(WolverineOptions options, string database)
    {
        options.ApplicationAssembly = typeof(EngineServices).Assembly;
        options.PersistMessagesWithPostgresql(database, MessagingSchema);
        options.UseEntityFrameworkCoreTransactions();
        options.Policies.UseDurableLocalQueues();
        options.Policies.AllLocalQueues(q => q.MaximumParallelMessages(4));

        // A killed server's deeds are taken up again within seconds; the defaults wait for over a minute.
        options.Durability.StaleNodeTimeout = TimeSpan.FromSeconds(5);
        options.Durability.HealthCheckPollingTime = TimeSpan.FromSeconds(1);
        options.Durability.ScheduledJobPollingTime = TimeSpan.FromSeconds(1);

        // Failures of the other side are recorded on the deed, which hands the next try over itself. What ends here is
        // trouble of our own, such as the database being away.
        options.OnException<DeedBusyException>().ScheduleRetry(TimeSpan.FromSeconds(5), TimeSpan.FromSeconds(30), TimeSpan.FromMinutes(2), TimeSpan.FromMinutes(10));
        options.OnAnyException().ScheduleRetry(
            TimeSpan.FromSeconds(1), TimeSpan.FromSeconds(5), TimeSpan.FromSeconds(30), TimeSpan.FromMinutes(2), TimeSpan.FromMinutes(10), TimeSpan.FromHours(1));
    }
}
