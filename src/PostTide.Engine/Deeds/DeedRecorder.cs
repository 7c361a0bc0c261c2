using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Options;
using PostTide.Core.Facts;
using PostTide.Core.Messages;
using PostTide.Core.Replies;
using PostTide.Core.Workflows;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Engine.Deeds;

/// <summary>Who decided on deeds: a workflow's line, or a person.</summary>
public sealed record DecidedBy(long? WorkflowId, int? Edition, string? LineId, string? Person, long? RunId = null)
{
    public static DecidedBy Of(Verdict verdict) => new(verdict.WorkflowId, verdict.Edition, verdict.LineId, null);

    public static DecidedBy ByHand(string person) => new(null, null, null, person);
}

/// <summary>
/// Records planned deeds: inside deeds are carried out on the spot, replies are written, and what goes outside is handed
/// over. Workflows and people use the same path.
/// </summary>
public sealed class DeedRecorder(IDeedOutbox outbox, FileStore files, IOptions<EngineOptions> options)
{
    private readonly PostTideContext _db = outbox.Db;
    private readonly Dictionary<long, List<string>> _ownAddresses = [];
    private readonly InsideDeeds _inside = new(outbox.Db, files, options.Value.TicketPrefix);

    /// <summary>Records the deeds of one decision in their order, and gives the reference of the message's ticket, if one was touched.</summary>
    public async Task<string?> RecordAsync(
        MessageAtHand message, IEnumerable<PlannedDeed> planned, IReadOnlyCollection<Fact> facts, DecidedBy by,
        PlanContext context, CancellationToken stop)
    {
        string? ticket = null;
        foreach (var plan in planned)
        {
            var deed = NewDeed(message, plan, by, context.Now);
            _db.Deeds.Add(deed);
            if (plan.SkippedBecause is { } why)
            {
                Move(deed, DeedState.Skipped, context.Now, why, by.Person);
                continue;
            }

            switch (plan.Content)
            {
                case PlaceContent place:
                    Done(deed, await _inside.PlaceAsync(message, place, context.Now, by.Person, stop), context.Now, by.Person);
                    break;
                case TicketContent content:
                    var (opened, note) = await _inside.TicketAsync(message, content, context.Now, by.Person, stop);
                    ticket = opened.Reference;
                    Done(deed, note, context.Now, by.Person);
                    break;
                case FileContent content:
                    Done(deed, await _inside.FileAsync(message, content, deed, context.Now, stop), context.Now, by.Person);
                    break;
                case ReplyContent content:
                    await WriteReplyAsync(message, plan, content, deed, facts, ticket, context, stop);
                    break;
                default:
                    Move(deed, DeedState.Waiting, context.Now, null, by.Person);
                    await outbox.HandOverAsync(deed);
                    break;
            }
        }

        return ticket;
    }

    /// <summary>Records a reply a person wrote, and hands it over.</summary>
    public async Task SendByHandAsync(MessageAtHand message, string to, string body, Template? template, string person, DateTimeOffset now)
    {
        var content = new ReplyContent(template?.Id ?? 0, to, ReplyMode.Send, null, []);
        var planned = new PlannedDeed(DeedKind.Reply, to.ToLowerInvariant(), $"send a reply to {to}", content);
        var deed = NewDeed(message, planned, DecidedBy.ByHand(person), now);
        _db.Deeds.Add(deed);
        AddReply(message, deed, to, body, template, automatic: false, await OwnAddressAsync(message));
        Move(deed, DeedState.Waiting, now, null, person);
        await outbox.HandOverAsync(deed);
    }

    /// <summary>Changes a deed's state and writes it into its history.</summary>
    internal static void Move(Deed deed, DeedState state, DateTimeOffset now, string? note, string? person = null)
    {
        deed.State = state;
        deed.Because = state is DeedState.Skipped or DeedState.Checking or DeedState.Stuck or DeedState.Dropped ? note : null;
        if (state is DeedState.Done)
        {
            deed.DoneAt = now;
        }

        deed.History.Add(new DeedChange { DeedId = deed.Id, State = state, At = now, Note = note, Person = person });
    }

    private static void Done(Deed deed, string note, DateTimeOffset now, string? person) => Move(deed, DeedState.Done, now, note, person);

    private static Deed NewDeed(MessageAtHand message, PlannedDeed plan, DecidedBy by, DateTimeOffset now) => new()
    {
        Key = Guid.NewGuid(),
        MessageId = message.Row.Id,
        WorkflowId = by.WorkflowId,
        Edition = by.Edition,
        LineId = by.LineId,
        RunId = by.RunId,
        Repeat = plan.Repeat,
        Kind = plan.Kind,
        Target = plan.Target,
        Says = plan.Says,
        Content = plan.Content,
        CreatedAt = now,
    };

    private async Task WriteReplyAsync(
        MessageAtHand message, PlannedDeed plan, ReplyContent content, Deed deed, IReadOnlyCollection<Fact> facts, string? ticket,
        PlanContext context, CancellationToken stop)
    {
        var template = await _db.Templates.FindAsync([content.TemplateId], stop)
            ?? throw new InvalidOperationException("The template is gone.");
        var filled = LiquidText.Fill(template.Body, DeedPlanner.ValuesFor(message.Prepared, facts, ticket));
        AddReply(message, deed, content.To, filled.Text, template, automatic: true, await OwnAddressAsync(message));
        if (plan.HeldBecause is not null || content.Mode == ReplyMode.Check)
        {
            Move(deed, DeedState.Checking, context.Now, plan.HeldBecause ?? "the line says that a person checks it");
        }
        else
        {
            deed.NotBefore = content.NotBefore;
            Move(deed, content.NotBefore is null ? DeedState.Waiting : DeedState.Delayed, context.Now, null);
            await outbox.HandOverAsync(deed);
        }
    }

    private void AddReply(MessageAtHand message, Deed deed, string to, string body, Template? template, bool automatic, string from)
    {
        var headers = ReplyHeaders.For(message.Prepared, deed.Key, SubAddress.Split(from).Domain);
        _db.Replies.Add(new Reply
        {
            Deed = deed,
            MessageId = message.Row.Id,
            From = from,
            To = to,
            Subject = headers.Subject,
            Body = body,
            MailId = headers.MessageId,
            InReplyTo = headers.InReplyTo,
            References = [.. headers.References],
            TemplateName = template?.Name ?? "",
            Automatic = automatic,
            AttachmentName = template?.AttachmentName,
            AttachmentSha256 = template?.AttachmentSha256,
        });
    }

    /// <summary>The address a reply comes from: the one of ours the message was written to, or the mailbox's first.</summary>
    private async Task<string> OwnAddressAsync(MessageAtHand message)
    {
        if (!_ownAddresses.TryGetValue(message.Row.MailboxId, out var own))
        {
            own = await _db.Addresses.AsNoTracking().Where(a => a.MailboxId == message.Row.MailboxId).OrderBy(a => a.Id).Select(a => a.Address).ToListAsync();
            _ownAddresses[message.Row.MailboxId] = own;
        }

        var written = message.Prepared.OriginallyTo.Concat(message.Prepared.Recipients().Select(r => r.Address));
        return written.SelectMany(w => own.Where(o => SubAddress.Reaches(w, o))).FirstOrDefault()
            ?? own.FirstOrDefault()
            ?? throw new InvalidOperationException("The mailbox has no address to reply from.");
    }
}
