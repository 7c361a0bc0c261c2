using CsCheck;
using PostTide.Core.Messages;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Messages;

/// <summary>RFC 5322 §3.6.4 (identification fields) and RFC 5256 §3 (which of them count for threading).</summary>
public sealed class MessageIdsTests
{
    [Fact]
    public void References_come_first_and_In_Reply_To_only_adds_what_they_lack() =>
        MessageIds.Answered(["<a@x>", "<b@x>"], ["<b@x>", "<c@x>"]).ShouldBe(["a@x", "b@x", "c@x"]);

    [Fact]
    public void Nothing_to_answer_gives_nothing() => MessageIds.Answered([], []).ShouldBeEmpty();

    [Theory]
    [InlineData("<a@x.example>", "a@x.example")]
    [InlineData(" <a@x.example> ", "a@x.example")]
    [InlineData("a@x.example", "a@x.example")]
    [InlineData("<>", "")]
    public void An_identifier_is_kept_without_its_brackets(string id, string bare) => MessageIds.Bare(id).ShouldBe(bare);

    [Fact]
    public void An_identifier_longer_than_a_line_is_left_out() => MessageIds.Answered([new string('a', 2_000)], []).ShouldBeEmpty();

    [Fact]
    public void No_identifier_can_break_a_header() => Gen.String.Sample(id => MessageIds.Bare(id).ShouldNotContain(c => char.IsControl(c)));
}
