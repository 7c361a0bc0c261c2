using System.Collections.Immutable;
using PostTide.Core.Matching;
using PostTide.Core.Replies;
using PostTide.Core.Sorting;

namespace PostTide.Core.Workflows;

/// <summary>Something on a sheet that keeps it from going live.</summary>
/// <param name="At">The id of the condition, category or line it is about, or the name of a band.</param>
/// <param name="Text">What is wrong, in a sentence.</param>
public sealed record SheetProblem(string At, string Text);

/// <summary>Finds what is unfinished or wrong on a sheet. An edition in hand may have problems; a live one may not.</summary>
public static class SheetCheck
{
    private const int MostConditions = 500;
    private const int LongestValue = 1_000;

    /// <summary>Every problem, in the order of the bands.</summary>
    public static ImmutableArray<SheetProblem> Check(Sheet sheet, PlanContext context)
    {
        var problems = ImmutableArray.CreateBuilder<SheetProblem>();
        CheckSet(sheet.TakesIn, context, problems);
        if (sheet.TakesIn.IsEmpty() && sheet.Addresses.IsEmpty)
        {
            problems.Add(new SheetProblem("takes in", "Nothing says which mail to take, so it would take everything."));
        }

        foreach (var category in sheet.Categories)
        {
            CheckCategory(category, context, problems);
        }

        if (sheet.Lines.IsEmpty)
        {
            problems.Add(new SheetProblem("does", "There is no line, so nothing would ever happen."));
        }

        foreach (var line in sheet.Lines)
        {
            CheckLine(line, sheet, context, problems);
        }

        var ids = sheet.TakesIn.Each().Select(c => c.Id).Concat(sheet.Categories.Select(c => c.Id)).Concat(sheet.Lines.Select(l => l.Id)).ToList();
        if (ids.Any(string.IsNullOrEmpty) || ids.Distinct(StringComparer.Ordinal).Count() != ids.Count)
        {
            problems.Add(new SheetProblem("sheet", "Conditions, categories and lines each need an id of their own."));
        }

        return problems.ToImmutable();
    }

    private static void CheckCategory(Category category, PlanContext context, ImmutableArray<SheetProblem>.Builder problems)
    {
        if (string.IsNullOrWhiteSpace(category.Name))
        {
            problems.Add(new SheetProblem(category.Id, "A category has no name."));
        }

        if (category.When.IsEmpty())
        {
            problems.Add(new SheetProblem(category.Id, $"The category “{category.Name}” has no condition, so nothing is sorted into it."));
        }

        CheckSet(category.When, context, problems);
    }

    private static void CheckLine(Line line, Sheet sheet, PlanContext context, ImmutableArray<SheetProblem>.Builder problems)
    {
        void Add(string text) => problems.Add(new SheetProblem(line.Id, text));
        CheckSet(line.AndWhen, context, problems);
        if (line.Case == LineCase.Category && sheet.Categories.All(c => c.Id != line.CategoryId))
        {
            Add("The line names a category that is not on the sheet.");
        }

        if (line.Queue is { } place && !context.Queues.ContainsKey(place.QueueId))
        {
            Add("The line places mail in a queue that is gone.");
        }

        if (line.Queue?.DueInMinutes is < 0 or > 525_600)
        {
            Add("A due time lies between 0 minutes and a year.");
        }

        if (line.Reply is { } reply && !context.Templates.ContainsKey(reply.TemplateId))
        {
            Add("The line replies from a template that is gone.");
        }

        if (line.Reply?.DelayMinutes is < 0 or > 43_200)
        {
            Add("A reply can wait between 0 minutes and 30 days.");
        }

        if (line.PassOn is { } passOn && !context.Destinations.ContainsKey(passOn.DestinationId))
        {
            Add("The line passes mail on to a destination that is gone.");
        }

        foreach (var text in MailboxEffect.ProblemsOf(line.InMailbox?.Effects ?? []))
        {
            Add(text);
        }

        if (line.Files is { } files && LiquidText.Check(files.Folder) is { } error)
        {
            Add($"The folder pattern cannot be read: {error}");
        }
    }

    private static void CheckSet(ConditionSet set, PlanContext context, ImmutableArray<SheetProblem>.Builder problems)
    {
        if (set.Each().Count() > MostConditions)
        {
            problems.Add(new SheetProblem("takes in", $"There are more than {MostConditions} conditions in one place."));
        }

        foreach (var condition in set.Each())
        {
            if (CheckCondition(condition, context) is { } text)
            {
                problems.Add(new SheetProblem(condition.Id, text));
            }
        }
    }

    private static string? CheckCondition(Condition condition, PlanContext context) => condition switch
    {
        { Test: MatchTest.HasAnyWordIn, KeywordListId: null } => "A condition needs a keyword list.",
        { Test: MatchTest.HasAnyWordIn, KeywordListId: { } id } when !context.KeywordLists.ContainsKey(id) => "A condition names a keyword list that is gone.",
        { Test: MatchTest.HasAnyWordIn, KeywordListId: { } id } when context.KeywordLists[id].Entries.IsEmpty =>
            $"The keyword list “{context.KeywordLists[id].Name}” is empty, so its condition never holds.",
        { Test: MatchTest.Contains or MatchTest.Is or MatchTest.Matches } when condition.Values.All(string.IsNullOrWhiteSpace) =>
            $"“{ConditionWords.Say(condition.Part)}” is compared with nothing yet.",
        _ when condition.Values.Any(v => v.Length > LongestValue) => $"A value is longer than {LongestValue} characters.",
        _ => null,
    };
}
