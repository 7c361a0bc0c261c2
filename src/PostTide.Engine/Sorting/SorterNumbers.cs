using Microsoft.EntityFrameworkCore;
using PostTide.Core.Sorting;
using PostTide.Engine.Deeds;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Engine.Sorting;

/// <summary>Sorters and their numbers: made, changed in hand, put into use by a person, brought back.</summary>
public sealed class SorterNumbers(PostTideContext db, TimeProvider clock)
{
    private const int LongestName = 120;

    /// <summary>Makes a sorter with an empty number 1 in hand.</summary>
    public async Task<Sorter> CreateAsync(string name, string person, CancellationToken stop)
    {
        var sorter = new Sorter { Name = await FreeNameAsync(name, null, stop) };
        sorter.Numbers.Add(new SorterNumber { Number = 1, State = SorterNumberState.InHand, Settings = SorterSettings.Empty, ChangedAt = clock.GetUtcNow(), ChangedBy = person });
        db.Sorters.Add(sorter);
        await SaveAsync(stop);
        return sorter;
    }

    public async Task RenameAsync(long sorterId, string name, CancellationToken stop)
    {
        var sorter = await db.Sorters.SingleOrDefaultAsync(s => s.Id == sorterId, stop) ?? throw Gone();
        sorter.Name = await FreeNameAsync(name, sorterId, stop);
        await SaveAsync(stop);
    }

    /// <summary>Removes a sorter with its labels.</summary>
    /// <exception cref="RefusedException">A workflow asks it.</exception>
    public async Task RemoveAsync(long sorterId, CancellationToken stop)
    {
        if (await UsedByAsync(sorterId, stop) is { Count: > 0 } users)
        {
            throw new RefusedException($"The workflow “{users[0].Name}” asks this sorter. Nothing was removed.");
        }

        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        await db.SorterLabels.Where(l => l.SorterId == sorterId).ExecuteDeleteAsync(stop);
        await db.Sorted.Where(s => s.SorterId == sorterId).ExecuteDeleteAsync(stop);
        await db.OutsideAnswers.Where(s => s.SorterId == sorterId).ExecuteDeleteAsync(stop);
        await db.SorterNumbers.Where(s => s.SorterId == sorterId).ExecuteDeleteAsync(stop);
        await db.Sorters.Where(s => s.Id == sorterId).ExecuteDeleteAsync(stop);
        await db.NotifyAsync(Changes.Sorters);
        await transaction.CommitAsync(stop);
    }

    /// <summary>The workflows whose live edition or edition in hand asks a sorter.</summary>
    public async Task<IReadOnlyList<(long Id, string Name)>> UsedByAsync(long sorterId, CancellationToken stop)
    {
        var workflows = await db.Workflows.AsNoTracking().OrderBy(w => w.Position).Include(w => w.Editions.Where(e => e.State != EditionState.Past)).ToListAsync(stop);
        return [.. workflows.Where(w => w.Editions.Any(e => e.Sheet.SorterId == sorterId)).Select(w => (w.Id, w.Name))];
    }

    /// <summary>Saves settings as the number in hand; the first change of a number in use begins a new one.</summary>
    public async Task SaveAsync(long sorterId, SorterSettings settings, int number, int revision, string person, CancellationToken stop)
    {
        if (SorterCheck.Check(settings) is { IsEmpty: false } problems)
        {
            throw new RefusedException($"{problems[0]} Nothing was changed.");
        }

        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var inHand = await InHandAsync(sorterId, person, stop);
        if (inHand.Number == number && inHand.Revision != revision)
        {
            throw new RefusedException("Somebody else changed this sorter in the meantime. Your last change was not saved; the page now shows theirs.");
        }

        (inHand.Settings, inHand.ChangedAt, inHand.ChangedBy) = (settings, clock.GetUtcNow(), person);
        inHand.Revision++;
        await db.SaveChangesAsync(stop);

        // Examples of a category that is gone are no examples any more.
        var ids = settings.Categories.Select(c => c.Id).ToArray();
        await db.SorterLabels.Where(l => l.SorterId == sorterId && l.CategoryId != null && !ids.Contains(l.CategoryId)).ExecuteDeleteAsync(stop);
        await db.NotifyAsync(Changes.Sorters);
        await transaction.CommitAsync(stop);
    }

    /// <summary>The examples have changed, so that the number in hand has to be trained again. Within a transaction.</summary>
    public async Task TouchAsync(long sorterId, string person, CancellationToken stop)
    {
        var inHand = await InHandAsync(sorterId, person, stop);
        inHand.ChangedAt = clock.GetUtcNow();
        await db.SaveChangesAsync(stop);
        await db.NotifyAsync(Changes.Sorters);
    }

