using System.Collections.Immutable;

namespace PostTide.Core.Sorting;

/// <summary>What would make a sorter better, in words; the most pressing first.</summary>
public static class SorterAdvice
{
    private const int EnoughExamples = 20;

    /// <summary>Looks at what the sorter is trained on.</summary>
    /// <param name="settings">The categories.</param>
    /// <param name="examples">How many examples each category has; an empty key stands for none of these.</param>
    /// <param name="evaluation">How good it is; null before it was trained.</param>
    public static ImmutableArray<string> On(SorterSettings settings, IReadOnlyDictionary<string, int> examples, SorterEvaluation? evaluation)
    {
        var advice = ImmutableArray.CreateBuilder<string>();
        var none = examples.GetValueOrDefault("");
        if (settings.Categories.IsEmpty)
        {
            advice.Add("It has no category yet. Add one and say in a sentence what belongs there.");
            return advice.ToImmutable();
        }

        if (settings.Categories.Length == 1 && none == 0)
        {
            advice.Add("There is one category and nothing to tell it from, so it decides nothing. Label some messages as none of these, or add a category.");
        }
        else if (none == 0)
        {
            advice.Add("It has no examples of none of these, so it cannot learn to keep its hands off. Label some messages that belong to no category.");
        }

        foreach (var category in settings.Categories)
        {
            var count = examples.GetValueOrDefault(category.Id);
            if (count == 0 && category.Description.Length == 0 && category.Cues.IsEmpty)
            {
                advice.Add($"“{category.Name}” has neither examples nor a description, so nothing is ever sorted into it.");
            }
            else if (count < EnoughExamples)
            {
                advice.Add($"“{category.Name}” has {count} {(count == 1 ? "example" : "examples")}; {EnoughExamples - count} more would help most there.");
            }
        }

        if (evaluation?.Conflicting is > 0 and var conflicting)
        {
            advice.Add($"{conflicting} {(conflicting == 1 ? "text carries" : "texts carry")} more than one label. The sorter stays unsure about mail like it until one label goes.");
        }

        if (examples.Values.Sum() is > 0 and var total && examples.Values.Max() is var most && most > EnoughExamples && most * 10 > total * 9)
        {
            advice.Add("Nine in ten examples belong to one category. The others are given more weight, but their sureties rest on few messages.");
        }

        foreach (var pair in evaluation?.Overlaps ?? [])
        {
            advice.Add($"“{NameOf(settings, pair.One)}” and “{NameOf(settings, pair.Other)}” are taken for each other ({pair.Mistaken} of {pair.Examples}). Sharpen their descriptions, or make one of them.");
        }

        return advice.ToImmutable();
    }

    /// <summary>What a category is called.</summary>
    public static string NameOf(SorterSettings settings, string? categoryId) =>
        categoryId is null ? "none of these" : settings.Categories.FirstOrDefault(c => c.Id == categoryId)?.Name ?? categoryId;
}
