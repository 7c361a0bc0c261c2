using System.Collections.Immutable;
using PostTide.Core.Matching;
using PostTide.Core.Messages;
using PostTide.Core.Replies;
using PostTide.Core.Sorting;
using PostTide.Core.Tickets;
using PostTide.Core.Time;

namespace PostTide.Core.Workflows;

/// <summary>
/// Everything a plan depends on besides the message and the editions, as data: the same message, editions and context
/// give the same plan.
/// </summary>
public sealed record PlanContext
{
    public DateTimeOffset Now { get; init; }
    public IReadOnlyDictionary<long, KeywordList> KeywordLists { get; init; } = ImmutableDictionary<long, KeywordList>.Empty;
    public IReadOnlyDictionary<long, SavedCondition> SavedConditions { get; init; } = ImmutableDictionary<long, SavedCondition>.Empty;
    public IReadOnlyDictionary<long, string> Queues { get; init; } = ImmutableDictionary<long, string>.Empty;
    public IReadOnlyDictionary<long, string> Destinations { get; init; } = ImmutableDictionary<long, string>.Empty;
    public IReadOnlyDictionary<long, ReplyTemplate> Templates { get; init; } = ImmutableDictionary<long, ReplyTemplate>.Empty;

    /// <summary>The prefix of ticket references, such as <c>SH</c> in <c>SH-1042</c>.</summary>
    public string TicketPrefix { get; init; } = "PT";

    /// <summary>The references of tickets that exist, among those the messages name.</summary>
    public ImmutableHashSet<string> KnownTickets { get; init; } = [];

    /// <summary>The ticket that belongs to a conversation, by conversation.</summary>
    public ImmutableDictionary<long, string> TicketOfConversation { get; init; } = ImmutableDictionary<long, string>.Empty;

    /// <summary>Where messages stand in their conversations, by message; one that is not named is the first of its own.</summary>
    public IReadOnlyDictionary<long, ConversationPlace> Conversations { get; init; } = ImmutableDictionary<long, ConversationPlace>.Empty;

    /// <summary>The desk's business hours and time zone.</summary>
    public ActiveHours Desk { get; init; } = MatchContext.UsualDesk;

    /// <summary>The hosts whose authentication results count.</summary>
    public ImmutableHashSet<string> TrustedServers { get; init; } = [];

    /// <summary>When a workflow last replied to an address, by <see cref="ReplyKey"/>.</summary>
    public ImmutableDictionary<string, DateTimeOffset> LastReplies { get; init; } = ImmutableDictionary<string, DateTimeOffset>.Empty;

    /// <summary>The sorters, by id.</summary>
    public IReadOnlyDictionary<long, SorterInUse> Sorters { get; init; } = ImmutableDictionary<long, SorterInUse>.Empty;

    /// <summary>What people said messages are, by sorter and message.</summary>
    public IReadOnlyDictionary<(long Sorter, long Message), SaidBefore> SortedByHand { get; init; } = ImmutableDictionary<(long, long), SaidBefore>.Empty;

    /// <summary>What outside sorters said, by sorter and message.</summary>
    public IReadOnlyDictionary<(long Sorter, long Message), SaidBefore> SaidOutside { get; init; } = ImmutableDictionary<(long, long), SaidBefore>.Empty;

    /// <summary>Whether the words a sorter's decision rests on are wanted.</summary>
    public bool SorterWords { get; init; } = true;

    /// <summary>Our own addresses, lower case: never answered.</summary>
    public ImmutableHashSet<string> OurAddresses { get; init; } = [];

    /// <summary>The do-not-mail list, lower case addresses and domains.</summary>
    public ImmutableHashSet<string> DoNotMail { get; init; } = [];

    /// <summary>Why every reply waits for a person, whatever the line says; null when none has to. Set for old mail.</summary>
    public string? HoldReplies { get; init; }

    /// <summary>What conditions on a message may depend on.</summary>
    public MatchContext For(PreparedMessage message) => new()
    {
        Now = Now,
        KeywordLists = KeywordLists,
        SavedConditions = SavedConditions,
        Desk = Desk,
        TrustedServers = TrustedServers,
        Conversation = Conversations.GetValueOrDefault(message.Id, ConversationPlace.First),
        HasTicket = TicketOf(message) is not null,
        Sorters = Sorters,
        SortedByHand = SortedByHand,
        SaidOutside = SaidOutside,
        SorterWords = SorterWords,
    };

    /// <summary>The ticket a message belongs to: one it names and that exists, or the one of its conversation.</summary>
    public string? TicketOf(PreparedMessage message) =>
        (KnownTickets.IsEmpty ? null : TicketReference.FindIn(message, TicketPrefix).Select(e => e.Text.ToUpperInvariant()).FirstOrDefault(KnownTickets.Contains))
        ?? TicketOfConversation.GetValueOrDefault(message.ConversationId);

    public static string ReplyKey(long workflowId, string address) => $"{workflowId} {address.ToLowerInvariant()}";

    /// <summary>The context after a plan: the next message sees the replies and tickets this one brought.</summary>
    public PlanContext After(Plan plan, long conversationId)
    {
        var context = this;
        foreach (var verdict in plan.Verdicts)
        {
            foreach (var deed in verdict.Deeds.Where(d => d.SkippedBecause is null))
            {
                context = deed.Content switch
                {
                    ReplyContent reply => context with
                    {
                        LastReplies = context.LastReplies.SetItem(ReplyKey(verdict.WorkflowId, reply.To), context.Now),
                    },
                    TicketContent { Reference: null } when conversationId != 0 => context with
                    {
                        TicketOfConversation = context.TicketOfConversation.SetItem(conversationId, TicketContent.JustOpened),
                    },
                    _ => context,
                };
            }
        }

        return context;
    }
}
