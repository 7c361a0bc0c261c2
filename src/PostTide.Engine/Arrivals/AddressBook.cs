using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using PostTide.Core.Messages;
using PostTide.Store;

namespace PostTide.Engine.Arrivals;

/// <summary>The addresses of all mailboxes, read anew every second: each message asks for them twice.</summary>
public sealed class AddressBook(IServiceScopeFactory scopes, TimeProvider clock)
{
    private static readonly TimeSpan Kept = TimeSpan.FromSeconds(1);
    private volatile Reading? _reading;

    /// <summary>The mailboxes that take mail to these recipients, and for each the recipients it takes.</summary>
    public async Task<Dictionary<long, string[]>> MailboxesOfAsync(IReadOnlyList<string> recipients, CancellationToken stop)
    {
        var own = await ReadAsync(stop);
        return recipients
            .SelectMany(r => own.Where(a => SubAddress.Reaches(r, a.Address)).Select(a => (a.Mailbox, Recipient: r)))
            .Distinct()
            .GroupBy(p => p.Mailbox, p => p.Recipient)
            .ToDictionary(g => g.Key, g => g.ToArray());
    }

    private async Task<(string Address, long Mailbox)[]> ReadAsync(CancellationToken stop)
    {
        if (_reading is { } reading && clock.GetUtcNow() - reading.At < Kept)
        {
            return reading.Own;
        }

        await using var scope = scopes.CreateAsyncScope();
        var rows = await scope.ServiceProvider.GetRequiredService<PostTideContext>().Addresses.AsNoTracking()
            .Select(a => new { a.Address, a.MailboxId }).ToListAsync(stop);
        var own = rows.Select(r => (r.Address, r.MailboxId)).ToArray();
        _reading = new Reading(clock.GetUtcNow(), own);
        return own;
    }

    private sealed record Reading(DateTimeOffset At, (string Address, long Mailbox)[] Own);
}
