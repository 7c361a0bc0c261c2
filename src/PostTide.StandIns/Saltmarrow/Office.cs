namespace PostTide.StandIns.Saltmarrow;

/// <summary>The mailboxes of the Saltmarrow Harbour Office: which lie on the practice mail server, and which addresses lead to them.</summary>
public static class Office
{
    /// <summary>A mailbox of the office.</summary>
    /// <param name="Name">As the office calls it.</param>
    /// <param name="User">The user on the mail server; null for a mailbox that mail only reaches by SMTP.</param>
    /// <param name="Addresses">Its addresses and what they are for.</param>
    public sealed record Box(string Name, string? User, IReadOnlyList<(string User, string For)> Addresses);

    public const string Domain = "saltmarrow.example";

    public static readonly IReadOnlyList<Box> Boxes =
    [
        new("Harbour office", "harbour@saltmarrow.example",
            [("harbour", "the office"), ("berths", "berth requests"), ("fuel", "fuel orders"), ("cargo", "cargo papers"), ("events", "permits for the quay")]),
        new("Plant room", null, [("plant", "fault notices of the monitoring system")]),
        new("Accounts", "accounts@saltmarrow.example", [("accounts", "invoices and statements")]),
    ];

    /// <summary>The user whose mailbox takes mail to an address; null when none on the mail server does.</summary>
    public static string? MailboxOf(string address) =>
        Boxes.FirstOrDefault(b => b.User is not null && b.Addresses.Any(a => address.Equals($"{a.User}@{Domain}", StringComparison.OrdinalIgnoreCase)))?.User;
}
