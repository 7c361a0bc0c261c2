using System.Collections.Immutable;
using System.Text.Json;
using CsCheck;
using PostTide.Core.Formats;
using PostTide.Core.Matching;
using PostTide.Core.Rehearsal;
using PostTide.Core.Sorting;
using PostTide.Core.Workflows;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Formats;

public sealed class WorkflowDocumentTests
{
    private static readonly PlanContext Context = Made.Context with
    {
        SavedConditions = new Dictionary<long, SavedCondition> { [1] = new(1, "Our regulars", new ConditionSet { Any = [Made.Text("c1", MessagePart.SenderDomain, MatchTest.Is, "tern.example")] }) },
    };

    private static readonly Sheet Sheet = new()
    {
        Addresses = ["berths@saltmarrow.example"],
        TakesIn = new ConditionSet
        {
            Any = [Made.Words("a1"), new Condition { Id = "a2", Part = MessagePart.Saved, Test = MatchTest.Present, SavedId = 1 }],
            None = [new Condition { Id = "a3", Part = MessagePart.Group, Test = MatchTest.Present, Set = new ConditionSet { All = [Made.Text("a4", MessagePart.Subject, MatchTest.Regex, @"\bx: #1")], None = [Made.Text("a5", MessagePart.Body, MatchTest.Contains, "no", "true", "12") with { WholeBody = true, SameCase = true }] } }],
        },
        Categories = [new Category { Id = "k1", Name = "Visitor", When = new ConditionSet { All = [new Condition { Id = "b1", Part = MessagePart.Size, Test = MatchTest.Between, Least = 0.5, Most = 3 }] } }],
        Facts = ["sender_name"],
        Lines =
        [
            Made.Line("l1") with
            {
                Case = LineCase.Category, CategoryId = "k1", Note = "until: spring", Ticket = new TicketSpec(TicketMode.OpenOrAdd, "Berth", TicketPriority.Low),
                Files = [new FileSpec("A/{{ arrived | date: \"%Y\" }}", ["pdf"]), new FileSpec("", [])], Replies = [new ReplySpec(1, ReplyMode.Send, 5)], PassOns = [new PassOnSpec(1)],
                InMailbox = new MailboxSpec([new MailboxEffect(MailboxEffectKind.MarkRead), new MailboxEffect(MailboxEffectKind.Move, "Done")]),
                AndWhen = new ConditionSet { All = [Made.Text("d1", MessagePart.Category, MatchTest.OneOf, "k1"), new Condition { Id = "d2", Part = MessagePart.WordAtPlace, Test = MatchTest.Is, Values = ["-1"], Place = new WordPlace(1, -1) }] },
            },
            Made.Line("l2") with { Case = LineCase.NoneOfThese, Off = true },
        ],
        EveryLine = true,
        Limits = new Limits { OneReplyPerSenderHours = null, SkipLaterWorkflows = false },
    };

    private static string Json(object value) => JsonSerializer.Serialize(value);

    private static (Sheet? Sheet, ImmutableArray<DocumentProblem> Problems) Read(string yaml, PlanContext? context = null)
    {
        var read = WorkflowFile.Read(yaml, context is null ? null : DocumentNames.Of(context));
        return (read.Sheet, read.Problems);
    }

    [Fact]
    public void A_workflow_is_the_same_after_every_round_trip()
    {
        var examples = new[] { new KeptExample(Made.Message(), new Expectation(true, "Visitor", ["place in Berthing desk"])), new KeptExample(Made.Message() with { MessageId = "m2@x" }, new Expectation(false)) };
        var yaml = YamlText.Write(DocumentWriter.Write("Berths: the first", Sheet, Context, examples));
        var (sheet, problems) = Read(yaml, Context);
        problems.ShouldBeEmpty();
        Json(sheet!).ShouldBe(Json(Sheet));
        var again = YamlText.Read<WorkflowDocument>(yaml);
        YamlText.Write(again.Value).ShouldBe(yaml);
        again.Value!.Examples.Select(e => (e.MessageId, e.Expected.TakenIn)).ShouldBe([("m7@tern.example", true), ("m2@x", false)]);
    }

    [Fact]
    public void A_document_brings_everything_it_needs_without_any_records()
    {
        var yaml = YamlText.Write(DocumentWriter.Write("Berths", Sheet, Context));
        var file = WorkflowFile.Read(yaml);
        file.Problems.ShouldBeEmpty();
        var verdict = Planner.Plan(Made.Message("berth", "x\n") with { Size = 2 }, [Made.Edition(file.Sheet!)], file.Context).Verdicts[0];
        verdict.Outcome.ShouldBe(Outcome.TakenIn);
        verdict.CategoryId.ShouldBe("k1");
    }

