using System.Globalization;
using System.IO.Compression;
using System.Text;

namespace PostTide.StandIns.Saltmarrow;

/// <summary>Small but real files to attach.</summary>
public static class Files
{
    /// <summary>A one-page PDF (ISO 32000) with lines of text.</summary>
    public static DraftFile Pdf(string name, params string[] lines)
    {
        var content = "BT /F1 11 Tf 50 780 Td 15 TL " + string.Concat(lines.Select(l => $"({Escape(l)}) Tj T* ")) + "ET";
        string[] objects =
        [
            "<< /Type /Catalog /Pages 2 0 R >>",
            "<< /Type /Pages /Kids [3 0 R] /Count 1 >>",
            "<< /Type /Page /Parent 2 0 R /MediaBox [0 0 595 842] /Contents 4 0 R /Resources << /Font << /F1 5 0 R >> >> >>",
            $"<< /Length {content.Length} >>\nstream\n{content}\nendstream",
            "<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica >>",
        ];
        var file = new StringBuilder("%PDF-1.4\n");
        var offsets = new List<int>();
        for (var i = 0; i < objects.Length; i++)
        {
            offsets.Add(file.Length);
            file.Append(CultureInfo.InvariantCulture, $"{i + 1} 0 obj\n{objects[i]}\nendobj\n");
        }

        var table = file.Length;
        file.Append(CultureInfo.InvariantCulture, $"xref\n0 {objects.Length + 1}\n0000000000 65535 f \n");
        offsets.ForEach(o => file.Append(CultureInfo.InvariantCulture, $"{o:D10} 00000 n \n"));
        file.Append(CultureInfo.InvariantCulture, $"trailer << /Size {objects.Length + 1} /Root 1 0 R >>\nstartxref\n{table}\n%%EOF\n");
        return new DraftFile(name, "application/pdf", Encoding.Latin1.GetBytes(file.ToString()));
    }

    /// <summary>A CSV file (RFC 4180).</summary>
    public static DraftFile Csv(string name, params string[] rows) => new(name, "text/csv", Encoding.UTF8.GetBytes(string.Join("\r\n", rows) + "\r\n"));

    /// <summary>A calendar entry (RFC 5545).</summary>
    public static DraftFile Calendar(string name, string uid, string summary, DateTimeOffset start) => new(name, "text/calendar", Encoding.UTF8.GetBytes(
        string.Join("\r\n", "BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//Saltmarrow//Demo//EN", "BEGIN:VEVENT", $"UID:{uid}@saltmarrow.example",
            $"DTSTAMP:{start:yyyyMMdd}T080000Z", $"DTSTART:{start:yyyyMMdd}T100000Z", $"SUMMARY:{summary}", "END:VEVENT", "END:VCALENDAR", "")));

    /// <summary>A picture of coloured bands (PNG, ISO 15948).</summary>
    public static DraftFile Picture(string name, Dice dice)
    {
        const int Width = 160, Height = 120;
        var rows = new byte[Height * (1 + Width * 3)];
        var (r, g, b) = (dice.Between(60, 200), dice.Between(80, 200), dice.Between(90, 220));
        for (var y = 0; y < Height; y++)
        {
            for (var x = 0; x < Width; x++)
            {
                var at = y * (1 + Width * 3) + 1 + x * 3;
                rows[at] = (byte)(r + y / 3);
                rows[at + 1] = (byte)(g - x / 4);
                rows[at + 2] = (byte)(b - (x + y) / 6);
            }
        }

        using var packed = new MemoryStream();
        using (var deflate = new ZLibStream(packed, CompressionLevel.Optimal, leaveOpen: true))
        {
            deflate.Write(rows);
        }

        using var file = new MemoryStream();
        file.Write([0x89, 0x50, 0x4E, 0x47, 0x0D, 0x0A, 0x1A, 0x0A]);
        Chunk(file, "IHDR", [0, 0, 0, Width, 0, 0, 0, Height, 8, 2, 0, 0, 0]);
        Chunk(file, "IDAT", packed.ToArray());
        Chunk(file, "IEND", []);
        return new DraftFile(name, "image/png", file.ToArray());
    }

    private static void Chunk(Stream file, string type, byte[] data)
    {
        byte[] body = [.. Encoding.ASCII.GetBytes(type), .. data];
        file.Write(BigEndian((uint)data.Length));
        file.Write(body);
        file.Write(BigEndian(Crc32(body)));
    }

    private static uint Crc32(byte[] data)
    {
        var crc = 0xFFFFFFFFu;
        foreach (var b in data)
        {
            crc ^= b;
            for (var i = 0; i < 8; i++)
            {
                crc = (crc & 1) != 0 ? (crc >> 1) ^ 0xEDB88320 : crc >> 1;
            }
        }

        return ~crc;
    }

    private static byte[] BigEndian(uint value) => [(byte)(value >> 24), (byte)(value >> 16), (byte)(value >> 8), (byte)value];

    private static string Escape(string text) => text.Replace("\\", "\\\\", StringComparison.Ordinal).Replace("(", "\\(", StringComparison.Ordinal).Replace(")", "\\)", StringComparison.Ordinal);
}
