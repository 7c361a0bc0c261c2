using CsCheck;
using PostTide.Core.Matching;
using PostTide.Core.Messages;
using PostTide.Core.Text;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Matching;

/// <summary>What must be so for every condition, whatever it looks at, however it compares, and whatever mail comes.</summary>
public sealed class MatchingPropertyTests
{
    private static readonly MatchContext Context = new()
    {
        KeywordLists = new Dictionary<long, KeywordList> { [1] = new(1, "list", ["be", "berth", "ü 🚢", "re be"]) },
        SavedConditions = new Dictionary<long, SavedCondition> { [1] = new(1, "saved", new ConditionSet { All = [Made.Text("s", MessagePart.Subject, MatchTest.Contains, "e")] }) },
        Now = Made.Noon,
    };

    private static readonly Gen<string> Text = Gen.String[Gen.Char["berth\nXü🚢+@. "], 0, 40];

    private static readonly Gen<PreparedMessage> Messages = Gen.Select(Text, Text, Text, Gen.Int[0, 3], Gen.Int[0, 60_000]).Select((subject, body, value, files, size) =>
        Made.Message(CleanText.Line(subject), CleanText.Body(body), "e@" + CleanText.Line(value).Replace(" ", "", StringComparison.Ordinal)) with
        {
            OriginallyTo = ["b+" + CleanText.Line(value)],
            Header = [new HeaderField("X-Be", CleanText.Line(value)), new HeaderField("List-Id", CleanText.Line(subject))],
            Attachments = [.. Enumerable.Range(0, files).Select(i => new Attachment(i, CleanText.Line(value) + i, "x/y", size, "text/plain"))],
            Automatic = files == 1 ? [new AutomaticMark(AutomaticKind.Bulk, "Precedence: bulk")] : [],
            Size = size,
            SentAt = Made.Noon.AddHours(-size / 100d),
        });

    private static readonly Gen<Condition> Leaves =
        from part in Made.OneOf([.. Enum.GetValues<MessagePart>().Where(p => p != MessagePart.Group)])
        from test in Gen.Int[0, 20].Select(i => PartTests.Of(part)[i % PartTests.Of(part).Length])
        from value in Made.OneOf("b", "berth", "*e*", "?", "", "ü", "Wednesday", "text/plain", "none", "🚢")
        from number in Gen.Int[0, 3]
        from flag in Gen.Bool
        select new Condition
        {
            Id = "c",
            Part = part,
            Test = test,
            Values = [value],
            KeywordListId = 1,
            SavedId = 1,
            Name = part switch { MessagePart.Fact => "subject", MessagePart.Authentication => "spf", _ => "X-BE" },
            WholeBody = flag,
            SameCase = flag,
            Place = new WordPlace(number - 1 == 0 ? 1 : number - 1, flag ? 1 : null),
            Least = number == 0 ? null : number * 10,
            Most = number == 3 ? 40_000 : null,
            From = part is MessagePart.Hour ? "08:00" : "2026-11-01",
            Until = part is MessagePart.Hour ? "18:00" : null,
        };

    private static readonly Gen<Condition> Conditions = Gen.Select(Leaves, Leaves, Gen.Int[0, 4]).Select((a, b, kind) => kind switch
    {
        0 => new Condition { Id = "g", Part = MessagePart.Group, Test = MatchTest.Present, Set = new ConditionSet { Any = [a, b] } },
        1 => new Condition { Id = "g", Part = MessagePart.Group, Test = MatchTest.Present, Set = new ConditionSet { All = [a], None = [b] } },
        _ => a,
    });

    private static readonly Gen<ConditionSet> Sets = Gen.Select(Conditions.Array[0, 3], Conditions.Array[0, 3], Conditions.Array[0, 2])
        .Select((all, any, none) => new ConditionSet { All = [.. all], Any = [.. any], None = [.. none] });

    private static bool Holds(ConditionSet set, PreparedMessage message) => Matcher.Decide(set, message, Context).Holds;

    [Fact]
    public void Forbidding_is_the_opposite_of_demanding() => Gen.Select(Conditions, Messages).Sample((condition, message) =>
        Holds(new ConditionSet { None = [condition] }, message).ShouldBe(!Holds(new ConditionSet { All = [condition] }, message)));

