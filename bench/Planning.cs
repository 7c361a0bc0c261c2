using System.Collections.Immutable;
using System.Text.RegularExpressions;
using BenchmarkDotNet.Attributes;
using PostTide.Cli.Demo;
using PostTide.Core.Matching;
using PostTide.Core.Messages;
using PostTide.Core.Rehearsal;
using PostTide.Core.Replies;
using PostTide.Core.Text;
using PostTide.Core.Workflows;
using PostTide.Mail;
using PostTide.StandIns.Saltmarrow;

namespace PostTide.Bench;

/// <summary>
/// Planning and rehearsing the demo's 2,000 messages under its eight workflows, on one core, beside a straightforward loop
/// of regular expressions over the same texts and words, which finds words but explains and plans nothing.
/// </summary>
[MemoryDiagnoser]
public class Planning
{
    private const int Messages = 2_000;
    private PreparedMessage[] _messages = [];
    private ImmutableArray<Edition> _editions = [];
    private PlanContext _context = new();
    private Regex[] _expressions = [];

    [GlobalSetup]
    public void SetUp()
    {
        var until = new DateTimeOffset(2026, 11, 25, 12, 0, 0, TimeSpan.Zero);
        _messages =
        [
            .. new Generator(1894).History(until, 90, Messages).Select((mail, i) =>
                Preparation.Prepare(MailReader.Read(mail.ToBytes()), new Envelope(mail.EnvelopeFrom, [mail.EnvelopeTo]), mail.At) with { Id = i + 1, ConversationId = i + 1 }),
        ];
        var lists = DemoLists.All().Select((l, i) => new KeywordList(i + 1, l.Name, l.Words)).ToList();
        string[] queues = ["Berthing desk", "Large berths", "Fuel dock", "Cargo papers", "Plant room", "Front office", "Sort by hand"];
        string[] templates = ["Berth request: received", "Large berth: received", "Fuel order: received", "Cargo papers: attachment missing", "Complaint: received", "Event permit: what we need"];
        string[] destinations = ["Maintenance planner", "Fuel ledger", "Cargo register", "Ledger"];
        static Dictionary<string, long> Ids(IEnumerable<string> names) => names.Select((n, i) => (n, i)).ToDictionary(p => p.n, p => p.i + 1L);
        var sheets = new DemoSheets(new DemoNames(Ids(queues), lists.ToDictionary(l => l.Name, l => l.Id), Ids(templates), Ids(destinations), 1));
        _editions = [.. sheets.All().Select((w, i) => new Edition(i + 1, w.Name, 1, w.Editions[^1]))];
        _context = new PlanContext
        {
            Now = until,
            KeywordLists = lists.ToDictionary(l => l.Id),
            Queues = Ids(queues).ToDictionary(p => p.Value, p => p.Key),
            Destinations = Ids(destinations).ToDictionary(p => p.Value, p => p.Key),
            Templates = Ids(templates).ToDictionary(p => p.Value, p => new ReplyTemplate(p.Value, p.Key, "Dear {{ sender_name }}, {{ subject }}")),
            TicketPrefix = "SH",
        };
        _expressions = [.. lists.Select(l => new Regex(
            $@"\b(?:{string.Join('|', l.Entries.Select(Regex.Escape))})\b", RegexOptions.IgnoreCase | RegexOptions.NonBacktracking | RegexOptions.CultureInvariant))];
    }

    [Benchmark(Baseline = true, Description = "regular expressions, words only, 2,000 messages")]
    public int RegularExpressions() => _messages.Sum(m => _expressions.Count(e => e.IsMatch(m.Subject) || e.IsMatch(m.Body.Text)));

    [Benchmark(Description = "plan 2,000 messages under 8 workflows")]
    public int Plan() => _messages.Count(m => Planner.Plan(m, _editions, _context).TakenIn);

    [Benchmark(Description = "rehearse an edition in hand over 2,000 messages")]
    public int Rehearse() => RehearsalSummary.Of(Rehearser.Run(_messages, _editions, _editions[2] with { Number = 2 }, 2, _context)).TakenIn;
}
