using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using PostTide.Core.Workflows;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Server.Places;

/// <summary>
/// A run with its accounts. For a look: looked at = taken + here already + gone + carried over. For a catch-up: chosen = taken in +
/// left alone + still to come, and planned = done + waiting + stuck + skipped. All are counted from the records.
/// </summary>
public sealed record RunView(
    long Id, RunKind Kind, RunState State, long? MailboxId, string? Mailbox, long? WorkflowId, string? Workflow, int? Edition, string? Person, DateTimeOffset StartedAt,
    DateTimeOffset? EndedAt, string Choice, bool SendReplies, string? Problem, string? Detail, int LookedAt, int CarriedOver, int Taken, int Known, int Gone,
    int Unreadable, int Excluded, int TakenIn, int LeftAlone, int ToCome, int Planned, int Done, int Waiting, int Stuck, int Skipped)
{
    /// <summary>Selects runs with everything counted.</summary>
    public static IQueryable<RunView> Select(PostTideContext db, IQueryable<Run> runs) => runs.AsNoTracking().Select(r => new RunView(
        r.Id, r.Kind, r.State, r.MailboxId, db.Mailboxes.Where(m => m.Id == r.MailboxId).Select(m => m.Name).FirstOrDefault(), r.WorkflowId,
        db.Workflows.Where(w => w.Id == r.WorkflowId).Select(w => w.Name).FirstOrDefault(), r.Edition, r.Person, r.StartedAt, r.EndedAt, r.Choice, r.SendReplies,
        r.Problem, r.Detail, r.LookedAt, r.CarriedOver,
        db.Messages.Count(m => m.RunId == r.Id),
        db.RunMessages.Count(m => m.RunId == r.Id && m.Outcome == RunOutcome.Known),
        db.RunMessages.Count(m => m.RunId == r.Id && m.Outcome == RunOutcome.Gone),
        db.Messages.Count(m => m.RunId == r.Id && m.State == MessageState.Unreadable),
        db.RunMessages.Count(m => m.RunId == r.Id && m.Outcome == RunOutcome.Excluded),
        db.RunMessages.Count(m => m.RunId == r.Id && m.Outcome == RunOutcome.TakenIn),
        db.RunMessages.Count(m => m.RunId == r.Id && m.Outcome == RunOutcome.LeftAlone),
        db.RunMessages.Count(m => m.RunId == r.Id && m.Outcome == RunOutcome.Chosen),
        db.Deeds.Count(d => d.RunId == r.Id) + db.RunSkips.Count(s => s.RunId == r.Id),
        db.Deeds.Count(d => d.RunId == r.Id && d.State == DeedState.Done),
        db.Deeds.Count(d => d.RunId == r.Id && (d.State == DeedState.Waiting || d.State == DeedState.Checking || d.State == DeedState.Delayed || d.State == DeedState.UnderWay)),
        db.Deeds.Count(d => d.RunId == r.Id && d.State == DeedState.Stuck),
        db.Deeds.Count(d => d.RunId == r.Id && (d.State == DeedState.Skipped || d.State == DeedState.Dropped)) + db.RunSkips.Count(s => s.RunId == r.Id)));
}

/// <summary>A message of a run that was not simply taken, or a deed that was not made, with the reason.</summary>
public sealed record RunLine(long? MessageId, string Subject, string Source, string What, string? Because);

/// <summary>A page of runs; the next one begins before the id, null when there is none.</summary>
public sealed record RunPage(IReadOnlyList<RunView> Runs, long? NextId);

/// <summary>A page of deeds; the next one begins before the id, null when there is none.</summary>
public sealed record DeedPage(IReadOnlyList<DeedView> Deeds, long? NextId, int? Total);

/// <summary>What a list of deeds shows of their states.</summary>
public enum DeedShow
{
    All,
    Done,
    Waiting,
    Stuck,
    Skipped,
}

/// <summary>The log: looks, catch-ups and deeds, found by what one remembers of them.</summary>
internal static class LogPlace
{
    private const int PageSize = 40;
    private const int MostLines = 300;

    public static void MapLog(this RouteGroupBuilder api)
    {
        var group = api.MapGroup("/log").WithTags("Log");
        group.MapGet("/runs", ListRunsAsync);
        group.MapGet("/runs/{id:long}", ReadRunAsync);
        group.MapGet("/runs/{id:long}/lines", ReadLinesAsync);
        group.MapGet("/deeds", ListDeedsAsync);
    }

