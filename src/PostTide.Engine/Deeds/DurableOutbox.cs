using PostTide.Store;
using PostTide.Store.Records;
using Wolverine;
using Wolverine.EntityFrameworkCore;

namespace PostTide.Engine.Deeds;

/// <summary>The durable message that has one deed carried out. It only points at the deed, whose record decides.</summary>
public sealed record CarryOut(Guid Deed);

/// <summary>Hands deeds over through the transactional outbox of the messaging library.</summary>
public sealed class DurableOutbox(IDbContextOutbox<PostTideContext> outbox) : IDeedOutbox
{
    public PostTideContext Db => outbox.DbContext;

    public async Task HandOverAsync(Deed deed) => await outbox.PublishAsync(
        new CarryOut(deed.Key),
        deed.NotBefore is { } time ? new DeliveryOptions { ScheduledTime = time } : null);

    public Task CommitAsync(CancellationToken stop) => outbox.SaveChangesAndFlushMessagesAsync(stop);
}
