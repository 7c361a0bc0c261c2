using System.Diagnostics;
using System.Globalization;
using Microsoft.ML;
using PostTide.Core.Messages;
using PostTide.Core.Sorting;
using PostTide.Core.Text;
using PostTide.Mail;

namespace PostTide.Bench;

/// <summary>
/// Sorting the public mail corpus, side by side with ML.NET’s text featurisation and two of its trainers: unwanted mail against wanted,
/// and mailing lists told apart by text alone. Trained on the older mail, tried on the newer.
/// </summary>
internal static class Sorting
{
    private const double TrainedOn = 0.6;
    private const int Few = 20;
    private const int Draws = 10;
    private const int FewestOfAList = 100;

    private sealed record Labelled(string Label, PreparedMessage Message);

    private sealed record Task(string Name, Labelled[] Train, Labelled[] Test);

    private sealed record Figures(double Accuracy, double MacroF1, double Seconds);

    private sealed record Comparison(Figures Entropy, Figures Perceptron, Figures Ours, double CalibrationError);

    // ML.NET reads its columns from settable properties.
    private sealed class Row
    {
        public string Label { get; set; } = "";
        public string Text { get; set; } = "";
    }

    private sealed class Said
    {
        public string PredictedLabel { get; set; } = "";
    }

    public static void Run(string corpus)
    {
        var messages = Prepare(corpus);
        Say($"{messages.Count} messages prepared; {Environment.ProcessorCount} cores");
        Task[] tasks =
        [
            Split("unwanted or wanted", [.. messages.Select(m => new Labelled(m.Folder.StartsWith("spam", StringComparison.Ordinal) ? "unwanted" : "wanted", m.Message))]),
            Split("mailing lists", Lists(messages)),
        ];
        // Once over little mail for everybody, so that no figure is that of compiling code.
        Compare(tasks[1] with { Train = [.. tasks[1].Train.Take(200)] }, say: false);
        foreach (var task in tasks)
        {
            Compare(task);
            var draws = Enumerable.Range(1, Draws)
                .Select(seed => Compare(task with { Train = [.. task.Train.GroupBy(l => l.Label).SelectMany(g => Draw(g, seed))] }, say: false)).ToList();
            Say($"{task.Name}, {Few} of each, mean of {Draws} draws");
            Tell("ML.NET maximum entropy", draws.ConvertAll(d => d.Entropy));
            Tell("ML.NET averaged perceptron", draws.ConvertAll(d => d.Perceptron));
            Tell("Post Tide", draws.ConvertAll(d => d.Ours));
            Say($"  calibration error {draws.Average(d => d.CalibrationError):F3}, {draws.Min(d => d.CalibrationError):F3} to {draws.Max(d => d.CalibrationError):F3}; at least as accurate as both in {draws.Count(d => d.Ours.Accuracy >= Math.Max(d.Entropy.Accuracy, d.Perceptron.Accuracy) && d.Ours.MacroF1 >= Math.Max(d.Entropy.MacroF1, d.Perceptron.MacroF1))} of {Draws} draws");
        }

        Speed(tasks[0], messages);
    }

    private static IEnumerable<Labelled> Draw(IEnumerable<Labelled> all, int seed)
    {
        var drawn = all.ToArray();
        new Random(seed).Shuffle(drawn);
        return drawn.Take(Few);
    }

    private static Comparison Compare(Task task, bool say = true)
    {
        var ml = new MLContext(seed: 1);
        var entropy = Reference(ml, task, ml.MulticlassClassification.Trainers.LbfgsMaximumEntropy());
        var perceptron = Reference(ml, task, ml.MulticlassClassification.Trainers.OneVersusAll(ml.BinaryClassification.Trainers.AveragedPerceptron()));
        var (ours, evaluation, own) = Ours(task);
        if (say)
        {
            Say($"{task.Name}: {task.Train.Length} to train on, {task.Test.Length} to try on, {task.Train.Select(t => t.Label).Distinct().Count()} categories");
            Tell("ML.NET maximum entropy", [entropy]);
            Tell("ML.NET averaged perceptron", [perceptron]);
            Tell("Post Tide", [ours]);
            Say($"  calibration error {evaluation.CalibrationError:F3}; decides {evaluation.Decided.Value:P1} by itself, {evaluation.DecidedRight.Value:P2} of that right; by its own trial {own.Accuracy.Value:P2} right");
        }

        return new Comparison(entropy, perceptron, ours, evaluation.CalibrationError);
    }

    private static void Tell(string who, List<Figures> figures) =>
        Say($"  {who,-27} accuracy {figures.Average(f => f.Accuracy):P2}, macro F1 {figures.Average(f => f.MacroF1):F4}, trained in {figures.Average(f => f.Seconds):F2} s");

    private static (Figures Figures, SorterEvaluation Evaluation, SorterEvaluation Own) Ours(Task task)
    {
        var settings = new SorterSettings
        {
            Categories = [.. task.Train.Select(t => t.Label).Distinct().Order(StringComparer.Ordinal).Select(l => new SorterCategory { Id = l })],
        };
        var watch = Stopwatch.StartNew();
        var training = SorterTrainer.Train(settings, [.. task.Train.Select((t, i) => new SorterExample(i, t.Label, t.Message))]);
        var seconds = watch.Elapsed.TotalSeconds;
        var evaluation = SorterTest.Run(training.Sorter, [.. task.Test.Select((t, i) => new SorterExample(i, t.Label, t.Message))]);
        return (new Figures(evaluation.Accuracy.Value, evaluation.MacroF1, seconds), evaluation, training.Evaluation);
    }

