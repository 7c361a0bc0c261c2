using PostTide.Core.Matching;
using PostTide.Core.Messages;
using PostTide.Core.Workflows;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Workflows;

public sealed class ConditionWordsTests
{
    private static string Say(Condition condition) => ConditionWords.Say(condition, Made.Context);

    [Theory]
    [InlineData(MessagePart.Subject, MatchTest.Contains, "subject contains “a” or “b”")]
    [InlineData(MessagePart.Sender, MatchTest.Is, "sender is “a” or “b”")]
    [InlineData(MessagePart.AttachmentName, MatchTest.Matches, "an attachment’s name fits “a” or “b”")]
    public void A_condition_is_said_as_a_clause(MessagePart part, MatchTest test, string words) => Say(Made.Text("c", part, test, "a", "b")).ShouldBe(words);

    [Fact]
    public void Lists_are_said_by_name()
    {
        Say(Made.Words("c")).ShouldBe("subject or body has any word in “Berthing words”");
        Say(Made.Words("c") with { KeywordListId = 99 }).ShouldBe("subject or body has any word in a keyword list that is gone");
    }

    [Fact]
    public void Presence_is_said_without_a_comparison()
    {
        var present = new Condition { Id = "c", Part = MessagePart.Attachment, Test = MatchTest.Present };
        Say(present).ShouldBe("there is an attachment");
        Say(present with { Part = MessagePart.Automatic }).ShouldBe("it is automatic mail");
        Say(present with { Part = MessagePart.Automatic, Kinds = [AutomaticKind.Bounce, AutomaticKind.Bulk] }).ShouldBe("it is a bounce or bulk mail");
    }

    [Fact]
    public void Every_part_and_kind_has_words_of_its_own()
    {
        Enum.GetValues<MessagePart>().Select(ConditionWords.Say).ShouldBeUnique();
        Enum.GetValues<AutomaticKind>().Select(ConditionWords.Say).ShouldBeUnique();
    }
}