    /// <summary>Puts a number into use: the one in hand, or an earlier one.</summary>
    /// <exception cref="RefusedException">It is not trained on what it says now.</exception>
    public async Task UseAsync(long sorterId, int number, string person, CancellationToken stop)
    {
        var now = clock.GetUtcNow();
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var chosen = await db.SorterNumbers.SingleOrDefaultAsync(n => n.SorterId == sorterId && n.Number == number, stop) ?? throw new RefusedException($"There is no number {number}.");
        if (chosen.Model is null || (chosen.State == SorterNumberState.InHand && chosen.TrainedAt < chosen.ChangedAt))
        {
            throw new RefusedException("It is still being trained, or could not be. Nothing was changed.");
        }

        if (await db.SorterNumbers.SingleOrDefaultAsync(n => n.SorterId == sorterId && n.State == SorterNumberState.InUse, stop) is { } before)
        {
            (before.State, before.UsedUntil) = (SorterNumberState.Past, now);

            // First this one, or the index that allows one number in use would see two.
            await db.SaveChangesAsync(stop);
        }

        (chosen.State, chosen.UsedSince, chosen.UsedUntil) = (SorterNumberState.InUse, now, null);
        var name = await db.Sorters.Where(s => s.Id == sorterId).Select(s => s.Name).SingleAsync(stop);
        db.Audit.Add(new AuditEntry { At = now, Person = person, What = $"Put number {number} of the sorter “{name}” into use" });
        await db.SaveChangesAsync(stop);
        await db.NotifyAsync(Changes.Sorters, Changes.Workflows);
        await transaction.CommitAsync(stop);
    }

    /// <summary>Throws the number in hand away; labels stay.</summary>
    public async Task DiscardAsync(long sorterId, CancellationToken stop)
    {
        if (!await db.SorterNumbers.AnyAsync(n => n.SorterId == sorterId && n.State == SorterNumberState.InUse, stop))
        {
            throw new RefusedException("There is no other number to go back to.");
        }

        await db.SorterNumbers.Where(n => n.SorterId == sorterId && n.State == SorterNumberState.InHand).ExecuteDeleteAsync(stop);
        await db.NotifyAsync(Changes.Sorters);
    }

    /// <summary>Refuses a category the sorter does not have.</summary>
    public async Task RequireCategoryAsync(long sorterId, string? categoryId, CancellationToken stop)
    {
        var settings = await db.SorterNumbers.AsNoTracking().Where(n => n.SorterId == sorterId && n.State != SorterNumberState.Past).Select(n => n.Settings).ToListAsync(stop);
        if (settings.Count == 0)
        {
            throw Gone();
        }

        if (categoryId is not null && !settings.Any(s => s.Categories.Any(c => c.Id == categoryId)))
        {
            throw new RefusedException("This category is gone from the sorter.");
        }
    }

    /// <summary>The number in hand, begun from the one in use where there is none. Within a transaction.</summary>
    private async Task<SorterNumber> InHandAsync(long sorterId, string person, CancellationToken stop)
    {
        // Labels come quickly one after the other; two of them must not both begin a number.
        await db.Database.ExecuteSqlAsync($"SELECT 1 FROM sorters WHERE id = {sorterId} FOR UPDATE", stop);
        if (await db.SorterNumbers.SingleOrDefaultAsync(n => n.SorterId == sorterId && n.State == SorterNumberState.InHand, stop) is { } inHand)
        {
            return inHand;
        }

        var last = await db.SorterNumbers.AsNoTracking().Where(n => n.SorterId == sorterId).OrderBy(n => n.State == SorterNumberState.InUse ? 0 : 1).ThenByDescending(n => n.Number)
            .Select(n => n.Settings).FirstOrDefaultAsync(stop) ?? throw Gone();
        inHand = new SorterNumber
        {
            SorterId = sorterId,
            Number = await db.SorterNumbers.Where(n => n.SorterId == sorterId).MaxAsync(n => n.Number, stop) + 1,
            State = SorterNumberState.InHand,
            Settings = last,
            ChangedAt = clock.GetUtcNow(),
            ChangedBy = person,
        };
        db.SorterNumbers.Add(inHand);
        return inHand;
    }

    private async Task<string> FreeNameAsync(string wanted, long? except, CancellationToken stop)
    {
        var name = wanted.Trim();
        return name.Length is 0 or > LongestName ? throw new RefusedException($"A sorter needs a name of at most {LongestName} characters.")
            : await db.Sorters.AnyAsync(s => s.Name == name && s.Id != except, stop) ? throw new RefusedException("There is a sorter of this name already.")
            : name;
    }

    private async Task SaveAsync(CancellationToken stop)
    {
        await db.SaveChangesAsync(stop);
        await db.NotifyAsync(Changes.Sorters);
    }

    private static RefusedException Gone() => new("This sorter is gone.");
}
