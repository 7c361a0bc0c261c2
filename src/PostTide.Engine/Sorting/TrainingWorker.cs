using System.Collections.Concurrent;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;
using PostTide.Core.Messages;
using PostTide.Core.Sorting;
using PostTide.Engine.Rehearsals;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Engine.Sorting;

/// <summary>How far the training of a sorter has come.</summary>
public sealed class TrainingProgress
{
    private readonly ConcurrentDictionary<long, TrainingStep> _steps = new();

    /// <summary>The step of a sorter that is being trained; null for any other.</summary>
    public TrainingStep? Of(long sorterId) => _steps.TryGetValue(sorterId, out var step) ? step : null;

    internal void Set(long sorterId, TrainingStep step) => _steps[sorterId] = step;

    internal void End(long sorterId) => _steps.TryRemove(sorterId, out _);
}

/// <summary>
/// Trains numbers in hand in the background, again whenever their settings or examples have changed. Mail never waits for it: it leaves
/// a core to everything else, and what is in use stays in use.
/// </summary>
public sealed partial class TrainingWorker(
    IServiceScopeFactory scopes, PreparedMail mail, TrainingProgress progress, TimeProvider clock, ILogger<TrainingWorker> log) : BackgroundService
{
    private const int FewExamples = 50;
    private const int Background = 1_000;
    private static readonly TimeSpan LookAgain = TimeSpan.FromSeconds(1);
    private static readonly TimeSpan BackgroundReaches = TimeSpan.FromDays(90);

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                if (!await TrainNextAsync(stoppingToken))
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
                // Nothing is lost: the number is still due.
                LogTrouble(e);
                await Task.Delay(LookAgain * 5, clock, stoppingToken);
            }
        }
    }

    /// <summary>Trains one number that is due; false when none is.</summary>
    public async Task<bool> TrainNextAsync(CancellationToken stop)
    {
        await using var scope = scopes.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<PostTideContext>();

        // Labels of messages that are not planned yet have no text to learn from; they make the number due again when they have.
        var due = await db.SorterNumbers.AsNoTracking()
            .Where(n => n.State == SorterNumberState.InHand
                && (n.TrainedAt == null || n.ChangedAt > n.TrainedAt || n.TrainedOn != db.SorterLabels.Count(l => l.SorterId == n.SorterId && db.Prepared.Any(p => p.MessageId == l.MessageId))))
            .OrderBy(n => n.ChangedAt)
            .Select(n => new { n.Id, n.SorterId, n.Settings })
            .FirstOrDefaultAsync(stop);
        if (due is null)
        {
            return false;
        }

        var started = clock.GetUtcNow();
        var labels = await db.SorterLabels.AsNoTracking().Where(l => l.SorterId == due.SorterId).Select(l => new { l.MessageId, l.CategoryId }).ToListAsync(stop);
        var texts = await mail.OfAsync(db, labels.ConvertAll(l => l.MessageId), stop);
        var examples = labels.Where(l => texts.ContainsKey(l.MessageId)).Select(l => new SorterExample(l.MessageId, l.CategoryId, texts[l.MessageId])).ToList();
        if (due.Settings.Categories.IsEmpty)
        {
            await KeepAsync(db, due.Id, n => (n.TrainedAt, n.TrainedOn, n.Model, n.Evaluation, n.Predictions, n.Problem) = (started, examples.Count, null, null, null, null), stop);
            return true;
        }

        // While examples are few, other mail tells which words are common and which are rare.
        IReadOnlyList<PreparedMessage> background = examples.Count < FewExamples
            ? [.. (await mail.SinceAsync(db, started - BackgroundReaches, stop)).TakeLast(Background)]
            : [];
        progress.Set(due.SorterId, new TrainingStep(0, 1));
        try
        {
            var from = clock.GetTimestamp();
            var training = await Task.Run(
                () => SorterTrainer.Train(due.Settings, examples, background, step => progress.Set(due.SorterId, step), Math.Max(1, Environment.ProcessorCount - 1), stop), stop);
            var model = SorterFile.Write(training.Sorter);
            await KeepAsync(db, due.Id, n =>
            {
                (n.TrainedAt, n.TrainedOn, n.TrainedIn) = (started, examples.Count, clock.GetElapsedTime(from).TotalMilliseconds);
                (n.Model, n.Evaluation, n.Predictions, n.Problem) = (model, training.Evaluation, [.. training.Predictions], null);
            }, stop);
        }
        catch (Exception e) when (e is ArithmeticException or InvalidOperationException or ArgumentException)
        {
            // Said on the sorter's page; tried again when its settings or examples change.
            LogFailed(e, due.SorterId);
            await KeepAsync(db, due.Id, n => (n.TrainedAt, n.TrainedOn, n.Problem) = (started, examples.Count, $"It could not be trained: {e.Message}"), stop);
        }
        finally
        {
            progress.End(due.SorterId);
        }

        return true;
    }

    /// <summary>Writes down what came of a training, unless the number went into use or was thrown away meanwhile.</summary>
    private static async Task KeepAsync(PostTideContext db, long numberId, Action<SorterNumber> change, CancellationToken stop)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        if (await db.SorterNumbers.FromSql($"SELECT * FROM sorter_numbers WHERE id = {numberId} AND state = 'InHand' FOR UPDATE").SingleOrDefaultAsync(stop) is { } number)
        {
            change(number);
            await db.SaveChangesAsync(stop);
            await db.NotifyAsync(Changes.Sorters);
        }

        await transaction.CommitAsync(stop);
    }

    [LoggerMessage(LogLevel.Error, "The sorter {Sorter} could not be trained")]
    private partial void LogFailed(Exception e, long sorter);

    [LoggerMessage(LogLevel.Warning, "The training of a sorter was interrupted and will begin again")]
    private partial void LogTrouble(Exception e);
}
