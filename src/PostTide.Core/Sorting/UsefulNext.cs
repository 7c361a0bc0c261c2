using PostTide.Core.Messages;

namespace PostTide.Core.Sorting;

/// <summary>
/// Which messages a person should label next: those the sorter is least sure about, unlike each other, so that every label teaches
/// something the last one did not.
/// </summary>
public static class UsefulNext
{
    /// <summary>So many of the least sure messages are compared with each other.</summary>
    private const int Candidates = 200;

    /// <summary>Chooses among messages without a label.</summary>
    /// <param name="sorter">The sorter as it is so far.</param>
    /// <param name="unlabelled">The messages.</param>
    /// <param name="count">How many at most.</param>
    /// <returns>The messages, the most useful first.</returns>
    public static IReadOnlyList<PreparedMessage> Choose(TrainedSorter sorter, IReadOnlyList<PreparedMessage> unlabelled, int count)
    {
        var texts = new FeatureVector[unlabelled.Count];
        var doubt = new double[unlabelled.Count];
        Parallel.For(0, texts.Length, i =>
        {
            texts[i] = FeatureReader.Read(unlabelled[i]);
            doubt[i] = DoubtAbout(sorter, texts[i]);
        });
        var candidates = Enumerable.Range(0, texts.Length).OrderByDescending(i => doubt[i]).ThenBy(i => unlabelled[i].Id).Take(Candidates).ToArray();
        var rows = new SparseRows(sorter.Vocabulary, [.. candidates.Select(i => texts[i])]);
        var lengths = candidates.Select((_, i) => MathF.Sqrt(rows.SquaredLength(i))).ToArray();
        var likest = new float[candidates.Length];
        var chosen = new List<PreparedMessage>();
        var taken = new bool[candidates.Length];
        var spread = new float[sorter.Vocabulary.Count];
        while (chosen.Count < Math.Min(count, candidates.Length))
        {
            var best = Enumerable.Range(0, candidates.Length).Where(i => !taken[i]).MaxBy(i => doubt[candidates[i]] * (1 - likest[i]));
            taken[best] = true;
            chosen.Add(unlabelled[candidates[best]]);
            Array.Clear(spread);
            for (var i = 0; i < rows.Columns(best).Length; i++)
            {
                spread[rows.Columns(best)[i]] = rows.Values(best)[i];
            }

            for (var i = 0; i < candidates.Length; i++)
            {
                likest[i] = Math.Max(likest[i], ExampleIndex.Dot(rows, i, spread) / MathF.Max(1e-9f, lengths[i] * lengths[best]));
            }
        }

        return chosen;
    }

    /// <summary>One minus the gap between the two surest categories: 1 where they are equally likely.</summary>
    private static double DoubtAbout(TrainedSorter sorter, FeatureVector text)
    {
        Span<double> sureties = stackalloc double[sorter.Classes];
        sorter.Calibrator.Sureties(sorter.Scores(text).AsSpan(0, sorter.Classes), sureties);
        var (first, second) = (0d, 0d);
        foreach (var surety in sureties)
        {
            (first, second) = surety > first ? (surety, first) : (first, Math.Max(second, surety));
        }

        return 1 - (first - second);
    }
}
