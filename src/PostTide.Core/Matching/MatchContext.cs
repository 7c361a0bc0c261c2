using System.Collections.Immutable;
using NodaTime;
using PostTide.Core.Sorting;
using PostTide.Core.Time;

namespace PostTide.Core.Matching;

/// <summary>Where a message stands in its conversation.</summary>
/// <param name="Number">Which message it is, from 1.</param>
/// <param name="AnswersOurs">Whether it refers to a message of ours.</param>
public sealed record ConversationPlace(int Number, bool AnswersOurs)
{
    public static readonly ConversationPlace First = new(1, false);
}

/// <summary>Everything the conditions on one message may depend on besides the message.</summary>
public sealed record MatchContext
{
    /// <summary>Business hours where an office has not said its own: Monday to Friday, nine to five, UTC (common practice, no source).</summary>
    public static readonly ActiveHours UsualDesk = new(
        new LocalTime(9, 0), new LocalTime(17, 0),
        [IsoDayOfWeek.Monday, IsoDayOfWeek.Tuesday, IsoDayOfWeek.Wednesday, IsoDayOfWeek.Thursday, IsoDayOfWeek.Friday], DateTimeZone.Utc);

    public static readonly MatchContext Empty = new();

    public DateTimeOffset Now { get; init; }
    public IReadOnlyDictionary<long, KeywordList> KeywordLists { get; init; } = ImmutableDictionary<long, KeywordList>.Empty;
    public IReadOnlyDictionary<long, SavedCondition> SavedConditions { get; init; } = ImmutableDictionary<long, SavedCondition>.Empty;

    /// <summary>The desk's business hours and time zone.</summary>
    public ActiveHours Desk { get; init; } = UsualDesk;

    /// <summary>The authserv-ids whose results count (RFC 8601 §5).</summary>
    public ImmutableHashSet<string> TrustedServers { get; init; } = [];
    public ConversationPlace Conversation { get; init; } = ConversationPlace.First;

    /// <summary>Whether the message belongs to a ticket.</summary>
    public bool HasTicket { get; init; }

    /// <summary>The sorters, by id.</summary>
    public IReadOnlyDictionary<long, SorterInUse> Sorters { get; init; } = ImmutableDictionary<long, SorterInUse>.Empty;

    /// <summary>What people said messages are, by sorter and message: it counts before what the sorter says.</summary>
    public IReadOnlyDictionary<(long Sorter, long Message), SaidBefore> SortedByHand { get; init; } = ImmutableDictionary<(long, long), SaidBefore>.Empty;

    /// <summary>What outside sorters said, by sorter and message.</summary>
    public IReadOnlyDictionary<(long Sorter, long Message), SaidBefore> SaidOutside { get; init; } = ImmutableDictionary<(long, long), SaidBefore>.Empty;

    /// <summary>Whether the words a sorter's decision rests on are wanted; a rehearsal of thousands finds them when a message is opened.</summary>
    public bool SorterWords { get; init; } = true;

    /// <summary>The category it was sorted into; null for none of these and while that is being decided.</summary>
    public string? CategoryId { get; init; }
}
