using CsCheck;
using PostTide.Core.Messages;
using PostTide.Core.Sorting;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Sorting;

/// <summary>What users rely on: sorters learn, say how sure they are, explain themselves, and come out the same every time.</summary>
public sealed class SorterTests
{
    private static readonly SorterTraining Trained = SorterTrainer.Train(MadeMail.Settings, MadeMail.Examples(40, none: true));

    [Theory]
    [InlineData("Is there a mooring for our yacht overnight?", "berth")]
    [InlineData("We need 200 litres of diesel, tank is nearly empty", "fuel")]
    [InlineData("The generator made a noise at midnight", "noise")]
    [InlineData("A newsletter with an offer, and your statement", null)]
    public void Mail_goes_where_its_words_point(string text, string? category) => Trained.Sorter.Sort(MadeMail.Says(text)).CategoryId.ShouldBe(category);

    [Fact]
    public void Typing_errors_change_little() => Trained.Sorter.Sort(MadeMail.Says("is there a moorring for our yachtt overnigt")).CategoryId.ShouldBe("berth");

    [Fact]
    public void Sureties_of_all_categories_add_up_to_one()
    {
        var sureties = Trained.Sorter.Sureties(MadeMail.Says("diesel for the yacht"));
        sureties.Select(s => s.CategoryId).ShouldBe(["berth", "fuel", "noise", null]);
        sureties.Sum(s => s.Surety).ShouldBe(1, 1e-9);
    }

    [Fact]
    public void The_same_examples_give_the_same_bytes_in_whatever_order_they_come()
    {
        var examples = MadeMail.Examples(25, none: true).ToArray();
        var first = SorterFile.Write(SorterTrainer.Train(MadeMail.Settings, examples).Sorter);
        new Random(9).Shuffle(examples);
        SorterFile.Write(SorterTrainer.Train(MadeMail.Settings, examples, cores: 1).Sorter).ShouldBe(first);
    }

    [Fact]
    public void A_sorter_read_from_its_file_says_the_same()
    {
        var read = SorterFile.Read(SorterFile.Write(Trained.Sorter));
        foreach (var example in MadeMail.Examples(20, seed: 4, none: true))
        {
            read.Sureties(example.Message).ShouldBe(Trained.Sorter.Sureties(example.Message));
            read.Sort(example.Message).ShouldBe(Trained.Sorter.Sort(example.Message));
        }
    }

    [Fact]
    public void A_damaged_file_is_refused_wherever_it_ends()
    {
        var bytes = SorterFile.Write(SorterTrainer.Train(MadeMail.Settings, MadeMail.Examples(3)).Sorter);
        for (var length = 0; length < bytes.Length; length += Math.Max(1, bytes.Length / 200))
        {
            Should.Throw<SorterFileException>(() => SorterFile.Read(bytes[..length]));
        }

        Gen.Byte.Array[0, 200].Sample(junk => Should.Throw<SorterFileException>(() => SorterFile.Read(junk)));
    }

    [Fact]
    public void Reasons_add_up_to_the_score_and_the_score_to_the_sureties()
    {
        var compared = 0;
        var clear = MadeMail.Examples(10, seed: 5, none: true).Select(e => e.Message).ToArray();

        // Two kinds of mail in one are doubtful.
        foreach (var message in clear.Concat(clear.Zip(clear.Skip(7), (a, b) => MadeMail.Says(a.Body.Text + " " + b.Body.Text, ""))))
        {
            var explanation = SorterExplanation.Of(Trained.Sorter, message);
            (explanation.Start + explanation.Spoke.Sum(s => s.Weight) + explanation.Rest).ShouldBe(explanation.Score, 1e-6);
            var sureties = Trained.Sorter.Sureties(message);
            var (seen, classes) = (Trained.Sorter.Calibrator.Seen, sureties.Length);

            // Without what is kept back for the number of examples, the score is the logarithm of the odds.
            double Odds(string? id) => (sureties.First(s => s.CategoryId == id).Surety * (seen + 1)) - (1.0 / classes);
            if (explanation.Score < 15)
            {
                compared++;
                Math.Log(Odds(explanation.Decision.CategoryId) / Odds(explanation.Next)).ShouldBe(explanation.Score, 0.01);
            }
        }

        compared.ShouldBeGreaterThan(5, "beyond that the odds are lost in rounding");
    }

