using System.Net;
using System.Net.Sockets;
using System.Text;
using Microsoft.Extensions.Logging.Abstractions;
using PostTide.Peers;
using PostTide.StandIns.PracticeMailboxes;
using Shouldly;
using Xunit;

namespace PostTide.System.Tests;

/// <summary>The practice mail server spoken to by hand, with the commands and answers of RFC 3501 and its extensions.</summary>
public sealed class PracticeServerTests : IAsyncLifetime
{
    private const string User = "anna@example.test";
    private static readonly byte[] Mail = Encoding.ASCII.GetBytes("From: a@b.example\r\nSubject: One\r\nMessage-ID: <one@b.example>\r\n\r\nHello\r\n");
    private readonly string _folder = Directory.CreateTempSubdirectory("practice-").FullName;
    private readonly Misbehaviour _wrong = new();
    private readonly int _port = Ports.Free();
    private PracticeStore _store = null!;
    private ImapListener _listener = null!;

    public async ValueTask InitializeAsync()
    {
        _store = new PracticeStore(_folder);
        _store.Deliver(User, [(Mail, new DateTimeOffset(2026, 11, 3, 9, 0, 0, TimeSpan.Zero)), (Mail, new DateTimeOffset(2026, 11, 5, 9, 0, 0, TimeSpan.Zero))]);
        _listener = new ImapListener(_port, _store, _wrong, NullLogger<ImapListener>.Instance);
        await _listener.StartAsync(CancellationToken.None);
        await Office.EventuallyAsync(async () =>
        {
            using var client = new TcpClient();
            await client.ConnectAsync(IPAddress.Loopback, _port);
            return true;
        });
    }

    public async ValueTask DisposeAsync()
    {
        await _listener.StopAsync(CancellationToken.None);
        _listener.Dispose();
        Directory.Delete(_folder, recursive: true);
    }

    /// <summary>Says lines and gives everything the server answered up to the last tagged answer.</summary>
    private async Task<string> SayAsync(params string[] lines)
    {
        using var client = new TcpClient();
        await client.ConnectAsync(IPAddress.Loopback, _port);
        using var reader = new StreamReader(client.GetStream(), Encoding.ASCII);
        await using var writer = new StreamWriter(client.GetStream(), Encoding.ASCII) { NewLine = "\r\n", AutoFlush = true };
        var heard = new StringBuilder();
        heard.AppendLine(await reader.ReadLineAsync());
        for (var i = 0; i < lines.Length; i++)
        {
            await writer.WriteLineAsync($"t{i} {lines[i]}");
            string? line;
            do
            {
                heard.AppendLine(line = await reader.ReadLineAsync());
            }
            while (line is not null && !line.StartsWith($"t{i} ", StringComparison.Ordinal) && !line.StartsWith("* BAD", StringComparison.Ordinal));
        }

        return heard.ToString();
    }

    private Task<string> InsideAsync(params string[] lines) => SayAsync([$"LOGIN {User} {PracticeStore.Password}", "SELECT INBOX", .. lines]);

    [Fact]
    public async Task It_greets_with_its_capabilities_and_refuses_a_wrong_password()
    {
        var heard = await SayAsync($"LOGIN {User} wrong", "SELECT INBOX");
        heard.ShouldContain("* OK [CAPABILITY IMAP4rev1 ");
        heard.ShouldContain("t0 NO [AUTHENTICATIONFAILED]");
        heard.ShouldContain("t1 NO sign in first");
    }

    [Fact]
    public async Task A_folder_is_selected_with_its_numbers()
    {
        var heard = await InsideAsync();
        heard.ShouldContain("* 2 EXISTS");
        heard.ShouldContain("* OK [UIDNEXT 3]");
        heard.ShouldContain("* OK [UIDVALIDITY ");
        heard.ShouldContain("t1 OK [READ-WRITE]");
        (await SayAsync($"LOGIN {User} {PracticeStore.Password}", "EXAMINE INBOX", "UID STORE 1 +FLAGS (\\Seen)")).ShouldContain("t2 NO the folder was opened for reading only");
    }

