namespace PostTide.Core.Sorting;

/// <summary>What more labels would bring.</summary>
/// <param name="More">How many more labels.</param>
/// <param name="Accuracy">The accuracy to expect then.</param>
/// <param name="Enough">Whether that is so little that labelling can stop.</param>
public sealed record LearningForecast(int More, double Accuracy, bool Enough)
{
    /// <summary>Less than half a point of accuracy for a good many labels is not worth a person’s time (common practice, no source).</summary>
    private const double WorthWhile = 0.005;

    /// <summary>
    /// Continues the curve: the share of mistakes falls as a power of the number of examples (common practice, no source), fitted to what
    /// was measured with fewer of them. Null where too little was measured.
    /// </summary>
    public static LearningForecast? Of(SorterEvaluation evaluation, int more)
    {
        var points = evaluation.Learning.Append(new LearningPoint(evaluation.Examples, evaluation.Accuracy.Value)).Where(p => p.Examples >= 10).ToArray();
        if (points.Length < 2)
        {
            return null;
        }

        // Half a mistake where there was none, so that the logarithm exists.
        var x = points.Select(p => Math.Log(p.Examples)).ToArray();
        var y = points.Select(p => Math.Log(Math.Max(1 - p.Accuracy, 0.5 / evaluation.Examples))).ToArray();
        var (mx, my) = (x.Average(), y.Average());
        var slope = x.Zip(y, (a, b) => (a - mx) * (b - my)).Sum() / x.Sum(a => (a - mx) * (a - mx));
        var now = 1 - evaluation.Accuracy.Value;
        var then = now * Math.Exp(Math.Min(0, slope) * Math.Log((double)(evaluation.Examples + more) / evaluation.Examples));
        return new LearningForecast(more, 1 - then, now - then < WorthWhile);
    }
}
