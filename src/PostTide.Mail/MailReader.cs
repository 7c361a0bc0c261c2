using System.Collections.Immutable;
using System.Text;
using MimeKit;
using MimeKit.Cryptography;
using PostTide.Core.Messages;
using PostTide.Core.Text;
using ContentType = PostTide.Core.Filing.ContentType;

namespace PostTide.Mail;

/// <summary>Bytes that cannot be read as a mail message; the message says why in a sentence.</summary>
public sealed class UnreadableMailException(string why, Exception? inner = null) : Exception(why, inner);

/// <summary>Reads raw bytes with MimeKit. Nothing read here is trusted: names, types and sizes are only what the sender said.</summary>
public static class MailReader
{
    private const int DeepestNesting = 60;
    private const int MostHeaderFields = 2_000;

    private static readonly HeaderId[] Telling =
        [HeaderId.From, HeaderId.Sender, HeaderId.Date, HeaderId.MessageId, HeaderId.Received, HeaderId.Subject, HeaderId.To, HeaderId.ReturnPath];

    private static readonly ParserOptions Options = MakeOptions();

    /// <summary>Reads a message.</summary>
    /// <exception cref="UnreadableMailException">The bytes are not a mail message (RFC 5322).</exception>
    public static ParsedMessage Read(byte[] raw)
    {
        var message = Load(raw);
        if (!message.Headers.Any(h => Telling.Contains(h.Id)))
        {
            throw new UnreadableMailException("It has none of the header fields of a mail message (RFC 5322), such as From, Date or Subject.");
        }

        try
        {
            return Read(message) with { Size = raw.Length };
        }
        catch (Exception e) when (e is FormatException or ArgumentException or InvalidOperationException or IOException or NotSupportedException)
        {
            throw new UnreadableMailException($"Its contents cannot be decoded: {e.Message}", e);
        }
    }

    /// <summary>When a message says it was sent, if it says so and that is not in the future.</summary>
    public static DateTimeOffset? DateOf(byte[] raw, DateTimeOffset now)
    {
        var date = Load(raw).Date.ToUniversalTime();
        return date.Year > 1970 && date <= now ? date : null;
    }

    /// <summary>The HTML part of a message as sent, not yet safe; null when there is none.</summary>
    public static string? HtmlOf(byte[] raw) => Load(raw).HtmlBody;

    /// <summary>The decoded bytes of an attachment; null when the message has no such attachment.</summary>
    public static byte[]? AttachmentOf(byte[] raw, int index) =>
        AttachmentsOf(Load(raw)).ElementAtOrDefault(index) is { } entity ? Decode(entity) : null;

    internal static MimeMessage Load(byte[] raw)
    {
        if (raw.Length == 0)
        {
            throw new UnreadableMailException("It is empty.");
        }

        try
        {
            return MimeMessage.Load(Options, new MemoryStream(raw, writable: false));
        }
        catch (FormatException e)
        {
            throw new UnreadableMailException($"It is not a mail message (RFC 5322): {e.Message}", e);
        }
    }

    private static ParserOptions MakeOptions()
    {
        // Old mail names character sets that .NET only knows through this provider.
        Encoding.RegisterProvider(CodePagesEncodingProvider.Instance);
        return new ParserOptions { MaxMimeDepth = DeepestNesting, MaxAddressGroupDepth = 4 };
    }

    private static ParsedMessage Read(MimeMessage message)
    {
        var fields = message.Headers.Take(MostHeaderFields).ToList();
        string? Field(HeaderId id) => fields.FirstOrDefault(h => h.Id == id)?.Value;
        return new ParsedMessage
        {
            MessageId = message.MessageId ?? "",
            InReplyTo = [.. message.Headers.Where(h => h.Id == HeaderId.InReplyTo).SelectMany(h => MimeKit.Utils.MimeUtils.EnumerateReferences(h.Value))],
            References = [.. message.References],
            From = Addresses(message.From).FirstOrDefault()
                ?? (message.Sender is { } sender ? Address(sender) : EmailAddress.None),
            ReplyTo = Addresses(message.ReplyTo).FirstOrDefault(),
            ReturnPath = Field(HeaderId.ReturnPath)?.Trim().TrimStart('<').TrimEnd('>'),
            To = [.. Addresses(message.To)],
            Cc = [.. Addresses(message.Cc)],
            DeliveredTo =
            [
                .. fields.Where(h => IsDelivery(h.Field)).Select(h => h.Value.Trim().TrimStart('<').TrimEnd('>')).Where(a => a.Contains('@', StringComparison.Ordinal)),
            ],
            Subject = message.Subject ?? "",
            SentAt = message.Date == DateTimeOffset.MinValue ? null : message.Date,
            TextBody = message.TextBody,
            HtmlBody = message.HtmlBody,
            Attachments = [.. AttachmentsOf(message).Select(Describe)],
            Header = [.. fields.Select(h => new HeaderField(h.Field, ValueOf(h)))],
            MediaType = message.Body?.ContentType.MimeType ?? "text/plain",
            ReportType = message.Body?.ContentType.Parameters["report-type"],
            Authentication = [.. AuthenticationOf(fields)],
        };
    }

