using System.Globalization;
using System.Text;

namespace PostTide.StandIns.PracticeMailboxes;

/// <summary>Sets of numbers and the searches of RFC 3501 §6.4.4 that a mail library uses.</summary>
internal static class ImapSearch
{
    /// <summary>Whether a number is in a set such as <c>1:4,7,9:*</c>.</summary>
    public static bool InSet(string set, uint number, uint last) => set.Split(',').Any(part =>
    {
        var ends = part.Split(':', 2);
        var (a, b) = (Number(ends[0], last), Number(ends[^1], last));
        return number >= Math.Min(a, b) && number <= Math.Max(a, b);
    });

    /// <summary>Whether a message fits every key.</summary>
    public static bool Fits(IReadOnlyList<ImapToken> keys, PracticeMessage message, uint sequence, uint lastSequence, uint lastUid)
    {
        for (var at = 0; at < keys.Count;)
        {
            if (!One(keys, ref at, message, sequence, lastSequence, lastUid))
            {
                return false;
            }
        }

        return true;
    }

    private static bool One(IReadOnlyList<ImapToken> keys, ref int at, PracticeMessage message, uint sequence, uint lastSequence, uint lastUid)
    {
        var key = keys[at++];
        if (key.IsList)
        {
            return Fits(key.List!, message, sequence, lastSequence, lastUid);
        }

        switch (key.Text.ToUpperInvariant())
        {
            case "ALL":
                return true;
            case "NOT":
                return !One(keys, ref at, message, sequence, lastSequence, lastUid);
            case "OR":
                var first = One(keys, ref at, message, sequence, lastSequence, lastUid);
                return One(keys, ref at, message, sequence, lastSequence, lastUid) || first;
            case "UID":
                return InSet(Next(keys, ref at), message.Uid, lastUid);
            case "SINCE":
                return message.ArrivedAt.Date >= Date(Next(keys, ref at));
            case "BEFORE":
                return message.ArrivedAt.Date < Date(Next(keys, ref at));
            case "ON":
                return message.ArrivedAt.Date == Date(Next(keys, ref at));
            case "SEEN" or "FLAGGED" or "DELETED" or "ANSWERED" or "DRAFT":
                return message.Flags.Contains("\\" + key.Text);
            case "UNSEEN" or "UNFLAGGED" or "UNDELETED" or "UNANSWERED" or "UNDRAFT":
                return !message.Flags.Contains("\\" + key.Text[2..]);
            case "KEYWORD":
                return message.Flags.Contains(Next(keys, ref at));
            case "UNKEYWORD":
                return !message.Flags.Contains(Next(keys, ref at));
            case "HEADER":
                var name = Next(keys, ref at);
                return Field(message, name)?.Contains(Next(keys, ref at), StringComparison.OrdinalIgnoreCase) == true;
            case "SUBJECT" or "FROM" or "TO" or "CC":
                return Field(message, key.Text)?.Contains(Next(keys, ref at), StringComparison.OrdinalIgnoreCase) == true;
            case "TEXT" or "BODY":
                return Encoding.UTF8.GetString(message.Bytes).Contains(Next(keys, ref at), StringComparison.OrdinalIgnoreCase);
            default:
                return char.IsAsciiDigit(key.Text[0]) || key.Text[0] == '*'
                    ? InSet(key.Text, sequence, lastSequence)
                    : throw new ImapSyntaxException($"the search {key.Text} is not known here");
        }
    }

    private static string Next(IReadOnlyList<ImapToken> keys, ref int at) => at < keys.Count ? keys[at++].Text : throw new ImapSyntaxException("a search lacks its value");

    private static uint Number(string text, uint last) => text == "*" ? last
        : uint.TryParse(text, CultureInfo.InvariantCulture, out var number) ? number : throw new ImapSyntaxException($"{text} is not a number");

    private static DateTime Date(string text) => DateTime.TryParseExact(text, "d-MMM-yyyy", CultureInfo.InvariantCulture, DateTimeStyles.None, out var date)
        ? date
        : throw new ImapSyntaxException($"{text} is not a date");

    private static string? Field(PracticeMessage message, string name)
    {
        using var stream = new MemoryStream(message.Bytes);
        return MimeKit.HeaderList.Load(stream).FirstOrDefault(h => h.Field.Equals(name, StringComparison.OrdinalIgnoreCase))?.Value;
    }
}
