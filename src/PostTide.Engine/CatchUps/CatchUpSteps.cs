using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;
using PostTide.Core.Messages;
using PostTide.Core.Workflows;
using PostTide.Engine.Planning;
using PostTide.Engine.Rehearsals;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Engine.CatchUps;

/// <summary>What a catch-up makes of one message.</summary>
/// <param name="Number">Its place in the run.</param>
/// <param name="MessageId">The message.</param>
/// <param name="Prepared">Its text; null when there is none.</param>
/// <param name="Verdict">What the workflow makes of it; null when it is not even asked.</param>
/// <param name="Decisions">For each planned deed, whether it is made.</param>
/// <param name="LeftBecause">Why it is left alone; null when it is taken in.</param>
public sealed record CatchUpStep(
    int Number, long MessageId, PreparedMessage? Prepared, Verdict? Verdict, ImmutableArray<(PlannedDeed Planned, RepeatDecision Decision)> Decisions, string? LeftBecause);

/// <summary>
/// Works out what a catch-up does to its messages. The preview and the run itself both ask here, and here the same planner is
/// asked as for mail that arrives.
/// </summary>
public sealed class CatchUpSteps(PlanningSetup setup, PreparedMail mail, TimeProvider clock)
{
    private const string OldMail = "it answers old mail, so a person checks it first";

    /// <summary>The steps for some messages of a run, in order.</summary>
    public async Task<IReadOnlyList<CatchUpStep>> PlanAsync(PostTideContext db, Run run, IReadOnlyList<RunMessage> messages, CancellationToken stop)
    {
        var edition = await EditionAsync(db, run, stop);
        var ids = messages.Select(m => m.MessageId!.Value).ToArray();
        var rows = await db.Messages.AsNoTracking().Where(m => ids.Contains(m.Id))
            .Select(m => new { m.Id, m.State, m.DuplicateOfId, m.ConversationId, Moved = m.MovedTo }).ToDictionaryAsync(m => m.Id, stop);
        var prepared = await mail.OfAsync(db, ids, stop);
        var past = await ReadPastAsync(db, run.WorkflowId!.Value, ids, stop);
        var conversations = rows.Values.Where(r => r.ConversationId is not null).Select(r => r.ConversationId!.Value).Distinct().ToArray();
        var context = await ContextAsync(db, run, [.. prepared.Values], conversations, stop);
        ImmutableArray<PreparedMessage> placed = [.. prepared.Values.Select(p => p with { ConversationId = rows[p.Id].ConversationId ?? 0 })];
        context = await ConversationPlaces.AddAsync(db, placed, [edition], context, stop);
        var steps = new List<CatchUpStep>(messages.Count);
        foreach (var message in messages)
        {
            var id = message.MessageId!.Value;
            var row = rows.GetValueOrDefault(id);
            var text = prepared.GetValueOrDefault(id);
            if (row is null || text is null || row.State != MessageState.Planned || row.DuplicateOfId is not null)
            {
                var why = row is null ? "it is gone" : row.DuplicateOfId is not null ? "it is a copy of another message"
                    : row.State == MessageState.Held ? "it is held; release it first" : row.State == MessageState.Arrived ? "it has only just arrived" : "it could not be read as mail";
                steps.Add(new CatchUpStep(message.Number, id, text, null, [], why));
                continue;
            }

            text = text with { ConversationId = row.ConversationId ?? 0 };
            var plan = Planner.Plan(text, [edition], context);
            var verdict = plan.Verdicts[0];
            var decisions = verdict.Deeds
                .Select(d => (d, RepeatDecision.Of(d, past[id], message.Again.Contains(RepeatDecision.NameOf(d.Kind, d.Target), StringComparer.Ordinal))))
                .ToImmutableArray();
            var made = verdict with { Deeds = [.. decisions.Where(d => d.Item2.Make is not null).Select(d => d.Item2.Make!)] };
            context = context.After(new Plan(id, [made]), text.ConversationId);
            steps.Add(new CatchUpStep(
                message.Number, id, text, verdict, decisions,
                verdict.Outcome == Outcome.TakenIn ? null : string.Join("; ", verdict.Reasons.Select(r => r.Text))));
        }

        return steps;
    }

    /// <summary>The context of a run: like that of arriving mail, but replies to old mail wait for a person unless it was said otherwise.</summary>
    public async Task<PlanContext> ContextAsync(
        PostTideContext db, Run run, IReadOnlyList<PreparedMessage> messages, long[] conversations, CancellationToken stop)
    {
        var at = await setup.ReadAsync(db, stop);
        var context = await PastOf.AddAsync(db, messages, at.Context with { Now = clock.GetUtcNow() }, stop);
        var tickets = await db.Tickets.AsNoTracking().Where(t => t.ConversationId != null && conversations.Contains(t.ConversationId.Value)).OrderBy(t => t.Number)
            .Select(t => new { Conversation = t.ConversationId!.Value, t.Reference }).ToListAsync(stop);
        return context with
        {
            TicketOfConversation = tickets.GroupBy(t => t.Conversation).ToImmutableDictionary(g => g.Key, g => g.Last().Reference),
            HoldReplies = run.SendReplies ? null : OldMail,
        };
    }

    private static async Task<Edition> EditionAsync(PostTideContext db, Run run, CancellationToken stop)
    {
        var row = await db.Workflows.AsNoTracking().Where(w => w.Id == run.WorkflowId)
            .Select(w => new { w.Name, Edition = w.Editions.FirstOrDefault(e => e.Number == run.Edition) }).SingleOrDefaultAsync(stop);
        return row?.Edition is { } edition
            ? new Edition(run.WorkflowId!.Value, row.Name, edition.Number, edition.Sheet)
            : throw new Deeds.RefusedException("The workflow of this catch-up is gone.");
    }

    /// <summary>What was planned before for these messages by this workflow, and every reply to them whoever wrote it.</summary>
    private static async Task<ILookup<long, PastDeed>> ReadPastAsync(PostTideContext db, long workflowId, long[] ids, CancellationToken stop)
    {
        var deeds = await db.Deeds.AsNoTracking()
            .Where(d => ids.Contains(d.MessageId) && (d.WorkflowId == workflowId || d.Kind == DeedKind.Reply))
            .Select(d => new { d.Id, d.MessageId, d.Kind, d.Target, d.Repeat, d.State, d.CreatedAt })
            .ToListAsync(stop);
        return deeds.ToLookup(d => d.MessageId, d => new PastDeed(d.Id, d.Kind, d.Target, d.Repeat, StateOf(d.State), d.CreatedAt));
    }

    private static PastState StateOf(DeedState state) => state switch
    {
        DeedState.Done => PastState.Done,
        DeedState.Skipped => PastState.Skipped,
        DeedState.Stuck => PastState.Stuck,
        DeedState.Dropped => PastState.Stopped,
        _ => PastState.UnderWay,
    };
}
