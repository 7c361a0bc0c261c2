using PostTide.Core.Messages;

namespace PostTide.Core.Matching;

/// <summary>Says conditions in plain words, the same on the sheet, in reasons and in comparisons of editions.</summary>
public static class ConditionWords
{
    /// <summary>A condition as a clause, such as <c>subject or body has any word in “Berthing words”</c>.</summary>
    public static string Say(Condition condition, IReadOnlyDictionary<long, KeywordList> keywordLists)
    {
        var part = Say(condition.Part);
        return condition.Test switch
        {
            MatchTest.HasAnyWordIn => $"{part} has any word in {ListName(condition, keywordLists)}",
            MatchTest.Contains => $"{part} contains {Values(condition)}",
            MatchTest.Is => $"{part} is {Values(condition)}",
            MatchTest.Matches => $"{part} fits {Values(condition)}",
            _ when condition.Part == MessagePart.Attachment => "there is an attachment",
            _ => condition.Kinds.IsEmpty ? "it is automatic mail" : $"it is {string.Join(" or ", condition.Kinds.Select(Say))}",
        };
    }

    public static string Say(MessagePart part) => part switch
    {
        MessagePart.SubjectOrBody => "subject or body",
        MessagePart.AttachmentName => "an attachment’s name",
        MessagePart.Recipient => "a recipient",
        _ => part.ToString().ToLowerInvariant(),
    };

    public static string Say(AutomaticKind kind) => kind switch
    {
        AutomaticKind.Bounce => "a bounce",
        AutomaticKind.AbsenceNotice => "an absence notice",
        AutomaticKind.MailingList => "mailing-list mail",
        AutomaticKind.Bulk => "bulk mail",
        _ => "generated mail",
    };

    private static string Values(Condition condition) => condition.Values.IsEmpty
        ? "(nothing yet)"
        : string.Join(" or ", condition.Values.Select(v => $"“{v}”"));

    private static string ListName(Condition condition, IReadOnlyDictionary<long, KeywordList> keywordLists) =>
        condition.KeywordListId is { } id && keywordLists.TryGetValue(id, out var list) ? $"“{list.Name}”" : "a keyword list that is gone";
}
