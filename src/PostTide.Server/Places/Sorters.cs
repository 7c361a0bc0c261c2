using System.Collections.Immutable;
using System.Security.Claims;
using Microsoft.EntityFrameworkCore;
using PostTide.Core.Sorting;
using PostTide.Engine.Deeds;
using PostTide.Engine.Sorting;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Server.Places;

/// <summary>Sorters: their settings and numbers, how good they are, and the labels they learn from.</summary>
internal static class Sorters
{
    private const int ForecastOf = 30;
    private const int PageSize = 50;
    private const int Nearest = 5;
    private const int MostNext = 20;
    private static readonly TimeSpan Lately = TimeSpan.FromDays(28);
    private static readonly TimeSpan LooksBack = TimeSpan.FromDays(7 * 13);

    public static void MapSorters(this RouteGroupBuilder api)
    {
        var group = api.MapGroup("/sorters").WithTags("Sorters");
        group.MapGet("", ListAsync);
        group.MapGet("/{id:long}", ReadAsync);
        group.MapGet("/{id:long}/examples", ExamplesAsync);
        group.MapGet("/{id:long}/next", NextAsync);
        group.MapGet("/{id:long}/reasons/{messageId:long}", ReasonsAsync);
        group.MapGet("/{id:long}/over-time", OverTimeAsync);
        var builder = group.MapGroup("").RequireAuthorization(Permissions.Builder);
        builder.MapPost("", async (NameRequest r, SorterNumbers numbers, ClaimsPrincipal user, CancellationToken stop) =>
            (await numbers.CreateAsync(r.Name, user.DisplayName(), stop)) is var made ? new Named(made.Id, made.Name) : null);
        builder.MapPut("/{id:long}/name", (long id, NameRequest r, SorterNumbers numbers, CancellationToken stop) => numbers.RenameAsync(id, r.Name, stop));
        builder.MapDelete("/{id:long}", (long id, SorterNumbers numbers, CancellationToken stop) => numbers.RemoveAsync(id, stop));
        builder.MapPut("/{id:long}/settings", (long id, SorterSettingsRequest r, SorterNumbers numbers, ClaimsPrincipal user, CancellationToken stop) =>
            numbers.SaveAsync(id, r.Settings, r.Number, r.Revision, user.DisplayName(), stop));
        builder.MapPost("/{id:long}/use", (long id, int number, SorterNumbers numbers, ClaimsPrincipal user, CancellationToken stop) => numbers.UseAsync(id, number, user.DisplayName(), stop));
        builder.MapPost("/{id:long}/discard", (long id, SorterNumbers numbers, CancellationToken stop) => numbers.DiscardAsync(id, stop));
        builder.MapPut("/{id:long}/labels", LabelAsync);
        builder.MapDelete("/{id:long}/labels/{messageId:long}", (long id, long messageId, SorterLabels labels, ClaimsPrincipal user, CancellationToken stop) =>
            labels.RemoveAsync(id, messageId, user.DisplayName(), stop));
        builder.MapPost("/{id:long}/gather", (long id, GatherRequest r, SorterLabels labels, ClaimsPrincipal user, CancellationToken stop) =>
            labels.GatherAsync(id, r.From, r.Id, r.CategoryId, r.Most, r.Write, user.DisplayName(), stop));
    }

