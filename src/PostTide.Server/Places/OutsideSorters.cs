using Microsoft.EntityFrameworkCore;
using PostTide.Core.Sorting;
using PostTide.Destinations;
using PostTide.Engine;
using PostTide.Engine.Deeds;
using PostTide.Engine.Rehearsals;
using PostTide.Engine.Sorting;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Server.Places;

/// <summary>The outside sorter as set up. The key is never given back, only whether there is one.</summary>
public sealed record OutsideSorterSetup(bool On, string Address, string Model, bool HasKey, int MostCharacters, int TimeoutSeconds);

/// <summary>The outside sorter as it is to be; a key of null keeps the one there is.</summary>
public sealed record OutsideSorterRequest(bool On, string Address, string Model, string? Key, int MostCharacters, int TimeoutSeconds);

/// <summary>The outside sorter: set up by a keeper, off until then; what would leave; both sorters on the same mail.</summary>
internal static class OutsideSorters
{
    private const int MostCompared = 50;

    public static void MapOutsideSorters(this RouteGroupBuilder api)
    {
        var group = api.MapGroup("").WithTags("Sorters");
        group.MapGet("/setup/outside-sorter", async (PostTideContext db, CancellationToken stop) => View(await FindAsync(db, stop)));
        group.MapPut("/setup/outside-sorter", SaveAsync).RequireAuthorization(Permissions.Keeper);
        group.MapGet("/sorters/{id:long}/outside/{messageId:long}", ShowAsync);
        group.MapPost("/sorters/{id:long}/outside/{messageId:long}", AskAsync).RequireAuthorization(Permissions.Builder);
        group.MapPost("/sorters/{id:long}/outside-comparison", CompareAsync).RequireAuthorization(Permissions.Builder);
        group.MapPut("/sorters/{id:long}/asks-outside", UseAsync).RequireAuthorization(Permissions.Keeper);
    }

    private static async Task<OutsideSorterSettings> FindAsync(PostTideContext db, CancellationToken stop) =>
        await db.OutsideSorters.SingleOrDefaultAsync(o => o.Id == OutsideSorterSettings.TheOne, stop) ?? new OutsideSorterSettings();

    private static OutsideSorterSetup View(OutsideSorterSettings o) => new(o.On, o.Address, o.Model, o.Secret.Length > 0, o.MostCharacters, o.TimeoutSeconds);

    private static async Task<OutsideSorterSetup> SaveAsync(
        OutsideSorterRequest r, PostTideContext db, OutsideSecrets secrets, System.Security.Claims.ClaimsPrincipal user, TimeProvider clock, CancellationToken stop)
    {
        if (r.On && (!HttpDestination.IsUsable(r.Address) || r.Model.Trim().Length == 0))
        {
            throw new RefusedException("The outside sorter needs an http or https address and the name of a model. Nothing was changed.");
        }

        if (r.MostCharacters is < 100 or > 20_000 || r.TimeoutSeconds is < 1 or > 120)
        {
            throw new RefusedException("Between 100 and 20,000 characters of a message may leave, and an answer may take 1 to 120 seconds. Nothing was changed.");
        }

        var kept = await FindAsync(db, stop);
        if (db.Entry(kept).State == EntityState.Detached)
        {
            db.OutsideSorters.Add(kept);
        }

        // A key belongs to its address: it is not sent to another one.
        var moved = kept.Address != r.Address.Trim();
        kept.Secret = r.Key is { } key ? secrets.Protect(key) : moved ? "" : kept.Secret;
        (kept.On, kept.Address, kept.Model, kept.MostCharacters, kept.TimeoutSeconds) = (r.On, r.Address.Trim(), r.Model.Trim(), r.MostCharacters, r.TimeoutSeconds);
        db.Audit.Add(new AuditEntry { At = clock.GetUtcNow(), Person = user.DisplayName(), What = r.On ? $"Set up the outside sorter at {kept.Address}" : "Switched the outside sorter off" });
        await db.SaveChangesAsync(stop);
        await db.NotifyAsync(Changes.Setup, Changes.Sorters);
        return View(kept);
    }

    /// <summary>Exactly what would leave about a message. Nothing is sent.</summary>
    private static async Task<OutsideView> ShowAsync(long id, long messageId, PostTideContext db, PreparedMail mail, CancellationToken stop) =>
        new(await QuestionAsync(db, mail, id, messageId, stop), null, null);