    [Fact]
    public void The_words_of_a_reason_stand_in_the_message()
    {
        var message = MadeMail.Says("Could we have a mooring?\n\n> the diesel pump again\n", "Yacht overnight") with
        {
            Attachments = [new Attachment(0, "berth plan.pdf", "application/pdf", 9)],
        };
        var explanation = SorterExplanation.Of(Trained.Sorter, message);
        explanation.Decision.CategoryId.ShouldBe("berth");
        var evidence = explanation.Spoke.SelectMany(s => s.Evidence).ToList();
        evidence.ShouldAllBe(e => message.TextAt(e.Place, e.Index).Substring(e.Start, e.Length) == e.Text);
        evidence.ShouldContain(e => e.Text == "mooring");
        evidence.ShouldNotContain(e => e.Text == "diesel", "quoted history is set aside");
    }

    [Fact]
    public void The_nearest_examples_share_its_words_and_never_are_the_message_itself()
    {
        var examples = MadeMail.Examples(15, seed: 6);
        var index = new ExampleIndex(Trained.Sorter, examples);
        var near = index.Nearest(examples[1].Message, 4);
        near.Count.ShouldBe(4);
        near.ShouldNotContain(n => n.Id == examples[1].Id);
        near[0].CategoryId.ShouldBe("fuel");
        near.Select(n => n.Likeness).ShouldBeInOrder(SortDirection.Descending);
    }

    [Fact]
    public void The_next_to_label_are_doubtful_and_unlike_each_other()
    {
        var clear = Enumerable.Range(100, 20).Select(i => MadeMail.Says("mooring berth yacht pontoon overnight arrive", "berth") with { Id = i });
        var doubtful = Enumerable.Range(200, 10).Select(i => MadeMail.Says("berth mooring yacht and diesel litres petrol", "yacht diesel") with { Id = i });
        var other = Enumerable.Range(300, 10).Select(i => MadeMail.Says("noise music sleep and diesel litres petrol", "music pump") with { Id = i });
        var chosen = UsefulNext.Choose(Trained.Sorter, [.. clear, .. doubtful, .. other], 2);
        chosen.Select(m => m.Id / 100).Order().ToArray().ShouldBe([2L, 3L], "two copies of one doubt teach no more than one");
    }

    [Fact]
    public void Descriptions_and_cues_alone_propose_with_low_surety_and_decide_nothing()
    {
        var settings = new SorterSettings
        {
            Categories = [MadeMail.Category("berth", "Asks for a place to moor a yacht overnight.", "mooring"), MadeMail.Category("fuel", "Wants diesel or petrol delivered.", "litres")],
        };
        var training = SorterTrainer.Train(settings, [], [.. MadeMail.Examples(20).Select(e => e.Message)]);
        training.Predictions.ShouldBeEmpty();
        var decision = training.Sorter.Sort(MadeMail.Says("a mooring overnight please"));
        decision.CategoryId.ShouldBe("berth");
        decision.Unsure.ShouldBeTrue();
        decision.Surety.ShouldBeLessThan(0.7);
        training.Sorter.Sort(MadeMail.Says("40 litres of diesel")).CategoryId.ShouldBe("fuel");
    }

    [Fact]
    public void Every_label_makes_it_surer()
    {
        double Accuracy(int each) => SorterTest.Run(SorterTrainer.Train(MadeMail.Settings, MadeMail.Examples(each)).Sorter, MadeMail.Examples(60, seed: 8)).Brier;
        Accuracy(40).ShouldBeLessThan(Accuracy(4));
    }

    [Fact]
    public void Copies_of_one_message_never_stand_on_both_sides_of_the_trial()
    {
        // Every message is there five times under a label that means nothing: who has seen a copy would know it.
        var random = new Random(3);
        var examples = Enumerable.Range(0, 60).SelectMany(i =>
        {
            var (text, label) = ($"note {string.Concat(Enumerable.Range(0, 6).Select(_ => (char)('a' + random.Next(26))))}", random.Next(2) == 0 ? "berth" : "fuel");
            return Enumerable.Range(0, 5).Select(j => new SorterExample((i * 5) + j, label, MadeMail.Says(text, "") with { Id = (i * 5) + j, MessageId = $"{i}@mail.example" }));
        });
        SorterTrainer.Train(MadeMail.Settings, [.. examples]).Evaluation.Accuracy.Value.ShouldBeLessThan(0.75);
    }

