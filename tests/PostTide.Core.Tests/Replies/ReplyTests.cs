using CsCheck;
using PostTide.Core.Messages;
using PostTide.Core.Replies;
using PostTide.Core.Workflows;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Replies;

/// <summary>RFC 3834 §2 (who must not be answered), §3.1 (headers of the answer); RFC 5322 §3.6.4.</summary>
public sealed class ReplyTests
{
    private static string? Refuse(PreparedMessage message, string? to = null, PlanContext? context = null) =>
        ReplySafety.Refuse(message, to ?? message.From.Address, context ?? Made.Context);

    [Fact]
    public void A_person_is_answered() => Refuse(Made.Message()).ShouldBeNull();

    [Theory]
    [InlineData(AutomaticKind.Bounce)]
    [InlineData(AutomaticKind.AbsenceNotice)]
    [InlineData(AutomaticKind.MailingList)]
    [InlineData(AutomaticKind.Bulk)]
    [InlineData(AutomaticKind.Generated)]
    public void Automatic_mail_is_never_answered(AutomaticKind kind) =>
        Refuse(Made.Message() with { Automatic = [new AutomaticMark(kind, "sign")] })!.ShouldContain("automatic mail");

    [Fact]
    public void An_empty_return_path_is_never_answered() => Refuse(Made.Message() with { ReturnPath = "" }).ShouldBe("the return path is empty");

    [Theory]
    [InlineData("noreply@shop.example")]
    [InlineData("No-Reply@shop.example")]
    [InlineData("no-reply-17@shop.example")]
    [InlineData("donotreply@shop.example")]
    public void No_reply_addresses_are_never_answered(string address) => Refuse(Made.Message(), address).ShouldBe("nobody reads mail to a no-reply address");

    [Theory]
    [InlineData("mailer-daemon@host.example")]
    [InlineData("owner-list@host.example")]
    [InlineData("list-request@host.example")]
    public void Mail_systems_and_lists_are_never_answered(string address) => Refuse(Made.Message(), address)!.ShouldContain("mail system or a list");

    [Theory]
    [InlineData("berths@saltmarrow.example")]
    [InlineData("Berths+x@Saltmarrow.example")]
    public void We_never_answer_ourselves(string address) => Refuse(Made.Message(), address).ShouldBe("the address is one of our own");

    [Theory]
    [InlineData("a@blocked.example")]
    [InlineData("b@other.example")]
    public void The_do_not_mail_list_holds_addresses_and_domains(string address) =>
        Refuse(Made.Message(), address, Made.Context with { DoNotMail = ["blocked.example", "b@other.example"] })!.ShouldContain("do-not-mail");

    [Fact]
    public void The_headers_thread_the_reply()
    {
        var message = Made.Message("Re: Berth") with { References = ["a@x.example", "b@x.example"] };
        var key = Guid.NewGuid();
        var headers = ReplyHeaders.For(message, key, "saltmarrow.example");
        headers.Subject.ShouldBe("Re: Berth");
        headers.InReplyTo.ShouldBe("m7@tern.example");
        headers.References.ShouldBe(["a@x.example", "b@x.example", "m7@tern.example"]);
        headers.MessageId.ShouldBe(ReplyHeaders.For(message, key, "saltmarrow.example").MessageId);
        headers.MessageId.ShouldEndWith("@saltmarrow.example");
    }

    [Fact]
    public void A_message_without_an_id_is_answered_without_In_Reply_To()
    {
        var headers = ReplyHeaders.For(Made.Message() with { MessageId = "" }, Guid.NewGuid(), "x.example");
        headers.InReplyTo.ShouldBeNull();
        headers.References.ShouldBeEmpty();
    }

    [Fact]
    public void No_header_value_can_begin_a_line_of_its_own() => Gen.Select(Gen.String, Gen.String).Sample((subject, id) =>
    {
        var hostile = Made.Message($"x\r\nBcc: {subject}") with { MessageId = MessageIds.Bare($"{id}\r\nBcc: y"), References = [] };
        var headers = ReplyHeaders.For(hostile, Guid.NewGuid(), "x.example");
        foreach (var value in headers.References.Append(headers.Subject).Append(headers.InReplyTo ?? ""))
        {
            value.ShouldNotContain('\r');
            value.ShouldNotContain('\n');
        }
    });

    [Fact]
    public void Templates_name_what_is_missing_instead_of_leaving_a_hole()
    {
        var filled = LiquidText.Fill("Dear {{ name }}, about {{ vessel }}", new Dictionary<string, object?> { ["name"] = "Ada", ["vessel"] = "" });
        filled.Text.ShouldBe("Dear Ada, about ");
        filled.Missing.ShouldBe(["vessel"]);
    }

    [Fact]
    public void A_broken_template_says_so() => LiquidText.Check("Dear {{ name").ShouldNotBeNull();

    [Fact]
    public void A_template_that_would_fill_a_long_range_is_refused() =>
        LiquidText.Check("{% for i in (1..100000000) %}x{% endfor %}").ShouldBe("Ranges such as (1..10) cannot be used.");

    [Fact]
    public void A_template_that_takes_too_many_steps_is_stopped()
    {
        var nested = string.Concat(Enumerable.Repeat("{% for a in all %}", 6)) + "x" + string.Concat(Enumerable.Repeat("{% endfor %}", 6));
        LiquidText.Fill(nested, new Dictionary<string, object?> { ["all"] = new string[40] }).Error.ShouldNotBeNull();
    }

    [Fact]
    public void Values_are_never_read_as_templates() =>
        LiquidText.Fill("{{ a }}", new Dictionary<string, object?> { ["a"] = "{{ b }}" }).Text.ShouldBe("{{ b }}");
}
