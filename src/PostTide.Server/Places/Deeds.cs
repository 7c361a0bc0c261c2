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

/// <summary>Several deeds at once; those that are no longer stuck are left as they are.</summary>
public sealed record DeedsRequest(IReadOnlyList<long> Ids);

/// <summary>How many deeds were changed.</summary>
public sealed record DeedsChanged(int Changed, int Left);

/// <summary>A stuck deed aimed elsewhere: at another destination, or at other effects in the mailbox.</summary>
public sealed record DeedChangeRequest(long? DestinationId, string? Folder);

/// <summary>Deeds that are stuck or still have to be done.</summary>
internal static class Deeds
{
    private const int Most = 200;

    public static void MapDeeds(this RouteGroupBuilder api)
    {
        var group = api.MapGroup("/deeds").WithTags("Deeds");
        group.MapGet("", (PostTideContext db, CancellationToken stop, DeedState state = DeedState.Stuck) =>
            DeedView.Select(db, db.Deeds.Where(d => d.State == state).OrderByDescending(d => d.CreatedAt).Take(Most)).ToListAsync(stop));
        var keeper = group.MapGroup("").RequireAuthorization(Permissions.Keeper);
        keeper.MapPost("/{id:long}/retry", (long id, DeedDesk desk, ClaimsPrincipal user, CancellationToken stop) => desk.RetryAsync(id, user.DisplayName(), stop));
        keeper.MapPost("/{id:long}/drop", (long id, DeedDesk desk, ClaimsPrincipal user, CancellationToken stop) => desk.DropAsync(id, user.DisplayName(), stop));
        keeper.MapPost("/{id:long}/change", (long id, DeedChangeRequest r, DeedDesk desk, ClaimsPrincipal user, CancellationToken stop) =>
            desk.ChangeAsync(id, r.DestinationId, r.Folder, user.DisplayName(), stop));
        keeper.MapPost("/retry", (DeedsRequest r, DeedDesk desk, ClaimsPrincipal user, CancellationToken stop) => EachAsync(r, id => desk.RetryAsync(id, user.DisplayName(), stop)));
        keeper.MapPost("/drop", (DeedsRequest r, DeedDesk desk, ClaimsPrincipal user, CancellationToken stop) => EachAsync(r, id => desk.DropAsync(id, user.DisplayName(), stop)));
    }

    private static async Task<DeedsChanged> EachAsync(DeedsRequest request, Func<long, Task> change)
    {
        var changed = 0;
        foreach (var id in request.Ids.Distinct())
        {
            try
            {
                await change(id);
                changed++;
            }
            catch (RefusedException)
            {
                // Somebody else was quicker; the others go on.
            }
        }

        return new DeedsChanged(changed, request.Ids.Distinct().Count() - changed);
    }
}
