using PostTide.Core.Messages;
using PostTide.Core.Text;
using PostTide.Engine.Mailboxes;
using PostTide.Mail;
using PostTide.Store.Records;

namespace PostTide.Engine.Planning;

/// <summary>A stored message's text made ready, or the reason why it cannot be read.</summary>
internal sealed record ReadMessage(byte[] Raw, PreparedMessage? Prepared, string? Problem)
{
    /// <summary>The words searches look for; empty when it cannot be read.</summary>
    public string Words { get; init; } = "";

    /// <summary>The same as the content of a stored arrival.</summary>
    public ReadMessage Of(Message row) => Prepared is null ? this : this with { Prepared = Prepared with { Id = row.Id, ArrivedAt = row.ArrivedAt } };
}

/// <summary>Makes stored messages ready for deciding and searching.</summary>
internal static class PreparedRows
{
    private const int LongestIndexed = 100_000;

    public static ReadMessage Read(Message row, byte[] raw) =>
        Read(raw, new Envelope(row.EnvelopeFrom, [.. row.EnvelopeTo]), SourceKey.Read(row.SourceKey)?.Folder).Of(row);

    /// <summary>A message as it was fetched from a folder, before it has a row; see <see cref="ReadMessage.Of"/>.</summary>
    public static ReadMessage Read(byte[] raw, string folder) => Read(raw, Envelope.Unknown, folder);

    private static ReadMessage Read(byte[] raw, Envelope envelope, string? folder)
    {
        try
        {
            var prepared = Preparation.Prepare(MailReader.Read(raw), envelope, DateTimeOffset.UnixEpoch) with { Folder = folder };
            return new ReadMessage(raw, prepared, null) { Words = WordsOf(prepared) };
        }
        catch (UnreadableMailException e)
        {
            return new ReadMessage(raw, null, e.Message);
        }
    }

    /// <summary>The record of a readable message, which rehearsals read and searches look at.</summary>
    public static Prepared Record(ReadMessage read)
    {
        var prepared = read.Prepared!;
        return new Prepared
        {
            MessageId = prepared.Id,
            Version = prepared.Version,
            Document = prepared,
            ArrivedAt = prepared.ArrivedAt,
            Subject = prepared.Subject,
            Sender = prepared.From.Shown,
            Words = read.Words,
        };
    }

    private static string WordsOf(PreparedMessage prepared)
    {
        string[] lines = [prepared.Subject, prepared.From.Shown, .. prepared.Attachments.Select(a => a.Name)];
        return string.Join('\n', lines.Select(SearchWords.Of).Append(SearchWords.OfNewPart(prepared.Body, LongestIndexed)));
    }

    /// <summary>Puts into the message's own row what lists show.</summary>
    public static void Describe(Message row, PreparedMessage prepared)
    {
        row.MailId = prepared.MessageId;
        row.SenderName = prepared.From.Name;
        row.SenderAddress = prepared.From.Key;
        row.Subject = prepared.Subject;
        row.AttachmentCount = prepared.Attachments.Length;
        row.Automatic = prepared.Automatic.Length > 0 ? prepared.Automatic[0].Kind : null;
    }
}
