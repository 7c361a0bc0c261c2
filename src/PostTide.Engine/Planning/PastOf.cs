using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;
using PostTide.Core.Facts;
using PostTide.Core.Messages;
using PostTide.Core.Tickets;
using PostTide.Core.Workflows;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Engine.Planning;

/// <summary>Adds to a context what was done before that matters to some messages.</summary>
internal static class PastOf
{
    /// <summary>Adds what was replied before to the addresses these messages could be replied to at, and the tickets they name.</summary>
    public static async Task<PlanContext> AddAsync(PostTideContext db, IReadOnlyList<PreparedMessage> messages, PlanContext context, CancellationToken stop)
    {
        var targets = messages
            .SelectMany(m => new[] { (m.ReplyTo ?? m.From).Key, BuiltInFacts.Read(BuiltInFacts.FirstAddress, m).Value?.ToLowerInvariant() ?? "" })
            .Where(a => a.Length > 0).Distinct().ToArray();
        var replies = await db.Deeds.AsNoTracking()
            .Where(d => d.Kind == DeedKind.Reply && d.WorkflowId != null && targets.Contains(d.Target)
                && d.State != DeedState.Skipped && d.State != DeedState.Dropped)
            .GroupBy(d => new { d.WorkflowId, d.Target })
            .Select(g => new { g.Key.WorkflowId, g.Key.Target, Last = g.Max(d => d.CreatedAt) })
            .ToListAsync(stop);
        var named = messages.SelectMany(m => TicketReference.FindIn(m, context.TicketPrefix)).Select(e => e.Text.ToUpperInvariant()).Distinct().ToArray();
        var known = named.Length == 0 ? [] : await db.Tickets.AsNoTracking().Where(t => named.Contains(t.Reference)).Select(t => t.Reference).ToListAsync(stop);
        return context with
        {
            LastReplies = replies.ToImmutableDictionary(r => PlanContext.ReplyKey(r.WorkflowId!.Value, r.Target), r => r.Last),
            KnownTickets = [.. known],
        };
    }
}
