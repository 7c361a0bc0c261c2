using PostTide.Core.Matching;
using PostTide.Core.Messages;
using PostTide.Core.Text;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Matching;

/// <summary>
/// The examples of published standards give the same verdicts here. RFC 5228 (Sieve) §2.7.1, §2.7.3, §5.1, §5.7, §5.9; RFC 5233
/// §4 and §5; RFC 5260 §4; RFC 4790 §9.2.
/// </summary>
public sealed class SieveExamplesTests
{
    private static bool Holds(Condition condition, PreparedMessage message) => Matcher.Decide(condition, message, MatchContext.Empty).Held;

    private static Condition Header(string name, MatchTest test, string value, bool sameCase = false) =>
        Made.Text("c", MessagePart.Header, test, value) with { Name = name, SameCase = sameCase };

    private static PreparedMessage With(string name, string value) => Made.Message() with { Header = [new HeaderField(name, value)] };

    // RFC 5228 §2.7.1: “frobnitzm” contains “frob” and “nit”, but not “fbm”.
    [Theory]
    [InlineData("frob", true)]
    [InlineData("nit", true)]
    [InlineData("fbm", false)]
    public void Contains(string value, bool held) => Holds(Header("X-Word", MatchTest.Contains, value), With("X-Word", "frobnitzm")).ShouldBe(held);

    // RFC 5228 §2.7.1: only “frobnitzm” is “frobnitzm”; and a match is “*” for any characters and “?” for one.
    [Theory]
    [InlineData(MatchTest.Is, "frobnitzm", true)]
    [InlineData(MatchTest.Is, "frob", false)]
    [InlineData(MatchTest.Matches, "frob*zm", true)]
    [InlineData(MatchTest.Matches, "frobnit?m", true)]
    [InlineData(MatchTest.Matches, "frob?m", false)]
    public void Is_and_matches(MatchTest test, string value, bool held) => Holds(Header("X-Word", test, value), With("X-Word", "frobnitzm")).ShouldBe(held);

    // RFC 5228 §5.7: for X-Caffeine: C8H10N4O2, (:is "X-Caffeine" [""]) is false and (:contains "X-Caffeine" [""]) is true.
    [Theory]
    [InlineData(MatchTest.Is, "", false)]
    [InlineData(MatchTest.Contains, "", true)]
    [InlineData(MatchTest.Is, "C8H10N4O2", true)]
    public void The_empty_value(MatchTest test, string value, bool held)
    {
        Holds(Header("X-Caffeine", test, value), With("X-Caffeine", "C8H10N4O2")).ShouldBe(held);

        // §5.7: a header that is not there matches nothing.
        Holds(Header("X-Caffeine", test, value), Made.Message()).ShouldBeFalse();
    }

    // RFC 5228 §2.7.3 and RFC 4790 §9.2: i;ascii-casemap makes “a” and “A” the same, i;octet (§9.3) does not.
    [Theory]
    [InlineData(false, true)]
    [InlineData(true, false)]
    public void Comparators(bool sameCase, bool held) => Holds(Header("Subject", MatchTest.Contains, "MAKE MONEY FAST", sameCase), With("subject", "Make money fast")).ShouldBe(held);

    // RFC 5228 §5.1: address :is :all "from" "tim@example.com" with From: "Tim Howes" <tim@example.com>.
    [Fact]
    public void An_address_is_compared_without_its_name()
    {
        var message = Made.Message() with { From = new EmailAddress("Tim Howes", "tim@example.com") };
        Holds(Made.Text("c", MessagePart.SenderAddress, MatchTest.Is, "tim@example.com"), message).ShouldBeTrue();
        Holds(Made.Text("c", MessagePart.SenderDomain, MatchTest.Is, "example.com"), message).ShouldBeTrue();
        Holds(Made.Text("c", MessagePart.SenderAddress, MatchTest.Contains, "Howes"), message).ShouldBeFalse();
    }

    // RFC 5228 §5.5: exists ["From","Date"] needs both.
    [Fact]
    public void Exists()
    {
        var there = new Condition { Id = "c", Part = MessagePart.Header, Name = "Date", Test = MatchTest.Present };
        Holds(there, With("date", "Tue, 1 Apr 1997 09:06:31 -0800")).ShouldBeTrue();
        Holds(there, Made.Message()).ShouldBeFalse();
    }

    // RFC 5228 §5.9: a message of exactly 4,000 octets is neither :over 4000 nor :under 4000.
    [Theory]
    [InlineData(4_000, false, false)]
    [InlineData(4_001, true, false)]
    [InlineData(3_999, false, true)]
    public void Size(long size, bool over, bool under)
    {
        var message = Made.Message() with { Size = size };
        Holds(new Condition { Id = "c", Part = MessagePart.Size, Test = MatchTest.Between, Least = 4_001 }, message).ShouldBe(over);
        Holds(new Condition { Id = "c", Part = MessagePart.Size, Test = MatchTest.Between, Most = 3_999 }, message).ShouldBe(under);
    }

    // RFC 5233 §4: in ken+sieve@example.org the user is “ken”, the detail “sieve”; §4: without “+” there is no detail at all.
    [Theory]
    [InlineData("ken+sieve@example.org", MatchTest.Is, "sieve", true)]
    [InlineData("ken+sieve@example.org", MatchTest.Is, "ken", false)]
    [InlineData("ken+@example.org", MatchTest.Is, "", true)]
    [InlineData("ken@example.org", MatchTest.Is, "", false)]
    [InlineData("ken@example.org", MatchTest.Contains, "", false)]
    public void The_detail_of_an_address(string to, MatchTest test, string value, bool held) =>
        Holds(Made.Text("c", MessagePart.Tag, test, value), Made.Message() with { OriginallyTo = [to], To = [] }).ShouldBe(held);

    // RFC 5260 §4 date-part “weekday”: 0 is Sunday; §4.2: 1 April 2003 was a Tuesday (from memory). “hour” runs from 00 to 23.
    [Fact]
    public void Dates()
    {
        var message = Made.Message() with { ArrivedAt = new DateTimeOffset(2003, 4, 1, 9, 6, 31, TimeSpan.Zero), SentAt = new DateTimeOffset(2003, 3, 31, 23, 0, 0, TimeSpan.FromHours(-8)) };
        Holds(Made.Text("c", MessagePart.Weekday, MatchTest.OneOf, "Tuesday"), message).ShouldBeTrue();
        Holds(new Condition { Id = "c", Part = MessagePart.Hour, Test = MatchTest.Between, From = "09:00", Until = "10:00" }, message).ShouldBeTrue();

        // RFC 5260 §4.1.1: :originalzone goes by the zone the date was written in.
        Holds(new Condition { Id = "c", Part = MessagePart.SentDate, Test = MatchTest.Between, From = "2003-03-31", Until = "2003-03-31" }, message).ShouldBeTrue();
    }

    // RFC 5256 §2.1 worked: reply marks, list tags and trailers go, the rest stays as it is.
    [Theory]
    [InlineData("Re: Berth", "Berth")]
    [InlineData("Re: [list] Fwd: Berth (fwd)", "Berth")]
    [InlineData("[fwd: Berth]", "Berth")]
    public void The_base_subject(string subject, string bare) => Holds(Made.Text("c", MessagePart.BaseSubject, MatchTest.Is, bare), Made.Message(CleanText.Line(subject))).ShouldBeTrue();
}
