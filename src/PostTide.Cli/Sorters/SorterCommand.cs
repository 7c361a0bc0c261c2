using System.Collections.Immutable;
using System.Diagnostics;
using System.Globalization;
using System.Text.Encodings.Web;
using System.Text.Json;
using PostTide.Core.Sorting;
using PostTide.Mail;

namespace PostTide.Cli.Sorters;

/// <summary>Trains, tries and uses sorters on mail files, without a server and without a database.</summary>
internal static class SorterCommand
{
    public const string Usage = """
        Usage: sorter train --examples DIR --out FILE [--json]
               sorter evaluate --examples DIR [--test DIR] [--few N] [--seed S] [--json]
               sorter sort --sorter FILE --mail PATH
          --examples DIR    each sub-folder is a category of .eml files; none-of-these stands for none of them
          --out FILE        where the trained sorter is written
          --test DIR        other mail in the same sub-folders to try it on; without it, cross-validation
          --few N           train on N of each category only, drawn by --seed S (1); tried on the rest where there is no --test
          --json            figures as JSON
        Exit codes: 0 all right, 1 some mail could not be read, 2 bad input.
        """;

    private const int Fine = 0;
    private const int SomeUnreadable = 1;
    private const int BadInput = 2;

    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web) { Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    /// <summary>The options that are numbers above zero.</summary>
    private static readonly string[] Numbers = ["--few", "--seed"];

    public static async Task<int> RunAsync(string[] args, TextWriter output, TextWriter errors)
    {
        if (Read(args) is not { } options)
        {
            await errors.WriteLineAsync(Usage);
            return BadInput;
        }

        try
        {
            return args[0] == "sort" ? await SortAsync(options, output, errors) : await TrainAsync(args[0], options, output, errors);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException or SorterFileException)
        {
            await errors.WriteLineAsync(e.Message);
            return BadInput;
        }
    }

    private static async Task<int> TrainAsync(string what, Dictionary<string, string> options, TextWriter output, TextWriter errors)
    {
        var folder = await ExampleFolder.ReadAsync(options["--examples"], errors);
        if (folder.Categories.IsEmpty || folder.Examples.IsEmpty)
        {
            await errors.WriteLineAsync($"{options["--examples"]} has no sub-folders with mail in them; each sub-folder is a category.");
            return BadInput;
        }

        var few = options.TryGetValue("--few", out var each) ? int.Parse(each, CultureInfo.InvariantCulture) : 0;
        var (examples, rest) = few > 0
            ? folder.Draw(few, options.TryGetValue("--seed", out var seed) ? int.Parse(seed, CultureInfo.InvariantCulture) : 1)
            : (folder.Examples, []);
        var watch = Stopwatch.StartNew();
        var training = SorterTrainer.Train(folder.Settings(), examples);
        var seconds = watch.Elapsed.TotalSeconds;
        var bytes = SorterFile.Write(training.Sorter);
        var test = options.TryGetValue("--test", out var other) ? (await ExampleFolder.ReadAsync(other, errors)).Examples : rest;
        IReadOnlyList<Prediction> predictions = test.IsEmpty ? training.Predictions : SorterTest.Predict(training.Sorter, test);
        var evaluation = test.IsEmpty ? training.Evaluation : SorterTest.Run(training.Sorter, test);
        var report = SorterReport.Of(
            test.IsEmpty ? "cross-validation" : "test", training, evaluation, predictions, examples.Length, seconds,
            Speed(training.Sorter, test.IsEmpty ? examples : test), bytes.Length, folder.Unreadable, Advise(folder, examples, training));
        if (what == "train")
        {
            await File.WriteAllBytesAsync(options["--out"], bytes);
        }

        if (options.ContainsKey("--json"))
        {
            await output.WriteLineAsync(JsonSerializer.Serialize(report, Json));
        }
        else
        {
            await report.WriteAsync(output);
        }

        return folder.Unreadable > 0 ? SomeUnreadable : Fine;
    }

    private static async Task<int> SortAsync(Dictionary<string, string> options, TextWriter output, TextWriter errors)
    {
        var sorter = SorterFile.Read(await File.ReadAllBytesAsync(options["--sorter"]));
        var unreadable = 0;
        foreach (var mail in MailFiles.Read(options["--mail"]))
        {
            try
            {
                var decision = sorter.Sort(ExampleFolder.Prepare(mail, 0));
                await output.WriteLineAsync(JsonSerializer.Serialize(
                    new { file = mail.Name, category = SorterAdvice.NameOf(sorter.Settings, decision.CategoryId), surety = Math.Round(decision.Surety, 4), unsure = decision.Unsure }, Json));
            }
            catch (UnreadableMailException e)
            {
                unreadable++;
                await errors.WriteLineAsync($"{mail.Name}: {e.Message}");
            }
        }

        return unreadable > 0 ? SomeUnreadable : Fine;
    }

    private static ImmutableArray<string> Advise(ExampleFolder folder, ImmutableArray<SorterExample> examples, SorterTraining training) => SorterAdvice.On(
        folder.Settings(), examples.CountBy(e => e.CategoryId ?? "").ToDictionary(c => c.Key, c => c.Value), training.Evaluation);

    /// <summary>Messages sorted in a second on one core, after a round to warm up.</summary>
    private static double Speed(TrainedSorter sorter, ImmutableArray<SorterExample> examples)
    {
        var watch = new Stopwatch();
        for (var round = 0; round < 2; round++)
        {
            watch.Restart();
            foreach (var example in examples)
            {
                sorter.Sort(example.Message);
            }
        }

        return examples.Length / Math.Max(1e-9, watch.Elapsed.TotalSeconds);
    }

    /// <summary>The options by name; null when they are not understood.</summary>
    private static Dictionary<string, string>? Read(string[] args)
    {
        string[] needed, allowed;
        switch (args.FirstOrDefault())
        {
            case "train":
                (needed, allowed) = (["--examples", "--out"], ["--json"]);
                break;
            case "evaluate":
                (needed, allowed) = (["--examples"], ["--test", "--few", "--seed", "--json"]);
                break;
            case "sort":
                (needed, allowed) = (["--sorter", "--mail"], []);
                break;
            default:
                return null;
        }

        var options = new Dictionary<string, string>(StringComparer.Ordinal);
        for (var i = 1; i < args.Length; i++)
        {
            var flag = args[i] == "--json";
            if ((!needed.Contains(args[i]) && !allowed.Contains(args[i])) || (!flag && i + 1 == args.Length))
            {
                return null;
            }

            options[args[i]] = flag ? "" : args[++i];
        }

        var numbers = Numbers.All(n => !options.TryGetValue(n, out var value) || (int.TryParse(value, CultureInfo.InvariantCulture, out var number) && number > 0));
        return numbers && needed.All(options.ContainsKey) ? options : null;
    }
}
