using System.Collections.Immutable;
using PostTide.Core.Messages;

namespace PostTide.Core.Sorting;

/// <summary>A message and the category a person gave it; null for none of these.</summary>
/// <param name="Id">What the message is called in the evaluation.</param>
/// <param name="CategoryId">The category.</param>
/// <param name="Message">The message.</param>
public sealed record SorterExample(long Id, string? CategoryId, PreparedMessage Message);

/// <summary>A sorter as it came out of training, and how good it is.</summary>
/// <param name="Sorter">The sorter.</param>
/// <param name="Evaluation">From what it says about examples it was not trained on.</param>
/// <param name="Predictions">What it says about each of them.</param>
public sealed record SorterTraining(TrainedSorter Sorter, SorterEvaluation Evaluation, ImmutableArray<Prediction> Predictions);

/// <summary>How far a training has come.</summary>
public readonly record struct TrainingStep(int Done, int Of);

/// <summary>
/// Trains a sorter: a linear model over the features of all examples, its sureties calibrated and its floors found by
/// cross-validation. Deterministic: the same examples, in whatever order, give the same sorter to the last bit.
/// </summary>
public static class SorterTrainer
{
    /// <summary>How much mistakes count beside large weights; chosen on the older part of the public mail corpus, the newest kept aside.</summary>
    private const float MistakesCount = 12;

    /// <summary>How much a description and how much a cue word counts beside an example.</summary>
    private const float DescriptionCounts = 1;
    private const float CueCounts = 0.5f;

    /// <summary>Up to this many examples a feature may be known from one of them alone.</summary>
    private const int FewExamples = 400;
    private const int MostFeatures = 200_000;
    private const int LargestModel = 4_500_000;

    /// <summary>A quarter and a half of the examples are trained on as well, to see what more of them bring.</summary>
    private static readonly int[] LearningParts = [4, 2];

    /// <summary>Trains.</summary>
    /// <param name="settings">The categories and what is asked of the sorter; at least one category.</param>
    /// <param name="examples">The examples. Those of a category the settings do not have are left out.</param>
    /// <param name="background">Other mail, from which only is learned which words are common; may be empty.</param>
    /// <param name="progress">Is told after every model that is trained.</param>
    /// <param name="cores">On how many cores at most; null for all.</param>
    /// <param name="stop">Stops.</param>
    public static SorterTraining Train(
        SorterSettings settings, IReadOnlyList<SorterExample> examples, IReadOnlyList<PreparedMessage>? background = null,
        Action<TrainingStep>? progress = null, int? cores = null, CancellationToken stop = default)
    {
        if (settings.Categories.IsEmpty)
        {
            throw new ArgumentException("A sorter needs a category to be trained.", nameof(settings));
        }

        var set = TrainingSet.Of(settings, examples, background ?? [], DescriptionCounts, CueCounts);
        var classes = set.Classes;
        var vocabulary = Vocabulary.Of(
            set.Texts, set.Background, set.Examples > FewExamples ? 2 : 1, Math.Min(MostFeatures, LargestModel / (6 + (2 * classes))));
        var rows = new SparseRows(vocabulary, set.Texts);
        var folds = set.Examples < 2 ? 0 : Folds.NumberFor(set.Examples);
        var foldOf = Folds.Of(set, Math.Max(1, folds));
        var learning = folds == 0 ? [] : LearningParts.Where(part => set.Examples / part >= 2 * classes).ToArray();
        var jobs = Folds.Jobs(set, foldOf, folds, learning);
        var scores = new float[set.Examples][];
        var early = learning.ToDictionary(part => part, _ => new int[2]);
        LinearWeights? whole = null;
        var done = 0;
        Parallel.ForEach(jobs, new ParallelOptions { CancellationToken = stop, MaxDegreeOfParallelism = cores ?? Environment.ProcessorCount }, job =>
        {
            var weights = LogisticTrainer.Train(rows, job.Rows, set.ClassOf, set.WeightsFor(job.Rows), vocabulary.Count, classes, MistakesCount, stop);
            if (job.Fold < 0)
            {
                weights.Round();
                whole = weights;
            }
            else
            {
                ScoreHeldOut(rows, weights, set, foldOf, job, scores, early);
            }

            progress?.Invoke(new TrainingStep(Interlocked.Increment(ref done), jobs.Count));
        });
        var costs = TrainedSorter.CostsOf(settings, classes);
        var calibrators = Calibrators(set, foldOf, folds, scores, cores);
        var calibrator = folds == 0 ? Calibrator.Unfitted(classes) : calibrators[folds];
        var predictions = Predict(settings, set, foldOf, calibrators, scores, costs);
        var floors = Floors.Of(predictions, settings);
        var sorter = new TrainedSorter(settings, set.KnowsNone, vocabulary, whole!, calibrator, floors);
        var evaluation = SorterEvaluation.Of(predictions, [.. Enumerable.Range(0, classes).Select(settings.CategoryOf)], floors, Floors.LeastFor(settings)) with
        {
            Conflicting = set.Conflicting,
            Learning = [.. learning.Select(part => new LearningPoint(set.Examples / part, early[part][1] == 0 ? 0 : (double)early[part][0] / early[part][1]))],
        };
        return new SorterTraining(sorter, evaluation, predictions);
    }

