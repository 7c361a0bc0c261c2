using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;
using Npgsql;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Engine.Arrivals;

/// <summary>Takes in uploads whose file has come, one after another, and goes on with those a restart cut off.</summary>
public sealed partial class UploadWorker(Uploads uploads, IServiceScopeFactory scopes, TimeProvider clock, ILogger<UploadWorker> log) : BackgroundService
{
    private static readonly TimeSpan LookAgain = TimeSpan.FromMilliseconds(300);

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                if (await NextAsync(stoppingToken) is { } id)
                {
                    await TakeInAsync(id, stoppingToken);
                }
                else
                {
                    await Task.Delay(LookAgain, clock, stoppingToken);
                }
            }
            catch (OperationCanceledException) when (stoppingToken.IsCancellationRequested)
            {
                return;
            }
            catch (Exception e)
            {
                LogTrouble(e);
                await Task.Delay(LookAgain * 3, clock, stoppingToken);
            }
        }
    }

    private async Task<Guid?> NextAsync(CancellationToken stop)
    {
        await using var scope = scopes.CreateAsyncScope();
        return await scope.ServiceProvider.GetRequiredService<PostTideContext>().Uploads
            .Where(u => u.State == UploadState.TakingIn).OrderBy(u => u.StartedAt).Select(u => (Guid?)u.Id).FirstOrDefaultAsync(stop);
    }

    private async Task TakeInAsync(Guid id, CancellationToken stop)
    {
        try
        {
            await uploads.TakeInAsync(id, stop);
        }
        catch (Exception e) when (e is not (OperationCanceledException or NpgsqlException { IsTransient: true }) && e.GetBaseException() is not NpgsqlException { IsTransient: true })
        {
            LogFailed(e);
            await uploads.EndAsync(id, UploadState.Failed, $"It could not be finished: {e.GetBaseException().Message}", stop);
        }
    }

    [LoggerMessage(LogLevel.Warning, "An upload was interrupted and will go on")]
    private partial void LogTrouble(Exception e);

    [LoggerMessage(LogLevel.Warning, "An upload could not be finished")]
    private partial void LogFailed(Exception e);
}
