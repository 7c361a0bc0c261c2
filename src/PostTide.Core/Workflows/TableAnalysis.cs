using System.Collections.Immutable;
using PostTide.Core.Matching;
using PostTide.Core.Sorting;

namespace PostTide.Core.Workflows;

/// <summary>What logic shows about a line or a category.</summary>
public enum FindingKind
{
    /// <summary>Its conditions contradict each other.</summary>
    Impossible,

    /// <summary>Earlier lines always fit first.</summary>
    NeverReached,

    /// <summary>An earlier category always holds first.</summary>
    NeverSorted,

    /// <summary>Messages of this category may fit no line.</summary>
    FallsThrough,
}

/// <summary>Something about the table that logic shows, whatever mail comes.</summary>
/// <param name="Kind">What.</param>
/// <param name="At">The id of the line or category; empty for “none of these”, <see cref="TableAnalysis.Unsure"/> for unsure.</param>
/// <param name="InTheWay">The lines or categories that are in the way.</param>
/// <param name="Text">The same in a sentence.</param>
public sealed record TableFinding(FindingKind Kind, string At, ImmutableArray<string> InTheWay, string Text);

/// <summary>Looks through the table of lines by logic: what can never fit and what stands in the way.</summary>
public static class TableAnalysis
{
    /// <summary>Stands for messages the sorter is unsure about.</summary>
    public const string Unsure = "unsure";

    /// <summary>Everything logic shows about a sheet's categories and lines.</summary>
    public static ImmutableArray<TableFinding> Of(Sheet sheet, IReadOnlyDictionary<long, SavedCondition> saved)
    {
        var findings = ImmutableArray.CreateBuilder<TableFinding>();
        findings.AddRange(Categories(sheet, saved));
        for (var i = 0; i < sheet.Lines.Length; i++)
        {
            if (!sheet.Lines[i].Off && FindingOn(sheet, i, saved) is { } finding)
            {
                findings.Add(finding);
            }
        }

        if (!sheet.Lines.IsEmpty)
        {
            findings.AddRange(FallingThrough(sheet));
        }

        return findings.ToImmutable();
    }

    private static IEnumerable<TableFinding> Categories(Sheet sheet, IReadOnlyDictionary<long, SavedCondition> saved)
    {
        for (var i = 0; i < sheet.Categories.Length; i++)
        {
            var category = sheet.Categories[i];
            if (Implication.IsImpossible(category.When, saved))
            {
                yield return new TableFinding(FindingKind.Impossible, category.Id, [], $"Nothing can ever be sorted as “{category.Name}”: its conditions exclude each other.");
            }
            else if (sheet.Categories.Take(i).FirstOrDefault(c => !c.When.IsEmpty() && Implication.Follows(category.When, c.When, saved)) is { } first)
            {
                yield return new TableFinding(
                    FindingKind.NeverSorted, category.Id, [first.Id], $"Whatever could be “{category.Name}” is sorted as “{first.Name}” before.");
            }
        }
    }

    private static TableFinding? FindingOn(Sheet sheet, int index, IReadOnlyDictionary<long, SavedCondition> saved)
    {
        var line = sheet.Lines[index];
        if (Implication.IsImpossible(line.AndWhen, saved) || ExcludesItsCategory(line))
        {
            return new TableFinding(FindingKind.Impossible, line.Id, [], "This line can never fit: its conditions exclude each other.");
        }

        if (sheet.EveryLine)
        {
            return null;
        }

        for (var i = 0; i < index; i++)
        {
            var earlier = sheet.Lines[i];
            if (!earlier.Off && (earlier.Case == LineCase.Any || SameCase(earlier, line)) && (earlier.SuretyFrom ?? 0) <= (line.SuretyFrom ?? 0) && Implication.Follows(line.AndWhen, earlier.AndWhen, saved))
            {
                return new TableFinding(FindingKind.NeverReached, line.Id, [earlier.Id], $"This line can never fit: line {i + 1} always fits first.");
            }
        }

        return line.Case == LineCase.Any ? CoveredTogether(sheet, index) : null;
    }

    /// <summary>A line for anything is never reached when every category, and none of them, has a line without conditions before it.</summary>
    private static TableFinding? CoveredTogether(Sheet sheet, int index)
    {
        var open = sheet.Lines.Take(index).Select((line, i) => (line, number: i + 1)).Where(l => IsUnconditional(l.line)).ToList();
        var covering = CasesOf(sheet).Select(c => open.FirstOrDefault(l => Covers(l.line, c))).ToList();
        return (!sheet.Categories.IsEmpty || sheet.SorterId is not null) && covering.TrueForAll(l => l.line is not null)
            ? new TableFinding(
                FindingKind.NeverReached, sheet.Lines[index].Id, [.. covering.Select(l => l.line.Id)],
                $"This line can never fit: lines {string.Join(", ", covering.Select(l => l.number).Distinct().Order())} take every category before it.")
            : null;
    }

    private static IEnumerable<TableFinding> FallingThrough(Sheet sheet) => CasesOf(sheet)
        .Where(c => !sheet.Lines.Any(l => IsUnconditional(l) && Covers(l, c)))
        .Select(c => new TableFinding(
            FindingKind.FallsThrough, c.Category?.Id ?? (c.Case == LineCase.Unsure ? Unsure : ""), [],
            c switch
            {
                { Category: { } category } => $"A message sorted as “{category.Name}” may fit no line.",
                { Case: LineCase.Unsure } => "A message the sorter is unsure about may fit no line, and is then left untouched.",
                _ when sheet.Categories.IsEmpty => "A message may fit no line.",
                _ => "A message that is none of these may fit no line.",
            }));

    /// <summary>Every category, none of them, and unsure where there is a sorter.</summary>
    private static IEnumerable<SortedCase> CasesOf(Sheet sheet) => sheet.Categories.Select(c => new SortedCase(LineCase.Category, c))
        .Append(new SortedCase(LineCase.NoneOfThese, null))
        .Concat(sheet.SorterId is null ? [] : [new SortedCase(LineCase.Unsure, null)]);

    private static bool Covers(Line line, SortedCase at) =>
        line.Case == LineCase.Any || (line.Case == at.Case && (at.Category is null || line.CategoryId == at.Category.Id));

    private static bool IsUnconditional(Line line) => !line.Off && line.AndWhen.IsEmpty() && line.SuretyFrom is null;

    private sealed record SortedCase(LineCase Case, Category? Category);

    private static bool SameCase(Line a, Line b) => a.Case == b.Case && (a.Case != LineCase.Category || a.CategoryId == b.CategoryId);

    /// <summary>A line for one category that asks for another.</summary>
    private static bool ExcludesItsCategory(Line line) => line is { Case: LineCase.Category, CategoryId: { } id }
        && line.AndWhen.All.Any(c => c.Part == MessagePart.Category && !c.Values.Contains(id));
}
