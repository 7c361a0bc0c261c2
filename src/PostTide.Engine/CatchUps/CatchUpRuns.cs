using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;
using PostTide.Core.Workflows;
using PostTide.Engine.Deeds;
using PostTide.Store;
using PostTide.Store.Bulk;
using PostTide.Store.Records;
using PostTide.Store.Search;

namespace PostTide.Engine.CatchUps;

/// <summary>Catch-up runs: chosen, looked over, confirmed, stopped and taken up again.</summary>
public sealed class CatchUpRuns(PostTideContext db, CatchUpSteps steps, TimeProvider clock)
{
    /// <summary>Writes down a choice of messages for a workflow. Nothing is done to them yet.</summary>
    /// <exception cref="RefusedException">There is nothing to carry out, or nothing to carry it out on.</exception>
    public async Task<Run> DraftAsync(long workflowId, CatchUpChoice choice, bool sendReplies, string person, CancellationToken stop)
    {
        var edition = await db.Editions.AsNoTracking().Where(e => e.WorkflowId == workflowId && e.State == EditionState.Live).Select(e => (int?)e.Number).SingleOrDefaultAsync(stop)
            ?? throw new RefusedException("This workflow has no live edition, so there is nothing to carry out.");
        if (choice.Most is < 1 or > CatchUpChoice.Largest)
        {
            throw new RefusedException($"A catch-up takes between 1 and {CatchUpChoice.Largest:N0} messages at a time.");
        }

        var ids = await ChooseAsync(choice, stop);
        if (ids.Count == 0)
        {
            throw new RefusedException("No message is chosen: the search finds none.");
        }

        var mailbox = choice.Query.MailboxId is { } box ? await db.Mailboxes.Where(m => m.Id == box).Select(m => m.Name).SingleOrDefaultAsync(stop) : null;
        var run = new Run
        {
            Kind = RunKind.CatchUp,
            State = RunState.Draft,
            WorkflowId = workflowId,
            Edition = edition,
            Person = person,
            StartedAt = clock.GetUtcNow(),
            LookedAt = ids.Count,
            Choice = choice.Say(mailbox),
            SendReplies = sendReplies,
        };
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        db.Runs.Add(run);
        await db.SaveChangesAsync(stop);
        db.RunMessages.AddRange(ids.Select((id, i) => new RunMessage { RunId = run.Id, Number = i + 1, MessageId = id }));
        await db.SaveInBulkAsync(stop);
        await transaction.CommitAsync(stop);
        return run;
    }

    /// <summary>Exactly what a run would do: message by message, deed by deed. Excluded messages have no step.</summary>
    public async Task<IReadOnlyList<CatchUpStep>> PreviewAsync(long runId, CancellationToken stop)
    {
        var run = await ReadAsync(runId, stop);
        var messages = await db.RunMessages.AsNoTracking().Where(m => m.RunId == runId && m.Outcome == RunOutcome.Chosen).OrderBy(m => m.Number).ToListAsync(stop);
        return await steps.PlanAsync(db, run, messages, stop);
    }

    /// <summary>Takes messages out of a run that is not confirmed yet, or back in.</summary>
    public async Task ExcludeAsync(long runId, IReadOnlyList<long> messageIds, bool exclude, CancellationToken stop)
    {
        await DraftAsync(runId, stop);
        var (from, to) = exclude ? (RunOutcome.Chosen, RunOutcome.Excluded) : (RunOutcome.Excluded, RunOutcome.Chosen);
        await db.RunMessages.Where(m => m.RunId == runId && messageIds.Contains(m.MessageId!.Value) && m.Outcome == from)
            .ExecuteUpdateAsync(s => s.SetProperty(m => m.Outcome, to), stop);
    }

