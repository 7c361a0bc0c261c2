namespace PostTide.Core.Sorting;

/// <summary>Scores as probabilities, and what a wrong one costs (multinomial logistic loss).</summary>
internal static class Softmax
{
    /// <summary>exp(score) over their sum, shifted so that nothing overflows. <paramref name="into"/> may be the scores themselves.</summary>
    public static void Of(ReadOnlySpan<float> scores, Span<float> into)
    {
        var highest = float.NegativeInfinity;
        foreach (var score in scores)
        {
            highest = MathF.Max(highest, score);
        }

        var sum = 0f;
        for (var k = 0; k < scores.Length; k++)
        {
            sum += into[k] = MathF.Exp(scores[k] - highest);
        }

        for (var k = 0; k < scores.Length; k++)
        {
            into[k] /= sum;
        }
    }

    /// <summary>−ln of the probability of the right class, and its gradient with respect to the scores: probability minus one for the right class.</summary>
    public static double Loss(ReadOnlySpan<double> scores, int right, Span<double> gradient)
    {
        var highest = double.NegativeInfinity;
        foreach (var score in scores)
        {
            highest = Math.Max(highest, score);
        }

        var sum = 0d;
        for (var k = 0; k < scores.Length; k++)
        {
            sum += gradient[k] = Math.Exp(scores[k] - highest);
        }

        for (var k = 0; k < scores.Length; k++)
        {
            gradient[k] /= sum;
        }

        gradient[right] -= 1;
        return Math.Log(sum) + highest - scores[right];
    }
}
