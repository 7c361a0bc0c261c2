using System.Collections.Immutable;
using PostTide.Core.Matching;

namespace PostTide.Core.Workflows;

/// <summary>One difference between two editions, said in plain words.</summary>
/// <param name="Band">The band of the sheet it is in.</param>
/// <param name="Before">What the older edition says, null when it says nothing.</param>
/// <param name="After">What the newer one says, null when it says nothing.</param>
public sealed record SheetChange(string Band, string? Before, string? After);

/// <summary>Compares editions in words.</summary>
public static class EditionComparison
{
    /// <summary>What changed from one sheet to another, band by band.</summary>
    public static ImmutableArray<SheetChange> Between(Sheet before, Sheet after, PlanContext names)
    {
        var changes = ImmutableArray.CreateBuilder<SheetChange>();
        foreach (var band in new[] { "takes in", "sorts into", "reads out", "does", "limits" })
        {
            var was = Statements(before, band, names);
            var becomes = Statements(after, band, names);
            foreach (var key in was.Keys.Union(becomes.Keys))
            {
                var old = was.GetValueOrDefault(key);
                var now = becomes.GetValueOrDefault(key);
                if (old != now)
                {
                    changes.Add(new SheetChange(band, old, now));
                }
            }
        }

        return changes.ToImmutable();
    }

    /// <summary>The statements of a band, keyed by what stays the same when a statement is changed.</summary>
    private static Dictionary<string, string> Statements(Sheet sheet, string band, PlanContext names) => band switch
    {
        "takes in" => sheet.Addresses.Select(a => ($"address {a}", $"mail to {a}"))
            .Concat(SayConditions(sheet.TakesIn, names)).ToDictionary(p => p.Item1, p => p.Item2),
        "sorts into" => sheet.Categories.Select(c => (c.Id, c.BySorter ? $"{c.Name}: by the sorter" : $"{c.Name}: {Join(c.When, names)}"))
            .Concat(sheet.SorterId is { } sorter ? [("sorter", $"the sorter {names.Sorters.GetValueOrDefault(sorter)?.Name ?? "that is gone"}")] : [])
            .ToDictionary(p => p.Item1, p => p.Item2),
        "reads out" => sheet.Facts.ToDictionary(f => f, f => f),
        "does" => sheet.Lines.Select((l, i) => (l.Id, $"line {i + 1}, {Say(l, sheet, names)}"))
            .Append(("every line", sheet.EveryLine ? "every line that fits" : "the first line that fits")).ToDictionary(p => p.Item1, p => p.Item2),
        _ => new Dictionary<string, string>
        {
            ["reply"] = sheet.Limits.OneReplyPerSenderHours is { } h ? $"one reply per sender in {h} h" : "replies without a limit per sender",
            ["later"] = sheet.Limits.SkipLaterWorkflows ? "later workflows are skipped" : "later workflows see it too",
        },
    };

    private static IEnumerable<(string, string)> SayConditions(ConditionSet set, PlanContext names) =>
        set.All.Select(c => (c.Id, "all: " + ConditionWords.Say(c, names)))
            .Concat(set.Any.Select(c => (c.Id, "any: " + ConditionWords.Say(c, names))))
            .Concat(set.None.Select(c => (c.Id, "none: " + ConditionWords.Say(c, names))));

    private static string Join(ConditionSet set, PlanContext names) => string.Join("; ", SayConditions(set, names).Select(p => p.Item2));

    private static string Say(Line line, Sheet sheet, PlanContext names)
    {
        var parts = new List<string>
        {
            line.Case switch
            {
                LineCase.Any => "anything",
                LineCase.NoneOfThese => "none of these",
                LineCase.Unsure => "unsure",
                _ => sheet.Categories.FirstOrDefault(c => c.Id == line.CategoryId)?.Name ?? "a category that is gone",
            } + (line.SuretyFrom is { } surety ? $", surety from {surety.ToString("P0", System.Globalization.CultureInfo.InvariantCulture)}" : "") + (line.AndWhen.IsEmpty() ? "" : " and " + Join(line.AndWhen, names)),
        };
        foreach (var q in line.Queues)
        {
            var due = q.DueInMinutes is { } minutes ? $", due in {minutes} min" : "";
            parts.Add($"queue {names.Queues.GetValueOrDefault(q.QueueId, "gone")}{due}");
        }

        if (line.Ticket is { } t)
        {
            parts.Add($"ticket {t.Label}, {t.Priority.ToString().ToLowerInvariant()}{(t.Mode == TicketMode.AddOnly ? ", only added to" : "")}");
        }

        foreach (var f in line.Files)
        {
            parts.Add($"files to {f.Folder}{(f.OnlyEndings.IsEmpty ? "" : $" ({string.Join(", ", f.OnlyEndings)})")}");
        }

        foreach (var r in line.Replies)
        {
            var how = r.Mode == ReplyMode.Check ? "for checking" : r.DelayMinutes > 0 ? $"sent after {r.DelayMinutes} min" : "sent at once";
            var to = r.To == ReplyTo.FirstAddressInBody ? " to the first address in the body" : "";
            parts.Add($"reply “{names.Templates.GetValueOrDefault(r.TemplateId)?.Name ?? "gone"}”{to} {how}");
        }

        foreach (var p in line.PassOns)
        {
            parts.Add($"pass on to {names.Destinations.GetValueOrDefault(p.DestinationId, "gone")}");
        }

        if (line.InMailbox is { Effects.IsEmpty: false } m)
        {
            parts.Add($"in the mailbox {string.Join(", ", MailboxEffect.InOrder(m.Effects).Select(e => e.Says))}");
        }

        if (line.DoesNothing())
        {
            parts.Add("leave alone");
        }

        if (line.Off)
        {
            parts.Add("switched off");
        }

        if (!string.IsNullOrWhiteSpace(line.Note))
        {
            parts.Add($"note “{line.Note}”");
        }

        return string.Join("; ", parts);
    }
}
