using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using PostTide.Core.Messages;
using PostTide.Core.Time;
using PostTide.Engine.Deeds;
using PostTide.Engine.Mailboxes;
using PostTide.Mail.Imap;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Server.Places;

/// <summary>An address that delivers into a mailbox, and what it is for.</summary>
public sealed record AddressSetup(string Address, string Name);

/// <summary>How a mailbox is connected.</summary>
/// <param name="Host">The name of the server.</param>
/// <param name="Port">Its port.</param>
/// <param name="Tls">How the connection is made private.</param>
/// <param name="User">The user name.</param>
/// <param name="Password">Given when it is set or changed, never given back; null keeps the one there is.</param>
/// <param name="Folder">The folder that is read.</param>
/// <param name="BackDays">How many days back mail is read that was there before; only used when the mailbox is connected.</param>
/// <param name="OldMail">What becomes of that mail.</param>
/// <param name="MarkRead">Whether messages are marked as read when they were taken.</param>
/// <param name="PaceMinutes">Minutes between looks where the server does not tell of new mail.</param>
/// <param name="Hours">When it is looked at; null for always.</param>
/// <param name="Cap">The most messages a look takes; null for no limit.</param>
/// <param name="Paused">Not looked at for now.</param>
public sealed record ConnectionSetup(
    string Host, int Port, ConnectionTls Tls, string User, string? Password, string Folder, int BackDays, OldMail OldMail, bool MarkRead, int PaceMinutes,
    LookHours? Hours, int? Cap, bool Paused);

/// <summary>Who may write to a mailbox.</summary>
/// <param name="Approved">Addresses and domains.</param>
/// <param name="TrustedServers">Hosts whose Authentication-Results count.</param>
/// <param name="TrustedHosts">IP addresses or networks that may hand mail over for approved senders.</param>
/// <param name="Unproved">What becomes of an approved sender nothing vouches for.</param>
public sealed record ApprovalSetup(
    IReadOnlyList<string> Approved, IReadOnlyList<string> TrustedServers, IReadOnlyList<string> TrustedHosts, Unproved Unproved);

/// <summary>How a connected mailbox is doing.</summary>
public sealed record MailboxHealth(
    DateTimeOffset? LastLookAt, DateTimeOffset? NextLookAt, int Behind, bool Pushed, bool Paused, string? Problem, string? Detail, DateTimeOffset? ProblemSince, int Failures)
{
    public static MailboxHealth Of(Connection c) =>
        new(c.LastLookAt, c.NextLookAt, c.Behind, c.Pushed, c.Paused, c.Problem, c.ProblemDetail, c.ProblemSince, c.Failures);
}

/// <summary>A mailbox: its addresses, its connection, and who may write to it.</summary>
public sealed record MailboxSetup(
    long Id, string Name, IReadOnlyList<AddressSetup> Addresses, ConnectionSetup? Connection, ApprovalSetup? Approval, MailboxHealth? Health)
{
    public static MailboxSetup Of(Mailbox m) => new(
        m.Id, m.Name, [.. m.Addresses.OrderBy(a => a.Id).Select(a => new AddressSetup(a.Address, a.Name))],
        m.Connection is { } c
            ? new ConnectionSetup(
                c.Host, c.Port, c.Tls, c.User, null, c.Folder, (int)Math.Max(0, (c.ConnectedAt - c.Since).TotalDays), c.OldMail, c.MarkRead, c.PaceMinutes, c.Hours, c.Cap, c.Paused)
            : null,
        m.Approval is { } a ? new ApprovalSetup([.. a.Approved.Order()], [.. a.TrustedServers.Order()], a.TrustedHosts, a.Unproved) : null,
        m.Connection is { } health ? MailboxHealth.Of(health) : null);
}

/// <summary>A connection to try out; the kept password of a mailbox is used when none is given.</summary>
public sealed record ConnectionTestRequest(long? MailboxId, string Host, int Port, ConnectionTls Tls, string User, string? Password, string Folder);

/// <summary>A pace and a cap to hold against a mailbox's history.</summary>
public sealed record PaceRequest(int PaceMinutes, LookHours? Hours, int? Cap);

