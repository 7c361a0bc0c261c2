using System.Net.Http.Json;
using System.Text.Json.Nodes;
using MailKit;
using MailKit.Net.Imap;
using MailKit.Security;
using MimeKit;
using PostTide.Peers;
using Shouldly;
using Xunit;

namespace PostTide.System.Tests.Peers;

/// <summary>The mail servers the connector is tried with: ours and Debian's Dovecot, each once rich and once with bare IMAP4rev1.</summary>
public enum PeerKind
{
    Practice,
    PoorPractice,
    Dovecot,
    PoorDovecot,
}

/// <summary>A mail server with mailboxes of its own.</summary>
public sealed class Peer(PeerKind kind, Office office, Dovecot? dovecot)
{
    public int Port => dovecot?.Port ?? office.ImapPort;

    public bool IsPoor => kind is PeerKind.PoorDovecot or PeerKind.PoorPractice;

    private string Password => dovecot is null ? StandIns.PracticeMailboxes.PracticeStore.Password : Dovecot.Password;

    /// <summary>Makes a mailbox nobody else uses.</summary>
    public async Task<Box> NewBoxAsync()
    {
        var user = $"box-{Guid.NewGuid():N}@peer.example";
        if (dovecot is not null)
        {
            dovecot.AddUser(user);
        }
        else
        {
            await office.StandIns.PostAsJsonAsync("/misbehaviour", new { poor = IsPoor });
            (await office.StandIns.PutAsync($"/mailboxes/{user}", null)).EnsureSuccessStatusCode();
        }

        return new Box(this, office, user, Password);
    }

    /// <summary>Has every message of a mailbox numbered anew.</summary>
    public async Task RenumberAsync(Box box)
    {
        if (dovecot is not null)
        {
            dovecot.Renumber(box.User);
        }
        else
        {
            (await office.StandIns.PostAsync($"/mailboxes/{box.User}/renumber", null)).EnsureSuccessStatusCode();
        }
    }
}

/// <summary>A mailbox on a peer, looked at from outside by a mail client of its own.</summary>
public sealed class Box(Peer peer, Office office, string user, string password)
{
    public string User => user;

    public long Id { get; private set; }

    /// <summary>The domain whose people write to this mailbox and to no other.</summary>
    public string Domain => user[4..36] + ".example";

    /// <summary>A message to this mailbox.</summary>
    public MimeMessage Mail(string subject)
    {
        var message = Office.Mail(subject, "A few words.\n", $"ada@{Domain}");
        message.MessageId = $"{Guid.NewGuid():N}@{Domain}";
        return message;
    }

    /// <summary>Connects the mailbox to Post Tide.</summary>
    public async Task ConnectAsync(Action<JsonObject>? change = null)
    {
        var mailbox = Office.Mailbox($"Box {user[..12]}", user);
        var connection = JsonNode.Parse(
            $$"""
            {"host":"127.0.0.1","port":{{peer.Port}},"tls":"None","user":"{{user}}","password":"{{password}}","folder":"INBOX","backDays":30,
             "oldMail":"Keep","markRead":false,"paceMinutes":15,"hours":null,"cap":null,"paused":false}
            """)!.AsObject();
        change?.Invoke(connection);
        mailbox["connection"] = connection;
        Id = await office.SaveMailboxAsync(mailbox, Id);
        await LookedAsync();
    }

    /// <summary>Waits until the mailbox was looked at and nothing waits.</summary>
    public Task LookedAsync() => Office.EventuallyAsync(async () =>
        await office.CountAsync($"SELECT count(*) FROM connections WHERE mailbox_id = {Id} AND last_look_at IS NOT NULL AND problem IS NULL") == 1);

    /// <summary>Has it looked at now, for servers that tell of nothing by themselves.</summary>
    public async Task LookAsync()
    {
        await office.PostAsync($"/api/setup/mailboxes/{Id}/look");
    }

    /// <summary>Waits until so many arrivals are planned, looking again where the server does not tell.</summary>
    public async Task PlannedAsync(int count)
    {
        await LookAsync();
        var waited = 0;
        await Office.EventuallyAsync(async () =>
        {
            if (++waited % 20 == 0)
            {
                await LookAsync();
            }

            return await CountAsync("state <> 'Arrived'") >= count;
        });
        (await CountAsync("true")).ShouldBe(count);
    }

    public Task<long> CountAsync(string where) => office.CountAsync($"SELECT count(*) FROM messages WHERE mailbox_id = {Id} AND {where}");

    /// <summary>Does something in the mailbox as another mail program would.</summary>
    public async Task<T> InsideAsync<T>(Func<ImapClient, IMailFolder, Task<T>> act)
    {
        using var client = new ImapClient();
        await client.ConnectAsync("127.0.0.1", peer.Port, SecureSocketOptions.None);
        await client.AuthenticateAsync(new SaslMechanismPlain(user, password));
        await client.Inbox!.OpenAsync(FolderAccess.ReadWrite);
        var result = await act(client, client.Inbox);
        await client.DisconnectAsync(quit: true);
        return result;
    }

    public Task<UniqueId?> AppendAsync(MimeMessage message, DateTimeOffset? at = null) =>
        InsideAsync((_, inbox) => inbox.AppendAsync(new AppendRequest(message, MessageFlags.None, at ?? DateTimeOffset.UtcNow)));
}

/// <summary>An office and all the peers, shared by the tests of the connector.</summary>
public sealed class Peers : IAsyncLifetime
{
    private Dovecot? _rich;
    private Dovecot? _poor;

    public Office Office { get; } = new();

    public async ValueTask InitializeAsync()
    {
        if (Dovecot.Missing is null)
        {
            (_rich, _poor) = (new Dovecot(), new Dovecot(poor: true));
        }

        await Office.InitializeAsync();
    }

    public async ValueTask DisposeAsync()
    {
        await Office.DisposeAsync();
        _rich?.Dispose();
        _poor?.Dispose();
    }

    public Peer Get(PeerKind kind)
    {
        if (kind is PeerKind.Dovecot or PeerKind.PoorDovecot)
        {
            Assert.SkipWhen(Dovecot.Missing is not null, Dovecot.Missing ?? "");
        }

        return new Peer(kind, Office, kind switch { PeerKind.Dovecot => _rich, PeerKind.PoorDovecot => _poor, _ => null });
    }
}

/// <summary>Tests that share the peers.</summary>
[CollectionDefinition(nameof(SharedPeers))]
public sealed class SharedPeers : ICollectionFixture<Peers>;
