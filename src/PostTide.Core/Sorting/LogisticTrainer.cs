namespace PostTide.Core.Sorting;

/// <summary>
/// Regularised multinomial logistic regression by coordinate ascent on its dual problem (Shalev-Shwartz and Zhang, “Stochastic dual
/// coordinate ascent methods for regularized loss minimization”, JMLR 14, 2013): one example after the other is solved exactly.
/// It has no learning rate, visits examples in a fixed order, and so gives the same weights for the same examples.
/// Minimises ½‖W‖² + C · Σ weight · loss over the weights and biases of all classes.
/// </summary>
internal static class LogisticTrainer
{
    private const int MostRounds = 60;

    /// <summary>Training ends when the probabilities an example asks for and those it gets differ by less than this on average.</summary>
    private const float Tolerance = 0.01f;

    /// <summary>Solving one example: steps at most, and how exactly.</summary>
    private const int MostSteps = 12;
    private const float StepTolerance = 0.001f;
    private const byte RoundsOfRest = 2;

    /// <summary>Trains on some rows.</summary>
    /// <param name="rows">The texts.</param>
    /// <param name="use">Which of them, in the order they are visited.</param>
    /// <param name="classOf">The class of every row.</param>
    /// <param name="weightOf">How much each row counts.</param>
    /// <param name="features">The number of features.</param>
    /// <param name="classes">The number of classes.</param>
    /// <param name="c">How much mistakes count beside large weights.</param>
    /// <param name="stop">Stops between rounds.</param>
    public static LinearWeights Train(
        SparseRows rows, int[] use, int[] classOf, float[] weightOf, int features, int classes, float c, CancellationToken stop = default)
    {
        var weights = new LinearWeights(features, classes);
        var stride = LinearWeights.Stride(classes);

        // The dual variables: the probabilities each example asks for. To begin with it asks for what it is, and weights are zero.
        var asked = new float[rows.Count * stride];
        foreach (var row in use)
        {
            asked[row * stride + classOf[row]] = 1;
        }

        var resting = new byte[rows.Count];
        Span<float> scores = new float[stride];
        Span<float> change = new float[stride];
        var order = (int[])use.Clone();
        var random = new Random(5); // A seeded generator keeps its sequence across versions of .NET.
        for (var round = 0; round < MostRounds; round++)
        {
            stop.ThrowIfCancellationRequested();
            random.Shuffle(order);
            var moved = 0f;
            foreach (var row in order)
            {
                // What has come to rest is looked at again only now and then.
                if (resting[row] > 0)
                {
                    resting[row]--;
                    moved += Tolerance / 2;
                    continue;
                }

                var columns = rows.Columns(row);
                var values = rows.Values(row);
                weights.Score(columns, values, scores);
                var own = asked.AsSpan(row * stride, classes);
                var strength = c * weightOf[row] * (1 + rows.SquaredLength(row));
                var distance = Solve(scores[..classes], own, strength, change[..classes]);
                moved += distance;
                resting[row] = distance < Tolerance / 2 ? RoundsOfRest : (byte)0;
                if (distance > StepTolerance)
                {
                    for (var k = 0; k < classes; k++)
                    {
                        own[k] -= change[k];
                        change[k] *= c * weightOf[row];
                    }

                    weights.Add(columns, values, change);
                }
            }

            if (moved < Tolerance * order.Length)
            {
                break;
            }
        }

        return weights;
    }

    /// <summary>
    /// Finds the probabilities p with p = softmax(scores + strength · (asked − p)): those the model would give after the weights moved by
    /// asked − p. Puts asked − p into <paramref name="change"/> and returns how far the model was from what was asked.
    /// </summary>
    private static float Solve(ReadOnlySpan<float> scores, ReadOnlySpan<float> asked, float strength, Span<float> change)
    {
        Span<float> given = stackalloc float[scores.Length];
        Span<float> moved = stackalloc float[scores.Length];
        var damping = 1 / (1 + (strength / 2)); // The curvature of the loss is at most one half.
        change.Clear();
        var first = 0f;
        for (var step = 0; step < MostSteps; step++)
        {
            for (var k = 0; k < scores.Length; k++)
            {
                moved[k] = scores[k] + (strength * change[k]);
            }

            Softmax.Of(moved, given);
            var distance = 0f;
            for (var k = 0; k < scores.Length; k++)
            {
                var gap = asked[k] - change[k] - given[k];
                distance += MathF.Abs(gap);
                change[k] += damping * gap;
            }

            first = step == 0 ? distance : first;
            if (distance < StepTolerance)
            {
                break;
            }
        }

        return first;
    }
}
