using System.Collections.Immutable;
using PostTide.Core.Facts;
using PostTide.Core.Matching;
using PostTide.Core.Messages;
using PostTide.Core.Sorting;
using PostTide.Core.Workflows;

namespace PostTide.Cli.Demo;

/// <summary>The ids of what the sheets refer to, by name.</summary>
public sealed record DemoNames(
    IReadOnlyDictionary<string, long> Queues, IReadOnlyDictionary<string, long> Lists, IReadOnlyDictionary<string, long> Templates,
    IReadOnlyDictionary<string, long> Destinations, long Sorter);

/// <summary>The workflows of the Saltmarrow Harbour Office, in their order.</summary>
public sealed class DemoSheets(DemoNames names)
{
    private static readonly ImmutableArray<string> UsualFacts = [BuiltInFacts.SenderName, BuiltInFacts.SenderAddress, BuiltInFacts.Subject];
    private int _ids;

    /// <summary>Every workflow by name; the last sheet of each is live, the ones before are past.</summary>
    public IEnumerable<(string Name, Sheet[] Editions)> All() =>
    [
        ("Automatic mail", [AutomaticMailSheet()]),
        ("Plant faults", [PlantFaults()]),
        ("Berth requests", [BerthRequests(first: true), BerthRequests(first: false)]),
        ("Fuel orders", [FuelOrders()]),
        ("Cargo papers", [CargoPapers()]),
        ("Supplier invoices", [Invoices()]),
        ("Front office", [FrontOffice()]),
        ("Everything else", [EverythingElse()]),
    ];

    private string Id(string prefix) => $"{prefix}{++_ids}";

    private Condition Words(string list, MessagePart part = MessagePart.SubjectOrBody) =>
        new() { Id = Id("c"), Part = part, Test = MatchTest.HasAnyWordIn, KeywordListId = names.Lists[list] };

    private Condition Text(MessagePart part, MatchTest test, params string[] values) => new() { Id = Id("c"), Part = part, Test = test, Values = [.. values] };

    private Condition IsAutomatic(params AutomaticKind[] kinds) => new() { Id = Id("c"), Part = MessagePart.Automatic, Test = MatchTest.Present, Kinds = [.. kinds] };

    private Condition HasAttachment() => new() { Id = Id("c"), Part = MessagePart.Attachment, Test = MatchTest.Present };

    private Category Category(string name, params Condition[] any) => new() { Id = Id("k"), Name = name, When = new ConditionSet { Any = [.. any] } };

    private Line LineFor(Category category) => new() { Id = Id("l"), Case = LineCase.Category, CategoryId = category.Id };

    private Line LineForSorted(string category) => new() { Id = Id("l"), Case = LineCase.Category, CategoryId = category };

    private Line LineForNone() => new() { Id = Id("l"), Case = LineCase.NoneOfThese };

    private Line LineForAny() => new() { Id = Id("l"), Case = LineCase.Any };

    private PlaceSpec Place(string queue, int? minutes) => new(names.Queues[queue], minutes);

    private ReplySpec Reply(string template, ReplyMode mode, int delay = 0) => new(names.Templates[template], mode, delay);

    private Sheet AutomaticMailSheet()
    {
        var bounce = Category("Bounce", IsAutomatic(AutomaticKind.Bounce));
        return new Sheet
        {
            TakesIn = new ConditionSet { Any = [IsAutomatic(AutomaticKind.Bounce, AutomaticKind.AbsenceNotice), IsAutomatic(AutomaticKind.MailingList, AutomaticKind.Bulk)] },
            Categories = [bounce],
            Lines = [LineFor(bounce) with { Queues = [Place("Front office", 2_880)] }, LineForNone()],
        };
    }

    private Sheet PlantFaults()
    {
        var cleared = Category("Cleared", Text(MessagePart.Subject, MatchTest.Contains, "CLEARED"));
        var crane = Category("Crane fault", Text(MessagePart.Subject, MatchTest.Contains, "FAULT CR-"));
        var pump = Category("Pump fault", Text(MessagePart.Subject, MatchTest.Contains, "FAULT PU-"));
        var pass = new PassOnSpec(names.Destinations["Maintenance planner"]);
        return new Sheet
        {
            Addresses = ["plant@saltmarrow.example"],
            TakesIn = new ConditionSet { All = [Text(MessagePart.Sender, MatchTest.Is, "notices@plantwatch.example")] },
            Categories = [cleared, crane, pump],
            Facts = [BuiltInFacts.Subject, BuiltInFacts.Date],
            Lines =
            [
                LineFor(cleared),
                LineFor(crane) with { Queues = [Place("Plant room", 30)], Ticket = new TicketSpec(TicketMode.OpenOrAdd, "Crane fault", TicketPriority.High), PassOns = [pass] },
                LineFor(pump) with { Queues = [Place("Plant room", 60)], Ticket = new TicketSpec(TicketMode.OpenOrAdd, "Pump fault", TicketPriority.Normal), PassOns = [pass] },
                LineForNone() with { Queues = [Place("Plant room", 240)] },
            ],
        };
    }

