using System.Collections.Immutable;
using PostTide.Core.Formats;
using PostTide.Core.Matching;
using PostTide.Core.Messages;
using PostTide.Core.Workflows;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Formats;

/// <summary>Scripts of RFC 5228, 5233, 5260, 5173 and 3894 are read as those documents say, and what is written is read again.</summary>
public sealed class SieveTests
{
    private static WorkflowDocument Read(string script, out ImmutableArray<DocumentProblem> notes)
    {
        var (document, problems) = SieveReader.Read(script, "script");
        notes = problems;
        return document.ShouldNotBeNull(string.Join("; ", problems.Select(p => p.Text)));
    }

    private static Verdict Decide(WorkflowDocument document, PreparedMessage message)
    {
        var file = WorkflowFile.Read(YamlText.Write(document));
        return Planner.Plan(message, [Made.Edition(file.Sheet!)], file.Context).Verdicts[0];
    }

    private static string? Folder(WorkflowDocument document, PreparedMessage message) =>
        Decide(document, message).Deeds.Select(d => d.Content).OfType<MailboxContent>().SingleOrDefault()?.Effects[0].Name;

    private static PreparedMessage From(string address, string subject = "x") => Made.Message(subject, "x\n", address) with { Folder = "INBOX", Header = [new HeaderField("Subject", subject)] };

    // RFC 5228 §3.1: the example of if, elsif and else. “discard” has no counterpart, so its branch does nothing.
    [Fact]
    public void The_example_of_control_structures()
    {
        const string Script = """
            require "fileinto";
            if header :contains "from" "coyote" {
               discard;
            } elsif header :contains ["subject"] ["$$$"] {
               discard;
            } else {
               fileinto "INBOX";
            }
            """;
        var document = Read(Script, out var notes);
        document.Does.Length.ShouldBe(3);
        document.EveryLine.ShouldBeFalse();
        notes.Select(n => n.Line).ShouldBe([3, 5]);
        Folder(document, From("coyote@desert.example.org")).ShouldBeNull();
        Folder(document, From("a@b.example", "$$$ $ you, too, can be a millionaire! $ $$$")).ShouldBeNull();
        Folder(document, From("a@b.example")).ShouldBe("INBOX");
    }

    // RFC 5228 §9, the extended example, without its boundary test of “address”: what it asks about lists, friends and the rest.
    [Fact]
    public void The_extended_example()
    {
        const string Script = """
            #
            # Example Sieve Filter
            # Declare any optional features or extension used by the script
            #
            require ["fileinto"];

            #
            # Handle messages from known mailing lists
            # Move messages from IETF filter discussion list to filter mailbox
            #
            if header :is "Sender" "owner-ietf-mta-filters@imc.org"
                    {
                    fileinto "filter";  # move to "filter" mailbox
                    }
            #
            # Keep all messages to or from people in my company
            #
            elsif address :DOMAIN :is ["From"] "example.com"
                    {
                    keep;               # keep in "In" mailbox
                    }

            #
            # Try and catch unsolicited email.  If a message is not to me,
            # or it contains a subject known to be spam, file it away.
            #
            elsif anyof (not address :all :contains
                           ["To", "Cc"] "me@example.com",
                         header :matches "subject"
                           ["*make*money*fast*", "*university*dipl*mas*"])
                    {
                    fileinto "spam";   # move to "spam" mailbox
                    }
            else
                    {
                    # Move all other (non-company) mail to "personal"
                    # mailbox.
                    fileinto "personal";
                    }
            """;
        var document = Read(Script, out var notes);
        notes.ShouldBeEmpty();
        Folder(document, From("a@b.example") with { Header = [new HeaderField("Sender", "owner-ietf-mta-filters@imc.org")] }).ShouldBe("filter");
        Folder(document, From("tim@example.com")).ShouldBeNull();
        Folder(document, From("a@b.example")).ShouldBe("spam");
        var toMe = From("a@b.example") with { To = [new EmailAddress("", "me@example.com")] };
        Folder(document, toMe).ShouldBe("personal");
        Folder(document, toMe with { Subject = "Make some money very fast" }).ShouldBe("spam");
    }

