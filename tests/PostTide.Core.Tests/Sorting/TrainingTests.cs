using CsCheck;
using PostTide.Core.Sorting;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Sorting;

/// <summary>The mathematics of training and calibration: gradients, optimum, known probabilities.</summary>
public sealed class TrainingTests
{
    private static readonly Gen<double[]> Scores = Gen.Double[-6, 6].Array[2, 6];

    [Fact]
    public void The_gradient_of_the_loss_is_what_finite_differences_say() => Gen.Select(Scores, Gen.Int[0, 5]).Sample((scores, k) =>
    {
        var right = k % scores.Length;
        var gradient = new double[scores.Length];
        Softmax.Loss(scores, right, gradient);
        var room = new double[scores.Length];
        for (var i = 0; i < scores.Length; i++)
        {
            const double Step = 1e-5;
            double At(double by)
            {
                var moved = (double[])scores.Clone();
                moved[i] += by;
                return Softmax.Loss(moved, right, room);
            }

            gradient[i].ShouldBe((At(Step) - At(-Step)) / (2 * Step), 1e-6);
        }
    });

    [Fact]
    public void The_gradient_of_the_calibration_is_what_finite_differences_say() =>
        Gen.Select(Gen.Float[-3, 3].Array[3].Array[4, 12], Gen.Double[-1, 1].Array[4]).Sample((scores, at) =>
        {
            var right = scores.Select((s, i) => i % 3).ToArray();
            var (gradient, curvature) = (new double[4], new double[4]);
            Calibrator.Objective(scores, right, at, gradient, curvature);
            for (var i = 0; i < 4; i++)
            {
                const double Step = 1e-5;
                double At(double by)
                {
                    var moved = (double[])at.Clone();
                    moved[i] += by;
                    return Calibrator.Objective(scores, right, moved, null, null);
                }

                gradient[i].ShouldBe((At(Step) - At(-Step)) / (2 * Step), 1e-4 * (1 + Math.Abs(gradient[i])));
                curvature[i].ShouldBeGreaterThan(0);
            }
        });

    [Fact]
    public void What_training_ends_with_is_the_optimum_no_direction_leads_further_down()
    {
        var set = TrainingSet.Of(MadeMail.Settings, MadeMail.Examples(12), [], 1, 0.5f);
        var vocabulary = Vocabulary.Of(set.Texts, [], 1, 10_000);
        var rows = new SparseRows(vocabulary, set.Texts);
        var all = Enumerable.Range(0, set.Texts.Length).ToArray();
        var counts = set.WeightsFor(all);
        const float C = 4;
        var weights = LogisticTrainer.Train(rows, all, set.ClassOf, counts, vocabulary.Count, set.Classes, C);
        double Objective(Func<int, int, double> at)
        {
            var sum = 0d;
            for (var f = -1; f < vocabulary.Count; f++)
            {
                for (var k = 0; k < set.Classes; k++)
                {
                    sum += 0.5 * at(f, k) * at(f, k);
                }
            }

            var (scores, slope) = (new double[set.Classes], new double[set.Classes]);
            foreach (var row in all)
            {
                for (var k = 0; k < set.Classes; k++)
                {
                    scores[k] = at(-1, k);
                    for (var i = 0; i < rows.Columns(row).Length; i++)
                    {
                        scores[k] += rows.Values(row)[i] * at(rows.Columns(row)[i], k);
                    }
                }

                sum += C * counts[row] * Softmax.Loss(scores, set.ClassOf[row], slope);
            }

            return sum;
        }

        double Reached(int f, int k) => f < 0 ? weights.Bias[k] : weights.Of(f)[k];
        var least = Objective(Reached);
        least.ShouldBeLessThan(Objective((_, _) => 0));
        var random = new Random(11);
        for (var direction = 0; direction < 6; direction++)
        {
            var moves = Enumerable.Range(0, (vocabulary.Count + 1) * set.Classes).Select(_ => random.NextDouble() - 0.5).ToArray();
            var length = Math.Sqrt(moves.Sum(m => m * m));
            foreach (var step in new[] { -0.05, 0.05 })
            {
                // A twentieth away in any direction costs more, up to how exactly training stops.
                Objective((f, k) => Reached(f, k) + (step / length * moves[((f + 1) * set.Classes) + k])).ShouldBeGreaterThan(least - 1e-4);
            }
        }
    }

