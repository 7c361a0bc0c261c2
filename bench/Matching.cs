using System.Collections.Immutable;
using System.Diagnostics;
using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;
using PostTide.Core.Matching;
using PostTide.Core.Messages;
using PostTide.Core.Rehearsal;
using PostTide.Core.Sorting;
using PostTide.Core.Text;
using PostTide.Core.Workflows;
using PostTide.Mail;

namespace PostTide.Bench;

/// <summary>
/// Rehearsing and matching over prepared messages of the public mail corpus, side by side with <c>grep</c> and with a loop of
/// regular expressions over the same texts and words.
/// </summary>
internal static class Matching
{
    private const int Rounds = 7;

    public static async Task RunAsync(string corpus, int count)
    {
        var before = Held();
        var messages = Prepare(corpus, count);
        foreach (var message in messages)
        {
            // Words are cut when they are first asked for; prepared text has them.
            message.Body.Searched.WordsIn(0, message.Body.Text.Length);
            message.SearchedSubject.WordsIn(0, message.Subject.Length);
        }

        Say($"{messages.Length} messages prepared, with words and header fields: {(Held() - before) / 1_000_000.0:F0} MB");
        var words = WordsOf(messages);
        Say($"{words.Length} different words to choose lists from; {Environment.ProcessorCount} cores");
        Rehearse(messages, words);
        Growth(messages, words);
        await KeywordsAsync(messages, words);
    }

    /// <summary>One edition of 20 conditions, a list of 1,000 words and 10 lines, with evidence for every condition.</summary>
    private static void Rehearse(PreparedMessage[] messages, string[] words)
    {
        var context = Context(Rare(words, 1_000));
        var live = new Edition(1, "Bench", 1, SheetOf(context));
        var inHand = live with { Number = 2, Sheet = live.Sheet with { TakesIn = live.Sheet.TakesIn with { None = [] } } };
        var result = Rehearser.Run(messages, [], live, 0, context);
        var evidence = result.Messages.Sum(m => result.Explain(m).After.Reasons.Sum(r => r.Evidence.Length));
        var alone = Time(() => Rehearser.Run(messages, [], live, 0, context));
        Say($"one edition over {messages.Length} messages: {alone:F0} ms, {evidence} pieces of evidence");
        var compared = Time(() => RehearsalSummary.Of(Rehearser.Run(messages, [live], inHand, 0, context)));
        Say($"edition in hand against the live one, counted: {compared:F0} ms");
        var half = messages[..(messages.Length / 2)];
        var halved = Time(() => Rehearser.Run(half, [], live, 0, context));
        Say($"half the messages: {halved:F0} ms, {alone / halved:F2} times less");
    }

    /// <summary>What a longer list costs once it is built.</summary>
    private static void Growth(PreparedMessage[] messages, string[] words)
    {
        foreach (var length in new[] { 100, 1_000, 10_000 })
        {
            KeywordList? list = null;
            var building = Time(() => list = new KeywordList(1, "list", Rare(words, length)));
            var searching = Time(() => Count(messages, list!));
            Say($"a list of {length} words: built in {building:F1} ms, looked for in all messages on one core in {searching:F1} ms");
        }
    }

    private static async Task KeywordsAsync(PreparedMessage[] messages, string[] words)
    {
        var chosen = Rare(words, 10_000).ToArray();
        var list = new KeywordList(1, "ten thousand", chosen);
        var folder = Directory.CreateTempSubdirectory("posttide-bench");
        try
        {
            var (text, patterns) = (Path.Combine(folder.FullName, "text"), Path.Combine(folder.FullName, "words"));
            await File.WriteAllLinesAsync(patterns, chosen, new UTF8Encoding(false));
            await using (var writer = new StreamWriter(text, false, new UTF8Encoding(false)))
            {
                foreach (var message in messages)
                {
                    await writer.WriteLineAsync(message.Subject);
                    await writer.WriteLineAsync(message.Body.NewPart);
                }
            }

            var expressions = chosen.Take(200).Select(w => new Regex($@"\b{Regex.Escape(w)}\b", RegexOptions.IgnoreCase | RegexOptions.CultureInvariant)).ToArray();
            for (var round = 0; round < 3; round++)
            {
                var ours = Time(() => Count(messages, list));
                var grep = await GrepAsync(patterns, text);
                var loop = Stopwatch.StartNew();
                var sample = messages[..(messages.Length / 50)];
                _ = sample.Sum(m => expressions.Count(e => e.IsMatch(m.Subject) || e.IsMatch(m.Body.Text)));
                var whole = loop.Elapsed.TotalMilliseconds * 50 * chosen.Length / expressions.Length;
                Say($"{chosen.Length} words in {new FileInfo(text).Length / 1e6:F1} MB: ours on one core {ours:F0} ms, grep -F -i -c -f {grep:F0} ms ({ours / grep:F2} times); a loop of regular expressions about {whole / 1000:F0} s (from 200 words over a fiftieth of the messages)");
            }
        }
        finally
        {
            folder.Delete(recursive: true);
        }
    }

    private static async Task<double> GrepAsync(string patterns, string text)
    {
        var watch = Stopwatch.StartNew();
        var start = new ProcessStartInfo("grep", ["-F", "-i", "-c", "-f", patterns, text]) { RedirectStandardOutput = true };

        // Bytes instead of characters: grep is far quicker that way.
        start.Environment["LC_ALL"] = "C";
        using var grep = Process.Start(start)!;
        await grep.StandardOutput.ReadToEndAsync();
        await grep.WaitForExitAsync();
        return watch.Elapsed.TotalMilliseconds;
    }