/// <summary>Mailboxes as set up: addresses, the IMAP connection, approved senders.</summary>
internal static class MailboxesPlace
{
    private const int HistoryDays = 90;
    private const int MostArrivals = 500_000;
    private static readonly TimeSpan TestTimeout = TimeSpan.FromSeconds(30);

    public static void MapMailboxes(this RouteGroupBuilder api)
    {
        var keeper = api.MapGroup("/setup").WithTags("Mailboxes").RequireAuthorization(Permissions.Keeper);
        keeper.MapPut("/mailboxes/{id:long}", SaveAsync).AddEndpointFilter<Validated<MailboxSetup>>();
        keeper.MapDelete("/mailboxes/{id:long}", (long id, Saver saver, CancellationToken stop) => saver.RemoveAsync<Mailbox>(id, "mailbox", stop));
        keeper.MapPost("/connection-test", TestAsync);
        keeper.MapPost("/mailboxes/{id:long}/look", LookNowAsync);
        keeper.MapPost("/mailboxes/{id:long}/pace", AdviseAsync);
    }

    /// <summary>All mailboxes, in order.</summary>
    public static async Task<List<MailboxSetup>> ReadAsync(PostTideContext db, CancellationToken stop) =>
        (await db.Mailboxes.AsNoTracking().Include(m => m.Addresses).Include(m => m.Connection).OrderBy(m => m.Id).ToListAsync(stop)).ConvertAll(MailboxSetup.Of);

    private static async Task<long> SaveAsync(long id, MailboxSetup request, Saver saver, MailboxSecrets secrets, TimeProvider clock, CancellationToken stop)
    {
        var mailbox = await saver.FindOrAddAsync(id, () => new Mailbox { Name = "" }, stop);
        await saver.Db.Addresses.Where(a => a.MailboxId == id).LoadAsync(stop);
        await saver.Db.Connections.Where(c => c.MailboxId == id).LoadAsync(stop);
        mailbox.Name = request.Name.Trim();
        SaveAddresses(mailbox, request.Addresses);
        mailbox.Approval = request.Approval is { } a
            ? new ApprovalPolicy
            {
                Approved = Set(a.Approved),
                TrustedServers = Set(a.TrustedServers),
                TrustedHosts = [.. a.TrustedHosts.Select(h => h.Trim()).Where(h => h.Length > 0).Distinct()],
                Unproved = a.Unproved,
            }
            : null;
        SaveConnection(saver.Db, mailbox, request.Connection, secrets, clock.GetUtcNow());
        await saver.SaveAsync($"Saved the mailbox “{mailbox.Name}”", stop);
        return mailbox.Id;
    }

    private static void SaveAddresses(Mailbox mailbox, IReadOnlyList<AddressSetup> addresses)
    {
        var wanted = addresses.Select(a => (Address: a.Address.Trim().ToLowerInvariant(), Name: a.Name.Trim())).DistinctBy(a => a.Address).ToList();
        mailbox.Addresses.RemoveAll(a => wanted.All(w => w.Address != a.Address));
        foreach (var (address, name) in wanted)
        {
            if (mailbox.Addresses.Find(a => a.Address == address) is { } kept)
            {
                kept.Name = name;
            }
            else
            {
                mailbox.Addresses.Add(new MailboxAddress { Address = address, Name = name });
            }
        }
    }

