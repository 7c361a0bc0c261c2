using System.Security.Claims;
using Microsoft.EntityFrameworkCore;
using PostTide.Core.Workflows;
using PostTide.Engine.Deeds;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Server.Places;

/// <summary>Which replies a list shows.</summary>
public enum ReplyShow
{
    Checking,
    Scheduled,
    Sent,
    Stuck,
    Stopped,
}

/// <summary>A reply and where it stands.</summary>
public sealed record ReplyRow(
    long DeedId, long MessageId, DeedState State, string? Because, string From, string To, string Subject, string Body, string TemplateName,
    string? AttachmentName, string MailId, bool Automatic, bool Uncertain, string? CheckedBy, DateTimeOffset CreatedAt, DateTimeOffset? NotBefore,
    DateTimeOffset? DoneAt, string SenderName, string MessageSubject, string? Workflow);

/// <summary>Replies, and how many there are in each situation.</summary>
public sealed record ReplyList(IReadOnlyList<ReplyRow> Replies, int Checking, int Scheduled, int Sent, int Stuck, int Stopped);

/// <summary>The changed text of a reply.</summary>
public sealed record ReplyText(string To, string Subject, string Body);

/// <summary>Replies: waiting for checking, scheduled, sent.</summary>
internal static class Replies
{
    private const int Most = 200;

    public static void MapReplies(this RouteGroupBuilder api)
    {
        var group = api.MapGroup("/replies").WithTags("Replies");
        group.MapGet("", ListAsync);
        var checker = group.MapGroup("/{deedId:long}").RequireAuthorization(Permissions.Checker);
        checker.MapPut("", (long deedId, ReplyText text, DeedDesk desk, ClaimsPrincipal user, CancellationToken stop) =>
            desk.ChangeReplyAsync(deedId, text.To, text.Subject, text.Body, user.DisplayName(), stop));
        checker.MapPost("/send", (long deedId, DeedDesk desk, ClaimsPrincipal user, CancellationToken stop) => desk.SendReplyAsync(deedId, user.DisplayName(), stop));
        checker.MapPost("/do-not-send", (long deedId, DeedDesk desk, ClaimsPrincipal user, CancellationToken stop) => desk.DropAsync(deedId, user.DisplayName(), stop));
        checker.MapPost("/take-back", (long deedId, DeedDesk desk, ClaimsPrincipal user, CancellationToken stop) => desk.TakeBackAsync(deedId, user.DisplayName(), stop));
    }

    private static async Task<ReplyList> ListAsync(PostTideContext db, CancellationToken stop, ReplyShow show = ReplyShow.Checking)
    {
        var states = StatesOf(show);
        var chosen = db.Replies.AsNoTracking().Where(r => states.Contains(r.Deed.State));
        chosen = show is ReplyShow.Checking or ReplyShow.Scheduled ? chosen.OrderBy(r => r.Deed.CreatedAt) : chosen.OrderByDescending(r => r.Deed.DoneAt ?? r.Deed.CreatedAt);
        var rows = await chosen.Take(Most).Select(r => new ReplyRow(
            r.DeedId, r.MessageId, r.Deed.State, r.Deed.Because, r.From, r.To, r.Subject, r.Body, r.TemplateName, r.AttachmentName, r.MailId, r.Automatic,
            r.Uncertain, r.CheckedBy, r.Deed.CreatedAt, r.Deed.NotBefore, r.Deed.DoneAt,
            db.Messages.Where(m => m.Id == r.MessageId).Select(m => m.SenderName).First(),
            db.Messages.Where(m => m.Id == r.MessageId).Select(m => m.Subject).First(),
            db.Workflows.Where(w => w.Id == r.Deed.WorkflowId).Select(w => w.Name).FirstOrDefault())).ToListAsync(stop);
        var counts = await db.Deeds.Where(d => d.Kind == DeedKind.Reply).GroupBy(d => d.State).Select(g => new { g.Key, Count = g.Count() })
            .ToDictionaryAsync(g => g.Key, g => g.Count, stop);
        int Count(ReplyShow which) => StatesOf(which).Sum(s => counts.GetValueOrDefault(s));
        return new ReplyList(rows, Count(ReplyShow.Checking), Count(ReplyShow.Scheduled), Count(ReplyShow.Sent), Count(ReplyShow.Stuck), Count(ReplyShow.Stopped));
    }

    private static DeedState[] StatesOf(ReplyShow show) => show switch
    {
        ReplyShow.Checking => [DeedState.Checking],
        ReplyShow.Scheduled => [DeedState.Delayed, DeedState.Waiting, DeedState.UnderWay],
        ReplyShow.Sent => [DeedState.Done],
        ReplyShow.Stuck => [DeedState.Stuck],
        _ => [DeedState.Dropped],
    };
}
