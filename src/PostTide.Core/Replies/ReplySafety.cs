using PostTide.Core.Messages;
using PostTide.Core.Workflows;

namespace PostTide.Core.Replies;

/// <summary>Who may be answered automatically. The rules are those of RFC 3834 §2, stricter where it leaves a choice.</summary>
public static class ReplySafety
{
    // Common practice, no source: user names nobody reads.
    private static readonly string[] Unread =
        ["noreply", "no-reply", "no_reply", "donotreply", "do-not-reply", "do_not_reply", "nepasrepondre", "keine-antwort", "bounce", "bounces"];

    // RFC 3834 §2: addresses that "belong to a mailing list or a mail system".
    private static readonly string[] MailSystem = ["mailer-daemon", "postmaster", "listserv", "majordomo"];

    /// <summary>Why <paramref name="to"/> must not get an automatic reply to this message; null when it may.</summary>
    public static string? Refuse(PreparedMessage message, string to, PlanContext context)
    {
        if (message.Automatic.Length > 0)
        {
            return $"automatic mail is never answered ({message.Automatic[0].Sign})";
        }

        if (message.ReturnPath is "")
        {
            return "the return path is empty";
        }

        if (!IsPlainAddress(to))
        {
            return to.Length == 0 ? "there is no address to reply to" : "the address to reply to is not a valid one";
        }

        var parts = SubAddress.Split(to.ToLowerInvariant());
        if (Unread.Contains(parts.User) || parts.User.StartsWith("noreply", StringComparison.Ordinal)
            || parts.User.StartsWith("no-reply", StringComparison.Ordinal))
        {
            return "nobody reads mail to a no-reply address";
        }

        if (MailSystem.Contains(parts.User) || parts.User.StartsWith("owner-", StringComparison.Ordinal)
            || parts.User.EndsWith("-request", StringComparison.Ordinal))
        {
            return "the address belongs to a mail system or a list";
        }

        if (context.OurAddresses.Any(own => SubAddress.Reaches(to, own)))
        {
            return "the address is one of our own";
        }

        return context.DoNotMail.Contains(to.ToLowerInvariant()) || context.DoNotMail.Contains(parts.Domain)
            ? "the address is on the do-not-mail list"
            : null;
    }

    /// <summary>
    /// Whether an address is a plain one that can be written to: RFC 5321 §4.1.2 dot-string local part and a domain with a dot,
    /// letters of RFC 6531 allowed, within the limits of §4.5.3.1, and nothing that could end a header line.
    /// </summary>
    public static bool IsPlainAddress(string address)
    {
        if (address.Length > 254 || address.Any(c => char.IsControl(c) || char.IsWhiteSpace(c)))
        {
            return false;
        }

        var found = Text.AddressesInText.In(address, 0, address.Length).Take(1).ToList();
        return found.Count == 1 && found[0].Start == 0 && found[0].Length == address.Length
            && !address.Contains("..", StringComparison.Ordinal);
    }
}
