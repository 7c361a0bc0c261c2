using System.Globalization;

namespace PostTide.Mail;

/// <summary>One message found in a file, or the reason why it could not be had.</summary>
/// <param name="Name">The file, and the number of the message in an mbox file.</param>
/// <param name="Bytes">Its bytes; null when there is a problem.</param>
/// <param name="Problem">What is wrong, in a sentence.</param>
public sealed record MailInFile(string Name, byte[]? Bytes, string? Problem);

/// <summary>Reads mail from <c>.eml</c> files, mbox files (RFC 4155) and folders of both.</summary>
public static class MailFiles
{
    private const long Largest = 100_000_000;

    /// <summary>Every message under a path, files in the order of their names. Nothing is held but the message at hand.</summary>
    public static IEnumerable<MailInFile> Read(string path)
    {
        if (Directory.Exists(path))
        {
            return Directory.EnumerateFiles(path, "*", SearchOption.AllDirectories).Order(StringComparer.Ordinal).SelectMany(ReadFile);
        }

        return File.Exists(path) ? ReadFile(path) : [new MailInFile(path, null, "There is no such file or folder.")];
    }

    private static IEnumerable<MailInFile> ReadFile(string path)
    {
        if (Open(path) is not { } file)
        {
            yield return new MailInFile(path, null, "It cannot be opened.");
            yield break;
        }

        using (file)
        {
            var start = new byte[5];
            var read = file.ReadAtLeast(start, start.Length, throwOnEndOfStream: false);
            file.Position = 0;
            if (!MboxReader.IsMbox(start.AsSpan(0, read)))
            {
                yield return ReadSingle(path, file);
                yield break;
            }

            foreach (var message in MboxReader.Read(file, Largest))
            {
                yield return new MailInFile($"{path}, message {message.Number.ToString(CultureInfo.InvariantCulture)}", message.Bytes, message.Problem);
            }
        }
    }

    private static MailInFile ReadSingle(string path, FileStream file)
    {
        if (file.Length > Largest)
        {
            return new MailInFile(path, null, $"It is larger than {Largest / 1_000_000} MB.");
        }

        var bytes = new byte[file.Length];
        file.ReadExactly(bytes);
        return new MailInFile(path, bytes, null);
    }

    private static FileStream? Open(string path)
    {
        try
        {
            return File.OpenRead(path);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return null;
        }
    }
}
