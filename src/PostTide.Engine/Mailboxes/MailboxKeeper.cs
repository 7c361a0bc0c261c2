using System.Collections.Concurrent;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;
using Microsoft.Extensions.Options;
using Npgsql;
using PostTide.Store;

namespace PostTide.Engine.Mailboxes;

/// <summary>
/// Has every connected mailbox looked after by one process at a time. The claim is a lock of a database session: it goes with the
/// process that holds it, so that another takes over within a second or two of its end.
/// </summary>
public sealed partial class MailboxKeeper(
    IServiceScopeFactory scopes, MailboxLook look, MailboxSecrets secrets, MailboxEffects effects, IOptions<EngineOptions> options, TimeProvider clock,
    ILogger<MailboxKeeper> log) : BackgroundService
{
    private const long ClaimLock = 0x6d61_696c_0000_0000;
    private static readonly TimeSpan Every = TimeSpan.FromSeconds(1);
    private readonly ConcurrentDictionary<long, (MailboxWatcher Watcher, int Revision, CancellationTokenSource Stop, Task Running)> _watched = new();
    private NpgsqlConnection? _claims;

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        using var timer = new PeriodicTimer(Every, clock);
        try
        {
            do
            {
                try
                {
                    await TendAsync(stoppingToken);
                    await effects.CloseIdleAsync();
                }
                catch (Exception e) when (!stoppingToken.IsCancellationRequested)
                {
                    // The claims went with the connection: whoever has them now looks after the mailboxes.
                    LogTrouble(e);
                    await ReleaseAllAsync();
                }
            }
            while (await timer.WaitForNextTickAsync(stoppingToken));
        }
        catch (OperationCanceledException) when (stoppingToken.IsCancellationRequested)
        {
            // Stopped.
        }
        finally
        {
            await ReleaseAllAsync();
        }
    }

    private async Task TendAsync(CancellationToken stop)
    {
        await using var scope = scopes.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<PostTideContext>();
        var wanted = await db.Connections.AsNoTracking().Where(c => !c.Paused).Select(c => new { c.MailboxId, c.Revision, c.NextLookAt, c.LastLookAt }).ToListAsync(stop);
        await CheckClaimsAsync(stop);
        foreach (var (id, watched) in _watched)
        {
            if (wanted.All(w => w.MailboxId != id || w.Revision != watched.Revision) || watched.Running.IsCompleted)
            {
                await ReleaseAsync(id, stop);
            }
        }

        foreach (var connection in wanted)
        {
            if (_watched.TryGetValue(connection.MailboxId, out var watched))
            {
                if (connection.NextLookAt <= clock.GetUtcNow() && connection.NextLookAt > connection.LastLookAt)
                {
                    watched.Watcher.Wake();
                }
            }
            else if (await ClaimAsync(connection.MailboxId, stop))
            {
                Watch(connection.MailboxId, connection.Revision, stop);
            }
        }
    }

    private void Watch(long id, int revision, CancellationToken stop)
    {
        var watcher = new MailboxWatcher(id, scopes, look, secrets, options, clock, log);
        var own = CancellationTokenSource.CreateLinkedTokenSource(stop);
        _watched[id] = (watcher, revision, own, Task.Run(() => watcher.RunAsync(own.Token), CancellationToken.None));
    }

    private async Task CheckClaimsAsync(CancellationToken stop)
    {
        if (_claims is null)
        {
            _claims = new NpgsqlConnection(new NpgsqlConnectionStringBuilder(options.Value.Database) { Pooling = false, KeepAlive = 5 }.ConnectionString);
            await _claims.OpenAsync(stop);
        }

        await using var command = new NpgsqlCommand("SELECT 1", _claims);
        await command.ExecuteScalarAsync(stop);
    }

    private async Task<bool> ClaimAsync(long id, CancellationToken stop)
    {
        await using var command = new NpgsqlCommand("SELECT pg_try_advisory_lock($1)", _claims) { Parameters = { new() { Value = ClaimLock + id } } };
        return (bool)(await command.ExecuteScalarAsync(stop))!;
    }

    private async Task ReleaseAsync(long id, CancellationToken stop)
    {
        await EndAsync(id);
        await using var command = new NpgsqlCommand("SELECT pg_advisory_unlock($1)", _claims) { Parameters = { new() { Value = ClaimLock + id } } };
        await command.ExecuteScalarAsync(stop);
    }

    private async Task ReleaseAllAsync()
    {
        await Task.WhenAll(_watched.Keys.Select(EndAsync));
        if (_claims is not null)
        {
            var claims = _claims;
            _claims = null;
            try
            {
                await claims.DisposeAsync();
            }
            catch (NpgsqlException)
            {
                // It was broken already.
            }
        }
    }

    private async Task EndAsync(long id)
    {
        if (_watched.TryRemove(id, out var watched))
        {
            await watched.Stop.CancelAsync();
            await watched.Running.ContinueWith(_ => { }, CancellationToken.None, TaskContinuationOptions.None, TaskScheduler.Default);
            watched.Stop.Dispose();
            watched.Watcher.Dispose();
        }
    }

    [LoggerMessage(LogLevel.Warning, "Looking after mailboxes was interrupted and will go on")]
    private partial void LogTrouble(Exception e);
}
