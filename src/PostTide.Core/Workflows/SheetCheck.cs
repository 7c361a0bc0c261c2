using System.Collections.Immutable;
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
    private const int LongestNote = 1_000;

    /// <summary>Every problem, in the order of the bands.</summary>
    public static ImmutableArray<SheetProblem> Check(Sheet sheet, PlanContext context)
    {
        var problems = ImmutableArray.CreateBuilder<SheetProblem>();
        problems.AddRange(ConditionCheck.Check(sheet.TakesIn, context, ConditionUse.Sheet));
        if (sheet.TakesIn.IsEmpty() && sheet.Addresses.IsEmpty)
        {
            problems.Add(new SheetProblem("takes in", "Nothing says which mail to take, so it would take everything."));
        }

        foreach (var category in sheet.Categories)
        {
            CheckCategory(category, context, problems);
        }

        CheckSorter(sheet, context, problems);
        if (sheet.Lines.IsEmpty)
        {
            problems.Add(new SheetProblem("does", "There is no line, so nothing would ever happen."));
        }

        foreach (var line in sheet.Lines)
        {
            CheckLine(line, sheet, context, problems);
        }

        var ids = sheet.TakesIn.Leaves().Select(c => c.Id).Concat(sheet.Categories.Select(c => c.Id)).Concat(sheet.Lines.Select(l => l.Id)).ToList();
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

        if (category.When.IsEmpty() && !category.BySorter)
        {
            problems.Add(new SheetProblem(category.Id, $"The category “{category.Name}” has no condition, so nothing is sorted into it."));
        }

        problems.AddRange(ConditionCheck.Check(category.When, context, ConditionUse.Sheet));
    }

    private static void CheckSorter(Sheet sheet, PlanContext context, ImmutableArray<SheetProblem>.Builder problems)
    {
        if (sheet.SorterId is not { } id)
        {
            if (sheet.Categories.Any(c => c.BySorter) || sheet.Lines.Any(l => !l.Off && l.Case == LineCase.Unsure))
            {
                problems.Add(new SheetProblem("sorts into", "A category or a line waits for a sorter, and the sheet has none."));
            }
        }
        else if (!context.Sorters.TryGetValue(id, out var sorter))
        {
            problems.Add(new SheetProblem("sorts into", "The sheet's sorter is gone."));
        }
        else if (sorter is { Trained: null, AsksOutside: false })
        {
            problems.Add(new SheetProblem("sorts into", $"No number of the sorter “{sorter.Name}” is in use yet."));
        }
    }

    private static void CheckLine(Line line, Sheet sheet, PlanContext context, ImmutableArray<SheetProblem>.Builder problems)
    {
        void Add(string text) => problems.Add(new SheetProblem(line.Id, text));
        problems.AddRange(ConditionCheck.Check(line.AndWhen, context, ConditionUse.Line));
        if (line.Case == LineCase.Category && sheet.Categories.All(c => c.Id != line.CategoryId))
        {
            Add("The line names a category that is not on the sheet.");
        }

        if (line.SuretyFrom is < 0 or > 1)
        {
            Add("A surety lies between 0 and 100 %.");
        }

        if (line.Queues.Any(q => !context.Queues.ContainsKey(q.QueueId)))
        {
            Add("The line places mail in a queue that is gone.");
        }

        if (line.Queues.Any(q => q.DueInMinutes is < 0 or > 525_600))
        {
            Add("A due time lies between 0 minutes and a year.");
        }

        if (line.Replies.Any(r => !context.Templates.ContainsKey(r.TemplateId)))
        {
            Add("The line replies from a template that is gone.");
        }

        if (line.Replies.Any(r => r.DelayMinutes is < 0 or > 43_200))
        {
            Add("A reply can wait between 0 minutes and 30 days.");
        }

        if (line.PassOns.Any(p => !context.Destinations.ContainsKey(p.DestinationId)))
        {
            Add("The line passes mail on to a destination that is gone.");
        }

        if (Twice(line.Queues.Select(q => q.QueueId)) || Twice(line.PassOns.Select(p => p.DestinationId)) || Twice(line.Replies.Select(r => (long)r.To)))
        {
            Add("The line does the same thing twice: the same queue, destination or recipient of a reply.");
        }

        foreach (var text in MailboxEffect.ProblemsOf(line.InMailbox?.Effects ?? []))
        {
            Add(text);
        }

        foreach (var error in line.Files.Select(f => LiquidText.Check(f.Folder)).OfType<string>())
        {
            Add($"The folder pattern cannot be read: {error}");
        }

        if (line.Note?.Length > LongestNote)
        {
            Add($"A note is longer than {LongestNote} characters.");
        }
    }

    private static bool Twice(IEnumerable<long> ids) => ids.GroupBy(id => id).Any(g => g.Skip(1).Any());
}
