using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Configuration;
using Microsoft.Extensions.DependencyInjection;
using PostTide.Cli;
using PostTide.Cli.Demo;
using PostTide.Cli.Sorters;
using PostTide.Core.Formats;
using PostTide.Engine;
using PostTide.Engine.Deeds;
using PostTide.Store;

switch (args)
{
    // These need neither a server nor a database.
    case ["rehearse", .. var rehearsal]:
        return await Rehearse.RunAsync(rehearsal, Console.Out, Console.Error);
    case ["sorter", .. var sorter]:
        return await SorterCommand.RunAsync(sorter, Console.Out, Console.Error);
    case ["schema"]:
        Console.Write(WorkflowFile.Schema());
        return 0;
}

// The database and the data folder come from the same settings as the server's: PostTide__Database, PostTide__DataFolder.
var configuration = new ConfigurationBuilder().AddEnvironmentVariables().Build();
var services = new ServiceCollection();
services.AddLogging();
services.AddSingleton<IConfiguration>(configuration);
services.AddPlanning(configuration);
services.AddDbContext<PostTideContext>(o => PostTideContext.Configure(o, configuration["PostTide:Database"] ?? ""));
services.AddScoped<IDeedOutbox, HistoryOutbox>();
services.AddPeopleStore();
services.AddSingleton<DemoLoader>();
await using var provider = services.BuildServiceProvider();

switch (args)
{
    case ["migrate"]:
        await using (var scope = provider.CreateAsyncScope())
        {
            await scope.ServiceProvider.GetRequiredService<PostTideContext>().Database.MigrateAsync();
        }

        return 0;
    case ["demo", "load", .. var rest]:
        var messages = rest is ["--messages", var number] ? int.Parse(number, System.Globalization.CultureInfo.InvariantCulture) : 2_000;
        var places = new DemoPlaces(
            configuration["PostTide:PracticeAddress"] ?? "http://127.0.0.1:7181", configuration.GetValue("PostTide:PracticeImapPort", 0), configuration["StandIns:MailFolder"]);
        await provider.GetRequiredService<DemoLoader>().LoadAsync(messages, places, Console.WriteLine, CancellationToken.None);
        return 0;
    default:
        Console.Error.WriteLine("Usage: rehearse … | sorter … | schema | migrate | demo load [--messages N]");
        return 2;
}
