namespace PostTide.Core.Matching;

/// <summary>What follows from one single condition about another.</summary>
internal static class ValueImplication
{
    public static bool Implies(Condition a, Condition b)
    {
        if (IsPresenceOf(a, b))
        {
            return true;
        }

        if (!LooksWithin(a, b))
        {
            return false;
        }

        return (a.Test, b.Test) switch
        {
            (MatchTest.Between, MatchTest.Between) => IsWithin(a, b),
            (MatchTest.OneOf, MatchTest.OneOf) => a.Values.All(v => b.Values.Contains(v, StringComparer.OrdinalIgnoreCase)),
            (MatchTest.Present, MatchTest.Present) => b.Kinds.IsEmpty || (!a.Kinds.IsEmpty && a.Kinds.All(b.Kinds.Contains)),
            (MatchTest.Absent, MatchTest.Absent) => a.Kinds.IsEmpty || (!b.Kinds.IsEmpty && b.Kinds.All(a.Kinds.Contains)),
            (MatchTest.HasAnyWordIn, MatchTest.HasAnyWordIn) => a.KeywordListId == b.KeywordListId,
            _ when PartTests.UsesValues(a.Test) && PartTests.UsesValues(b.Test) =>
                !a.Values.IsEmpty && (a.SameCase || !b.SameCase) && a.Values.All(v => b.Values.Any(w => ImpliesValue(a.Test, v, b.Test, w, b.SameCase))),
            _ => false,
        };
    }

    /// <summary>Whether both can never hold for the same message.</summary>
    public static bool AreOpposed(Condition a, Condition b)
    {
        if ((a.Test == MatchTest.Absent && Implies(b, a with { Test = MatchTest.Present })) || (b.Test == MatchTest.Absent && Implies(a, b with { Test = MatchTest.Present })))
        {
            return true;
        }

        if (a.Part != b.Part || a.Name != b.Name)
        {
            return false;
        }

        return (a.Test, b.Test) switch
        {
            // Of several attachments one may be small and one large.
            (MatchTest.Between, MatchTest.Between) => a.Part != MessagePart.AttachmentSize && AreApart(a, b),
            (MatchTest.OneOf, MatchTest.OneOf) => a.Part is MessagePart.Weekday or MessagePart.Category && !a.Values.Any(v => b.Values.Contains(v, StringComparer.OrdinalIgnoreCase)),
            (MatchTest.Is, MatchTest.Is) => a.Part is MessagePart.Subject or MessagePart.BaseSubject or MessagePart.SenderAddress or MessagePart.SenderDomain
                && !a.Values.Any(v => b.Values.Contains(v, StringComparer.OrdinalIgnoreCase)),
            _ => false,
        };
    }

    /// <summary>Whatever is found in something shows that it is there.</summary>
    private static bool IsPresenceOf(Condition a, Condition b) => b.Test == MatchTest.Present && b.Kinds.IsEmpty && a.Test != MatchTest.Absent && b.Part switch
    {
        MessagePart.Attachment => a.Part is MessagePart.AttachmentName or MessagePart.AttachmentType or MessagePart.AttachmentSize
            || a is { Part: MessagePart.AttachmentCount, Least: >= 1 },
        MessagePart.Header or MessagePart.Fact => a.Part == b.Part && string.Equals(a.Name, b.Name, StringComparison.OrdinalIgnoreCase),
        MessagePart.Tag or MessagePart.ListId => a.Part == b.Part,
        _ => false,
    };

    /// <summary>Whether all that the first looks at is looked at by the second as well.</summary>
    private static bool LooksWithin(Condition a, Condition b) =>
        string.Equals(a.Name, b.Name, StringComparison.OrdinalIgnoreCase) && a.Place == b.Place
        && (a.Part == b.Part
            ? a.WholeBody == b.WholeBody || (b.WholeBody && IsFoundAnywhere(b.Test))
            : (a.Part, b.Part) switch
            {
                (MessagePart.Subject, MessagePart.SubjectOrBody) => true,
                (MessagePart.Body, MessagePart.SubjectOrBody) => a.WholeBody == b.WholeBody,
                (MessagePart.BaseSubject, MessagePart.Subject or MessagePart.SubjectOrBody) => IsFoundAnywhere(b.Test),
                (MessagePart.SenderAddress or MessagePart.SenderName, MessagePart.Sender) => b.Test != MatchTest.Regex,
                (MessagePart.SenderDomain, MessagePart.SenderAddress or MessagePart.Sender) => IsFoundAnywhere(b.Test),
                (MessagePart.OriginallyTo, MessagePart.Recipient) => true,
                _ => false,
            });

    private static bool IsFoundAnywhere(MatchTest test) => test is MatchTest.Contains or MatchTest.HasAnyWordIn;

    private static bool ImpliesValue(MatchTest test, string value, MatchTest other, string wanted, bool sameCase)
    {
        var comparison = sameCase ? StringComparison.Ordinal : StringComparison.OrdinalIgnoreCase;
        if (test == other && value.Equals(wanted, comparison))
        {
            return true;
        }

        return (test, other) switch
        {
            (MatchTest.Is or MatchTest.Begins or MatchTest.Ends or MatchTest.Contains, MatchTest.Contains) => value.Contains(wanted, comparison),
            (MatchTest.Is or MatchTest.Begins, MatchTest.Begins) => value.StartsWith(wanted, comparison),
            (MatchTest.Is or MatchTest.Ends, MatchTest.Ends) => value.EndsWith(wanted, comparison),

            // The words of a phrase may stand on two lines; a single word stands as it is.
            (MatchTest.Word, MatchTest.Contains) => value.All(char.IsLetterOrDigit) && value.Contains(wanted, comparison),
            _ => false,
        };
    }

    private static bool IsWithin(Condition a, Condition b) => a.Part switch
    {
        MessagePart.Hour => a.From == b.From && a.Until == b.Until,
        MessagePart.ArrivalDate or MessagePart.SentDate => NotBefore(a.From, b.From) && NotAfter(a.Until, b.Until),
        _ => (b.Least is null || a.Least >= b.Least) && (b.Most is null || a.Most <= b.Most),
    };

    private static bool AreApart(Condition a, Condition b) => a.Part switch
    {
        MessagePart.Hour => false,
        MessagePart.ArrivalDate or MessagePart.SentDate => IsAfter(a.From, b.Until) || IsAfter(b.From, a.Until),
        _ => a.Least > b.Most || b.Least > a.Most,
    };

    // Days in ISO 8601 are in order when their texts are.
    private static bool NotBefore(string? a, string? limit) => limit is null || (a is not null && string.CompareOrdinal(a, limit) >= 0);

    private static bool NotAfter(string? a, string? limit) => limit is null || (a is not null && string.CompareOrdinal(a, limit) <= 0);

    private static bool IsAfter(string? a, string? b) => a is not null && b is not null && string.CompareOrdinal(a, b) > 0;
}