    /// <summary>The results of every Authentication-Results field that can be read; a broken field says nothing.</summary>
    private static IEnumerable<AuthenticationResult> AuthenticationOf(List<Header> fields)
    {
        var received = fields.FindIndex(h => h.Id == HeaderId.Received);
        var number = 0;
        for (var i = 0; i < fields.Count; i++)
        {
            if (fields[i].Id != HeaderId.AuthenticationResults)
            {
                continue;
            }

            var field = number++;
            if (!AuthenticationResults.TryParse(fields[i].RawValue, out var parsed))
            {
                continue;
            }

            foreach (var result in parsed.Results)
            {
                var properties = result.Properties
                    .GroupBy(p => $"{p.PropertyType}.{p.Property}".ToLowerInvariant())
                    .ToImmutableDictionary(g => g.Key, g => g.First().Value.Trim().ToLowerInvariant());
                yield return new AuthenticationResult(
                    parsed.AuthenticationServiceIdentifier ?? "", result.Method.ToLowerInvariant(), result.Result.ToLowerInvariant(), properties,
                    field, received < 0 || i < received);
            }
        }
    }

    /// <summary>The value as the library decodes it; most values hold nothing to decode, and finding that out is much quicker.</summary>
    private static string ValueOf(Header field)
    {
        var raw = field.RawValue;
        return Ascii.IsValid(raw) && raw.AsSpan().IndexOf("=?"u8) < 0
            ? Encoding.ASCII.GetString(raw).ReplaceLineEndings("").Trim()
            : field.Value;
    }

    private static bool IsDelivery(string field) =>
        field.Equals("Delivered-To", StringComparison.OrdinalIgnoreCase) || field.Equals("X-Original-To", StringComparison.OrdinalIgnoreCase);

    private static IEnumerable<EmailAddress> Addresses(InternetAddressList list) => list.Mailboxes.Select(Address);

    private static EmailAddress Address(MailboxAddress mailbox) => new(mailbox.Name ?? "", mailbox.Address);

    /// <summary>
    /// Whatever is meant to be saved: parts marked as attachments, parts with a file name, and messages within the message.
    /// Pictures shown inside an HTML text (RFC 2387) are part of that text.
    /// </summary>
    private static IEnumerable<MimeEntity> AttachmentsOf(MimeMessage message) => Leaves(message.Body).Where(IsSaved);

    private static IEnumerable<MimeEntity> Leaves(MimeEntity? entity) => entity switch
    {
        null => [],
        Multipart multipart => multipart.SelectMany(Leaves),
        _ => [entity],
    };

    private static bool IsSaved(MimeEntity entity)
    {
        var named = entity is MimePart { FileName.Length: > 0 };
        var shownInside = entity.ContentId is not null && entity.ContentDisposition?.IsAttachment != true && entity.ContentType.IsMimeType("image", "*");
        return entity is MessagePart || entity.IsAttachment || (named && !shownInside);
    }

    private static string NameOf(MimeEntity entity) => entity switch
    {
        MimePart { FileName.Length: > 0 } part => part.FileName,
        MessagePart { Message.Subject.Length: > 0 } inner => inner.Message.Subject + ".eml",
        MessagePart => "message.eml",
        _ => "",
    };

    private static Attachment Describe(MimeEntity entity, int index)
    {
        using var head = new HeadStream(ContentType.Enough);
        WriteTo(entity, head);
        var type = entity is MessagePart ? "message/rfc822" : ContentType.Of(head.Head);
        return new Attachment(index, NameOf(entity), entity.ContentType.MimeType, head.Length, type);
    }

    private static byte[] Decode(MimeEntity entity)
    {
        using var memory = new MemoryStream();
        WriteTo(entity, memory);
        return memory.ToArray();
    }

    private static void WriteTo(MimeEntity entity, Stream stream)
    {
        switch (entity)
        {
            case MimePart part:
                part.Content?.DecodeTo(stream);
                break;
            case MessagePart inner:
                inner.Message?.WriteTo(stream);
                break;
        }
    }
}
