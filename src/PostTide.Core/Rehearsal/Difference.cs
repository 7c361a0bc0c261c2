using System.Collections.Immutable;
using PostTide.Core.Workflows;

namespace PostTide.Core.Rehearsal;

/// <summary>One thing that differs between two verdicts, as old value and new value.</summary>
/// <param name="What">What differs, such as “queue”.</param>
/// <param name="Before">The old value, null when there was none.</param>
/// <param name="After">The new value, null when there is none.</param>
public sealed record Difference(string What, string? Before, string? After)
{
    private static readonly DeedKind[] Kinds = Enum.GetValues<DeedKind>();

    /// <summary>Whether two verdicts lead to the same deeds.</summary>
    public static bool Same(Verdict before, Verdict after) => Between(before, after).IsEmpty;

    /// <summary>What differs, the outcome first, then deed by deed.</summary>
    public static ImmutableArray<Difference> Between(Verdict before, Verdict after)
    {
        var differences = ImmutableArray.CreateBuilder<Difference>();
        if (before.Outcome != after.Outcome)
        {
            differences.Add(new Difference("outcome", Say(before.Outcome), Say(after.Outcome)));
        }

        foreach (var kind in Kinds)
        {
            var was = SayDeed(before, kind);
            var becomes = SayDeed(after, kind);
            if (was != becomes)
            {
                differences.Add(new Difference(kind.ToString(), was, becomes));
            }
        }

        return differences.ToImmutable();
    }

    private static string? SayDeed(Verdict verdict, DeedKind kind)
    {
        string? said = null;
        foreach (var deed in verdict.Deeds)
        {
            if (deed.Kind == kind)
            {
                said = said is null ? Say(deed) : $"{said}; {Say(deed)}";
            }
        }

        return said;
    }

    private static string Say(PlannedDeed deed) => deed.SkippedBecause is { } why ? $"{deed.Says}, skipped: {why}"
        : deed.HeldBecause is { } held ? $"{deed.Says}, held: {held}"
        : deed.Says;

    private static string Say(Outcome outcome) => outcome == Outcome.TakenIn ? "taken in" : "left alone";
}
