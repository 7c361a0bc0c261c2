namespace PostTide.Core.Messages;

/// <summary>An address split at its detail part, as in RFC 5233: <c>user+detail@domain</c>.</summary>
/// <param name="User">The local part up to the first <c>+</c>.</param>
/// <param name="Detail">What stands after the first <c>+</c>; null when there is no <c>+</c>, empty when nothing follows it.</param>
/// <param name="Domain">What follows the last <c>@</c>, empty when there is none.</param>
public sealed record SubAddress(string User, string? Detail, string Domain)
{
    /// <summary>Splits an address. Never fails: text without <c>@</c> becomes the user part.</summary>
    public static SubAddress Split(string address)
    {
        var at = address.LastIndexOf('@');
        var local = at < 0 ? address : address[..at];
        var domain = at < 0 ? "" : address[(at + 1)..];
        var plus = local.IndexOf('+', StringComparison.Ordinal);
        return plus < 0
            ? new SubAddress(local, null, domain)
            : new SubAddress(local[..plus], local[(plus + 1)..], domain);
    }

    /// <summary>Whether mail to <paramref name="writtenTo"/> belongs to <paramref name="address"/>: the same, or a sub-address of it.</summary>
    public static bool Reaches(string writtenTo, string address)
    {
        if (string.Equals(writtenTo, address, StringComparison.OrdinalIgnoreCase))
        {
            return true;
        }

        var to = Split(writtenTo);
        var own = Split(address);
        return to.Detail is not null && own.Detail is null
            && string.Equals(to.User, own.User, StringComparison.OrdinalIgnoreCase)
            && string.Equals(to.Domain, own.Domain, StringComparison.OrdinalIgnoreCase);
    }
}
