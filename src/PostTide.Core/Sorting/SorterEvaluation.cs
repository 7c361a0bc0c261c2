using System.Collections.Immutable;

namespace PostTide.Core.Sorting;

/// <summary>What the sorter says about an example it was not trained on.</summary>
/// <param name="Id">The example.</param>
/// <param name="Is">The category a person gave it; null for none of these.</param>
/// <param name="Said">The category the sorter gives it; null for none of these.</param>
/// <param name="Surety">How sure it is of that.</param>
/// <param name="SuretyOfIs">How sure it is of what the person said.</param>
/// <param name="SquaredError">The sum over all classes of (surety − truth)²: its part of the Brier score.</param>
public sealed record Prediction(long Id, string? Is, string? Said, double Surety, double SuretyOfIs, double SquaredError)
{
    public bool Right => Is == Said;
}

/// <summary>How well one category is recognised.</summary>
/// <param name="CategoryId">The category; null for none of these.</param>
/// <param name="Examples">How many examples it has.</param>
/// <param name="Precision">Of what is sorted into it, how much belongs there.</param>
/// <param name="Recall">Of what belongs there, how much is sorted into it.</param>
/// <param name="F1">The harmonic mean of the two (IIR §8.3).</param>
public sealed record CategoryFigures(string? CategoryId, int Examples, Share Precision, Share Recall, double F1);

/// <summary>How often examples of one category were taken for another, or left to a person.</summary>
public sealed record ConfusionCell(string? Is, string? Said, int Count, int Unsure);

/// <summary>How often the sorter was right where it said it was about that sure.</summary>
/// <param name="From">The lower end of the stretch of sureties.</param>
/// <param name="Surety">The mean surety within it.</param>
/// <param name="Right">How much of it was right.</param>
public sealed record ReliabilityBin(double From, double Surety, Share Right);

/// <summary>What would be decided without a person at some floor, and how much of that is right.</summary>
public sealed record CurvePoint(double Floor, double Decided, Share Right);

/// <summary>What a person may ask for: if this much has to be right, how much is decided without one; 0 where that cannot be reached.</summary>
public sealed record FloorChoice(double RightAtLeast, double Decided);

/// <summary>Two categories that are taken for each other.</summary>
/// <param name="One">One of them; null for none of these.</param>
/// <param name="Other">The other.</param>
/// <param name="Mistaken">How many examples of either are taken for the other.</param>
/// <param name="Examples">How many examples both have.</param>
public sealed record OverlappingPair(string? One, string? Other, int Mistaken, int Examples);

/// <summary>How good a sorter was with fewer examples.</summary>
public sealed record LearningPoint(int Examples, double Accuracy);

/// <summary>How good a sorter is, from what it says about examples it was not trained on.</summary>
public sealed record SorterEvaluation
{
    private const int Bins = 10;
    private const int CurvePoints = 50;
    private static readonly double[] Offered = [0.9, 0.95, 0.97, 0.98, 0.99];

    public int Examples { get; init; }
    public Share Accuracy { get; init; } = Share.Wilson(0, 0);
    public double MacroF1 { get; init; }
    public ImmutableArray<CategoryFigures> Categories { get; init; } = [];
    public ImmutableArray<ConfusionCell> Confusion { get; init; } = [];
    public ImmutableArray<ReliabilityBin> Reliability { get; init; } = [];

    /// <summary>Expected calibration error: the gap between surety and share right, weighted over ten stretches of surety.</summary>
    public double CalibrationError { get; init; }

    /// <summary>Mean squared error of the sureties, 0 to 2.</summary>
    public double Brier { get; init; }
    public ImmutableArray<CurvePoint> Curve { get; init; } = [];
    public ImmutableArray<FloorChoice> Choices { get; init; } = [];

    /// <summary>What is decided without a person at the floors in force, as a share of all.</summary>
    public Share Decided { get; init; } = Share.Wilson(0, 0);

    /// <summary>How much of that is right.</summary>
    public Share DecidedRight { get; init; } = Share.Wilson(0, 0);

    /// <summary>Examples whose label is probably wrong: the sorter is surer of another category than it is wrong on the whole.</summary>
    public ImmutableArray<long> Doubtful { get; init; } = [];

    /// <summary>How many texts are there under more than one label.</summary>
    public int Conflicting { get; init; }
    public ImmutableArray<OverlappingPair> Overlaps { get; init; } = [];
    public ImmutableArray<LearningPoint> Learning { get; init; } = [];

