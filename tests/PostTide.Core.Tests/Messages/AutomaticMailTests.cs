using PostTide.Core.Messages;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Messages;

/// <summary>Who must be recognised as automatic: RFC 3834 §5, RFC 3464, RFC 2919, RFC 2369, RFC 8098.</summary>
public sealed class AutomaticMailTests
{
    private static AutomaticKind[] Kinds(HeaderField? field = null, string mediaType = "text/plain", string? report = null, string? returnPath = "a@b.example", string from = "a@b.example", string subject = "Hello") =>
        [.. AutomaticMail.Recognise(field is null ? [] : [field], mediaType, report, returnPath, new EmailAddress("", from), subject).Select(m => m.Kind)];

    [Fact]
    public void A_plain_message_is_not_automatic() => Kinds().ShouldBeEmpty();

    [Theory]
    [InlineData("auto-replied", AutomaticKind.AbsenceNotice)]
    [InlineData("auto-generated", AutomaticKind.Generated)]
    [InlineData("AUTO-REPLIED; owner=x", AutomaticKind.AbsenceNotice)]
    [InlineData("auto-notified (RFC 5436)", AutomaticKind.Generated)]
    public void Auto_Submitted_makes_it_automatic(string value, AutomaticKind kind) => Kinds(new HeaderField("Auto-Submitted", value)).ShouldBe([kind]);

    [Theory]
    [InlineData("no")]
    [InlineData("No (a person wrote this)")]
    [InlineData("")]
    public void Auto_Submitted_no_does_not(string value) => Kinds(new HeaderField("Auto-Submitted", value)).ShouldBeEmpty();

    [Fact]
    public void A_delivery_status_report_is_a_bounce() => Kinds(mediaType: "multipart/report", report: "delivery-status").ShouldBe([AutomaticKind.Bounce]);

    [Fact]
    public void A_disposition_notification_is_generated() =>
        Kinds(mediaType: "multipart/report", report: "disposition-notification").ShouldBe([AutomaticKind.Generated]);

    [Fact]
    public void The_null_return_path_is_a_bounce() => Kinds(returnPath: "").ShouldBe([AutomaticKind.Bounce]);

    [Fact]
    public void An_unknown_return_path_says_nothing() => Kinds(returnPath: null).ShouldBeEmpty();

    [Theory]
    [InlineData("List-Id", "Harbour forum <forum.example>")]
    [InlineData("List-Post", "<mailto:forum@example.org>")]
    [InlineData("Precedence", "list")]
    public void List_mail_is_recognised(string name, string value) => Kinds(new HeaderField(name, value)).ShouldBe([AutomaticKind.MailingList]);

    [Theory]
    [InlineData("Precedence", "bulk")]
    [InlineData("List-Unsubscribe", "<https://list.example/leave>")]
    public void Bulk_mail_is_recognised(string name, string value) => Kinds(new HeaderField(name, value)).ShouldBe([AutomaticKind.Bulk]);

    [Theory]
    [InlineData("Out of office until Monday")]
    [InlineData("Automatic reply: Your berth")]
    [InlineData("Abwesenheitsnotiz: Re: Liegeplatz")]
    public void Absence_subjects_are_recognised_by_common_practice(string subject) => Kinds(subject: subject).ShouldBe([AutomaticKind.AbsenceNotice]);

    [Fact]
    public void The_sign_says_what_it_was_read_from()
    {
        var mark = AutomaticMail.Recognise([new HeaderField("Auto-Submitted", "auto-replied")], "text/plain", null, null, EmailAddress.None, "").ShouldHaveSingleItem();
        mark.Sign.ShouldBe("Auto-Submitted: auto-replied");
    }
}
