using System.Collections.Immutable;
using PostTide.Core.Matching;

namespace PostTide.Core.Workflows;

/// <summary>Where conditions stand, which decides what they may ask.</summary>
public enum ConditionUse
{
    /// <summary>Under “takes in” or in a category.</summary>
    Sheet,

    /// <summary>On a line, where the category is known.</summary>
    Line,

    /// <summary>Saved under a name for several sheets.</summary>
    Saved,
}

/// <summary>Finds what is unfinished or wrong with conditions.</summary>
public static class ConditionCheck
{
    private const int MostConditions = 500;
    private const int MostValues = 10_000;
    private const int LongestValue = 1_000;
    private const int DeepestNesting = 6;

    /// <summary>Every problem, each with the id of its condition.</summary>
    public static ImmutableArray<SheetProblem> Check(ConditionSet set, PlanContext context, ConditionUse use)
    {
        var problems = ImmutableArray.CreateBuilder<SheetProblem>();
        if (set.Leaves().Count() > MostConditions)
        {
            problems.Add(new SheetProblem("takes in", $"There are more than {MostConditions} conditions in one place."));
        }

        CheckSet(set, context, use, 1, problems);
        return problems.ToImmutable();
    }

    private static void CheckSet(ConditionSet set, PlanContext context, ConditionUse use, int depth, ImmutableArray<SheetProblem>.Builder problems)
    {
        foreach (var condition in set.Each())
        {
            if (condition.Part == MessagePart.Group)
            {
                CheckGroup(condition, context, use, depth, problems);
            }
            else if (ProblemOf(condition, context, use) is { } text)
            {
                problems.Add(new SheetProblem(condition.Id, text));
            }
        }
    }

    private static void CheckGroup(Condition condition, PlanContext context, ConditionUse use, int depth, ImmutableArray<SheetProblem>.Builder problems)
    {
        if (condition.Set is null || condition.Set.IsEmpty())
        {
            problems.Add(new SheetProblem(condition.Id, "A group has no conditions in it yet, so it never holds."));
        }
        else if (depth >= DeepestNesting)
        {
            problems.Add(new SheetProblem(condition.Id, $"Conditions are nested more than {DeepestNesting} deep."));
        }
        else
        {
            CheckSet(condition.Set, context, use, depth + 1, problems);
        }
    }

    private static string? ProblemOf(Condition condition, PlanContext context, ConditionUse use) =>
        !PartTests.Of(condition.Part).Contains(condition.Test) ? $"“{ConditionWords.Say(condition.Part)}” cannot be compared that way."
        : condition.Part is MessagePart.Category && use != ConditionUse.Line ? "The category is known to the lines only, after sorting."
        : condition.Part is MessagePart.Saved ? ProblemOfSaved(condition, context, use)
        : condition.Part is MessagePart.Header && !IsFieldName(condition.Name) ? "A header field has a name of letters, digits and hyphens, such as X-Priority."
        : condition.Part is MessagePart.Fact or MessagePart.Authentication && string.IsNullOrWhiteSpace(condition.Name) ? "It is not said which one is looked at."
        : condition.Part is MessagePart.WordAtPlace && condition.Place is not { Line: not 0, Word: not 0 } ? "Lines and words are counted from 1, or from the end with −1."
        : ProblemOfTest(condition, context);

    private static string? ProblemOfSaved(Condition condition, PlanContext context, ConditionUse use) =>
        use == ConditionUse.Saved ? "A saved condition cannot use another one."
        : condition.SavedId is not { } id ? "No saved condition is chosen yet."
        : context.SavedConditions.ContainsKey(id) ? null
        : "A condition uses a saved condition that is gone.";

    private static string? ProblemOfTest(Condition condition, PlanContext context)
    {
        if (condition.Test == MatchTest.HasAnyWordIn)
        {
            return condition.KeywordListId is not { } id ? "A condition needs a keyword list."
                : !context.KeywordLists.TryGetValue(id, out var list) ? "A condition names a keyword list that is gone."
                : list.Entries.IsEmpty ? $"The keyword list “{list.Name}” is empty, so its condition never holds."
                : null;
        }

        if (condition.Test == MatchTest.Between)
        {
            return ProblemOfRange(condition);
        }

        return PartTests.UsesValues(condition.Test) ? ProblemOfValues(condition) : null;
    }

    private static string? ProblemOfValues(Condition condition)
    {
        if (condition.Values.All(string.IsNullOrWhiteSpace))
        {
            return $"“{ConditionWords.Say(condition.Part)}” is compared with nothing yet.";
        }

        if (condition.Values.Any(v => v.Length > LongestValue))
        {
            return $"A value is longer than {LongestValue} characters.";
        }

        if (condition.Values.Length > MostValues)
        {
            return $"There are more than {MostValues} values; put them into a keyword list.";
        }

        return condition.Test switch
        {
            MatchTest.Regex => condition.Values.Select(v => LinearRegex.Read(v, condition.SameCase).Problem).FirstOrDefault(p => p is not null),
            MatchTest.Word when condition.Values.Any(v => !Text.Words.In(v, 0, v.Length).Any()) => "A word to look for holds neither a letter nor a digit.",
            MatchTest.OneOf when condition.Part == MessagePart.Weekday && condition.Values.Any(v => !Enum.TryParse<DayOfWeek>(v, true, out _) || char.IsDigit(v[0])) =>
                "A day of the week is written Monday to Sunday.",
            _ => null,
        };
    }

    private static string? ProblemOfRange(Condition condition) => condition.Part switch
    {
        MessagePart.ArrivalDate or MessagePart.SentDate => ProblemOfDates(condition),
        MessagePart.Hour => condition is { From: null, Until: null } ? "Neither a beginning nor an end is given."
            : Unreadable(condition, t => ValueTests.Minute.Parse(t).Success) ? "A time of day is written 08:30."
            : null,
        _ => condition is { Least: null, Most: null } ? "Neither a smallest nor a largest value is given."
            : condition.Least > condition.Most ? "The smallest value is larger than the largest."
            : null,
    };

    private static string? ProblemOfDates(Condition condition)
    {
        if (condition is { From: null, Until: null })
        {
            return "Neither a first nor a last day is given.";
        }

        if (Unreadable(condition, t => ValueTests.Day.Parse(t).Success))
        {
            return "A day is written 2026-11-25 (ISO 8601).";
        }

        return condition is { From: { } from, Until: { } until } && string.CompareOrdinal(from, until) > 0 ? "The first day comes after the last." : null;
    }

    private static bool Unreadable(Condition condition, Func<string, bool> isReadable) =>
        (condition.From is { } from && !isReadable(from)) || (condition.Until is { } until && !isReadable(until));

    /// <summary>A field name of RFC 5322 §2.2: printable ASCII without the colon.</summary>
    private static bool IsFieldName(string? name) => name is { Length: > 0 and <= 100 } && name.All(c => c is > ' ' and < '\x7f' and not ':');
}
