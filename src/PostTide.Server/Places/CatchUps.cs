using System.Security.Claims;
using Microsoft.EntityFrameworkCore;
using PostTide.Core.Workflows;
using PostTide.Engine.CatchUps;
using PostTide.Engine.Deeds;
using PostTide.Store;
using PostTide.Store.Records;
using PostTide.Store.Search;

namespace PostTide.Server.Places;

/// <summary>Which old messages to carry a workflow out on.</summary>
public sealed record CatchUpRequest(
    long WorkflowId, string Text, long? MailboxId, MessageShow Show, DateTimeOffset? From, DateTimeOffset? Until, IReadOnlyList<long>? Ids, int Most);

/// <summary>A deed a catch-up would make or make not.</summary>
/// <param name="Kind">What kind.</param>
/// <param name="Target">What it is aimed at.</param>
/// <param name="Says">In words.</param>
/// <param name="Skipped">Why it is not made; null when it is.</param>
/// <param name="Held">Why it waits for a person.</param>
/// <param name="CanRepeat">Whether a person may ask for it although it was done before.</param>
/// <param name="Again">Whether somebody has asked.</param>
public sealed record CatchUpDeed(DeedKind Kind, string Target, string Says, string? Skipped, string? Held, bool CanRepeat, bool Again)
{
    public static CatchUpDeed Of((PlannedDeed Planned, RepeatDecision Decision) pair)
    {
        var (planned, decision) = pair;
        return new CatchUpDeed(
            planned.Kind, planned.Target, planned.Says, decision.Because ?? planned.SkippedBecause, planned.HeldBecause,
            decision.Past is { State: not PastState.UnderWay }, decision is { Past: not null, Make: not null });
    }
}

/// <summary>A message of a catch-up.</summary>
public sealed record CatchUpRow(
    int Number, long MessageId, DateTimeOffset ArrivedAt, string SenderName, string SenderAddress, string Subject, RunOutcome Outcome, bool TakenIn, string? Because,
    IReadOnlyList<CatchUpDeed> Deeds);

/// <summary>How many deeds of a kind a catch-up would make, and how many not.</summary>
public sealed record CatchUpCount(DeedKind Kind, int Made, int Skipped, int Held);

/// <summary>Exactly what a catch-up would do, before anything is done.</summary>
/// <param name="Chosen">Messages chosen, without the excluded ones.</param>
/// <param name="TakenIn">Those the workflow takes in.</param>
/// <param name="LeftAlone">Those it leaves alone.</param>
/// <param name="Excluded">Messages taken out by hand.</param>
/// <param name="Counts">The deeds by kind.</param>
/// <param name="WrittenTo">Every address that would be written to, after checking or at once.</param>
public sealed record CatchUpPreview(
    int Chosen, int TakenIn, int LeftAlone, int Excluded, IReadOnlyList<CatchUpCount> Counts, IReadOnlyList<string> WrittenTo);

/// <summary>A page of a catch-up's messages.</summary>
public sealed record CatchUpPage(IReadOnlyList<CatchUpRow> Messages, int Total);

/// <summary>Messages to take out of a catch-up, or back in.</summary>
public sealed record ExcludeRequest(IReadOnlyList<long> MessageIds, bool Exclude);

/// <summary>One deed to do again, or not.</summary>
public sealed record AgainRequest(long MessageId, DeedKind Kind, string Target, bool Again);

/// <summary>Whether replies go out without being checked.</summary>
public sealed record SendRepliesRequest(bool Send);

/// <summary>What would happen to one message.</summary>
public sealed record TryView(Verdict? Verdict, string? LeftBecause, IReadOnlyList<CatchUpDeed> Deeds);

/// <summary>Catch-up: a workflow carried out on chosen old messages, looked over first.</summary>
internal static class CatchUpsPlace
{
    private const int PageSize = 50;

