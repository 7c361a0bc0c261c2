using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;
using PostTide.Core.Workflows;
using PostTide.Engine.Deeds;
using PostTide.Engine.Planning;
using PostTide.Engine.Sorting;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Engine.CatchUps;

/// <summary>
/// Carries confirmed catch-ups out, some messages to a transaction. A run is nothing but its records, so that it goes on where it
/// was after whatever cut it off.
/// </summary>
public sealed partial class CatchUpWorker(IServiceScopeFactory scopes, CatchUpSteps steps, TimeProvider clock, ILogger<CatchUpWorker> log) : BackgroundService
{
    private const int BatchSize = 20;
    private static readonly TimeSpan LookAgain = TimeSpan.FromMilliseconds(500);

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                if (!await StepAsync(stoppingToken))
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
                // The batch was undone as a whole; it is tried again.
                LogTrouble(e);
                await Task.Delay(LookAgain * 2, clock, stoppingToken);
            }
        }
    }

    /// <summary>Carries out the next messages of the oldest running catch-up; false when there is none.</summary>
    private async Task<bool> StepAsync(CancellationToken stop)
    {
        await using var scope = scopes.CreateAsyncScope();
        var outbox = scope.ServiceProvider.GetRequiredService<IDeedOutbox>();
        var db = outbox.Db;
        if (!await db.Runs.AnyAsync(r => r.Kind == RunKind.CatchUp && r.State == RunState.Running, stop))
        {
            return false;
        }

        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        await BatchPlanner.LockAsync(db, stop);
        var run = await db.Runs.FromSql($"SELECT * FROM runs WHERE kind = 'CatchUp' AND state = 'Running' ORDER BY id LIMIT 1 FOR UPDATE").FirstOrDefaultAsync(stop);
        if (run is null)
        {
            return false;
        }

        var next = await db.RunMessages.Where(m => m.RunId == run.Id && m.Outcome == RunOutcome.Chosen).OrderBy(m => m.Number).Take(BatchSize).ToListAsync(stop);
        if (next.Count == 0)
        {
            (run.State, run.EndedAt) = (RunState.Finished, clock.GetUtcNow());
        }
        else
        {
            await CarryOutAsync(scope.ServiceProvider, db, run, next, stop);
        }

        await db.NotifyAsync(Changes.Runs, Changes.Mail, Changes.Queues, Changes.Tickets, Changes.Files, Changes.Replies, Changes.Deeds);
        await outbox.CommitAsync(stop);
        return true;
    }

    private async Task CarryOutAsync(IServiceProvider services, PostTideContext db, Run run, List<RunMessage> next, CancellationToken stop)
    {
        var recorder = services.GetRequiredService<DeedRecorder>();
        var planned = (await steps.PlanAsync(db, run, next, stop)).ToDictionary(s => s.Number);
        var ids = next.Select(m => m.MessageId!.Value).ToArray();
        var rows = await db.Messages.Where(m => ids.Contains(m.Id)).ToDictionaryAsync(m => m.Id, stop);
        var raws = await db.Raws.AsNoTracking().Where(r => db.Messages.Any(m => ids.Contains(m.Id) && m.RawSha256 == r.Sha256)).ToDictionaryAsync(r => r.Sha256, r => r.Bytes, stop);
        var context = await steps.ContextAsync(db, run, [], [], stop);
        var opened = new Dictionary<long, string>();
        foreach (var message in next)
        {
            var step = planned[message.Number];
            (message.Outcome, message.Because) = step.LeftBecause is { } left ? (RunOutcome.LeftAlone, left) : (RunOutcome.TakenIn, null);
            if (step.Verdict is { } verdict && rows.TryGetValue(step.MessageId, out var row))
            {
                await RecordAsync(db, recorder, run, new MessageAtHand(row, step.Prepared!, raws[row.RawSha256]), step, verdict, context, opened, stop);
            }
        }
    }

    private static async Task RecordAsync(
        PostTideContext db, DeedRecorder recorder, Run run, MessageAtHand message, CatchUpStep step, Verdict verdict, PlanContext context,
        Dictionary<long, string> opened, CancellationToken stop)
    {
        var conversation = message.Row.ConversationId ?? 0;
        var make = step.Decisions.Where(d => d.Decision.Make is not null).Select(d => Numbered(d.Decision.Make!, opened.GetValueOrDefault(conversation))).ToList();
        var ticket = await recorder.RecordAsync(message, make, verdict.Facts, DecidedBy.Of(verdict) with { Person = run.Person, RunId = run.Id }, context, stop);
        if (ticket is not null)
        {
            opened[conversation] = ticket;
        }

        foreach (var (deed, decision) in step.Decisions.Where(d => d.Decision.Make is null))
        {
            db.RunSkips.Add(new RunSkip
            {
                RunId = run.Id,
                MessageId = step.MessageId,
                Kind = deed.Kind,
                Says = deed.Says,
                Because = decision.Because!,
                DeedId = decision.Past!.Id,
            });
        }

        if (verdict.Outcome == Outcome.TakenIn)
        {
            message.Row.TakenIn = true;
            await ReplacePlanAsync(db, message, verdict, context, stop);
        }
    }

    /// <summary>A ticket that an earlier message of the batch opened has its number only now.</summary>
    private static PlannedDeed Numbered(PlannedDeed deed, string? ticket) => deed.Content is TicketContent { Reference: TicketContent.JustOpened } content
        ? deed with { Content = content with { Reference = ticket }, Says = $"add to ticket {ticket}" }
        : deed;

    /// <summary>The message's plan now says what this workflow made of it; the plan before is kept.</summary>
    private static async Task ReplacePlanAsync(PostTideContext db, MessageAtHand message, Verdict verdict, PlanContext context, CancellationToken stop)
    {
        var before = await db.Plans.SingleOrDefaultAsync(p => p.MessageId == message.Row.Id && p.Current, stop);
        var others = before?.Verdicts.Where(v => v.WorkflowId != verdict.WorkflowId) ?? [];
        if (before is not null)
        {
            before.Current = false;
            await db.SaveChangesAsync(stop);
        }

        await SortedRows.ReplaceAsync(db, message.Row.Id, verdict, context.Now, stop);
        db.Plans.Add(new PlanRecord
        {
            MessageId = message.Row.Id,
            Current = true,
            PlannedAt = context.Now,
            PreparedVersion = message.Prepared.Version,
            Verdicts = [.. others, verdict],
        });
    }

    [LoggerMessage(LogLevel.Warning, "A catch-up was interrupted and will go on")]
    private partial void LogTrouble(Exception e);
}
