using System.Security.Cryptography;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Options;
using PostTide.Mail;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Engine.Arrivals;

/// <summary>A message of an upload that was not taken, and why.</summary>
/// <param name="File">The file as named by the person.</param>
/// <param name="Number">Which message of an mbox file, from 1; null for a single message.</param>
/// <param name="Why">The reason in a sentence.</param>
public sealed record RefusedUpload(string File, int? Number, string Why);

/// <summary>How far an upload has come. Taken + duplicates + refused make up what was looked at.</summary>
public sealed record UploadProgress(Guid Id, string Name, bool Finished, int LookedAt, int Taken, int Duplicates, IReadOnlyList<RefusedUpload> Refused)
{
    /// <summary>A problem that ended the upload early; what was taken before stays.</summary>
    public string? Problem { get; init; }
}

/// <summary>Takes in uploaded <c>.eml</c> and mbox files. The same content is taken into a mailbox once.</summary>
public sealed class Uploads(IServiceScopeFactory scopes, ArrivalSignal signal, IOptions<EngineOptions> options, TimeProvider clock)
{
    private const int MostRefusalsKept = 500;
    private const int CommitEvery = 50;
    private const long UploadLock = 0x7570_6c6f_6164_0000;

    /// <summary>Takes in one file and reports how far it is.</summary>
    public async Task TakeInAsync(Guid id, string name, Stream file, long mailboxId, Action<UploadProgress> report, CancellationToken stop)
    {
        var progress = new UploadProgress(id, name, false, 0, 0, 0, []);
        try
        {
            foreach (var batch in Messages(name, file).Chunk(CommitEvery))
            {
                stop.ThrowIfCancellationRequested();
                progress = await TakeAsync(progress, batch, mailboxId, stop);
                report(progress);
                signal.Arrived();
            }

            report(progress with { Finished = true });
        }
        catch (Exception e)
        {
            report(progress with { Finished = true, Problem = stop.IsCancellationRequested ? "It was stopped." : $"It could not be finished: {e.GetBaseException().Message}" });
            if (e is not OperationCanceledException)
            {
                throw;
            }
        }
    }

    private IEnumerable<MboxMessage> Messages(string name, Stream file)
    {
        Span<byte> start = stackalloc byte[5];
        var read = file.ReadAtLeast(start, start.Length, throwOnEndOfStream: false);
        file.Position = 0;
        return MboxReader.IsMbox(start[..read]) ? MboxReader.Read(file, options.Value.LargestMessage) : [Single(name, file)];
    }

    private MboxMessage Single(string name, Stream file)
    {
        if (file.Length > options.Value.LargestMessage)
        {
            return new MboxMessage(0, null, $"{name} is larger than {options.Value.LargestMessage / 1_000_000} MB, the largest message taken.");
        }

        var bytes = new byte[file.Length];
        file.ReadExactly(bytes);
        return new MboxMessage(0, bytes, null);
    }

    private async Task<UploadProgress> TakeAsync(UploadProgress progress, MboxMessage[] batch, long mailboxId, CancellationToken stop)
    {
        await using var scope = scopes.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<PostTideContext>();
        await using var transaction = await db.Database.BeginTransactionAsync(stop);

        // One upload into a mailbox at a time, or two of the same content would not see each other.
        await db.Database.ExecuteSqlAsync($"SELECT pg_advisory_xact_lock({UploadLock + mailboxId})", stop);
        var refused = progress.Refused.ToList();
        var duplicates = progress.Duplicates;
        var readable = new Dictionary<string, byte[]>();
        foreach (var message in batch)
        {
            if (Refusal(message) is { } why)
            {
                if (refused.Count < MostRefusalsKept)
                {
                    refused.Add(new RefusedUpload(progress.Name, message.Number == 0 ? null : message.Number, why));
                }
            }
            else if (!readable.TryAdd($"upload:{Convert.ToHexStringLower(SHA256.HashData(message.Bytes!))}", message.Bytes!))
            {
                duplicates++;
            }
        }

        var keys = readable.Keys.ToArray();
        var known = await db.Messages.Where(m => m.MailboxId == mailboxId && keys.Contains(m.SourceKey)).Select(m => m.SourceKey).ToListAsync(stop);
        foreach (var (key, bytes) in readable.Where(r => !known.Contains(r.Key)))
        {
            db.Messages.Add(new Message
            {
                MailboxId = mailboxId,
                SourceKey = key,
                RawSha256 = await Arrivals.StoreRawAsync(db, bytes, stop),
                Size = bytes.Length,
                ArrivedAt = clock.GetUtcNow(),
            });
        }

        await db.SaveChangesAsync(stop);
        await transaction.CommitAsync(stop);
        return progress with
        {
            LookedAt = progress.LookedAt + batch.Length,
            Taken = progress.Taken + readable.Count - known.Count,
            Duplicates = duplicates + known.Count,
            Refused = refused,
        };
    }

    private static string? Refusal(MboxMessage message)
    {
        if (message.Bytes is null)
        {
            return message.Problem;
        }

        try
        {
            MailReader.Read(message.Bytes);
            return null;
        }
        catch (UnreadableMailException e)
        {
            return e.Message;
        }
    }
}
