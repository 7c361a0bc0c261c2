using System.Collections.Concurrent;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using PostTide.Engine.Arrivals;
using PostTide.Engine.Deeds;
using PostTide.Store;

namespace PostTide.Server.Places;

/// <summary>Uploads of mail files: begun, watched, stopped.</summary>
internal static class UploadsPlace
{
    private const long LargestUpload = 2_000_000_000;

    public static void MapUploads(this RouteGroupBuilder api)
    {
        var group = api.MapGroup("/uploads").WithTags("Uploads").RequireAuthorization(Permissions.Builder);
        group.MapPost("", BeginAsync).DisableAntiforgery().WithMetadata(new Microsoft.AspNetCore.Mvc.RequestSizeLimitAttribute(LargestUpload))
            .WithFormOptions(multipartBodyLengthLimit: LargestUpload);
        group.MapGet("/{id:guid}", Results<Ok<UploadProgress>, NotFound> (Guid id, RunningUploads uploads) =>
            uploads.Find(id) is { } progress ? TypedResults.Ok(progress) : TypedResults.NotFound());
        group.MapPost("/{id:guid}/stop", (Guid id, RunningUploads uploads) => uploads.Stop(id));
    }

    /// <summary>Keeps the file, answers at once and takes its messages in behind.</summary>
    private static async Task<UploadProgress> BeginAsync(IFormFile file, long mailboxId, RunningUploads uploads, PostTideContext db, CancellationToken stop)
    {
        if (!await db.Mailboxes.AnyAsync(m => m.Id == mailboxId, stop))
        {
            throw new RefusedException("This mailbox is gone. Nothing was taken.");
        }

        var kept = new FileStream(
            Path.Combine(Path.GetTempPath(), $"posttide-{Guid.NewGuid():N}"), FileMode.CreateNew, FileAccess.ReadWrite, FileShare.None, 65_536, FileOptions.DeleteOnClose);
        await file.CopyToAsync(kept, stop);
        kept.Position = 0;
        return uploads.Begin(Core.Filing.SafeName.File(file.FileName, "upload"), kept, mailboxId);
    }
}

/// <summary>The uploads of this process and how far they are.</summary>
internal sealed partial class RunningUploads(Uploads uploads, IHostApplicationLifetime lifetime, ILogger<RunningUploads> log)
{
    private const int MostKept = 200;
    private readonly ConcurrentDictionary<Guid, (UploadProgress Progress, CancellationTokenSource Stop)> _running = new();

    public UploadProgress Begin(string name, Stream file, long mailboxId)
    {
        foreach (var old in _running.Where(r => r.Value.Progress.Finished).Take(Math.Max(0, _running.Count - MostKept)))
        {
            _running.TryRemove(old.Key, out _);
        }

        var first = new UploadProgress(Guid.NewGuid(), name, false, 0, 0, 0, []);
        var stop = CancellationTokenSource.CreateLinkedTokenSource(lifetime.ApplicationStopping);
        _running[first.Id] = (first, stop);
        _ = RunAsync(first, file, mailboxId, stop);
        return first;
    }

    public UploadProgress? Find(Guid id) => _running.TryGetValue(id, out var running) ? running.Progress : null;

    public void Stop(Guid id)
    {
        if (_running.TryGetValue(id, out var running) && !running.Progress.Finished)
        {
            running.Stop.Cancel();
        }
    }

    private async Task RunAsync(UploadProgress first, Stream file, long mailboxId, CancellationTokenSource stop)
    {
        // Away from the request, so that its answer goes out at once.
        await Task.Yield();
        try
        {
            await uploads.TakeInAsync(first.Id, first.Name, file, mailboxId, p => _running[p.Id] = (p, stop), stop.Token);
        }
        catch (Exception e)
        {
            LogFailed(e);
        }
        finally
        {
            await file.DisposeAsync();
        }
    }

    [LoggerMessage(LogLevel.Warning, "An upload could not be finished")]
    private partial void LogFailed(Exception e);
}
