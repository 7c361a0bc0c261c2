using System.Collections.Immutable;
using System.Net;

namespace PostTide.Core.Messages;

/// <summary>One result of an Authentication-Results field (RFC 8601 §2.2).</summary>
/// <param name="Server">The authserv-id: the host that says it.</param>
/// <param name="Method">Such as <c>spf</c>, <c>dkim</c>, <c>dmarc</c>.</param>
/// <param name="Result">Such as <c>pass</c> or <c>fail</c>.</param>
/// <param name="Properties">What was checked, such as <c>header.from</c>, by <c>ptype.property</c>.</param>
/// <param name="Field">Which Authentication-Results field of the header it stands in, from 0 at the top.</param>
/// <param name="AboveReceived">Whether the field stands above the first Received field, where the receiving host puts it.</param>
public sealed record AuthenticationResult(
    string Server, string Method, string Result, ImmutableDictionary<string, string> Properties, int Field, bool AboveReceived)
{
    /// <summary>The result as a reader sees it.</summary>
    public string Says => $"{Server}: {Method}={Result}";
}

/// <summary>What becomes of an approved sender whom nothing vouches for.</summary>
public enum Unproved
{
    /// <summary>The message is held.</summary>
    Hold,

    /// <summary>It goes on, and the message says that the sender is not proved.</summary>
    LetThrough,
}

/// <summary>Who may write to a mailbox that takes only approved senders.</summary>
public sealed record ApprovalPolicy
{
    /// <summary>Addresses and bare domains, lower case. A domain stands for its subdomains too.</summary>
    public ImmutableHashSet<string> Approved { get; init; } = [];

    /// <summary>The authserv-ids whose results count: hosts of ours that take out forged ones (RFC 8601 §5).</summary>
    public ImmutableHashSet<string> TrustedServers { get; init; } = [];

    /// <summary>Connecting hosts that check their senders themselves: IP addresses or networks such as <c>10.0.0.0/8</c>.</summary>
    public ImmutableArray<string> TrustedHosts { get; init; } = [];

    public Unproved Unproved { get; init; } = Unproved.Hold;
}

/// <summary>Whether a message may go on, and the sentence that says why.</summary>
/// <param name="Holds">Whether it is kept back for a person.</param>
/// <param name="Proved">Whether somebody trusted vouches for the sender.</param>
/// <param name="Because">The reason, without a full stop.</param>
public sealed record Approval(bool Holds, bool Proved, string Because);

/// <summary>
/// Decides on approved senders. A From field can be forged by anybody, so that standing on the list is not enough: a trusted
/// host must have found that the mail comes from the sender's domain, or the host that handed it over must be trusted.
/// </summary>
public static class SenderApproval
{
    private static readonly string[] Methods = ["dmarc", "dkim", "spf"];

    /// <summary>The decision for one message.</summary>
    /// <param name="message">The message.</param>
    /// <param name="connectingHost">The address of the host that handed it over by SMTP; null when it was read from a mailbox.</param>
    /// <param name="policy">The mailbox's list.</param>
    public static Approval Decide(PreparedMessage message, string? connectingHost, ApprovalPolicy policy)
    {
        var from = message.From.Key;
        var domain = SubAddress.Split(from).Domain;
        if (from.Length == 0 || !IsApproved(from, domain, policy.Approved))
        {
            return new Approval(true, false, from.Length == 0 ? "it names no sender" : $"{from} is not an approved sender");
        }

        if (connectingHost is not null && IsTrusted(connectingHost, policy.TrustedHosts))
        {
            return new Approval(false, true, $"{from} is approved, and the trusted host {connectingHost} handed the message over");
        }

        var results = Counting(message.Authentication, policy.TrustedServers).ToList();
        if (results.FirstOrDefault(r => r.Method == "dmarc" && r.Result is "fail" or "permerror") is { } failed)
        {
            return new Approval(true, false, $"{from} is approved, but the message was not written there ({failed.Says})");
        }

        var proof = Methods.SelectMany(m => results.Where(r => r.Method == m)).FirstOrDefault(r => Proves(r, domain));
        return proof is not null
            ? new Approval(false, true, $"{from} is approved, and {proof.Says} vouches for {domain}")
            : new Approval(policy.Unproved == Unproved.Hold, false, $"{from} is approved, but nothing proves that the message was written there: {Lacking(results, policy)}");
    }

    /// <summary>
    /// The results to go by. A host writes its field at the top (RFC 8601 §4.1); below the first Received field only its topmost
    /// one counts, as whatever follows came with the message.
    /// </summary>
    public static IEnumerable<AuthenticationResult> Counting(ImmutableArray<AuthenticationResult> all, ImmutableHashSet<string> trusted)
    {
        var ours = all.Where(r => trusted.Contains(r.Server.ToLowerInvariant())).ToList();
        var above = ours.Where(r => r.AboveReceived).ToList();
        return above.Count > 0 ? above : ours.Where(r => r.Field == ours[0].Field);
    }

    private static bool Proves(AuthenticationResult result, string domain) => result is { Result: "pass" } && result.Method switch
    {
        "dmarc" => Aligned(result.Properties.GetValueOrDefault("header.from"), domain),
        "dkim" => Aligned(result.Properties.GetValueOrDefault("header.d") ?? DomainOf(result.Properties.GetValueOrDefault("header.i")), domain),
        "spf" => Aligned(DomainOf(result.Properties.GetValueOrDefault("smtp.mailfrom")), domain),
        _ => false,
    };

    /// <summary>The same domain, or a parent of it that is more than a bare ending.</summary>
    private static bool Aligned(string? vouched, string domain) => vouched is { Length: > 0 }
        && (string.Equals(vouched, domain, StringComparison.OrdinalIgnoreCase)
            || (vouched.Contains('.', StringComparison.Ordinal) && domain.EndsWith("." + vouched, StringComparison.OrdinalIgnoreCase)));

    private static string? DomainOf(string? address) => address?[(address.LastIndexOf('@') + 1)..];

    private static bool IsApproved(string from, string domain, ImmutableHashSet<string> approved)
    {
        if (approved.Contains(from))
        {
            return true;
        }

        for (var rest = domain; rest.Contains('.', StringComparison.Ordinal); rest = rest[(rest.IndexOf('.', StringComparison.Ordinal) + 1)..])
        {
            if (approved.Contains(rest))
            {
                return true;
            }
        }

        return false;
    }

    private static bool IsTrusted(string host, ImmutableArray<string> trusted)
    {
        if (!IPAddress.TryParse(host, out var address))
        {
            return false;
        }

        address = address.IsIPv4MappedToIPv6 ? address.MapToIPv4() : address;
        return trusted.Any(t => IPNetwork.TryParse(t, out var network) ? network.Contains(address) : IPAddress.TryParse(t, out var one) && one.Equals(address));
    }

    private static string Lacking(List<AuthenticationResult> results, ApprovalPolicy policy) =>
        results.Count > 0 ? string.Join(", ", results.Select(r => r.Says).Distinct())
        : policy.TrustedServers.IsEmpty && policy.TrustedHosts.IsEmpty ? "no host is trusted yet"
        : "no trusted host says anything about it";
}
