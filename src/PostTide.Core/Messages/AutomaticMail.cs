using System.Buffers;
using System.Collections.Immutable;

namespace PostTide.Core.Messages;

/// <summary>What kind of machine wrote or multiplied a message.</summary>
public enum AutomaticKind
{
    /// <summary>A delivery status notification or another notice from a mail host (RFC 3464).</summary>
    Bounce,

    /// <summary>An automatic answer, such as an absence notice (RFC 3834).</summary>
    AbsenceNotice,

    /// <summary>Mail that came through a mailing list (RFC 2919, RFC 2369).</summary>
    MailingList,

    /// <summary>Bulk mail that says so.</summary>
    Bulk,

    /// <summary>Other mail generated without a person (RFC 3834 <c>auto-generated</c>, RFC 8098 receipts).</summary>
    Generated,
}

/// <summary>One sign that a message is automatic, with the header field it was read from.</summary>
/// <param name="Kind">What it makes the message.</param>
/// <param name="Sign">The field and value, such as <c>Auto-Submitted: auto-replied</c>.</param>
public sealed record AutomaticMark(AutomaticKind Kind, string Sign);

/// <summary>A header field as received, its value unfolded.</summary>
public sealed record HeaderField(string Name, string Value);

/// <summary>Recognises automatic mail from its header fields, before anything else looks at it.</summary>
public static class AutomaticMail
{
    private static readonly SearchValues<char> WordEnds = SearchValues.Create(" ;(\t\r\n");
    private static readonly string[] MailSystemUsers = ["mailer-daemon", "postmaster", "mail-daemon", "mailerdaemon"];

    // Common practice, no source: subjects with which mail programs begin an absence notice.
    private static readonly string[] AbsenceSubjects =
    [
        "out of office", "automatic reply:", "auto-reply:", "autoreply:", "abwesenheitsnotiz", "automatische antwort:",
        "réponse automatique", "afwezigheidsbericht", "automatisch antwoord", "respuesta automática",
    ];

    /// <summary>
    /// The signs found, the strongest kind first. Sources: RFC 3834 §5 (Auto-Submitted), RFC 3464 and RFC 6522
    /// (multipart/report), RFC 2919 (List-Id), RFC 2369 (List-*), RFC 8098 (disposition notifications); Precedence and the
    /// names of mail systems are common practice, recorded in RFC 3834 §2 and §3.1.8.
    /// </summary>
    public static ImmutableArray<AutomaticMark> Recognise(
        IEnumerable<HeaderField> header, string mediaType, string? reportType, string? returnPath, EmailAddress from, string subject)
    {
        var marks = new List<AutomaticMark>();
        void Mark(AutomaticKind kind, string sign) => marks.Add(new AutomaticMark(kind, sign));

        if (mediaType.Equals("multipart/report", StringComparison.OrdinalIgnoreCase))
        {
            var receipt = string.Equals(reportType, "disposition-notification", StringComparison.OrdinalIgnoreCase);
            Mark(receipt ? AutomaticKind.Generated : AutomaticKind.Bounce, $"multipart/report; report-type={reportType}");
        }

        var user = SubAddress.Split(from.Address).User.ToLowerInvariant();
        if (MailSystemUsers.Contains(user))
        {
            Mark(AutomaticKind.Bounce, $"From: {from.Address}");
        }

        if (returnPath is "")
        {
            Mark(AutomaticKind.Bounce, "Return-Path: <>");
        }

        foreach (var (name, raw) in header)
        {
            var value = raw.Trim();
            switch (name.ToLowerInvariant())
            {
                case "auto-submitted" when Keyword(value) is var word && word.Length > 0 && word != "no":
                    Mark(word == "auto-replied" ? AutomaticKind.AbsenceNotice : AutomaticKind.Generated, $"Auto-Submitted: {word}");
                    break;
                case "list-id" or "list-post" or "list-help" or "list-subscribe" or "list-owner" or "list-archive":
                    Mark(AutomaticKind.MailingList, $"{name}: {value}");
                    break;
                case "list-unsubscribe":
                    Mark(AutomaticKind.Bulk, $"{name}: {value}");
                    break;
                case "precedence" when Keyword(value) is "bulk" or "junk" or "list":
                    Mark(Keyword(value) == "list" ? AutomaticKind.MailingList : AutomaticKind.Bulk, $"Precedence: {Keyword(value)}");
                    break;
                case "x-autoreply" or "x-autorespond" when value.Length > 0:
                    Mark(AutomaticKind.AbsenceNotice, $"{name}: {value}");
                    break;
            }
        }

        var start = subject.TrimStart();
        if (AbsenceSubjects.FirstOrDefault(s => start.StartsWith(s, StringComparison.OrdinalIgnoreCase)) is not null)
        {
            Mark(AutomaticKind.AbsenceNotice, $"Subject: {start}");
        }

        return [.. marks.DistinctBy(m => m.Kind).OrderBy(m => m.Kind)];
    }

    /// <summary>The first word of a structured field value, in lower case, without parameters or comments.</summary>
    private static string Keyword(string value)
    {
        var end = value.AsSpan().IndexOfAny(WordEnds);
        return (end < 0 ? value : value[..end]).ToLowerInvariant();
    }
}
