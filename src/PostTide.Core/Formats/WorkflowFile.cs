using System.Collections.Immutable;
using PostTide.Core.Sorting;
using PostTide.Core.Workflows;

namespace PostTide.Core.Formats;

/// <summary>A workflow read from its document.</summary>
/// <param name="Document">The document; null when it could not be read.</param>
/// <param name="Sheet">The sheet; null when the document could not be read.</param>
/// <param name="Context">What the sheet's ids stand for.</param>
/// <param name="Problems">What is wrong, by line. With any that blocks, the sheet must not be used; with any at all it cannot go live.</param>
public sealed record WorkflowFile(WorkflowDocument? Document, Sheet? Sheet, PlanContext Context, ImmutableArray<DocumentProblem> Problems)
{
    private const string Title = "A Post Tide workflow";

    /// <summary>Reads a document.</summary>
    /// <param name="yaml">The text.</param>
    /// <param name="names">The records it may name; null for those it brings itself.</param>
    /// <param name="context">What the sheet is checked against; by default what the document brings.</param>
    /// <param name="sorter">What stands for the sorter it names, where no records do.</param>
    public static WorkflowFile Read(string yaml, DocumentNames? names = null, PlanContext? context = null, TrainedSorter? sorter = null)
    {
        var read = YamlText.Read<WorkflowDocument>(yaml);
        if (read.Value is not { } document)
        {
            return new WorkflowFile(null, null, new PlanContext(), read.Problems);
        }

        var problems = new List<PathProblem>();
        if (document.PostTide != 1)
        {
            problems.Add(new PathProblem("$.postTide", $"This is version {document.PostTide} of the format; version 1 is known here."));
        }

        if (string.IsNullOrWhiteSpace(document.Name))
        {
            problems.Add(new PathProblem("$", "The workflow has no name."));
        }

        var own = context ?? DocumentNames.ContextOf(document, sorter);
        var reader = new DocumentReader(names ?? DocumentNames.Of(own), problems);
        var sheet = reader.Read(document);

        // A name that is missing is told where it stands, not once more as something that is gone.
        var wrong = problems.Count > 0
            ? SheetCheck.Check(sheet, own).Where(p => !IsAboutNames(p.Text))
            : SheetCheck.Check(sheet, own);
        var checkedProblems = wrong.Select(p => new DocumentProblem(read.LineOf(reader.PathOf(p.At)), p.Text, Blocks: false));
        return new WorkflowFile(document, sheet, own,
        [
            .. problems.Select(p => new DocumentProblem(read.LineOf(p.Path), p.Text)).Concat(checkedProblems).Distinct().OrderBy(p => p.Line),
        ]);
    }

    /// <summary>The JSON Schema of the document.</summary>
    public static string Schema() => YamlText.SchemaOf<WorkflowDocument>(Title);

    private static bool IsAboutNames(string problem) =>
        problem.Contains("gone", StringComparison.Ordinal) || problem.Contains("needs a keyword list", StringComparison.Ordinal)
        || problem.Contains("not on the sheet", StringComparison.Ordinal) || problem.Contains("No saved condition", StringComparison.Ordinal);
}
