using PostTide.Core.Facts;
using PostTide.Core.Matching;
using PostTide.Core.Messages;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Facts;

public sealed class FactTests
{
    [Theory]
    [InlineData("sender_name", "Maud Ashgrove", EvidencePlace.Sender)]
    [InlineData("sender_address", "maud@tern.example", EvidencePlace.Sender)]
    [InlineData("subject", "Berth for Tern", EvidencePlace.Subject)]
    public void A_fact_is_read_where_it_stands(string name, string value, EvidencePlace place)
    {
        var message = Made.Message();
        var fact = BuiltInFacts.Read(name, message);
        (fact.Value, fact.Evidence!.Place).ShouldBe((value, place));
        var text = place == EvidencePlace.Sender ? message.From.Shown : message.Subject;
        text.Substring(fact.Evidence.Start, fact.Evidence.Length).ShouldBe(value);
    }

    [Fact]
    public void The_first_address_is_looked_for_in_what_is_new()
    {
        var message = Made.Message(body: "Paid by ada@x.example, copy to b@y.example\n\nOn Monday c@z.example wrote:\n> old\n");
        var fact = BuiltInFacts.Read(BuiltInFacts.FirstAddress, message);
        fact.Value.ShouldBe("ada@x.example");
        message.Body.Text.Substring(fact.Evidence!.Start, fact.Evidence.Length).ShouldBe("ada@x.example");
    }

    [Fact]
    public void The_date_is_when_it_was_sent_or_else_when_it_arrived()
    {
        var sent = Made.Noon.AddHours(-2);
        BuiltInFacts.Read(BuiltInFacts.Date, Made.Message() with { SentAt = sent }).Value.ShouldBe(sent.ToString("O"));
        BuiltInFacts.Read(BuiltInFacts.Date, Made.Message()).Value.ShouldBe(Made.Noon.ToString("O"));
    }

    [Fact]
    public void What_is_not_there_is_not_found()
    {
        BuiltInFacts.Read(BuiltInFacts.SenderName, Made.Message() with { From = new EmailAddress("", "a@b.example") }).Value.ShouldBeNull();
        BuiltInFacts.Read(BuiltInFacts.FirstAddress, Made.Message()).Value.ShouldBeNull();
        BuiltInFacts.Read("vessel", Made.Message()).Value.ShouldBeNull();
    }
}
