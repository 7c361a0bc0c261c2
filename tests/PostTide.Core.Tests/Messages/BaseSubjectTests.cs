using PostTide.Core.Messages;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Messages;

/// <summary>RFC 5256 §2.1. The grammar is the source; the examples are worked from it by hand.</summary>
public sealed class BaseSubjectTests
{
    [Theory]
    [InlineData("Re: berth", "berth")]
    [InlineData("RE : berth", "berth")]
    [InlineData("Re[2]: berth", "berth")]
    [InlineData("Re [2] : berth", "berth")]
    [InlineData("Fwd: Re: Fw: berth", "berth")]
    [InlineData("[list] Re: [list] berth", "berth")]
    [InlineData("berth (fwd)", "berth")]
    [InlineData("Re: berth (fwd) (FWD)", "berth")]
    [InlineData("[fwd: berth]", "berth")]
    [InlineData("[Fwd: Re: berth (fwd)]", "berth")]
    [InlineData("  many   spaces\there ", "many spaces here")]
    [InlineData("[only a tag]", "[only a tag]")]
    [InlineData("Re:", "")]
    [InlineData("Reply about the berth", "Reply about the berth")]
    [InlineData("", "")]
    public void Takes_off_marks_tags_and_trailers(string subject, string expected) => BaseSubject.Of(subject).ShouldBe(expected);

    [Theory]
    [InlineData("AW: Liegeplatz", "Liegeplatz")]
    [InlineData("SV: Båtplass", "Båtplass")]
    public void Knows_reply_marks_of_other_languages_by_common_practice(string subject, string expected) => BaseSubject.Of(subject).ShouldBe(expected);
}
