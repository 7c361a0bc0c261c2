using Microsoft.EntityFrameworkCore;
using PostTide.Core.Matching;
using PostTide.Core.Messages;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Engine.Planning;

/// <summary>
/// Finds the conversation of messages by their identifiers (RFC 5322 §3.6.4), in whatever order they arrive: an answer may
/// come before the message it answers, and a late message may join two conversations.
/// </summary>
internal sealed class Conversations
{
    private readonly PostTideContext _db;
    private readonly Dictionary<string, ConversationId> _known;
    private readonly Dictionary<long, int> _sizes;
    private readonly HashSet<string> _ours;

    private Conversations(PostTideContext db, Dictionary<string, ConversationId> known, Dictionary<long, int> sizes, HashSet<string> ours)
    {
        _db = db;
        _known = known;
        _sizes = sizes;
        _ours = ours;
    }

    public static async Task<Conversations> ReadAsync(PostTideContext db, IEnumerable<PreparedMessage> messages, CancellationToken stop)
    {
        var ids = messages.SelectMany(IdsOf).Distinct(StringComparer.Ordinal).ToArray();
        var known = await db.ConversationIds.Where(c => ids.Contains(c.MailId)).ToDictionaryAsync(c => c.MailId, StringComparer.Ordinal, stop);
        var conversations = known.Values.Select(c => c.Conversation).Distinct().ToArray();
        var sizes = await db.Messages.AsNoTracking()
            .Where(m => m.ConversationId != null && conversations.Contains(m.ConversationId.Value) && m.State == MessageState.Planned && m.DuplicateOfId == null)
            .GroupBy(m => m.ConversationId!.Value).Select(g => new { g.Key, Count = g.Count() }).ToDictionaryAsync(g => g.Key, g => g.Count, stop);
        return new Conversations(db, known, sizes, await ConversationPlaces.OursAmongAsync(db, ids, stop));
    }

    /// <summary>The next place of a conversation, for a message that has joined it.</summary>
    public ConversationPlace NextPlace(PreparedMessage message)
    {
        var number = _sizes[message.ConversationId] = _sizes.GetValueOrDefault(message.ConversationId) + 1;
        return new ConversationPlace(number, message.References.Any(_ours.Contains));
    }

    /// <summary>The conversations a message continues, as far as they are known before it joins.</summary>
    public IEnumerable<long> KnownTo(PreparedMessage message) => IdsOf(message).Where(_known.ContainsKey).Select(id => _known[id].Conversation);

    /// <summary>The conversation of a message; a new one is named after the message's own record.</summary>
    public async Task<long> JoinAsync(PreparedMessage message, long messageRecord, CancellationToken stop)
    {
        var ids = IdsOf(message).ToList();
        var joined = ids.Where(_known.ContainsKey).Select(id => _known[id].Conversation).Distinct().Order().ToList();
        var conversation = joined.Count > 0 ? joined[0] : messageRecord;
        foreach (var other in joined.Skip(1))
        {
            await MergeAsync(other, conversation, stop);
        }

        foreach (var id in ids.Where(id => !_known.ContainsKey(id)))
        {
            _known[id] = new ConversationId { MailId = id, Conversation = conversation };
            _db.ConversationIds.Add(_known[id]);
        }

        return conversation;
    }

    private async Task MergeAsync(long from, long into, CancellationToken stop)
    {
        _sizes[into] = _sizes.GetValueOrDefault(into) + _sizes.GetValueOrDefault(from);
        foreach (var known in _known.Values.Where(c => c.Conversation == from))
        {
            known.Conversation = into;
        }

        foreach (var message in _db.Messages.Local.Where(m => m.ConversationId == from))
        {
            message.ConversationId = into;
        }

        await _db.ConversationIds.Where(c => c.Conversation == from).ExecuteUpdateAsync(s => s.SetProperty(c => c.Conversation, into), stop);
        await _db.Messages.Where(m => m.ConversationId == from).ExecuteUpdateAsync(s => s.SetProperty(m => m.ConversationId, into), stop);
        await _db.Tickets.Where(t => t.ConversationId == from).ExecuteUpdateAsync(s => s.SetProperty(t => t.ConversationId, into), stop);
    }

    private static IEnumerable<string> IdsOf(PreparedMessage message) =>
        message.References.Append(message.MessageId).Where(id => id.Length > 0).Distinct(StringComparer.Ordinal);
}
