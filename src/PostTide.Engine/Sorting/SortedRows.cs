using Microsoft.EntityFrameworkCore;
using PostTide.Core.Workflows;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Engine.Sorting;

/// <summary>Writes down what sorters said about live mail, in the transaction that plans it.</summary>
internal static class SortedRows
{
    /// <summary>For a message that is planned for the first time; the last workflow that asked a sorter counts.</summary>
    public static void Add(PostTideContext db, long messageId, IEnumerable<Verdict> verdicts, DateTimeOffset at)
    {
        foreach (var said in verdicts.Select(v => v.Sorter).OfType<Core.Sorting.SorterVerdict>().GroupBy(s => s.SorterId).Select(g => g.Last()))
        {
            db.Sorted.Add(new SortedMessage
            {
                SorterId = said.SorterId,
                MessageId = messageId,
                Number = said.Number,
                CategoryId = said.CategoryId,
                Surety = said.Surety,
                Unsure = said.Unsure,
                At = at,
            });
        }
    }

    /// <summary>For a message that is planned again.</summary>
    public static async Task ReplaceAsync(PostTideContext db, long messageId, Verdict verdict, DateTimeOffset at, CancellationToken stop)
    {
        if (verdict.Sorter is { } said)
        {
            await db.Sorted.Where(s => s.SorterId == said.SorterId && s.MessageId == messageId).ExecuteDeleteAsync(stop);
            Add(db, messageId, [verdict], at);
        }
    }
}
