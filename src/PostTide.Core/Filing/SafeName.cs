using System.Globalization;
using System.Text;

namespace PostTide.Core.Filing;

/// <summary>Makes names of files and folders harmless, whatever the sender wrote (RFC 2183 §2.3).</summary>
public static class SafeName
{
    private const int LongestName = 120;
    private const int MostLevels = 8;

    private static readonly HashSet<string> Reserved = new(StringComparer.OrdinalIgnoreCase)
    {
        "con", "prn", "aux", "nul", "com1", "com2", "com3", "com4", "com5", "com6", "com7", "com8", "com9",
        "lpt1", "lpt2", "lpt3", "lpt4", "lpt5", "lpt6", "lpt7", "lpt8", "lpt9",
    };

    /// <summary>
    /// A name that is one path segment on every common file system: the last segment of what was declared, without control,
    /// direction and reserved characters, at most 120 characters with its ending kept. Never empty, never a dot name.
    /// </summary>
    public static string File(string declared, string ifNothingIsLeft = "attachment")
    {
        var last = declared.Replace('\\', '/').Split('/').LastOrDefault(s => s.Trim(' ', '.').Length > 0) ?? "";
        var name = Segment(last);
        if (name.Length == 0)
        {
            return ifNothingIsLeft;
        }

        if (name.Length <= LongestName)
        {
            return name;
        }

        var dot = name.LastIndexOf('.');
        var ending = dot > 0 && name.Length - dot <= 12 ? name[dot..] : "";
        return CutAtRune(name, LongestName - ending.Length).TrimEnd(' ', '.') + ending;
    }

    /// <summary>A folder path of safe segments joined by <c>/</c>, at most eight deep; empty when nothing is left.</summary>
    public static string Folder(string path) => string.Join('/', path.Replace('\\', '/').Split('/')
        .Select(Segment).Where(s => s.Length > 0).Take(MostLevels).Select(s => CutAtRune(s, LongestName)));

    /// <summary>The name to use when <paramref name="name"/> is taken: “name (2).pdf”.</summary>
    public static string Numbered(string name, int number)
    {
        var dot = name.LastIndexOf('.');
        return number < 2 ? name : dot > 0 ? $"{name[..dot]} ({number}){name[dot..]}" : $"{name} ({number})";
    }

    private static string Segment(string text)
    {
        var built = new StringBuilder();
        foreach (var rune in text.Normalize(NormalizationForm.FormC).EnumerateRunes())
        {
            var category = Rune.GetUnicodeCategory(rune);
            if (category is UnicodeCategory.Control or UnicodeCategory.Format or UnicodeCategory.LineSeparator
                or UnicodeCategory.ParagraphSeparator or UnicodeCategory.PrivateUse or UnicodeCategory.OtherNotAssigned
                || rune == Rune.ReplacementChar)
            {
                continue;
            }

            built.Append(rune.Value is '/' or '\\' or ':' or '*' or '?' or '"' or '<' or '>' or '|' ? "_" : rune.ToString());
        }

        var name = built.ToString().Trim(' ', '.');
        var stem = name.Split('.')[0].TrimEnd();
        return Reserved.Contains(stem) ? "_" + name : name;
    }

    private static string CutAtRune(string text, int length) =>
        text.Length <= length ? text : char.IsHighSurrogate(text[length - 1]) ? text[..(length - 1)] : text[..length];
}