    private static int Count(PreparedMessage[] messages, KeywordList list)
    {
        var found = 0;
        foreach (var message in messages)
        {
            found += list.FindIn(message.SearchedSubject, 0, message.Subject.Length).Count;
            foreach (var stretch in message.Body.NewStretches)
            {
                found += list.FindIn(message.Body.Searched, stretch.Start, stretch.Length).Count;
            }
        }

        return found;
    }

    private static PreparedMessage[] Prepare(string corpus, int count)
    {
        var raws = Directory.GetFiles(corpus, "*.txt", SearchOption.AllDirectories).Order(StringComparer.Ordinal).Select(File.ReadAllBytes).ToList();
        var prepared = new List<PreparedMessage>();
        var start = new DateTimeOffset(2026, 1, 1, 0, 0, 0, TimeSpan.Zero);
        for (var i = 0; prepared.Count < count; i++)
        {
            try
            {
                var at = start.AddMinutes(i);
                prepared.Add(Preparation.Prepare(MailReader.Read(raws[i % raws.Count]), Envelope.Unknown, at) with { Id = i + 1, ConversationId = i + 1 });
            }
            catch (UnreadableMailException)
            {
                // A few files of the corpus are not mail.
            }
        }

        return [.. prepared];
    }

    private static string[] WordsOf(PreparedMessage[] messages) =>
    [
        .. messages.SelectMany(m => Words.In(m.Body.Text, 0, m.Body.Text.Length).Select(w => m.Body.Text.Substring(w.Start, w.Length).ToLowerInvariant()))
            .Where(w => w.Length is > 3 and < 30).CountBy(w => w).OrderByDescending(w => w.Value).ThenBy(w => w.Key, StringComparer.Ordinal).Select(w => w.Key),
    ];

    /// <summary>Words as keyword lists have them: not the most frequent ones of the language.</summary>
    private static IEnumerable<string> Rare(string[] words, int count) => words.Skip(500).Take(count);

    private static PlanContext Context(IEnumerable<string> words) => new()
    {
        KeywordLists = new Dictionary<long, KeywordList> { [1] = new(1, "A thousand words", words) },
        Queues = Enumerable.Range(1, 10).ToDictionary(i => (long)i, i => $"Queue {i}"),
    };

    private static Sheet SheetOf(PlanContext context)
    {
        var number = 0;
        Condition Text(MessagePart part, MatchTest test, params string[] values) => new() { Id = $"c{++number}", Part = part, Test = test, Values = [.. values] };
        var categories = new[] { ("Lists", "list"), ("Money", "money"), ("Help", "help"), ("Code", "patch") }
            .Select((c, i) => new Category { Id = $"k{i}", Name = c.Item1, When = new ConditionSet { Any = [Text(MessagePart.SubjectOrBody, MatchTest.Word, c.Item2)] } }).ToImmutableArray();
        return new Sheet
        {
            TakesIn = new ConditionSet
            {
                Any =
                [
                    new Condition { Id = "list", Part = MessagePart.SubjectOrBody, Test = MatchTest.HasAnyWordIn, KeywordListId = 1 },
                    Text(MessagePart.Subject, MatchTest.Contains, "offer", "price"),
                    Text(MessagePart.SenderDomain, MatchTest.Ends, ".com", ".org"),
                    Text(MessagePart.Body, MatchTest.Regex, @"\b[A-Z]{2}-\d{3,6}\b"),
                    Text(MessagePart.BaseSubject, MatchTest.Begins, "new"),
                    new Condition { Id = "size", Part = MessagePart.Size, Test = MatchTest.Between, Least = 10_000 },
                    new Condition { Id = "header", Part = MessagePart.Header, Name = "X-Mailer", Test = MatchTest.Contains, Values = ["mutt"] },
                ],
                None =
                [
                    Text(MessagePart.Body, MatchTest.Contains, "unsubscribe at once"),
                    new Condition { Id = "auto", Part = MessagePart.Automatic, Test = MatchTest.Present, Kinds = [AutomaticKind.Bounce] },
                ],
            },
            Categories = categories,
            Lines =
            [
                .. Enumerable.Range(0, 10).Select(i => new Line
                {
                    Id = $"l{i}",
                    Case = i < 4 ? LineCase.Category : LineCase.Any,
                    CategoryId = i < 4 ? $"k{i}" : null,
                    AndWhen = i == 9 ? ConditionSet.Empty : new ConditionSet { All = [Text(MessagePart.SubjectOrBody, MatchTest.Contains, context.KeywordLists[1].Entries[i * 10])] },
                    Queues = [new PlaceSpec(i + 1, 60)],
                }),
            ],
        };
    }

    private static double Time(Action action)
    {
        var times = new List<double>();
        for (var round = 0; round < Rounds; round++)
        {
            var watch = Stopwatch.StartNew();
            action();
            times.Add(watch.Elapsed.TotalMilliseconds);
        }

        times.Sort();
        return times[Rounds / 2];
    }

    private static long Held() => GC.GetTotalMemory(forceFullCollection: true);

    private static void Say(FormattableString text) => Console.WriteLine(text.ToString(CultureInfo.InvariantCulture));
}