    private static async Task<RunPage> ListRunsAsync(
        PostTideContext db, CancellationToken stop, RunKind? kind = null, long? mailboxId = null, long? workflowId = null, RunState? state = null, string text = "",
        DateTimeOffset? from = null, DateTimeOffset? until = null, long? beforeId = null)
    {
        var part = $"%{text.Trim()}%";
        var (begin, end) = (from?.ToUniversalTime(), until?.ToUniversalTime());
        var runs = db.Runs.Where(r => (kind == null || r.Kind == kind) && (mailboxId == null || r.MailboxId == mailboxId) && (workflowId == null || r.WorkflowId == workflowId)
            && (state == null || r.State == state) && (begin == null || r.StartedAt >= begin) && (end == null || r.StartedAt < end) && (beforeId == null || r.Id < beforeId));
        if (text.Trim().Length > 0)
        {
            runs = runs.Where(r => EF.Functions.ILike(r.Choice, part) || EF.Functions.ILike(r.Problem ?? "", part) || EF.Functions.ILike(r.Detail ?? "", part)
                || EF.Functions.ILike(r.Person ?? "", part));
        }

        var page = await RunView.Select(db, runs.OrderByDescending(r => r.Id).Take(PageSize)).ToListAsync(stop);
        return new RunPage([.. page.OrderByDescending(r => r.Id)], page.Count == PageSize ? page.Min(r => r.Id) : null);
    }

    private static async Task<Results<Ok<RunView>, NotFound>> ReadRunAsync(long id, PostTideContext db, CancellationToken stop) =>
        await RunView.Select(db, db.Runs.Where(r => r.Id == id)).SingleOrDefaultAsync(stop) is { } run ? TypedResults.Ok(run) : TypedResults.NotFound();

    /// <summary>The messages a run left alone, did not find or could not read, and the deeds it did not make, each with its reason.</summary>
    private static async Task<List<RunLine>> ReadLinesAsync(long id, PostTideContext db, CancellationToken stop)
    {
        var messages = await db.RunMessages.AsNoTracking().Where(m => m.RunId == id && m.Outcome != RunOutcome.TakenIn && m.Outcome != RunOutcome.Chosen).OrderBy(m => m.Number)
            .Take(MostLines)
            .Select(m => new { m.MessageId, Subject = db.Messages.Where(x => x.Id == m.MessageId).Select(x => x.Subject).FirstOrDefault(), m.Source, m.Outcome, m.Because })
            .ToListAsync(stop);
        var unreadable = await db.Messages.AsNoTracking().Where(m => m.RunId == id && m.State == MessageState.Unreadable).OrderBy(m => m.Id).Take(MostLines)
            .Select(m => new { m.Id, m.Subject, m.SourceKey, m.Problem }).ToListAsync(stop);
        var skips = await db.RunSkips.AsNoTracking().Where(s => s.RunId == id).OrderBy(s => s.Id).Take(MostLines)
            .Select(s => new { s.MessageId, Subject = db.Messages.Where(x => x.Id == s.MessageId).Select(x => x.Subject).First(), s.Says, s.Because }).ToListAsync(stop);
        return
        [
            .. messages.Select(m => new RunLine(m.MessageId, m.Subject ?? "", m.Source, m.Outcome.ToString(), m.Because)),
            .. unreadable.Select(m => new RunLine(m.Id, m.Subject, m.SourceKey, nameof(MessageState.Unreadable), m.Problem)),
            .. skips.Select(s => new RunLine(s.MessageId, s.Subject, "", s.Says, s.Because)),
        ];
    }

    private static async Task<DeedPage> ListDeedsAsync(
        PostTideContext db, CancellationToken stop, DeedShow show = DeedShow.All, DeedKind? kind = null, long? workflowId = null, long? mailboxId = null, long? runId = null,
        string text = "", DateTimeOffset? from = null, DateTimeOffset? until = null, long? beforeId = null)
    {
        var states = StatesOf(show);
        var (begin, end) = (from?.ToUniversalTime(), until?.ToUniversalTime());
        var deeds = db.Deeds.Where(d => states.Contains(d.State) && (kind == null || d.Kind == kind) && (workflowId == null || d.WorkflowId == workflowId)
            && (runId == null || d.RunId == runId) && (begin == null || d.CreatedAt >= begin) && (end == null || d.CreatedAt < end)
            && (mailboxId == null || db.Messages.Any(m => m.Id == d.MessageId && m.MailboxId == mailboxId)));
        if (text.Trim().Length > 0)
        {
            var part = $"%{text.Trim()}%";
            deeds = deeds.Where(d => EF.Functions.ILike(d.Says, part) || EF.Functions.ILike(d.Because ?? "", part)
                || db.Messages.Any(m => m.Id == d.MessageId && (EF.Functions.ILike(m.Subject, part) || EF.Functions.ILike(m.SenderAddress, part))));
        }

        var total = beforeId is null ? await deeds.CountAsync(stop) : (int?)null;
        var page = await DeedView.Select(db, deeds.Where(d => beforeId == null || d.Id < beforeId).OrderByDescending(d => d.Id).Take(PageSize)).ToListAsync(stop);
        return new DeedPage([.. page.OrderByDescending(d => d.Id)], page.Count == PageSize ? page.Min(d => d.Id) : null, total);
    }

    private static DeedState[] StatesOf(DeedShow show) => show switch
    {
        DeedShow.Done => [DeedState.Done],
        DeedShow.Waiting => [DeedState.Waiting, DeedState.Checking, DeedState.Delayed, DeedState.UnderWay],
        DeedShow.Stuck => [DeedState.Stuck],
        DeedShow.Skipped => [DeedState.Skipped, DeedState.Dropped],
        _ => Enum.GetValues<DeedState>(),
    };
}
