using MimeKit;
using PostTide.Core.Replies;

namespace PostTide.Mail;

/// <summary>A reply ready to be written as mail.</summary>
public sealed record OutgoingReply(
    string From, string FromName, string To, string Subject, string Body, string MailId, string? InReplyTo,
    IReadOnlyList<string> References, bool Automatic, string? AttachmentName, byte[]? Attachment);

/// <summary>Writes replies as mail. MimeKit folds and encodes, so that no value can begin a header line of its own.</summary>
public static class ReplyMail
{
    /// <summary>The message for a reply; the same reply always has the same Message-ID.</summary>
    public static MimeMessage Write(OutgoingReply reply, DateTimeOffset now)
    {
        var message = new MimeMessage();
        message.From.Add(new MailboxAddress(reply.FromName, reply.From));
        message.To.Add(new MailboxAddress("", reply.To));
        message.Subject = reply.Subject;
        message.Date = now;
        message.MessageId = reply.MailId;
        if (reply.InReplyTo is { } answered)
        {
            message.InReplyTo = answered;
        }

        message.References.AddRange(reply.References);
        if (reply.Automatic)
        {
            message.Headers.Add(HeaderId.AutoSubmitted, ReplyHeaders.AutoSubmitted);
        }

        var builder = new BodyBuilder { TextBody = reply.Body };
        if (reply is { AttachmentName: { } name, Attachment: { } bytes })
        {
            builder.Attachments.Add(name, bytes);
        }

        message.Body = builder.ToMessageBody();
        return message;
    }
}