    [Fact]
    public void Sureties_come_near_the_true_probabilities_where_those_are_known()
    {
        // Each message has one word, and a word means “berth” with a probability of its own.
        string[] words = ["anchor", "buoy", "capstan", "davit", "eddy", "fender", "gunwale", "halyard", "inlet"];
        var settings = new SorterSettings { Categories = [MadeMail.Category("berth"), MadeMail.Category("fuel")] };
        var random = new Random(7);
        SorterExample Draw(int id)
        {
            var at = random.Next(words.Length);
            return new SorterExample(id, random.NextDouble() < (at + 1) / 10.0 ? "berth" : "fuel", MadeMail.Says(words[at], "") with { Id = id });
        }

        var training = SorterTrainer.Train(settings, [.. Enumerable.Range(1, 3_000).Select(Draw)]);
        for (var at = 0; at < words.Length; at++)
        {
            training.Sorter.Sureties(MadeMail.Says(words[at], "")).First(s => s.CategoryId == "berth").Surety.ShouldBe((at + 1) / 10.0, 0.08, words[at]);
        }

        var fresh = SorterTest.Run(training.Sorter, [.. Enumerable.Range(10_000, 4_000).Select(Draw)]);
        fresh.CalibrationError.ShouldBeLessThan(0.05);
        training.Evaluation.CalibrationError.ShouldBeLessThan(0.05);
    }

    [Fact]
    public void Reliability_rises_with_surety_on_mail_kept_aside()
    {
        var settings = MadeMail.Settings;
        var random = new Random(2);

        // Half of the words of each message come from another kind, so that many are doubtful.
        SorterExample Mixed(long id)
        {
            var kinds = new[] { "berth", "fuel", "noise" };
            var (own, other) = (MadeMail.Example(random, id, kinds[random.Next(3)]), MadeMail.Example(random, id, kinds[random.Next(3)]));
            var cut = random.Next(20, 70);
            return own with { Message = MadeMail.Says(Cut(own, 70 - cut) + " " + Cut(other, cut), "") with { Id = id } };
        }

        static string Cut(SorterExample e, int length) => e.Message.Body.Text[..Math.Min(length, e.Message.Body.Text.Length)];
        var training = SorterTrainer.Train(settings, [.. Enumerable.Range(1, 600).Select(i => Mixed(i))]);
        var test = SorterTest.Run(training.Sorter, [.. Enumerable.Range(1, 2_000).Select(i => Mixed(i))]);
        var filled = test.Reliability.Where(b => b.Right.Of >= 120).ToList();
        filled.Count.ShouldBeGreaterThan(2);
        filled.Select(b => b.Right.Value).ShouldBeInOrder(SortDirection.Ascending);
    }

    [Fact]
    public void No_surety_is_higher_than_the_number_of_examples_allows()
    {
        var training = SorterTrainer.Train(MadeMail.Settings, MadeMail.Examples(5));
        var highest = training.Sorter.Sureties(MadeMail.Says("diesel diesel litres petrol tank", "diesel")).Max(s => s.Surety);

        // One further example, spread evenly over the classes: (n + 1/k) / (n + 1), Perks’s form of the rule of succession (from memory).
        highest.ShouldBeLessThanOrEqualTo((15 + (1 / 3.0)) / 16);
    }