    /// <summary>Another server, user or folder is another mailbox: it is read from the beginning.</summary>
    private static void SaveConnection(PostTideContext db, Mailbox mailbox, ConnectionSetup? setup, MailboxSecrets secrets, DateTimeOffset now)
    {
        if (setup is null)
        {
            if (mailbox.Connection is { } gone)
            {
                db.Remove(gone);
            }

            return;
        }

        var kept = mailbox.Connection;
        if (kept is null && string.IsNullOrEmpty(setup.Password))
        {
            throw new RefusedException("A mailbox needs a password to be connected. Nothing was saved.");
        }

        var elsewhere = kept is null || !Same(kept.Host, setup.Host) || kept.Port != setup.Port || kept.User != setup.User.Trim() || kept.Folder != FolderOf(setup.Folder);
        var connection = kept ?? new Connection { Host = "", User = "", ProtectedPassword = "", Folder = "" };
        if (kept is null)
        {
            mailbox.Connection = connection;
            connection.MailboxId = mailbox.Id;
        }

        (connection.Host, connection.Port, connection.Tls, connection.User, connection.Folder) =
            (setup.Host.Trim(), setup.Port, setup.Tls, setup.User.Trim(), FolderOf(setup.Folder));
        (connection.OldMail, connection.MarkRead, connection.PaceMinutes, connection.Hours, connection.Cap, connection.Paused) =
            (setup.OldMail, setup.MarkRead, setup.PaceMinutes, setup.Hours, setup.Cap, setup.Paused);
        if (!string.IsNullOrEmpty(setup.Password))
        {
            connection.ProtectedPassword = secrets.Protect(setup.Password);
        }

        if (elsewhere)
        {
            (connection.ConnectedAt, connection.Since) = (now, now.AddDays(-setup.BackDays));
            (connection.UidValidity, connection.LastUid, connection.FirstNewUid, connection.RecogniseUpTo) = (0, 0, 0, 0);
            (connection.LastLookAt, connection.Behind) = (null, 0);
        }

        (connection.Problem, connection.ProblemDetail, connection.ProblemSince, connection.Failures, connection.NextLookAt) = (null, null, null, 0, null);
        connection.Revision++;
    }

    private static bool Same(string a, string b) => string.Equals(a, b.Trim(), StringComparison.OrdinalIgnoreCase);

    private static string FolderOf(string folder) => folder.Trim().Equals("inbox", StringComparison.OrdinalIgnoreCase) ? "INBOX" : folder.Trim();

    private static ImmutableHashSet<string> Set(IReadOnlyList<string> values) => [.. values.Select(v => v.Trim().ToLowerInvariant()).Where(v => v.Length > 0)];

    private static async Task<ConnectionTestResult> TestAsync(ConnectionTestRequest request, MailboxSecrets secrets, PostTideContext db, CancellationToken stop)
    {
        using var limit = CancellationTokenSource.CreateLinkedTokenSource(stop);
        limit.CancelAfter(TestTimeout);
        var password = request.Password ?? "";
        if (password.Length == 0 && request.MailboxId is { } id && await db.Connections.AsNoTracking().SingleOrDefaultAsync(c => c.MailboxId == id, stop) is { } kept)
        {
            // The kept password goes only to the server it was entered for.
            if (!Same(kept.Host, request.Host) || kept.Port != request.Port)
            {
                throw new RefusedException("The server has changed, so the password has to be entered again before it is tried there.");
            }

            password = secrets.AccountOf(kept).Password;
        }

        return await ConnectionTest.RunAsync(
            new ImapAccount(request.Host.Trim(), request.Port, MailboxSecrets.TlsOf(request.Tls), request.User.Trim(), password, FolderOf(request.Folder)), limit.Token);
    }

    private static async Task LookNowAsync(long id, PostTideContext db, TimeProvider clock, CancellationToken stop)
    {
        var now = clock.GetUtcNow();
        if (await db.Connections.Where(c => c.MailboxId == id && !c.Paused).ExecuteUpdateAsync(s => s.SetProperty(c => c.NextLookAt, now), stop) == 0)
        {
            throw new RefusedException("This mailbox is not connected, or is paused.");
        }
    }

    private static async Task<PaceAdvice> AdviseAsync(long id, PaceRequest request, PostTideContext db, TimeProvider clock, CancellationToken stop)
    {
        var now = clock.GetUtcNow();
        var since = now.AddDays(-HistoryDays);
        var arrivals = await db.Messages.AsNoTracking().Where(m => m.MailboxId == id && m.ArrivedAt >= since).OrderBy(m => m.ArrivedAt)
            .Take(MostArrivals).Select(m => m.ArrivedAt).ToListAsync(stop);
        var from = arrivals.Count == 0 ? now : arrivals[0];
        return PaceAdvice.Of(
            arrivals.ConvertAll(Instant.FromDateTimeOffset), Instant.FromDateTimeOffset(from), Instant.FromDateTimeOffset(now),
            new Pace(Math.Clamp(request.PaceMinutes, 1, 1_440), request.Hours?.Read()), request.Cap);
    }
}