    /// <summary>Says that one deed of one message is to be done again although it was done before, or takes that back.</summary>
    public async Task AgainAsync(long runId, long messageId, DeedKind kind, string target, bool again, CancellationToken stop)
    {
        await DraftAsync(runId, stop);
        var message = await db.RunMessages.SingleOrDefaultAsync(m => m.RunId == runId && m.MessageId == messageId, stop)
            ?? throw new RefusedException("This message is not part of the catch-up.");
        var name = RepeatDecision.NameOf(kind, target);
        message.Again = again ? [.. message.Again.Append(name).Distinct()] : [.. message.Again.Where(a => a != name)];
        await db.SaveChangesAsync(stop);
    }

    /// <summary>Says whether replies go out as the lines say or wait for a person.</summary>
    public async Task SendRepliesAsync(long runId, bool send, CancellationToken stop)
    {
        (await DraftAsync(runId, stop)).SendReplies = send;
        await db.SaveChangesAsync(stop);
    }

    /// <summary>Has a run carried out.</summary>
    /// <exception cref="RefusedException">Another edition went live since it was looked over.</exception>
    public async Task ConfirmAsync(long runId, CancellationToken stop)
    {
        var run = await DraftAsync(runId, stop);
        if (!await db.Editions.AnyAsync(e => e.WorkflowId == run.WorkflowId && e.Number == run.Edition && e.State == EditionState.Live, stop))
        {
            throw new RefusedException($"Edition {run.Edition} is no longer the live one, so what was looked over would not be what happens. Nothing was done; begin the catch-up again.");
        }

        run.StartedAt = clock.GetUtcNow();
        await StartAsync(run, stop);
    }

    /// <summary>Stops a run between two messages. What was done stays done.</summary>
    public async Task StopAsync(long runId, CancellationToken stop)
    {
        var run = await ReadAsync(runId, stop);
        if (run.State != RunState.Running)
        {
            throw new RefusedException("This catch-up is not running.");
        }

        run.State = RunState.Stopped;
        await SaveAsync(stop);
    }

    /// <summary>Lets a stopped run go on where it stopped.</summary>
    public async Task ResumeAsync(long runId, CancellationToken stop)
    {
        var run = await ReadAsync(runId, stop);
        if (run.State is not (RunState.Stopped or RunState.Failed))
        {
            throw new RefusedException("This catch-up has not stopped.");
        }

        await StartAsync(run, stop);
    }

    /// <summary>Throws away a run that was never confirmed.</summary>
    public async Task DiscardAsync(long runId, CancellationToken stop)
    {
        var run = await DraftAsync(runId, stop);
        await db.RunMessages.Where(m => m.RunId == runId).ExecuteDeleteAsync(stop);
        db.Runs.Remove(run);
        await SaveAsync(stop);
    }

    private async Task StartAsync(Run run, CancellationToken stop)
    {
        (run.State, run.Problem, run.EndedAt) = (RunState.Running, null, null);
        await SaveAsync(stop);
    }

    private async Task SaveAsync(CancellationToken stop)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        await db.SaveChangesAsync(stop);
        await db.NotifyAsync(Changes.Runs);
        await transaction.CommitAsync(stop);
    }

    private async Task<Run> ReadAsync(long runId, CancellationToken stop) =>
        await db.Runs.SingleOrDefaultAsync(r => r.Id == runId && r.Kind == RunKind.CatchUp, stop) ?? throw new RefusedException("This catch-up is gone.");

    private async Task<Run> DraftAsync(long runId, CancellationToken stop) => await ReadAsync(runId, stop) is { State: RunState.Draft } run
        ? run
        : throw new RefusedException("This catch-up was confirmed already and can no longer be changed.");

    /// <summary>The chosen messages, oldest first: the order in which they arrived is the order in which they would have been dealt with.</summary>
    private async Task<List<long>> ChooseAsync(CatchUpChoice choice, CancellationToken stop)
    {
        var found = MessageSearch.Find(db, choice.Query);
        if (choice.Ids is { } ids)
        {
            found = db.Messages.AsNoTracking().Where(m => ids.Contains(m.Id));
        }

        var newest = await found.OrderByDescending(m => m.ArrivedAt).ThenByDescending(m => m.Id).Take(choice.Most).Select(m => m.Id).ToListAsync(stop);
        newest.Reverse();
        return newest;
    }
}