    // RFC 5233 §4: a message to ken+mta-filters@example.org goes into the folder of that list.
    [Fact]
    public void The_detail_of_an_address()
    {
        const string Script = """
            require ["envelope", "subaddress", "fileinto"];
            if envelope :detail "to" "mta-filters" {
                fileinto "inbox.ietf-mta-filters";
            }
            """;
        var document = Read(Script, out _);
        Folder(document, From("a@b.example") with { OriginallyTo = ["ken+mta-filters@example.org"] }).ShouldBe("inbox.ietf-mta-filters");
        Folder(document, From("a@b.example") with { OriginallyTo = ["ken@example.org"] }).ShouldBeNull();
    }

    // RFC 5260 §4.2: the weekend as 0 and 6; RFC 5173 §5: body :text; RFC 5228 §5.9: size, with K for 1,024 (§2.4.1).
    [Fact]
    public void Days_bodies_and_sizes()
    {
        const string Script = """
            require ["date", "relational", "body", "fileinto"];
            if allof (currentdate :is "weekday" ["0", "6"], not size :over 100K) { fileinto "weekend"; }
            elsif body :text :contains "project schedule" { fileinto "project/schedule"; }
            elsif currentdate :value "ge" "date" "2026-12-01" { fileinto "later"; }
            """;
        var document = Read(Script, out var notes);
        notes.ShouldBeEmpty();
        Folder(document, From("a@b.example") with { ArrivedAt = new DateTimeOffset(2026, 11, 28, 12, 0, 0, TimeSpan.Zero), Size = 102_400 }).ShouldBe("weekend");
        Folder(document, From("a@b.example") with { ArrivedAt = new DateTimeOffset(2026, 11, 28, 12, 0, 0, TimeSpan.Zero), Size = 102_401 }).ShouldBeNull();
        Folder(document, Made.Message("x", "the project schedule\n") with { Folder = "INBOX" }).ShouldBe("project/schedule");
        Folder(document, From("a@b.example") with { ArrivedAt = new DateTimeOffset(2026, 12, 1, 12, 0, 0, TimeSpan.Zero) }).ShouldBe("later");
    }

    // RFC 3894 §2: :copy leaves the message where it is; nothing here does that with a folder.
    [Fact]
    public void A_copy_has_no_counterpart_and_is_told_by_line()
    {
        var document = Read("require [\"fileinto\", \"copy\"];\nfileinto :copy \"incoming\";\n", out var notes);
        notes.ShouldHaveSingleItem().Line.ShouldBe(2);
        document.Does.ShouldHaveSingleItem().InMailbox.ShouldBeEmpty();
    }

    // RFC 5228 §2.4.2: a text of several lines, and a dot doubled at the beginning of a line.
    [Fact]
    public void Texts_of_several_lines_and_quoted_quotes()
    {
        var commands = SieveScript.Read("vacation text:\nhello\n..dot\n.\n;\nkeep \"a \\\"b\\\" \\\\ c\";");
        commands[0].Strings[0].ShouldBe(["hello\n.dot\n"]);
        commands[1].Strings[0].ShouldBe(["a \"b\" \\ c"]);
    }

    [Theory]
    [InlineData("if true {", 1)]
    [InlineData("keep;\n;", 2)]
    [InlineData("if header :is \"a", 1)]
    [InlineData("keep;\n}", 2)]
    [InlineData("/* open", 1)]
    [InlineData("size 99999999999G;", 1)]
    public void What_is_not_a_script_is_told_with_its_line(string script, int line)
    {
        var (document, notes) = SieveReader.Read(script, "x");
        document.ShouldBeNull();
        notes.ShouldHaveSingleItem().Line.ShouldBe(line);
    }

