using System.Collections.Immutable;
using System.Globalization;
using PostTide.Core.Facts;
using PostTide.Core.Filing;
using PostTide.Core.Messages;
using PostTide.Core.Replies;

namespace PostTide.Core.Workflows;

/// <summary>Turns a line that fits into deeds, or into the reasons why one of them is skipped or held.</summary>
public static class DeedPlanner
{
    private const int LongestSummary = 200;
    private const int LongestDescription = 20_000;

    /// <summary>
    /// The deeds of lines, line by line in the order queue, ticket, files, reply, pass on, mailbox. What two lines ask for alike
    /// is done once. Also used for deeds done by hand.
    /// </summary>
    public static ImmutableArray<PlannedDeed> DeedsOf(
        IReadOnlyList<Line> lines, PreparedMessage message, ImmutableArray<Fact> facts, long workflowId, Limits limits, PlanContext context)
    {
        var deeds = ImmutableArray.CreateBuilder<PlannedDeed>();
        var seen = new HashSet<(DeedKind, string)>();
        foreach (var line in lines)
        {
            foreach (var deed in Each(line))
            {
                if (seen.Add((deed.Kind, deed.Target)))
                {
                    deeds.Add(deed);
                }
            }
        }

        return deeds.ToImmutable();

        IEnumerable<PlannedDeed> Each(Line line)
        {
            foreach (var place in line.Queues)
            {
                yield return Place(place, message, context);
            }

            if (line.Ticket is { } ticket)
            {
                yield return Ticket(ticket, message, context);
            }

            foreach (var files in line.Files)
            {
                yield return File(files, message, facts);
            }

            foreach (var reply in line.Replies)
            {
                var hasTicket = deeds.Any(d => d is { Kind: DeedKind.Ticket, SkippedBecause: null });
                yield return Reply(reply, message, facts, hasTicket, workflowId, limits, context);
            }

            foreach (var passOn in line.PassOns)
            {
                yield return PassOn(passOn, facts, context);
            }

            if (line.InMailbox is { Effects.IsEmpty: false } inMailbox)
            {
                yield return InMailbox(inMailbox, message);
            }
        }
    }

    /// <summary>The values a template or a folder pattern may use: the facts read out, the arrival and the ticket.</summary>
    public static Dictionary<string, object?> ValuesFor(PreparedMessage message, IEnumerable<Fact> facts, string? ticket)
    {
        var values = new Dictionary<string, object?>(StringComparer.Ordinal)
        {
            ["arrived"] = message.ArrivedAt,
            ["ticket"] = ticket,
        };
        foreach (var fact in facts)
        {
            values[fact.Name] = fact.Name == BuiltInFacts.Date ? message.SentAt ?? message.ArrivedAt : fact.Value;
        }

        return values;
    }

    private static PlannedDeed Place(PlaceSpec spec, PreparedMessage message, PlanContext context)
    {
        var due = spec.DueInMinutes is { } minutes ? message.ArrivedAt.AddMinutes(minutes) : (DateTimeOffset?)null;
        var content = new PlaceContent(spec.QueueId, due);
        return context.Queues.TryGetValue(spec.QueueId, out var name)
            ? new PlannedDeed(DeedKind.Place, Id(spec.QueueId), $"place in {name}", content)
            : new PlannedDeed(DeedKind.Place, Id(spec.QueueId), "place in a queue", content, "the queue is gone");
    }

    private static PlannedDeed Ticket(TicketSpec spec, PreparedMessage message, PlanContext context)
    {
        var reference = context.TicketOf(message);
        var summary = CleanSummary(message.Subject);
        var description = message.Body.NewPart;
        var content = new TicketContent(reference, spec.Label, spec.Priority, summary,
            description.Length > LongestDescription ? description[..LongestDescription] : description);
        if (reference is not null)
        {
            return new PlannedDeed(DeedKind.Ticket, "ticket", $"add to ticket {reference}", content);
        }

        return spec.Mode == TicketMode.OpenOrAdd
            ? new PlannedDeed(DeedKind.Ticket, "ticket", $"open a ticket, {spec.Label}", content)
            : new PlannedDeed(DeedKind.Ticket, "ticket", "add to its ticket", content, "it refers to no ticket");
    }

