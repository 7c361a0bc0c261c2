using System.Collections.Immutable;
using PostTide.Core.Workflows;

namespace PostTide.Core.Rehearsal;

/// <summary>One day (UTC) of a rehearsal.</summary>
public sealed record RehearsalDay(DateOnly Day, int TakenIn, int LeftAlone, int Changed);

/// <summary>Two lines that both fit some messages.</summary>
/// <param name="First">The line further up.</param>
/// <param name="Second">The one further down.</param>
/// <param name="Messages">How many messages.</param>
public sealed record LineOverlap(string First, string Second, int Messages)
{
    /// <summary>The name under which the messages can be opened.</summary>
    public string Key => $"{First} {Second}";

    internal static IEnumerable<LineOverlap> PairsOf(Verdict verdict)
    {
        for (var i = 0; i < verdict.Fits.Length; i++)
        {
            for (var j = i + 1; j < verdict.Fits.Length; j++)
            {
                yield return new LineOverlap(verdict.Fits[i], verdict.Fits[j], 0);
            }
        }
    }
}

/// <summary>The counts of a rehearsal. Every one of them can be opened with <see cref="RehearsalSelection"/>.</summary>
/// <param name="Messages">All messages rehearsed; equals taken in + left alone + skipped.</param>
/// <param name="TakenIn">Taken in by the edition in hand.</param>
/// <param name="LeftAlone">Left alone by it.</param>
/// <param name="Skipped">Not seen, because an earlier workflow took them in and skips later ones.</param>
/// <param name="NearMisses">Left alone because of exactly one condition.</param>
/// <param name="Changes">Messages to which something else would happen than under the live edition.</param>
/// <param name="WithoutLine">Taken in, but no line fits.</param>
/// <param name="Categories">Taken in, by category id.</param>
/// <param name="NoneOfThese">Taken in and sorted into none of the categories.</param>
/// <param name="Unsure">Taken in, and the sorter was not sure enough.</param>
/// <param name="Lines">Taken in, by the id of the line that fits.</param>
/// <param name="Fits">Taken in, by the id of every line that fits, carried out or not.</param>
/// <param name="Overlaps">Pairs of lines that both fit some messages, the most frequent first.</param>
/// <param name="Conditions">All messages on which a condition under “takes in” held, by condition id.</param>
/// <param name="Deeds">Deeds planned, by kind; skipped ones are not among them.</param>
/// <param name="HeldReplies">Replies that would wait for a person.</param>
/// <param name="SkippedDeeds">Deeds that would be skipped, each with its reason in the message.</param>
/// <param name="Days">The same messages day by day, days without mail left out.</param>
public sealed record RehearsalSummary(
    int Messages,
    int TakenIn,
    int LeftAlone,
    int Skipped,
    int NearMisses,
    int Changes,
    int WithoutLine,
    ImmutableDictionary<string, int> Categories,
    int NoneOfThese,
    int Unsure,
    ImmutableDictionary<string, int> Lines,
    ImmutableDictionary<string, int> Fits,
    ImmutableArray<LineOverlap> Overlaps,
    ImmutableDictionary<string, int> Conditions,
    ImmutableDictionary<DeedKind, int> Deeds,
    int HeldReplies,
    int SkippedDeeds,
    ImmutableArray<RehearsalDay> Days)
{
    /// <summary>Counts a rehearsal.</summary>
    public static RehearsalSummary Of(RehearsalResult result)
    {
        var taken = result.TakenIn.ToList();
        var deeds = taken.SelectMany(m => m.After.Deeds).ToList();
        return new RehearsalSummary(
            result.Messages.Length,
            taken.Count,
            result.Messages.Count(m => m.After.Outcome == Outcome.LeftAlone),
            result.Messages.Count(m => m.After.Outcome == Outcome.Skipped),
            result.NearMisses.Count(),
            result.Changes.Count(),
            taken.Count(m => m.After.LineId is null),
            Count(taken.Select(m => m.After.CategoryId)),
            taken.Count(m => m.After is { CategoryId: null, Sorter: not { Unsure: true } }),
            taken.Count(m => m.After.Sorter is { Unsure: true }),
            Count(taken.SelectMany(m => CarriedBy(m.After, result.EveryLine))),
            Count(taken.SelectMany(m => m.After.Fits)),
            [.. taken.SelectMany(m => LineOverlap.PairsOf(m.After)).CountBy(p => p).OrderByDescending(p => p.Value).Select(p => p.Key with { Messages = p.Value })],
            Count(result.Messages.SelectMany(m => m.After.Held)),
            deeds.Where(d => d.SkippedBecause is null).CountBy(d => d.Kind).ToImmutableDictionary(),
            deeds.Count(WaitsForPerson),
            deeds.Count(d => d.SkippedBecause is not null),
            [.. result.Messages.GroupBy(m => DateOnly.FromDateTime(m.Message.ArrivedAt.UtcDateTime)).OrderBy(g => g.Key).Select(Day)]);
    }

    private static RehearsalDay Day(IGrouping<DateOnly, RehearsedMessage> day)
    {
        var taken = day.Count(m => m.After.Outcome == Outcome.TakenIn);
        return new RehearsalDay(day.Key, taken, day.Count() - taken, day.Count(m => m.Changed));
    }

    /// <summary>The lines that are carried out for a message.</summary>
    internal static IEnumerable<string> CarriedBy(Verdict verdict, bool everyLine) =>
        everyLine ? verdict.Fits : verdict.LineId is { } line ? [line] : [];

    internal static bool WaitsForPerson(PlannedDeed deed) =>
        deed is { SkippedBecause: null, Content: ReplyContent reply } && (deed.HeldBecause is not null || reply.Mode == ReplyMode.Check);

    private static ImmutableDictionary<string, int> Count(IEnumerable<string?> ids) =>
        ids.OfType<string>().CountBy(id => id).ToImmutableDictionary();
}