    /// <summary>Works out every figure.</summary>
    /// <param name="predictions">What was said about each example.</param>
    /// <param name="categories">The categories in order, null for none of these where it takes part.</param>
    /// <param name="floors">The floors in force.</param>
    /// <param name="least">What no floor that is offered lies under.</param>
    public static SorterEvaluation Of(IReadOnlyList<Prediction> predictions, IReadOnlyList<string?> categories, Floors floors, double least = 0)
    {
        var n = predictions.Count;
        var figures = categories.Select(c => FiguresOf(predictions, c)).ToImmutableArray();
        var bins = BinsOf(predictions);
        var decided = predictions.Where(floors.Decides).ToArray();
        return new SorterEvaluation
        {
            Examples = n,
            Accuracy = Share.Wilson(predictions.Count(p => p.Right), n),
            MacroF1 = figures.Any(f => f.Examples > 0) ? figures.Where(f => f.Examples > 0).Average(f => f.F1) : 0,
            Categories = figures,
            Confusion =
            [
                .. from p in predictions
                   group p by (p.Is, p.Said) into cell
                   let unsure = cell.Count(p => !floors.Decides(p))
                   select new ConfusionCell(cell.Key.Is, cell.Key.Said, cell.Count() - unsure, unsure),
            ],
            Reliability = bins,
            CalibrationError = n == 0 ? 0 : bins.Sum(b => b.Right.Of * Math.Abs(b.Surety - b.Right.Value)) / n,
            Brier = n == 0 ? 0 : predictions.Average(p => p.SquaredError),
            Curve = CurveOf(predictions),
            Choices = [.. Offered.Select(right => new FloorChoice(right, DecidedAt(predictions, right, least)))],
            Decided = Share.Wilson(decided.Length, n),
            DecidedRight = Share.Wilson(decided.Count(p => p.Right), decided.Length),
            Doubtful =
            [
                .. predictions.Where(p => !p.Right && p.Surety > 0.8 && p.SuretyOfIs < 0.1)
                    .OrderBy(p => p.SuretyOfIs).ThenBy(p => p.Id).Take(50).Select(p => p.Id),
            ],
            Overlaps = OverlapsOf(predictions),
        };
    }

    /// <summary>How much would be decided without a person if this much of it had to be right.</summary>
    public static double DecidedAt(IReadOnlyList<Prediction> predictions, double rightAtLeast, double least = 0) =>
        Floors.Lowest(predictions, rightAtLeast) is { } floor
            ? (double)predictions.Count(p => p.Surety >= Math.Max(floor, least)) / predictions.Count
            : 0;

    private static CategoryFigures FiguresOf(IReadOnlyList<Prediction> predictions, string? category)
    {
        var said = predictions.Count(p => p.Said == category);
        var belong = predictions.Count(p => p.Is == category);
        var both = predictions.Count(p => p.Said == category && p.Is == category);
        return new CategoryFigures(category, belong, Share.Wilson(both, said), Share.Wilson(both, belong), said + belong == 0 ? 0 : 2.0 * both / (said + belong));
    }

    private static ImmutableArray<ReliabilityBin> BinsOf(IReadOnlyList<Prediction> predictions) =>
    [
        .. from p in predictions
           group p by Math.Min(Bins - 1, (int)(p.Surety * Bins)) into bin
           orderby bin.Key
           select new ReliabilityBin((double)bin.Key / Bins, bin.Average(p => p.Surety), Share.Wilson(bin.Count(p => p.Right), bin.Count())),
    ];

    private static ImmutableArray<CurvePoint> CurveOf(IReadOnlyList<Prediction> predictions)
    {
        var sorted = predictions.OrderByDescending(p => p.Surety).ToArray();
        var points = ImmutableArray.CreateBuilder<CurvePoint>();
        var (right, next) = (0, 1);
        for (var i = 0; i < sorted.Length; i++)
        {
            right += sorted[i].Right ? 1 : 0;
            var whole = i + 1 == sorted.Length || sorted[i + 1].Surety < sorted[i].Surety;
            if (whole && (i + 1) * CurvePoints >= next * sorted.Length)
            {
                points.Add(new CurvePoint(sorted[i].Surety, (i + 1.0) / sorted.Length, Share.Wilson(right, i + 1)));
                next = ((i + 1) * CurvePoints / sorted.Length) + 1;
            }
        }

        return points.ToImmutable();
    }

    private static ImmutableArray<OverlappingPair> OverlapsOf(IReadOnlyList<Prediction> predictions)
    {
        var sizes = predictions.GroupBy(p => p.Is ?? "").ToDictionary(g => g.Key, g => g.Count());
        return
        [
            .. from p in predictions
               where !p.Right
               let one = string.CompareOrdinal(p.Is ?? "", p.Said ?? "") < 0 ? p.Is : p.Said
               let other = one == p.Is ? p.Said : p.Is
               group p by (one, other) into pair
               let examples = sizes.GetValueOrDefault(pair.Key.one ?? "") + sizes.GetValueOrDefault(pair.Key.other ?? "")
               where pair.Count() >= 3 && pair.Count() * 20 >= examples
               orderby pair.Count() descending
               select new OverlappingPair(pair.Key.one, pair.Key.other, pair.Count(), examples),
        ];
    }
}
