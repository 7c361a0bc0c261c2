using System.Globalization;

namespace PostTide.Engine.Mailboxes;

/// <summary>A message's place in an IMAP mailbox: what makes it one of its kind there (RFC 3501 §2.3.1.1).</summary>
public sealed record SourceKey(uint UidValidity, uint Uid, string Folder)
{
    private const string Scheme = "imap:";

    /// <summary>Reads a key; null when it is not one of an IMAP mailbox.</summary>
    public static SourceKey? Read(string key)
    {
        var parts = key.StartsWith(Scheme, StringComparison.Ordinal) ? key[Scheme.Length..].Split(':', 3) : [];
        return parts.Length == 3 && uint.TryParse(parts[0], CultureInfo.InvariantCulture, out var validity) && uint.TryParse(parts[1], CultureInfo.InvariantCulture, out var uid)
            ? new SourceKey(validity, uid, parts[2])
            : null;
    }

    public override string ToString() => string.Create(CultureInfo.InvariantCulture, $"{Scheme}{UidValidity}:{Uid}:{Folder}");
}
