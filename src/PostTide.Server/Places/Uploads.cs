using System.Globalization;
using System.Security.Claims;
using System.Text;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using PostTide.Engine.Arrivals;
using PostTide.Engine.Deeds;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Server.Places;

/// <summary>How far an upload has come. Taken + duplicates + refused = looked at.</summary>
public sealed record UploadView(
    Guid Id, string Name, string Mailbox, string Person, DateTimeOffset StartedAt, UploadState State, long Size, long Received, bool CarryOut, int LookedAt, int Taken,
    int Duplicates, IReadOnlyList<RefusedUpload> Refused, string? Problem);

/// <summary>
/// Uploads of mail files. The bytes come by the tus protocol 1.0.0 (an open protocol for resumable uploads), so that a broken
/// connection costs nothing; taking the messages in goes on behind, and can be stopped and taken up again.
/// </summary>
internal static class UploadsPlace
{
    private const long LargestUpload = 2_000_000_000;
    private const int MostShown = 20;
    private const string Version = "1.0.0";

    public static void MapUploads(this RouteGroupBuilder api)
    {
        var group = api.MapGroup("/uploads").WithTags("Uploads").RequireAuthorization(Permissions.Builder);
        group.MapGet("", (PostTideContext db, CancellationToken stop) => Views(db, db.Uploads.OrderByDescending(u => u.StartedAt).Take(MostShown)).ToListAsync(stop));
        group.MapPost("/{id:guid}/stop", (Guid id, PostTideContext db, CancellationToken stop) => MoveAsync(db, id, UploadState.TakingIn, UploadState.Stopped, stop));
        group.MapPost("/{id:guid}/resume", (Guid id, PostTideContext db, CancellationToken stop) => MoveAsync(db, id, UploadState.Stopped, UploadState.TakingIn, stop));
        group.MapGet("/{id:guid}", async Task<Results<Ok<UploadView>, NotFound>> (Guid id, PostTideContext db, CancellationToken stop) =>
            await Views(db, db.Uploads.Where(u => u.Id == id)).SingleOrDefaultAsync(stop) is { } upload ? TypedResults.Ok(upload) : TypedResults.NotFound());
        group.MapPost("", CreateAsync).ExcludeFromDescription();
        group.MapMethods("/{id:guid}", [HttpMethods.Head], HeadAsync).ExcludeFromDescription();
        group.MapPatch("/{id:guid}", AppendAsync).ExcludeFromDescription().WithMetadata(new Microsoft.AspNetCore.Mvc.RequestSizeLimitAttribute(LargestUpload));
    }

    private static IQueryable<UploadView> Views(PostTideContext db, IQueryable<Upload> uploads) => uploads.AsNoTracking().Select(u => new UploadView(
        u.Id, u.Name, db.Mailboxes.Where(m => m.Id == u.MailboxId).Select(m => m.Name).First(), u.Person, u.StartedAt, u.State, u.Size, u.Received, u.CarryOut,
        u.LookedAt, u.Taken, u.Duplicates, u.Refused, u.Problem));

    private static async Task MoveAsync(PostTideContext db, Guid id, UploadState from, UploadState to, CancellationToken stop)
    {
        if (await db.Uploads.Where(u => u.Id == id && u.State == from).ExecuteUpdateAsync(s => s.SetProperty(u => u.State, to), stop) == 0)
        {
            throw new RefusedException(to == UploadState.Stopped ? "This upload is not under way." : "This upload was not stopped.");
        }
    }

