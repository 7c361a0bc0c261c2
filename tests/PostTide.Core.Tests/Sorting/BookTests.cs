using PostTide.Core.Messages;
using PostTide.Core.Sorting;
using PostTide.Core.Text;
using PostTide.Mail;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Sorting;

/// <summary>
/// The worked examples of Manning, Raghavan, Schütze: Introduction to Information Retrieval (IIR, 2008), and published end points of
/// Wilson’s interval. The values are typed in from memory of the book.
/// </summary>
public sealed class BookTests
{
    /// <summary>IIR §6.2.1, Figure 6.8: inverse document frequencies in 806,791 documents, logarithm to base 10.</summary>
    [Theory]
    [InlineData(18_165, 1.65)]
    [InlineData(6_723, 2.08)]
    [InlineData(19_241, 1.62)]
    [InlineData(25_235, 1.5)]
    public void Rarity_is_the_inverse_document_frequency_but_for_its_base_and_the_one_that_is_added(int documents, double idf) =>
        ((Vocabulary.RarityOf(806_791, documents) - 1) / Math.Log(10)).ShouldBe(idf, 0.006);

    /// <summary>IIR Example 6.2 and Figure 6.10: term frequencies of car, auto, insurance and best, made one long.</summary>
    [Theory]
    [InlineData(new float[] { 27, 3, 0, 14 }, new[] { 0.88, 0.10, 0, 0.46 })]
    [InlineData(new float[] { 4, 33, 33, 0 }, new[] { 0.09, 0.71, 0.71, 0 })]
    [InlineData(new float[] { 24, 0, 29, 17 }, new[] { 0.58, 0, 0.70, 0.41 })]
    public void Rows_are_one_long(float[] frequencies, double[] normalised)
    {
        var (_, values) = SparseRows.Row(Plain(4), Vector(frequencies));
        values.Length.ShouldBe(4);
        for (var i = 0; i < 4; i++)
        {
            ((double)values[i]).ShouldBe(normalised[i], 0.006);
        }
    }

    /// <summary>IIR Example 6.3, Figure 6.13: three novels by how often they have affection, jealous and gossip.</summary>
    [Fact]
    public void Likeness_is_the_cosine_of_the_angle()
    {
        FeatureVector[] novels = [Vector(115, 10, 2), Vector(58, 7, 0), Vector(20, 11, 6)];
        var rows = new SparseRows(Plain(3), novels);
        float Likeness(int a, int b)
        {
            var spread = new float[3];
            for (var i = 0; i < 3; i++)
            {
                spread[rows.Columns(a)[i]] = rows.Values(a)[i];
            }

            return ExampleIndex.Dot(rows, b, spread);
        }

        ((double)Likeness(0, 1)).ShouldBe(0.999, 0.001);
        ((double)Likeness(0, 2)).ShouldBe(0.888, 0.001);
    }

    /// <summary>IIR §6.4.1: a word met often weighs one plus the logarithm of how often.</summary>
    [Fact]
    public void A_word_met_ten_times_does_not_weigh_ten_times_as_much()
    {
        var once = FeatureReader.Read("mooring");
        var often = FeatureReader.Read(string.Join(' ', Enumerable.Repeat("mooring", 10)));
        ((double)(often.Values[0] / once.Values[0])).ShouldBe(1 + Math.Log(10), 0.001);
    }

    /// <summary>IIR §13.6, Table 13.8: two classes of 1,000 documents; precision 0.5 and 0.9, their macro average 0.7.</summary>
    [Fact]
    public void Precision_and_recall_are_counted_by_class_and_averaged_over_classes()
    {
        IEnumerable<Prediction> Of(int count, string? @is, string? said) => Enumerable.Repeat(new Prediction(0, @is, said, 0.9, 0.5, 0), count);
        Prediction[] predictions = [.. Of(10, "1", "1"), .. Of(10, "1", null), .. Of(10, null, "1"), .. Of(90, "2", "2"), .. Of(10, "2", null), .. Of(10, null, "2"), .. Of(860, null, null)];
        var evaluation = SorterEvaluation.Of(predictions, ["1", "2", null], Floors.Closed);
        evaluation.Categories[0].Precision.Value.ShouldBe(0.5, 1e-9);
        evaluation.Categories[1].Precision.Value.ShouldBe(0.9, 1e-9);
        ((evaluation.Categories[0].Precision.Value + evaluation.Categories[1].Precision.Value) / 2).ShouldBe(0.7, 1e-9);
        evaluation.Categories[1].Recall.Value.ShouldBe(0.9, 1e-9);
    }