    private Sheet BerthRequests(bool first)
    {
        var cancel = Category("Cancellation", Words("Cancellation words"));
        var change = Category("Change of arrival", Words("Arrival change words"));
        var large = Category("Large vessel", Words("Large vessel words"));
        var visitor = Category("Visitor berth", Words("Berthing words"));
        return new Sheet
        {
            Addresses = ["berths@saltmarrow.example", "harbour@saltmarrow.example"],
            TakesIn = new ConditionSet
            {
                Any = first ? [Words("Berthing words")] : [Words("Berthing words"), Words("Arrival change words", MessagePart.Subject)],
                None = [IsAutomatic(), Words("Complaint words", MessagePart.Subject)],
            },
            Categories = first ? [large, visitor] : [cancel, change, large, visitor],
            Facts = [.. UsualFacts, BuiltInFacts.Date],
            Lines = first
                ? [LineFor(large) with { Queues = [Place("Large berths", 120)] }, LineForAny() with { Queues = [Place("Berthing desk", 480)] }]
                :
                [
                    LineFor(cancel) with { Queues = [Place("Berthing desk", 480)], Ticket = new TicketSpec(TicketMode.AddOnly, "Berth booking") },
                    LineFor(change) with { Queues = [Place("Berthing desk", 120)], Ticket = new TicketSpec(TicketMode.AddOnly, "Berth booking") },
                    LineFor(large) with
                    {
                        Queues = [Place("Large berths", 120)],
                        Ticket = new TicketSpec(TicketMode.OpenOrAdd, "Large berth", TicketPriority.High),
                        Files = [new FileSpec("Vessels/{{ arrived | date: \"%Y/%m\" }}", ["pdf", "csv"])],
                        Replies = [Reply("Large berth: received", ReplyMode.Check)],
                    },
                    LineFor(visitor) with
                    {
                        Queues = [Place("Berthing desk", 480)],
                        Ticket = new TicketSpec(TicketMode.OpenOrAdd, "Berth booking"),
                        Replies = [Reply("Berth request: received", ReplyMode.Send, 10)],
                    },
                    LineForNone() with { Queues = [Place("Berthing desk", 480)] },
                ],
        };
    }

    private Sheet FuelOrders()
    {
        var bunkers = Category("Large delivery", Words("Large vessel words"));
        return new Sheet
        {
            Addresses = ["fuel@saltmarrow.example", "harbour@saltmarrow.example"],
            TakesIn = new ConditionSet { Any = [Words("Fuel words")], None = [IsAutomatic(), Words("Complaint words")] },
            Categories = [bunkers],
            Facts = UsualFacts,
            Lines =
            [
                LineFor(bunkers) with
                {
                    Queues = [Place("Fuel dock", 60)],
                    Ticket = new TicketSpec(TicketMode.OpenOrAdd, "Fuel delivery", TicketPriority.High),
                    PassOns = [new PassOnSpec(names.Destinations["Fuel ledger"])],
                },
                LineForNone() with { Queues = [Place("Fuel dock", 240)], Replies = [Reply("Fuel order: received", ReplyMode.Send)], PassOns = [new PassOnSpec(names.Destinations["Fuel ledger"])] },
            ],
        };
    }

    private Sheet CargoPapers()
    {
        var without = new ConditionSet { None = [HasAttachment()] };
        return new Sheet
        {
            Addresses = ["cargo@saltmarrow.example"],
            TakesIn = new ConditionSet { Any = [Words("Cargo words")], None = [IsAutomatic()] },
            Facts = [.. UsualFacts, BuiltInFacts.Date],
            Lines =
            [
                LineForAny() with { AndWhen = without, Queues = [Place("Cargo papers", 120)], Replies = [Reply("Cargo papers: attachment missing", ReplyMode.Check)] },
                LineForAny() with
                {
                    Queues = [Place("Cargo papers", 240)],
                    Ticket = new TicketSpec(TicketMode.OpenOrAdd, "Cargo call"),
                    Files = [new FileSpec("Cargo/{{ arrived | date: \"%Y/%m\" }}", [])],
                    PassOns = [new PassOnSpec(names.Destinations["Cargo register"])],
                },
            ],
        };
    }

