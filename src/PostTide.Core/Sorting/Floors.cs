using System.Collections.Immutable;

namespace PostTide.Core.Sorting;

/// <summary>
/// How sure a sorter has to be before it decides without a person. They are not set but found: the lowest at which what was
/// decided about unseen examples was right often enough.
/// </summary>
/// <param name="Own">The sorter's own floor; above 1 where nothing may be decided.</param>
/// <param name="OfCategory">Floors of categories that differ, by category; an empty key stands for none of these.</param>
public sealed record Floors(double Own, ImmutableSortedDictionary<string, double> OfCategory)
{
    /// <summary>A floor nothing reaches.</summary>
    public const double Never = 2;

    /// <summary>Fewer unseen examples than this say too little (common practice, no source).</summary>
    public const int Fewest = 20;

    /// <summary>
    /// Where no mistake counts more than another, what is more likely wrong than right is left to a person, however often the rest is right:
    /// a message unlike any example is seldom among the examples.
    /// </summary>
    public const double LeastSurety = 0.5;

    public static readonly Floors Closed = new(Never, ImmutableSortedDictionary<string, double>.Empty);

    /// <summary>The floor for a category; null for none of these.</summary>
    public double For(string? categoryId) => OfCategory.TryGetValue(categoryId ?? "", out var floor) ? floor : Own;

    internal bool Decides(Prediction prediction) => prediction.Surety >= For(prediction.Said);

    /// <summary>Finds the floors for what a person asks of the sorter.</summary>
    public static Floors Of(IReadOnlyList<Prediction> predictions, SorterSettings settings)
    {
        var least = LeastFor(settings);
        var asked = settings.Categories.Where(c => c.RightAtLeast is not null).ToArray();
        return new Floors(
            Math.Max(least, Lowest(predictions, settings.RightAtLeast) ?? Never),
            asked.ToImmutableSortedDictionary(
                c => c.Id, c => Math.Max(least, Lowest([.. predictions.Where(p => p.Said == c.Id)], c.RightAtLeast!.Value) ?? Never), StringComparer.Ordinal));
    }

    /// <summary>What no floor of a sorter lies under; with costs a doubtful message is rather called what it is worse to miss.</summary>
    public static double LeastFor(SorterSettings settings) => settings.CostlyMistakes.IsEmpty ? LeastSurety : 0;

    /// <summary>The lowest surety from which on at least this share is right; null where there is none.</summary>
    public static double? Lowest(IReadOnlyList<Prediction> predictions, double rightAtLeast)
    {
        var sorted = predictions.OrderByDescending(p => p.Surety).ToArray();
        var right = 0;
        double? floor = null;
        for (var i = 0; i < sorted.Length; i++)
        {
            right += sorted[i].Right ? 1 : 0;
            var whole = i + 1 == sorted.Length || sorted[i + 1].Surety < sorted[i].Surety;
            if (whole && i + 1 >= Fewest && right >= rightAtLeast * (i + 1))
            {
                floor = sorted[i].Surety;
            }
        }

        return floor;
    }
}
