using PostTide.Engine.Deeds;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Cli.Demo;

/// <summary>Takes the outside deeds of mail that came before the demo began: recorded as done, and plainly as never sent.</summary>
public sealed class HistoryOutbox(PostTideContext db) : IDeedOutbox
{
    public const string Note = "Demo history: recorded as done, nothing was sent";

    public PostTideContext Db => db;

    public Task HandOverAsync(Deed deed)
    {
        var at = deed.NotBefore ?? deed.CreatedAt;
        (deed.State, deed.DoneAt, deed.Attempts, deed.NotBefore) = (DeedState.Done, at, 1, null);
        deed.History.Add(new DeedChange { DeedId = deed.Id, State = DeedState.Done, At = at, Note = Note });
        return Task.CompletedTask;
    }

    public async Task CommitAsync(CancellationToken stop)
    {
        await db.SaveChangesAsync(stop);
        if (db.Database.CurrentTransaction is { } transaction)
        {
            await transaction.CommitAsync(stop);
        }
    }
}
