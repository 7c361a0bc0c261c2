using System.Globalization;
using PostTide.Core.Sorting;

namespace PostTide.Cli.Sorters;

/// <summary>One category’s figures, for people and programs.</summary>
internal sealed record CategoryReport(string Category, int Examples, double Precision, double Recall, double F1);

/// <summary>How much would be decided without a person if this much of it has to be right.</summary>
internal sealed record CoverageReport(double RightAtLeast, double Decided);

/// <summary>What <c>sorter train</c> and <c>sorter evaluate</c> tell.</summary>
internal sealed record SorterReport
{
    /// <summary>The shares right for which coverage is told.</summary>
    private static readonly double[] AskedFor = [0.95, 0.98];

    /// <summary>How it was measured: <c>cross-validation</c> or <c>test</c>.</summary>
    public required string Measured { get; init; }
    public required int TrainedOn { get; init; }
    public required int TriedOn { get; init; }
    public required double Accuracy { get; init; }

    /// <summary>The ends of the 95 % interval of the accuracy.</summary>
    public required double AccuracyLow { get; init; }
    public required double AccuracyHigh { get; init; }
    public required double MacroF1 { get; init; }
    public required double CalibrationError { get; init; }
    public required double Brier { get; init; }
    public required IReadOnlyList<CategoryReport> Categories { get; init; }
    public required IReadOnlyList<CoverageReport> Coverage { get; init; }
    public required double TrainingSeconds { get; init; }

    /// <summary>Prepared messages sorted in a second on one core.</summary>
    public required double MessagesPerSecond { get; init; }
    public required int ModelBytes { get; init; }
    public required int Unreadable { get; init; }
    public required IReadOnlyList<string> Advice { get; init; }

    public static SorterReport Of(
        string measured, SorterTraining training, SorterEvaluation evaluation, IReadOnlyList<Prediction> predictions, int trainedOn, double seconds,
        double perSecond, int bytes, int unreadable, IReadOnlyList<string> advice) => new()
        {
            Measured = measured,
            TrainedOn = trainedOn,
            TriedOn = evaluation.Examples,
            Accuracy = evaluation.Accuracy.Value,
            AccuracyLow = evaluation.Accuracy.Low,
            AccuracyHigh = evaluation.Accuracy.High,
            MacroF1 = evaluation.MacroF1,
            CalibrationError = evaluation.CalibrationError,
            Brier = evaluation.Brier,
            Categories =
            [
                .. evaluation.Categories.Select(c => new CategoryReport(SorterAdvice.NameOf(training.Sorter.Settings, c.CategoryId), c.Examples, c.Precision.Value, c.Recall.Value, c.F1)),
            ],
            Coverage = [.. AskedFor.Select(right => new CoverageReport(right, SorterEvaluation.DecidedAt(predictions, right)))],
            TrainingSeconds = seconds,
            MessagesPerSecond = perSecond,
            ModelBytes = bytes,
            Unreadable = unreadable,
            Advice = advice,
        };

    public async Task WriteAsync(TextWriter output)
    {
        var width = Categories.Max(c => c.Category.Length);
        await output.WriteLineAsync(Say($"{"category".PadRight(width)}  examples  precision  recall      F1"));
        foreach (var c in Categories)
        {
            await output.WriteLineAsync(Say($"{c.Category.PadRight(width)}  {c.Examples,8}  {c.Precision,9:P1}  {c.Recall,6:P1}  {c.F1,6:F3}"));
        }

        await output.WriteLineAsync(Say($"trained on           {TrainedOn} examples in {TrainingSeconds:F2} s"));
        await output.WriteLineAsync(Say($"tried on             {TriedOn} examples ({Measured})"));
        await output.WriteLineAsync(Say($"accuracy             {Accuracy:P2} (95 % interval {AccuracyLow:P2} to {AccuracyHigh:P2})"));
        await output.WriteLineAsync(Say($"macro F1             {MacroF1:F4}"));
        foreach (var c in Coverage)
        {
            await output.WriteLineAsync(Say($"decides at {c.RightAtLeast:P0} right  {c.Decided:P1}"));
        }

        await output.WriteLineAsync(Say($"calibration error    {CalibrationError:F4}"));
        await output.WriteLineAsync(Say($"sorts                {MessagesPerSecond:F0} prepared messages/s on one core"));
        await output.WriteLineAsync(Say($"model                {ModelBytes / 1e6:F2} MB"));
        foreach (var advice in Advice)
        {
            await output.WriteLineAsync(advice);
        }
    }

    private static string Say(FormattableString text) => text.ToString(CultureInfo.InvariantCulture);
}
