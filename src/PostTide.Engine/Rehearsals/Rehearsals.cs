using System.Collections.Concurrent;
using System.Collections.Immutable;
using System.Runtime.CompilerServices;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using PostTide.Core.Messages;
using PostTide.Core.Rehearsal;
using PostTide.Core.Tickets;
using PostTide.Core.Workflows;
using PostTide.Engine.Deeds;
using PostTide.Engine.Planning;
using PostTide.Engine.Sorting;
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
public sealed class Rehearsals(PreparedMail mail, PlanningSetup setup, SorterLibrary sorters, TimeProvider clock)
{
    private const int MostKept = 12;
    private const int MostLive = 4;
    private readonly ConcurrentDictionary<(long, int?), (string Key, LiveRun Run)> _live = new();
    private readonly ConcurrentQueue<KeptRehearsal> _kept = new();

    /// <summary>Runs a workflow's edition in hand, or the live one when none is, over the mail of the last days; null for all mail.</summary>
    /// <param name="db">The records.</param>
    /// <param name="workflowId">The workflow.</param>
    /// <param name="days">How many days; null for all mail.</param>
    /// <param name="sorterInHand">Whether the workflow's sorter is rehearsed as its number in hand is, against the one in use.</param>
    /// <param name="stop">Stops between batches.</param>
    /// <exception cref="RefusedException">There is no such workflow.</exception>
    public async Task<KeptRehearsal> RunAsync(PostTideContext db, long workflowId, int? days, bool sorterInHand, CancellationToken stop)
    {
        var workflow = await db.Workflows.AsNoTracking().Include(w => w.Editions.Where(e => e.State != EditionState.Past))
            .SingleOrDefaultAsync(w => w.Id == workflowId, stop) ?? throw new RefusedException("This workflow is gone.");
        var edition = workflow.Editions.OrderBy(e => e.State).First();
        var since = days is { } d ? clock.GetUtcNow().AddDays(-d) : DateTimeOffset.UnixEpoch;
        var messages = await mail.SinceAsync(db, since, stop);
        var at = await setup.ReadAsync(db, stop);
        var started = clock.GetTimestamp();
        var candidate = new Edition(workflow.Id, workflow.Name, edition.Number, edition.Sheet);
        var live = await LiveAsync(db, workflow, messages, at, days, candidate, stop);
        live = live with { Context = live.Context with { Conversations = (await PlacesAsync(db, messages, candidate, live.Context, stop)).Conversations } };
        var changed = sorterInHand && candidate.Sheet.SorterId is { } sorterId && await sorters.InHandAsync(db, sorterId, stop) is { } inHand
            ? live.Context with { Sorters = live.Context.Sorters.ToImmutableDictionary().SetItem(sorterId, inHand) }
            : null;
        var result = Rehearser.Run(live, candidate, changed, stop);
        var kept = new KeptRehearsal(
            Guid.NewGuid(), workflowId, edition.Number, edition.Revision, edition.Sheet, workflow.Editions.FirstOrDefault(e => e.State == EditionState.Live)?.Sheet, result, clock.GetElapsedTime(started).TotalMilliseconds);
        _kept.Enqueue(kept);
        while (_kept.Count > MostKept)
        {
            _kept.TryDequeue(out _);
        }

        return kept;
    }

    /// <summary>
    /// What is live makes of the mail: worked out anew only when the mail, what is live or what it may name has changed, not at
    /// every edit.
    /// </summary>
    private async Task<LiveRun> LiveAsync(
        PostTideContext db, Workflow workflow, IReadOnlyList<PreparedMessage> messages, Setup at, int? days, Edition candidate, CancellationToken stop)
    {
        var position = await db.Workflows.CountAsync(
            w => !w.Paused && w.Editions.Any(e => e.State == EditionState.Live)
                && (w.Position < workflow.Position || (w.Position == workflow.Position && w.Id < workflow.Id)), stop);
        var key = KeyOf(messages, at, position);
        if (_live.TryGetValue((workflow.Id, days), out var kept) && kept.Key == key)
        {
            return kept.Run;
        }

        var named = messages.SelectMany(m => TicketReference.FindIn(m, at.Context.TicketPrefix)).Select(e => e.Text.ToUpperInvariant()).Distinct().ToArray();
        var known = await db.Tickets.AsNoTracking().Where(t => named.Contains(t.Reference)).Select(t => t.Reference).ToListAsync(stop);
        var context = await ConversationPlaces.AddAsync(db, messages, at.Live, at.Context with { KnownTickets = [.. known] }, stop);
        var run = LiveRun.Of(messages, at.Live, workflow.Id, position, context, stop);
        if (_live.Count >= MostLive)
        {
            _live.Clear();
        }

        _live[(workflow.Id, days)] = (key, run);
        return run;
    }

    private static Task<PlanContext> PlacesAsync(PostTideContext db, IReadOnlyList<PreparedMessage> messages, Edition candidate, PlanContext context, CancellationToken stop) =>
        context.Conversations.Count > 0 ? Task.FromResult(context) : ConversationPlaces.AddAsync(db, messages, [candidate], context, stop);

    /// <summary>Everything a run of what is live depends on.</summary>
    private static string KeyOf(IReadOnlyList<PreparedMessage> messages, Setup at, int position)
    {
        var hash = new HashCode();
        foreach (var message in messages)
        {
            hash.Add(message.Id);
            hash.Add(message.ConversationId);
            hash.Add(message.Version);
        }

        var c = at.Context;
        return JsonSerializer.Serialize(new
        {
            mail = hash.ToHashCode(),
            messages.Count,
            position,
            live = at.Live.Select(e => new { e.WorkflowId, e.WorkflowName, e.Number }),
            sorters = RuntimeHelpers.GetHashCode(c.Sorters),
            lists = RuntimeHelpers.GetHashCode(c.KeywordLists),
            c.SavedConditions,
            c.Queues,
            c.Destinations,
            c.Templates,
            desk = c.Desk.ToString(),
            days = string.Join(' ', c.Desk.Days),
            c.TrustedServers,
            c.OurAddresses,
            c.DoNotMail,
        }, Documents.Json);
    }

    /// <summary>A rehearsal that was run before, null when it is no longer kept.</summary>
    public KeptRehearsal? Find(Guid id) => _kept.FirstOrDefault(r => r.Id == id);
}
