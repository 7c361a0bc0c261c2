using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;
using PostTide.Core.Messages;
using PostTide.Core.Rehearsal;
using PostTide.Core.Workflows;
using PostTide.Engine.Deeds;
using PostTide.Engine.Planning;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Engine.Rehearsals;

/// <summary>Past mail and the setup it is looked at with.</summary>
public sealed record MailAtHand(IReadOnlyList<PreparedMessage> Messages, ImmutableArray<Edition> Live, PlanContext Context);

/// <summary>Helps whoever builds a workflow, on past mail: overlaps, smallest changes, kinds, kept examples. Nothing is carried out.</summary>
public sealed class WorkflowHelp(PreparedMail mail, PlanningSetup setup, TimeProvider clock)
{
    /// <summary>The mail of the last days; null for all mail.</summary>
    public async Task<MailAtHand> ReadAsync(PostTideContext db, int? days, CancellationToken stop)
    {
        var since = days is { } d ? clock.GetUtcNow().AddDays(-d) : DateTimeOffset.UnixEpoch;
        var messages = await mail.SinceAsync(db, since, stop);
        var at = await setup.ReadAsync(db, stop);
        return new MailAtHand(messages, at.Live, at.Context);
    }

    /// <summary>Which messages several live workflows take in.</summary>
    public async Task<(OverlapMap Map, MailAtHand Mail)> OverlapsAsync(PostTideContext db, int? days, CancellationToken stop)
    {
        var at = await ReadAsync(db, days, stop);
        var context = await ConversationPlaces.AddAsync(db, at.Messages, at.Live, at.Context, stop);
        return (OverlapMap.Of(at.Messages, at.Live, context), at);
    }

    /// <summary>The smallest changes by which the sheet being built would take in a message.</summary>
    public async Task<(ImmutableArray<SmallChange> Changes, MailAtHand Mail)> SmallestChangesAsync(
        PostTideContext db, long workflowId, long messageId, int? days, CancellationToken stop)
    {
        var sheet = (await CurrentAsync(db, workflowId, stop)).Sheet;
        var at = await ReadAsync(db, days, stop);
        var message = await MessageAsync(db, messageId, stop);
        return (SmallestChanges.For(message, sheet, at.Messages, at.Context), at);
    }

    /// <summary>What sets some messages apart from the rest of the mail.</summary>
    public async Task<(ImmutableArray<KindProposal> Proposals, MailAtHand Mail)> KindAsync(PostTideContext db, IReadOnlyList<long> ids, int? days, CancellationToken stop)
    {
        var at = await ReadAsync(db, days, stop);
        var chosen = await mail.OfAsync(db, ids, stop);
        return (TheirKind.Find([.. ids.Where(chosen.ContainsKey).Distinct().Select(id => chosen[id])], at.Messages, at.Context), at);
    }

    /// <summary>The kept examples of a workflow, each with what the sheet being built makes of it.</summary>
    public async Task<(ImmutableArray<CheckedExample> Examples, Sheet Sheet)> ExamplesAsync(PostTideContext db, long workflowId, CancellationToken stop)
    {
        var edition = await CurrentAsync(db, workflowId, stop);
        var kept = await db.KeptExamples.AsNoTracking().Where(e => e.WorkflowId == workflowId).OrderBy(e => e.Id).ToListAsync(stop);
        var prepared = await mail.OfAsync(db, kept.ConvertAll(e => e.MessageId), stop);
        var at = await setup.ReadAsync(db, stop);
        var conversations = await db.Messages.AsNoTracking().Where(m => kept.Select(k => k.MessageId).Contains(m.Id)).ToDictionaryAsync(m => m.Id, m => m.ConversationId ?? 0, stop);
        ImmutableArray<KeptExample> examples =
        [
            .. kept.Where(e => prepared.ContainsKey(e.MessageId))
                .Select(e => new KeptExample(prepared[e.MessageId] with { ConversationId = conversations[e.MessageId] }, e.Expected)),
        ];
        var context = await ConversationPlaces.AddAsync(db, [.. examples.Select(e => e.Message)], [edition], at.Context, stop);
        return (KeptExamples.Check(edition, examples, context), edition.Sheet);
    }

    private async Task<PreparedMessage> MessageAsync(PostTideContext db, long id, CancellationToken stop) =>
        (await mail.OfAsync(db, [id], stop)).GetValueOrDefault(id) ?? throw new RefusedException("This message has no text to look at.");

    /// <summary>The edition in hand, or the live one when none is.</summary>
    private static async Task<Edition> CurrentAsync(PostTideContext db, long workflowId, CancellationToken stop)
    {
        var workflow = await db.Workflows.AsNoTracking().Include(w => w.Editions.Where(e => e.State != EditionState.Past))
            .SingleOrDefaultAsync(w => w.Id == workflowId, stop) ?? throw new RefusedException("This workflow is gone.");
        var edition = workflow.Editions.OrderBy(e => e.State).First();
        return new Edition(workflow.Id, workflow.Name, edition.Number, edition.Sheet);
    }
}
