using System.Buffers;
using System.Runtime.InteropServices;

namespace PostTide.Mail;

/// <summary>One message cut out of an mbox file, or the reason why it could not be.</summary>
public sealed record MboxMessage(int Number, byte[]? Bytes, string? Problem);

/// <summary>
/// Cuts mbox files (RFC 4155) into messages, byte for byte but for the first <c>&gt;</c> of a line that
/// would otherwise begin with “From ”, which guards it.
/// Only the separators are looked at: whether a message can be read is found out later, so that a broken one costs no other.
/// </summary>
public static class MboxReader
{
    private static ReadOnlySpan<byte> Separator => "From "u8;

    /// <summary>Whether a file begins like an mbox file.</summary>
    public static bool IsMbox(ReadOnlySpan<byte> start) => start.StartsWith(Separator);

    /// <summary>The messages of the file in order; those larger than <paramref name="largest"/> bytes are named, not held.</summary>
    public static IEnumerable<MboxMessage> Read(Stream stream, long largest)
    {
        using var buffered = new BufferedStream(stream, 1 << 16);
        var message = new Message(largest);
        var line = new List<byte>(1_000);
        var number = 0;
        var afterEmpty = true;
        while (ReadLine(buffered, line))
        {
            if (afterEmpty && CollectionsMarshal.AsSpan(line).StartsWith(Separator))
            {
                if (number > 0)
                {
                    yield return message.Finish(number);
                }

                number++;
                message = new Message(largest);
            }
            else
            {
                message.Add(CollectionsMarshal.AsSpan(line));
            }

            afterEmpty = line is [(byte)'\n'] or [(byte)'\r', (byte)'\n'];
        }

        if (number > 0)
        {
            yield return message.Finish(number);
        }
    }

    /// <summary>Reads up to and with the next line feed; false at the end.</summary>
    private static bool ReadLine(BufferedStream stream, List<byte> line)
    {
        line.Clear();
        while (stream.ReadByte() is >= 0 and var value)
        {
            line.Add((byte)value);
            if (value == '\n')
            {
                break;
            }
        }

        return line.Count > 0;
    }

    private sealed class Message(long largest)
    {
        private readonly ArrayBufferWriter<byte> _bytes = new();
        private bool _tooLarge;

        public void Add(ReadOnlySpan<byte> line)
        {
            if (_tooLarge || _bytes.WrittenCount + line.Length > largest)
            {
                _tooLarge = true;
                _bytes.Clear();
                return;
            }

            var guarded = line.Length > 1 && line[0] == '>' && line.TrimStart((byte)'>').StartsWith(Separator);
            _bytes.Write(guarded ? line[1..] : line);
        }

        /// <summary>RFC 4155: an empty line ends each message; it is not part of it.</summary>
        public MboxMessage Finish(int number)
        {
            if (_tooLarge)
            {
                return new MboxMessage(number, null, $"It is larger than {largest / 1_000_000} MB, the largest message taken.");
            }

            var all = _bytes.WrittenSpan;
            var end = all.EndsWith("\n\r\n"u8) ? all.Length - 2 : all.EndsWith("\n\n"u8) ? all.Length - 1 : all.Length;
            return new MboxMessage(number, all[..end].ToArray(), null);
        }
    }
}
