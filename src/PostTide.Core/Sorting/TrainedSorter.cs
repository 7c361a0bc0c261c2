using System.Collections.Immutable;
using PostTide.Core.Messages;

namespace PostTide.Core.Sorting;

/// <summary>How sure a sorter is of one category; null for none of these.</summary>
public readonly record struct CategorySurety(string? CategoryId, double Surety);

/// <summary>What a sorter makes of a message.</summary>
/// <param name="CategoryId">The category; null for none of these. Where unsure, the one it would be.</param>
/// <param name="Surety">How sure it is, 0 to 1.</param>
/// <param name="Unsure">Whether that is below the floor, so that a person has to decide.</param>
public readonly record struct SorterDecision(string? CategoryId, double Surety, bool Unsure);

/// <summary>A sorter that was trained: sorts prepared messages, the same always the same way. Safe for several threads.</summary>
public sealed class TrainedSorter
{
    private readonly double[,]? _costs;

    internal TrainedSorter(SorterSettings settings, bool knowsNone, Vocabulary vocabulary, LinearWeights weights, Calibrator calibrator, Floors floors)
    {
        Settings = settings;
        KnowsNone = knowsNone;
        Vocabulary = vocabulary;
        Weights = weights;
        Calibrator = calibrator;
        Floors = floors;
        _costs = CostsOf(settings, Classes);
    }

    /// <summary>What it was trained for.</summary>
    public SorterSettings Settings { get; }

    /// <summary>Whether it had examples of none of these; without them it can only be unsure.</summary>
    public bool KnowsNone { get; }

    public Calibrator Calibrator { get; }
    public Floors Floors { get; }
    internal Vocabulary Vocabulary { get; }
    internal LinearWeights Weights { get; }
    internal int Classes => Settings.Categories.Length + (KnowsNone ? 1 : 0);

    /// <summary>Sorts a message.</summary>
    public SorterDecision Sort(PreparedMessage message) => Decide(FeatureReader.Read(message));

    /// <summary>How sure it is of every category, in the order of the settings, none of these last.</summary>
    public ImmutableArray<CategorySurety> Sureties(PreparedMessage message)
    {
        Span<double> sureties = stackalloc double[Classes];
        SuretiesOf(FeatureReader.Read(message), sureties);
        var all = ImmutableArray.CreateBuilder<CategorySurety>(Classes);
        for (var k = 0; k < Classes; k++)
        {
            all.Add(new CategorySurety(Settings.CategoryOf(k), sureties[k]));
        }

        return all.MoveToImmutable();
    }

    internal SorterDecision Decide(FeatureVector features)
    {
        Span<double> sureties = stackalloc double[Classes];
        SuretiesOf(features, sureties);
        var choice = Choose(sureties, _costs);
        var category = Settings.CategoryOf(choice);
        return new SorterDecision(category, sureties[choice], sureties[choice] < Floors.For(category));
    }

    /// <summary>The scores of the classes before they are calibrated.</summary>
    internal float[] Scores(FeatureVector features)
    {
        var columns = System.Buffers.ArrayPool<int>.Shared.Rent(features.Keys.Length);
        var values = System.Buffers.ArrayPool<float>.Shared.Rent(features.Keys.Length);
        var count = SparseRows.Fill(Vocabulary, features, columns, values);
        var scores = new float[LinearWeights.Stride(Classes)];
        Weights.Score(columns.AsSpan(0, count), values.AsSpan(0, count), scores);
        System.Buffers.ArrayPool<int>.Shared.Return(columns);
        System.Buffers.ArrayPool<float>.Shared.Return(values);
        return scores;
    }

    /// <summary>The class whose choice costs least, mistakes being as likely as the sureties say; the surest where all cost the same.</summary>
    internal static int Choose(ReadOnlySpan<double> sureties, double[,]? costs)
    {
        var (best, least) = (0, double.PositiveInfinity);
        for (var choice = 0; choice < sureties.Length; choice++)
        {
            var cost = -sureties[choice];
            if (costs is not null)
            {
                cost = 0;
                for (var k = 0; k < sureties.Length; k++)
                {
                    cost += sureties[k] * costs[k, choice];
                }
            }

            if (cost < least)
            {
                (best, least) = (choice, cost);
            }
        }

        return best;
    }

    /// <summary>What it costs to take one class for another; null where every mistake costs the same.</summary>
    internal static double[,]? CostsOf(SorterSettings settings, int classes)
    {
        if (settings.CostlyMistakes.IsEmpty)
        {
            return null;
        }

        var costs = new double[classes, classes];
        for (var k = 0; k < classes; k++)
        {
            for (var j = 0; j < classes; j++)
            {
                costs[k, j] = k == j ? 0 : 1;
            }
        }

        foreach (var mistake in settings.CostlyMistakes)
        {
            var (k, j) = (settings.ClassOf(mistake.Is), settings.ClassOf(mistake.TakenFor));
            if (k != j && k >= 0 && j >= 0 && k < classes && j < classes)
            {
                costs[k, j] = Math.Clamp(mistake.Times, 1, 100);
            }
        }

        return costs;
    }

    private void SuretiesOf(FeatureVector features, Span<double> into) => Calibrator.Sureties(Scores(features).AsSpan(0, Classes), into);
}
