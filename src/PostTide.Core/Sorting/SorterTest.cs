namespace PostTide.Core.Sorting;

/// <summary>Tries a trained sorter on examples it was not trained on.</summary>
public static class SorterTest
{
    /// <summary>What the sorter says about each example.</summary>
    public static IReadOnlyList<Prediction> Predict(TrainedSorter sorter, IReadOnlyList<SorterExample> examples)
    {
        var predictions = new Prediction[examples.Count];
        Parallel.For(0, examples.Count, i =>
        {
            var example = examples[i];
            var sureties = sorter.Sureties(example.Message);
            var decision = sorter.Sort(example.Message);
            predictions[i] = new Prediction(
                example.Id, example.CategoryId, decision.CategoryId, decision.Surety,
                sureties.FirstOrDefault(s => s.CategoryId == example.CategoryId).Surety,
                sureties.Sum(s => Math.Pow(s.Surety - (s.CategoryId == example.CategoryId ? 1 : 0), 2)));
        });
        return predictions;
    }

    /// <summary>How good it is on them.</summary>
    public static SorterEvaluation Run(TrainedSorter sorter, IReadOnlyList<SorterExample> examples)
    {
        var categories = sorter.Settings.Categories.Select(c => (string?)c.Id);
        var withNone = sorter.KnowsNone || examples.Any(e => e.CategoryId is null);
        return SorterEvaluation.Of(Predict(sorter, examples), [.. withNone ? categories.Append(null) : categories], sorter.Floors, Floors.LeastFor(sorter.Settings));
    }
}
