using System.Runtime.CompilerServices;
using PostTide.Core.Matching;
using PostTide.Core.Messages;

namespace PostTide.Core.Workflows;

/// <summary>Says conditions in plain words, the same on the sheet, in reasons and in comparisons of editions.</summary>
public static class ConditionWords
{
    private static readonly ConditionalWeakTable<Condition, Said> Known = [];

    /// <summary>A condition as a clause, such as <c>subject or body has any word in “Berthing words”</c>.</summary>
    public static string Say(Condition condition, PlanContext names) => Find(condition, names).Text;

    /// <summary>That a condition did not hold, as a reason.</summary>
    public static Reason NotSo(Condition condition, PlanContext names) => Find(condition, names).NotSo;

    /// <summary>A rehearsal says the same conditions thousands of times: they are put into words once.</summary>
    private static Said Find(Condition condition, PlanContext names)
    {
        if (Known.TryGetValue(condition, out var known) && ReferenceEquals(known.Lists, names.KeywordLists) && ReferenceEquals(known.Saved, names.SavedConditions))
        {
            return known;
        }

        var text = Make(condition, names);
        var said = new Said(text, new Reason($"not so: {text}", []), names.KeywordLists, names.SavedConditions);
        Known.AddOrUpdate(condition, said);
        return said;
    }

    private static string Make(Condition condition, PlanContext names) => condition.Part switch
    {
        MessagePart.Attachment => condition.Test == MatchTest.Absent ? "there is no attachment" : "there is an attachment",
        MessagePart.Automatic => SayAutomatic(condition),
        MessagePart.AnswersOurs => condition.Test == MatchTest.Absent ? "it answers nothing of ours" : "it answers a message of ours",
        MessagePart.HasTicket => condition.Test == MatchTest.Absent ? "it belongs to no ticket" : "it belongs to a ticket",
        MessagePart.BusinessHours => condition.Test == MatchTest.Absent ? "it arrived outside business hours" : "it arrived within business hours",
        MessagePart.AttachmentCount => $"the number of attachments is {Range(condition, Amounts.Number)}",
        MessagePart.AttachmentSize => $"the size of an attachment is {Range(condition, Amounts.Bytes)}",
        MessagePart.Size => $"the size is {Range(condition, Amounts.Bytes)}",
        MessagePart.Age => $"it was sent {Range(condition, Amounts.Days)} before",
        MessagePart.ConversationNumber => $"its number in the conversation is {Range(condition, Amounts.Number)}",
        MessagePart.ArrivalDate => $"it arrived {Span(condition, "on")}",
        MessagePart.SentDate => $"it was sent {Span(condition, "on")}",
        MessagePart.Hour => $"it arrived {Span(condition, "at")}",
        MessagePart.Weekday => $"it arrived on {Either(condition.Values)}",
        MessagePart.Authentication => $"{condition.Name} came to {Either(condition.Values)}",
        MessagePart.Category => $"the category is {Either(condition.Values)}",
        MessagePart.Saved => condition.SavedId is { } id && names.SavedConditions.TryGetValue(id, out var saved) ? $"“{saved.Name}” holds" : "a saved condition that is gone holds",
        MessagePart.Group => SayGroup(condition.Set ?? ConditionSet.Empty, names),
        _ => $"{SaySubject(condition)} {SayTest(condition, names)}",
    };

