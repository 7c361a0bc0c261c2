using System.Collections.Immutable;
using PostTide.Core.Matching;
using PostTide.Core.Messages;
using PostTide.Core.Text;
using PostTide.Core.Time;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Matching;

/// <summary>Every part with the tests that go with it.</summary>
public sealed class ConditionLanguageTests
{
    private static readonly PreparedMessage Mail = Made.Message("Re: [quay] Fwd: Berth for Tern", "Hello there,\nBOOK 42 berth now\n\n-- \nMaud\n\nOn Monday you wrote:\n> an old secret\n") with
    {
        OriginallyTo = ["berths+web@saltmarrow.example"],
        Cc = [new EmailAddress("Fuel dock", "fuel@saltmarrow.example")],
        Size = 48_000,
        SentAt = Made.Noon.AddDays(-3),
        Attachments = [new Attachment(0, "plan of berth.pdf", "application/octet-stream", 120_000, "application/pdf"), new Attachment(1, "x.png", "image/png", 900, "image/png")],
        Header = [new HeaderField("X-Priority", "1 (Highest)"), new HeaderField("List-Id", "Quay news <quay.saltmarrow.example>"), new HeaderField("x-priority", "5")],
    };

    private static readonly MatchContext Context = Made.Context.For(Mail);

    private static ConditionResult Decide(Condition condition, PreparedMessage? message = null, MatchContext? context = null) =>
        Matcher.Decide(condition, message ?? Mail, context ?? Context);

    [Theory]
    [InlineData(MessagePart.SenderAddress, MatchTest.Is, "maud@tern.example", "maud@tern.example")]
    [InlineData(MessagePart.SenderAddress, MatchTest.Contains, "Maud Ashgrove", null)]
    [InlineData(MessagePart.SenderDomain, MatchTest.Is, "TERN.example", "tern.example")]
    [InlineData(MessagePart.SenderDomain, MatchTest.Contains, "maud", null)]
    [InlineData(MessagePart.SenderName, MatchTest.Begins, "maud", "Maud")]
    [InlineData(MessagePart.SenderName, MatchTest.Contains, "tern", null)]
    [InlineData(MessagePart.OriginallyTo, MatchTest.Begins, "berths+", "berths+")]
    [InlineData(MessagePart.OriginallyTo, MatchTest.Contains, "fuel", null)]
    [InlineData(MessagePart.Recipient, MatchTest.Is, "Fuel dock", "Fuel dock")]
    [InlineData(MessagePart.Tag, MatchTest.Is, "web", "web")]
    [InlineData(MessagePart.Tag, MatchTest.Is, "berths", null)]
    [InlineData(MessagePart.Subject, MatchTest.Begins, "re:", "Re:")]
    [InlineData(MessagePart.BaseSubject, MatchTest.Is, "berth for tern", "Berth for Tern")]
    [InlineData(MessagePart.BaseSubject, MatchTest.Contains, "quay", null)]
    [InlineData(MessagePart.Body, MatchTest.Ends, "berth now", "berth now")]
    [InlineData(MessagePart.Body, MatchTest.Contains, "secret", null)]
    [InlineData(MessagePart.SubjectOrBody, MatchTest.Word, "tern", "Tern")]
    [InlineData(MessagePart.SubjectOrBody, MatchTest.Word, "ber", null)]
    [InlineData(MessagePart.SubjectOrBody, MatchTest.Word, "hello there book", "Hello there,\nBOOK")]
    [InlineData(MessagePart.Body, MatchTest.Regex, @"\bbook \d+", "BOOK 42")]
    [InlineData(MessagePart.Body, MatchTest.Regex, @"^book", "BOOK")]
    [InlineData(MessagePart.Header, MatchTest.Contains, "highest", "Highest")]
    [InlineData(MessagePart.ListId, MatchTest.Contains, "quay.saltmarrow", "quay.saltmarrow")]
    [InlineData(MessagePart.AttachmentName, MatchTest.Matches, "plan*.pdf", "plan")]
    [InlineData(MessagePart.Fact, MatchTest.Is, "maud@tern.example", "maud@tern.example")]
    public void A_text_is_compared_and_the_words_are_marked(MessagePart part, MatchTest test, string value, string? marked)
    {
        var result = Decide(Made.Text("c", part, test, value) with { Name = part == MessagePart.Fact ? "sender_address" : "X-PRIORITY" });
        result.Held.ShouldBe(marked is not null);
        if (marked is not null)
        {
            result.Evidence[0].Text.ShouldBe(marked);
            Mail.TextAt(result.Evidence[0].Place, result.Evidence[0].Index).Substring(result.Evidence[0].Start, result.Evidence[0].Length).ShouldBe(marked);
        }
    }

