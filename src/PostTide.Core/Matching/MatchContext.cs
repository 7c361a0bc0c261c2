using System.Collections.Immutable;
using NodaTime;
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

    /// <summary>The category it was sorted into; null for none of these and while that is being decided.</summary>
    public string? CategoryId { get; init; }
}
