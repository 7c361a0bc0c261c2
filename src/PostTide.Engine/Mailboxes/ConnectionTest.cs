using System.Diagnostics;
using PostTide.Mail.Imap;

namespace PostTide.Engine.Mailboxes;

/// <summary>One step of a connection test.</summary>
/// <param name="Step">Which step.</param>
/// <param name="Ok">Whether it went well; null when it was not come to.</param>
/// <param name="Says">What happened, in a sentence.</param>
public sealed record TestedStep(ConnectStep Step, bool? Ok, string Says);

/// <summary>What a connection test found.</summary>
/// <param name="Ok">Whether every step went well.</param>
/// <param name="Steps">The steps in order.</param>
/// <param name="ServerSaid">The server's own words behind a failure.</param>
/// <param name="Pushes">Whether the server tells of new mail by itself (IDLE).</param>
/// <param name="Messages">How many messages lie in the folder.</param>
/// <param name="Folders">The folders there are, for choosing.</param>
/// <param name="Milliseconds">How long it took.</param>
public sealed record ConnectionTestResult(
    bool Ok, IReadOnlyList<TestedStep> Steps, string ServerSaid, bool Pushes, int Messages, IReadOnlyList<string> Folders, double Milliseconds);

/// <summary>Tries a connection out before it is saved. Nothing in the mailbox is changed.</summary>
public static class ConnectionTest
{
    public static async Task<ConnectionTestResult> RunAsync(ImapAccount account, CancellationToken stop)
    {
        var clock = Stopwatch.StartNew();
        try
        {
            await using var session = await ImapConnector.OpenAsync(account, write: false, stop);
            var folders = await session.FoldersAsync(stop);
            return new ConnectionTestResult(
                true, [.. Enum.GetValues<ConnectStep>().Select(s => new TestedStep(s, true, Says(s, account)))], "", session.CanIdle, session.Count, folders,
                clock.Elapsed.TotalMilliseconds);
        }
        catch (MailboxTroubleException e)
        {
            return new ConnectionTestResult(
                false,
                [.. Enum.GetValues<ConnectStep>().Select(s => s < e.Step ? new TestedStep(s, true, Says(s, account)) : s == e.Step ? new TestedStep(s, false, e.Message + ".") : new TestedStep(s, null, "Not come to."))],
                e.ServerSaid, false, 0, [], clock.Elapsed.TotalMilliseconds);
        }
    }

    private static string Says(ConnectStep step, ImapAccount account) => step switch
    {
        ConnectStep.Name => $"{account.Host} is known.",
        ConnectStep.Port => $"Something answers at port {account.Port}.",
        ConnectStep.Tls => account.Tls == MailTls.None ? "It greets like an IMAP server. The password crosses the network readable: use this on this machine only." : "The connection is private.",
        ConnectStep.SignIn => $"{account.User} is signed in.",
        _ => $"“{account.Folder}” is there.",
    };
}
