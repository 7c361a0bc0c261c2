using PostTide.Core.Messages;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Messages;

/// <summary>RFC 5233 §4: its example address and what it says about addresses without detail.</summary>
public sealed class SubAddressTests
{
    [Fact]
    public void Splits_the_example_of_section_4()
    {
        var parts = SubAddress.Split("ken+sieve@example.org");
        (parts.User, parts.Detail, parts.Domain).ShouldBe(("ken", "sieve", "example.org"));
    }

    [Theory]
    [InlineData("ken@example.org", "ken", null)]
    [InlineData("ken+@example.org", "ken", "")]
    [InlineData("ken+a+b@example.org", "ken", "a+b")]
    public void Tells_no_detail_from_an_empty_one(string address, string user, string? detail)
    {
        var parts = SubAddress.Split(address);
        (parts.User, parts.Detail).ShouldBe((user, detail));
    }

    [Theory]
    [InlineData("BERTHS@saltmarrow.example", "berths@saltmarrow.example", true)]
    [InlineData("berths+web@saltmarrow.example", "berths@saltmarrow.example", true)]
    [InlineData("berths@saltmarrow.example", "berths+web@saltmarrow.example", false)]
    [InlineData("berths+web@other.example", "berths@saltmarrow.example", false)]
    [InlineData("berthsx@saltmarrow.example", "berths@saltmarrow.example", false)]
    public void A_sub_address_reaches_its_address_and_not_the_other_way_round(string writtenTo, string own, bool reaches) =>
        SubAddress.Reaches(writtenTo, own).ShouldBe(reaches);
}