    /// <summary>tus creation: an upload with its length and what it is.</summary>
    private static async Task<IResult> CreateAsync(HttpContext http, Uploads uploads, PostTideContext db, ClaimsPrincipal user, TimeProvider clock, CancellationToken stop)
    {
        if (!long.TryParse(http.Request.Headers["Upload-Length"], CultureInfo.InvariantCulture, out var size) || size < 0)
        {
            return TypedResults.Problem("The length of the file is missing.", statusCode: StatusCodes.Status400BadRequest);
        }

        if (size > LargestUpload)
        {
            return TypedResults.Problem(title: $"A file has at most {LargestUpload / 1_000_000_000} GB. Nothing was taken.", statusCode: StatusCodes.Status413PayloadTooLarge);
        }

        var said = MetadataOf(http.Request.Headers["Upload-Metadata"].ToString());
        if (!long.TryParse(said.GetValueOrDefault("mailboxId"), CultureInfo.InvariantCulture, out var mailboxId) || !await db.Mailboxes.AnyAsync(m => m.Id == mailboxId, stop))
        {
            throw new RefusedException("This mailbox is gone. Nothing was taken.");
        }

        var upload = new Upload
        {
            Id = Guid.NewGuid(),
            Name = Core.Filing.SafeName.File(said.GetValueOrDefault("filename") ?? "", "upload"),
            MailboxId = mailboxId,
            Person = user.DisplayName(),
            StartedAt = clock.GetUtcNow(),
            State = size == 0 ? UploadState.TakingIn : UploadState.Receiving,
            Size = size,
            CarryOut = said.GetValueOrDefault("carryOut") == "true",
            SorterId = await SorterOf(db, said.GetValueOrDefault("sorterId"), stop),
            CategoryId = said.GetValueOrDefault("categoryId") is { Length: > 0 } category ? category : null,
        };
        await File.WriteAllBytesAsync(uploads.PathOf(upload.Id), [], stop);
        db.Uploads.Add(upload);
        await db.SaveChangesAsync(stop);
        http.Response.Headers["Tus-Resumable"] = Version;
        return TypedResults.Created($"/api/uploads/{upload.Id}");
    }

    private static async Task<long?> SorterOf(PostTideContext db, string? said, CancellationToken stop) =>
        said is null ? null
        : long.TryParse(said, CultureInfo.InvariantCulture, out var id) && await db.Sorters.AnyAsync(s => s.Id == id, stop) ? id
        : throw new RefusedException("This sorter is gone. Nothing was taken.");

    /// <summary>tus: where to go on.</summary>
    private static async Task<IResult> HeadAsync(Guid id, HttpContext http, PostTideContext db, CancellationToken stop)
    {
        if (await db.Uploads.AsNoTracking().SingleOrDefaultAsync(u => u.Id == id, stop) is not { } upload)
        {
            return TypedResults.NotFound();
        }

        http.Response.Headers["Tus-Resumable"] = Version;
        http.Response.Headers["Upload-Offset"] = upload.Received.ToString(CultureInfo.InvariantCulture);
        http.Response.Headers["Upload-Length"] = upload.Size.ToString(CultureInfo.InvariantCulture);
        http.Response.Headers.CacheControl = "no-store";
        return TypedResults.Ok();
    }

    /// <summary>tus: more bytes. Whatever has come is kept, also when the connection breaks in the middle.</summary>
    private static async Task<IResult> AppendAsync(Guid id, HttpContext http, Uploads uploads, PostTideContext db, CancellationToken stop)
    {
        if (await db.Uploads.SingleOrDefaultAsync(u => u.Id == id, stop) is not { } upload)
        {
            return TypedResults.NotFound();
        }

        if (upload.State != UploadState.Receiving || http.Request.Headers["Upload-Offset"] != upload.Received.ToString(CultureInfo.InvariantCulture))
        {
            return TypedResults.Problem(title: "The file goes on at another place.", statusCode: StatusCodes.Status409Conflict);
        }

        await using (var file = new FileStream(uploads.PathOf(id), FileMode.OpenOrCreate, FileAccess.Write))
        {
            file.SetLength(upload.Received);
            file.Position = upload.Received;
            try
            {
                await http.Request.Body.CopyToAsync(file, stop);
            }
            catch (Exception e) when (e is IOException or OperationCanceledException or BadHttpRequestException)
            {
                // The sender asks with HEAD how far it came, and goes on there.
            }

            await file.FlushAsync(CancellationToken.None);
            upload.Received = Math.Min(file.Length, upload.Size);
        }

        upload.State = upload.Received == upload.Size ? UploadState.TakingIn : UploadState.Receiving;
        await db.SaveChangesAsync(CancellationToken.None);
        http.Response.Headers["Tus-Resumable"] = Version;
        http.Response.Headers["Upload-Offset"] = upload.Received.ToString(CultureInfo.InvariantCulture);
        return TypedResults.NoContent();
    }

    /// <summary>tus: pairs of a key and a value in Base64, separated by commas.</summary>
    private static Dictionary<string, string> MetadataOf(string header)
    {
        var said = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var pair in header.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))
        {
            var parts = pair.Split(' ', 2);
            var bytes = new byte[parts.Length > 1 ? parts[1].Length : 0];
            if (parts.Length > 1 && Convert.TryFromBase64String(parts[1], bytes, out var length))
            {
                said[parts[0]] = Encoding.UTF8.GetString(bytes, 0, length);
            }
        }

        return said;
    }
}