    [Fact]
    public void Keyword_lists_of_every_kind_keep_their_options()
    {
        foreach (var options in new[] { new KeywordOptions(), new KeywordOptions { WholeWords = false, SameAccents = false }, new KeywordOptions { SameCase = true, Endings = true } })
        {
            var document = new WorkflowDocument { Name = "x", KeywordLists = [new KeywordListDocument("L") { Words = ["no", "yes", "1", "a: b", " # x"], Options = options }] };
            var list = YamlText.Read<WorkflowDocument>(YamlText.Write(document)).Value!.KeywordLists[0];
            list.Options.ShouldBe(options);
            list.Words.ShouldBe(["no", "yes", "1", "a: b", " # x"]);
        }
    }

    [Fact]
    public void Any_text_survives() => Gen.String.Sample(text =>
    {
        // YAML knows no lone surrogates, as no Unicode text does.
        var clean = string.Concat(text.EnumerateRunes().Select(r => r.ToString())).Replace("\0", "", StringComparison.Ordinal);
        var document = new WorkflowDocument { Name = clean, Templates = [new TemplateDocument("t", clean + "\n" + clean), new TemplateDocument("u", "Dear you,\n\nthanks.\n" + clean)] };
        var read = YamlText.Read<WorkflowDocument>(YamlText.Write(document));
        read.Problems.ShouldBeEmpty();
        read.Value!.Name.ShouldBe(clean);
        read.Value.Templates.Select(t => t.Body).ShouldBe(document.Templates.Select(t => t.Body));
    });

    [Theory]
    [InlineData("name: x\ndoes:\n  - queues:\n      - queue: [", 4, "It is not YAML")]
    [InlineData("name: x\nsortsInto:\n  - nam: y\n", 3, "nam")]
    [InlineData("name: x\neveryLine: perhaps\n", 2, "everyLine")]
    [InlineData("name: x\ndoes:\n  - queues:\n      - dueInMinutes: 5\n", 4, "queue")]
    [InlineData("- a\n- b\n", 1, "The document")]
    public void What_cannot_be_read_is_told_with_its_line(string yaml, int line, string says)
    {
        var problem = Read(yaml).Problems.ShouldHaveSingleItem();
        problem.Line.ShouldBe(line);
        problem.Text.ShouldContain(says);
    }

    [Fact]
    public void What_is_missing_here_and_what_is_wrong_is_told_with_its_line()
    {
        const string Yaml = """
            name: x
            takesIn:
              all:
                - part: subject
                  test: regex
                  values: ["(a"]
                - keywordList: Unknown
            does:
              - queues:
                  - queue: Nowhere
              - category: Gone
            """;
        var problems = Read(Yaml, Context).Problems;
        problems.Select(p => p.Line).ShouldBe([4, 7, 10, 11], ignoreOrder: true);
        problems.First(p => p.Line == 4).Text.ShouldContain("regular expression");
        problems.First(p => p.Line == 10).Text.ShouldBe("There is no queue “Nowhere” here.");
    }

    [Fact]
    public void A_short_document_written_by_hand_is_enough()
    {
        const string Yaml = """
            name: Noise
            takesIn:
              any:
                - values: [noise, loud]
                - all:
                    - part: sender
                      values: [town.example]
            does:
              - queues: [{ queue: Front office, dueInMinutes: 60 }]
            """;
        var file = WorkflowFile.Read(Yaml);
        file.Problems.ShouldBeEmpty();
        file.Sheet!.TakesIn.Leaves().Select(c => (c.Id, c.Part, c.Test)).ShouldBe([("c1", MessagePart.SubjectOrBody, MatchTest.Contains), ("c3", MessagePart.Sender, MatchTest.Contains)]);
        file.Sheet.Limits.ShouldBe(new Limits());
    }

    [Fact]
    public void A_document_that_grows_without_end_is_refused()
    {
        var bomb = "a0: &a0 [x,x,x,x,x,x,x,x,x,x]\n" + string.Join('\n', Enumerable.Range(1, 9).Select(i => $"a{i}: &a{i} [{string.Join(',', Enumerable.Repeat($"*a{i - 1}", 10))}]"));
        Read(bomb).Problems.ShouldHaveSingleItem().Text.ShouldContain("too deep, or repeats itself");
        Read(new string('[', 200) + new string(']', 200)).Problems.ShouldNotBeEmpty();
        Read("").Problems.ShouldHaveSingleItem().Text.ShouldBe("The document is empty.");
    }

    [Fact]
    public void The_published_schema_is_that_of_the_documents() =>
        File.ReadAllText(Path.Combine(Root(), "docs", "workflow.schema.json")).ShouldBe(WorkflowFile.Schema(), "./posttide client writes it");

    private static string Root()
    {
        var folder = AppContext.BaseDirectory;
        while (!File.Exists(Path.Combine(folder, "PostTide.slnx")))
        {
            folder = Path.GetDirectoryName(folder)!;
        }

        return folder;
    }
}
