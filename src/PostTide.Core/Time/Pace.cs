using NodaTime;

namespace PostTide.Core.Time;

/// <summary>How often a mailbox is looked at.</summary>
/// <param name="Minutes">Between looks. 15 is usual (common practice, no source).</param>
/// <param name="Hours">When it is looked at; null for always.</param>
public sealed record Pace(int Minutes, ActiveHours? Hours)
{
    /// <summary>When to look next after a look; null when no hour of the week is active.</summary>
    public Instant? NextAfter(Instant look)
    {
        var next = look + Duration.FromMinutes(Minutes);
        return Hours is null ? next : Hours.Next(next);
    }
}

/// <summary>Arrivals between looks, beside what a look takes at most.</summary>
/// <param name="Looks">How many looks the history was cut into.</param>
/// <param name="Median">Half of the looks find at most this many new messages.</param>
/// <param name="Percentile95">19 of 20 looks find at most this many.</param>
/// <param name="Most">The most that came between two looks.</param>
/// <param name="Fits">Whether the cap is enough for 19 of 20 looks.</param>
/// <param name="Says">What that means, in a sentence.</param>
public sealed record PaceAdvice(int Looks, double Median, double Percentile95, int Most, bool Fits, string Says)
{
    private const int MostLooks = 200_000;

    /// <summary>Holds a mailbox's own history against its pace and cap.</summary>
    /// <param name="arrivals">When messages arrived, in order.</param>
    /// <param name="from">The beginning of the history.</param>
    /// <param name="until">Its end.</param>
    /// <param name="pace">The pace.</param>
    /// <param name="cap">The most messages a look takes; null for no limit.</param>
    public static PaceAdvice Of(IReadOnlyList<Instant> arrivals, Instant from, Instant until, Pace pace, int? cap)
    {
        var counts = Count(arrivals, from, until, pace);
        if (counts.Count == 0 || arrivals.Count == 0)
        {
            return new PaceAdvice(counts.Count, 0, 0, 0, true, "There is no history yet to hold the pace against.");
        }

        counts.Sort();
        var (median, high) = (Percentile(counts, 0.5), Percentile(counts, 0.95));
        var most = counts[^1];
        var mean = counts.Average();
        var (fits, says) = cap switch
        {
            null => (true, "A look takes whatever has come, so nothing is left waiting."),
            { } c when c < mean => (false, $"A look takes at most {c}, fewer than come between two looks on average ({mean:0.#}): the rest grows without end. Take more at a time or look more often."),
            { } c when c < high => (false, $"A look takes at most {c}; in one look of 20 more has come ({high:0.#}) and the rest waits for the next look. Nothing is lost."),
            { } c when c < most => (true, $"A look takes at most {c}, enough for 19 looks of 20; the most that ever came at once was {most}."),
            { } c => (true, $"A look takes at most {c}; more never came between two looks."),
        };
        return new PaceAdvice(counts.Count, median, high, most, fits, says);
    }

    /// <summary>
    /// A percentile of sorted values by the method of the NIST/SEMATECH e-Handbook §7.2.6.2: rank p(N + 1), interpolated.
    /// </summary>
    public static double Percentile(IReadOnlyList<int> sorted, double p) => Percentile([.. sorted.Select(v => (double)v)], p);

    /// <inheritdoc cref="Percentile(IReadOnlyList{int}, double)"/>
    public static double Percentile(IReadOnlyList<double> sorted, double p)
    {
        var rank = p * (sorted.Count + 1);
        var whole = (int)Math.Floor(rank);
        return whole < 1 ? sorted[0]
            : whole >= sorted.Count ? sorted[^1]
            : sorted[whole - 1] + (rank - whole) * (sorted[whole] - sorted[whole - 1]);
    }

    /// <summary>How many messages each look would have found. The first look of a day finds what came in the night.</summary>
    private static List<int> Count(IReadOnlyList<Instant> arrivals, Instant from, Instant until, Pace pace)
    {
        var counts = new List<int>();
        var next = 0;
        for (var look = pace.NextAfter(from); look is { } at && at <= until && counts.Count < MostLooks; look = pace.NextAfter(at))
        {
            var count = 0;
            for (; next < arrivals.Count && arrivals[next] <= at; next++)
            {
                count++;
            }

            counts.Add(count);
        }

        return counts;
    }
}