    /// <summary>IIR §8.3: F1 is the harmonic mean of precision and recall; of 20 right answers of which 40 were given and 60 there are: P 1/2, R 1/3, F 2/5.</summary>
    [Fact]
    public void F1_is_the_harmonic_mean()
    {
        IEnumerable<Prediction> Of(int count, string? @is, string? said) => Enumerable.Repeat(new Prediction(0, @is, said, 0.9, 0.5, 0), count);
        var figures = SorterEvaluation.Of([.. Of(20, "a", "a"), .. Of(20, "b", "a"), .. Of(40, "a", "b")], ["a", "b"], Floors.Closed).Categories[0];
        figures.Precision.Value.ShouldBe(1 / 2d, 1e-9);
        figures.Recall.Value.ShouldBe(1 / 3d, 1e-9);
        figures.F1.ShouldBe(2 / 5d, 1e-9);
    }

    /// <summary>
    /// Wilson’s interval as in the NIST/SEMATECH e-Handbook 7.2.4.1; end points from Newcombe, “Two-sided confidence intervals for the
    /// single proportion”, Statistics in Medicine 17 (1998), Table I, method 3.
    /// </summary>
    [Theory]
    [InlineData(81, 263, 0.2553, 0.3662)]
    [InlineData(15, 148, 0.0624, 0.1605)]
    [InlineData(0, 20, 0.0000, 0.1611)]
    [InlineData(1, 29, 0.0061, 0.1718)]
    public void The_interval_of_a_share_is_Wilsons(int count, int of, double low, double high)
    {
        var share = Share.Wilson(count, of);
        share.Low.ShouldBe(low, 0.00006);
        share.High.ShouldBe(high, 0.00006);
        share.Value.ShouldBe((double)count / of, 1e-12);
    }

    /// <summary>IIR Example 13.1, Table 13.1: with multinomial naive Bayes document 5 is about China, with 0.0003 against 0.0001.</summary>
    [Fact]
    public void The_book_s_own_classifier_gives_the_book_s_numbers()
    {
        var bayes = ChinaExample();
        bayes.Joint("china", ["Chinese", "Chinese", "Chinese", "Tokyo", "Japan"]).ShouldBe(0.0003, 0.00005);
        bayes.Joint("other", ["Chinese", "Chinese", "Chinese", "Tokyo", "Japan"]).ShouldBe(0.0001, 0.00005);
    }

    /// <summary>The same four documents: our method is another one, so only what both have to agree on is asked.</summary>
    [Fact]
    public void Our_sorter_agrees_with_it_on_what_the_four_documents_say()
    {
        var settings = new SorterSettings { Categories = [MadeMail.Category("china"), MadeMail.Category("other")] };
        var examples = ChinaDocuments.Select((d, i) => new SorterExample(i, d.Class, MadeMail.Says(string.Join(' ', d.Words), "")));
        var sorter = SorterTrainer.Train(settings, [.. examples]).Sorter;
        sorter.Sort(MadeMail.Says("Chinese Chinese Shanghai", "")).CategoryId.ShouldBe("china");
        sorter.Sort(MadeMail.Says("Tokyo Japan", "")).CategoryId.ShouldBe("other");
    }

