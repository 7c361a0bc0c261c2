using System.Collections.Immutable;
using PostTide.Core.Matching;
using PostTide.Core.Rehearsal;
using PostTide.Core.Workflows;

namespace PostTide.Core.Formats;

/// <summary>Makes a document of a sheet: ids become names, and the lists, templates and saved conditions it uses come with it.</summary>
public static class DocumentWriter
{
    /// <summary>The document of a workflow.</summary>
    /// <param name="name">The workflow's name.</param>
    /// <param name="sheet">The sheet.</param>
    /// <param name="context">What the ids stand for.</param>
    /// <param name="examples">The kept examples.</param>
    /// <param name="descriptions">The descriptions of keyword lists and saved conditions, by name.</param>
    public static WorkflowDocument Write(
        string name, Sheet sheet, PlanContext context, IEnumerable<KeptExample>? examples = null, IReadOnlyDictionary<string, string>? descriptions = null)
    {
        string? Describe(string of) => descriptions?.GetValueOrDefault(of) is { Length: > 0 } text ? text : null;
        ImmutableArray<SavedCondition> saved = [.. sheet.Sets().SelectMany(s => s.Set.Leaves()).Select(c => c.SavedId).OfType<long>().Distinct()
            .Where(context.SavedConditions.ContainsKey).Select(id => context.SavedConditions[id]).OrderBy(s => s.Name, StringComparer.Ordinal)];
        var lists = sheet.Sets().Select(s => s.Set).Concat(saved.Select(s => s.Set)).SelectMany(s => s.Leaves()).Select(c => c.KeywordListId).OfType<long>().Distinct()
            .Where(context.KeywordLists.ContainsKey).Select(id => context.KeywordLists[id]).OrderBy(l => l.Name, StringComparer.Ordinal);
        var templates = sheet.Lines.SelectMany(l => l.Replies).Select(r => r.TemplateId).Distinct()
            .Where(context.Templates.ContainsKey).Select(id => context.Templates[id]).OrderBy(t => t.Name, StringComparer.Ordinal);
        var usual = new Limits();
        return new WorkflowDocument
        {
            Name = name,
            Addresses = sheet.Addresses,
            TakesIn = Write(sheet.TakesIn, sheet, context),
            SortsInto = [.. sheet.Categories.Select(c => new CategoryDocument(c.Name, c.Id, c.BySorter ? null : Write(c.When, sheet, context), c.BySorter))],
            Sorter = sheet.SorterId is { } sorter ? context.Sorters.GetValueOrDefault(sorter)?.Name : null,
            ReadsOut = sheet.Facts,
            Does = [.. sheet.Lines.Select(l => Write(l, sheet, context))],
            EveryLine = sheet.EveryLine,
            Limits = sheet.Limits == usual ? null : new LimitsDocument
            {
                OneReplyPerSenderHours = sheet.Limits.OneReplyPerSenderHours ?? 0,
                SkipLaterWorkflows = sheet.Limits.SkipLaterWorkflows,
            },
            KeywordLists = [.. lists.Select(l => new KeywordListDocument(l.Name)
            {
                Description = Describe(l.Name),
                Options = l.Options == KeywordOptions.Usual ? null : l.Options,
                Words = l.Entries,
            })],
            SavedConditions = [.. saved.Select(s => new SavedConditionDocument(s.Name) { Description = Describe(s.Name), Set = Write(s.Set, sheet, context) })],
            Templates = [.. templates.Select(t => new TemplateDocument(t.Name, t.Body))],
            Examples = [.. (examples ?? []).Where(e => e.Message.MessageId.Length > 0).Select(e => new ExampleDocument(e.Message.MessageId, e.Expected))],
        };
    }

    private static SetDocument Write(ConditionSet set, Sheet sheet, PlanContext context) => new()
    {
        All = [.. set.All.Select(c => Write(c, sheet, context))],
        Any = [.. set.Any.Select(c => Write(c, sheet, context))],
        None = [.. set.None.Select(c => Write(c, sheet, context))],
    };

    private static ConditionDocument Write(Condition condition, Sheet sheet, PlanContext context)
    {
        var inner = condition.Set is { } set ? Write(set, sheet, context) : new SetDocument();
        return new ConditionDocument
        {
            Id = condition.Id,
            Part = condition.Part,
            Test = condition.Test,
            Values = condition.Part == MessagePart.Category
                ? [.. condition.Values.Select(v => sheet.Categories.FirstOrDefault(c => c.Id == v)?.Name ?? v)]
                : condition.Values,
            KeywordList = condition.KeywordListId is { } list ? context.KeywordLists.GetValueOrDefault(list)?.Name : null,
            Kinds = condition.Kinds,
            Name = condition.Name,
            WholeBody = condition.WholeBody,
            SameCase = condition.SameCase,
            Line = condition.Place?.Line,
            Word = condition.Place?.Word,
            Least = condition.Least,
            Most = condition.Most,
            From = condition.From,
            Until = condition.Until,
            Saved = condition.SavedId is { } saved ? context.SavedConditions.GetValueOrDefault(saved)?.Name : null,
            All = inner.All,
            Any = inner.Any,
            None = inner.None,
        };
    }

    private static LineDocument Write(Line line, Sheet sheet, PlanContext context) => new()
    {
        Id = line.Id,
        Category = line.Case == LineCase.Category ? sheet.Categories.FirstOrDefault(c => c.Id == line.CategoryId)?.Name ?? "" : null,
        NoneOfThese = line.Case == LineCase.NoneOfThese,
        Unsure = line.Case == LineCase.Unsure,
        SuretyFrom = line.SuretyFrom,
        And = line.AndWhen.IsEmpty() ? null : Write(line.AndWhen, sheet, context),
        Queues = [.. line.Queues.Select(q => new QueueDocument(context.Queues.GetValueOrDefault(q.QueueId, ""), q.DueInMinutes))],
        Ticket = line.Ticket,
        Files = [.. line.Files.Select(f => new FileDocument(f.Folder) { OnlyEndings = f.OnlyEndings })],
        Replies = [.. line.Replies.Select(r => new ReplyDocument(context.Templates.GetValueOrDefault(r.TemplateId)?.Name ?? "", r.Mode, r.DelayMinutes, r.To))],
        PassOn = [.. line.PassOns.Select(p => context.Destinations.GetValueOrDefault(p.DestinationId, ""))],
        InMailbox = line.InMailbox?.Effects ?? [],
        Off = line.Off,
        Note = line.Note,
    };
}
