using Microsoft.EntityFrameworkCore;
using PostTide.Engine.Deeds;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Engine.Sorting;

/// <summary>Where many labels come from at once.</summary>
public enum GatherFrom
{
    /// <summary>Messages whose items lie, or were done, in a queue.</summary>
    Queue,

    /// <summary>Messages of a mailbox, such as a folder that is connected for this.</summary>
    Mailbox,
}

/// <summary>Labels: what people say messages are. Each one makes the number in hand due for training.</summary>
public sealed class SorterLabels(PostTideContext db, SorterNumbers numbers, TimeProvider clock)
{
    /// <summary>Gives a message its category for a sorter; null for none of these. A label it had is replaced.</summary>
    /// <returns>The label it had before; null when it had none.</returns>
    public async Task<SorterLabel?> SetAsync(long sorterId, long messageId, string? categoryId, LabelSource source, string person, CancellationToken stop)
    {
        await numbers.RequireCategoryAsync(sorterId, categoryId, stop);
        if (!await db.Messages.AnyAsync(m => m.Id == messageId, stop))
        {
            throw new RefusedException("The message is gone.");
        }

        var before = await db.SorterLabels.AsNoTracking().SingleOrDefaultAsync(l => l.SorterId == sorterId && l.MessageId == messageId, stop);
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        await WriteAsync(db, sorterId, [messageId], categoryId, source, person, clock.GetUtcNow(), stop);
        await numbers.TouchAsync(sorterId, person, stop);
        await transaction.CommitAsync(stop);
        return before;
    }

    /// <summary>Takes a label away.</summary>
    public async Task RemoveAsync(long sorterId, long messageId, string person, CancellationToken stop)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        await db.SorterLabels.Where(l => l.SorterId == sorterId && l.MessageId == messageId).ExecuteDeleteAsync(stop);
        await numbers.TouchAsync(sorterId, person, stop);
        await transaction.CommitAsync(stop);
    }

    /// <summary>Labels the messages of a queue or a mailbox that have no label yet, the newest first.</summary>
    /// <returns>How many, or how many it would be.</returns>
    public async Task<int> GatherAsync(
        long sorterId, GatherFrom from, long id, string? categoryId, int most, bool write, string person, CancellationToken stop)
    {
        await numbers.RequireCategoryAsync(sorterId, categoryId, stop);
        var messages = db.Messages.AsNoTracking().Where(m => m.State == MessageState.Planned && m.DuplicateOfId == null
            && !db.SorterLabels.Any(l => l.SorterId == sorterId && l.MessageId == m.Id));
        messages = from == GatherFrom.Queue
            ? messages.Where(m => db.Items.Any(i => i.MessageId == m.Id && i.QueueId == id))
            : messages.Where(m => m.MailboxId == id);
        var ids = await messages.OrderByDescending(m => m.ArrivedAt).Take(Math.Clamp(most, 1, 10_000)).Select(m => m.Id).ToListAsync(stop);
        if (!write || ids.Count == 0)
        {
            return ids.Count;
        }

        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        await WriteAsync(db, sorterId, ids, categoryId, from == GatherFrom.Queue ? LabelSource.PastRouting : LabelSource.Folder, person, clock.GetUtcNow(), stop);
        await numbers.TouchAsync(sorterId, person, stop);
        await transaction.CommitAsync(stop);
        return ids.Count;
    }

    /// <summary>Writes labels within a transaction; the last one of a message counts.</summary>
    internal static Task WriteAsync(
        PostTideContext db, long sorterId, IReadOnlyCollection<long> messageIds, string? categoryId, LabelSource source, string person, DateTimeOffset at, CancellationToken stop)
    {
        var (ids, from) = (messageIds.ToArray(), source.ToString());
        return db.Database.ExecuteSqlAsync(
            $"""
            INSERT INTO sorter_labels (sorter_id, message_id, category_id, source, "by", at)
            SELECT {sorterId}, id, {categoryId}, {from}, {person}, {at} FROM unnest({ids}) AS id
            ON CONFLICT (sorter_id, message_id) DO UPDATE
            SET category_id = excluded.category_id, source = excluded.source, "by" = excluded."by", at = excluded.at
            """,
            stop);
    }
}
