namespace PostTide.Core.Workflows;

/// <summary>What became of a deed that was planned before.</summary>
public enum PastState
{
    Done,

    /// <summary>It waits for its time, its turn or a person, or is being carried out.</summary>
    UnderWay,
    Stuck,

    /// <summary>A person stopped it.</summary>
    Stopped,

    /// <summary>It was never tried, for a reason.</summary>
    Skipped,
}

/// <summary>A deed that was planned before for the same message.</summary>
/// <param name="Id">The record of the deed.</param>
/// <param name="Kind">What kind.</param>
/// <param name="Target">What it was aimed at.</param>
/// <param name="Repeat">Which time it was.</param>
/// <param name="State">What became of it.</param>
/// <param name="At">When it was planned.</param>
public sealed record PastDeed(long Id, DeedKind Kind, string Target, int Repeat, PastState State, DateTimeOffset At);

/// <summary>Whether a planned deed is made although something like it was planned before.</summary>
/// <param name="Make">The deed to make, with its number; null when it is not made.</param>
/// <param name="Past">The deed that stands in the way; null when none does.</param>
/// <param name="Because">Why it is not made, without a full stop.</param>
public sealed record RepeatDecision(PlannedDeed? Make, PastDeed? Past, string? Because)
{
    /// <summary>
    /// Decides on a deed of a catch-up. What was done is not done again, unless a person asks for this very deed; what was
    /// skipped was not done, and gets its chance.
    /// </summary>
    /// <param name="planned">The deed as planned now.</param>
    /// <param name="past">Everything planned before for the message by the same workflow, and every reply to it.</param>
    /// <param name="again">Whether a person wants it done again.</param>
    public static RepeatDecision Of(PlannedDeed planned, IEnumerable<PastDeed> past, bool again)
    {
        var same = past.Where(p => p.Kind == planned.Kind && p.Target == planned.Target).ToList();
        var next = same.Count == 0 ? planned : planned with { Repeat = same.Max(p => p.Repeat) + 1 };
        var inTheWay = same.Where(p => p.State != PastState.Skipped).MaxBy(p => (p.At, p.Id));
        return inTheWay switch
        {
            null => new RepeatDecision(next, null, null),
            { State: PastState.UnderWay } => new RepeatDecision(null, inTheWay, "it is under way already"),
            _ when again => new RepeatDecision(next, inTheWay, null),
            { State: PastState.Stuck } => new RepeatDecision(null, inTheWay, "it is stuck from before, and can be tried again there"),
            { State: PastState.Stopped } => new RepeatDecision(null, inTheWay, "a person stopped it before"),
            _ => new RepeatDecision(null, inTheWay, "it was done before"),
        };
    }

    /// <summary>How a deed is named where a person asks for it again.</summary>
    public static string NameOf(DeedKind kind, string target) => $"{kind} {target}";
}
