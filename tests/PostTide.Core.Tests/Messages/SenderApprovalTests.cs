using System.Text;
using PostTide.Core.Messages;
using PostTide.Core.Text;
using PostTide.Mail;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Messages;

/// <summary>Approved senders, with the fields of RFC 8601 appendix B as examples.</summary>
public sealed class SenderApprovalTests
{
    private static readonly ApprovalPolicy Policy = new() { Approved = ["example.com", "ada@tern.example"], TrustedServers = ["example.com", "mx.ours.example"] };

    private static PreparedMessage Read(string header, string from = "sender@example.com") => Preparation.Prepare(
        MailReader.Read(Encoding.ASCII.GetBytes($"{header.ReplaceLineEndings("\r\n")}From: {from}\r\nSubject: x\r\n\r\nHello\r\n")), Envelope.Unknown, DateTimeOffset.UnixEpoch);

    private static Approval Decide(string header, string from = "sender@example.com", ApprovalPolicy? policy = null, string? host = null) =>
        SenderApproval.Decide(Read(header, from), host, policy ?? Policy);

    /// <summary>RFC 8601 B.1: no authentication was done.</summary>
    [Fact]
    public void B1_a_message_without_the_field_proves_nothing() => Decide("").ShouldSatisfyAllConditions(a => a.Holds.ShouldBeTrue(), a => a.Proved.ShouldBeFalse());

    /// <summary>RFC 8601 B.2: “example.org 1; none”.</summary>
    [Fact]
    public void B2_a_host_that_did_nothing_proves_nothing() =>
        Decide("Authentication-Results: example.org 1; none\n", policy: Policy with { TrustedServers = ["example.org"] }).Holds.ShouldBeTrue();

    /// <summary>RFC 8601 B.3: SPF passed for the envelope sender’s domain.</summary>
    [Fact]
    public void B3_spf_for_the_same_domain_proves_the_sender()
    {
        var approval = Decide("Authentication-Results: example.com;\n spf=pass smtp.mailfrom=example.com\nReceived: from mail-router.example.net by server.example.com\n");
        (approval.Holds, approval.Proved).ShouldBe((false, true));
        approval.Because.ShouldContain("example.com: spf=pass vouches for example.com");
    }

    /// <summary>RFC 8601 B.4: two results in one field; SMTP authentication alone names no From domain, SPF does.</summary>
    [Fact]
    public void B4_of_several_results_one_that_fits_is_enough() =>
        Decide("Authentication-Results: example.com;\n auth=pass (cram-md5) smtp.auth=sender@example.net;\n spf=pass smtp.mailfrom=example.com\n").Proved.ShouldBeTrue();

    /// <summary>RFC 8601 B.5: several fields of one host, a failed sender-id beside a passed SPF and DKIM.</summary>
    [Fact]
    public void B5_several_fields_of_a_trusted_host_count_together() => Decide(
        """
        Authentication-Results: example.com;
         dkim=pass (good signature) header.d=example.com
        Authentication-Results: example.com;
         auth=pass (cram-md5) smtp.auth=sender@example.com;
         spf=fail smtp.mailfrom=example.com

        """.TrimEnd() + "\n").Proved.ShouldBeTrue();

    /// <summary>RFC 8601 B.6: a field of another host further down is not ours.</summary>
    [Fact]
    public void B6_what_another_host_found_does_not_count() => Decide(
        "Authentication-Results: example.com;\n dkim=fail reason=\"bad signature\" header.i=@mail-router.example.net\nReceived: from a by b\nAuthentication-Results: example.net;\n dkim=pass header.i=@example.com\n").Holds.ShouldBeTrue();

    [Theory]
    [InlineData("mx.attacker.example; dmarc=pass header.from=example.com", true)] // not one of ours
    [InlineData("mx.ours.example; dmarc=pass header.from=example.com", false)]
    [InlineData("mx.ours.example; dmarc=pass header.from=other.example", true)]
    [InlineData("mx.ours.example; dkim=pass header.d=com", true)] // a bare ending signs for nobody
    [InlineData("mx.ours.example; dkim=pass header.d=ample.com", true)]
    [InlineData("mx.ours.example; spf=pass smtp.mailfrom=bounce@elsewhere.example", true)]
    [InlineData("mx.ours.example; dkim=neutral header.d=example.com", true)]
    [InlineData("mx.ours.example; dmarc=fail header.from=example.com; spf=pass smtp.mailfrom=example.com", true)]
    [InlineData("this is no field", true)]
    public void A_result_counts_as_far_as_it_is_ours_and_about_the_senders_domain(string field, bool holds) =>
        Decide($"Authentication-Results: {field}\n").Holds.ShouldBe(holds);

    [Fact]
    public void A_forged_field_below_what_the_host_received_does_not_count()
    {
        const string Genuine = "Authentication-Results: mx.ours.example; spf=softfail smtp.mailfrom=example.com\n";
        const string Received = "Received: from attacker by mx.ours.example\n";
        const string Forged = "Authentication-Results: mx.ours.example; dmarc=pass header.from=example.com\n";
        Decide(Genuine + Received + Forged).Holds.ShouldBeTrue();
        Decide(Received + Genuine + Forged).Holds.ShouldBeTrue("a host that writes below its own Received is taken at its first word");
        Decide(Received + Forged).Holds.ShouldBeFalse("a host that leaves forged fields in is not to be trusted (RFC 8601 §5)");
    }

    [Theory]
    [InlineData("10.1.2.3", "10.0.0.0/8", false)]
    [InlineData("11.1.2.3", "10.0.0.0/8", true)]
    [InlineData("::ffff:10.1.2.3", "10.0.0.0/8", false)]
    [InlineData("192.0.2.7", "192.0.2.7", false)]
    [InlineData("not an address", "192.0.2.7", true)]
    public void The_connecting_host_proves_a_sender_where_it_is_trusted(string host, string trusted, bool holds) =>
        Decide("", policy: Policy with { TrustedHosts = [trusted] }, host: host).Holds.ShouldBe(holds);

    [Theory]
    [InlineData("sender@example.com", true)]
    [InlineData("sender@mail.example.com", true)]
    [InlineData("sender@notexample.com", false)]
    [InlineData("ada@tern.example", true)]
    [InlineData("bob@tern.example", false)]
    [InlineData("ADA@Tern.Example", true)]
    public void Addresses_and_domains_are_on_the_list(string from, bool listed) =>
        Decide("", from, Policy with { Unproved = Unproved.LetThrough }).Holds.ShouldBe(!listed);

    [Fact]
    public void Without_a_sender_nothing_goes_on() =>
        SenderApproval.Decide(new PreparedMessage(), null, Policy).Because.ShouldBe("it names no sender");
}
