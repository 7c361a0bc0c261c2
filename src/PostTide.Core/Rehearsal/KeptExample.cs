using System.Collections.Immutable;
using PostTide.Core.Messages;
using PostTide.Core.Workflows;

namespace PostTide.Core.Rehearsal;

/// <summary>What a workflow should make of a message. What is not said does not matter.</summary>
/// <param name="TakenIn">Whether it should take it in.</param>
/// <param name="Category">The name of the category it should be sorted into; empty for none of these, <c>(unsure)</c> for unsure; null when it does not matter.</param>
/// <param name="Deeds">The deeds that should follow, in plain words; null when they do not matter.</param>
public sealed record Expectation(bool TakenIn, string? Category = null, ImmutableArray<string>? Deeds = null)
{
    /// <summary>Stands for messages the sorter is unsure about.</summary>
    private const string Unsure = "(unsure)";

    /// <summary>What a verdict came to, as something to hold later editions to.</summary>
    public static Expectation Of(Verdict verdict, Sheet sheet)
    {
        var taken = verdict.Outcome == Outcome.TakenIn;
        return taken
            ? new Expectation(true, sheet.Categories.IsEmpty ? null : NameOf(verdict, sheet), [.. verdict.Deeds.Select(d => d.Says)])
            : new Expectation(false);
    }

    /// <summary>How a verdict differs from what is expected; empty when it does not.</summary>
    public ImmutableArray<Difference> Against(Verdict verdict, Sheet sheet)
    {
        var differences = ImmutableArray.CreateBuilder<Difference>();
        var taken = verdict.Outcome == Outcome.TakenIn;
        if (taken != TakenIn)
        {
            return [new Difference("outcome", Say(TakenIn), Say(taken))];
        }

        if (Category is not null && NameOf(verdict, sheet) is var category && category != Category)
        {
            differences.Add(new Difference("category", SayCategory(Category), SayCategory(category)));
        }

        if (Deeds is { } expected)
        {
            var planned = verdict.Deeds.Select(d => d.Says).ToList();
            var missing = expected.Except(planned).ToList();
            var more = planned.Except(expected).ToList();
            if (missing.Count + more.Count > 0)
            {
                differences.Add(new Difference("deeds", Join(missing), Join(more)));
            }
        }

        return differences.ToImmutable();
    }

    private static string NameOf(Verdict verdict, Sheet sheet) => verdict.Sorter is { Unsure: true } ? Unsure : sheet.Categories.FirstOrDefault(c => c.Id == verdict.CategoryId)?.Name ?? "";

    private static string Say(bool taken) => taken ? "taken in" : "left alone";

    private static string SayCategory(string category) => category.Length == 0 ? "none of these" : category;

    private static string? Join(List<string> deeds) => deeds.Count == 0 ? null : string.Join("; ", deeds);
}

/// <summary>A message of which it is known what the workflow should make of it.</summary>
/// <param name="Message">The message.</param>
/// <param name="Expected">What is known.</param>
public sealed record KeptExample(PreparedMessage Message, Expectation Expected);

/// <summary>What an edition makes of a kept example, and how that differs from what is expected.</summary>
public sealed record CheckedExample(KeptExample Example, Verdict Verdict, ImmutableArray<Difference> Differences)
{
    public bool Fails => !Differences.IsEmpty;
}

/// <summary>Holds editions to a workflow's kept examples.</summary>
public static class KeptExamples
{
    /// <summary>
    /// Checks every example by itself, at its own time and by this workflow alone: what other workflows do with the message, and
    /// whom was answered before, is not what the example is about.
    /// </summary>
    public static ImmutableArray<CheckedExample> Check(Edition edition, IEnumerable<KeptExample> examples, PlanContext context) =>
    [
        .. examples.Select(e =>
        {
            var verdict = Planner.Plan(e.Message, [edition], context with { Now = e.Message.ArrivedAt }).Verdicts[0];
            return new CheckedExample(e, verdict, e.Expected.Against(verdict, edition.Sheet));
        }),
    ];
}
