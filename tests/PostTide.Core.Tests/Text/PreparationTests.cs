using CsCheck;
using PostTide.Core.Messages;
using PostTide.Core.Text;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Text;

public sealed class PreparationTests
{
    private static readonly ParsedMessage Parsed = new()
    {
        MessageId = "<m1@x.example>",
        From = new EmailAddress("Ada", "ada@x.example"),
        To = [new EmailAddress("", "berths@saltmarrow.example")],
        Subject = "Berth",
        TextBody = "A berth please.\r\n",
    };

    private static PreparedMessage Prepare(ParsedMessage parsed, Envelope? envelope = null) => Preparation.Prepare(parsed, envelope ?? Envelope.Unknown, Made.Noon);

    [Fact]
    public void Carries_over_what_decisions_rest_on()
    {
        var m = Prepare(Parsed);
        (m.MessageId, m.From.Address, m.Subject, m.Body.Text, m.ArrivedAt, m.Version)
            .ShouldBe(("m1@x.example", "ada@x.example", "Berth", "A berth please.\n", Made.Noon, PreparedMessage.CurrentVersion));
    }

    [Fact]
    public void The_envelope_knows_the_return_path_better_than_the_header()
    {
        var parsed = Parsed with { ReturnPath = "header@x.example" };
        Prepare(parsed).ReturnPath.ShouldBe("header@x.example");
        Prepare(parsed, new Envelope("", [])).ReturnPath.ShouldBe("");
        Prepare(Parsed).ReturnPath.ShouldBeNull();
    }

    [Fact]
    public void Addresses_it_was_written_to_are_kept_once_the_envelopes_first()
    {
        var parsed = Parsed with { DeliveredTo = ["Berths@Saltmarrow.example", "other@saltmarrow.example"] };
        Prepare(parsed, new Envelope("a@x.example", ["berths@saltmarrow.example"])).OriginallyTo.ShouldBe(["berths@saltmarrow.example", "other@saltmarrow.example"]);
    }

    [Fact]
    public void The_plain_part_is_preferred_and_html_read_where_it_says_nothing()
    {
        Prepare(Parsed with { HtmlBody = "<p>html</p>" }).Body.NewPart.ShouldBe("A berth please.");
        Prepare(Parsed with { TextBody = "  \r\n", HtmlBody = "<p>html</p>" }).Body.NewPart.ShouldBe("html");
        Prepare(Parsed with { TextBody = null, HtmlBody = null }).Body.ShouldBe(BodyText.Empty with { Stretches = Prepare(Parsed with { TextBody = null }).Body.Stretches });
    }

    [Fact]
    public void Header_values_are_one_line_each_and_of_bounded_length()
    {
        var m = Prepare(Parsed with { Subject = "a\r\nBcc: b\tc" + new string('x', 10_000), From = new EmailAddress("A\nB", "a@x.example") });
        m.Subject.ShouldStartWith("a Bcc: b c");
        m.Subject.Length.ShouldBeLessThanOrEqualTo(2_000);
        m.From.Name.ShouldBe("A B");
    }

    [Fact]
    public void A_body_beyond_reason_is_read_up_to_the_limit() =>
        Prepare(Parsed with { TextBody = new string('x', Preparation.LongestBody + 5) }).Body.Text.Length.ShouldBe(Preparation.LongestBody);

    [Fact]
    public void Automatic_mail_is_marked_before_anything_else_looks_at_it() =>
        Prepare(Parsed with { Header = [new HeaderField("Auto-Submitted", "auto-replied")] }).Automatic.ShouldHaveSingleItem().Kind.ShouldBe(AutomaticKind.AbsenceNotice);

    [Fact]
    public void Whatever_comes_in_can_be_stored_and_searched() => Gen.Select(Gen.String, Gen.String, Gen.String).Sample((subject, name, body) =>
    {
        var m = Prepare(Parsed with { Subject = subject, From = new EmailAddress(name, name), TextBody = body });
        foreach (var text in new[] { m.Subject, m.From.Name, m.Body.Text })
        {
            text.ShouldNotContain('\0');
            text.IsNormalized().ShouldBeTrue();
            System.Text.Encoding.UTF8.GetString(System.Text.Encoding.UTF8.GetBytes(text)).ShouldBe(text);
        }

        m.Subject.ShouldNotContain('\n');
        m.Body.NewStretches.ShouldAllBe(s => s.Start + s.Length <= m.Body.Text.Length);
    });
}
