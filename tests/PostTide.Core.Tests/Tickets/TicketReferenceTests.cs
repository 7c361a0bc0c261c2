using PostTide.Core.Matching;
using PostTide.Core.Tickets;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Tickets;

public sealed class TicketReferenceTests
{
    private static string[] Find(string subject, string body = "x\n") => [.. TicketReference.FindIn(Made.Message(subject, body), "SH").Select(e => e.Text.ToUpperInvariant())];

    [Fact]
    public void A_reference_is_prefix_and_number() => TicketReference.Format("SH", 1042).ShouldBe("SH-1042");

    [Theory]
    [InlineData("Re: SH-1042", new[] { "SH-1042" })]
    [InlineData("[SH-1] and (sh-2).", new[] { "SH-1", "SH-2" })]
    [InlineData("FISH-1042", new string[0])]
    [InlineData("SH-", new string[0])]
    [InlineData("SH-12a", new string[0])]
    [InlineData("SH-99999999999999999999", new string[0])]
    public void References_stand_by_themselves(string subject, string[] expected) => Find(subject).ShouldBe(expected);

    [Fact]
    public void The_subject_is_looked_at_before_the_body_and_quoted_text_not_at_all() =>
        Find("SH-2", "about SH-3\n\nOn Monday A wrote:\n> SH-4\n").ShouldBe(["SH-2", "SH-3"]);

    [Fact]
    public void What_is_formatted_is_found_where_it_stands()
    {
        var found = TicketReference.FindIn(Made.Message($"about {TicketReference.Format("SH", 7)}"), "SH").ShouldHaveSingleItem();
        (found.Place, found.Start, found.Length).ShouldBe((EvidencePlace.Subject, 6, 4));
    }
}
