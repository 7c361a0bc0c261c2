using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;
using PostTide.Core.Facts;
using PostTide.Core.Messages;
using PostTide.Core.Sorting;
using PostTide.Core.Tickets;
using PostTide.Core.Workflows;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Engine.Planning;

/// <summary>Adds to a context what was done before that matters to some messages.</summary>
internal static class PastOf
{
    /// <summary>
    /// Adds what was replied before to the addresses these messages could be replied to at, the tickets they name, and what people or
    /// an outside sorter said they are.
    /// </summary>
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
        var ids = messages.Select(m => m.Id).ToArray();
        var labels = context.Sorters.Count == 0 ? [] : await db.SorterLabels.AsNoTracking().Where(l => ids.Contains(l.MessageId)).ToListAsync(stop);
        var outside = context.Sorters.Values.Any(s => s.AsksOutside)
            ? await db.OutsideAnswers.AsNoTracking().Where(a => ids.Contains(a.MessageId) && a.Problem == null).ToListAsync(stop)
            : [];
        return context with
        {
            SortedByHand = labels.ToDictionary(l => (l.SorterId, l.MessageId), l => new SaidBefore(l.CategoryId, l.By)),
            SaidOutside = outside.ToDictionary(a => (a.SorterId, a.MessageId), a => new SaidBefore(a.CategoryId, a.By)),
            LastReplies = replies.ToImmutableDictionary(r => PlanContext.ReplyKey(r.WorkflowId!.Value, r.Target), r => r.Last),
            KnownTickets = [.. known],
        };
    }
}
