using System.Collections.Immutable;
using System.Security.Claims;
using Microsoft.EntityFrameworkCore;
using PostTide.Core.Workflows;
using PostTide.Engine;
using PostTide.Engine.Deeds;
using PostTide.Engine.Planning;
using PostTide.Engine.Rehearsals;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Server.Places;

/// <summary>A workflow in the table.</summary>
public sealed record WorkflowRow(
    long Id, string Name, int Position, bool Paused, int? LiveEdition, DateTimeOffset? LiveSince, int? EditionInHand, ImmutableArray<string> Addresses,
    int Lines, int TakenInLastWeek, int DeedsLastWeek, int StuckDeeds);

/// <summary>An edition without its sheet.</summary>
public sealed record EditionRow(int Number, EditionState State, DateTimeOffset ChangedAt, string ChangedBy, DateTimeOffset? LiveSince, DateTimeOffset? LiveUntil);

/// <summary>A workflow opened: the sheet being looked at or changed, its editions, and what keeps it from going live.</summary>
public sealed record WorkflowView(
    long Id, string Name, bool Paused, Sheet Sheet, int Number, EditionState State, int Revision, IReadOnlyList<EditionRow> Editions,
    ImmutableArray<SheetProblem> Problems, ImmutableArray<SheetChange> ChangesToLive, ImmutableArray<TableFinding> Findings);

/// <summary>A name.</summary>
public sealed record NameRequest(string Name);

/// <summary>The sheet as changed, and the revision the change was made on.</summary>
public sealed record SheetRequest(Sheet Sheet, int Number, int Revision);

/// <summary>The workflows' ids in their new order.</summary>
public sealed record OrderRequest(IReadOnlyList<long> Ids);

/// <summary>Workflows: the ordered table and the sheets.</summary>
internal static class Workflows
{
    private const int LongestName = 120;

    public static void MapWorkflows(this RouteGroupBuilder api)
    {
        var group = api.MapGroup("/workflows").WithTags("Workflows");
        group.MapGet("", ListAsync);
        group.MapGet("/{id:long}", ReadAsync);
        group.MapGet("/{id:long}/editions/{number:int}", ReadEditionAsync);
        group.MapGet("/{id:long}/compare", CompareAsync);
        var builder = group.MapGroup("").RequireAuthorization(Permissions.Builder);
        builder.MapPost("", CreateAsync);
        builder.MapPut("/order", OrderAsync);
        builder.MapPut("/{id:long}/name", RenameAsync);
        builder.MapPut("/{id:long}/paused", (long id, bool paused, PostTideContext db, CancellationToken stop) => ChangeAsync(db, id, w => w.Paused = paused, stop));
        builder.MapPut("/{id:long}/sheet", SaveAsync);
        builder.MapPost("/{id:long}/live", GoLiveAsync);
        builder.MapPost("/{id:long}/discard", DiscardAsync);
        builder.MapPost("/{id:long}/bring-back", BringBackAsync);
    }

    private static async Task<List<WorkflowRow>> ListAsync(PostTideContext db, TimeProvider clock, CancellationToken stop)
    {
        var week = clock.GetUtcNow().AddDays(-7);
        var rows = await db.Workflows.AsNoTracking().Include(w => w.Editions.Where(e => e.State != EditionState.Past))
            .OrderBy(w => w.Position).ThenBy(w => w.Id).ToListAsync(stop);
        var counts = await db.Deeds.Where(d => d.WorkflowId != null && d.CreatedAt >= week).GroupBy(d => d.WorkflowId!.Value)
            .Select(g => new { g.Key, Messages = g.Select(d => d.MessageId).Distinct().Count(), Deeds = g.Count(), Stuck = g.Count(d => d.State == DeedState.Stuck) })
            .ToDictionaryAsync(g => g.Key, stop);
        return rows.ConvertAll(w =>
        {
            var live = w.Editions.FirstOrDefault(e => e.State == EditionState.Live);
            var inHand = w.Editions.FirstOrDefault(e => e.State == EditionState.InHand);
            var sheet = (live ?? inHand)?.Sheet ?? Sheet.Empty;
            var count = counts.GetValueOrDefault(w.Id);
            return new WorkflowRow(
                w.Id, w.Name, w.Position, w.Paused, live?.Number, live?.LiveSince, inHand?.Number, sheet.Addresses, sheet.Lines.Length,
                count?.Messages ?? 0, count?.Deeds ?? 0, count?.Stuck ?? 0);
        });
    }

