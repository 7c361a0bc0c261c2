using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;
using PostTide.Core.Messages;
using PostTide.Store;

namespace PostTide.Engine.Planning;

/// <summary>
/// Prepares messages again that an earlier version prepared, from their raw bytes, so that every message can be asked everything.
/// Plans keep the version they point into.
/// </summary>
public sealed partial class PreparationUpgrade(IServiceScopeFactory scopes, ILogger<PreparationUpgrade> log) : BackgroundService
{
    private const int MessagesToABatch = 100;
    private static readonly TimeSpan AfterTrouble = TimeSpan.FromSeconds(10);

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                while (await UpgradeAsync(stoppingToken) > 0)
                {
                }

                return;
            }
            catch (Exception e) when (!stoppingToken.IsCancellationRequested)
            {
                LogTrouble(e);
                await Task.Delay(AfterTrouble, stoppingToken).ContinueWith(_ => { }, CancellationToken.None, TaskContinuationOptions.None, TaskScheduler.Default);
            }
            catch (OperationCanceledException)
            {
                return;
            }
        }
    }

    /// <summary>Prepares the next batch again and gives the number of messages; 0 when all are up to date.</summary>
    public async Task<int> UpgradeAsync(CancellationToken stop)
    {
        await using var scope = scopes.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<PostTideContext>();
        var rows = await db.Prepared.Where(p => p.Version < PreparedMessage.CurrentVersion).OrderBy(p => p.MessageId).Take(MessagesToABatch).ToListAsync(stop);
        var ids = rows.ConvertAll(r => r.MessageId);
        var messages = await db.Messages.AsNoTracking().Where(m => ids.Contains(m.Id)).ToDictionaryAsync(m => m.Id, stop);
        var hashes = messages.Values.Select(m => m.RawSha256).Distinct().ToArray();
        var raws = await db.Raws.AsNoTracking().Where(r => hashes.Contains(r.Sha256)).ToDictionaryAsync(r => r.Sha256, r => r.Bytes, stop);
        foreach (var row in rows)
        {
            var message = messages[row.MessageId];
            var again = PreparedRows.Read(message, raws[message.RawSha256]);
            row.Document = again.Prepared ?? row.Document with { Version = PreparedMessage.CurrentVersion };
            row.Words = again.Prepared is null ? row.Words : again.Words;
            row.Version = PreparedMessage.CurrentVersion;
        }

        await db.SaveChangesAsync(stop);
        return rows.Count;
    }

    [LoggerMessage(LogLevel.Warning, "Preparing older messages again was interrupted and will go on")]
    private partial void LogTrouble(Exception e);
}
