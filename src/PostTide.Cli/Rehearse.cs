using System.Collections.Immutable;
using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Serialization;
using PostTide.Core.Formats;
using PostTide.Core.Messages;
using PostTide.Core.Rehearsal;
using PostTide.Core.Sorting;
using PostTide.Core.Text;
using PostTide.Core.Workflows;
using PostTide.Mail;

namespace PostTide.Cli;

/// <summary>
/// Rehearses a workflow file on mail files, without a server and without a database. Exit codes: 0 for all right, 1 when a kept
/// example fails, 2 when something cannot be read.
/// </summary>
internal static class Rehearse
{
    public const string Usage = """
        Usage: rehearse --workflow FILE --mail PATH... [--against FILE] [--sorter FILE] [--summary]
          --workflow FILE   a workflow document in YAML
          --mail PATH...    .eml files, mbox files, or folders of them
          --against FILE    print only what differs from this other workflow document
          --sorter FILE     the trained sorter that stands for the one the workflow names
          --summary         print a table of counts instead of one JSON line per message
        Exit codes: 0 all right, 1 a kept example fails, 2 bad input.
        """;

    private const int Fine = 0;
    private const int ExampleFails = 1;
    private const int BadInput = 2;

    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web)
    {
        Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
    };

    public static async Task<int> RunAsync(string[] args, TextWriter output, TextWriter errors)
    {
        if (Arguments.Read(args) is not { } arguments)
        {
            await errors.WriteLineAsync(Usage);
            return BadInput;
        }

        TrainedSorter? sorter;
        try
        {
            sorter = arguments.Sorter is { } path ? SorterFile.Read(await File.ReadAllBytesAsync(path)) : null;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException or SorterFileException)
        {
            await errors.WriteLineAsync($"{arguments.Sorter}: {e.Message}");
            return BadInput;
        }

        var candidate = await ReadAsync(arguments.Workflow, sorter, errors);
        var against = arguments.Against is { } other ? await ReadAsync(other, sorter, errors) : null;
        if (candidate is null || (arguments.Against is not null && against is null))
        {
            return BadInput;
        }

        var (messages, unreadable) = await ReadMailAsync(arguments.Mail, errors);
        if (messages.Count == 0)
        {
            await errors.WriteLineAsync("There is no mail to rehearse on.");
            return BadInput;
        }

        var ours = Run(candidate, messages);
        if (arguments.Summary)
        {
            await SummaryAsync(candidate, ours, output);
        }
        else
        {
            await LinesAsync(candidate, ours, against is null ? null : Run(against, messages), against, output);
        }

        var failed = await CheckExamplesAsync(candidate, messages, errors);
        return unreadable ? BadInput : failed ? ExampleFails : Fine;
    }

    private static async Task<WorkflowFile?> ReadAsync(string path, TrainedSorter? sorter, TextWriter errors)
    {
        string text;
        try
        {
            text = await File.ReadAllTextAsync(path);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            await errors.WriteLineAsync($"{path}: {e.Message}");
            return null;
        }

        var file = WorkflowFile.Read(text, sorter: sorter);
        foreach (var problem in file.Problems)
        {
            await errors.WriteLineAsync($"{path}:{problem.Line}: {problem.Text}");
        }

        return file.Problems.IsEmpty ? file : null;
    }

    /// <summary>Every message of the files, in the order of their dates; what cannot be read is told and left out.</summary>
    private static async Task<(List<PreparedMessage> Messages, bool Unreadable)> ReadMailAsync(IReadOnlyList<string> paths, TextWriter errors)
    {
        var messages = new List<PreparedMessage>();
        var unreadable = false;
        var now = DateTimeOffset.UtcNow;
        foreach (var mail in paths.SelectMany(MailFiles.Read))
        {
            try
            {
                var raw = mail.Bytes ?? throw new UnreadableMailException(mail.Problem ?? "");
                var at = MailReader.DateOf(raw, now) ?? now;
                messages.Add(Preparation.Prepare(MailReader.Read(raw), Envelope.Unknown, at) with { Id = messages.Count + 1, ConversationId = messages.Count + 1 });
            }
            catch (UnreadableMailException e)
            {
                unreadable = true;
                await errors.WriteLineAsync($"{mail.Name}: {e.Message}");
            }
        }

        return (messages, unreadable);
    }

    private static RehearsalResult Run(WorkflowFile file, IReadOnlyList<PreparedMessage> messages) =>
        Rehearser.Run(messages, [], new Edition(1, file.Document!.Name, 1, file.Sheet!), 0, file.Context);

    private static async Task LinesAsync(WorkflowFile file, RehearsalResult ours, RehearsalResult? theirs, WorkflowFile? against, TextWriter output)
    {
        for (var i = 0; i < ours.Messages.Length; i++)
        {
            var message = ours.Explain(ours.Messages[i]);
            if (theirs is null)
            {
                await output.WriteLineAsync(JsonSerializer.Serialize(Line(file, message.Message, message.After), Json));
                continue;
            }

            var differences = Expectation.Of(theirs.Messages[i].After, against!.Sheet!).Against(message.After, file.Sheet!);
            if (!differences.IsEmpty)
            {
                await output.WriteLineAsync(JsonSerializer.Serialize(
                    new { message = message.Message.MessageId, subject = message.Message.Subject, differences = differences.Select(d => new { d.What, was = d.Before, becomes = d.After }) }, Json));
            }
        }
    }

    private static object Line(WorkflowFile file, PreparedMessage message, Verdict verdict) => new
    {
        message = message.MessageId,
        subject = message.Subject,
        from = message.From.Address,
        takenIn = verdict.Outcome == Outcome.TakenIn,
        category = file.Sheet!.Categories.FirstOrDefault(c => c.Id == verdict.CategoryId)?.Name,
        surety = verdict.Sorter is { } said ? Math.Round(said.Surety, 4) : verdict.Outcome == Outcome.TakenIn && !file.Sheet.Categories.IsEmpty ? 1.0 : (double?)null,
        unsure = verdict.Sorter is { Unsure: true } ? true : (bool?)null,
        line = verdict.LineId is { } line ? file.Sheet.Lines.Select((l, i) => (l.Id, i)).First(l => l.Id == line).i + 1 : (int?)null,
        nearMiss = verdict.NearMiss ? true : (bool?)null,
        deeds = verdict.Deeds.Select(d => new { d.Says, skipped = d.SkippedBecause, held = d.HeldBecause }),
        reasons = verdict.Reasons.Select(r => new { r.Text, words = r.Evidence.Select(e => new { place = e.Place.ToString(), e.Start, e.Text }) }),
    };

    private static async Task SummaryAsync(WorkflowFile file, RehearsalResult result, TextWriter output)
    {
        var summary = RehearsalSummary.Of(result);
        ImmutableArray<(string, int)> rows =
        [
            ("messages", summary.Messages),
            ("taken in", summary.TakenIn),
            ("left alone", summary.LeftAlone),
            ("near misses", summary.NearMisses),
            .. file.Sheet!.Categories.Select(c => ($"sorted as {c.Name}", summary.Categories.GetValueOrDefault(c.Id))),
            .. file.Sheet.Categories.IsEmpty ? [] : new[] { ("none of these", summary.NoneOfThese) },
            .. file.Sheet.SorterId is null ? [] : new[] { ("unsure", summary.Unsure) },
            .. file.Sheet.Lines.Select((l, i) => ($"line {i + 1}", summary.Lines.GetValueOrDefault(l.Id))),
            ("without a line", summary.WithoutLine),
            .. summary.Deeds.OrderBy(d => d.Key).Select(d => ($"deeds, {d.Key}", d.Value)),
            ("deeds skipped", summary.SkippedDeeds),
        ];
        var width = rows.Max(r => r.Item1.Length);
        foreach (var (name, count) in rows)
        {
            await output.WriteLineAsync($"{name.PadRight(width)}  {count,8}");
        }
    }

    /// <summary>Holds the workflow to the kept examples whose messages are among the mail, and tells which fail and which are missing.</summary>
    private static async Task<bool> CheckExamplesAsync(WorkflowFile file, List<PreparedMessage> messages, TextWriter errors)
    {
        var byId = messages.Where(m => m.MessageId.Length > 0).GroupBy(m => m.MessageId).ToDictionary(g => g.Key, g => g.First());
        var examples = file.Document!.Examples;
        foreach (var missing in examples.Where(e => !byId.ContainsKey(e.MessageId)))
        {
            await errors.WriteLineAsync($"The kept example {missing.MessageId} is not among the mail and was not checked.");
        }

        var kept = examples.Where(e => byId.ContainsKey(e.MessageId)).Select(e => new KeptExample(byId[e.MessageId], e.Expected));
        var failed = KeptExamples.Check(new Edition(1, file.Document.Name, 1, file.Sheet!), kept, file.Context).Where(c => c.Fails).ToList();
        foreach (var example in failed)
        {
            var how = string.Join("; ", example.Differences.Select(d => $"{d.What}: expected {d.Before ?? "nothing"}, came to {d.After ?? "nothing"}"));
            await errors.WriteLineAsync($"The kept example {example.Example.Message.MessageId} fails. {how}");
        }

        return failed.Count > 0;
    }

    /// <summary>What was asked for on the command line.</summary>
    private sealed record Arguments(string Workflow, string? Against, string? Sorter, bool Summary, IReadOnlyList<string> Mail)
    {
        /// <summary>Reads the arguments; null when they are not understood.</summary>
        public static Arguments? Read(string[] args)
        {
            string? workflow = null, against = null, sorter = null;
            var (summary, mail) = (false, new List<string>());
            for (var i = 0; i < args.Length; i++)
            {
                switch (args[i])
                {
                    case "--workflow" when i + 1 < args.Length:
                        workflow = args[++i];
                        break;
                    case "--against" when i + 1 < args.Length:
                        against = args[++i];
                        break;
                    case "--sorter" when i + 1 < args.Length:
                        sorter = args[++i];
                        break;
                    case "--summary":
                        summary = true;
                        break;
                    case "--mail":
                        while (i + 1 < args.Length && !args[i + 1].StartsWith("--", StringComparison.Ordinal))
                        {
                            mail.Add(args[++i]);
                        }

                        break;
                    default:
                        return null;
                }
            }

            return workflow is null || mail.Count == 0 ? null : new Arguments(workflow, against, sorter, summary, mail);
        }
    }
}
