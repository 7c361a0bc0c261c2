using System.Collections.Immutable;

namespace PostTide.Core.Matching;

/// <summary>Which tests go with which part.</summary>
public static class PartTests
{
    private static readonly ImmutableArray<MatchTest> OnText =
    [
        MatchTest.Contains, MatchTest.Is, MatchTest.Begins, MatchTest.Ends, MatchTest.Word, MatchTest.Matches, MatchTest.Regex, MatchTest.HasAnyWordIn,
    ];

    private static readonly ImmutableArray<MatchTest> OnOptionalText = [.. OnText, MatchTest.Present, MatchTest.Absent];

    private static readonly ImmutableArray<ImmutableArray<MatchTest>> Table = [.. Enum.GetValues<MessagePart>().Select(Make)];
    private static readonly ImmutableArray<bool> Texts = [.. Table.Select(t => t.Contains(MatchTest.Contains))];

    /// <summary>The tests of a part, the usual one first.</summary>
    public static ImmutableArray<MatchTest> Of(MessagePart part) => Table[(int)part];

    /// <summary>Whether the part is a text, compared by words.</summary>
    public static bool IsText(MessagePart part) => Texts[(int)part];

    /// <summary>Whether the test compares with <see cref="Condition.Values"/> as text.</summary>
    public static bool UsesValues(MatchTest test) => test is MatchTest.Contains or MatchTest.Is or MatchTest.Begins or MatchTest.Ends
        or MatchTest.Word or MatchTest.Matches or MatchTest.Regex or MatchTest.OneOf;

    private static ImmutableArray<MatchTest> Make(MessagePart part) => part switch
    {
        MessagePart.Attachment or MessagePart.Automatic or MessagePart.AnswersOurs or MessagePart.HasTicket or MessagePart.BusinessHours =>
            [MatchTest.Present, MatchTest.Absent],
        MessagePart.AttachmentCount or MessagePart.AttachmentSize or MessagePart.Size or MessagePart.Age or MessagePart.ConversationNumber
            or MessagePart.ArrivalDate or MessagePart.SentDate or MessagePart.Hour => [MatchTest.Between],
        MessagePart.Weekday or MessagePart.Authentication or MessagePart.Category => [MatchTest.OneOf],
        MessagePart.Saved or MessagePart.Group => [MatchTest.Present],
        MessagePart.Fact => [.. OnOptionalText, MatchTest.Between],
        MessagePart.AttachmentType => [MatchTest.Is, MatchTest.Begins, MatchTest.Contains, MatchTest.Matches],
        MessagePart.Header or MessagePart.Tag or MessagePart.ListId => OnOptionalText,
        _ => OnText,
    };
}
