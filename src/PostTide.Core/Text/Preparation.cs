using System.Collections.Immutable;
using PostTide.Core.Messages;

namespace PostTide.Core.Text;

/// <summary>What a mail parser read from raw bytes, before anything is made of it.</summary>
public sealed record ParsedMessage
{
    public string MessageId { get; init; } = "";
    public ImmutableArray<string> InReplyTo { get; init; } = [];
    public ImmutableArray<string> References { get; init; } = [];
    public EmailAddress From { get; init; } = EmailAddress.None;
    public EmailAddress? ReplyTo { get; init; }

    /// <summary>The Return-Path field: null when there is none, empty for the null path.</summary>
    public string? ReturnPath { get; init; }
    public ImmutableArray<EmailAddress> To { get; init; } = [];
    public ImmutableArray<EmailAddress> Cc { get; init; } = [];

    /// <summary>Delivered-To and X-Original-To, in the order of the header.</summary>
    public ImmutableArray<string> DeliveredTo { get; init; } = [];
    public string Subject { get; init; } = "";
    public DateTimeOffset? SentAt { get; init; }
    public string? TextBody { get; init; }
    public string? HtmlBody { get; init; }
    public ImmutableArray<Attachment> Attachments { get; init; } = [];
    public ImmutableArray<HeaderField> Header { get; init; } = [];

    /// <summary>The media type of the whole message, such as <c>multipart/report</c>.</summary>
    public string MediaType { get; init; } = "text/plain";
    public string? ReportType { get; init; }

    /// <summary>The size in bytes as received.</summary>
    public long Size { get; init; }

    /// <summary>The results of Authentication-Results fields, top first.</summary>
    public ImmutableArray<AuthenticationResult> Authentication { get; init; } = [];
}

/// <summary>The SMTP transaction a message came in by; both parts unknown for an uploaded file.</summary>
/// <param name="From">MAIL FROM, empty for the null path, null when not known.</param>
/// <param name="Recipients">RCPT TO, as accepted.</param>
public sealed record Envelope(string? From, ImmutableArray<string> Recipients)
{
    public static readonly Envelope Unknown = new(null, []);
}

/// <summary>Makes a parsed message ready for matching: one text, cut into stretches; who it was written to; automatic or not.</summary>
public static class Preparation
{
    /// <summary>Body text beyond this many characters is not looked at (common practice, no source); the raw bytes keep all of it.</summary>
    public const int LongestBody = 500_000;

    private const int LongestLine = 2_000;
    private const int MostAddresses = 200;
    private const int MostResults = 50;

    // Common practice, no source: longer headers are made by loops and by hostile mail.
    private const int MostFields = 200;

    /// <summary>Prepares a message that arrived at <paramref name="arrivedAt"/>.</summary>
    public static PreparedMessage Prepare(ParsedMessage parsed, Envelope envelope, DateTimeOffset arrivedAt)
    {
        var subject = Short(parsed.Subject);
        var returnPath = envelope.From ?? parsed.ReturnPath;
        return new PreparedMessage
        {
            MessageId = MessageIds.Bare(parsed.MessageId),
            References = MessageIds.Answered(parsed.References, parsed.InReplyTo),
            From = Clean(parsed.From),
            ReplyTo = parsed.ReplyTo is { } replyTo ? Clean(replyTo) : null,
            ReturnPath = returnPath is null ? null : Short(returnPath),
            To = [.. parsed.To.Take(MostAddresses).Select(Clean)],
            Cc = [.. parsed.Cc.Take(MostAddresses).Select(Clean)],
            OriginallyTo = WrittenTo(parsed, envelope),
            Subject = subject,
            SentAt = parsed.SentAt,
            ArrivedAt = arrivedAt,
            Body = BodySplitter.Split(BodyOf(parsed)),
            Size = parsed.Size,
            Header = [.. parsed.Header.Take(MostFields).Select(f => new HeaderField(string.IsInterned(f.Name) ?? f.Name, Short(f.Value)))],
            Authentication = [.. parsed.Authentication.Take(MostResults)],
            Attachments = [.. parsed.Attachments.Select(a => a with { Name = Short(a.Name), DeclaredType = Short(a.DeclaredType) })],
            Automatic =
            [
                .. AutomaticMail.Recognise(parsed.Header, parsed.MediaType, parsed.ReportType, returnPath, parsed.From, subject)
                    .Select(m => m with { Sign = Short(m.Sign) }),
            ],
        };
    }

    /// <summary>The plain part, or the visible text of the HTML where there is none worth reading.</summary>
    private static string BodyOf(ParsedMessage parsed)
    {
        var text = string.IsNullOrWhiteSpace(parsed.TextBody) && parsed.HtmlBody is { } html
            ? HtmlText.ToPlainText(html)
            : parsed.TextBody ?? "";
        return CleanText.Body(text.Length > LongestBody ? text[..LongestBody] : text);
    }

    /// <summary>The envelope names the address originally written to; the delivery fields do where the envelope is not known.</summary>
    private static ImmutableArray<string> WrittenTo(ParsedMessage parsed, Envelope envelope)
    {
        var seen = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        return [.. envelope.Recipients.Concat(parsed.DeliveredTo).Select(Short).Where(a => a.Length > 0 && seen.Add(a)).Take(MostAddresses)];
    }

    private static EmailAddress Clean(EmailAddress address) => new(Short(address.Name), Short(address.Address));

    private static string Short(string value) => CleanText.Line(value.Length > LongestLine ? value[..LongestLine] : value);
}
