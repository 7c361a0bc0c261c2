using PostTide.Core.Matching;
using PostTide.Core.Workflows;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Workflows;

public sealed class ConditionCheckTests
{
    private static string? Problem(Condition condition, ConditionUse use = ConditionUse.Sheet, PlanContext? context = null)
    {
        var problems = ConditionCheck.Check(new ConditionSet { All = [condition with { Id = "c1" }] }, context ?? Made.Context, use);
        problems.ShouldAllBe(p => p.At == "c1");
        return problems.Length == 0 ? null : problems[0].Text;
    }

    [Theory]
    [InlineData("(a", "cannot be read at character")]
    [InlineData("a**", "cannot be read at character")]
    [InlineData(@"(a)\1", "read in one pass")]
    [InlineData("(?=a)b", "read in one pass")]
    [InlineData("(?<!a)b", "read in one pass")]
    [InlineData("((a{100}){100}){100}", "repeats a part more than")]
    [InlineData("(a+)+$", null)]
    [InlineData(@"\b[A-Z]{2}-\d{3,6}\b", null)]
    public void A_regular_expression_that_is_invalid_or_not_linear_is_told(string pattern, string? says)
    {
        var problem = Problem(Made.Text("c", MessagePart.Subject, MatchTest.Regex, pattern));
        (problem is null).ShouldBe(says is null);
        problem?.ShouldContain(says!);
    }

    [Fact]
    public void An_expression_that_would_take_for_ever_elsewhere_takes_no_time()
    {
        var message = Made.Message(new string('a', 1_900) + "b");
        Matcher.Decide(Made.Text("c", MessagePart.Subject, MatchTest.Regex, "^(a+)+$"), message, MatchContext.Empty).Held.ShouldBeFalse();
    }

    [Theory]
    [InlineData(null)]
    [InlineData("")]
    [InlineData("X Priority")]
    [InlineData("X-Priority:")]
    public void A_header_field_needs_a_name(string? name) =>
        Problem(Made.Text("c", MessagePart.Header, MatchTest.Contains, "x") with { Name = name })!.ShouldContain("A header field has a name");

    [Fact]
    public void Unfinished_conditions_say_what_is_missing()
    {
        Problem(Made.Text("c", MessagePart.Subject, MatchTest.Contains))!.ShouldContain("compared with nothing yet");
        Problem(Made.Text("c", MessagePart.Subject, MatchTest.Word, "—"))!.ShouldContain("neither a letter nor a digit");
        Problem(Made.Words("c") with { KeywordListId = null }).ShouldBe("A condition needs a keyword list.");
        Problem(Made.Words("c") with { KeywordListId = 99 }).ShouldBe("A condition names a keyword list that is gone.");
        Problem(Made.Words("c"), context: Made.Context with { KeywordLists = new Dictionary<long, KeywordList> { [1] = new(1, "Empty", []) } })!.ShouldContain("is empty, so its condition never holds");
        Problem(new Condition { Part = MessagePart.Size, Test = MatchTest.Between })!.ShouldContain("Neither a smallest nor a largest");
        Problem(new Condition { Part = MessagePart.Size, Test = MatchTest.Between, Least = 5, Most = 4 })!.ShouldContain("larger than the largest");
        Problem(new Condition { Part = MessagePart.ArrivalDate, Test = MatchTest.Between })!.ShouldContain("Neither a first nor a last day");
        Problem(new Condition { Part = MessagePart.ArrivalDate, Test = MatchTest.Between, From = "25.11.2026" })!.ShouldContain("ISO 8601");
        Problem(new Condition { Part = MessagePart.ArrivalDate, Test = MatchTest.Between, From = "2026-11-26", Until = "2026-11-25" })!.ShouldContain("comes after the last");
        Problem(new Condition { Part = MessagePart.Hour, Test = MatchTest.Between, From = "8am" })!.ShouldContain("written 08:30");
        Problem(Made.Text("c", MessagePart.Weekday, MatchTest.OneOf, "Someday"))!.ShouldContain("Monday to Sunday");
        Problem(Made.Text("c", MessagePart.Fact, MatchTest.Is, "x"))!.ShouldContain("not said which one");
        Problem(Made.Text("c", MessagePart.WordAtPlace, MatchTest.Is, "x") with { Place = new WordPlace(0, 1) })!.ShouldContain("counted from 1");
        Problem(new Condition { Part = MessagePart.Group, Test = MatchTest.Present })!.ShouldContain("no conditions in it yet");
        Problem(new Condition { Part = MessagePart.Saved, Test = MatchTest.Present })!.ShouldContain("No saved condition is chosen");
        Problem(new Condition { Part = MessagePart.Saved, Test = MatchTest.Present, SavedId = 9 })!.ShouldContain("that is gone");
        Problem(Made.Text("c", MessagePart.Size, MatchTest.Contains, "x"))!.ShouldContain("cannot be compared that way");
        Problem(Made.Text("c", MessagePart.Subject, MatchTest.Contains, new string('x', 1_001)))!.ShouldContain("longer than");
    }

    [Fact]
    public void The_category_is_for_lines_and_saved_conditions_do_not_use_each_other()
    {
        var category = Made.Text("c", MessagePart.Category, MatchTest.OneOf, "k1");
        Problem(category)!.ShouldContain("known to the lines only");
        Problem(category, ConditionUse.Line).ShouldBeNull();
        Problem(new Condition { Part = MessagePart.Saved, Test = MatchTest.Present, SavedId = 1 }, ConditionUse.Saved)!.ShouldContain("cannot use another one");
    }

    [Fact]
    public void Nesting_has_an_end()
    {
        var deep = Made.Text("c1", MessagePart.Subject, MatchTest.Contains, "x");
        for (var i = 0; i < 7; i++)
        {
            deep = new Condition { Id = "c1", Part = MessagePart.Group, Test = MatchTest.Present, Set = new ConditionSet { All = [deep] } };
        }

        Problem(deep)!.ShouldContain("nested more than 6 deep");
    }
}
