namespace PostTide.Core.Sorting;

/// <summary>One model to be trained.</summary>
/// <param name="Fold">The part that is kept aside; −1 for the model of all.</param>
/// <param name="Part">1 for all of the rest, 2 for half of it, 4 for a quarter.</param>
/// <param name="Rows">What it is trained on.</param>
internal sealed record TrainingJob(int Fold, int Part, int[] Rows);

/// <summary>Parts for cross-validation: every category spread over all of them, copies of one message kept together.</summary>
internal static class Folds
{
    private const int Many = 300;

    /// <summary>Ten parts where examples are few, so that each model misses few of them; four where there are enough.</summary>
    public static int NumberFor(int examples) => Math.Min(examples, examples < Many ? 10 : 4);

    /// <summary>The part of every example.</summary>
    public static int[] Of(TrainingSet set, int folds)
    {
        var foldOf = new int[set.Examples];
        var next = new int[set.Classes];
        var known = new Dictionary<string, int>(StringComparer.Ordinal);
        for (var i = 0; i < set.Examples; i++)
        {
            var copy = set.MessageIds[i];
            if (!known.TryGetValue(copy, out foldOf[i]))
            {
                foldOf[i] = next[set.ClassOf[i]]++ % folds;
                if (copy.Length > 0)
                {
                    known[copy] = foldOf[i];
                }
            }
        }

        return foldOf;
    }

    /// <summary>The models to be trained: one of all, one without each part, and some with fewer examples to see what more would bring.</summary>
    public static IReadOnlyList<TrainingJob> Jobs(TrainingSet set, int[] foldOf, int folds, int[] learning)
    {
        var all = Enumerable.Range(0, set.Texts.Length).ToArray();
        var jobs = new List<TrainingJob> { new(-1, 1, all) };
        var place = PlaceInClass(set);
        for (var fold = 0; fold < folds; fold++)
        {
            var kept = fold;
            var rest = all.Where(i => i >= set.Examples || foldOf[i] != kept).ToArray();
            jobs.Add(new TrainingJob(fold, 1, rest));
            if (fold == 0 || set.Examples < Many)
            {
                jobs.AddRange(learning.Select(part => new TrainingJob(kept, part, [.. rest.Where(i => i >= set.Examples || place[i] / folds % part == 0)])));
            }
        }

        return jobs;
    }

    private static int[] PlaceInClass(TrainingSet set)
    {
        var next = new int[set.Classes];
        return [.. Enumerable.Range(0, set.Examples).Select(i => next[set.ClassOf[i]]++)];
    }
}
