using Microsoft.AspNetCore.SignalR;
using Microsoft.Extensions.Options;
using Npgsql;
using PostTide.Engine;

namespace PostTide.Server.Live;

/// <summary>The connection over which pages hear that something has changed. They then ask for it themselves.</summary>
public sealed class LiveHub : Hub;

/// <summary>Listens to the database's notices and passes them to every open page.</summary>
internal sealed partial class LiveUpdates(IHubContext<LiveHub> hub, IOptions<EngineOptions> options, ILogger<LiveUpdates> log) : BackgroundService
{
    /// <summary>Notices within this time go out together: a burst of mail is one update.</summary>
    private static readonly TimeSpan Gather = TimeSpan.FromMilliseconds(150);
    private static readonly TimeSpan AfterTrouble = TimeSpan.FromSeconds(1);

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                await ListenAsync(stoppingToken);
            }
            catch (OperationCanceledException) when (stoppingToken.IsCancellationRequested)
            {
                return;
            }
            catch (Exception e)
            {
                LogLost(e);
                await Task.Delay(AfterTrouble, stoppingToken);
            }
        }
    }

    private async Task ListenAsync(CancellationToken stop)
    {
        await using var connection = new NpgsqlConnection(options.Value.Database);
        var changed = new HashSet<string>(StringComparer.Ordinal);
        connection.Notification += (_, e) => changed.UnionWith(e.Payload.Split(','));
        await connection.OpenAsync(stop);
        await using (var listen = new NpgsqlCommand($"LISTEN {Changes.Channel}", connection))
        {
            await listen.ExecuteNonQueryAsync(stop);
        }

        while (true)
        {
            await connection.WaitAsync(stop);
            await Task.Delay(Gather, stop);
            while (await connection.WaitAsync(TimeSpan.FromMilliseconds(1), stop))
            {
            }

            var places = changed.ToArray();
            changed.Clear();
            await hub.Clients.All.SendAsync("changed", places, stop);
        }
    }

    [LoggerMessage(LogLevel.Warning, "The connection that hears of changes was lost and is made again")]
    private partial void LogLost(Exception e);
}