    /// <summary>On real mail our sorter is no worse than the book’s classifier; common practice has it that it should be better.</summary>
    [Fact]
    public void On_the_public_corpus_our_sorter_is_at_least_as_good_as_the_book_s_classifier()
    {
        var corpus = Environment.GetEnvironmentVariable("POSTTIDE_TEST_CORPUS") ?? "";
        Assert.SkipWhen(corpus.Length == 0, "POSTTIDE_TEST_CORPUS names no folder of mail; ./posttide test sets it");
        var examples = new[] { "easy-ham-1", "spam-1" }.SelectMany(folder => Directory.GetFiles(Path.Combine(corpus, folder), "*.txt").Order(StringComparer.Ordinal).Take(300)
            .Select(path => (Class: folder, Message: Preparation.Prepare(MailReader.Read(File.ReadAllBytes(path)), Envelope.Unknown, Made.Noon)))).ToArray();
        var settings = new SorterSettings { Categories = [MadeMail.Category("easy-ham-1"), MadeMail.Category("spam-1")] };
        var (ours, theirs, tried) = (0, 0, 0);
        foreach (var seed in new[] { 1, 2, 3, 4, 5 })
        {
            new Random(seed).Shuffle(examples);
            var (train, test) = (examples[..60], examples[60..]);
            var sorter = SorterTrainer.Train(settings, [.. train.Select((t, i) => new SorterExample(i, t.Class, t.Message))]).Sorter;
            var bayes = new NaiveBayes(train.Select(t => (t.Class, WordsOf(t.Message))));
            ours += test.Count(t => sorter.Sort(t.Message).CategoryId == t.Class);
            theirs += test.Count(t => bayes.Classify(WordsOf(t.Message)) == t.Class);
            tried += test.Length;
        }

        ours.ShouldBeGreaterThanOrEqualTo(theirs);
        (ours / (double)tried).ShouldBeGreaterThan(0.9);
    }

    private static readonly (string Class, string[] Words)[] ChinaDocuments =
        [("china", ["Chinese", "Beijing", "Chinese"]), ("china", ["Chinese", "Chinese", "Shanghai"]), ("china", ["Chinese", "Macao"]), ("other", ["Tokyo", "Japan", "Chinese"])];

    private static NaiveBayes ChinaExample() => new(ChinaDocuments);

    private static string[] WordsOf(PreparedMessage message)
    {
        var text = message.Subject + "\n" + message.Body.NewPart;
        return [.. Words.In(text, 0, text.Length).Select(w => text.Substring(w.Start, w.Length).ToLowerInvariant())];
    }

    private static Vocabulary Plain(int features) => new([.. Enumerable.Range(1, features).Select(i => (uint)i)], [.. Enumerable.Repeat(1f, features)], 1);

    private static FeatureVector Vector(params float[] values) => new([.. values.Select((_, i) => (uint)i + 1)], values);

    /// <summary>Multinomial naive Bayes with add-one smoothing, IIR Figure 13.2: the reference, not the product.</summary>
    private sealed class NaiveBayes
    {
        private readonly Dictionary<string, (double Prior, Dictionary<string, int> Counts, int Total)> _classes;
        private readonly int _vocabulary;

        public NaiveBayes(IEnumerable<(string Class, string[] Words)> documents)
        {
            var all = documents.ToList();
            _vocabulary = all.SelectMany(d => d.Words).Distinct().Count();
            _classes = all.GroupBy(d => d.Class).ToDictionary(
                g => g.Key, g => (g.Count() / (double)all.Count, g.SelectMany(d => d.Words).CountBy(w => w).ToDictionary(w => w.Key, w => w.Value), g.Sum(d => d.Words.Length)));
        }

        public double Joint(string @class, string[] words) => Math.Exp(LogJoint(@class, words));

        public string Classify(string[] words) => _classes.Keys.MaxBy(c => LogJoint(c, words))!;

        private double LogJoint(string @class, string[] words)
        {
            var (prior, counts, total) = _classes[@class];
            return Math.Log(prior) + words.Sum(w => Math.Log((counts.GetValueOrDefault(w) + 1d) / (total + _vocabulary)));
        }
    }
}
