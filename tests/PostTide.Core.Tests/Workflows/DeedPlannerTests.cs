using PostTide.Core.Messages;
using PostTide.Core.Workflows;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Workflows;

public sealed class DeedPlannerTests
{
    private static PlannedDeed Single(Line line, PreparedMessage? message = null, PlanContext? context = null) =>
        Made.Decide(message ?? Made.Message(), Made.Sheet(line with { Id = "l1" }), context).Deeds.ShouldHaveSingleItem();

    private static readonly Line Ticket = new() { Ticket = new TicketSpec(TicketMode.OpenOrAdd, "Berth booking") };
    private static readonly Line Reply = new() { Ticket = Ticket.Ticket, Replies = [new ReplySpec(1, ReplyMode.Send)] };

    [Fact]
    public void A_due_time_counts_from_the_arrival() =>
        ((PlaceContent)Single(new Line { Queues = [new PlaceSpec(1, 90)] }).Content).DueAt.ShouldBe(Made.Noon.AddMinutes(90));

    [Fact]
    public void A_ticket_has_the_subject_as_summary_and_the_new_part_as_description()
    {
        var content = (TicketContent)Single(Ticket, Made.Message("Berth", "New text\n\n-- \nMaud\n")).Content;
        (content.Reference, content.Summary, content.Description).ShouldBe((null, "Berth", "New text"));
    }

    [Theory]
    [InlineData("Re: berth SH-1042", "SH-1042")]
    [InlineData("re sh-1042", "SH-1042")]
    [InlineData("SH-9999 is unknown", null)]
    [InlineData("XSH-1042", null)]
    public void A_message_that_names_a_known_ticket_is_added_to_it(string subject, string? reference)
    {
        var context = Made.Context with { KnownTickets = ["SH-1042"] };
        ((TicketContent)Single(Ticket, Made.Message(subject), context).Content).Reference.ShouldBe(reference);
    }

    [Fact]
    public void An_answer_in_a_conversation_belongs_to_its_ticket()
    {
        var context = Made.Context with { TicketOfConversation = Made.Context.TicketOfConversation.Add(7, "SH-5") };
        Single(Ticket, context: context).Says.ShouldBe("add to ticket SH-5");
    }

    [Fact]
    public void Adding_only_is_skipped_when_there_is_no_ticket() =>
        Single(new Line { Ticket = new TicketSpec(TicketMode.AddOnly, "") }).SkippedBecause.ShouldBe("it refers to no ticket");

    [Fact]
    public void Attachments_are_filed_under_safe_names_in_a_filled_folder()
    {
        var message = Made.Message() with
        {
            Attachments = [new Attachment(0, "../../etc/passwd", "text/plain", 5), new Attachment(1, "a.PDF", "application/pdf", 9)],
        };
        var content = (FileContent)Single(new Line { Files = [new FileSpec("Slips/{{ arrived | date: \"%Y/%m\" }}/{{ sender_name }}", ["pdf"])] }, message).Content;
        content.Folder.ShouldBe("Slips/2026/11/Maud Ashgrove");
        content.Attachments.ShouldBe([new FiledAttachment(1, "a.PDF")]);
        var all = (FileContent)Single(new Line { Files = [new FileSpec("../{{ subject }}", [])] }, message with { Subject = "berth ../../x" }).Content;
        all.Folder.ShouldBe("berth/x");
        all.Attachments[0].Name.ShouldBe("passwd");
    }

    [Theory]
    [InlineData(false, "there is no attachment")]
    [InlineData(true, "no attachment is a pdf")]
    public void Filing_nothing_is_skipped_with_its_reason(bool attached, string why)
    {
        var message = Made.Message() with { Attachments = attached ? [new Attachment(0, "a.csv", "text/csv", 1)] : [] };
        Single(new Line { Files = [new FileSpec("X", ["pdf"])] }, message).SkippedBecause.ShouldBe(why);
    }

    [Fact]
    public void A_missing_value_holds_the_reply_for_a_person()
    {
        var deed = Single(new Line { Replies = [new ReplySpec(2, ReplyMode.Send)] });
        (deed.SkippedBecause, deed.HeldBecause).ShouldBe((null, "a value is missing: vessel"));
    }

    [Fact]
    public void A_ticket_on_the_same_line_gives_the_reply_its_number() =>
        Made.Decide(Made.Message(), Made.Sheet(Reply with { Id = "l1" })).Deeds[1].HeldBecause.ShouldBeNull();

    [Fact]
    public void A_sender_without_a_name_holds_a_reply_that_needs_it() =>
        Made.Decide(Made.Message() with { From = new EmailAddress("", "a@b.example") }, Made.Sheet(Reply with { Id = "l1" })).Deeds[1].HeldBecause.ShouldBe("a value is missing: sender_name");

    [Fact]
    public void A_second_reply_within_the_limit_is_skipped_and_a_later_one_is_not()
    {
        PlanContext After(double hours) => Made.Context with
        {
            LastReplies = Made.Context.LastReplies.Add(PlanContext.ReplyKey(1, "maud@tern.example"), Made.Noon.AddHours(-hours)),
        };
        var sheet = Made.Sheet(Reply with { Id = "l1" });
        Made.Decide(Made.Message(), sheet, After(23.9)).Deeds[1].SkippedBecause.ShouldBe("this sender was answered less than 24 h before");
        Made.Decide(Made.Message(), sheet, After(24)).Deeds[1].SkippedBecause.ShouldBeNull();
    }

    [Fact]
    public void A_notice_that_names_the_customer_is_answered_to_the_customer()
    {
        var message = Made.Message(body: "Berth paid by ada@tester.example\n");
        ((ReplyContent)Single(new Line { Replies = [new ReplySpec(2, ReplyMode.Check, To: ReplyTo.FirstAddressInBody)] }, message).Content).To.ShouldBe("ada@tester.example");
    }

    [Fact]
    public void What_is_gone_is_skipped_not_failed()
    {
        Single(new Line { Queues = [new PlaceSpec(99, null)] }).SkippedBecause.ShouldBe("the queue is gone");
        Single(new Line { Replies = [new ReplySpec(99, ReplyMode.Send)] }).SkippedBecause.ShouldBe("the template is gone");
        Single(new Line { PassOns = [new PassOnSpec(99)] }).SkippedBecause.ShouldBe("the destination is gone");
    }
}