    [Fact]
    public void Order_makes_no_difference() => Gen.Select(Sets, Messages).Sample((set, message) =>
    {
        var turned = new ConditionSet { All = [.. set.All.Reverse()], Any = [.. set.Any.Reverse()], None = [.. set.None.Reverse()] };
        Holds(turned, message).ShouldBe(Holds(set, message));
    });

    [Fact]
    public void A_set_that_does_not_hold_names_what_decided_and_how_much_failed() => Gen.Select(Sets, Messages).Sample((set, message) =>
    {
        var result = Matcher.Decide(set, message, Context);
        result.Holds.ShouldBe(result.Failures == 0);
        result.Decisive.IsEmpty.ShouldBe(result.Holds);
    });

    [Fact]
    public void Evidence_lies_in_the_text_and_reading_it_again_confirms_the_condition() => Gen.Select(Leaves, Messages).Sample((condition, message) =>
    {
        var result = Matcher.Decide(condition, message, Context);
        foreach (var evidence in result.Evidence)
        {
            var text = message.TextAt(evidence.Place, evidence.Index);
            text.Substring(evidence.Start, evidence.Length).ShouldBe(evidence.Text);
            if (condition.Test == MatchTest.Contains && condition.Part != MessagePart.AttachmentType)
            {
                evidence.Text.ShouldBe(condition.Values[0], condition.SameCase ? StringCompareShould.IgnoreLineEndings : StringCompareShould.IgnoreCase);
            }
        }

        if (!result.Held)
        {
            result.Evidence.ShouldBeEmpty();
        }
    });

    [Fact]
    public void Present_and_absent_are_opposites() => Gen.Select(Leaves, Messages).Sample((condition, message) =>
    {
        if (PartTests.Of(condition.Part).Contains(MatchTest.Absent))
        {
            Matcher.Decide(condition with { Test = MatchTest.Absent }, message, Context).Held
                .ShouldBe(!Matcher.Decide(condition with { Test = MatchTest.Present }, message, Context).Held);
        }
    });

    [Fact]
    public void What_follows_by_logic_is_so_on_every_message() => Gen.Select(Sets, Sets, Messages).Sample((from, to, message) =>
    {
        if (Holds(from, message))
        {
            Implication.IsImpossible(from, Context.SavedConditions).ShouldBeFalse();
            if (Implication.Follows(from, to, Context.SavedConditions))
            {
                Holds(to, message).ShouldBeTrue();
            }

            if (Implication.AreDisjoint(from, to, Context.SavedConditions))
            {
                Holds(to, message).ShouldBeFalse();
            }
        }
    }, iter: 20_000);

    [Fact]
    public void A_set_follows_from_itself_and_from_itself_with_more() => Gen.Select(Sets, Conditions).Sample((set, more) =>
    {
        Implication.Follows(set, set, Context.SavedConditions).ShouldBeTrue();
        Implication.Follows(set with { All = set.All.Add(more) }, set, Context.SavedConditions).ShouldBeTrue();
    });

    [Fact]
    public void A_keyword_list_finds_what_looking_for_each_word_finds() => Gen.Select(Text, Gen.Bool, Gen.Bool).Sample((text, sameCase, sameAccents) =>
    {
        var cleaned = CleanText.Body(text);
        string[] words = ["be", "Berth", "u", "🚢", "re b"];
        var options = new KeywordOptions { SameCase = sameCase, SameAccents = sameAccents };
        var one = new KeywordList(1, "all", words, options).FindIn(new SearchedText(cleaned), 0, cleaned.Length).Count > 0;
        one.ShouldBe(words.Any(w => new KeywordList(1, "one", [w], options).FindIn(new SearchedText(cleaned), 0, cleaned.Length).Count > 0));
    });

    [Fact]
    public void A_word_found_whole_is_also_found_as_a_part() => Text.Sample(text =>
    {
        var cleaned = CleanText.Body(text);
        string[] words = ["be", "berth", "e"];
        if (new KeywordList(1, "whole", words).FindIn(new SearchedText(cleaned), 0, cleaned.Length).Count > 0)
        {
            new KeywordList(1, "parts", words, new KeywordOptions { WholeWords = false }).FindIn(new SearchedText(cleaned), 0, cleaned.Length).ShouldNotBeEmpty();
        }
    });
}
