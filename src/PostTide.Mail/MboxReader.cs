using MimeKit;

namespace PostTide.Mail;

/// <summary>One message cut out of an mbox file, or the reason why it could not be.</summary>
public sealed record MboxMessage(int Number, byte[]? Bytes, string? Problem);

/// <summary>Cuts mbox files (RFC 4155) into messages, byte for byte but for the <c>&gt;</c> that guards a line beginning with “From ”.</summary>
public static class MboxReader
{
    private static readonly byte[] Guarded = ">From "u8.ToArray();

    /// <summary>Whether a file begins like an mbox file.</summary>
    public static bool IsMbox(ReadOnlySpan<byte> start) => start.StartsWith("From "u8);

    /// <summary>The messages of the file in order. The stream must be seekable.</summary>
    public static IEnumerable<MboxMessage> Read(Stream stream, long largest)
    {
        var parser = new MimeParser(stream, MimeFormat.Mbox);
        for (var number = 1; !parser.IsEndOfStream; number++)
        {
            string? problem = null;
            long begin;
            try
            {
                // Only the borders are wanted here; the message is parsed again from its own bytes.
                parser.ParseMessage();
                begin = parser.MboxMarkerOffset;
            }
            catch (FormatException e)
            {
                begin = 0;
                problem = $"It is not a mail message (RFC 5322): {e.Message}";
            }

            if (problem is not null)
            {
                yield return new MboxMessage(number, null, problem);
                yield break;
            }

            var end = parser.Position;
            yield return end - begin > largest
                ? new MboxMessage(number, null, $"It is larger than {largest / 1_000_000} MB.")
                : new MboxMessage(number, Cut(stream, begin, end), null);
        }
    }

    private static byte[] Cut(Stream stream, long begin, long end)
    {
        var back = stream.Position;
        stream.Position = begin;
        var bytes = new byte[end - begin];
        stream.ReadExactly(bytes);
        stream.Position = back;

        var separator = Array.IndexOf(bytes, (byte)'\n');
        var from = separator < 0 ? bytes.Length : separator + 1;

        // RFC 4155: an empty line ends each message; it is not part of it.
        var to = bytes.Length;
        if (to - from >= 2 && bytes[to - 1] == '\n' && (bytes[to - 2] == '\n' || (to - from >= 4 && bytes.AsSpan(to - 4, 4).SequenceEqual("\r\n\r\n"u8))))
        {
            to -= bytes[to - 2] == '\r' ? 2 : 1;
        }

        return Unguard(bytes.AsSpan(from, to - from));
    }

    private static byte[] Unguard(ReadOnlySpan<byte> message)
    {
        using var kept = new MemoryStream(message.Length);
        while (!message.IsEmpty)
        {
            var end = message.IndexOf((byte)'\n');
            var line = end < 0 ? message : message[..(end + 1)];
            message = message[line.Length..];
            kept.Write(line.StartsWith(Guarded) ? line[1..] : line);
        }

        return kept.ToArray();
    }
}