    private static async Task<OutsideView> AskAsync(long id, long messageId, PostTideContext db, PreparedMail mail, OutsideAsker asker, CancellationToken stop)
    {
        var question = await QuestionAsync(db, mail, id, messageId, stop);
        var settings = await OutsideAsker.SettingsAsync(db, [id], stop);
        var answer = (await asker.AskAsync(db, [(id, (await mail.OfAsync(db, [messageId], stop))[messageId])], settings, stop))[0];
        return new OutsideView(question, answer.Problem is null ? SorterAdvice.NameOf(settings[id], answer.CategoryId) : null, answer.Problem);
    }

    /// <summary>Asks about some examples, and holds the answers against what people said, beside what the own sorter says about them unseen.</summary>
    private static async Task<OutsideComparison> CompareAsync(long id, int count, PostTideContext db, PreparedMail mail, OutsideAsker asker, CancellationToken stop)
    {
        var predictions = await db.SorterNumbers.AsNoTracking().Where(n => n.SorterId == id && n.State != SorterNumberState.Past).OrderBy(n => n.State).Select(n => n.Predictions).FirstOrDefaultAsync(stop);
        if (predictions is not { Length: > 0 })
        {
            throw new RefusedException("The sorter has no examples it was tried on yet, so there is nothing to compare.");
        }

        // Spread over all examples, the same ones every time.
        var chosen = predictions.OrderBy(p => p.Id * 2_654_435_761 % 1_000_003).Take(Math.Clamp(count, 1, MostCompared)).ToList();
        var texts = await mail.OfAsync(db, chosen.ConvertAll(p => p.Id), stop);
        chosen = chosen.Where(p => texts.ContainsKey(p.Id)).ToList();
        var answers = await asker.AskAsync(db, chosen.ConvertAll(p => (id, texts[p.Id])), await OutsideAsker.SettingsAsync(db, [id], stop), stop);
        var pairs = chosen.Zip(answers, (p, a) => (Own: p, Outside: a)).ToList();
        var answered = pairs.Where(p => p.Outside.Problem is null).ToList();
        return new OutsideComparison(
            pairs.Count, answered.Count, answered.Count(p => p.Outside.CategoryId == p.Own.Is), pairs.Count(p => p.Own.Right),
            [
                .. pairs.Where(p => p.Outside.Problem is not null || p.Outside.CategoryId != p.Own.Is || !p.Own.Right)
                    .Select(p => new OutsideDifference(p.Own.Id, texts[p.Own.Id].Subject, p.Own.Is, p.Own.Said, p.Outside.CategoryId, p.Outside.Problem)),
            ],
            answered.Count == 0 ? pairs.FirstOrDefault().Outside?.Problem : null);
    }

    private static async Task UseAsync(long id, bool on, PostTideContext db, System.Security.Claims.ClaimsPrincipal user, TimeProvider clock, CancellationToken stop)
    {
        var sorter = await db.Sorters.SingleOrDefaultAsync(s => s.Id == id, stop) ?? throw new RefusedException("This sorter is gone.");
        if (on && !(await FindAsync(db, stop)).On)
        {
            throw new RefusedException("The outside sorter is switched off in Setup. Nothing was changed.");
        }

        sorter.AsksOutside = on;
        db.Audit.Add(new AuditEntry { At = clock.GetUtcNow(), Person = user.DisplayName(), What = on ? $"Let the outside sorter decide for “{sorter.Name}”" : $"Let “{sorter.Name}” decide by itself again" });
        await db.SaveChangesAsync(stop);
        await db.NotifyAsync(Changes.Sorters, Changes.Workflows);
    }

    private static async Task<OutsideQuestion> QuestionAsync(PostTideContext db, PreparedMail mail, long id, long messageId, CancellationToken stop)
    {
        var settings = (await OutsideAsker.SettingsAsync(db, [id], stop)).GetValueOrDefault(id) ?? throw new RefusedException("This sorter is gone.");
        var message = (await mail.OfAsync(db, [messageId], stop)).GetValueOrDefault(messageId) ?? throw new RefusedException("The message is gone.");
        return OutsideQuestion.Of(settings, message, (await FindAsync(db, stop)).MostCharacters);
    }
}
