using System.Collections.Immutable;

namespace PostTide.Core.Sorting;

/// <summary>One category of a sorter as a person describes it.</summary>
public sealed record SorterCategory
{
    /// <summary>An id that stays with the category whatever it is called.</summary>
    public string Id { get; init; } = "";
    public string Name { get; init; } = "";

    /// <summary>What belongs into it, in a sentence or two; the sorter reads it as one example.</summary>
    public string Description { get; init; } = "";

    /// <summary>Words that point to it; each counts as a short example.</summary>
    public ImmutableArray<string> Cues { get; init; } = [];

    /// <summary>How large a share of what is sorted into it without a person has to be right; null for the sorter's own.</summary>
    public double? RightAtLeast { get; init; }
}

/// <summary>A mistake that costs more than others.</summary>
/// <param name="Is">The category it belongs to; null for none of these.</param>
/// <param name="TakenFor">The category it is taken for; null for none of these.</param>
/// <param name="Times">How many ordinary mistakes it is worth, 1 to 100.</param>
public sealed record CostlyMistake(string? Is, string? TakenFor, double Times);

/// <summary>What a person decides about a sorter; the examples and the training make the rest.</summary>
public sealed record SorterSettings
{
    public static readonly SorterSettings Empty = new();

    public ImmutableArray<SorterCategory> Categories { get; init; } = [];

    /// <summary>How large a share of what is decided without a person has to be right, 0.5 to 0.999; the floor follows from it.</summary>
    public double RightAtLeast { get; init; } = 0.95;

    public ImmutableArray<CostlyMistake> CostlyMistakes { get; init; } = [];

    /// <summary>The place of a category among the classes of the model; none of these comes last, after the categories.</summary>
    internal int ClassOf(string? categoryId)
    {
        if (categoryId is null)
        {
            return Categories.Length;
        }

        for (var i = 0; i < Categories.Length; i++)
        {
            if (Categories[i].Id == categoryId)
            {
                return i;
            }
        }

        return -1;
    }

    /// <summary>The category a class stands for; null for none of these.</summary>
    internal string? CategoryOf(int @class) => @class < Categories.Length ? Categories[@class].Id : null;
}
