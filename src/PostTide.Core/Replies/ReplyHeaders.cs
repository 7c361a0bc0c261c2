using System.Collections.Immutable;
using PostTide.Core.Messages;
using PostTide.Core.Text;

namespace PostTide.Core.Replies;

/// <summary>The headers of a reply. Every value is one line: nothing taken from the answered message can add a header.</summary>
/// <param name="Subject">“Re: ” and the base subject (RFC 5322 §3.6.5).</param>
/// <param name="InReplyTo">The Message-ID answered, without angle brackets, or null when it had none.</param>
/// <param name="References">The answered message's references and its own id, oldest first (RFC 5322 §3.6.4).</param>
/// <param name="MessageId">The reply's own fixed id: the same deed always sends the same one.</param>
public sealed record ReplyHeaders(string Subject, string? InReplyTo, ImmutableArray<string> References, string MessageId)
{
    /// <summary>The field every automatic reply carries (RFC 3834 §3.1.7).</summary>
    public const string AutoSubmitted = "auto-replied";

    private const int MostReferences = 20;

    /// <summary>Makes the headers for the reply that deed <paramref name="deedKey"/> sends from <paramref name="domain"/>.</summary>
    public static ReplyHeaders For(PreparedMessage message, Guid deedKey, string domain)
    {
        var subject = BaseSubject.Of(CleanText.Line(message.Subject));
        var own = MessageIds.Bare(message.MessageId);

        // RFC 5322 §3.6.4 allows trimming; the first reference and the last ones keep the thread together.
        var chain = message.References.Where(r => r != own).ToList();
        var kept = chain.Count > MostReferences ? [chain[0], .. chain.TakeLast(MostReferences - 1)] : chain;
        return new ReplyHeaders(
            subject.Length == 0 ? "Re: your message" : $"Re: {subject}",
            own.Length == 0 ? null : own,
            own.Length == 0 ? [.. kept] : [.. kept, own],
            $"reply.{deedKey:N}@{domain}");
    }
}
