using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Engine.Deeds;

/// <summary>
/// Hands outside deeds over to be carried out. What is handed over becomes durable with the same commit that records the
/// deeds, or not at all.
/// </summary>
public interface IDeedOutbox
{
    /// <summary>The context whose transaction the hand-over belongs to.</summary>
    PostTideContext Db { get; }

    /// <summary>Has a deed carried out after the commit, or when its time has come.</summary>
    Task HandOverAsync(Deed deed);

    /// <summary>Saves, commits the current transaction and sends what was handed over on its way.</summary>
    Task CommitAsync(CancellationToken stop);
}
