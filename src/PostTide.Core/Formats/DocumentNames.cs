using PostTide.Core.Matching;
using PostTide.Core.Replies;
using PostTide.Core.Sorting;
using PostTide.Core.Workflows;

namespace PostTide.Core.Formats;

/// <summary>The ids behind the names a document uses.</summary>
public sealed record DocumentNames(
    IReadOnlyDictionary<string, long> Queues, IReadOnlyDictionary<string, long> Destinations, IReadOnlyDictionary<string, long> KeywordLists,
    IReadOnlyDictionary<string, long> Templates, IReadOnlyDictionary<string, long> SavedConditions, IReadOnlyDictionary<string, long> Sorters)
{
    /// <summary>The names a context knows. Of several records with one name the first counts.</summary>
    public static DocumentNames Of(PlanContext context) => new(
        Turn(context.Queues.Select(q => (q.Value, q.Key))), Turn(context.Destinations.Select(d => (d.Value, d.Key))),
        Turn(context.KeywordLists.Values.Select(l => (l.Name, l.Id))), Turn(context.Templates.Values.Select(t => (t.Name, t.Id))),
        Turn(context.SavedConditions.Values.Select(c => (c.Name, c.Id))),
        Turn(context.Sorters.Values.Select(s => (s.Name, s.Id))));

    /// <summary>The context a document brings with it, for use without any records: everything it names exists.</summary>
    public static PlanContext ContextOf(WorkflowDocument document, TrainedSorter? trained = null)
    {
        static Dictionary<long, string> Numbered(IEnumerable<string> names) => names.Distinct().Select((n, i) => (n, i)).ToDictionary(p => p.i + 1L, p => p.n);
        var context = new PlanContext
        {
            KeywordLists = document.KeywordLists.Select((l, i) => new KeywordList(i + 1, l.Name, l.Words, l.Options)).ToDictionary(l => l.Id),
            Templates = document.Templates.Select((t, i) => new ReplyTemplate(i + 1, t.Name, t.Body)).ToDictionary(t => t.Id),
            Queues = Numbered(document.Does.SelectMany(l => l.Queues).Select(q => q.Queue)),
            Sorters = document.Sorter is { } sorter ? new Dictionary<long, SorterInUse> { [1] = new(1, sorter, trained is null ? 0 : 1, trained) } : new Dictionary<long, SorterInUse>(),
            Destinations = Numbered(document.Does.SelectMany(l => l.PassOn)),
        };
        var saved = document.SavedConditions.Select((s, i) => new SavedCondition(i + 1, s.Name, new DocumentReader(Of(context), []).ReadSet(s.Set, $"$.savedConditions[{i}].set")));
        return context with { SavedConditions = saved.ToDictionary(s => s.Id) };
    }

    private static Dictionary<string, long> Turn(IEnumerable<(string Name, long Id)> names) =>
        names.GroupBy(n => n.Name, StringComparer.Ordinal).ToDictionary(g => g.Key, g => g.Min(n => n.Id), StringComparer.Ordinal);
}
