using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Logging;
using Microsoft.Extensions.Options;
using NodaTime;
using PostTide.Mail.Imap;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Engine.Mailboxes;

/// <summary>
/// Looks after one connected mailbox: a look at once, then whenever the server tells of new mail (IDLE), or at the pace. Trouble
/// is written down in words and tried again after growing waits.
/// </summary>
public sealed partial class MailboxWatcher(
    long mailboxId, IServiceScopeFactory scopes, MailboxLook look, MailboxSecrets secrets, IOptions<EngineOptions> options, TimeProvider clock, ILogger log)
    : IDisposable
{
    /// <summary>A server asked at a longer pace than this is left in peace in between: the connection is closed.</summary>
    private static readonly TimeSpan KeptOpen = TimeSpan.FromMinutes(2);
    private static readonly TimeSpan AfterOwnTrouble = TimeSpan.FromSeconds(1);

    private readonly SemaphoreSlim _wake = new(0, 1);
    private CancellationTokenSource? _waiting;

    /// <summary>A look may stand as running that is not: left by a killed process, or by trouble in the midst of it.</summary>
    private bool _mayBeCutOff = true;

    public void Dispose() => _wake.Dispose();

    /// <summary>Looks at once instead of waiting further.</summary>
    public void Wake()
    {
        try
        {
            _wake.Release();
        }
        catch (SemaphoreFullException)
        {
            // It is awake already.
        }

        try
        {
            _waiting?.Cancel();
        }
        catch (ObjectDisposedException)
        {
            // The wait has just ended by itself.
        }
    }

    /// <summary>Runs until stopped, or until the mailbox is no longer to be looked after as it was.</summary>
    public async Task RunAsync(CancellationToken stop)
    {
        ImapSession? session = null;
        try
        {
            while (!stop.IsCancellationRequested)
            {
                try
                {
                    if (await ReadAsync(stop) is not { } connection)
                    {
                        return;
                    }

                    await EndCutOffAsync(stop);
                    session = await OnceAsync(connection, session, stop);
                }
                catch (Exception e) when (!stop.IsCancellationRequested)
                {
                    // Trouble of our own, such as the database being away: nothing was stored, so nothing is lost.
                    LogOwnTrouble(e, mailboxId);
                    _mayBeCutOff = true;
                    session = await CloseAsync(session);
                    await Task.Delay(AfterOwnTrouble, clock, stop);
                }
            }
        }
        catch (OperationCanceledException) when (stop.IsCancellationRequested)
        {
            // Stopped.
        }
        finally
        {
            await CloseAsync(session);
        }
    }

    /// <summary>Keeps up, or writes down why it cannot and waits. Gives the session to go on with, null when it was closed.</summary>
    private async Task<ImapSession?> OnceAsync(Connection connection, ImapSession? session, CancellationToken stop)
    {
        try
        {
            return await KeepUpAsync(connection, session, stop);
        }
        catch (MailboxTroubleException e) when (!stop.IsCancellationRequested)
        {
            LogTrouble(mailboxId, e.Message);
            await CloseAsync(session);
            await NoteAsync(connection, e, stop);
            await _wake.WaitAsync(TimeSpan.Zero, stop);
            await WaitAsync(connection.NextLookAt, stop);
            return null;
        }
        catch (LookOvertakenException)
        {
            _mayBeCutOff = true;
            return await CloseAsync(session);
        }
    }

    /// <summary>A look that was cut off has ended; what it had stored stays.</summary>
    private async Task EndCutOffAsync(CancellationToken stop)
    {
        if (!_mayBeCutOff)
        {
            return;
        }

        var now = clock.GetUtcNow();
        await using var scope = scopes.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<PostTideContext>();
        await db.Runs.Where(r => r.MailboxId == mailboxId && r.Kind == RunKind.Look && r.State == RunState.Running).ExecuteUpdateAsync(
            s => s.SetProperty(r => r.State, RunState.Failed).SetProperty(r => r.EndedAt, now)
                .SetProperty(r => r.Problem, "It was cut off. What it had taken by then is kept; the next look goes on from there."),
            stop);
        _mayBeCutOff = false;
    }

    /// <summary>One look and the wait after it. Gives the session to go on with, null when it was closed.</summary>
    private async Task<ImapSession?> KeepUpAsync(Connection connection, ImapSession? session, CancellationToken stop)
    {
        var now = Instant.FromDateTimeOffset(clock.GetUtcNow());
        if (connection.Hours?.Read() is { } hours && !hours.Includes(now))
        {
            await CloseAsync(session);
            await WaitAsync(hours.Next(now)?.ToDateTimeOffset(), stop);
            return null;
        }

        if (session is not { IsUsable: true })
        {
            await CloseAsync(session);
            session = null;
            session = await ImapConnector.OpenAsync(secrets.AccountOf(connection), connection.MarkRead, stop);
        }

        try
        {
            connection.Pushed = session.CanIdle;
            session.BeginLook();
            var result = await look.RunAsync(connection, session, stop);
            return await WaitForMailAsync(connection, session, result, stop);
        }
        catch
        {
            await CloseAsync(session);
            throw;
        }
    }

    private async Task<ImapSession?> WaitForMailAsync(Connection connection, ImapSession session, LookResult result, CancellationToken stop)
    {
        var next = connection.NextLookAt;
        if (session.CanIdle && result.Behind == 0)
        {
            var end = next is { } at && at - clock.GetUtcNow() is { Ticks: > 0 } left ? left : TimeSpan.FromSeconds(1);
            using var waiting = new CancellationTokenSource();
            _waiting = waiting;
            if (!await _wake.WaitAsync(TimeSpan.Zero, stop))
            {
                await session.WaitAsync(end, waiting.Token, stop);
                await _wake.WaitAsync(TimeSpan.Zero, stop);
            }

            _waiting = null;
            return session;
        }

        if (TimeSpan.FromMinutes(connection.PaceMinutes) > KeptOpen)
        {
            await CloseAsync(session);
            await WaitAsync(next, stop);
            return null;
        }

        await WaitAsync(next, stop);
        return session;
    }

    private async Task WaitAsync(DateTimeOffset? until, CancellationToken stop)
    {
        var left = until is { } at ? at - clock.GetUtcNow() : TimeSpan.FromHours(1);
        await _wake.WaitAsync(left > TimeSpan.Zero ? left : TimeSpan.Zero, stop);
    }

    private static async Task<ImapSession?> CloseAsync(ImapSession? session)
    {
        if (session is not null)
        {
            await session.DisposeAsync();
        }

        return null;
    }

    /// <summary>The settings and the mark as they stand; null when there is nothing to look after.</summary>
    private async Task<Connection?> ReadAsync(CancellationToken stop)
    {
        await using var scope = scopes.CreateAsyncScope();
        return await scope.ServiceProvider.GetRequiredService<PostTideContext>().Connections.AsNoTracking()
            .SingleOrDefaultAsync(c => c.MailboxId == mailboxId && !c.Paused, stop);
    }

    private async Task NoteAsync(Connection connection, MailboxTroubleException trouble, CancellationToken stop)
    {
        var now = clock.GetUtcNow();
        var waits = options.Value.MailboxWaits;
        var failures = connection.Failures + 1;
        connection.NextLookAt = now.AddSeconds(waits[Math.Min(failures, waits.Count) - 1]);
        await using var scope = scopes.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<PostTideContext>();
        await db.Connections.Where(c => c.MailboxId == mailboxId).ExecuteUpdateAsync(
            s => s.SetProperty(c => c.Failures, failures).SetProperty(c => c.NextLookAt, connection.NextLookAt).SetProperty(c => c.Pushed, false)
                .SetProperty(c => c.Problem, trouble.Message).SetProperty(c => c.ProblemDetail, trouble.ServerSaid)
                .SetProperty(c => c.ProblemSince, c => c.ProblemSince ?? now),
            stop);

        // A look that was under way ended here; one that never began is written down as well.
        var ended = await db.Runs.Where(r => r.MailboxId == mailboxId && r.Kind == RunKind.Look && r.State == RunState.Running).ExecuteUpdateAsync(
            s => s.SetProperty(r => r.State, RunState.Failed).SetProperty(r => r.EndedAt, now).SetProperty(r => r.Problem, trouble.Message)
                .SetProperty(r => r.Detail, trouble.ServerSaid),
            stop);
        if (ended == 0)
        {
            db.Runs.Add(new Run
            {
                Kind = RunKind.Look,
                State = RunState.Failed,
                MailboxId = mailboxId,
                StartedAt = now,
                EndedAt = now,
                Choice = connection.Folder,
                Problem = trouble.Message,
                Detail = trouble.ServerSaid,
            });
            await db.SaveChangesAsync(stop);
        }

        await db.NotifyAsync(Changes.Runs);
    }

    [LoggerMessage(LogLevel.Warning, "Mailbox {Mailbox}: {Trouble}")]
    private partial void LogTrouble(long mailbox, string trouble);

    [LoggerMessage(LogLevel.Warning, "Mailbox {Mailbox}: a look was interrupted and will be made again")]
    private partial void LogOwnTrouble(Exception e, long mailbox);
}