    public static void MapCatchUps(this RouteGroupBuilder api)
    {
        var group = api.MapGroup("/catch-ups").WithTags("Catch-up").RequireAuthorization(Permissions.Builder);
        group.MapPost("", BeginAsync);
        group.MapGet("/{id:long}/preview", PreviewAsync);
        group.MapGet("/{id:long}/messages", ListAsync);
        group.MapPost("/{id:long}/exclude", (long id, ExcludeRequest r, CatchUpRuns runs, CancellationToken stop) => runs.ExcludeAsync(id, r.MessageIds, r.Exclude, stop));
        group.MapPost("/{id:long}/again", (long id, AgainRequest r, CatchUpRuns runs, CancellationToken stop) => runs.AgainAsync(id, r.MessageId, r.Kind, r.Target, r.Again, stop));
        group.MapPost("/{id:long}/send-replies", (long id, SendRepliesRequest r, CatchUpRuns runs, CancellationToken stop) => runs.SendRepliesAsync(id, r.Send, stop));
        group.MapPost("/{id:long}/confirm", (long id, CatchUpRuns runs, CancellationToken stop) => runs.ConfirmAsync(id, stop));
        group.MapPost("/{id:long}/stop", (long id, CatchUpRuns runs, CancellationToken stop) => runs.StopAsync(id, stop));
        group.MapPost("/{id:long}/resume", (long id, CatchUpRuns runs, CancellationToken stop) => runs.ResumeAsync(id, stop));
        group.MapDelete("/{id:long}", (long id, CatchUpRuns runs, CancellationToken stop) => runs.DiscardAsync(id, stop));
        var one = api.MapGroup("/messages/{messageId:long}").WithTags("Catch-up");
        one.MapGet("/try", TryAsync);
        one.MapPost("/do", DoAsync).RequireAuthorization(Permissions.Builder);
    }

    private static async Task<long> BeginAsync(CatchUpRequest r, CatchUpRuns runs, ClaimsPrincipal user, CancellationToken stop)
    {
        var query = new MessageQuery(r.Text, r.MailboxId, r.Show, r.From?.ToUniversalTime(), r.Until?.ToUniversalTime());
        return (await runs.DraftAsync(r.WorkflowId, new CatchUpChoice(query, r.Ids, r.Most), sendReplies: false, user.DisplayName(), stop)).Id;
    }

    private static async Task<CatchUpPreview> PreviewAsync(long id, CatchUpRuns runs, PostTideContext db, CancellationToken stop)
    {
        var steps = await runs.PreviewAsync(id, stop);
        var deeds = steps.SelectMany(s => s.Decisions.Select(CatchUpDeed.Of)).ToList();
        return new CatchUpPreview(
            steps.Count,
            steps.Count(s => s.LeftBecause is null),
            steps.Count(s => s.LeftBecause is not null),
            await db.RunMessages.CountAsync(m => m.RunId == id && m.Outcome == RunOutcome.Excluded, stop),
            [
                .. deeds.GroupBy(d => d.Kind).OrderBy(g => g.Key)
                    .Select(g => new CatchUpCount(g.Key, g.Count(d => d.Skipped is null), g.Count(d => d.Skipped is not null), g.Count(d => d.Skipped is null && d.Held is not null))),
            ],
            [
                .. steps.SelectMany(s => s.Decisions).Where(d => d.Decision.Make is { SkippedBecause: null, Content: ReplyContent })
                    .Select(d => ((ReplyContent)d.Decision.Make!.Content).To).Distinct(StringComparer.OrdinalIgnoreCase).Order(StringComparer.OrdinalIgnoreCase),
            ]);
    }

