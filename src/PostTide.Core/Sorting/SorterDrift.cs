namespace PostTide.Core.Sorting;

/// <summary>What became of a week’s mail that a sorter decided.</summary>
/// <param name="Monday">The week’s first day.</param>
/// <param name="CategoryId">The category it was sorted into; null for none of these.</param>
/// <param name="Decided">How many messages were decided without a person.</param>
/// <param name="Corrected">How many of them a person put elsewhere since.</param>
/// <param name="Unsure">How many were left to a person.</param>
public sealed record SortedWeek(DateOnly Monday, string? CategoryId, int Decided, int Corrected, int Unsure);

/// <summary>Whether mail has changed since a sorter was trained.</summary>
/// <param name="Corrected">The share corrected of what was decided lately.</param>
/// <param name="Unsure">The share left to a person lately.</param>
/// <param name="MoreMistakes">More was corrected than its evaluation lets expect, beyond chance.</param>
/// <param name="MoreDoubt">More was left to a person than its evaluation lets expect, beyond chance.</param>
public sealed record SorterDrift(Share Corrected, Share Unsure, bool MoreMistakes, bool MoreDoubt)
{
    /// <summary>Judges the last weeks by what was expected: beyond chance means that the 95 % interval lies above it.</summary>
    /// <param name="lately">The weeks to look at.</param>
    /// <param name="expected">The evaluation of the sorter in use.</param>
    public static SorterDrift Of(IReadOnlyCollection<SortedWeek> lately, SorterEvaluation expected)
    {
        var (decided, unsure) = (lately.Sum(w => w.Decided), lately.Sum(w => w.Unsure));
        var corrected = Share.Wilson(lately.Sum(w => w.Corrected), decided);
        var left = Share.Wilson(unsure, decided + unsure);
        return new SorterDrift(
            corrected, left, decided > 0 && corrected.Low > 1 - expected.DecidedRight.Value, decided + unsure > 0 && left.Low > 1 - expected.Decided.Value);
    }
}
