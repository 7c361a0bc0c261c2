using System.Collections.Immutable;

namespace PostTide.Core.Sorting;

/// <summary>
/// Turns scores into sureties that can be taken at their word: one factor for all scores and a shift for each class, fitted on
/// examples the model had not seen, and never surer than their number allows.
/// </summary>
/// <param name="Factor">Multiplies every score.</param>
/// <param name="Shifts">Added to the score of each class.</param>
/// <param name="Seen">On how many examples it was fitted.</param>
public sealed record Calibrator(double Factor, ImmutableArray<double> Shifts, int Seen)
{
    private const int MostSteps = 100;

    /// <summary>
    /// How strongly the logarithm of the factor is held near what is usual, and a shift near 0. The usual factor falls with the number
    /// of examples, since fewer of them give smaller weights: fitted on the older part of the public mail corpus, where it spread by 0.2
    /// around this line.
    /// </summary>
    private const double FactorPrior = 16;
    private const double ShiftPrior = 0.5;
    private const double UsualAtTwenty = 2.3;
    private const double UsualFalls = 0.51;

    /// <summary>For a model without any examples to fit on: its scores as they are, and not surer than after a single example.</summary>
    public static Calibrator Unfitted(int classes) => new(1, [.. new double[classes]], 1);

    /// <summary>The sureties of all classes, adding up to one.</summary>
    public void Sureties(ReadOnlySpan<float> scores, Span<double> into)
    {
        for (var k = 0; k < Shifts.Length; k++)
        {
            into[k] = (Factor * scores[k]) + Shifts[k];
        }

        Softmax.Loss(into, 0, into);
        into[0] += 1;

        // After n examples without a mistake the next may still be one: one further example, spread evenly over all classes.
        for (var k = 0; k < Shifts.Length; k++)
        {
            into[k] = ((into[k] * Seen) + (1.0 / Shifts.Length)) / (Seen + 1);
        }
    }

    /// <summary>Fits on scores of examples and the classes they belong to, by Newton’s method on the diagonal with halved steps.</summary>
    /// <param name="scores">The scores, one row per example.</param>
    /// <param name="right">The class of each.</param>
    public static Calibrator Fit(IReadOnlyList<float[]> scores, IReadOnlyList<int> right)
    {
        var classes = scores.Count == 0 ? 0 : scores[0].Length;
        var at = new double[classes + 1];
        at[0] = Usual(scores.Count, classes);
        var gradient = new double[classes + 1];
        var curvature = new double[classes + 1];
        var value = Objective(scores, right, at, gradient, curvature);
        var next = new double[classes + 1];
        for (var step = 0; step < MostSteps; step++)
        {
            var length = 1.0;
            double reached;
            do
            {
                for (var i = 0; i < at.Length; i++)
                {
                    next[i] = at[i] - (length * Math.Clamp(gradient[i] / curvature[i], -1, 1));
                }

                reached = Objective(scores, right, next, null, null);
                length /= 2;
            }
            while (reached > value && length > 1e-4);

            var gained = value - reached;
            if (gained <= 0)
            {
                break;
            }

            next.CopyTo(at, 0);
            value = Objective(scores, right, at, gradient, curvature);
            if (gained < 1e-4 * (1 + value))
            {
                break;
            }
        }

        return new Calibrator(Math.Exp(at[0]), [.. at[1..]], scores.Count);
    }

    /// <summary>The regularised loss at ln factor and shifts, with its gradient and the diagonal of its curvature where they are asked for.</summary>
    internal static double Objective(IReadOnlyList<float[]> scores, IReadOnlyList<int> right, ReadOnlySpan<double> at, double[]? gradient, double[]? curvature)
    {
        var classes = at.Length - 1;
        var factor = Math.Exp(at[0]);
        var beside = at[0] - Usual(scores.Count, classes);
        var loss = 0.5 * FactorPrior * beside * beside;
        if (gradient is not null && curvature is not null)
        {
            (gradient[0], curvature[0]) = (FactorPrior * beside, FactorPrior);
        }

        for (var k = 0; k < classes; k++)
        {
            loss += 0.5 * ShiftPrior * at[k + 1] * at[k + 1];
            if (gradient is not null && curvature is not null)
            {
                (gradient[k + 1], curvature[k + 1]) = (ShiftPrior * at[k + 1], ShiftPrior);
            }
        }

        Span<double> scaled = stackalloc double[classes];
        Span<double> slope = stackalloc double[classes];
        for (var i = 0; i < scores.Count; i++)
        {
            for (var k = 0; k < classes; k++)
            {
                scaled[k] = (factor * scores[i][k]) + at[k + 1];
            }

            loss += Softmax.Loss(scaled, right[i], slope);
            if (gradient is null || curvature is null)
            {
                continue;
            }

            var (first, second) = (0d, 0d);
            for (var k = 0; k < classes; k++)
            {
                var step = factor * scores[i][k];
                var probability = slope[k] + (k == right[i] ? 1 : 0);
                gradient[0] += slope[k] * step;
                first += probability * step;
                second += probability * step * step;
                gradient[k + 1] += slope[k];
                curvature[k + 1] += probability * (1 - probability);
            }

            curvature[0] += second - (first * first);
        }

        return loss;
    }

    private static double Usual(int examples, int classes) =>
        Math.Max(0, UsualAtTwenty - (UsualFalls * Math.Log(Math.Max(1, examples) / (20.0 * classes))));
}