    [Fact]
    public void The_whole_body_is_looked_at_when_asked() =>
        Decide(Made.Text("c", MessagePart.Body, MatchTest.Contains, "secret") with { WholeBody = true }).Held.ShouldBeTrue();

    [Theory]
    [InlineData(MatchTest.Contains, "berth", false)]
    [InlineData(MatchTest.Contains, "Berth", true)]
    [InlineData(MatchTest.Word, "tern", false)]
    [InlineData(MatchTest.Word, "Tern", true)]
    [InlineData(MatchTest.Matches, "*berth*", false)]
    [InlineData(MatchTest.Matches, "*Berth*", true)]
    [InlineData(MatchTest.Regex, "berth", false)]
    [InlineData(MatchTest.Regex, "Berth", true)]
    public void Case_is_told_apart_when_asked(MatchTest test, string value, bool held) =>
        Decide(Made.Text("c", MessagePart.Subject, test, value) with { SameCase = true }).Held.ShouldBe(held);

    [Theory]
    [InlineData(1, 1, "Hello")]
    [InlineData(1, -1, "there")]
    [InlineData(2, 2, "42")]
    [InlineData(-1, 1, "BOOK")]
    [InlineData(-1, -1, "now")]
    [InlineData(2, null, "BOOK 42 berth now")]
    [InlineData(3, 1, null)]
    [InlineData(1, 9, null)]
    public void A_word_is_found_at_its_place(int line, int? word, string? there)
    {
        var condition = new Condition { Id = "c", Part = MessagePart.WordAtPlace, Test = MatchTest.Matches, Values = ["*"], Place = new WordPlace(line, word) };
        var span = WordAtPlace.Find(Mail.Body, condition.Place!, whole: false);
        (span is { } at ? Mail.Body.Text.Substring(at.Start, at.Length) : null).ShouldBe(there);
        Decide(condition).Held.ShouldBe(there is not null);
    }

    [Fact]
    public void Missing_is_not_the_same_as_empty()
    {
        var empty = Mail with { Header = [new HeaderField("X-Note", "")] };
        var there = new Condition { Id = "c", Part = MessagePart.Header, Name = "X-Note", Test = MatchTest.Present };
        Decide(there, empty).Held.ShouldBeTrue();
        Decide(there with { Test = MatchTest.Absent }, empty).Held.ShouldBeFalse();
        Decide(there).Held.ShouldBeFalse();
        Decide(there with { Test = MatchTest.Absent }).Held.ShouldBeTrue();
        Decide(Made.Text("c", MessagePart.Header, MatchTest.Contains, "x") with { Name = "X-Note" }).Held.ShouldBeFalse();
        Decide(new Condition { Id = "c", Part = MessagePart.Tag, Test = MatchTest.Absent }, Made.Message()).Held.ShouldBeTrue();
    }

    [Theory]
    [InlineData(MessagePart.AttachmentCount, 2d, 2d, true)]
    [InlineData(MessagePart.AttachmentCount, 3d, null, false)]
    [InlineData(MessagePart.AttachmentSize, 100_000d, null, true)]
    [InlineData(MessagePart.AttachmentSize, 1_000d, 100_000d, false)]
    [InlineData(MessagePart.Size, null, 48_000d, true)]
    [InlineData(MessagePart.Size, 48_001d, null, false)]
    [InlineData(MessagePart.Age, 3d, 3d, true)]
    [InlineData(MessagePart.Age, null, 2.9d, false)]
    [InlineData(MessagePart.ConversationNumber, 1d, 1d, true)]
    [InlineData(MessagePart.ConversationNumber, 2d, null, false)]
    public void A_number_lies_between_two_ends(MessagePart part, double? least, double? most, bool held)
    {
        var result = Decide(new Condition { Id = "c", Part = part, Test = MatchTest.Between, Least = least, Most = most });
        result.Held.ShouldBe(held);
        result.Found.ShouldNotBeNullOrEmpty();
    }

