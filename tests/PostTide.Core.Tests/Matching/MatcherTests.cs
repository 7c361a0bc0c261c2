using System.Collections.Immutable;
using CsCheck;
using PostTide.Core.Matching;
using PostTide.Core.Messages;
using PostTide.Core.Text;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Matching;

public sealed class MatcherTests
{
    private static readonly MatchContext Context = Made.Context.For(Made.Message());

    private static ConditionResult Decide(Condition condition, PreparedMessage? message = null) => Matcher.Decide(condition, message ?? Made.Message(), Context);

    [Theory]
    [InlineData(MessagePart.Subject, MatchTest.Contains, "BERTH", true)]
    [InlineData(MessagePart.Subject, MatchTest.Is, "berth for tern", true)]
    [InlineData(MessagePart.Subject, MatchTest.Is, "berth", false)]
    [InlineData(MessagePart.Subject, MatchTest.Matches, "*tern", true)]
    [InlineData(MessagePart.Sender, MatchTest.Is, "maud@tern.example", true)]
    [InlineData(MessagePart.Sender, MatchTest.Is, "Maud Ashgrove", true)]
    [InlineData(MessagePart.Sender, MatchTest.Matches, "*@tern.example", true)]
    [InlineData(MessagePart.Recipient, MatchTest.Contains, "berths@", true)]
    [InlineData(MessagePart.Body, MatchTest.Contains, "tern", false)]
    [InlineData(MessagePart.SubjectOrBody, MatchTest.Contains, "tern", true)]
    public void Compares_the_part_it_names(MessagePart part, MatchTest test, string value, bool held) =>
        Decide(Made.Text("c", part, test, value)).Held.ShouldBe(held);

    [Fact]
    public void The_body_is_what_is_new_in_it() =>
        Decide(Made.Text("c", MessagePart.Body, MatchTest.Contains, "secret"), Made.Message(body: "New.\n\nOn Monday A wrote:\n> secret\n")).Held.ShouldBeFalse();

    [Fact]
    public void An_automatic_kind_counts_only_if_it_is_among_those_named()
    {
        var message = Made.Message() with { Automatic = [new AutomaticMark(AutomaticKind.Bulk, "Precedence: bulk")] };
        var condition = new Condition { Id = "c", Part = MessagePart.Automatic, Test = MatchTest.Present };
        Decide(condition, message).Held.ShouldBeTrue();
        Decide(condition with { Kinds = [AutomaticKind.Bounce] }, message).Held.ShouldBeFalse();
        Decide(condition).Held.ShouldBeFalse();
    }

    [Fact]
    public void A_list_that_is_gone_or_empty_never_holds()
    {
        Decide(Made.Words("c") with { KeywordListId = 99 }).Held.ShouldBeFalse();
        Decide(Made.Words("c") with { KeywordListId = null }).Held.ShouldBeFalse();
    }

    [Fact]
    public void A_single_line_of_two_megabytes_is_decided()
    {
        var message = Made.Message(body: new string('x', 2_000_000) + " berth");
        Decide(Made.Words("c", MessagePart.Body), message).Held.ShouldBeTrue();
    }

    [Theory]
    [InlineData(true, true, false, true)]
    [InlineData(false, true, false, false)]
    [InlineData(true, false, false, false)]
    [InlineData(true, true, true, false)]
    public void A_set_holds_when_all_and_any_hold_and_none_does(bool all, bool any, bool none, bool holds)
    {
        static Condition That(bool held, string id) => Made.Text(id, MessagePart.Subject, MatchTest.Contains, held ? "berth" : "nowhere");
        var set = new ConditionSet { All = [That(all, "a")], Any = [That(any, "b"), That(false, "c")], None = [That(none, "d")] };
        var result = Matcher.Decide(set, Made.Message(), Context);
        result.Holds.ShouldBe(holds);
        result.Failures.ShouldBe(new[] { !all, !any, none }.Count(x => x));
    }

    private static readonly Gen<string> Text = Gen.String[Gen.Char["berth mooing\nXü🚢"], 0, 60];

    private static readonly Gen<Condition> Conditions = Gen.Select(
        Made.OneOf(MessagePart.Subject, MessagePart.Body, MessagePart.SubjectOrBody, MessagePart.Sender, MessagePart.Recipient),
        Made.OneOf(MatchTest.Contains, MatchTest.Is, MatchTest.Matches, MatchTest.HasAnyWordIn),
        Made.OneOf("b", "berth", "*e*", "o?", "", "ü"),
        (part, test, value) => new Condition { Id = $"{part}{test}{value}", Part = part, Test = test, Values = [value], KeywordListId = 1 });

    [Fact]
    public void Evidence_lies_in_the_text_it_names_and_is_read_there_again() => Gen.Select(Conditions, Text, Text).Sample((condition, subject, body) =>
    {
        var message = Made.Message(CleanText.Line(subject), CleanText.Body(body));
        foreach (var evidence in Decide(condition, message).Evidence)
        {
            var text = evidence.Place switch
            {
                EvidencePlace.Subject => message.Subject,
                EvidencePlace.Body => message.Body.Text,
                EvidencePlace.Sender => message.From.Shown,
                _ => message.Recipients()[evidence.Index].Shown,
            };
            text.Substring(evidence.Start, evidence.Length).ShouldBe(evidence.Text);
        }
    });

    [Fact]
    public void Forbidding_a_condition_is_the_opposite_of_demanding_it() => Gen.Select(Conditions, Text).Sample((condition, subject) =>
    {
        var message = Made.Message(CleanText.Line(subject));
        Matcher.Decide(new ConditionSet { None = [condition] }, message, Context).Holds
            .ShouldBe(!Matcher.Decide(new ConditionSet { All = [condition] }, message, Context).Holds);
    });

    [Fact]
    public void The_order_of_conditions_makes_no_difference() => Gen.Select(Conditions.Array[1, 5], Text).Sample((conditions, subject) =>
    {
        var message = Made.Message(CleanText.Line(subject));
        var turned = conditions.Reverse().ToImmutableArray();
        Matcher.Decide(new ConditionSet { All = [.. conditions] }, message, Context).Holds.ShouldBe(Matcher.Decide(new ConditionSet { All = turned }, message, Context).Holds);
        Matcher.Decide(new ConditionSet { Any = [.. conditions] }, message, Context).Holds.ShouldBe(Matcher.Decide(new ConditionSet { Any = turned }, message, Context).Holds);
    });
}