    [Fact]
    public void What_is_more_likely_wrong_than_right_is_left_to_a_person_unless_mistakes_have_costs()
    {
        // All right, the surest first, down to a surety of 0.3: the curve alone would decide everything.
        Prediction[] predictions = [.. Enumerable.Range(0, 40).Select(i => new Prediction(i, "berth", "berth", 0.99 - (i * 0.0177), 0.5, 0))];
        Floors.Lowest(predictions, 0.95)!.Value.ShouldBe(0.2997, 1e-9);
        Floors.Of(predictions, MadeMail.Settings).Own.ShouldBe(0.5);
        var costly = MadeMail.Settings with { CostlyMistakes = [new CostlyMistake("noise", "fuel", 3)] };
        Floors.Of(predictions, costly).Own.ShouldBe(0.2997, 1e-9);

        // What is offered is what would be done.
        var decided = predictions.Count(p => p.Surety >= 0.5) / 40.0;
        SorterEvaluation.DecidedAt(predictions, 0.95, Floors.LeastFor(MadeMail.Settings)).ShouldBe(decided);
        SorterEvaluation.Of(predictions, ["berth"], Floors.Of(predictions, MadeMail.Settings), Floors.LeastFor(MadeMail.Settings))
            .Choices.ShouldAllBe(c => c.Decided == decided);
    }

    [Theory]
    [InlineData(2, 40)]
    [InlineData(7, 140)]
    [InlineData(3, 1)]
    public void Sureties_add_up_to_one_and_keep_back_what_is_not_known(int classes, int seen)
    {
        var calibrator = new Calibrator(1, [.. new double[classes]], seen);
        var scores = new float[classes];
        scores[1] = 1_000;
        var sureties = new double[classes];
        calibrator.Sureties(scores, sureties);
        sureties.Sum().ShouldBe(1, 1e-12);
        sureties[1].ShouldBe((seen + (1.0 / classes)) / (seen + 1), 1e-12);
        sureties[0].ShouldBe(1.0 / classes / (seen + 1), 1e-12);
        calibrator.Sureties(new float[classes], sureties);
        sureties.ShouldAllBe(s => Math.Abs(s - (1.0 / classes)) < 1e-12);
    }

    [Fact]
    public void Expected_calibration_error_and_Brier_score_are_what_the_definitions_say()
    {
        // Two stretches: 0.6 said, 1 of 2 right; 0.9 said, 2 of 2 right. ECE = 2/4 · |0.6 − 0.5| + 2/4 · |0.9 − 1| = 0.1.
        Prediction[] predictions =
        [
            new(1, "a", "a", 0.6, 0.6, 0.32), new(2, "b", "a", 0.6, 0.4, 0.72), new(3, "a", "a", 0.9, 0.9, 0.02), new(4, "b", "b", 0.9, 0.9, 0.02),
        ];
        var evaluation = SorterEvaluation.Of(predictions, ["a", "b"], Floors.Closed);
        evaluation.CalibrationError.ShouldBe(0.1, 1e-9);

        // (0.4² + 0.4²), (0.6² + 0.6²), (0.1² + 0.1²) twice; their mean.
        evaluation.Brier.ShouldBe((0.32 + 0.72 + 0.02 + 0.02) / 4, 1e-9);
        evaluation.Confusion.ShouldContain(new ConfusionCell("b", "a", 0, 1));
    }

    [Fact]
    public void Mistakes_that_cost_more_are_avoided()
    {
        double[] sureties = [0.4, 0.6];
        TrainedSorter.Choose(sureties, null).ShouldBe(1);
        var settings = new SorterSettings
        {
            Categories = [MadeMail.Category("complaint"), MadeMail.Category("enquiry")],
            CostlyMistakes = [new CostlyMistake("complaint", "enquiry", 3)],
        };

        // Calling it an enquiry costs 0.4 · 3, calling it a complaint 0.6.
        TrainedSorter.Choose(sureties, TrainedSorter.CostsOf(settings, 2)).ShouldBe(0);
    }
}