    [Fact]
    public void The_type_of_an_attachment_is_what_its_content_shows()
    {
        Decide(Made.Text("c", MessagePart.AttachmentType, MatchTest.Is, "application/pdf")).Evidence.ShouldHaveSingleItem().Text.ShouldBe("plan of berth.pdf");
        Decide(Made.Text("c", MessagePart.AttachmentType, MatchTest.Begins, "image/")).Held.ShouldBeTrue();
        Decide(Made.Text("c", MessagePart.AttachmentType, MatchTest.Is, "application/octet-stream")).Held.ShouldBeFalse();
    }

    // 25 November 2026 is a Wednesday; noon in UTC is noon in London in winter, when clocks show UTC.
    [Theory]
    [InlineData("2026-11-25", "2026-11-25", true)]
    [InlineData("2026-11-26", null, false)]
    [InlineData(null, "2026-11-24", false)]
    public void A_day_lies_in_a_span(string? from, string? until, bool held) =>
        Decide(new Condition { Id = "c", Part = MessagePart.ArrivalDate, Test = MatchTest.Between, From = from, Until = until }).Held.ShouldBe(held);

    [Theory]
    [InlineData("Europe/London", "12:00", "12:01", true)]
    [InlineData("Asia/Tokyo", "21:00", "21:30", true)]
    [InlineData("Asia/Tokyo", "12:00", "12:01", false)]
    [InlineData("Europe/London", "22:00", "06:00", false)]
    [InlineData("Asia/Tokyo", "20:00", "06:00", true)]
    public void Times_go_by_the_clocks_of_the_desk(string zone, string from, string until, bool held)
    {
        var context = Context with { Desk = ActiveHours.Read("09:00", "17:00", [1, 2, 3, 4, 5], zone)! };
        Decide(new Condition { Id = "c", Part = MessagePart.Hour, Test = MatchTest.Between, From = from, Until = until }, context: context).Held.ShouldBe(held);
        Decide(new Condition { Id = "c", Part = MessagePart.BusinessHours, Test = MatchTest.Present }, context: context).Held.ShouldBe(zone == "Europe/London");
        Decide(new Condition { Id = "c", Part = MessagePart.BusinessHours, Test = MatchTest.Absent }, context: context).Held.ShouldBe(zone != "Europe/London");
    }

    [Theory]
    [InlineData("Wednesday", true)]
    [InlineData("wednesday", true)]
    [InlineData("Sunday", false)]
    public void The_day_of_the_week_is_one_of_some(string day, bool held) => Decide(Made.Text("c", MessagePart.Weekday, MatchTest.OneOf, "Monday", day)).Held.ShouldBe(held);

    [Fact]
    public void The_place_in_a_conversation_comes_from_the_context()
    {
        var context = Context with { Conversation = new ConversationPlace(3, AnswersOurs: true), HasTicket = true };
        Decide(new Condition { Id = "c", Part = MessagePart.ConversationNumber, Test = MatchTest.Between, Least = 3, Most = 3 }, context: context).Held.ShouldBeTrue();
        Decide(new Condition { Id = "c", Part = MessagePart.AnswersOurs, Test = MatchTest.Present }, context: context).Held.ShouldBeTrue();
        Decide(new Condition { Id = "c", Part = MessagePart.AnswersOurs, Test = MatchTest.Absent }).Held.ShouldBeTrue();
        Decide(new Condition { Id = "c", Part = MessagePart.HasTicket, Test = MatchTest.Present }, context: context).Held.ShouldBeTrue();
    }

    [Fact]
    public void A_message_belongs_to_the_ticket_it_names_or_that_of_its_conversation()
    {
        var named = Made.Message("About SH-1042");
        (Made.Context with { KnownTickets = ["SH-1042"] }).For(named).HasTicket.ShouldBeTrue();
        Made.Context.For(named).HasTicket.ShouldBeFalse();
        (Made.Context with { TicketOfConversation = ImmutableDictionary<long, string>.Empty.Add(7, "SH-1") }).For(Made.Message()).HasTicket.ShouldBeTrue();
    }

    [Fact]
    public void Only_a_trusted_host_is_believed_about_the_sender()
    {
        static AuthenticationResult Result(string server, string result) => new(server, "dmarc", result, ImmutableDictionary<string, string>.Empty, 0, true);
        var condition = Made.Text("c", MessagePart.Authentication, MatchTest.OneOf, "pass") with { Name = "dmarc" };
        var trusting = Context with { TrustedServers = ["mx.saltmarrow.example"] };
        Decide(condition, Mail with { Authentication = [Result("mx.saltmarrow.example", "pass")] }, trusting).Held.ShouldBeTrue();
        Decide(condition, Mail with { Authentication = [Result("evil.example", "pass")] }, trusting).Held.ShouldBeFalse();
        Decide(condition with { Values = ["none"] }, Mail with { Authentication = [Result("evil.example", "pass")] }, trusting).Held.ShouldBeTrue();
        Decide(condition with { Values = ["fail"] }, Mail with { Authentication = [Result("mx.saltmarrow.example", "fail")] }, trusting).Held.ShouldBeTrue();
    }

