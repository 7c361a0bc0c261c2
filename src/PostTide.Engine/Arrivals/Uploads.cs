using System.Security.Cryptography;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Options;
using PostTide.Mail;
using PostTide.Store;
using PostTide.Store.Bulk;
using PostTide.Engine.Sorting;
using PostTide.Store.Records;

namespace PostTide.Engine.Arrivals;

/// <summary>
/// Takes in uploaded <c>.eml</c> and mbox files. The file is kept until all of it is taken in; how far that has come is written
/// with the messages, so that whatever cuts it off, it goes on with the next one. The same content is taken into a mailbox once.
/// </summary>
public sealed class Uploads(IServiceScopeFactory scopes, ArrivalSignal signal, IOptions<EngineOptions> options, TimeProvider clock)
{
    private const int MostRefusalsKept = 500;
    private const int CommitEvery = 100;
    private const long UploadLock = 0x7570_6c6f_6164_0000;

    /// <summary>Where the bytes of an upload lie while they are needed.</summary>
    public string PathOf(Guid id)
    {
        var folder = Path.Combine(options.Value.DataFolder, "uploads");
        Directory.CreateDirectory(folder);
        return Path.Combine(folder, id.ToString("N"));
    }

    /// <summary>Takes in what is left of a file.</summary>
    public async Task TakeInAsync(Guid id, CancellationToken stop)
    {
        await using var scope = scopes.CreateAsyncScope();
        var upload = await scope.ServiceProvider.GetRequiredService<PostTideContext>().Uploads.AsNoTracking().SingleAsync(u => u.Id == id, stop);
        var path = PathOf(id);
        await using (var file = new FileStream(path, FileMode.Open, FileAccess.Read, FileShare.Read))
        {
            foreach (var batch in Messages(upload.Name, file).Skip(upload.LookedAt).Chunk(CommitEvery))
            {
                stop.ThrowIfCancellationRequested();
                if (!await TakeAsync(id, batch, stop))
                {
                    return;
                }

                signal.Arrived();
            }
        }

        await EndAsync(id, UploadState.Finished, null, stop);
        File.Delete(path);
    }

    /// <summary>Marks an upload as ended.</summary>
    public async Task EndAsync(Guid id, UploadState state, string? problem, CancellationToken stop)
    {
        await using var scope = scopes.CreateAsyncScope();
        await scope.ServiceProvider.GetRequiredService<PostTideContext>().Uploads.Where(u => u.Id == id && u.State == UploadState.TakingIn)
            .ExecuteUpdateAsync(s => s.SetProperty(u => u.State, state).SetProperty(u => u.Problem, problem), stop);
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

    /// <summary>Takes in some messages; false when the upload was stopped.</summary>
    private async Task<bool> TakeAsync(Guid id, MboxMessage[] batch, CancellationToken stop)
    {
        await using var scope = scopes.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<PostTideContext>();
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var upload = await db.Uploads.FromSql($"SELECT * FROM uploads WHERE id = {id} FOR UPDATE").SingleAsync(stop);
        if (upload.State != UploadState.TakingIn)
        {
            return false;
        }

        // One upload into a mailbox at a time, or two of the same content would not see each other.
        await db.Database.ExecuteSqlAsync($"SELECT pg_advisory_xact_lock({UploadLock + upload.MailboxId})", stop);
        var readable = new Dictionary<string, byte[]>();
        foreach (var message in batch)
        {
            if (Refusal(message) is { } why)
            {
                if (upload.Refused.Length < MostRefusalsKept)
                {
                    upload.Refused = upload.Refused.Add(new RefusedUpload(upload.Name, message.Number == 0 ? null : message.Number, why));
                }
            }
            else if (!readable.TryAdd(Convert.ToHexStringLower(SHA256.HashData(message.Bytes!)), message.Bytes!))
            {
                upload.Duplicates++;
            }
        }

        var keys = readable.Keys.Select(KeyOf).ToArray();
        var known = await db.Messages.Where(m => m.MailboxId == upload.MailboxId && keys.Contains(m.SourceKey)).Select(m => m.SourceKey).ToListAsync(stop);
        var fresh = readable.Where(r => !known.Contains(KeyOf(r.Key))).ToList();
        await Arrivals.StoreRawsAsync(db, fresh.Select(r => (r.Key, r.Value)), stop);
        var now = clock.GetUtcNow();
        db.Messages.AddRange(fresh.Select(r => new Message
        {
            MailboxId = upload.MailboxId,
            SourceKey = KeyOf(r.Key),
            RawSha256 = r.Key,
            Size = r.Value.Length,
            ArrivedAt = (upload.CarryOut ? null : MailReader.DateOf(r.Value, now)) ?? now,
            TakenAt = now,
            Old = !upload.CarryOut,
        }));
        upload.LookedAt += batch.Length;
        upload.Taken += fresh.Count;
        upload.Duplicates += known.Count;
        await db.SaveInBulkAsync(stop);
        await db.SaveChangesAsync(stop);
        if (upload.SorterId is { } sorter)
        {
            var ids = await db.Messages.Where(m => m.MailboxId == upload.MailboxId && keys.Contains(m.SourceKey)).Select(m => m.Id).ToListAsync(stop);
            await SorterLabels.WriteAsync(db, sorter, ids, upload.CategoryId, LabelSource.Folder, upload.Person, now, stop);
            await new SorterNumbers(db, clock).TouchAsync(sorter, upload.Person, stop);
        }

        await db.NotifyAsync(Changes.Mail);
        await transaction.CommitAsync(stop);
        return true;
    }

    private static string KeyOf(string hash) => $"upload:{hash}";

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
