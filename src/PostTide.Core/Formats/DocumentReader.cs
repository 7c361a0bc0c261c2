using System.Collections.Immutable;
using PostTide.Core.Matching;
using PostTide.Core.Sorting;
using PostTide.Core.Workflows;

namespace PostTide.Core.Formats;

/// <summary>A problem at a path of the document.</summary>
public sealed record PathProblem(string Path, string Text);

/// <summary>Makes a sheet of a document: names become ids, and what has no id gets one.</summary>
/// <param name="names">The ids behind names.</param>
/// <param name="problems">Takes what is wrong.</param>
public sealed class DocumentReader(DocumentNames names, List<PathProblem> problems)
{
    private readonly Dictionary<string, string> _pathOf = new(StringComparer.Ordinal);
    private readonly HashSet<string> _used = new(StringComparer.Ordinal);

    /// <summary>Where the condition, category or line with an id stands in the document.</summary>
    public string PathOf(string id) => _pathOf.GetValueOrDefault(id, "$");

    /// <summary>The sheet.</summary>
    public Sheet Read(WorkflowDocument document)
    {
        ImmutableArray<Category> categories = [.. document.SortsInto.Select((c, i) => new Category
        {
            Id = IdFor(c.Id, "k", $"$.sortsInto[{i}]"),
            Name = c.Name,
            When = ReadSet(c.When, $"$.sortsInto[{i}].when"),
            BySorter = c.BySorter,
        })];
        var usual = new Limits();
        return new Sheet
        {
            Addresses = document.Addresses,
            TakesIn = ReadSet(document.TakesIn, "$.takesIn"),
            Categories = categories,
            SorterId = Find(document.Sorter, names.Sorters, "sorter", "$.sorter"),
            Facts = document.ReadsOut,
            Lines = [.. document.Does.Select((l, i) => Read(l, categories, $"$.does[{i}]"))],
            EveryLine = document.EveryLine,
            Limits = new Limits
            {
                OneReplyPerSenderHours = document.Limits?.OneReplyPerSenderHours is { } hours ? (hours == 0 ? null : hours) : usual.OneReplyPerSenderHours,
                SkipLaterWorkflows = document.Limits?.SkipLaterWorkflows ?? usual.SkipLaterWorkflows,
            },
        };
    }

    /// <summary>A set of conditions.</summary>
    public ConditionSet ReadSet(SetDocument? set, string path, ImmutableArray<Category> categories = default) => set is null ? ConditionSet.Empty : new ConditionSet
    {
        All = [.. set.All.Select((c, i) => Read(c, $"{path}.all[{i}]", categories))],
        Any = [.. set.Any.Select((c, i) => Read(c, $"{path}.any[{i}]", categories))],
        None = [.. set.None.Select((c, i) => Read(c, $"{path}.none[{i}]", categories))],
    };

    private Condition Read(ConditionDocument document, string path, ImmutableArray<Category> categories)
    {
        var isGroup = document.Part is MessagePart.Group || (document.Part is null && !document.IsEmpty());
        var part = isGroup ? MessagePart.Group : document.Part ?? (document.Saved is not null ? MessagePart.Saved : MessagePart.SubjectOrBody);
        return new Condition
        {
            Id = IdFor(document.Id, "c", path),
            Part = part,
            Test = document.Test ?? (document.KeywordList is not null ? MatchTest.HasAnyWordIn : PartTests.Of(part)[0]),
            Values = part == MessagePart.Category && !categories.IsDefault
                ? [.. document.Values.Select(v => categories.FirstOrDefault(c => c.Name == v)?.Id ?? Missing(v, "category", path))]
                : document.Values,
            KeywordListId = Find(document.KeywordList, names.KeywordLists, "keyword list", $"{path}.keywordList"),
            Kinds = document.Kinds,
            Name = document.Name,
            WholeBody = document.WholeBody,
            SameCase = document.SameCase,
            Place = document.Line is { } line ? new WordPlace(line, document.Word) : null,
            Least = document.Least,
            Most = document.Most,
            From = document.From,
            Until = document.Until,
            SavedId = Find(document.Saved, names.SavedConditions, "saved condition", $"{path}.saved"),
            Set = isGroup ? ReadSet(document, path, categories) : null,
        };
    }

    private Line Read(LineDocument document, ImmutableArray<Category> categories, string path)
    {
        var category = document.Category is { } name ? categories.FirstOrDefault(c => c.Name == name)?.Id ?? Missing(name, "category", $"{path}.category") : null;
        return new Line
        {
            Id = IdFor(document.Id, "l", path),
            Case = category is not null ? LineCase.Category : document.NoneOfThese ? LineCase.NoneOfThese : document.Unsure ? LineCase.Unsure : LineCase.Any,
            SuretyFrom = document.SuretyFrom,
            CategoryId = category,
            AndWhen = ReadSet(document.And, $"{path}.and", categories),
            Queues = [.. document.Queues.Select((q, i) => new PlaceSpec(Find(q.Queue, names.Queues, "queue", $"{path}.queues[{i}]") ?? 0, q.DueInMinutes))],
            Ticket = document.Ticket,
            Files = [.. document.Files.Select(f => new FileSpec(f.Folder, f.OnlyEndings))],
            Replies = [.. document.Replies.Select((r, i) => new ReplySpec(Find(r.Template, names.Templates, "template", $"{path}.replies[{i}]") ?? 0, r.Mode, r.DelayMinutes, r.To))],
            PassOns = [.. document.PassOn.Select((p, i) => new PassOnSpec(Find(p, names.Destinations, "destination", $"{path}.passOn[{i}]") ?? 0))],
            InMailbox = document.InMailbox.IsEmpty ? null : new MailboxSpec(document.InMailbox),
            Off = document.Off,
            Note = document.Note,
        };
    }

    private long? Find(string? name, IReadOnlyDictionary<string, long> known, string kind, string path)
    {
        if (name is null)
        {
            return null;
        }

        if (known.TryGetValue(name, out var id))
        {
            return id;
        }

        Missing(name, kind, path);
        return null;
    }

    private string Missing(string name, string kind, string path)
    {
        problems.Add(new PathProblem(path, $"There is no {kind} “{name}” here."));
        return "";
    }

    private string IdFor(string? wanted, string prefix, string path)
    {
        var id = wanted ?? "";
        for (var number = 1; id.Length == 0 || !_used.Add(id); number++)
        {
            if (wanted is { Length: > 0 } && id == wanted)
            {
                problems.Add(new PathProblem(path, $"The id “{wanted}” is used twice."));
            }

            id = $"{prefix}{number}";
        }

        _pathOf[id] = path;
        return id;
    }
}