/// <summary>Which messages of a rehearsal a count stands for.</summary>
public enum RehearsalView
{
    All,
    TakenIn,
    LeftAlone,
    Skipped,
    NearMisses,
    Changes,
    WithoutLine,
    Category,
    NoneOfThese,

    /// <summary>The sorter was not sure enough.</summary>
    Unsure,
    Line,

    /// <summary>Every message a line fits, carried out or not.</summary>
    Fits,

    /// <summary>Messages two lines both fit; see <see cref="LineOverlap.Key"/>.</summary>
    Overlap,
    Condition,
    HeldReplies,
    SkippedDeeds,
    Deed,
}

/// <summary>Opens a count: the view, and the id of the category, line or condition, or the kind of deed, where it needs one.</summary>
public sealed record RehearsalSelection(RehearsalView View, string? Id = null)
{
    /// <summary>Whether a message belongs to the count.</summary>
    /// <param name="message">The message.</param>
    /// <param name="everyLine">Whether every line that fits is carried out.</param>
    public bool Holds(RehearsedMessage message, bool everyLine = false)
    {
        var after = message.After;
        var taken = after.Outcome == Outcome.TakenIn;
        return View switch
        {
            RehearsalView.TakenIn => taken,
            RehearsalView.LeftAlone => after.Outcome == Outcome.LeftAlone,
            RehearsalView.Skipped => after.Outcome == Outcome.Skipped,
            RehearsalView.NearMisses => after.NearMiss,
            RehearsalView.Changes => message.Changed,
            RehearsalView.WithoutLine => taken && after.LineId is null,
            RehearsalView.Category => taken && after.CategoryId == Id,
            RehearsalView.NoneOfThese => taken && after is { CategoryId: null, Sorter: not { Unsure: true } },
            RehearsalView.Unsure => taken && after.Sorter is { Unsure: true },
            RehearsalView.Line => taken && (after.LineId == Id || (everyLine && Id is not null && after.Fits.Contains(Id))),
            RehearsalView.Fits => taken && Id is not null && after.Fits.Contains(Id),
            RehearsalView.Overlap => taken && Id is not null && Id.Split(' ').All(l => after.Fits.Contains(l)),
            RehearsalView.Condition => Id is not null && after.Held.Contains(Id),
            RehearsalView.HeldReplies => taken && after.Deeds.Any(RehearsalSummary.WaitsForPerson),
            RehearsalView.SkippedDeeds => taken && after.Deeds.Any(d => d.SkippedBecause is not null),
            RehearsalView.Deed => taken && after.Deeds.Any(d => d.SkippedBecause is null && d.Kind.ToString() == Id),
            _ => true,
        };
    }
}
