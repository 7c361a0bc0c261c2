using CsCheck;
using PostTide.Core.Workflows;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Workflows;

/// <summary>What was done is not done again.</summary>
public sealed class RepeatsTests
{
    private static readonly PlannedDeed Planned = new(DeedKind.Place, "1", "place in Berthing desk", new PlaceContent(1, null));

    private static PastDeed Past(PastState state, int repeat = 0, string target = "1", int minute = 0) =>
        new(repeat + 10, DeedKind.Place, target, repeat, state, Made.Noon.AddMinutes(minute));

    [Theory]
    [InlineData(PastState.Done, "it was done before")]
    [InlineData(PastState.UnderWay, "it is under way already")]
    [InlineData(PastState.Stuck, "it is stuck from before, and can be tried again there")]
    [InlineData(PastState.Stopped, "a person stopped it before")]
    [InlineData(PastState.Skipped, null)]
    public void What_stands_in_the_way_is_said(PastState state, string? because)
    {
        var decision = RepeatDecision.Of(Planned, [Past(state)], again: false);
        decision.Because.ShouldBe(because);
        (decision.Make is null).ShouldBe(because is not null);
    }

    [Fact]
    public void A_person_can_have_it_done_again_but_not_while_it_is_under_way()
    {
        RepeatDecision.Of(Planned, [Past(PastState.Done)], again: true).Make!.Repeat.ShouldBe(1);
        RepeatDecision.Of(Planned, [Past(PastState.Done), Past(PastState.Done, 1, minute: 1)], again: true).Make!.Repeat.ShouldBe(2);
        RepeatDecision.Of(Planned, [Past(PastState.Done), Past(PastState.UnderWay, 1, minute: 1)], again: true).Make.ShouldBeNull();
    }

    [Fact]
    public void A_deed_aimed_elsewhere_is_another_deed() => RepeatDecision.Of(Planned, [Past(PastState.Done, target: "2")], again: false).Make.ShouldBe(Planned);

    [Fact]
    public void A_deed_that_is_made_never_has_the_number_of_one_that_was() =>
        Gen.Select(Gen.Enum<PastState>(), Gen.Int[0, 5], Gen.Int[0, 60]).List[0, 8].Select(Gen.Bool).Sample((past, again) =>
        {
            var deeds = past.Select(p => Past(p.Item1, p.Item2, minute: p.Item3)).ToList();
            var decision = RepeatDecision.Of(Planned, deeds, again);
            (decision.Make is null).ShouldBe(decision.Because is not null);
            if (decision.Make is { } made)
            {
                deeds.ShouldNotContain(d => d.Repeat == made.Repeat);
            }
        });
}

/// <summary>Effects in the mailbox: order and what cannot be.</summary>
public sealed class MailboxEffectTests
{
    private static readonly MailboxEffect Read = new(MailboxEffectKind.MarkRead);
    private static readonly MailboxEffect Move = new(MailboxEffectKind.Move, "Done");

    [Fact]
    public void A_move_comes_last() => MailboxEffect.InOrder([Move, Read]).ShouldBe([Read, Move]);

    [Fact]
    public void The_deed_says_all_of_it_and_is_skipped_for_mail_from_elsewhere()
    {
        var sheet = Made.Sheet(new Line { Id = "l1", InMailbox = new MailboxSpec([Move, Read]) });
        var deed = Made.Decide(Made.Message() with { Folder = "INBOX" }, sheet).Deeds.ShouldHaveSingleItem();
        (deed.Says, deed.SkippedBecause).ShouldBe(("in the mailbox: mark as read, move to “Done”", null));
        Made.Decide(Made.Message(), sheet).Deeds[0].SkippedBecause.ShouldBe("it was not read from a connected mailbox");
    }

    [Fact]
    public void Replies_of_a_catch_up_wait_for_a_person_unless_it_is_said_otherwise()
    {
        var sheet = Made.Sheet(new Line { Id = "l1", Ticket = new TicketSpec(TicketMode.OpenOrAdd, "x"), Replies = [new ReplySpec(1, ReplyMode.Send)] });
        Made.Decide(Made.Message(), sheet, Made.Context with { HoldReplies = "old mail" }).Deeds[1].HeldBecause.ShouldBe("old mail");
        Made.Decide(Made.Message(), sheet).Deeds[1].HeldBecause.ShouldBeNull();
    }

    public static TheoryData<MailboxEffect[], string?> Sets => new()
    {
        { [Read, Move], null },
        { [Move, new(MailboxEffectKind.Archive)], "one place only" },
        { [Read, new(MailboxEffectKind.MarkUnread)], "read and as unread" },
        { [new(MailboxEffectKind.SetFlag), new(MailboxEffectKind.ClearFlag)], "set and cleared" },
        { [new(MailboxEffectKind.Move, " ")], "name of a folder" },
        { [new(MailboxEffectKind.Move, "a\r\nb")], "name of a folder" },
        { [new(MailboxEffectKind.SetKeyword, "two words")], "cannot be a keyword" },
        { [new(MailboxEffectKind.SetKeyword, "\\Seen")], "cannot be a keyword" },
        { [new(MailboxEffectKind.SetKeyword, "$Forwarded")], null },
    };

    /// <summary>Keywords are atoms (RFC 3501 §9, flag-keyword).</summary>
    [Theory]
    [MemberData(nameof(Sets))]
    public void What_cannot_be_is_said(MailboxEffect[] effects, string? says)
    {
        var problems = MailboxEffect.ProblemsOf([.. effects]).ToList();
        if (says is null)
        {
            problems.ShouldBeEmpty();
        }
        else
        {
            problems.ShouldHaveSingleItem().ShouldContain(says);
        }
    }
}
