using PostTide.Core.Sorting;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Sorting;

/// <summary>Examples as people really have them: too few, too many of one kind, contradictory, tiny, huge. Clear advice, no crash, honest surety.</summary>
public sealed class BadExamplesTests
{
    private static Dictionary<string, int> CountsOf(IEnumerable<SorterExample> examples) => examples.CountBy(e => e.CategoryId ?? "").ToDictionary(c => c.Key, c => c.Value);

    [Fact]
    public void One_category_alone_decides_nothing_and_says_why()
    {
        var settings = new SorterSettings { Categories = [MadeMail.Category("berth")] };
        var examples = MadeMail.Examples(30).Where(e => e.CategoryId == "berth").ToArray();
        var training = SorterTrainer.Train(settings, examples);
        SorterAdvice.On(settings, CountsOf(examples), training.Evaluation)[0].ShouldContain("nothing to tell it from");
        training.Sorter.Sort(MadeMail.Says("anything at all")).CategoryId.ShouldBe("berth");
    }

    [Fact]
    public void No_category_is_refused_and_told()
    {
        Should.Throw<ArgumentException>(() => SorterTrainer.Train(SorterSettings.Empty, []));
        SorterAdvice.On(SorterSettings.Empty, new Dictionary<string, int>(), null).ShouldHaveSingleItem().ShouldContain("no category yet");
    }

    [Fact]
    public void An_empty_category_is_never_chosen_and_told()
    {
        var settings = MadeMail.Settings with { Categories = MadeMail.Settings.Categories.Add(MadeMail.Category("empty")) };
        var examples = MadeMail.Examples(25);
        var training = SorterTrainer.Train(settings, examples);
        training.Sorter.Sort(MadeMail.Says("diesel and litres")).CategoryId.ShouldBe("fuel");
        MadeMail.Examples(20, seed: 3).ShouldAllBe(e => training.Sorter.Sort(e.Message).CategoryId != "empty");
        SorterAdvice.On(settings, CountsOf(examples), training.Evaluation).ShouldContain(a => a.Contains("“empty” has neither examples nor a description", StringComparison.Ordinal));
    }

    [Fact]
    public void Ten_thousand_against_three_still_finds_the_three()
    {
        var random = new Random(5);
        var settings = new SorterSettings { Categories = [MadeMail.Category("berth"), MadeMail.Category("noise")] };
        SorterExample[] examples =
        [
            .. Enumerable.Range(1, 10_000).Select(i => MadeMail.Example(random, i, "berth")), .. Enumerable.Range(20_001, 3).Select(i => MadeMail.Example(random, i, "noise")),
        ];
        var training = SorterTrainer.Train(settings, examples);
        training.Sorter.Sort(MadeMail.Says("noise generator music midnight complaint sleep", "noise")).CategoryId.ShouldBe("noise");
        training.Sorter.Sort(MadeMail.Says("a mooring overnight", "berth")).CategoryId.ShouldBe("berth");
        SorterAdvice.On(settings, CountsOf(examples), training.Evaluation).ShouldContain(a => a.Contains("Nine in ten", StringComparison.Ordinal));
        SorterFile.Write(training.Sorter).Length.ShouldBeLessThan(5_000_000);
    }

    [Fact]
    public void The_same_message_in_two_categories_leaves_it_unsure_and_is_told()
    {
        var twice = MadeMail.Says("a tender for the quay crane, two copies", "Tender");
        SorterExample[] examples =
        [
            .. MadeMail.Examples(20), .. Enumerable.Range(0, 4).Select(i => new SorterExample(900 + i, i % 2 == 0 ? "berth" : "fuel", twice with { Id = 900 + i })),
        ];
        var training = SorterTrainer.Train(MadeMail.Settings, examples);
        training.Evaluation.Conflicting.ShouldBe(1);
        training.Sorter.Sort(twice).Surety.ShouldBeLessThan(0.8);
        SorterAdvice.On(MadeMail.Settings, CountsOf(examples), training.Evaluation).ShouldContain(a => a.Contains("more than one label", StringComparison.Ordinal));
    }

    [Theory]
    [InlineData("")]
    [InlineData("diesel")]
    [InlineData("👍")]
    [InlineData("zzzzqqq")]
    public void Mail_of_a_word_or_none_gets_an_honest_surety(string text)
    {
        var training = SorterTrainer.Train(MadeMail.Settings, MadeMail.Examples(20));
        var decision = training.Sorter.Sort(MadeMail.Says(text, ""));

        // Sixty examples of three categories allow no more, however plainly a word speaks.
        decision.Surety.ShouldBeInRange(0, (60 + (1 / 3.0)) / 61);
        if (text is "" or "zzzzqqq")
        {
            decision.Surety.ShouldBeLessThan(0.9);
        }
    }

