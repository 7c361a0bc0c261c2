using System.Security.Cryptography;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using PostTide.Mail.Listener;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Engine.Arrivals;

/// <summary>Stores what comes in, before anything else happens to it.</summary>
public sealed class Arrivals(IServiceScopeFactory scopes, AddressBook addresses, ArrivalSignal signal, TimeProvider clock) : IMailIntake
{
    /// <summary>Whether some mailbox takes mail to this address or sub-address.</summary>
    public async Task<bool> AcceptsAsync(string address, CancellationToken stop) => (await addresses.MailboxesOfAsync([address], stop)).Count > 0;

    /// <summary>Stores a message once in each mailbox it was addressed to; returns when it is safe on disk.</summary>
    public async Task KeepAsync(ReceivedMail mail, CancellationToken stop)
    {
        await using var scope = scopes.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<PostTideContext>();
        var mailboxes = await addresses.MailboxesOfAsync(mail.Recipients, stop);
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var hash = Convert.ToHexStringLower(SHA256.HashData(mail.Bytes));
        await StoreRawsAsync(db, [(hash, mail.Bytes)], stop);
        foreach (var (mailbox, recipients) in mailboxes)
        {
            db.Messages.Add(new Message
            {
                MailboxId = mailbox,
                SourceKey = $"smtp:{mail.TransactionId:N}",
                RawSha256 = hash,
                Size = mail.Bytes.Length,
                ArrivedAt = clock.GetUtcNow(),
                TakenAt = clock.GetUtcNow(),
                ConnectingHost = mail.ConnectingHost,
                EnvelopeFrom = mail.From,
                EnvelopeTo = recipients,
            });
        }

        await db.SaveChangesAsync(stop);
        await transaction.CommitAsync(stop);
        signal.Arrived();
    }

    /// <summary>Stores bytes under their SHA-256 unless they are there already.</summary>
    internal static async Task StoreRawsAsync(PostTideContext db, IEnumerable<(string Hash, byte[] Bytes)> raws, CancellationToken stop)
    {
        // In the order of their hashes: two that store the same bytes wait for each other instead of locking each other out.
        var rows = raws.DistinctBy(r => r.Hash).OrderBy(r => r.Hash, StringComparer.Ordinal).ToList();
        var (hashes, bytes) = (rows.Select(r => r.Hash).ToArray(), rows.Select(r => r.Bytes).ToArray());
        await db.Database.ExecuteSqlAsync(
            $"INSERT INTO raws (sha256, bytes) SELECT * FROM unnest({hashes}, {bytes}) ON CONFLICT DO NOTHING", stop);
    }
}
