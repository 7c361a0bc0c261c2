using CsCheck;
using NodaTime;
using PostTide.Core.Time;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Time;

/// <summary>Worked by hand on the calendar of 2026 with the clock changes of Europe/London (IANA tz data: 29 March and 25 October).</summary>
public sealed class ActiveHoursTests
{
    private static readonly ActiveHours Office = ActiveHours.Read("07:00", "19:00", [1, 2, 3, 4, 5], "Europe/London")!;
    private static readonly ActiveHours Night = ActiveHours.Read("22:00", "02:00", [5], "Europe/London")!;

    private static Instant At(int month, int day, int hour, int minute = 0) => Instant.FromUtc(2026, month, day, hour, minute);

    [Theory]
    [InlineData(11, 25, 7, 0, true)]
    [InlineData(11, 25, 6, 59, false)]
    [InlineData(11, 25, 18, 59, true)]
    [InlineData(11, 25, 19, 0, false)]
    [InlineData(11, 28, 12, 0, false)] // a Saturday
    [InlineData(7, 1, 6, 0, true)] // summer time: 7 o’clock in London
    [InlineData(7, 1, 5, 59, false)]
    public void A_moment_is_held_against_the_clocks_of_the_place(int month, int day, int hour, int minute, bool within) =>
        Office.Includes(At(month, day, hour, minute)).ShouldBe(within);

    [Fact]
    public void Hours_over_midnight_belong_to_the_day_they_begin()
    {
        Night.Includes(At(11, 27, 23)).ShouldBeTrue();
        Night.Includes(At(11, 28, 1, 30)).ShouldBeTrue("Saturday morning belongs to Friday");
        Night.Includes(At(11, 28, 23)).ShouldBeFalse();
    }

    [Fact]
    public void The_next_moment_goes_over_the_weekend_and_over_a_clock_change()
    {
        Office.Next(At(11, 27, 20)).ShouldBe(At(11, 30, 7));
        Office.Next(At(3, 27, 20)).ShouldBe(At(3, 30, 6), "the clocks go forward on the Sunday between");
        Office.Next(At(10, 23, 20)).ShouldBe(At(10, 26, 7), "and back");
        Office.Next(At(11, 25, 12)).ShouldBe(At(11, 25, 12));
    }

    [Theory]
    [InlineData("7", "19:00", "Europe/London")]
    [InlineData("07:00", "25:00", "Europe/London")]
    [InlineData("07:00", "19:00", "Europe/Nowhere")]
    public void What_cannot_be_read_is_nothing(string from, string until, string zone) => ActiveHours.Read(from, until, [1], zone).ShouldBeNull();

    [Fact]
    public void No_day_is_nothing()
    {
        ActiveHours.Read("07:00", "19:00", [], "Etc/UTC").ShouldBeNull();
        ActiveHours.Read("07:00", "19:00", [8], "Etc/UTC").ShouldBeNull();
    }

    [Fact]
    public void The_next_moment_is_within_the_hours_and_not_before() => Gen.Int[0, 525_000].Sample(minute =>
    {
        var at = Instant.FromUtc(2026, 1, 1, 0, 0) + Duration.FromMinutes(minute);
        foreach (var hours in new[] { Office, Night })
        {
            var next = hours.Next(at).ShouldNotBeNull();
            next.ShouldBeGreaterThanOrEqualTo(at);
            hours.Includes(next).ShouldBeTrue();
        }
    });
}
