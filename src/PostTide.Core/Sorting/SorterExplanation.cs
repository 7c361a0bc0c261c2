using System.Collections.Immutable;
using PostTide.Core.Matching;
using PostTide.Core.Messages;
using PostTide.Core.Text;

namespace PostTide.Core.Sorting;

/// <summary>A word, a pair of words or a mark that spoke for a category or against it.</summary>
/// <param name="Words">The words as they stand in the message, or the mark in words.</param>
/// <param name="Weight">How much it adds to the score; negative where it spoke for the other category.</param>
/// <param name="Evidence">Where it stands; none for a mark.</param>
public sealed record SpokenFor(string Words, double Weight, ImmutableArray<Evidence> Evidence);

/// <summary>
/// Why a message was sorted as it was. The score is the logarithm of how much likelier the category is than the next one; start, words
/// and rest add up to it.
/// </summary>
/// <param name="Decision">The decision.</param>
/// <param name="Next">The category that came next; null for none of these.</param>
/// <param name="Score">The score.</param>
/// <param name="Start">What it would be for a message without words: how common the categories are.</param>
/// <param name="Spoke">The words that weighed most, for and against, heaviest first.</param>
/// <param name="Rest">All other words together.</param>
public sealed record SorterExplanation(
    SorterDecision Decision, string? Next, double Score, double Start, ImmutableArray<SpokenFor> Spoke, double Rest)
{
    private const int MostWords = 16;
    private const int MostPlaces = 5;

    /// <summary>Words that weigh less than this share of the heaviest are not marked.</summary>
    private const double Lightest = 0.2;

    /// <summary>Explains what a sorter makes of a message.</summary>
    public static SorterExplanation Of(TrainedSorter sorter, PreparedMessage message)
    {
        var text = LookedAt.In(message);
        var met = new MetFeatures();
        FeatureReader.Visit(text, ref met);
        var features = FeatureReader.Read(message);
        var decision = sorter.Decide(features);
        var own = sorter.Settings.ClassOf(decision.CategoryId);
        var next = sorter.Sureties(message).Where(s => s.CategoryId != decision.CategoryId).OrderByDescending(s => s.Surety).FirstOrDefault();
        var other = sorter.Classes < 2 ? own : sorter.Settings.ClassOf(next.CategoryId);
        var calibrator = sorter.Calibrator;
        var start = (calibrator.Factor * (sorter.Weights.Bias[own] - sorter.Weights.Bias[other])) + calibrator.Shifts[own] - calibrator.Shifts[other];
        var groups = Group(text, met, WeightsOf(sorter, features, own, other));
        var score = start + groups.Sum(g => g.Weight);
        var spoke = groups.OrderByDescending(g => Math.Abs(g.Weight)).ThenBy(g => g.Words, StringComparer.Ordinal).Take(MostWords).ToImmutableArray();
        return new SorterExplanation(decision, next.CategoryId, score, start, spoke, score - start - spoke.Sum(s => s.Weight));
    }

    /// <summary>Where the words stand that spoke clearly for the category, the heaviest first.</summary>
    public ImmutableArray<Evidence> ForIt() => [.. Spoke.Where(s => s.Weight > Spoke.Max(x => x.Weight) * Lightest).SelectMany(s => s.Evidence).DistinctBy(e => (e.Place, e.Index, e.Start)).Take(MostWords)];

    /// <summary>What every known feature adds to the score.</summary>
    private static Dictionary<uint, double> WeightsOf(TrainedSorter sorter, FeatureVector features, int own, int other)
    {
        var weights = new Dictionary<uint, double>();
        var (columns, values) = SparseRows.Row(sorter.Vocabulary, features);
        for (var i = 0; i < columns.Length; i++)
        {
            var of = sorter.Weights.Of(columns[i]);
            weights[sorter.Vocabulary.Keys[columns[i]]] = sorter.Calibrator.Factor * values[i] * (of[own] - of[other]);
        }

        return weights;
    }

    /// <summary>Gives every feature’s weight to the word it belongs to; a piece that several words share is shared among them.</summary>
    private static List<SpokenFor> Group(LookedAt text, MetFeatures met, Dictionary<uint, double> weights)
    {
        var groups = new Dictionary<string, (string Words, double Weight, ImmutableArray<Evidence>.Builder Places)>(StringComparer.Ordinal);
        foreach (var (key, family, place) in met.All)
        {
            if (!weights.TryGetValue(key, out var weight))
            {
                continue;
            }

            var words = place.Stretch < 0 ? text.Marks[place.Start].Says : text.Stretches[place.Stretch].Text.Text.Substring(place.Start, place.Length);
            var name = place.Stretch < 0 ? "\n" + words : PlainLetters.Of(string.Join(' ', words.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries)));
            var group = groups.TryGetValue(name, out var known) ? known : (Words: words, Weight: 0, Places: ImmutableArray.CreateBuilder<Evidence>());
            groups[name] = group with { Weight = group.Weight + (weight / met.Times(key)) };
            if (family is FeatureFamily.Word or FeatureFamily.Pair && group.Places.Count < MostPlaces)
            {
                var stretch = text.Stretches[place.Stretch];
                group.Places.Add(new Evidence(stretch.Place, place.Start, place.Length, words, stretch.Index));
            }
        }

        return [.. groups.Values.Select(g => new SpokenFor(g.Words, g.Weight, g.Places.ToImmutable()))];
    }

    /// <summary>Every feature where it was met.</summary>
    private sealed class MetFeatures : IFeatureSink
    {
        private readonly Dictionary<uint, int> _times = [];

        public List<(uint Key, FeatureFamily Family, FeaturePlace Place)> All { get; } = [];

        public int Times(uint key) => _times[key];

        public bool Take(uint key, FeatureFamily family, FeaturePlace place)
        {
            All.Add((key, family, place));
            var times = _times.GetValueOrDefault(key);
            _times[key] = times + 1;
            return times == 0;
        }
    }
}
