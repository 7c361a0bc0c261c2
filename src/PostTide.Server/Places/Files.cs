using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Server.Places;

/// <summary>A saved file.</summary>
public sealed record FileRow(long Id, string Folder, string Name, long Size, string DeclaredType, DateTimeOffset FiledAt, long MessageId)
{
    public static FileRow Of(FiledFile f) => new(f.Id, f.Folder, f.Name, f.Size, f.DeclaredType, f.FiledAt, f.MessageId);
}

/// <summary>A folder and how many files are in it and below it.</summary>
public sealed record FolderRow(string Path, int Files);

/// <summary>All folders, and the files of the chosen one or of a search.</summary>
public sealed record FileList(IReadOnlyList<FolderRow> Folders, IReadOnlyList<FileRow> Files, bool More);

/// <summary>Files: folders and what is in them.</summary>
internal static class Files
{
    private const int Most = 500;

    public static void MapFiles(this RouteGroupBuilder api)
    {
        var group = api.MapGroup("/files").WithTags("Files");
        group.MapGet("", ListAsync);
        group.MapGet("/{id:long}/content", ReadContentAsync);
    }

    private static async Task<FileList> ListAsync(PostTideContext db, CancellationToken stop, string? folder = null, string text = "")
    {
        var folders = await db.Files.GroupBy(f => f.Folder).Select(g => new { g.Key, Count = g.Count() }).OrderBy(g => g.Key).ToListAsync(stop);
        var chosen = db.Files.AsNoTracking();
        if (folder is not null)
        {
            var below = folder + "/";
            chosen = chosen.Where(f => f.Folder == folder || f.Folder.StartsWith(below));
        }

        if (text.Trim() is { Length: > 0 } words)
        {
            chosen = chosen.Where(f => EF.Functions.ILike(f.Name, $"%{words}%"));
        }

        var files = await chosen.OrderByDescending(f => f.FiledAt).Take(Most + 1).ToListAsync(stop);
        return new FileList(AllLevels(folders.Select(f => (f.Key, f.Count))), [.. files.Take(Most).Select(FileRow.Of)], files.Count > Most);
    }

    /// <summary>Every folder with the ones above it, each counting what is in it and below.</summary>
    private static List<FolderRow> AllLevels(IEnumerable<(string Path, int Count)> folders)
    {
        var counts = new SortedDictionary<string, int>(StringComparer.Ordinal);
        foreach (var (path, count) in folders)
        {
            for (var at = path; ; at = at[..at.LastIndexOf('/')])
            {
                counts[at] = counts.GetValueOrDefault(at) + count;
                if (!at.Contains('/', StringComparison.Ordinal))
                {
                    break;
                }
            }
        }

        return [.. counts.Select(c => new FolderRow(c.Key, c.Value))];
    }

    private static async Task<Results<FileStreamHttpResult, NotFound>> ReadContentAsync(long id, PostTideContext db, FileStore files, CancellationToken stop) =>
        await db.Files.AsNoTracking().SingleOrDefaultAsync(f => f.Id == id, stop) is { } file
            ? Downloads.Of(files.Open(file.Sha256), file.Name)
            : TypedResults.NotFound();
}

/// <summary>Serves bytes that came by mail: always as a download of no particular type (RFC 6266), whatever the sender declared.</summary>
internal static class Downloads
{
    public static FileStreamHttpResult Of(Stream content, string name) => TypedResults.Stream(content, "application/octet-stream", name);
}
