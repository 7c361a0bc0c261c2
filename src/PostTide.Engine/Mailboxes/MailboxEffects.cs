using System.Collections.Concurrent;
using Microsoft.EntityFrameworkCore;
using PostTide.Core.Workflows;
using PostTide.Mail.Imap;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Engine.Mailboxes;

/// <summary>Carries out effects on messages where they lie. Connections are kept for a while and used by one deed at a time.</summary>
public sealed class MailboxEffects(MailboxSecrets secrets, TimeProvider clock)
{
    private static readonly TimeSpan KeptFor = TimeSpan.FromSeconds(30);
    private readonly ConcurrentDictionary<(long Mailbox, int Revision, string Folder), Line> _lines = new();

    /// <summary>Carries out a deed's effects, and gives the words for its history.</summary>
    /// <param name="db">Where the message's record lies; a move changes it, and the caller saves.</param>
    /// <param name="message">The message.</param>
    /// <param name="content">The effects.</param>
    /// <param name="again">Whether an earlier try may have got part of the way.</param>
    /// <param name="stop">Gives up.</param>
    /// <exception cref="MailboxTroubleException">The mailbox cannot be reached just now.</exception>
    /// <exception cref="MessageGoneException">The message is no longer where it was.</exception>
    /// <exception cref="InvalidOperationException">It can never be done.</exception>
    public async Task<string> ApplyAsync(PostTideContext db, Message message, MailboxContent content, bool again, CancellationToken stop)
    {
        var place = SourceKey.Read(message.MovedTo ?? message.SourceKey) ?? throw new InvalidOperationException("The message was not read from a connected mailbox.");
        var connection = await db.Connections.AsNoTracking().SingleOrDefaultAsync(c => c.MailboxId == message.MailboxId, stop)
            ?? throw new InvalidOperationException("The mailbox is no longer connected.");
        var line = _lines.GetOrAdd((connection.MailboxId, connection.Revision, place.Folder), _ => new Line());
        await line.Turn.WaitAsync(stop);
        try
        {
            var session = await OpenAsync(line, connection, place.Folder, stop);
            if (session.UidValidity != place.UidValidity)
            {
                throw new MailboxTroubleException(ConnectStep.Folder, "The server numbers this folder anew; the message is found again at the next look", "");
            }

            return await ApplyAsync(session, message, place, content, again, stop);
        }
        catch (MailboxTroubleException)
        {
            await line.CloseAsync();
            throw;
        }
        finally
        {
            line.LastUsed = clock.GetUtcNow();
            line.Turn.Release();
        }
    }

    /// <summary>Closes connections nobody has used for a while.</summary>
    public async Task CloseIdleAsync()
    {
        foreach (var line in _lines.Values.Where(l => l.Session is not null && clock.GetUtcNow() - l.LastUsed > KeptFor))
        {
            if (await line.Turn.WaitAsync(TimeSpan.Zero))
            {
                try
                {
                    await line.CloseAsync();
                }
                finally
                {
                    line.Turn.Release();
                }
            }
        }
    }

    private static async Task<string> ApplyAsync(
        ImapSession session, Message message, SourceKey place, MailboxContent content, bool again, CancellationToken stop)
    {
        try
        {
            var moved = await session.ApplyAsync(place.Uid, content.Effects, message.MailId, again, stop);
            if (moved is not null)
            {
                message.MovedTo = new SourceKey(moved.UidValidity, moved.Uid, moved.Folder).ToString();
            }

            return $"Done in {place.Folder}";
        }
        catch (MessageGoneException) when (again && content.Effects.FirstOrDefault(e => e.Moves) is { } move)
        {
            return await session.HasArrivedAsync(move, message.MailId, stop) ? "Done by the try before, whose answer was lost" : throw new MessageGoneException();
        }
    }

    private async Task<ImapSession> OpenAsync(Line line, Connection connection, string folder, CancellationToken stop)
    {
        if (line.Session is { IsUsable: true } open)
        {
            return open;
        }

        await line.CloseAsync();
        return line.Session = await ImapConnector.OpenAsync(secrets.AccountOf(connection, folder), write: true, stop);
    }

    private sealed class Line
    {
        public SemaphoreSlim Turn { get; } = new(1, 1);
        public ImapSession? Session { get; set; }
        public DateTimeOffset LastUsed { get; set; }

        public async Task CloseAsync()
        {
            if (Session is { } session)
            {
                Session = null;
                await session.DisposeAsync();
            }
        }
    }
}
