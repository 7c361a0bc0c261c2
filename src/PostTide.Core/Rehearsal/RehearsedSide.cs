using System.Collections.Immutable;
using PostTide.Core.Messages;
using PostTide.Core.Workflows;

namespace PostTide.Core.Rehearsal;

/// <summary>Editions making their way through past messages with a context that grows on the way.</summary>
internal sealed class RehearsedSide(ImmutableArray<Edition> editions, PlanContext context)
{
    private PlanContext _context = context with { SorterWords = false };

    /// <summary>The plan for the next message, at the time it arrived.</summary>
    public Plan Plan(PreparedMessage message, Judge judge)
    {
        _context = _context with { Now = message.ArrivedAt };
        var plan = Planner.Plan(message, editions, _context, judge);
        _context = _context.After(plan, message.ConversationId);
        return plan;
    }

    /// <summary>A ticket was opened for a conversation by somebody else.</summary>
    public void TicketOpened(long conversation)
    {
        if (conversation != 0)
        {
            _context = _context with { TicketOfConversation = _context.TicketOfConversation.SetItem(conversation, TicketContent.JustOpened) };
        }
    }

    /// <summary>The verdict with its first reason only, without the words and without the message’s text once more.</summary>
    public static Verdict Brief(Verdict verdict) => verdict with
    {
        Reasons = verdict.Reasons.IsEmpty ? [] : [verdict.Reasons[0].Evidence.IsEmpty ? verdict.Reasons[0] : new Reason(verdict.Reasons[0].Text, [])],
        Facts = [],
        Deeds = verdict.Deeds.Any(d => d.Content is TicketContent) ? [.. verdict.Deeds.Select(Brief)] : verdict.Deeds,
    };

    private static PlannedDeed Brief(PlannedDeed deed) => deed.Content is TicketContent ticket ? deed with { Content = ticket with { Description = "" } } : deed;
}