    private static async Task<WorkflowView> ReadAsync(long id, PostTideContext db, PlanningSetup setup, CancellationToken stop)
    {
        var workflow = await FindAsync(db, id, stop);
        var current = workflow.Editions.OrderBy(e => e.State).ThenByDescending(e => e.Number).First();
        var live = workflow.Editions.FirstOrDefault(e => e.State == EditionState.Live);
        var context = (await setup.ReadAsync(db, stop)).Context;
        return new WorkflowView(
            workflow.Id, workflow.Name, workflow.Paused, current.Sheet, current.Number, current.State, current.Revision,
            [.. workflow.Editions.OrderByDescending(e => e.Number).Select(e => new EditionRow(e.Number, e.State, e.ChangedAt, e.ChangedBy, e.LiveSince, e.LiveUntil))],
            SheetCheck.Check(current.Sheet, context),
            live is null || live == current ? [] : EditionComparison.Between(live.Sheet, current.Sheet, context),
            TableAnalysis.Of(current.Sheet, context.SavedConditions));
    }

    private static async Task<Sheet> ReadEditionAsync(long id, int number, PostTideContext db, CancellationToken stop) =>
        Edition(await FindAsync(db, id, stop), number).Sheet;

    private static async Task<ImmutableArray<SheetChange>> CompareAsync(
        long id, int from, int to, PostTideContext db, PlanningSetup setup, CancellationToken stop)
    {
        var workflow = await FindAsync(db, id, stop);
        return EditionComparison.Between(Edition(workflow, from).Sheet, Edition(workflow, to).Sheet, (await setup.ReadAsync(db, stop)).Context);
    }

    private static async Task<Named> CreateAsync(NameRequest request, PostTideContext db, TimeProvider clock, ClaimsPrincipal user, CancellationToken stop)
    {
        var workflow = new Workflow { Name = NameOf(request), Position = await db.Workflows.CountAsync(stop) };
        workflow.Editions.Add(new WorkflowEdition
        {
            Number = 1,
            State = EditionState.InHand,
            Sheet = Sheet.Empty,
            ChangedAt = clock.GetUtcNow(),
            ChangedBy = user.DisplayName(),
        });
        db.Workflows.Add(workflow);
        await CommitAsync(db, stop);
        return new Named(workflow.Id, workflow.Name);
    }

    private static async Task OrderAsync(OrderRequest request, PostTideContext db, CancellationToken stop)
    {
        foreach (var workflow in await db.Workflows.ToListAsync(stop))
        {
            var place = request.Ids.ToList().IndexOf(workflow.Id);
            workflow.Position = place < 0 ? request.Ids.Count : place;
        }

        await CommitAsync(db, stop);
    }

    private static Task RenameAsync(long id, NameRequest request, PostTideContext db, CancellationToken stop) =>
        ChangeAsync(db, id, w => w.Name = NameOf(request), stop);

    /// <summary>Saves a changed sheet as the edition in hand; the first change of a live workflow begins a new one.</summary>
    private static async Task<WorkflowView> SaveAsync(
        long id, SheetRequest request, PostTideContext db, PlanningSetup setup, TimeProvider clock, ClaimsPrincipal user, CancellationToken stop)
    {
        var workflow = await FindAsync(db, id, stop);
        var inHand = workflow.Editions.FirstOrDefault(e => e.State == EditionState.InHand);
        if (inHand is null)
        {
            inHand = NewInHand(workflow, request.Sheet);
            db.Editions.Add(inHand);
        }
        else if (inHand.Number != request.Number || inHand.Revision != request.Revision)
        {
            throw new RefusedException("Somebody else changed this sheet in the meantime. Your last change was not saved; the sheet now shows theirs.");
        }

        inHand.Sheet = request.Sheet;
        inHand.Revision++;
        (inHand.ChangedAt, inHand.ChangedBy) = (clock.GetUtcNow(), user.DisplayName());
        await CommitAsync(db, stop);
        return await ReadAsync(id, db, setup, stop);
    }

