using System.Globalization;
using System.Text;

namespace PostTide.Mail;

/// <summary>
/// Writes messages one after another as an mbox file (RFC 4155). Lines that begin with any number of “&gt;” and “From ” get one more
/// “&gt;”, which <see cref="MboxReader"/> takes off again, so that what is read is byte for byte what was written; a message that
/// does not end with a line end is given one.
/// </summary>
public static class MboxWriter
{
    private static ReadOnlySpan<byte> From => "From "u8;

    /// <summary>Writes one message with its separator line and the empty line after it.</summary>
    /// <param name="target">Where to.</param>
    /// <param name="sender">The envelope sender; empty or null is written as MAILER-DAEMON.</param>
    /// <param name="arrived">When it arrived; written in UTC.</param>
    /// <param name="message">The bytes as received.</param>
    /// <param name="stop">Gives up.</param>
    public static async Task WriteAsync(Stream target, string? sender, DateTimeOffset arrived, byte[] message, CancellationToken stop)
    {
        using var entry = new MemoryStream(message.Length + 200);
        var plain = new string([.. (sender ?? "").Where(c => c is > ' ' and < '\x7f')]);
        var date = arrived.UtcDateTime.ToString("ddd MMM d HH:mm:ss yyyy", CultureInfo.InvariantCulture);
        entry.Write(Encoding.ASCII.GetBytes($"From {(plain.Length == 0 ? "MAILER-DAEMON" : plain)} {date}\n"));
        WriteGuarded(entry, message);
        entry.Write(message.AsSpan().EndsWith("\n"u8) ? "\n"u8 : "\n\n"u8);
        entry.Position = 0;
        await entry.CopyToAsync(target, stop);
    }

    private static void WriteGuarded(MemoryStream entry, ReadOnlySpan<byte> rest)
    {
        while (!rest.IsEmpty)
        {
            var end = rest.IndexOf((byte)'\n');
            var line = end < 0 ? rest : rest[..(end + 1)];
            if (line.TrimStart((byte)'>').StartsWith(From))
            {
                entry.WriteByte((byte)'>');
            }

            entry.Write(line);
            rest = rest[line.Length..];
        }
    }
}