    [Fact]
    public void Labels_that_went_wrong_are_found()
    {
        var examples = MadeMail.Examples(60).ToBuilder();
        var wrong = examples[30];
        examples[30] = wrong with { CategoryId = wrong.CategoryId == "fuel" ? "noise" : "fuel" };
        SorterTrainer.Train(MadeMail.Settings, examples.ToImmutable()).Evaluation.Doubtful.ShouldContain(wrong.Id);
    }

    [Fact]
    public void The_floor_is_the_lowest_surety_from_which_on_enough_is_right()
    {
        // 40 predictions from 0.99 down to 0.60; the 30th, 36th and 40th are wrong.
        var predictions = Enumerable.Range(0, 40).Select(i => new Prediction(i, "a", i is 29 or 35 or 39 ? "b" : "a", 0.99 - (i * 0.01), 0.5, 0)).ToArray();
        Floors.Lowest(predictions, 1).ShouldNotBeNull().ShouldBe(0.71, 1e-9);
        Floors.Lowest(predictions, 0.95).ShouldNotBeNull().ShouldBe(0.65, 1e-9, "34 of 35 are 97 %; with the 36th it is 94 %, and 37 of 39 are 94.9 %");
        Floors.Lowest(predictions[..19], 0.5).ShouldBeNull("nineteen say too little");
    }

    [Fact]
    public void A_category_can_ask_for_more_than_its_sorter()
    {
        var settings = MadeMail.Settings with { RightAtLeast = 0.6, Categories = [MadeMail.Category("berth") with { RightAtLeast = 0.999 }, MadeMail.Category("fuel"), MadeMail.Category("noise")] };
        var predictions = Enumerable.Range(0, 60).Select(i => new Prediction(i, "berth", "berth", 0.9, 0.9, 0)).Append(new Prediction(99, "fuel", "berth", 0.9, 0.1, 0)).ToArray();
        var floors = Floors.Of(predictions, settings);
        floors.For("fuel").ShouldBe(0.9);
        floors.For("berth").ShouldBe(Floors.Never);
    }

    [Fact]
    public void More_examples_are_forecast_to_bring_less_and_less_until_it_says_stop()
    {
        SorterEvaluation At(double accuracy, params LearningPoint[] before) => new() { Examples = 400, Accuracy = Share.Wilson((int)(accuracy * 400), 400), Learning = [.. before] };
        var steep = LearningForecast.Of(At(0.9, new LearningPoint(100, 0.6), new LearningPoint(200, 0.8)), 100).ShouldNotBeNull();
        steep.Accuracy.ShouldBeGreaterThan(0.915);
        steep.Enough.ShouldBeFalse();
        LearningForecast.Of(At(0.9, new LearningPoint(100, 0.899), new LearningPoint(200, 0.9)), 30).ShouldNotBeNull().Enough.ShouldBeTrue();
        LearningForecast.Of(At(0.9), 30).ShouldBeNull();
    }

    [Fact]
    public void Mail_that_has_changed_is_noticed_beyond_chance()
    {
        var expected = new SorterEvaluation { Examples = 200, Decided = Share.Wilson(180, 200), DecidedRight = Share.Wilson(174, 180) };
        SortedWeek Week(int decided, int corrected, int unsure) => new(new DateOnly(2026, 11, 16), "berth", decided, corrected, unsure);
        var calm = SorterDrift.Of([Week(90, 3, 10)], expected);
        (calm.MoreMistakes || calm.MoreDoubt).ShouldBeFalse();
        SorterDrift.Of([Week(90, 15, 10)], expected).MoreMistakes.ShouldBeTrue();
        SorterDrift.Of([Week(60, 2, 40)], expected).MoreDoubt.ShouldBeTrue();
        SorterDrift.Of([], expected).MoreMistakes.ShouldBeFalse();
    }
}