    private static async Task<WorkflowView> GoLiveAsync(
        long id, PostTideContext db, PlanningSetup setup, WorkflowHelp help, TimeProvider clock, ClaimsPrincipal user, CancellationToken stop, bool despiteExamples = false)
    {
        var workflow = await FindAsync(db, id, stop);
        var inHand = workflow.Editions.FirstOrDefault(e => e.State == EditionState.InHand)
            ?? throw new RefusedException("There is no edition in hand.");
        if (SheetCheck.Check(inHand.Sheet, (await setup.ReadAsync(db, stop)).Context) is { Length: > 0 } problems)
        {
            throw new RefusedException($"It cannot go live yet: {problems[0].Text}");
        }

        if (!despiteExamples && (await help.ExamplesAsync(db, id, stop)).Examples.Count(e => e.Fails) is > 0 and var failing)
        {
            throw new RefusedException($"It was not put live: {(failing == 1 ? "a kept example fails" : $"{failing} kept examples fail")}.");
        }

        var now = clock.GetUtcNow();
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        if (workflow.Editions.FirstOrDefault(e => e.State == EditionState.Live) is { } live)
        {
            (live.State, live.LiveUntil) = (EditionState.Past, now);

            // First this one, or the index that allows one live edition would see two.
            await db.SaveChangesAsync(stop);
        }

        (inHand.State, inHand.LiveSince, inHand.ChangedBy) = (EditionState.Live, now, user.DisplayName());
        db.Audit.Add(new AuditEntry { At = now, Person = user.DisplayName(), What = $"Put edition {inHand.Number} of “{workflow.Name}” live" });
        await CommitAsync(db, stop);
        await transaction.CommitAsync(stop);
        return await ReadAsync(id, db, setup, stop);
    }

    private static async Task<WorkflowView> DiscardAsync(long id, PostTideContext db, PlanningSetup setup, CancellationToken stop)
    {
        var workflow = await FindAsync(db, id, stop);
        if (workflow.Editions.FirstOrDefault(e => e.State == EditionState.InHand) is { } inHand && workflow.Editions.Count > 1)
        {
            db.Editions.Remove(inHand);
            await CommitAsync(db, stop);
        }

        return await ReadAsync(id, db, setup, stop);
    }

    /// <summary>An earlier edition comes back as the edition in hand.</summary>
    private static async Task<WorkflowView> BringBackAsync(
        long id, int number, PostTideContext db, PlanningSetup setup, TimeProvider clock, ClaimsPrincipal user, CancellationToken stop)
    {
        var workflow = await FindAsync(db, id, stop);
        var sheet = Edition(workflow, number).Sheet;
        var inHand = workflow.Editions.FirstOrDefault(e => e.State == EditionState.InHand);
        if (inHand is null)
        {
            inHand = NewInHand(workflow, sheet);
            db.Editions.Add(inHand);
        }

        inHand.Sheet = sheet;
        inHand.Revision++;
        (inHand.ChangedAt, inHand.ChangedBy) = (clock.GetUtcNow(), user.DisplayName());
        await CommitAsync(db, stop);
        return await ReadAsync(id, db, setup, stop);
    }

    private static WorkflowEdition NewInHand(Workflow workflow, Sheet sheet) =>
        new() { WorkflowId = workflow.Id, Number = workflow.Editions.Max(e => e.Number) + 1, State = EditionState.InHand, Sheet = sheet };

    private static WorkflowEdition Edition(Workflow workflow, int number) =>
        workflow.Editions.FirstOrDefault(e => e.Number == number) ?? throw new RefusedException($"There is no edition {number}.");

    private static async Task<Workflow> FindAsync(PostTideContext db, long id, CancellationToken stop) =>
        await db.Workflows.Include(w => w.Editions).SingleOrDefaultAsync(w => w.Id == id, stop) ?? throw new RefusedException("This workflow is gone.");

    private static async Task ChangeAsync(PostTideContext db, long id, Action<Workflow> change, CancellationToken stop)
    {
        change(await FindAsync(db, id, stop));
        await CommitAsync(db, stop);
    }

    private static async Task CommitAsync(PostTideContext db, CancellationToken stop)
    {
        await db.SaveChangesAsync(stop);
        await db.NotifyAsync(Changes.Workflows);
    }

    private static string NameOf(NameRequest request) => request.Name.Trim() is { Length: > 0 and <= LongestName } name
        ? name
        : throw new RefusedException($"A workflow needs a name of at most {LongestName} characters.");
}
