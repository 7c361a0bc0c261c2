using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;
using PostTide.Core.Messages;
using PostTide.Core.Rehearsal;
using PostTide.Core.Workflows;
using PostTide.Engine.Deeds;
using PostTide.Engine.Rehearsals;
using PostTide.Store;

namespace PostTide.Server.Places;

/// <summary>A rehearsal's counts. Each can be opened with the rehearsal's id for as long as it is kept.</summary>
public sealed record RehearsalRun(
    Guid Id, int Edition, int Revision, RehearsalSummary Summary, bool HasLive, DateTimeOffset? From, DateTimeOffset? Until, double Milliseconds);

/// <summary>A message of a rehearsal in a list.</summary>
public sealed record RehearsedRow(
    long MessageId, DateTimeOffset ArrivedAt, string SenderName, string SenderAddress, string Subject, Outcome Outcome, bool NearMiss, bool Changed,
    string? CategoryId, double? Surety, bool Unsure, string? LineId, string Why, ImmutableArray<Difference> Differences, Shortfall? Shortfall, bool? ExampleHolds);

/// <summary>A page of the messages behind a count.</summary>
public sealed record RehearsedPage(IReadOnlyList<RehearsedRow> Messages, int Total);

/// <summary>One message of a rehearsal, opened: its text, and both verdicts with their reasons.</summary>
public sealed record RehearsedView(
    PreparedMessage Message, Verdict? Live, Verdict InHand, ImmutableArray<Difference> Differences, Shortfall? Shortfall, Expectation? Example);

/// <summary>Rehearsals of editions in hand.</summary>
internal static class RehearsalsPlace
{
    private const int PageSize = 50;

    public static void MapRehearsals(this RouteGroupBuilder api)
    {
        var group = api.MapGroup("").WithTags("Rehearsal");
        group.MapPost("/workflows/{id:long}/rehearsal", RunAsync);
        group.MapGet("/rehearsals/{id:guid}/messages", ListAsync);
        group.MapGet("/rehearsals/{id:guid}/messages/{messageId:long}", ReadAsync);
    }

    private static async Task<RehearsalRun> RunAsync(long id, int? days, Rehearsals rehearsals, PostTideContext db, CancellationToken stop, bool sorterInHand = false)
    {
        var kept = await rehearsals.RunAsync(db, id, days, sorterInHand, stop);
        var messages = kept.Result.Messages;
        return new RehearsalRun(
            kept.Id, kept.Edition, kept.Revision, RehearsalSummary.Of(kept.Result), messages.Any(m => m.Before is not null),
            messages.IsEmpty ? null : messages[0].Message.ArrivedAt, messages.IsEmpty ? null : messages[^1].Message.ArrivedAt, kept.Milliseconds);
    }

    private static async Task<RehearsedPage> ListAsync(
        Guid id, Rehearsals rehearsals, PostTideContext db, RehearsalView view, CancellationToken stop, string? key = null, int skip = 0)
    {
        var rehearsal = Find(rehearsals, id);
        var selection = new RehearsalSelection(view, key);
        var chosen = rehearsal.Result.Messages.Where(m => selection.Holds(m, rehearsal.Result.EveryLine)).ToList();
        chosen.Reverse();
        var page = chosen.Skip(skip).Take(PageSize).ToList();
        var ids = page.ConvertAll(m => m.Message.Id);
        var examples = await db.KeptExamples.AsNoTracking().Where(e => e.WorkflowId == rehearsal.WorkflowId && ids.Contains(e.MessageId)).ToDictionaryAsync(e => e.MessageId, e => e.Expected, stop);
        return new RehearsedPage([.. page.Select(m => Row(m, rehearsal, examples.GetValueOrDefault(m.Message.Id)))], chosen.Count);
    }

    private static async Task<RehearsedView> ReadAsync(Guid id, long messageId, Rehearsals rehearsals, PostTideContext db, CancellationToken stop)
    {
        var rehearsal = Find(rehearsals, id);
        var message = rehearsal.Result.Explain(
            rehearsal.Result.Messages.FirstOrDefault(m => m.Message.Id == messageId) ?? throw new RefusedException("This message is not in the rehearsal."));
        var example = await db.KeptExamples.AsNoTracking().Where(e => e.WorkflowId == rehearsal.WorkflowId && e.MessageId == messageId).Select(e => e.Expected).SingleOrDefaultAsync(stop);
        return new RehearsedView(
            message.Message, message.Before, message.After, message.Before is null ? [] : Difference.Between(message.Before, message.After),
            rehearsal.Result.ShortfallOf(message), example);
    }

    private static KeptRehearsal Find(Rehearsals rehearsals, Guid id) =>
        rehearsals.Find(id) ?? throw new RefusedException("This rehearsal is no longer kept. Run it again.");

    private static RehearsedRow Row(RehearsedMessage m, KeptRehearsal rehearsal, Expectation? example) => new(
        m.Message.Id, m.Message.ArrivedAt, m.Message.From.Name, m.Message.From.Address, m.Message.Subject, m.After.Outcome, m.After.NearMiss, m.Changed,
        m.After.CategoryId, m.After.Sorter?.Surety, m.After.Sorter is { Unsure: true }, m.After.LineId, Why(m.After), m.Before is null ? [] : Difference.Between(m.Before, m.After),
        rehearsal.Result.ShortfallOf(m), example?.Against(m.After, rehearsal.Sheet).IsEmpty);

    /// <summary>The shortest true answer to “why”: the deeds when it is taken in, the failed condition when it is not.</summary>
    private static string Why(Verdict verdict) => verdict.Outcome != Outcome.TakenIn
        ? verdict.Reasons.FirstOrDefault()?.Text ?? ""
        : verdict.Deeds.IsEmpty ? "nothing is done" : string.Join("; ", verdict.Deeds.Select(d => d.Says));
}