    [Fact]
    public void The_category_is_known_where_it_was_decided()
    {
        var condition = Made.Text("c", MessagePart.Category, MatchTest.OneOf, "k1", "k2");
        Decide(condition, context: Context with { CategoryId = "k2" }).Held.ShouldBeTrue();
        Decide(condition, context: Context with { CategoryId = "k3" }).Held.ShouldBeFalse();
        Decide(condition).Held.ShouldBeFalse();
    }

    [Fact]
    public void A_number_in_a_fact_is_compared_as_a_number()
    {
        var condition = new Condition { Id = "c", Part = MessagePart.Fact, Name = "subject", Test = MatchTest.Between, Least = 5 };
        Decide(condition, Made.Message("12.5")).Held.ShouldBeTrue();
        Decide(condition, Made.Message("4")).Held.ShouldBeFalse();
        Decide(condition, Made.Message("twelve")).Held.ShouldBeFalse();
    }

    [Fact]
    public void A_group_counts_as_one_condition_and_tells_which_of_its_own_failed()
    {
        static Condition That(bool held, string id) => Made.Text(id, MessagePart.Subject, MatchTest.Contains, held ? "berth" : "nowhere");
        static Condition Group(ConditionSet set) => new() { Id = "g", Part = MessagePart.Group, Test = MatchTest.Present, Set = set };
        var failing = new ConditionSet { All = [That(true, "a"), Group(new ConditionSet { All = [That(true, "b"), That(false, "c")] })] };
        var result = Matcher.Decide(failing, Mail, Context);
        result.Holds.ShouldBeFalse();
        result.Failures.ShouldBe(1);
        result.Decisive.ShouldHaveSingleItem().Condition.Id.ShouldBe("c");
        result.Leaves().Select(r => r.Condition.Id).ShouldBe(["a", "b", "c"]);

        // Of two alternatives the one that came nearest is told: one condition short, not two.
        var nearest = Matcher.Decide(new ConditionSet { Any = [Group(new ConditionSet { All = [That(false, "d"), That(false, "e")] }), Group(failing)] }, Mail, Context);
        nearest.Failures.ShouldBe(1);
        nearest.Decisive.ShouldHaveSingleItem().Condition.Id.ShouldBe("c");
        Matcher.Decide(new ConditionSet { None = [Group(failing)] }, Mail, Context).Holds.ShouldBeTrue();
        Matcher.Decide(new ConditionSet { All = [Group(ConditionSet.Empty)] }, Mail, Context).Holds.ShouldBeFalse();
    }

    [Fact]
    public void A_saved_condition_holds_when_its_conditions_do_and_one_that_is_gone_never()
    {
        var saved = new SavedCondition(4, "Ours", new ConditionSet { Any = [Made.Text("s", MessagePart.SenderDomain, MatchTest.Is, "tern.example")] });
        var context = Context with { SavedConditions = new Dictionary<long, SavedCondition> { [4] = saved } };
        var condition = new Condition { Id = "c", Part = MessagePart.Saved, Test = MatchTest.Present, SavedId = 4 };
        Decide(condition, context: context).Evidence.ShouldHaveSingleItem().Text.ShouldBe("tern.example");
        Decide(condition with { SavedId = 5 }, context: context).Held.ShouldBeFalse();
    }

    [Theory]
    [InlineData("Ship 🚢 ahoy", "🚢", true)]
    [InlineData("مرحبا بكم", "بكم", true)]
    [InlineData("שלום עולם", "עולם", true)]
    [InlineData("caf\u00e9", "cafe\u0301", true)]
    public void Emoji_right_to_left_text_and_composed_letters_are_found(string subject, string value, bool held) =>
        Decide(Made.Text("c", MessagePart.Subject, MatchTest.Contains, value.Normalize()), Made.Message(CleanText.Line(subject))).Held.ShouldBe(held);

    [Fact]
    public void Every_part_offers_a_test()
    {
        foreach (var part in Enum.GetValues<MessagePart>())
        {
            PartTests.Of(part).ShouldNotBeEmpty();
        }
    }
}