    /// <summary>The messages of a catch-up: as they would be dealt with before it is confirmed, as they were dealt with after.</summary>
    private static async Task<CatchUpPage> ListAsync(
        long id, CatchUpRuns runs, PostTideContext db, CancellationToken stop, RunOutcome? outcome = null, int skip = 0)
    {
        var draft = await db.Runs.AnyAsync(r => r.Id == id && r.State == RunState.Draft, stop);
        var steps = draft ? (await runs.PreviewAsync(id, stop)).ToDictionary(s => s.MessageId) : [];
        var chosen = await db.RunMessages.AsNoTracking().Where(m => m.RunId == id && m.MessageId != null).OrderBy(m => m.Number)
            .Join(db.Messages, r => r.MessageId, m => m.Id, (r, m) => new { r.Number, r.Outcome, r.Because, m.Id, m.ArrivedAt, m.SenderName, m.SenderAddress, m.Subject })
            .ToListAsync(stop);
        var rows = chosen.Select(c => steps.TryGetValue(c.Id, out var step)
                ? (Row: c, TakenIn: step.LeftBecause is null, Because: step.LeftBecause, Deeds: step.Decisions.Select(CatchUpDeed.Of).ToList())
                : (Row: c, TakenIn: c.Outcome == RunOutcome.TakenIn, c.Because, Deeds: []))
            .Where(r => outcome is null || outcome == (r.Row.Outcome == RunOutcome.Chosen && draft ? r.TakenIn ? RunOutcome.TakenIn : RunOutcome.LeftAlone : r.Row.Outcome))
            .ToList();
        var page = rows.Skip(skip).Take(PageSize).ToList();
        var made = draft ? null : await MadeAsync(db, id, [.. page.Select(p => p.Row.Id)], stop);
        return new CatchUpPage(
            page.ConvertAll(r => new CatchUpRow(
                r.Row.Number, r.Row.Id, r.Row.ArrivedAt, r.Row.SenderName, r.Row.SenderAddress, r.Row.Subject, r.Row.Outcome, r.TakenIn, r.Because,
                made is null ? r.Deeds : [.. made[r.Row.Id]])),
            rows.Count);
    }

    private static async Task<ILookup<long, CatchUpDeed>> MadeAsync(PostTideContext db, long id, long[] messages, CancellationToken stop)
    {
        var made = await db.Deeds.AsNoTracking().Where(d => d.RunId == id && messages.Contains(d.MessageId)).OrderBy(d => d.Id)
            .Select(d => new { d.MessageId, d.Kind, d.Target, d.Says, d.State, d.Because }).ToListAsync(stop);
        var skipped = await db.RunSkips.AsNoTracking().Where(s => s.RunId == id && messages.Contains(s.MessageId)).ToListAsync(stop);
        return made.Select(d => (d.MessageId, Deed: new CatchUpDeed(
                d.Kind, d.Target, d.Says, d.State is DeedState.Skipped or DeedState.Dropped ? d.Because : null, d.State == DeedState.Checking ? d.Because : null, false, false)))
            .Concat(skipped.Select(s => (s.MessageId, Deed: new CatchUpDeed(s.Kind, "", s.Says, s.Because, null, false, false))))
            .ToLookup(d => d.MessageId, d => d.Deed);
    }

    /// <summary>What a workflow would do with one message. Nothing is done, nothing is written down.</summary>
    private static async Task<TryView> TryAsync(long messageId, long workflowId, CatchUpSteps steps, PostTideContext db, CancellationToken stop)
    {
        var edition = await db.Editions.Where(e => e.WorkflowId == workflowId && e.State == EditionState.Live).Select(e => (int?)e.Number).SingleOrDefaultAsync(stop)
            ?? throw new RefusedException("This workflow has no live edition.");
        var run = new Run { WorkflowId = workflowId, Edition = edition };
        var step = (await steps.PlanAsync(db, run, [new RunMessage { MessageId = messageId }], stop))[0];
        return new TryView(step.Verdict, step.LeftBecause, [.. step.Decisions.Select(CatchUpDeed.Of)]);
    }

    /// <summary>Carries a workflow out on one message: a catch-up of one.</summary>
    private static async Task<long> DoAsync(long messageId, long workflowId, CatchUpRuns runs, ClaimsPrincipal user, CancellationToken stop)
    {
        var run = await runs.DraftAsync(workflowId, new CatchUpChoice(new MessageQuery(), [messageId], 1), sendReplies: false, user.DisplayName(), stop);
        await runs.ConfirmAsync(run.Id, stop);
        return run.Id;
    }
}
