using Microsoft.EntityFrameworkCore;
using PostTide.Core.Workflows;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Engine.Deeds;

/// <summary>What people decide about deeds: replies that wait for checking, deeds that are stuck.</summary>
public sealed class DeedDesk(IDeedOutbox outbox, TimeProvider clock)
{
    private readonly PostTideContext _db = outbox.Db;

    /// <summary>Changes the text of a reply that has not gone out.</summary>
    public async Task ChangeReplyAsync(long deedId, string to, string subject, string body, string person, CancellationToken stop)
    {
        var (deed, reply) = await ReadReplyAsync(deedId, stop);
        if (deed.State is not (DeedState.Checking or DeedState.Delayed or DeedState.Stuck))
        {
            throw new RefusedException($"This reply is {Say(deed.State)} and can no longer be changed.");
        }

        if (!Core.Replies.ReplySafety.IsPlainAddress(to))
        {
            throw new RefusedException("This is not an address that can be written to.");
        }

        (reply.To, reply.Subject, reply.Body) = (to, Core.Text.CleanText.Line(subject), body);
        deed.History.Add(new DeedChange { DeedId = deed.Id, State = deed.State, At = clock.GetUtcNow(), Note = "The text was changed", Person = person });
        await CommitAsync(stop);
    }

    /// <summary>Sends a reply that waits for checking or for its time.</summary>
    public async Task SendReplyAsync(long deedId, string person, CancellationToken stop)
    {
        var (deed, reply) = await ReadReplyAsync(deedId, stop);
        if (deed.State is not (DeedState.Checking or DeedState.Delayed))
        {
            throw new RefusedException($"This reply is {Say(deed.State)}.");
        }

        reply.CheckedBy = person;
        await AgainAsync(deed, "Checked and released", person, stop);
    }

    /// <summary>Tries a stuck deed again.</summary>
    public async Task RetryAsync(long deedId, string person, CancellationToken stop)
    {
        var deed = await ReadAsync(deedId, stop);
        if (deed.State != DeedState.Stuck)
        {
            throw new RefusedException($"This deed is {Say(deed.State)}, not stuck.");
        }

        await AgainAsync(deed, "Tried again by hand", person, stop);
    }

    /// <summary>Aims a stuck deed elsewhere and tries it again: at another destination, or at another folder of the mailbox.</summary>
    public async Task ChangeAsync(long deedId, long? destinationId, string? folder, string person, CancellationToken stop)
    {
        var deed = await ReadAsync(deedId, stop);
        if (deed.State != DeedState.Stuck)
        {
            throw new RefusedException($"This deed is {Say(deed.State)}, not stuck.");
        }

        var before = deed.Says;
        switch (deed.Content)
        {
            case PassOnContent passOn when destinationId is { } id:
                var name = await _db.Destinations.Where(d => d.Id == id).Select(d => d.Name).SingleOrDefaultAsync(stop) ?? throw new RefusedException("This destination is gone.");
                deed.Content = passOn with { DestinationId = id };
                deed.Says = $"pass on to {name}";
                break;
            case MailboxContent mailbox when folder is not null:
                MailboxEffect move = new(MailboxEffectKind.Move, folder.Trim());
                if (MailboxEffect.ProblemsOf([move]).FirstOrDefault() is { } problem)
                {
                    throw new RefusedException(problem);
                }

                var effects = MailboxEffect.InOrder([.. mailbox.Effects.Where(e => !e.Moves), move]);
                deed.Content = new MailboxContent(effects);
                deed.Says = MailboxEffect.Say(effects);
                break;
            default:
                throw new RefusedException("There is nothing about this deed that can be changed here. It can be tried again or dropped.");
        }

        await AgainAsync(deed, $"Changed from “{before}” and tried again", person, stop);
    }

    /// <summary>Stops a deed that has not been done.</summary>
    public async Task DropAsync(long deedId, string person, CancellationToken stop)
    {
        var deed = await ReadAsync(deedId, stop);
        if (deed.State is not (DeedState.Checking or DeedState.Delayed or DeedState.Stuck or DeedState.Waiting))
        {
            throw new RefusedException($"This deed is {Say(deed.State)} and can no longer be stopped.");
        }

        DeedRecorder.Move(deed, DeedState.Dropped, clock.GetUtcNow(), "Stopped by a person", person);
        await CommitAsync(stop);
    }

    /// <summary>Takes back a stop: the reply waits for checking again.</summary>
    public async Task TakeBackAsync(long deedId, string person, CancellationToken stop)
    {
        var (deed, _) = await ReadReplyAsync(deedId, stop);
        if (deed.State != DeedState.Dropped)
        {
            throw new RefusedException($"This reply is {Say(deed.State)}.");
        }

        DeedRecorder.Move(deed, DeedState.Checking, clock.GetUtcNow(), "Taken back", person);
        await CommitAsync(stop);
    }

    private async Task AgainAsync(Deed deed, string note, string person, CancellationToken stop)
    {
        deed.Attempts = 0;
        deed.NotBefore = null;
        DeedRecorder.Move(deed, DeedState.Waiting, clock.GetUtcNow(), note, person);
        await using var transaction = await _db.Database.BeginTransactionAsync(stop);
        await outbox.HandOverAsync(deed);
        await _db.NotifyAsync(Changes.Replies, Changes.Deeds);
        await outbox.CommitAsync(stop);
    }

    private async Task CommitAsync(CancellationToken stop)
    {
        await using var transaction = await _db.Database.BeginTransactionAsync(stop);
        await _db.NotifyAsync(Changes.Replies, Changes.Deeds);
        await outbox.CommitAsync(stop);
    }

    private async Task<Deed> ReadAsync(long id, CancellationToken stop) =>
        await _db.Deeds.SingleOrDefaultAsync(d => d.Id == id, stop) ?? throw new RefusedException("This deed is gone.");

    private async Task<(Deed, Reply)> ReadReplyAsync(long id, CancellationToken stop)
    {
        var deed = await ReadAsync(id, stop);
        return deed.Kind == DeedKind.Reply
            ? (deed, await _db.Replies.SingleAsync(r => r.DeedId == id, stop))
            : throw new RefusedException("This deed is not a reply.");
    }

    private static string Say(DeedState state) => state switch
    {
        DeedState.Done => "sent",
        DeedState.UnderWay => "being sent",
        _ => state.ToString().ToLowerInvariant(),
    };
}
