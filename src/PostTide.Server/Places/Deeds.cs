using System.Security.Claims;
using Microsoft.EntityFrameworkCore;
using PostTide.Core.Workflows;
using PostTide.Engine.Deeds;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Server.Places;

/// <summary>One change in a deed's history.</summary>
public sealed record DeedChangeView(DeedState State, DateTimeOffset At, string? Note, string? Person);

/// <summary>A deed with its history.</summary>
public sealed record DeedView(
    long Id, long MessageId, string MessageSubject, DeedKind Kind, string Says, DeedState State, string? Because, int Attempts, DateTimeOffset CreatedAt,
    DateTimeOffset? NotBefore, DateTimeOffset? DoneAt, string? Workflow, int? Edition, IReadOnlyList<DeedChangeView> History)
{
    /// <summary>Selects deeds for showing, history and all.</summary>
    public static IQueryable<DeedView> Select(PostTideContext db, IQueryable<Deed> deeds) => deeds.AsNoTracking().Select(d => new DeedView(
        d.Id, d.MessageId, db.Messages.Where(m => m.Id == d.MessageId).Select(m => m.Subject).First(), d.Kind, d.Says, d.State, d.Because, d.Attempts,
        d.CreatedAt, d.NotBefore, d.DoneAt, db.Workflows.Where(w => w.Id == d.WorkflowId).Select(w => w.Name).FirstOrDefault(), d.Edition,
        d.History.OrderBy(h => h.At).ThenBy(h => h.Id).Select(h => new DeedChangeView(h.State, h.At, h.Note, h.Person)).ToList()));
}

/// <summary>Deeds that are stuck or still have to be done.</summary>
internal static class Deeds
{
    private const int Most = 200;

    public static void MapDeeds(this RouteGroupBuilder api)
    {
        var group = api.MapGroup("/deeds").WithTags("Deeds");
        group.MapGet("", (PostTideContext db, CancellationToken stop, DeedState state = DeedState.Stuck) =>
            DeedView.Select(db, db.Deeds.Where(d => d.State == state).OrderByDescending(d => d.CreatedAt).Take(Most)).ToListAsync(stop));
        var keeper = group.MapGroup("/{id:long}").RequireAuthorization(Permissions.Keeper);
        keeper.MapPost("/retry", (long id, DeedDesk desk, ClaimsPrincipal user, CancellationToken stop) => desk.RetryAsync(id, user.DisplayName(), stop));
        keeper.MapPost("/drop", (long id, DeedDesk desk, ClaimsPrincipal user, CancellationToken stop) => desk.DropAsync(id, user.DisplayName(), stop));
    }
}
