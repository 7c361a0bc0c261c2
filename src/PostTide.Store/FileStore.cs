using System.Security.Cryptography;

namespace PostTide.Store;

/// <summary>Bytes of saved attachments on disk, by SHA-256. A file is complete before any record points to it.</summary>
public sealed class FileStore(string root)
{
    /// <summary>Writes bytes unless they are there already, and gives their SHA-256 in lower-case hexadecimal.</summary>
    public async Task<string> WriteAsync(ReadOnlyMemory<byte> bytes, CancellationToken stop)
    {
        var hash = Convert.ToHexStringLower(SHA256.HashData(bytes.Span));
        var path = PathOf(hash);
        if (File.Exists(path))
        {
            return hash;
        }

        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        var unfinished = $"{path}.{Guid.NewGuid():N}.tmp";
        await using (var file = new FileStream(unfinished, FileMode.CreateNew, FileAccess.Write))
        {
            await file.WriteAsync(bytes, stop);
            file.Flush(flushToDisk: true);
        }

        File.Move(unfinished, path, overwrite: true);
        return hash;
    }

    /// <summary>Opens bytes for reading.</summary>
    /// <exception cref="FileNotFoundException">Nothing is stored under this hash.</exception>
    public Stream Open(string hash) => new FileStream(PathOf(hash), FileMode.Open, FileAccess.Read, FileShare.Read);

    private string PathOf(string hash) => hash.Length == 64 && hash.All(char.IsAsciiHexDigitLower)
        ? Path.Combine(root, hash[..2], hash)
        : throw new FileNotFoundException("This is not the name of a stored file.");
}
