using CsCheck;
using PostTide.Core.Sorting;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Sorting;

/// <summary>The quick ways of training say what the plain ones say.</summary>
public sealed class NumbersTests
{
    private static readonly Gen<FeatureVector> Vector =
        Gen.UInt[1, 40].HashSet[1, 12].Select(keys => new FeatureVector([.. keys], [.. keys.Select(k => 1 + (k % 3f))]));

    [Fact]
    public void A_vocabulary_holds_what_enough_texts_hold_and_how_rare_it_is() =>
        Gen.Select(Vector.Array[1, 20], Vector.Array[0, 10], Gen.Int[1, 3], Gen.Int[1, 60]).Sample((texts, others, least, most) =>
        {
            var vocabulary = Vocabulary.Of(texts, others, least, most);
            var counts = texts.SelectMany(t => t.Keys).GroupBy(k => k).ToDictionary(g => g.Key, g => g.Count());
            var kept = counts.Where(c => c.Value >= least).OrderByDescending(c => c.Value).ThenBy(c => c.Key).Take(most).Select(c => c.Key).Order().ToArray();
            vocabulary.Keys.ToArray().ShouldBe(kept);
            foreach (var (key, i) in kept.Select((k, i) => (k, i)))
            {
                vocabulary.Find(key).ShouldBe(i);
                var containing = texts.Concat(others).Count(t => t.Keys.Contains(key));
                vocabulary.Rarity[i].ShouldBe(Vocabulary.RarityOf(texts.Length + others.Length, containing));
            }

            vocabulary.Find(41).ShouldBe(-1);
        });

    [Fact]
    public void Rarity_is_the_smoothed_inverse_document_frequency()
    {
        // ln((1 + 9) / (1 + 1)) + 1, worked by hand; kept in half precision, which has eleven bits.
        Vocabulary.RarityOf(9, 1).ShouldBe(2.6094f, 0.002f);
        Vocabulary.RarityOf(9, 9).ShouldBe(1);
    }

    [Fact]
    public void Rows_are_one_long_over_all_their_features_known_or_not() =>
        Gen.Select(Vector.Array[2, 12], Vector).Sample((texts, other) =>
        {
            var vocabulary = Vocabulary.Of(texts, [], 1, 100);
            var rows = new SparseRows(vocabulary, [.. texts, other]);
            for (var i = 0; i < texts.Length; i++)
            {
                rows.SquaredLength(i).ShouldBe(1, 1e-4f, "every feature of a text it is made from is known");
            }

            rows.SquaredLength(texts.Length).ShouldBeInRange(0, 1.0001f);
            rows.Columns(texts.Length).Length.ShouldBe(other.Keys.Count(k => vocabulary.Find(k) >= 0));
        });

    [Fact]
    public void Scores_are_the_weighted_sums_whatever_the_number_of_classes() =>
        Gen.Select(Gen.Int[1, 19], Gen.Int[1, 12], Gen.Int[0, 1_000]).Sample((classes, features, seed) =>
        {
            var random = new Random(seed);
            var weights = new LinearWeights(features, classes);
            var plain = new double[features + 1, classes];
            var room = new float[LinearWeights.Stride(classes)];
            for (var round = 0; round < 4; round++)
            {
                var columns = Enumerable.Range(0, features).Where(_ => random.Next(2) == 0).ToArray();
                var values = columns.Select(_ => (float)random.NextDouble()).ToArray();
                for (var k = 0; k < classes; k++)
                {
                    room[k] = (float)(random.NextDouble() - 0.5);
                    plain[features, k] += room[k];
                    foreach (var (column, value) in columns.Zip(values))
                    {
                        plain[column, k] += room[k] * value;
                    }
                }

                weights.Add(columns, values, room);
                var scores = new float[LinearWeights.Stride(classes)];
                weights.Score(columns, values, scores);
                for (var k = 0; k < classes; k++)
                {
                    scores[k].ShouldBe((float)(plain[features, k] + columns.Zip(values).Sum(p => plain[p.First, k] * p.Second)), 1e-4f);
                }
            }

            weights.Round();
            for (var feature = 0; feature < features; feature++)
            {
                weights.Of(feature).ToArray().ShouldAllBe(w => w == (float)(Half)w);
            }
        });

    [Fact]
    public void Every_category_is_spread_over_all_folds_and_copies_stay_together() =>
        Gen.Select(Gen.Int[4, 40], Gen.Int[2, 5]).Sample((each, folds) =>
        {
            var examples = MadeMail.Examples(each);
            SorterExample[] withCopies = [.. examples, .. examples.Take(each).Select(e => e with { Id = e.Id + 10_000 })];
            var set = TrainingSet.Of(MadeMail.Settings, withCopies, [], 1, 1);
            var foldOf = Folds.Of(set, folds);
            var named = Enumerable.Range(0, set.Examples).Where(i => set.MessageIds[i].Length > 0).ToArray();
            foreach (var copies in named.GroupBy(i => set.MessageIds[i]))
            {
                copies.Select(i => foldOf[i]).Distinct().Count().ShouldBe(1);
            }

            var jobs = Folds.Jobs(set, foldOf, folds, [2]);
            jobs.Count(j => j.Fold < 0).ShouldBe(1);
            foreach (var job in jobs.Where(j => j.Fold >= 0))
            {
                job.Rows.Where(r => r < set.Examples).ShouldAllBe(r => foldOf[r] != job.Fold, "no model sees what it is judged by");
            }

            foreach (var kind in Enumerable.Range(0, set.Classes))
            {
                var sizes = Enumerable.Range(0, folds).Select(f => Enumerable.Range(0, set.Examples).Count(i => foldOf[i] == f && set.ClassOf[i] == kind)).ToArray();
                (each < folds || sizes.Max() - sizes.Min() <= (sizes.Max() / 2) + 1).ShouldBeTrue();
            }
        }, iter: 20);

    [Fact]
    public void On_one_core_and_on_many_the_same_sorter_comes_out()
    {
        var examples = MadeMail.Examples(40);
        var one = SorterTrainer.Train(MadeMail.Settings, examples, cores: 1);
        var many = SorterTrainer.Train(MadeMail.Settings, [.. examples.Reverse()], cores: 8);
        SorterFile.Write(one.Sorter).ShouldBe(SorterFile.Write(many.Sorter));
        one.Predictions.ToArray().ShouldBe(many.Predictions.ToArray());
    }
}
