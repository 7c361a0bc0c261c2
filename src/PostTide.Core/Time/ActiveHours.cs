using System.Collections.Immutable;
using NodaTime;
using NodaTime.Text;

namespace PostTide.Core.Time;

/// <summary>The hours of the week in which something is looked after, on the clocks of one place.</summary>
/// <param name="From">The first minute of a day.</param>
/// <param name="Until">The minute after the last; the same as <paramref name="From"/> or before it for hours over midnight.</param>
/// <param name="Days">The days on which they begin.</param>
/// <param name="Zone">The place, by its name in the IANA time zone database.</param>
public sealed record ActiveHours(LocalTime From, LocalTime Until, ImmutableHashSet<IsoDayOfWeek> Days, DateTimeZone Zone)
{
    private const int FarthestDays = 8;

    /// <summary>Hours as they are written down; null when a part of them cannot be read.</summary>
    /// <param name="from">HH:mm.</param>
    /// <param name="until">HH:mm.</param>
    /// <param name="days">ISO days, 1 for Monday to 7.</param>
    /// <param name="zone">A name of the IANA time zone database.</param>
    public static ActiveHours? Read(string from, string until, IReadOnlyCollection<int> days, string zone)
    {
        var pattern = LocalTimePattern.CreateWithInvariantCulture("HH:mm");
        var (begin, end) = (pattern.Parse(from), pattern.Parse(until));
        return begin.Success && end.Success && days.Count > 0 && days.All(d => d is >= 1 and <= 7) && DateTimeZoneProviders.Tzdb.GetZoneOrNull(zone) is { } place
            ? new ActiveHours(begin.Value, end.Value, [.. days.Select(d => (IsoDayOfWeek)d)], place)
            : null;
    }

    /// <summary>Whether a moment lies within the hours.</summary>
    public bool Includes(Instant at)
    {
        var today = at.InZone(Zone).Date;
        return Span(today.PlusDays(-1)) is { } yesterday && yesterday.Contains(at) || Span(today) is { } span && span.Contains(at);
    }

    /// <summary>The moment itself when it lies within the hours, or the next beginning; null when no day is active.</summary>
    public Instant? Next(Instant at)
    {
        if (Includes(at))
        {
            return at;
        }

        var day = at.InZone(Zone).Date;
        for (var i = 0; i <= FarthestDays; i++)
        {
            if (Span(day.PlusDays(i)) is { } span && span.Start >= at)
            {
                return span.Start;
            }
        }

        return null;
    }

    /// <summary>The hours that begin on a day. A time the clocks skip counts as the moment after the gap.</summary>
    private Interval? Span(LocalDate day)
    {
        if (!Days.Contains(day.DayOfWeek))
        {
            return null;
        }

        var start = (day + From).InZoneLeniently(Zone).ToInstant();
        var end = ((Until <= From ? day.PlusDays(1) : day) + Until).InZoneLeniently(Zone).ToInstant();
        return end > start ? new Interval(start, end) : null;
    }
}