    private static async Task<List<SorterRow>> ListAsync(PostTideContext db, SorterNumbers numbers, CancellationToken stop)
    {
        var sorters = await db.Sorters.AsNoTracking().OrderBy(s => s.Name).Select(s => new { s.Id, s.Name }).ToListAsync(stop);
        var current = await db.SorterNumbers.AsNoTracking().Where(n => n.State != SorterNumberState.Past)
            .Select(n => new { n.SorterId, n.Number, n.State, n.Settings, n.Evaluation }).ToListAsync(stop);
        var examples = await db.SorterLabels.GroupBy(l => l.SorterId).Select(g => new { g.Key, Count = g.Count() }).ToDictionaryAsync(g => g.Key, g => g.Count, stop);
        var rows = new List<SorterRow>();
        foreach (var sorter in sorters)
        {
            var inUse = current.FirstOrDefault(n => n.SorterId == sorter.Id && n.State == SorterNumberState.InUse);
            var inHand = current.FirstOrDefault(n => n.SorterId == sorter.Id && n.State == SorterNumberState.InHand);
            var shown = inUse ?? inHand;
            rows.Add(new SorterRow(
                sorter.Id, sorter.Name, inUse?.Number, inHand?.Number, shown?.Settings.Categories.Length ?? 0, examples.GetValueOrDefault(sorter.Id),
                shown?.Evaluation?.Decided, shown?.Evaluation?.DecidedRight, [.. (await numbers.UsedByAsync(sorter.Id, stop)).Select(u => u.Name)]));
        }

        return rows;
    }

    private static async Task<SorterView> ReadAsync(
        long id, PostTideContext db, SorterNumbers numbers, SorterLooks looks, TrainingProgress progress, TimeProvider clock, CancellationToken stop)
    {
        var sorter = await db.Sorters.AsNoTracking().SingleOrDefaultAsync(s => s.Id == id, stop) ?? throw new RefusedException("This sorter is gone.");
        var all = await db.SorterNumbers.AsNoTracking().Where(n => n.SorterId == id).OrderByDescending(n => n.Number)
            .Select(n => new
            {
                n.Settings,
                n.Revision,
                n.Evaluation,
                Row = new SorterNumberView(
                    n.Number, n.State, n.ChangedAt, n.ChangedBy, n.TrainedAt, n.TrainedOn, n.TrainedIn, n.Model != null, n.UsedSince, n.UsedUntil, n.Problem),
            }).ToListAsync(stop);
        var shown = all.OrderBy(n => n.Row.State).ThenByDescending(n => n.Row.Number).First();
        var inUse = all.FirstOrDefault(n => n.Row.State == SorterNumberState.InUse);
        var labels = await db.SorterLabels.AsNoTracking().Where(l => l.SorterId == id).Select(l => new { l.CategoryId, l.At }).ToListAsync(stop);
        var examples = labels.CountBy(l => l.CategoryId ?? "").ToDictionary(c => c.Key, c => c.Value);
        var due = shown.Row.State == SorterNumberState.InHand && (shown.Row.TrainedAt is null || shown.Row.ChangedAt > shown.Row.TrainedAt);
        var current = await looks.CurrentAsync(db, id, stop);
        return new SorterView(
            id, sorter.Name, sorter.AsksOutside, shown.Settings, shown.Row.Number, shown.Row.State, shown.Revision, due, progress.Of(id), [.. all.Select(n => n.Row)],
            shown.Evaluation, current?.Trained is { } trained ? FloorsOf(trained) : ImmutableDictionary<string, double>.Empty,
            inUse is null || inUse == shown ? null : await CompareAsync(db, id, inUse.Evaluation, stop), inUse == shown ? null : inUse?.Evaluation,
            examples, labels.Count(l => l.At >= clock.GetUtcNow().UtcDateTime.Date), SorterAdvice.On(shown.Settings, examples, shown.Evaluation),
            shown.Evaluation is { } evaluation ? LearningForecast.Of(evaluation, ForecastOf) : null,
            [.. (await numbers.UsedByAsync(id, stop)).Select(u => new Named(u.Id, u.Name))]);
    }

    /// <summary>The floor of every category; an empty key stands for none of these.</summary>
    private static Dictionary<string, double> FloorsOf(TrainedSorter trained) =>
        trained.Settings.Categories.Select(c => (string?)c.Id).Append(null).ToDictionary(c => c ?? "", trained.Floors.For);

