using System.Collections.Immutable;
using System.Text;

namespace PostTide.Core.Filing;

/// <summary>Tells the media type of a file by how its content begins. What the sender declares is not looked at.</summary>
public static class ContentType
{
    /// <summary>As many bytes of a file's beginning are enough to tell.</summary>
    public const int Enough = 8_192;

    private static ReadOnlySpan<byte> ByteOrderMark => [0xEF, 0xBB, 0xBF];

    public const string Unknown = "application/octet-stream";

    private static readonly ImmutableArray<(string Type, byte[] Mark)> Marks =
    [
        ("application/pdf", "%PDF-"u8.ToArray()), // ISO 32000-1 §7.5.2
        ("image/png", [0x89, 0x50, 0x4E, 0x47, 0x0D, 0x0A, 0x1A, 0x0A]), // ISO/IEC 15948 §5.2
        ("image/jpeg", [0xFF, 0xD8, 0xFF]), // ITU-T T.81 annex B
        ("image/gif", "GIF87a"u8.ToArray()), // GIF89a specification §17
        ("image/gif", "GIF89a"u8.ToArray()),
        ("image/tiff", [0x49, 0x49, 0x2A, 0x00]), // TIFF 6.0 §2
        ("image/tiff", [0x4D, 0x4D, 0x00, 0x2A]),
        ("application/gzip", [0x1F, 0x8B, 0x08]), // RFC 1952 §2.3.1
        ("application/x-7z-compressed", [0x37, 0x7A, 0xBC, 0xAF, 0x27, 0x1C]), // common practice, no source
        ("application/vnd.rar", [0x52, 0x61, 0x72, 0x21, 0x1A, 0x07]), // common practice, no source
        ("application/rtf", "{\\rtf"u8.ToArray()), // RTF 1.9.1, “RTF version”
        ("application/x-ole-storage", [0xD0, 0xCF, 0x11, 0xE0, 0xA1, 0xB1, 0x1A, 0xE1]), // MS-CFB §2.2
        ("application/vnd.microsoft.portable-executable", "MZ"u8.ToArray()), // PE format, “MS-DOS stub”
        ("application/x-elf", [0x7F, 0x45, 0x4C, 0x46]), // System V ABI, “ELF identification”
    ];

    private static readonly ImmutableArray<(string Type, string Beginning)> Texts =
    [
        ("text/calendar", "BEGIN:VCALENDAR"), // RFC 5545 §3.4
        ("text/vcard", "BEGIN:VCARD"), // RFC 6350 §6.1.1
        ("text/html", "<!DOCTYPE html"), // HTML living standard §13.1.1
        ("text/html", "<html"),
        ("image/svg+xml", "<svg"),
        ("text/xml", "<?xml"), // XML 1.0 §2.8
    ];

    /// <summary>The type, or <see cref="Unknown"/>; empty content has none and gives an empty string.</summary>
    /// <param name="head">The content, or its first <see cref="Enough"/> bytes.</param>
    public static string Of(ReadOnlySpan<byte> head)
    {
        if (head.IsEmpty)
        {
            return "";
        }

        foreach (var (type, mark) in Marks)
        {
            if (head.StartsWith(mark))
            {
                return type;
            }
        }

        return head.StartsWith("PK\u0003\u0004"u8) ? OfZip(head)
            : head.Length >= 12 && head.StartsWith("RIFF"u8) && head[8..].StartsWith("WEBP"u8) ? "image/webp" // RFC 9649 §2.4
            : OfText(head);
    }

    /// <summary>Office documents are archives (APPNOTE 4.3.7) that name their parts: ISO/IEC 29500-2 and OASIS ODF 1.3 part 2 §3.3.</summary>
    private static string OfZip(ReadOnlySpan<byte> head)
    {
        const int NameOffset = 30;
        var rest = head.Length > NameOffset ? head[NameOffset..] : [];
        if (rest.StartsWith("mimetypeapplication/vnd.oasis.opendocument."u8))
        {
            return rest["mimetypeapplication/vnd.oasis.opendocument."u8.Length..] switch
            {
                var kind when kind.StartsWith("text"u8) => "application/vnd.oasis.opendocument.text",
                var kind when kind.StartsWith("spreadsheet"u8) => "application/vnd.oasis.opendocument.spreadsheet",
                _ => "application/vnd.oasis.opendocument.presentation",
            };
        }

        return head.IndexOf("[Content_Types].xml"u8) < 0 ? "application/zip"
            : head.IndexOf("word/"u8) >= 0 ? "application/vnd.openxmlformats-officedocument.wordprocessingml.document"
            : head.IndexOf("xl/"u8) >= 0 ? "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
            : head.IndexOf("ppt/"u8) >= 0 ? "application/vnd.openxmlformats-officedocument.presentationml.presentation"
            : "application/zip";
    }

    private static string OfText(ReadOnlySpan<byte> head)
    {
        if (head.StartsWith(ByteOrderMark))
        {
            head = head[3..];
        }

        foreach (var b in head)
        {
            if (b is < 0x20 and not (0x09 or 0x0A or 0x0C or 0x0D or 0x1B))
            {
                return Unknown;
            }
        }

        var text = Encoding.Latin1.GetString(head[..Math.Min(head.Length, 200)]).TrimStart();
        foreach (var (type, beginning) in Texts)
        {
            if (text.StartsWith(beginning, StringComparison.OrdinalIgnoreCase))
            {
                return type;
            }
        }

        return "text/plain";
    }
}
