using Microsoft.EntityFrameworkCore;
using PostTide.Store.Records;

namespace PostTide.Store.Search;

/// <summary>What a list of messages is narrowed to.</summary>
/// <param name="Text">Words that must all occur, or a part of a word in the subject or sender; empty for everything.</param>
/// <param name="MailboxId">Only this mailbox.</param>
/// <param name="Show">Only messages in this situation.</param>
/// <param name="From">Arrived at or after.</param>
/// <param name="Until">Arrived before.</param>
/// <param name="WorkflowId">Only messages this workflow planned deeds for.</param>
/// <param name="RunId">Only messages this look took in.</param>
public sealed record MessageQuery(
    string Text = "", long? MailboxId = null, MessageShow Show = MessageShow.All,
    DateTimeOffset? From = null, DateTimeOffset? Until = null, long? WorkflowId = null, long? RunId = null);

/// <summary>The situations a list can be narrowed to.</summary>
public enum MessageShow
{
    All,
    TakenIn,
    LeftAlone,
    Automatic,

    /// <summary>It was there before its mailbox was connected, or was brought in as old mail.</summary>
    Old,

    /// <summary>Kept back because its sender is not approved.</summary>
    Held,
    Duplicate,
    Unreadable,
}

/// <summary>Finds messages: full text over subject, sender, attachment names and new part, or a part of a word.</summary>
public static class MessageSearch
{
    public const int PageSize = 60;

    /// <summary>The messages a query narrows to, in no order yet.</summary>
    public static IQueryable<Message> Find(PostTideContext db, MessageQuery query)
    {
        var found = db.Messages.AsNoTracking();
        if (query.MailboxId is { } mailbox)
        {
            found = found.Where(m => m.MailboxId == mailbox);
        }

        if (query.From is { } from)
        {
            found = found.Where(m => m.ArrivedAt >= from);
        }

        if (query.Until is { } until)
        {
            found = found.Where(m => m.ArrivedAt < until);
        }

        if (query.WorkflowId is { } workflow)
        {
            found = found.Where(m => db.Deeds.Any(d => d.MessageId == m.Id && d.WorkflowId == workflow));
        }

        if (query.RunId is { } run)
        {
            found = found.Where(m => m.RunId == run);
        }

        found = query.Show switch
        {
            MessageShow.TakenIn => found.Where(m => m.TakenIn),
            MessageShow.LeftAlone => found.Where(m => m.State == MessageState.Planned && !m.TakenIn && m.DuplicateOfId == null && !m.Old),
            MessageShow.Old => found.Where(m => m.Old && !m.TakenIn && m.State == MessageState.Planned && m.DuplicateOfId == null),
            MessageShow.Held => found.Where(m => m.State == MessageState.Held),
            MessageShow.Automatic => found.Where(m => m.Automatic != null),
            MessageShow.Duplicate => found.Where(m => m.DuplicateOfId != null),
            MessageShow.Unreadable => found.Where(m => m.State == MessageState.Unreadable),
            _ => found,
        };

        var text = query.Text.Trim();
        if (text.Length > 0)
        {
            var part = $"%{EscapeLike(text)}%";
            var asked = SearchText.Read(text);
            found = found.Where(m => db.Prepared.Any(p => p.MessageId == m.Id
                && (p.Search.Matches(EF.Functions.WebSearchToTsQuery("simple", asked))
                    || EF.Functions.ILike(p.Subject, part, "\\") || EF.Functions.ILike(p.Sender, part, "\\"))));
        }

        return found;
    }

    /// <summary>The page after the message the page before ended with, newest first.</summary>
    public static IQueryable<Message> Page(IQueryable<Message> found, DateTimeOffset? beforeTime, long? beforeId)
    {
        if (beforeTime is { } time && beforeId is { } id)
        {
            found = found.Where(m => m.ArrivedAt < time || (m.ArrivedAt == time && m.Id < id));
        }

        return found.OrderByDescending(m => m.ArrivedAt).ThenByDescending(m => m.Id).Take(PageSize);
    }

    private static string EscapeLike(string text) =>
        text.Replace("\\", "\\\\", StringComparison.Ordinal).Replace("%", "\\%", StringComparison.Ordinal).Replace("_", "\\_", StringComparison.Ordinal);
}