    [Fact]
    public void Two_megabytes_are_read_from_both_ends()
    {
        var filler = string.Concat(Enumerable.Repeat("and so on and on ", 120_000));
        var message = MadeMail.Says("mooring at the beginning\n" + filler + "\ndiesel at the end\n", "");
        var words = LookedAt.In(message).AsText();
        words.Length.ShouldBeLessThan(6_000);
        words.ShouldContain("mooring at the beginning");
        words.ShouldContain("diesel at the end");
        SorterTrainer.Train(MadeMail.Settings, [.. MadeMail.Examples(5), new SorterExample(999, "berth", message with { Id = 999 })]).Evaluation.Examples.ShouldBe(16);
    }

    [Theory]
    [InlineData("要求停泊一晚的泊位", "我们想要一个泊位停泊", "请送柴油二百升", "需要柴油加油")]
    [InlineData("طلب مكان لرسو القارب", "نريد مكان لرسو القارب الليلة", "توصيل وقود الديزل", "نحتاج وقود الديزل غدا")]
    [InlineData("Заявка на стоянку яхты у причала", "нужна стоянка для яхты у причала", "Доставка дизельного топлива", "просим доставить дизельное топливо")]
    public void Descriptions_in_another_script_work_as_well(string berth, string asksBerth, string fuel, string asksFuel)
    {
        var settings = new SorterSettings { Categories = [MadeMail.Category("berth", berth), MadeMail.Category("fuel", fuel)] };
        var sorter = SorterTrainer.Train(settings, []).Sorter;
        sorter.Sort(MadeMail.Says(asksBerth, "")).CategoryId.ShouldBe("berth");
        sorter.Sort(MadeMail.Says(asksFuel, "")).CategoryId.ShouldBe("fuel");
        sorter.Sort(MadeMail.Says(asksFuel, "")).Unsure.ShouldBeTrue();
    }

    [Fact]
    public void Examples_of_a_category_that_is_gone_are_left_out()
    {
        SorterExample[] examples = [.. MadeMail.Examples(8), new SorterExample(500, "gone", MadeMail.Says("old"))];
        SorterTrainer.Train(MadeMail.Settings, examples).Evaluation.Examples.ShouldBe(24);
    }

    [Fact]
    public void Two_categories_that_are_one_are_pointed_out()
    {
        var random = new Random(1);
        var settings = new SorterSettings { Categories = [MadeMail.Category("moor"), MadeMail.Category("stay"), MadeMail.Category("fuel")] };
        var examples = Enumerable.Range(0, 120).Select(i => MadeMail.Example(random, i, i % 3 == 2 ? "fuel" : "berth") with { CategoryId = i % 3 == 2 ? "fuel" : i % 3 == 0 ? "moor" : "stay" }).ToArray();
        var evaluation = SorterTrainer.Train(settings, examples).Evaluation;
        var pair = evaluation.Overlaps.ShouldHaveSingleItem();
        (pair.One, pair.Other).ShouldBe(("moor", "stay"));
        SorterAdvice.On(settings, CountsOf(examples), evaluation).ShouldContain(a => a.Contains("taken for each other", StringComparison.Ordinal));
    }

    [Theory]
    [InlineData(0.4, "lies between")]
    [InlineData(1.0, "lies between")]
    public void Settings_that_make_no_sense_are_told(double right, string problem) =>
        SorterCheck.Check(MadeMail.Settings with { RightAtLeast = right }).ShouldHaveSingleItem().ShouldContain(problem);

    [Fact]
    public void Names_ids_cues_and_costs_are_checked()
    {
        SorterCheck.Check(MadeMail.Settings).ShouldBeEmpty();
        SorterCheck.Check(new SorterSettings { Categories = [MadeMail.Category("a"), MadeMail.Category("b") with { Name = "A" }] }).ShouldHaveSingleItem().ShouldContain("same name");
        SorterCheck.Check(new SorterSettings { Categories = [MadeMail.Category("a") with { Name = " " }] }).ShouldContain(p => p.Contains("needs a name", StringComparison.Ordinal));
        SorterCheck.Check(new SorterSettings { Categories = [MadeMail.Category("a"), MadeMail.Category("a") with { Name = "other" }] }).ShouldHaveSingleItem().ShouldContain("id of its own");
        SorterCheck.Check(new SorterSettings { Categories = [MadeMail.Category("a", "", "ok", " ")] }).ShouldHaveSingleItem().ShouldContain("cue words");
        SorterCheck.Check(MadeMail.Settings with { CostlyMistakes = [new CostlyMistake("fuel", "gone", 2)] }).ShouldHaveSingleItem().ShouldContain("costly mistake");
    }
}