    [Theory]
    [InlineData("UID SEARCH ALL", "* SEARCH 1 2")]
    [InlineData("UID SEARCH UID 2:*", "* SEARCH 2")]
    [InlineData("UID SEARCH UID 9:*", "* SEARCH 2")] // RFC 3501 §6.4.8: “*” is the last message, on whichever side
    [InlineData("UID SEARCH SINCE 5-Nov-2026", "* SEARCH 2")]
    [InlineData("UID SEARCH BEFORE 5-Nov-2026", "* SEARCH 1")]
    [InlineData("UID SEARCH ON 3-Nov-2026", "* SEARCH 1")]
    [InlineData("UID SEARCH NOT SEEN", "* SEARCH 1 2")]
    [InlineData("UID SEARCH OR UID 1 SEEN", "* SEARCH 1")]
    [InlineData("UID SEARCH (SUBJECT one UNSEEN) 1", "* SEARCH 1")]
    [InlineData("UID SEARCH HEADER Message-ID one@b.example", "* SEARCH 1 2")]
    [InlineData("UID SEARCH TEXT nowhere", "* SEARCH")]
    [InlineData("UID SEARCH KEYWORD none", "* SEARCH")]
    public async Task It_searches(string command, string answer) => (await InsideAsync(command)).Split('\n').Select(l => l.Trim()).ShouldContain(answer);

    [Fact]
    public async Task It_fetches_literals_whole_and_marks_only_what_is_not_peeked_at()
    {
        var heard = await InsideAsync("UID FETCH 1 (INTERNALDATE RFC822.SIZE BODY.PEEK[])", "UID FETCH 1 (FLAGS)", "UID FETCH 1 (BODY[])", "UID FETCH 1 (FLAGS)");
        heard.ShouldContain($"RFC822.SIZE {Mail.Length}");
        heard.ShouldContain("INTERNALDATE \"03-Nov-2026 09:00:00 +0000\"");
        heard.ShouldContain($"BODY[] {{{Mail.Length}}}");
        heard.ShouldContain("FLAGS () UID 1)");
        heard.ShouldContain("FLAGS (\\Seen) UID 1)");
    }

    [Fact]
    public async Task Flags_and_moves_are_kept_over_a_restart()
    {
        var heard = await InsideAsync("UID STORE 1 +FLAGS (\\Flagged harbour)", "UID MOVE 1 Archive", "UID SEARCH ALL");
        heard.ShouldContain("* OK [COPYUID ");
        heard.ShouldContain("* 1 EXPUNGE");
        var again = new PracticeStore(_folder);
        again.OpenAll();
        again.Find(User, "INBOX")!.Messages.Select(m => m.Uid).ShouldBe([2u]);
        again.Find(User, "INBOX")!.UidNext.ShouldBe(3u);
        again.Find(User, "Archive")!.Messages.Single().Flags.ShouldBe(["\\Flagged", "harbour"], ignoreOrder: true);
        again.Find(User, "INBOX")!.UidValidity.ShouldBe(_store.Find(User, "INBOX")!.UidValidity);
    }

    [Fact]
    public async Task A_renumbered_folder_has_another_validity_and_sends_its_clients_away()
    {
        var before = _store.Find(User, "INBOX")!.UidValidity;
        _store.Renumber(User);
        _store.Find(User, "INBOX")!.UidValidity.ShouldBeGreaterThan(before);
        (await InsideAsync("UID SEARCH ALL")).ShouldContain("* SEARCH 1 2");
    }

    [Theory]
    [InlineData("NONSENSE", "BAD NONSENSE is not known here")]
    [InlineData("UID FETCH 1 (BODY[1.2.3])", "BAD BODY[1.2.3] cannot be fetched here")]
    [InlineData("UID SEARCH FROM", "BAD a search lacks its value")]
    [InlineData("UID SEARCH SINCE yesterday", "BAD yesterday is not a date")]
    [InlineData("UID FETCH x (FLAGS)", "BAD x is not a number")]
    [InlineData("UID MOVE 1 Nowhere", "NO [TRYCREATE]")]
    [InlineData("SELECT Nowhere", "NO [NONEXISTENT]")]
    [InlineData("SEARCH (((", "BAD a bracket is not closed")]
    [InlineData("UID STORE 1", "BAD an argument is missing")]
    public async Task What_cannot_be_is_answered_with_a_reason(string command, string answer) => (await InsideAsync(command)).ShouldContain(answer);

    [Fact]
    public async Task Told_to_be_poor_it_offers_nothing_but_the_bare_protocol()
    {
        _wrong.Poor = true;
        var heard = await InsideAsync("UID MOVE 1 Archive");
        heard.ShouldNotContain("IDLE");
        heard.ShouldContain("t2 BAD");
    }

    [Fact]
    public async Task Told_to_refuse_it_says_goodbye()
    {
        _wrong.Refuses = true;
        using var client = new TcpClient();
        await client.ConnectAsync(IPAddress.Loopback, _port);
        using var reader = new StreamReader(client.GetStream());
        (await reader.ReadToEndAsync()).ShouldStartWith("* BYE");
    }
}