    private static PlannedDeed File(FileSpec spec, PreparedMessage message, ImmutableArray<Fact> facts)
    {
        var filled = LiquidText.Fill(spec.Folder, ValuesFor(message, facts, null));
        var folder = SafeName.Folder(filled.Text);
        var chosen = message.Attachments
            .Where(a => spec.OnlyEndings.IsEmpty || spec.OnlyEndings.Any(e => HasEnding(a.Name, e)))
            .Select(a => new FiledAttachment(a.Index, SafeName.File(a.Name)))
            .ToImmutableArray();
        var why = message.Attachments.IsEmpty ? "there is no attachment"
            : chosen.IsEmpty ? $"no attachment is a {string.Join(" or ", spec.OnlyEndings)}"
            : filled.Error ?? (filled.Missing.IsEmpty ? null : $"the folder needs a value that is missing: {string.Join(", ", filled.Missing)}");
        var count = chosen.Length == 1 ? "1 file" : $"{chosen.Length} files";
        return new PlannedDeed(DeedKind.File, folder, chosen.IsEmpty ? $"file in {spec.Folder}" : $"file {count} in {(folder.Length == 0 ? "the top folder" : folder)}",
            new FileContent(folder, chosen), why);
    }

    private static PlannedDeed Reply(
        ReplySpec spec, PreparedMessage message, ImmutableArray<Fact> facts, bool hasTicket, long workflowId, Limits limits, PlanContext context)
    {
        var to = spec.To == ReplyTo.FirstAddressInBody
            ? BuiltInFacts.Read(BuiltInFacts.FirstAddress, message).Value ?? ""
            : (message.ReplyTo ?? message.From).Address;
        var target = to.ToLowerInvariant();
        var notBefore = spec.Mode == ReplyMode.Send && spec.DelayMinutes > 0 ? context.Now.AddMinutes(spec.DelayMinutes) : (DateTimeOffset?)null;
        if (!context.Templates.TryGetValue(spec.TemplateId, out var template))
        {
            return new PlannedDeed(DeedKind.Reply, target, "reply", new ReplyContent(spec.TemplateId, to, spec.Mode, notBefore, []), "the template is gone");
        }

        // The real reference is filled in when the ticket is opened; here it only counts as present.
        var filled = LiquidText.Fill(template.Body, ValuesFor(message, facts, hasTicket ? "ticket" : null));
        var content = new ReplyContent(spec.TemplateId, to, spec.Mode, notBefore, filled.Missing);
        var says = spec.Mode == ReplyMode.Check ? $"draft “{template.Name}” to {to} for checking"
            : notBefore is null ? $"send “{template.Name}” to {to}"
            : $"send “{template.Name}” to {to} after {spec.DelayMinutes} min";
        var refused = ReplySafety.Refuse(message, to, context) ?? TooSoon(workflowId, to, limits, context);
        var held = filled.Error is not null ? $"the template cannot be filled: {filled.Error}"
            : !filled.Missing.IsEmpty ? $"a value is missing: {string.Join(", ", filled.Missing)}"
            : spec.Mode == ReplyMode.Send ? context.HoldReplies
            : null;
        return new PlannedDeed(DeedKind.Reply, target, says, content, refused, held);
    }

    private static string? TooSoon(long workflowId, string to, Limits limits, PlanContext context) =>
        limits.OneReplyPerSenderHours is { } hours
        && context.LastReplies.TryGetValue(PlanContext.ReplyKey(workflowId, to), out var last)
        && context.Now - last < TimeSpan.FromHours(hours)
            ? $"this sender was answered less than {hours} h before"
            : null;

    private static PlannedDeed PassOn(PassOnSpec spec, ImmutableArray<Fact> facts, PlanContext context)
    {
        var content = new PassOnContent(spec.DestinationId, facts);
        return context.Destinations.TryGetValue(spec.DestinationId, out var name)
            ? new PlannedDeed(DeedKind.PassOn, Id(spec.DestinationId), $"pass on to {name}", content)
            : new PlannedDeed(DeedKind.PassOn, Id(spec.DestinationId), "pass on", content, "the destination is gone");
    }

    private static PlannedDeed InMailbox(MailboxSpec spec, PreparedMessage message)
    {
        var effects = MailboxEffect.InOrder(spec.Effects);
        return new PlannedDeed(
            DeedKind.Mailbox, "mailbox", MailboxEffect.Say(effects), new MailboxContent(effects),
            message.Folder is null ? "it was not read from a connected mailbox" : null);
    }

    private static bool HasEnding(string name, string ending) =>
        name.EndsWith("." + ending.TrimStart('.'), StringComparison.OrdinalIgnoreCase);

    private static string CleanSummary(string subject)
    {
        var summary = subject.Length > LongestSummary ? subject[..LongestSummary] : subject;
        return summary.Trim().Length == 0 ? "(no subject)" : summary;
    }

    private static string Id(long id) => id.ToString(CultureInfo.InvariantCulture);
}
