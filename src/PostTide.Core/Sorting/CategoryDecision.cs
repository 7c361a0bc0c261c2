using System.Collections.Immutable;
using PostTide.Core.Matching;
using PostTide.Core.Messages;

namespace PostTide.Core.Sorting;

/// <summary>A category of a sheet, recognised by its own conditions or by the sheet's sorter.</summary>
public sealed record Category
{
    /// <summary>An id that stays with the category across editions; the sorter's own where the sorter recognises it.</summary>
    public string Id { get; init; } = "";
    public string Name { get; init; } = "";
    public ConditionSet When { get; init; } = ConditionSet.Empty;

    /// <summary>Whether the sheet's sorter recognises it.</summary>
    public bool BySorter { get; init; }
}

/// <summary>A sorter as it decides on mail.</summary>
/// <param name="Id">The sorter.</param>
/// <param name="Name">Its name, for reasons.</param>
/// <param name="Number">The number in use; 0 while none is.</param>
/// <param name="Trained">The trained sorter; null while none is in use.</param>
public sealed record SorterInUse(long Id, string Name, int Number, TrainedSorter? Trained)
{
    /// <summary>Whether an outside sorter decides in place of the trained one; what it said is part of the context.</summary>
    public bool AsksOutside { get; init; }
}

/// <summary>What a sorter said about a message, kept with the verdict.</summary>
/// <param name="SorterId">The sorter.</param>
/// <param name="Number">Its number.</param>
/// <param name="CategoryId">The category; null for none of these. Where unsure, the one it would have been.</param>
/// <param name="Surety">How sure it was, 0 to 1; 0 where it could say nothing.</param>
/// <param name="Unsure">Whether that was not sure enough.</param>
public sealed record SorterVerdict(long SorterId, int Number, string? CategoryId, double Surety, bool Unsure);

/// <summary>What a message was sorted as.</summary>
/// <param name="CategoryId">The category, or null for none of these and where unsure.</param>
/// <param name="Why">The reason, a sentence without a full stop.</param>
/// <param name="Evidence">The words it rests on.</param>
public sealed record CategoryDecision(string? CategoryId, string Why, ImmutableArray<Evidence> Evidence)
{
    /// <summary>What the sorter said; null where conditions or a person decided.</summary>
    public SorterVerdict? Sorter { get; init; }

    /// <summary>Whether a person has to decide.</summary>
    public bool Unsure => Sorter is { Unsure: true };
}

/// <summary>What a person or an outside sorter said about a message, for a sorter.</summary>
/// <param name="CategoryId">The category; null for none of these.</param>
/// <param name="By">Who.</param>
public sealed record SaidBefore(string? CategoryId, string By);

/// <summary>Sorts a message into one of a sheet's categories: by their own conditions, then as a person said, then by the sorter.</summary>
public static class CategorySorting
{
    /// <summary>Decides. The first category whose conditions hold is the one; the sheet's sorter is asked where none does.</summary>
    public static CategoryDecision Decide(PreparedMessage message, ImmutableArray<Category> categories, long? sorterId, MatchContext context)
    {
        foreach (var category in categories)
        {
            if (!category.When.IsEmpty() && Matcher.Decide(category.When, message, context) is { Holds: true } result)
            {
                return new CategoryDecision(category.Id, $"sorted as “{category.Name}”", result.Evidence());
            }
        }

        if (sorterId is not { } id)
        {
            return new CategoryDecision(null, "sorted as none of these", []);
        }

        var sorter = context.Sorters.GetValueOrDefault(id);
        return context.SortedByHand.TryGetValue((id, message.Id), out var said)
            ? new CategoryDecision(OnSheet(categories, said.CategoryId), $"sorted as {Quoted(NameOf(categories, sorter, said.CategoryId))} by {said.By}", [])
            : Ask(message, categories, sorter ?? new SorterInUse(id, "", 0, null), context);
    }

    private static CategoryDecision Ask(PreparedMessage message, ImmutableArray<Category> categories, SorterInUse sorter, MatchContext context)
    {
        if (sorter.AsksOutside)
        {
            return context.SaidOutside.TryGetValue((sorter.Id, message.Id), out var outside)
                ? Say(new SorterVerdict(sorter.Id, sorter.Number, outside.CategoryId, 1, false), $" by {outside.By}", [])
                : Unsure("the outside sorter gave no answer");
        }

        if (sorter.Trained is not { } trained)
        {
            return Unsure(sorter.Name.Length == 0 ? "its sorter is gone" : $"no number of the sorter “{sorter.Name}” is in use yet");
        }

        var decision = message.SortedBy(trained);
        var verdict = new SorterVerdict(sorter.Id, sorter.Number, decision.CategoryId, decision.Surety, decision.Unsure);
        return Say(verdict, "", context.SorterWords ? SorterExplanation.Of(trained, message).ForIt() : []);

        CategoryDecision Unsure(string because) => new(null, $"unsure: {because}", []) { Sorter = new SorterVerdict(sorter.Id, sorter.Number, null, 0, true) };

        CategoryDecision Say(SorterVerdict said, string by, ImmutableArray<Evidence> words)
        {
            var name = Quoted(NameOf(categories, sorter, said.CategoryId));
            var surety = said.Surety.ToString("P0", System.Globalization.CultureInfo.InvariantCulture);
            var why = said.Unsure ? $"unsure: most like {name}, surety {surety}" : by.Length > 0 ? $"sorted as {name}{by}" : $"sorted as {name}, surety {surety}";
            return new CategoryDecision(said.Unsure ? null : OnSheet(categories, said.CategoryId), why, words) { Sorter = said };
        }
    }

    /// <summary>A category the sheet does not have is none of its.</summary>
    private static string? OnSheet(ImmutableArray<Category> categories, string? id) => categories.Any(c => c.Id == id) ? id : null;

    private static string? NameOf(ImmutableArray<Category> categories, SorterInUse? sorter, string? id) =>
        id is null ? null
        : categories.FirstOrDefault(c => c.Id == id)?.Name ?? sorter?.Trained?.Settings.Categories.FirstOrDefault(c => c.Id == id)?.Name ?? id;

    private static string Quoted(string? name) => name is null ? "none of these" : $"“{name}”";
}
