using System.Collections.Immutable;

namespace PostTide.Core.Sorting;

/// <summary>Finds what is wrong with a sorter's settings.</summary>
public static class SorterCheck
{
    public const int MostCategories = 100;
    private const int LongestName = 80;
    private const int LongestDescription = 1_000;
    private const int MostCues = 200;
    private const int LongestCue = 100;

    /// <summary>Every problem, in a sentence.</summary>
    public static ImmutableArray<string> Check(SorterSettings settings)
    {
        var problems = ImmutableArray.CreateBuilder<string>();
        if (settings.Categories.Length > MostCategories)
        {
            problems.Add($"A sorter has at most {MostCategories} categories.");
        }

        foreach (var category in settings.Categories)
        {
            if (category.Name.Trim().Length is 0 or > LongestName)
            {
                problems.Add($"A category needs a name of at most {LongestName} characters.");
            }

            if (category.Description.Length > LongestDescription)
            {
                problems.Add($"The description of “{category.Name}” is longer than {LongestDescription} characters.");
            }

            if (category.Cues.Length > MostCues || category.Cues.Any(c => string.IsNullOrWhiteSpace(c) || c.Length > LongestCue))
            {
                problems.Add($"“{category.Name}” has at most {MostCues} cue words of at most {LongestCue} characters.");
            }

            if (category.RightAtLeast is { } right && !IsShare(right))
            {
                problems.Add($"How much of “{category.Name}” has to be right lies between 50 and 99.9 %.");
            }
        }

        if (settings.Categories.Select(c => c.Name.Trim()).Distinct(StringComparer.OrdinalIgnoreCase).Count() < settings.Categories.Length)
        {
            problems.Add("Two categories have the same name.");
        }

        if (settings.Categories.Any(c => c.Id.Length == 0) || settings.Categories.DistinctBy(c => c.Id).Count() < settings.Categories.Length)
        {
            problems.Add("Every category needs an id of its own.");
        }

        if (!IsShare(settings.RightAtLeast))
        {
            problems.Add("How much has to be right lies between 50 and 99.9 %.");
        }

        if (settings.CostlyMistakes.Any(m => m.Times is < 1 or > 100 || m.Is == m.TakenFor || settings.ClassOf(m.Is) < 0 || settings.ClassOf(m.TakenFor) < 0))
        {
            problems.Add("A costly mistake takes one category for another and counts 1 to 100 times.");
        }

        return problems.ToImmutable();
    }

    private static bool IsShare(double value) => value is >= 0.5 and <= 0.999;
}
