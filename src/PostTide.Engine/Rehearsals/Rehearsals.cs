using System.Collections.Concurrent;
using Microsoft.EntityFrameworkCore;
using PostTide.Core.Rehearsal;
using PostTide.Core.Tickets;
using PostTide.Core.Workflows;
using PostTide.Engine.Deeds;
using PostTide.Engine.Planning;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Engine.Rehearsals;

/// <summary>A rehearsal that was run, kept for a while so that its counts can be opened.</summary>
public sealed record KeptRehearsal(Guid Id, long WorkflowId, int Edition, int Revision, Sheet Sheet, Sheet? LiveSheet, RehearsalResult Result, double Milliseconds)
{
    /// <summary>What is known about a message once a person has judged it.</summary>
    /// <param name="message">The message.</param>
    /// <param name="wrong">Whether what the rehearsed edition makes of it is wrong, so that the live one is right.</param>
    /// <param name="takenIn">Whether it should be taken in, where that alone was said.</param>
    public Expectation Expect(RehearsedMessage message, bool wrong, bool? takenIn) =>
        takenIn is { } taken ? new Expectation(taken)
        : !wrong ? Expectation.Of(message.After, Sheet)
        : message.Before is { } before && LiveSheet is { } live ? Expectation.Of(before, live)
        : new Expectation(message.After.Outcome != Outcome.TakenIn);
}

/// <summary>Rehearses editions in hand over past mail. Nothing is written.</summary>
public sealed class Rehearsals(PreparedMail mail, PlanningSetup setup, TimeProvider clock)
{
    private const int MostKept = 12;
    private readonly ConcurrentQueue<KeptRehearsal> _kept = new();

    /// <summary>Runs a workflow's edition in hand, or the live one when none is, over the mail of the last days; null for all mail.</summary>
    /// <exception cref="RefusedException">There is no such workflow.</exception>
    public async Task<KeptRehearsal> RunAsync(PostTideContext db, long workflowId, int? days, CancellationToken stop)
    {
        var workflow = await db.Workflows.AsNoTracking().Include(w => w.Editions.Where(e => e.State != EditionState.Past))
            .SingleOrDefaultAsync(w => w.Id == workflowId, stop) ?? throw new RefusedException("This workflow is gone.");
        var edition = workflow.Editions.OrderBy(e => e.State).First();
        var since = days is { } d ? clock.GetUtcNow().AddDays(-d) : DateTimeOffset.UnixEpoch;
        var messages = await mail.SinceAsync(db, since, stop);
        var at = await setup.ReadAsync(db, stop);
        var started = clock.GetTimestamp();
        var named = messages.SelectMany(m => TicketReference.FindIn(m, at.Context.TicketPrefix)).Select(e => e.Text.ToUpperInvariant()).Distinct().ToArray();
        var known = await db.Tickets.AsNoTracking().Where(t => named.Contains(t.Reference)).Select(t => t.Reference).ToListAsync(stop);
        var position = await db.Workflows.CountAsync(
            w => !w.Paused && w.Editions.Any(e => e.State == EditionState.Live)
                && (w.Position < workflow.Position || (w.Position == workflow.Position && w.Id < workflow.Id)), stop);
        var candidate = new Edition(workflow.Id, workflow.Name, edition.Number, edition.Sheet);
        var context = await ConversationPlaces.AddAsync(db, messages, at.Live.Add(candidate), at.Context with { KnownTickets = [.. known] }, stop);
        var result = Rehearser.Run(messages, at.Live, candidate, position, context, stop);
        var kept = new KeptRehearsal(
            Guid.NewGuid(), workflowId, edition.Number, edition.Revision, edition.Sheet, workflow.Editions.FirstOrDefault(e => e.State == EditionState.Live)?.Sheet, result, clock.GetElapsedTime(started).TotalMilliseconds);
        _kept.Enqueue(kept);
        while (_kept.Count > MostKept)
        {
            _kept.TryDequeue(out _);
        }

        return kept;
    }

    /// <summary>A rehearsal that was run before, null when it is no longer kept.</summary>
    public KeptRehearsal? Find(Guid id) => _kept.FirstOrDefault(r => r.Id == id);
}