    public static string Say(MessagePart part) => part switch
    {
        MessagePart.SenderAddress => "the sender’s address",
        MessagePart.SenderDomain => "the sender’s domain",
        MessagePart.SenderName => "the sender’s name",
        MessagePart.OriginallyTo => "the address first written to",
        MessagePart.Recipient => "a recipient",
        MessagePart.Tag => "the tag of the address",
        MessagePart.BaseSubject => "subject without reply marks",
        MessagePart.SubjectOrBody => "subject or body",
        MessagePart.Header => "a header field",
        MessagePart.WordAtPlace => "the word at a place",
        MessagePart.AttachmentName => "an attachment’s name",
        MessagePart.AttachmentType => "an attachment’s type",
        MessagePart.ListId => "the mailing list",
        MessagePart.AttachmentCount => "the number of attachments",
        MessagePart.AttachmentSize => "an attachment’s size",
        MessagePart.ConversationNumber => "its number in the conversation",
        MessagePart.ArrivalDate => "the day it arrived",
        MessagePart.SentDate => "the day it was sent",
        MessagePart.Hour => "the time it arrived",
        MessagePart.BusinessHours => "business hours",
        MessagePart.AnswersOurs => "an answer to ours",
        MessagePart.HasTicket => "a ticket",
        MessagePart.Saved => "a saved condition",
        MessagePart.Group => "a group of conditions",
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

    private static string SayAutomatic(Condition condition) => (condition.Test, condition.Kinds.IsEmpty) switch
    {
        (MatchTest.Absent, true) => "it is not automatic mail",
        (MatchTest.Absent, false) => $"it is not {string.Join(" or ", condition.Kinds.Select(Say))}",
        (_, true) => "it is automatic mail",
        _ => $"it is {string.Join(" or ", condition.Kinds.Select(Say))}",
    };

    private static string SaySubject(Condition condition)
    {
        var subject = condition.Part switch
        {
            MessagePart.Header => $"the header field {(string.IsNullOrWhiteSpace(condition.Name) ? "(no name yet)" : condition.Name)}",
            MessagePart.Fact => $"the fact {(string.IsNullOrWhiteSpace(condition.Name) ? "(none yet)" : condition.Name)}",
            MessagePart.WordAtPlace => SayPlace(condition.Place),
            var part => Say(part),
        };
        return condition.WholeBody ? $"{subject}, history and signature too," : subject;
    }

    private static string SayPlace(WordPlace? place) => place switch
    {
        null => "the word at a place",
        { Word: null } => $"the {Ordinal(place.Line)} line",
        { Word: { } word } => $"the {Ordinal(word)} word of the {Ordinal(place.Line)} line",
    };

    private static string Ordinal(int number) => number switch
    {
        1 => "first",
        -1 => "last",
        2 => "second",
        3 => "third",
        -2 => "last but one",
        < 0 => $"{Ordinal(-number)} from last",
        _ => number + ((number % 100, number % 10) switch
        {
            ( >= 11 and <= 13, _) => "th",
            (_, 1) => "st",
            (_, 2) => "nd",
            (_, 3) => "rd",
            _ => "th",
        }),
    };

    private static string SayTest(Condition condition, PlanContext names)
    {
        var test = condition.Test switch
        {
            MatchTest.HasAnyWordIn => $"has any word in {ListName(condition, names)}",
            MatchTest.Contains => $"contains {Values(condition)}",
            MatchTest.Is => $"is {Values(condition)}",
            MatchTest.Begins => $"begins with {Values(condition)}",
            MatchTest.Ends => $"ends with {Values(condition)}",
            MatchTest.Word => $"has the word {Values(condition)}",
            MatchTest.Matches => $"fits {Values(condition)}",
            MatchTest.Regex => $"fits the expression {Values(condition)}",
            MatchTest.Present => "is there",
            MatchTest.Absent => "is not there",
            _ => $"is {Range(condition, Amounts.Number)}",
        };
        return condition.SameCase ? $"{test} in this very case" : test;
    }

    private static string SayGroup(ConditionSet set, PlanContext names)
    {
        var parts = new List<string>();
        AddPart(set.All, "all of", " and ");
        AddPart(set.Any, "any of", " or ");
        AddPart(set.None, "none of", " or ");
        return parts.Count == 0 ? "(a group without conditions)" : string.Join(", and ", parts);

        void AddPart(IReadOnlyCollection<Condition> conditions, string quantity, string joint)
        {
            if (conditions.Count > 0)
            {
                parts.Add($"{quantity} ({string.Join(joint, conditions.Select(c => Say(c, names)))})");
            }
        }
    }

    private static string Range(Condition condition, Func<double, string> say) => (condition.Least, condition.Most) switch
    {
        (null, null) => "anything",
        ({ } least, null) => $"at least {say(least)}",
        (null, { } most) => $"at most {say(most)}",
        ({ } least, { } most) when least.Equals(most) => say(least),
        ({ } least, { } most) => $"{say(least)} to {say(most)}",
    };

    private static string Span(Condition condition, string preposition) => (condition.From, condition.Until) switch
    {
        (null, null) => "at any time",
        ({ } from, null) => $"{preposition} {from} or later",
        (null, { } until) => $"{preposition} {until} or before",
        ({ } from, { } until) when from == until => $"{preposition} {from}",
        ({ } from, { } until) => $"from {from} to {until}",
    };

    private static string Values(Condition condition) => condition.Values.IsEmpty
        ? "(nothing yet)"
        : string.Join(" or ", condition.Values.Select(v => $"“{v}”"));

    private static string Either(IReadOnlyCollection<string> values) => values.Count == 0 ? "(nothing yet)" : string.Join(" or ", values);

    private static string ListName(Condition condition, PlanContext names) =>
        condition.KeywordListId is { } id && names.KeywordLists.TryGetValue(id, out var list) ? $"“{list.Name}”" : "a keyword list that is gone";

    private sealed record Said(string Text, Reason NotSo, IReadOnlyDictionary<long, KeywordList> Lists, IReadOnlyDictionary<long, SavedCondition> Saved);
}