    private static Figures Reference(MLContext ml, Task task, IEstimator<ITransformer> trainer)
    {
        var watch = Stopwatch.StartNew();
        var model = ml.Transforms.Conversion.MapValueToKey("Label")
            .Append(ml.Transforms.Text.FeaturizeText("Features", nameof(Row.Text)))
            .AppendCacheCheckpoint(ml)
            .Append(trainer)
            .Append(ml.Transforms.Conversion.MapKeyToValue("PredictedLabel"))
            .Fit(ml.Data.LoadFromEnumerable(task.Train.Select(ToRow)));
        var seconds = watch.Elapsed.TotalSeconds;
        var said = ml.Data.CreateEnumerable<Said>(model.Transform(ml.Data.LoadFromEnumerable(task.Test.Select(ToRow))), reuseRowObject: false, ignoreMissingColumns: true);
        var predictions = task.Test.Zip(said, (t, s) => new Prediction(0, t.Label, s.PredictedLabel, 1, 1, 0)).ToArray();
        var evaluation = SorterEvaluation.Of(predictions, [.. task.Train.Select(t => t.Label).Distinct()], Floors.Closed);
        return new Figures(evaluation.Accuracy.Value, evaluation.MacroF1, seconds);
    }

    /// <summary>What the sorter looks at, as one text: subject, sender’s domain, new part.</summary>
    private static Row ToRow(Labelled labelled) => new()
    {
        Label = labelled.Label,
        Text = $"{labelled.Message.Subject}\n{labelled.Message.From.Domain}\n{labelled.Message.Body.NewPart}",
    };

    private static void Speed(Task task, List<(string Folder, PreparedMessage Message)> messages)
    {
        var settings = new SorterSettings { Categories = [new SorterCategory { Id = "unwanted" }, new SorterCategory { Id = "wanted" }] };
        var examples = task.Train.Concat(task.Test).Take(5_000).Select((t, i) => new SorterExample(i, t.Label, t.Message)).ToArray();
        for (var round = 0; round < 3; round++)
        {
            var watch = Stopwatch.StartNew();
            var training = SorterTrainer.Train(settings, examples);
            var trained = watch.Elapsed.TotalSeconds;
            watch.Restart();
            foreach (var (_, message) in messages)
            {
                training.Sorter.Sort(message);
            }

            var rate = messages.Count / watch.Elapsed.TotalSeconds;
            var bytes = SorterFile.Write(training.Sorter);
            var again = SorterFile.Write(SorterTrainer.Train(settings, [.. examples.Reverse()]).Sorter);
            Say($"{examples.Length} examples trained anew in {trained:F2} s; the model has {bytes.Length / 1e6:F2} MB, {(bytes.AsSpan().SequenceEqual(again) ? "the same" : "OTHER")} bytes from the same examples in another order; {rate:F0} prepared messages/s sorted on one core");
        }
    }

    private static Task Split(string name, Labelled[] all)
    {
        var sorted = all.OrderBy(l => l.Message.ArrivedAt).ToArray();
        var at = (int)(sorted.Length * TrainedOn);
        return new Task(name, sorted[..at], sorted[at..]);
    }

    /// <summary>The lists with enough mail, without the tag that a list writes into the subject.</summary>
    private static Labelled[] Lists(List<(string Folder, PreparedMessage Message)> messages) =>
    [
        .. from m in messages
           let id = m.Message.Header.FirstOrDefault(h => h.Name.Equals("List-Id", StringComparison.OrdinalIgnoreCase))?.Value
           where id is not null && !m.Folder.StartsWith("spam", StringComparison.Ordinal)
           group m.Message by id[(id.LastIndexOf('<') + 1)..].TrimEnd('>') into list
           where list.Count() >= FewestOfAList
           from message in list
           select new Labelled(list.Key, message with { Subject = WithoutTag(message.Subject), Header = [] }),
    ];

    private static string WithoutTag(string subject)
    {
        var from = subject.IndexOf('[', StringComparison.Ordinal);
        var to = subject.IndexOf(']', StringComparison.Ordinal);
        return from >= 0 && to > from ? subject.Remove(from, to - from + 1) : subject;
    }

    private static List<(string Folder, PreparedMessage Message)> Prepare(string corpus)
    {
        var prepared = new List<(string, PreparedMessage)>();
        foreach (var path in Directory.GetFiles(corpus, "*.txt", SearchOption.AllDirectories).Order(StringComparer.Ordinal))
        {
            try
            {
                var parsed = MailReader.Read(File.ReadAllBytes(path));
                var message = Preparation.Prepare(parsed, Envelope.Unknown, parsed.SentAt ?? DateTimeOffset.UnixEpoch) with { Id = prepared.Count + 1 };
                message.Body.Searched.WordsIn(0, message.Body.Text.Length);
                prepared.Add((Path.GetFileName(Path.GetDirectoryName(path)!), message));
            }
            catch (UnreadableMailException)
            {
                // A few files of the corpus are not mail.
            }
        }

        return prepared;
    }

    private static void Say(FormattableString text) => Console.WriteLine(text.ToString(CultureInfo.InvariantCulture));
}
