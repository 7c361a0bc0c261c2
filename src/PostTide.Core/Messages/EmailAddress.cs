namespace PostTide.Core.Messages;

/// <summary>A display name and an address, the <c>mailbox</c> of RFC 5322 §3.4. Either part may be empty in hostile mail.</summary>
/// <param name="Name">The decoded display name, or an empty string.</param>
/// <param name="Address">The address as written, without angle brackets, or an empty string.</param>
public sealed record EmailAddress(string Name, string Address)
{
    /// <summary>An address that is missing altogether.</summary>
    public static readonly EmailAddress None = new("", "");

    /// <summary>The name and the address as a reader sees them; offsets of evidence about a sender point into this text.</summary>
    public string Shown => Name.Length == 0 ? Address : $"{Name} <{Address}>";

    /// <summary>The address in the form by which addresses are compared: lower case, as every mail host in practice does.</summary>
    public string Key => Address.ToLowerInvariant();

    /// <summary>What follows the @, lower case; the whole address where there is none.</summary>
    public string Domain => Key[(Key.LastIndexOf('@') + 1)..];

    public override string ToString() => Shown;
}