    private Sheet Invoices()
    {
        var reminder = Category("Reminder", Text(MessagePart.Subject, MatchTest.Contains, "reminder"));
        var invoice = Category("Invoice", Text(MessagePart.Subject, MatchTest.Matches, "*invoice*", "*credit note*"));
        return new Sheet
        {
            Addresses = ["accounts@saltmarrow.example", "harbour@saltmarrow.example"],
            TakesIn = new ConditionSet { All = [HasAttachment()], Any = [Words("Invoice words", MessagePart.Subject)], None = [IsAutomatic()] },
            Categories = [reminder, invoice],
            Facts = UsualFacts,
            Lines =
            [
                LineFor(reminder) with { Queues = [Place("Front office", 480)], Files = [new FileSpec("Invoices/{{ arrived | date: \"%Y\" }}/Reminders", ["pdf"])] },
                LineFor(invoice) with
                {
                    Files = [new FileSpec("Invoices/{{ arrived | date: \"%Y/%m\" }}", ["pdf"])],
                    PassOns = [new PassOnSpec(names.Destinations["Ledger"])],
                    InMailbox = new MailboxSpec([new MailboxEffect(MailboxEffectKind.MarkRead), new MailboxEffect(MailboxEffectKind.Move, "Invoices")]),
                },
                LineForNone() with { Files = [new FileSpec("Invoices/Statements", ["pdf"])] },
            ],
        };
    }

    private Sheet FrontOffice()
    {
        var complaint = Category("Complaint", Words("Complaint words"));
        var permit = Category("Permit for an event", Words("Permit words"));
        var lost = Category("Lost property", Words("Lost property words"));
        return new Sheet
        {
            Addresses = ["harbour@saltmarrow.example", "events@saltmarrow.example"],
            TakesIn = new ConditionSet { Any = [Words("Complaint words"), Words("Permit words"), Words("Lost property words")], None = [IsAutomatic()] },
            Categories = [complaint, permit, lost],
            Facts = UsualFacts,
            Lines =
            [
                LineFor(complaint) with
                {
                    Queues = [Place("Front office", 480)],
                    Ticket = new TicketSpec(TicketMode.OpenOrAdd, "Complaint", TicketPriority.High),
                    Replies = [Reply("Complaint: received", ReplyMode.Check)],
                },
                LineFor(permit) with
                {
                    Queues = [Place("Front office", 1_440)],
                    Ticket = new TicketSpec(TicketMode.OpenOrAdd, "Event permit"),
                    Files = [new FileSpec("Events/{{ arrived | date: \"%Y\" }}", [])],
                    Replies = [Reply("Event permit: what we need", ReplyMode.Check)],
                },
                LineFor(lost) with { Queues = [Place("Front office", 1_440)] },
            ],
        };
    }

    /// <summary>What no workflow above recognised by its words: the sorter decides, and what it is unsure about is sorted by hand.</summary>
    private Sheet EverythingElse() => new()
    {
        Addresses = ["harbour@saltmarrow.example", "berths@saltmarrow.example", "fuel@saltmarrow.example", "cargo@saltmarrow.example", "events@saltmarrow.example"],
        TakesIn = new ConditionSet { None = [IsAutomatic()] },
        SorterId = names.Sorter,
        Categories = [.. DemoSorter.Settings.Categories.Select(c => new Category { Id = c.Id, Name = c.Name, BySorter = true })],
        Facts = UsualFacts,
        Lines =
        [
            LineForSorted("berth") with { Queues = [Place("Berthing desk", 480)] },
            LineForSorted("large") with { Queues = [Place("Large berths", 120)] },
            LineForSorted("change") with { Queues = [Place("Berthing desk", 120)] },
            LineForSorted("fuel") with { Queues = [Place("Fuel dock", 240)] },
            LineForSorted("event") with { Queues = [Place("Front office", 1_440)] },
            LineForSorted("complaint") with { Queues = [Place("Front office", 480)], Ticket = new TicketSpec(TicketMode.OpenOrAdd, "Complaint", TicketPriority.High) },
            LineForSorted("lost") with { Queues = [Place("Front office", 1_440)] },
            LineForNone() with { Queues = [Place("Front office", 1_440)] },
            new Line { Id = Id("l"), Case = LineCase.Unsure, Queues = [Place("Sort by hand", 480)] },
        ],
    };
}
