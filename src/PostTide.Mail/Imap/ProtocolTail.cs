using System.Text;
using MailKit;

namespace PostTide.Mail.Imap;

/// <summary>
/// Remembers the last lines of a protocol conversation, for the detail behind an error. Passwords are left out by the library's
/// own detection; lines are cut short, so that no mail text is kept.
/// </summary>
public sealed class ProtocolTail : IProtocolLogger
{
    private const int MostLines = 40;
    private const int LongestLine = 160;
    private const int MostToLookAt = 4_000;
    private readonly Queue<string> _lines = new();
    private readonly Lock _lock = new();

    public IAuthenticationSecretDetector? AuthenticationSecretDetector { get; set; }

    public override string ToString()
    {
        lock (_lock)
        {
            return string.Join('\n', _lines);
        }
    }

    public void LogConnect(Uri uri) => Add($"connected to {uri}");

    public void LogClient(byte[] buffer, int offset, int count)
    {
        var text = Encoding.Latin1.GetString(buffer, offset, count).ToCharArray();
        foreach (var secret in AuthenticationSecretDetector?.DetectSecrets(buffer, offset, count) ?? [])
        {
            Array.Fill(text, '*', secret.StartIndex - offset, secret.Length);
        }

        Add("C: " + new string(text));
    }

    public void LogServer(byte[] buffer, int offset, int count)
    {
        // Whole messages come through here: only the beginnings of their lines are looked at.
        var rest = buffer.AsSpan(offset, Math.Min(count, MostToLookAt));
        while (!rest.IsEmpty)
        {
            var end = rest.IndexOf((byte)'\n');
            var line = end < 0 ? rest : rest[..end];
            if (line.Length > 0)
            {
                Add("S: " + Encoding.Latin1.GetString(line[..Math.Min(line.Length, LongestLine)]));
            }

            rest = end < 0 ? [] : rest[(end + 1)..];
        }
    }

    public void Dispose()
    {
    }

    private void Add(string line)
    {
        var cut = line.Length > LongestLine ? line[..LongestLine] : line.TrimEnd('\r');
        var clean = cut.Any(char.IsControl) ? string.Concat(cut.Where(c => !char.IsControl(c))) : cut;
        lock (_lock)
        {
            _lines.Enqueue(clean);
            while (_lines.Count > MostLines)
            {
                _lines.Dequeue();
            }
        }
    }
}
