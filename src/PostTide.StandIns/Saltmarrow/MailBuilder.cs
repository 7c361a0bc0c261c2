using System.Globalization;
using System.Net;
using MimeKit;

namespace PostTide.StandIns.Saltmarrow;

/// <summary>A finished message and the envelope it travels in.</summary>
public sealed record MadeMail(MimeMessage Message, string EnvelopeFrom, string EnvelopeTo, DateTimeOffset At)
{
    /// <summary>What it is about, as whoever made it up knows; empty where that is not one thing.</summary>
    public string Kind { get; init; } = "";

    public byte[] ToBytes()
    {
        using var memory = new MemoryStream();
        var format = FormatOptions.Default.Clone();
        format.NewLineFormat = NewLineFormat.Dos;
        Message.WriteTo(format, memory);
        return memory.ToArray();
    }
}

/// <summary>Turns drafts into mail. Nothing in it depends on chance but through the dice.</summary>
public static class MailBuilder
{
    public static MadeMail Build(Draft draft, DateTimeOffset at, Dice dice, IReadOnlyList<string> references)
    {
        var domain = draft.From.Address[(draft.From.Address.IndexOf('@', StringComparison.Ordinal) + 1)..];
        var message = new MimeMessage { MessageId = $"{at.ToUnixTimeSeconds().ToString("x", CultureInfo.InvariantCulture)}.{dice.Code("AA9A9A9")}@{domain}", Date = at };
        message.From.Add(new MailboxAddress(draft.From.Name, draft.From.Address));
        message.To.Add(new MailboxAddress("", draft.To));
        if (draft.Cc is { } cc)
        {
            message.Cc.Add(new MailboxAddress("", cc));
        }

        message.Subject = draft.Subject;
        foreach (var (name, value) in draft.Fields)
        {
            message.Headers.Add(name, value);
        }

        if (references.Count > 0)
        {
            message.InReplyTo = references[^1];
            message.References.AddRange(references);
        }

        message.Body = Body(draft, dice);
        return new MadeMail(message, draft.NullPath ? "" : draft.From.Address, draft.To, at);
    }

    private static MimeEntity Body(Draft draft, Dice dice)
    {
        var written = Voice.Write(draft, dice);
        var signature = draft.Machine ? "" : $"\n\n-- \n{draft.From.Signature}";
        var quoted = draft.Quoted is null ? "" : $"\n\n{draft.Quoted}";
        MimeEntity text = new TextPart("plain") { Text = written + signature + quoted };
        if (draft.From.Html && !draft.Machine)
        {
            text = Boundary(new MultipartAlternative { text, new TextPart("html") { Text = Html(written, draft) } }, dice);
        }

        if (draft.Files.Count == 0)
        {
            return text;
        }

        var mixed = Boundary(new Multipart("mixed") { text }, dice);
        foreach (var file in draft.Files)
        {
            var part = new MimePart(ContentType.Parse(file.MediaType))
            {
                Content = new MimeContent(new MemoryStream(file.Bytes)),
                ContentDisposition = new ContentDisposition(ContentDisposition.Attachment),
                ContentTransferEncoding = ContentEncoding.Base64,
                FileName = file.Name,
            };
            mixed.Add(part);
        }

        return mixed;
    }

    private static string Html(string written, Draft draft)
    {
        var paragraphs = string.Concat(written.Split("\n\n").Select(p => $"<p>{WebUtility.HtmlEncode(p).Replace("\n", "<br>", StringComparison.Ordinal)}</p>"));
        var signature = WebUtility.HtmlEncode(draft.From.Signature).Replace("\n", "<br>", StringComparison.Ordinal);
        return $"<html><head><style>p{{margin:0 0 1em}}</style></head><body><div style=\"font-family:Georgia\">{paragraphs}"
            + $"<table><tr><td><img src=\"https://{draft.From.Address.Split('@')[1]}/logo.png\" width=\"80\"></td><td><b>{signature}</b></td></tr></table></div></body></html>";
    }

    private static T Boundary<T>(T multipart, Dice dice)
        where T : Multipart
    {
        multipart.Boundary = $"=_{dice.Code("A9A9AA99A9A9A9")}";
        return multipart;
    }
}
