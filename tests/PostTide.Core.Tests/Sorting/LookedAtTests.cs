using PostTide.Core.Matching;
using PostTide.Core.Messages;
using PostTide.Core.Sorting;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Sorting;

/// <summary>What a sorter looks at, and what is set aside.</summary>
public sealed class LookedAtTests
{
    private static string[] MarksOf(PreparedMessage message) => [.. LookedAt.In(message).Marks.Select(m => m.Key)];

    [Fact]
    public void Quoted_history_and_signatures_are_set_aside()
    {
        var text = LookedAt.In(MadeMail.Says("New words here\n\nOn Monday Ann wrote:\n> old words\n-- \nCaptain Tern\n")).AsText();
        text.ShouldContain("New words here");
        text.ShouldNotContain("old words");
        text.ShouldNotContain("Captain");
    }

    [Theory]
    [InlineData("see https://list.example/x?y=1 now", "few links")]
    [InlineData("http://a.example http://b.example www.c.example mailto:d@e.example", "links")]
    [InlineData("no link at all", null)]
    public void Links_are_set_aside_but_that_they_are_there_is_kept(string body, string? mark)
    {
        var message = MadeMail.Says(body);
        LookedAt.In(message).AsText().ShouldNotContain("example");
        MarksOf(message).Where(m => m.EndsWith("links", StringComparison.Ordinal)).ShouldBe(mark is null ? [] : [mark]);
    }

    [Fact]
    public void An_unsubscribe_link_stays_as_a_mark_whether_in_the_text_or_in_the_header()
    {
        MarksOf(MadeMail.Says("Bye: https://news.example/Unsubscribe/77")).ShouldContain("unsubscribe");
        MarksOf(MadeMail.Says("Bye") with { Header = [new HeaderField("List-Unsubscribe", "<https://news.example/u>")] }).ShouldContain("unsubscribe");
        MarksOf(MadeMail.Says("please unsubscribe me")).ShouldNotContain("unsubscribe");
    }

    [Fact]
    public void The_sender_s_domain_and_those_above_it_count()
    {
        MarksOf(Made.Message(from: "bot@mail.Port.example")).ShouldBe(["from mail.port.example", "from port.example"]);
        MarksOf(Made.Message(from: "nonsense")).ShouldBeEmpty();
    }

    [Fact]
    public void Names_and_kinds_of_attachments_count_by_content_rather_than_by_what_is_declared()
    {
        var message = MadeMail.Says("See file") with { Attachments = [new Attachment(0, "invoice-2026.pdf", "image/png", 10, "application/pdf"), new Attachment(1, "notes", "text/plain", 3)] };
        var looked = LookedAt.In(message);
        looked.Stretches.Where(s => s.Place == EvidencePlace.Attachment).Select(s => s.Text.Text).ShouldBe(["invoice-2026.pdf", "notes"]);
        MarksOf(message).ShouldContain("attachment application/pdf");
        MarksOf(message).ShouldContain("attachment text/plain");
    }

    [Fact]
    public void Figures_count_alike_and_case_and_accents_do_not_count()
    {
        FeatureReader.Read("berth 17").Keys.ShouldBe(FeatureReader.Read("BERTH 42").Keys);
        FeatureReader.Read("château").Keys.ShouldBe(FeatureReader.Read("CHATEAU").Keys);
    }

    [Fact]
    public void Word_order_counts_through_pairs() =>
        FeatureReader.Read("fuel dock").Keys.Order().ShouldNotBe(FeatureReader.Read("dock fuel").Keys.Order());
}
