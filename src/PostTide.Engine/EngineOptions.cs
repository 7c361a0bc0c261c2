namespace PostTide.Engine;

/// <summary>How this installation runs. Bound from the section <c>PostTide</c> of the configuration.</summary>
public sealed class EngineOptions
{
    public const string Section = "PostTide";

    /// <summary>The connection string of the database.</summary>
    public string Database { get; set; } = "";

    /// <summary>The folder of saved attachments and other kept files.</summary>
    public string DataFolder { get; set; } = "data";

    /// <summary>The name of the office, as it stands in replies.</summary>
    public string OfficeName { get; set; } = "Post Tide";

    /// <summary>What ticket references begin with.</summary>
    public string TicketPrefix { get; set; } = "PT";

    /// <summary>The address the SMTP listener binds to, and its port; 0 for no listener.</summary>
    public string SmtpAddress { get; set; } = "127.0.0.1";
    public int SmtpPort { get; set; }

    /// <summary>The largest message taken, in bytes.</summary>
    public int LargestMessage { get; set; } = 30_000_000;

    /// <summary>The mail host outgoing mail is handed to.</summary>
    public string MailHost { get; set; } = "127.0.0.1";
    public int MailHostPort { get; set; } = 25;

    /// <summary>
    /// The waits between tries of an outside deed, in seconds; after the last one the deed is stuck. Empty for the usual ones
    /// (settings are added to what stands here, so the usual ones cannot).
    /// </summary>
    public double[] RetrySeconds { get; set; } = [];

    /// <summary>The waits in force: as set, or growing from five seconds to an hour.</summary>
    public IReadOnlyList<double> Waits => RetrySeconds.Length > 0 ? RetrySeconds : UsualWaits;

    /// <summary>The waits between tries of a mailbox that cannot be read, in seconds; the last one repeats. Empty for the usual ones.</summary>
    public double[] MailboxRetrySeconds { get; set; } = [];

    /// <summary>The waits in force for mailboxes.</summary>
    public IReadOnlyList<double> MailboxWaits => MailboxRetrySeconds.Length > 0 ? MailboxRetrySeconds : UsualMailboxWaits;

    private static readonly double[] UsualMailboxWaits = [5, 30, 120, 300, 900];
    private static readonly double[] UsualWaits = [5, 30, 120, 600, 3_600];
}
