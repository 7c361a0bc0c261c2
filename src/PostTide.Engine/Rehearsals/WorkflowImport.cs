using Microsoft.EntityFrameworkCore;
using PostTide.Core.Formats;
using PostTide.Core.Matching;
using PostTide.Core.Replies;
using PostTide.Core.Workflows;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Engine.Rehearsals;

/// <summary>A workflow document held against what stands here.</summary>
/// <param name="File">The document as read, its names looked up here and in itself.</param>
/// <param name="Context">Everything the sheet may name: what stands here, and what the document would bring.</param>
/// <param name="New">What would be made.</param>
/// <param name="Different">What stands here with other content.</param>
public sealed record WorkflowImport(WorkflowFile File, PlanContext Context, IReadOnlyList<string> New, IReadOnlyList<string> Different)
{
    /// <summary>Reads a document. What it brings along and is not here yet counts as if it were.</summary>
    public static WorkflowImport Read(string yaml, PlanContext here)
    {
        var document = YamlText.Read<WorkflowDocument>(yaml).Value;
        if (document is null)
        {
            return new WorkflowImport(WorkflowFile.Read(yaml), here, [], []);
        }

        var (made, different) = (new List<string>(), new List<string>());
        var names = DocumentNames.Of(here);
        var next = -1L;
        var context = here;
        foreach (var list in document.KeywordLists)
        {
            var known = names.KeywordLists.TryGetValue(list.Name, out var id) ? here.KeywordLists[id] : null;
            Note(known is null, known is not null && (!known.Entries.SequenceEqual(list.Words) || known.Options != (list.Options ?? KeywordOptions.Usual)), $"keyword list “{list.Name}”");
            var at = known?.Id ?? next--;
            context = context with { KeywordLists = context.KeywordLists.Where(l => l.Key != at).Append(new(at, known ?? new KeywordList(at, list.Name, list.Words, list.Options))).ToDictionary() };
        }

        foreach (var template in document.Templates)
        {
            var known = names.Templates.TryGetValue(template.Name, out var id) ? here.Templates[id] : null;
            Note(known is null, known is not null && known.Body != template.Body, $"template “{template.Name}”");
            var at = known?.Id ?? next--;
            context = context with { Templates = context.Templates.Where(t => t.Key != at).Append(new(at, known ?? new ReplyTemplate(at, template.Name, template.Body))).ToDictionary() };
        }

        foreach (var saved in document.SavedConditions)
        {
            var known = names.SavedConditions.TryGetValue(saved.Name, out var id) ? here.SavedConditions[id] : null;
            Note(known is null, false, $"saved condition “{saved.Name}”");
            var at = known?.Id ?? next--;
            var set = new DocumentReader(DocumentNames.Of(context), []).ReadSet(saved.Set, "$");
            context = context with { SavedConditions = context.SavedConditions.Where(c => c.Key != at).Append(new(at, known ?? new SavedCondition(at, saved.Name, set))).ToDictionary() };
        }

        return new WorkflowImport(WorkflowFile.Read(yaml, DocumentNames.Of(context), context), context, made, different);

        void Note(bool isNew, bool isDifferent, string what)
        {
            if (isNew || isDifferent)
            {
                (isNew ? made : different).Add(what);
            }
        }
    }

    /// <summary>Makes the records a document brings that are not here; those that are keep their content unless it is to be replaced.</summary>
    public static async Task AddRecordsAsync(PostTideContext db, WorkflowDocument document, bool replace, CancellationToken stop)
    {
        foreach (var list in document.KeywordLists)
        {
            var record = await db.KeywordLists.SingleOrDefaultAsync(k => k.Name == list.Name, stop);
            if (record is null || replace)
            {
                record ??= db.KeywordLists.Add(new KeywordListRecord { Name = list.Name }).Entity;
                var options = list.Options ?? KeywordOptions.Usual;
                (record.Words, record.Description) = ([.. list.Words], list.Description ?? record.Description);
                (record.WholeWords, record.SameCase, record.SameAccents, record.Endings) = (options.WholeWords, options.SameCase, options.SameAccents, options.Endings);
                record.Revision++;
            }
        }

        foreach (var template in document.Templates)
        {
            var record = await db.Templates.FirstOrDefaultAsync(t => t.Name == template.Name, stop);
            if (record is null || replace)
            {
                record ??= db.Templates.Add(new Template { Name = template.Name, Body = "" }).Entity;
                record.Body = template.Body;
            }
        }

        await db.SaveChangesAsync(stop);
        var lists = await db.KeywordLists.AsNoTracking().ToDictionaryAsync(k => k.Name, k => k.Id, stop);
        var none = new Dictionary<string, long>();
        foreach (var saved in document.SavedConditions)
        {
            var record = await db.SavedConditions.SingleOrDefaultAsync(c => c.Name == saved.Name, stop);
            if (record is null || replace)
            {
                var set = new DocumentReader(new DocumentNames(none, none, lists, none, none, none), []).ReadSet(saved.Set, "$");
                record ??= db.SavedConditions.Add(new SavedConditionRecord { Name = saved.Name, Set = set }).Entity;
                (record.Set, record.Description) = (set, saved.Description ?? record.Description);
            }
        }

        await db.SaveChangesAsync(stop);
    }

    /// <summary>Keeps the examples whose messages are here.</summary>
    public static async Task AddExamplesAsync(PostTideContext db, long workflowId, WorkflowDocument document, string person, DateTimeOffset now, CancellationToken stop)
    {
        var ids = document.Examples.Select(e => e.MessageId).ToArray();
        var messages = await db.Messages.AsNoTracking().Where(m => ids.Contains(m.MailId) && m.DuplicateOfId == null).Select(m => new { m.Id, m.MailId }).ToListAsync(stop);
        var kept = await db.KeptExamples.Where(e => e.WorkflowId == workflowId).ToDictionaryAsync(e => e.MessageId, stop);
        foreach (var example in document.Examples)
        {
            foreach (var message in messages.Where(m => m.MailId == example.MessageId))
            {
                if (!kept.TryGetValue(message.Id, out var record))
                {
                    record = db.KeptExamples.Add(new KeptExampleRecord { WorkflowId = workflowId, MessageId = message.Id, Expected = example.Expected }).Entity;
                    kept[message.Id] = record;
                }

                (record.Expected, record.KeptBy, record.KeptAt) = (example.Expected, person, now);
            }
        }
    }
}