    /// <summary>On the examples both numbers were tried on: how many are right now that were wrong, and the reverse.</summary>
    private static async Task<SorterComparison?> CompareAsync(PostTideContext db, long id, SorterEvaluation? before, CancellationToken stop)
    {
        var both = await db.SorterNumbers.AsNoTracking().Where(n => n.SorterId == id && n.State != SorterNumberState.Past).OrderBy(n => n.State).Select(n => n.Predictions).ToListAsync(stop);
        if (before is null || both is not [{ } now, { } was])
        {
            return null;
        }

        var known = was.ToDictionary(p => p.Id);
        var pairs = now.Where(p => known.ContainsKey(p.Id)).Select(p => (Now: p, Was: known[p.Id].Said == p.Is)).ToList();
        return new SorterComparison(
            pairs.Count, pairs.Count(p => p.Now.Right && !p.Was), pairs.Count(p => !p.Now.Right && p.Was), before.Decided.Value, before.MacroF1, before.CalibrationError);
    }

    /// <summary>
    /// Examples, all of them or those behind a count: a cell of the confusion table (<c>is</c>, <c>said</c>, <c>unsure</c>), the doubtful
    /// ones, or what changed against the number in use. An empty <c>is</c> or <c>said</c> stands for none of these.
    /// </summary>
    private static async Task<ExamplePage> ExamplesAsync(
        long id, PostTideContext db, SorterLooks looks, CancellationToken stop, string? @is = null, string? said = null, bool? unsure = null, bool doubtful = false, bool? changedTo = null, int from = 0)
    {
        var labels = await db.SorterLabels.AsNoTracking().Where(l => l.SorterId == id).OrderByDescending(l => l.At).ThenByDescending(l => l.MessageId).ToListAsync(stop);
        var numbers = await db.SorterNumbers.AsNoTracking().Where(n => n.SorterId == id && n.State != SorterNumberState.Past).OrderBy(n => n.State)
            .Select(n => new { n.Predictions, n.Evaluation }).ToListAsync(stop);
        var predictions = (numbers.Count > 0 ? numbers[0].Predictions ?? [] : []).ToDictionary(p => p.Id);
        var before = (numbers.Count > 1 ? numbers[1].Predictions ?? [] : []).ToDictionary(p => p.Id);
        var wrong = (numbers.Count > 0 ? numbers[0].Evaluation?.Doubtful ?? [] : []).ToHashSet();
        var floors = (await looks.CurrentAsync(db, id, stop))?.Trained?.Floors ?? Floors.Closed;
        var chosen = labels.Where(l =>
        {
            var prediction = predictions.GetValueOrDefault(l.MessageId);
            return (@is is null || (l.CategoryId ?? "") == @is)
                && (said is null || (prediction is not null && (prediction.Said ?? "") == said))
                && (unsure is null || (prediction is not null && prediction.Surety < floors.For(prediction.Said) == unsure))
                && (!doubtful || wrong.Contains(l.MessageId))
                && (changedTo is null || (prediction is not null && before.TryGetValue(l.MessageId, out var was) && prediction.Right == changedTo && (was.Said == prediction.Is) != changedTo));
        }).ToList();
        var page = chosen.Skip(Math.Max(0, from)).Take(PageSize).ToList();
        var ids = page.ConvertAll(l => l.MessageId);
        var messages = await db.Messages.AsNoTracking().Where(m => ids.Contains(m.Id)).Select(m => new { m.Id, m.ArrivedAt, m.SenderAddress, m.Subject }).ToDictionaryAsync(m => m.Id, stop);
        return new ExamplePage(
            page.ConvertAll(l => new ExampleRow(
                l.MessageId, messages[l.MessageId].ArrivedAt, messages[l.MessageId].SenderAddress, messages[l.MessageId].Subject, l.CategoryId, l.Source, l.By, l.At,
                predictions.GetValueOrDefault(l.MessageId))),
            chosen.Count);
    }