    [Fact]
    public void Nesting_without_end_is_refused() =>
        SieveReader.Read(string.Concat(Enumerable.Repeat("if not ", 10_000)), "x").Document.ShouldBeNull();

    private static readonly Sheet Sheet = Made.Sheet() with
    {
        Addresses = ["berths@saltmarrow.example"],
        TakesIn = new ConditionSet
        {
            Any = [Made.Text("a", MessagePart.Subject, MatchTest.Contains, "berth \"x\""), Made.Text("b", MessagePart.SenderDomain, MatchTest.Is, "tern.example")],
            None = [new Condition { Id = "s", Part = MessagePart.Size, Test = MatchTest.Between, Least = 5_000 }],
        },
        Categories = [new Core.Sorting.Category { Id = "k1", Name = "Large", When = new ConditionSet { All = [Made.Text("k", MessagePart.Subject, MatchTest.Begins, "large*")] } }],
        Lines =
        [
            new Line { Id = "l1", Case = LineCase.Category, CategoryId = "k1", InMailbox = new MailboxSpec([new MailboxEffect(MailboxEffectKind.Move, "Large")]) },
            new Line { Id = "l2", AndWhen = new ConditionSet { All = [Made.Text("d", MessagePart.Weekday, MatchTest.OneOf, "Sunday")] }, InMailbox = new MailboxSpec([new MailboxEffect(MailboxEffectKind.Move, "Sundays")]) },
        ],
    };

    [Fact]
    public void What_is_written_is_read_again_and_decides_alike()
    {
        var export = SieveWriter.Write(DocumentWriter.Write("Berths", Sheet, Made.Context));
        export.Script.ShouldStartWith("# Berths\nrequire [\"date\", \"envelope\", \"fileinto\", \"subaddress\", \"variables\"];");
        var document = Read(export.Script, out _);
        var sunday = new DateTimeOffset(2026, 11, 29, 12, 0, 0, TimeSpan.Zero);
        foreach (var message in new[]
        {
            From("maud@tern.example"), From("a@b.example", "berth \"x\""), From("a@b.example"), From("maud@tern.example", "large* ship"), From("maud@tern.example", "larger"),
            From("maud@tern.example") with { ArrivedAt = sunday }, From("maud@tern.example") with { Size = 6_000 },
            From("maud@tern.example") with { OriginallyTo = ["fuel@saltmarrow.example"] }, From("maud@tern.example") with { OriginallyTo = ["berths+web@saltmarrow.example"] },
        })
        {
            var verdict = Made.Decide(message, Sheet);
            Decide(document, message).Outcome.ShouldBe(verdict.Outcome, message.Subject);
            Folder(document, message).ShouldBe(verdict.Deeds.Select(d => d.Content).OfType<MailboxContent>().SingleOrDefault()?.Effects[0].Name);
        }
    }

    [Fact]
    public void What_does_not_fit_is_listed_and_nothing_more_is_taken_for_it()
    {
        var sheet = Sheet with
        {
            TakesIn = Sheet.TakesIn with { Any = Sheet.TakesIn.Any.Add(Made.Text("r", MessagePart.Subject, MatchTest.Regex, "x")) },
            Lines = [Made.Line() with { Replies = [new ReplySpec(1, ReplyMode.Check)] }],
        };
        var export = SieveWriter.Write(DocumentWriter.Write("Berths", sheet, Made.Context));
        export.Script.ShouldNotContain("regex");
        export.DoesNotFit.ShouldContain("Line 1: Sieve knows no queues.");
        export.DoesNotFit.ShouldContain(t => t.Contains("Regex", StringComparison.Ordinal));
        var demanded = sheet with { TakesIn = new ConditionSet { All = [Made.Text("r", MessagePart.Subject, MatchTest.Regex, "x")] } };
        SieveWriter.Write(DocumentWriter.Write("Berths", demanded, Made.Context)).Script.ShouldBeEmpty();
    }
}
