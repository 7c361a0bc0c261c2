using CsCheck;
using PostTide.Core.Text;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Text;

/// <summary>RFC 3676 §4.3 (signature) and §4.5 (quoting); introductions and dividers are common practice, no source.</summary>
public sealed class BodySplitterTests
{
    private static string NewPart(string text) => BodySplitter.Split(text).NewPart;

    [Fact]
    public void The_signature_begins_at_dash_dash_space() => NewPart("Hello.\n\n-- \nMaud\nTern").ShouldBe("Hello.");

    [Fact]
    public void Quoted_lines_and_their_introduction_are_set_aside() =>
        NewPart("Yes please.\n\nOn Tue, 24 Nov 2026 10:00 Harbour wrote:\n> Do you still come?\n> Regards").ShouldBe("Yes please.");

    [Fact]
    public void An_introduction_broken_over_two_lines_is_known() =>
        NewPart("Yes.\n\nOn Tue, 24 Nov 2026 at 10:00, Saltmarrow\nHarbour Office wrote:\n> Do you?").ShouldBe("Yes.");

    [Fact]
    public void Answers_between_quoted_lines_are_new() => NewPart("> One?\nFirst answer\n> Two?\nSecond answer").ShouldBe("First answer\nSecond answer");

    [Theory]
    [InlineData("See below.\n\n-----Original Message-----\nFrom: A\nSent: today\n\nOld text")]
    [InlineData("See below.\n\nFrom: A <a@b.example>\nSent: Tuesday\nTo: us\n\nOld text")]
    [InlineData("See below.\n\n---------- Forwarded message ----------\nFrom: A\n\nOld text")]
    public void Everything_after_a_divider_is_earlier_mail(string text) => NewPart(text).ShouldBe("See below.");

    [Fact]
    public void A_bare_forward_is_read_whole() => NewPart("---------- Forwarded message ----------\nFrom: A\n\nOld text").ShouldContain("Old text");

    [Fact]
    public void Stretches_follow_each_other_without_gaps() => Made.OneOf("> q", "new", "-- ", "", "On Monday A wrote:", "From: x", "Sent: y", "-----Original Message-----")
        .Array[0, 25].Sample(lines =>
        {
            var text = string.Join('\n', lines);
            var body = BodySplitter.Split(text);
            var at = 0;
            foreach (var stretch in body.Stretches)
            {
                stretch.Start.ShouldBe(at);
                stretch.Length.ShouldBeGreaterThan(0);
                at += stretch.Length;
            }

            at.ShouldBe(text.Length);
        });
}
