using CsCheck;
using NodaTime;
using PostTide.Core.Time;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Time;

/// <summary>Pace against arrivals. That a cap must exceed the arrivals of one interval is common practice, no source.</summary>
public sealed class PaceTests
{
    private static readonly Instant Begin = Instant.FromUtc(2026, 11, 2, 0, 0);

    private static PaceAdvice Advise(int perInterval, int? cap, int looks = 40)
    {
        var arrivals = Enumerable.Range(0, looks).SelectMany(i => Enumerable.Repeat(Begin + Duration.FromMinutes(15 * i + 5), perInterval)).ToList();
        return PaceAdvice.Of(arrivals, Begin, Begin + Duration.FromMinutes(15 * looks), new Pace(15, null), cap);
    }

    /// <summary>NIST/SEMATECH e-Handbook §7.2.6.2, the worked example: 12 values, 90th percentile 95.1981 (from memory).</summary>
    [Fact]
    public void A_percentile_is_the_handbooks()
    {
        double[] values = [95.1772, 95.1567, 95.1937, 95.1959, 95.1442, 95.0610, 95.1591, 95.1195, 95.1065, 95.0925, 95.1990, 95.1682];
        PaceAdvice.Percentile([.. values.Order()], 0.9).ShouldBe(95.1981, 0.00005);
        PaceAdvice.Percentile([.. values.Order()], 0.01).ShouldBe(95.0610);
        PaceAdvice.Percentile([.. values.Order()], 0.99).ShouldBe(95.1990);
    }

    [Fact]
    public void A_percentile_lies_between_the_least_and_the_most_and_grows_with_its_rank() =>
        Gen.Int[0, 1_000].List[1, 60].Select(Gen.Double[0, 1], Gen.Double[0, 1]).Sample((values, p, q) =>
        {
            values.Sort();
            var (low, high) = (PaceAdvice.Percentile(values, Math.Min(p, q)), PaceAdvice.Percentile(values, Math.Max(p, q)));
            low.ShouldBeLessThanOrEqualTo(high);
            low.ShouldBeGreaterThanOrEqualTo(values[0]);
            high.ShouldBeLessThanOrEqualTo(values[^1]);
        });

    [Theory]
    [InlineData(10, null, true, "whatever has come")]
    [InlineData(10, 10, true, "more never came")]
    [InlineData(10, 9, false, "grows without end")]
    public void A_cap_is_held_against_what_comes(int per, int? cap, bool fits, string says)
    {
        var advice = Advise(per, cap);
        (advice.Median, advice.Most, advice.Fits).ShouldBe((10, 10, fits));
        advice.Says.ShouldContain(says);
    }

    [Fact]
    public void A_cap_below_one_look_of_twenty_says_that_nothing_is_lost()
    {
        var arrivals = Enumerable.Range(0, 100).SelectMany(i => Enumerable.Repeat(Begin + Duration.FromMinutes(15 * i + 5), i % 10 == 0 ? 30 : 1)).ToList();
        var advice = PaceAdvice.Of(arrivals, Begin, Begin + Duration.FromMinutes(1_500), new Pace(15, null), 20);
        (advice.Median, advice.Percentile95, advice.Fits).ShouldBe((1, 30, false));
        advice.Says.ShouldContain("Nothing is lost");
    }

    [Fact]
    public void Without_history_nothing_is_claimed() => Advise(0, 5).Says.ShouldContain("no history yet");

    [Fact]
    public void The_first_look_of_a_day_finds_what_came_in_the_night()
    {
        var hours = ActiveHours.Read("07:00", "19:00", [1, 2, 3, 4, 5, 6, 7], "Etc/UTC")!;
        var night = Enumerable.Range(0, 8).Select(h => Begin + Duration.FromHours(20 + h)).ToList();
        var advice = PaceAdvice.Of(night, Begin, Begin + Duration.FromHours(48), new Pace(60, hours), null);
        advice.Most.ShouldBe(8);
    }

    [Fact]
    public void Every_arrival_between_the_first_and_the_last_look_is_counted_once() =>
        Gen.Int[0, 2_000].List[1, 80].Sample(minutes =>
        {
            var arrivals = minutes.Order().Select(m => Begin + Duration.FromMinutes(m)).ToList();
            var end = Begin + Duration.FromMinutes(2_025);
            var advice = PaceAdvice.Of(arrivals, Begin, end, new Pace(15, null), null);
            advice.Looks.ShouldBe(135);
            advice.Most.ShouldBeInRange(1, arrivals.Count);
        });
}