    private static async Task<List<SorterLookView>> NextAsync(
        long id, PostTideContext db, SorterLooks looks, CancellationToken stop, int count = 5, [Microsoft.AspNetCore.Mvc.FromQuery] long[]? passed = null) =>
        [.. (await looks.NextAsync(db, id, Math.Clamp(count, 1, MostNext), passed ?? [], stop)).Select(l => new SorterLookView(l.Message, l.Sureties, l.Explanation))];

    private static async Task<SorterReasons> ReasonsAsync(long id, long messageId, PostTideContext db, SorterLooks looks, SorterLibrary library, CancellationToken stop, bool inHand = false)
    {
        var sorter = inHand ? await looks.CurrentAsync(db, id, stop) : (await library.InUseAsync(db, stop)).GetValueOrDefault(id);
        if (sorter?.Trained is null)
        {
            throw new RefusedException("This sorter is not trained yet, so it has nothing to say about the message.");
        }

        var look = await looks.LookAsync(db, sorter, messageId, stop);
        var near = await looks.NearestAsync(db, sorter, look.Message, Nearest, stop);
        var ids = near.Select(n => n.Id).ToArray();
        var messages = await db.Messages.AsNoTracking().Where(m => ids.Contains(m.Id)).Select(m => new { m.Id, m.Subject, m.SenderAddress }).ToDictionaryAsync(m => m.Id, stop);
        return new SorterReasons(
            sorter.Number, look.Sureties, look.Explanation,
            [.. near.Select(n => new NearExampleRow(n.Id, messages[n.Id].Subject, messages[n.Id].SenderAddress, n.CategoryId, n.Likeness))]);
    }

    private static async Task<LabelBefore> LabelAsync(long id, LabelRequest r, SorterLabels labels, ClaimsPrincipal user, CancellationToken stop)
    {
        var before = await labels.SetAsync(id, r.MessageId, r.CategoryId, LabelSource.Labelling, user.DisplayName(), stop);
        return new LabelBefore(before is not null, before?.CategoryId);
    }

    /// <summary>What became of live mail week by week, and whether mail has changed since.</summary>
    private static async Task<SorterOverTime> OverTimeAsync(long id, PostTideContext db, TimeProvider clock, CancellationToken stop)
    {
        var now = clock.GetUtcNow();
        var since = now - LooksBack;
        var rows = await db.Database.SqlQuery<WeekRow>(
            $"""
            SELECT date_trunc('week', s.at AT TIME ZONE 'UTC')::date AS monday, s.category_id,
                count(*) FILTER (WHERE NOT s.unsure)::int AS decided,
                count(*) FILTER (WHERE NOT s.unsure AND l.message_id IS NOT NULL AND l.category_id IS DISTINCT FROM s.category_id)::int AS corrected,
                count(*) FILTER (WHERE s.unsure)::int AS unsure
            FROM sorted_messages s
            LEFT JOIN sorter_labels l ON l.sorter_id = s.sorter_id AND l.message_id = s.message_id AND l.at > s.at
            WHERE s.sorter_id = {id} AND s.at >= {since}
            GROUP BY 1, 2 ORDER BY 1, 2
            """).ToListAsync(stop);
        var weeks = rows.ConvertAll(r => new SortedWeek(r.Monday, r.CategoryId, r.Decided, r.Corrected, r.Unsure));
        var inUse = await db.SorterNumbers.AsNoTracking().Where(n => n.SorterId == id && n.State == SorterNumberState.InUse).Select(n => n.Evaluation).SingleOrDefaultAsync(stop);
        var lately = weeks.Where(w => w.Monday > DateOnly.FromDateTime((now - Lately).UtcDateTime)).ToList();
        return new SorterOverTime(weeks, inUse is null ? null : SorterDrift.Of(lately, inUse));
    }

    private sealed record WeekRow(DateOnly Monday, string? CategoryId, int Decided, int Corrected, int Unsure);
}
