using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;
using PostTide.Core.Matching;
using PostTide.Core.Messages;
using PostTide.Core.Workflows;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Engine.Planning;

/// <summary>Finds out where stored messages stand in their conversations.</summary>
internal static class ConversationPlaces
{
    /// <summary>Adds the places of some messages to a context, if one of the editions asks for them.</summary>
    public static async Task<PlanContext> AddAsync(
        PostTideContext db, IReadOnlyCollection<PreparedMessage> messages, IEnumerable<Edition> editions, PlanContext context, CancellationToken stop) =>
        editions.Any(e => Matters(e.Sheet, context)) ? context with { Conversations = await OfAsync(db, messages, stop) } : context;

    /// <summary>The Message-IDs among these that are of messages we sent.</summary>
    public static async Task<HashSet<string>> OursAmongAsync(PostTideContext db, string[] mailIds, CancellationToken stop) =>
        mailIds.Length == 0 ? [] : [.. await db.Replies.AsNoTracking().Where(r => mailIds.Contains(r.MailId)).Select(r => r.MailId).ToListAsync(stop)];

    private static async Task<IReadOnlyDictionary<long, ConversationPlace>> OfAsync(
        PostTideContext db, IReadOnlyCollection<PreparedMessage> messages, CancellationToken stop)
    {
        var conversations = messages.Select(m => m.ConversationId).Distinct().ToArray();
        var members = await db.Messages.AsNoTracking()
            .Where(m => m.ConversationId != null && conversations.Contains(m.ConversationId.Value) && m.State == MessageState.Planned && m.DuplicateOfId == null)
            .OrderBy(m => m.ArrivedAt).ThenBy(m => m.Id)
            .Select(m => new { m.Id, Conversation = m.ConversationId!.Value })
            .ToListAsync(stop);
        var numbers = members.GroupBy(m => m.Conversation).SelectMany(g => g.Select((m, i) => (m.Id, Number: i + 1))).ToDictionary(p => p.Id, p => p.Number);
        var ours = await OursAmongAsync(db, [.. messages.SelectMany(m => m.References).Distinct(StringComparer.Ordinal)], stop);
        return messages.ToImmutableDictionary(m => m.Id, m => new ConversationPlace(numbers.GetValueOrDefault(m.Id, 1), m.References.Any(ours.Contains)));
    }

    private static bool Matters(Sheet sheet, PlanContext context) => sheet.Sets().SelectMany(s => s.Set.Leaves())
        .SelectMany(c => c.SavedId is { } id && context.SavedConditions.TryGetValue(id, out var saved) ? saved.Set.Leaves() : [c])
        .Any(c => c.Part is MessagePart.ConversationNumber or MessagePart.AnswersOurs);
}