    private static void ScoreHeldOut(
        SparseRows rows, LinearWeights weights, TrainingSet set, int[] foldOf, TrainingJob job, float[][] scores, Dictionary<int, int[]> early)
    {
        var room = new float[LinearWeights.Stride(set.Classes)];
        for (var row = 0; row < set.Examples; row++)
        {
            if (foldOf[row] != job.Fold)
            {
                continue;
            }

            weights.Score(rows.Columns(row), rows.Values(row), room);
            if (job.Part == 1)
            {
                scores[row] = room[..set.Classes];
                continue;
            }

            var right = Highest(room.AsSpan(0, set.Classes)) == set.ClassOf[row];
            Interlocked.Add(ref early[job.Part][0], right ? 1 : 0);
            Interlocked.Increment(ref early[job.Part][1]);
        }
    }

    /// <summary>A calibration for each fold, which has not seen its examples, and after them the one on all.</summary>
    private static Calibrator[] Calibrators(TrainingSet set, int[] foldOf, int folds, float[][] scores, int? cores)
    {
        var calibrators = new Calibrator[folds == 0 ? 0 : folds + 1];
        Parallel.For(0, calibrators.Length, new ParallelOptions { MaxDegreeOfParallelism = cores ?? Environment.ProcessorCount }, fold =>
        {
            var seen = Enumerable.Range(0, set.Examples).Where(i => foldOf[i] != fold).ToArray();
            calibrators[fold] = Calibrator.Fit([.. seen.Select(i => scores[i])], [.. seen.Select(i => set.ClassOf[i])]);
        });
        return calibrators;
    }

    /// <summary>What is said about every example by a model and a calibration that had not seen it.</summary>
    private static ImmutableArray<Prediction> Predict(
        SorterSettings settings, TrainingSet set, int[] foldOf, Calibrator[] calibrators, float[][] scores, double[,]? costs)
    {
        var predictions = new Prediction[calibrators.Length == 0 ? 0 : set.Examples];
        var sureties = new double[set.Classes];
        for (var i = 0; i < predictions.Length; i++)
        {
            calibrators[foldOf[i]].Sureties(scores[i], sureties);
            var said = TrainedSorter.Choose(sureties, costs);
            var right = set.ClassOf[i];
            predictions[i] = new Prediction(
                set.IdOf[i], settings.CategoryOf(right), settings.CategoryOf(said), sureties[said], sureties[right],
                sureties.Select((p, k) => Math.Pow(p - (k == right ? 1 : 0), 2)).Sum());
        }

        return [.. predictions];
    }

    private static int Highest(ReadOnlySpan<float> scores)
    {
        var best = 0;
        for (var k = 1; k < scores.Length; k++)
        {
            best = scores[k] > scores[best] ? k : best;
        }

        return best;
    }
}
