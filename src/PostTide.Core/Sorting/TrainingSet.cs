using PostTide.Core.Messages;

namespace PostTide.Core.Sorting;

/// <summary>
/// What is learned from: the examples in an order of their own, whatever order they came in, then the descriptions and cue words as
/// short texts of their category.
/// </summary>
internal sealed class TrainingSet
{
    public required int Classes { get; init; }
    public required bool KnowsNone { get; init; }

    /// <summary>How many of the texts are examples.</summary>
    public required int Examples { get; init; }
    public required FeatureVector[] Texts { get; init; }
    public required FeatureVector[] Background { get; init; }
    public required int[] ClassOf { get; init; }
    public required float[] CountsAs { get; init; }
    public required long[] IdOf { get; init; }

    /// <summary>How many texts are there under more than one class.</summary>
    public required int Conflicting { get; init; }

    /// <summary>The Message-ID of every example; empty where it has none.</summary>
    public required string[] MessageIds { get; init; }

    public static TrainingSet Of(
        SorterSettings settings, IReadOnlyList<SorterExample> examples, IReadOnlyList<PreparedMessage> background, float descriptionCounts, float cueCounts)
    {
        var texts = new Text[examples.Count];
        Parallel.For(0, examples.Count, i =>
        {
            var features = FeatureReader.Read(examples[i].Message);
            texts[i] = new Text(features.Fingerprint(), settings.ClassOf(examples[i].CategoryId), examples[i].Id, examples[i].Message.MessageId, features, 1);
        });
        var known = texts.Where(t => t.Class >= 0).OrderBy(t => t.Fingerprint).ThenBy(t => t.Class).ThenBy(t => t.Id).ToArray();
        var hints = new List<Text>();
        for (var k = 0; k < settings.Categories.Length; k++)
        {
            var category = settings.Categories[k];
            hints.Add(new Text(0, k, 0, "", FeatureReader.Read(category.Name + "\n" + category.Description), descriptionCounts));
            hints.AddRange(category.Cues.Select(cue => new Text(0, k, 0, "", FeatureReader.Read(cue), cueCounts)));
        }

        var others = new FeatureVector[background.Count];
        Parallel.For(0, background.Count, i => others[i] = FeatureReader.Read(background[i]));
        var knowsNone = known.Any(t => t.Class == settings.Categories.Length);
        var all = known.Concat(hints.Where(h => h.Features.Keys.Length > 0)).ToArray();
        return new TrainingSet
        {
            Classes = settings.Categories.Length + (knowsNone ? 1 : 0),
            KnowsNone = knowsNone,
            Examples = known.Length,
            Texts = [.. all.Select(t => t.Features)],
            Background = others,
            ClassOf = [.. all.Select(t => t.Class)],
            CountsAs = [.. all.Select(t => t.CountsAs)],
            IdOf = [.. known.Select(t => t.Id)],
            Conflicting = known.GroupBy(t => t.Fingerprint).Count(g => g.Any(t => t.Class != g.First().Class)),
            MessageIds = [.. known.Select(t => t.MessageId)],
        };
    }

    /// <summary>
    /// How much each text counts among those used: examples of rare categories count more, by the square root of how much rarer they
    /// are, so that they are learned without being taken for common.
    /// </summary>
    public float[] WeightsFor(int[] use)
    {
        var counts = new float[Classes];
        foreach (var row in use)
        {
            counts[ClassOf[row]] += CountsAs[row];
        }

        var mean = counts.Sum() / Math.Max(1, counts.Count(c => c > 0));
        var weights = new float[Texts.Length];
        foreach (var row in use)
        {
            weights[row] = CountsAs[row] * Math.Clamp(MathF.Sqrt(mean / counts[ClassOf[row]]), 0.2f, 5);
        }

        return weights;
    }

    private sealed record Text(ulong Fingerprint, int Class, long Id, string MessageId, FeatureVector Features, float CountsAs);
}
