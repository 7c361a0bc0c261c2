using System.Text.Json.Nodes;
using MailKit;
using MailKit.Search;
using PostTide.System.Tests.Peers;
using Shouldly;
using Xunit;

namespace PostTide.System.Tests;

/// <summary>
/// The connector against four servers: the practice mail server and Debian's Dovecot, each rich and with bare IMAP4rev1
/// (RFC 3501). What holds for one holds for all, so that it is tuned to none.
/// </summary>
[Collection(nameof(SharedPeers))]
public sealed class ConnectorTests(Peers.Peers peers)
{
    private readonly Office _office = peers.Office;

    public static TheoryData<PeerKind> All => [.. Enum.GetValues<PeerKind>()];

    [Theory]
    [MemberData(nameof(All))]
    public async Task Mail_that_was_there_is_kept_and_mail_that_comes_is_planned_and_read_marks_stay(PeerKind kind)
    {
        var box = await peers.Get(kind).NewBoxAsync();
        await box.AppendAsync(box.Mail("There before"), DateTimeOffset.UtcNow.AddDays(-3));
        await box.AppendAsync(box.Mail("Too long ago"), DateTimeOffset.UtcNow.AddDays(-90));
        await box.ConnectAsync();
        await box.PlannedAsync(1);
        (await box.CountAsync("old AND NOT taken_in AND subject = 'There before'")).ShouldBe(1);

        await box.AppendAsync(box.Mail("Came after"));
        await box.PlannedAsync(2);
        (await box.CountAsync("NOT old AND subject = 'Came after' AND EXISTS (SELECT 1 FROM plans p WHERE p.message_id = messages.id AND p.verdicts::text LIKE '%workflowId%')")).ShouldBe(1);
        (await box.InsideAsync((_, inbox) => inbox.SearchAsync(SearchQuery.NotSeen))).Count.ShouldBe(3, "read marks stay untouched");
    }

    [Theory]
    [MemberData(nameof(All))]
    public async Task Messages_are_marked_read_where_that_is_wanted(PeerKind kind)
    {
        var box = await peers.Get(kind).NewBoxAsync();
        await box.AppendAsync(box.Mail("To be marked"));
        await box.ConnectAsync(c => c["markRead"] = true);
        await box.PlannedAsync(1);
        (await box.InsideAsync((_, inbox) => inbox.SearchAsync(SearchQuery.Seen))).Count.ShouldBe(1);
    }

    [Theory]
    [MemberData(nameof(All))]
    public async Task Nothing_is_missed_or_taken_twice_whatever_is_flagged_moved_and_expunged_meanwhile(PeerKind kind)
    {
        var box = await peers.Get(kind).NewBoxAsync();
        await box.ConnectAsync(c => c["paused"] = false);
        var dice = new Random(1894);
        var expected = new HashSet<string>();
        for (var round = 0; round < 6; round++)
        {
            for (var i = 0; i < 4; i++)
            {
                var subject = $"r{round} m{i}";
                expected.Add(subject);
                await box.AppendAsync(box.Mail(subject));
            }

            await box.PlannedAsync(expected.Count);
            await box.InsideAsync(async (client, inbox) =>
            {
                var all = await inbox.SearchAsync(SearchQuery.All);
                foreach (var uid in all.OrderBy(_ => dice.Next()).Take(3))
                {
                    await inbox.StoreAsync(uid, new StoreFlagsRequest(StoreAction.Add, dice.Next(2) == 0 ? MessageFlags.Seen : MessageFlags.Flagged));
                }

                var moved = all[dice.Next(all.Count)];
                var folder = await TargetAsync(client);
                await inbox.CopyToAsync(moved, folder);
                await inbox.StoreAsync(moved, new StoreFlagsRequest(StoreAction.Add, MessageFlags.Deleted));
                await inbox.ExpungeAsync();
                return true;
            });
        }

        // A message that is moved away and back again has a new place and is the same message.
        await box.InsideAsync(async (client, inbox) =>
        {
            var uid = (await inbox.SearchAsync(SearchQuery.All))[0];
            await inbox.CopyToAsync(uid, inbox);
            await inbox.StoreAsync(uid, new StoreFlagsRequest(StoreAction.Add, MessageFlags.Deleted));
            await inbox.ExpungeAsync();
            return true;
        });
        await box.PlannedAsync(expected.Count + 1);
        (await box.CountAsync("duplicate_of_id IS NOT NULL")).ShouldBe(1);
        (await _office.CountAsync($"SELECT count(DISTINCT subject) FROM messages WHERE mailbox_id = {box.Id}")).ShouldBe(expected.Count);
    }

    private static async Task<IMailFolder> TargetAsync(MailKit.Net.Imap.ImapClient client)
    {
        var root = await client.GetFolderAsync(client.PersonalNamespaces[0].Path);
        try
        {
            return await root.GetSubfolderAsync("Elsewhere");
        }
        catch (FolderNotFoundException)
        {
            return (await root.CreateAsync("Elsewhere", isMessageFolder: true))!;
        }
    }

    [Theory]
    [MemberData(nameof(All))]
    public async Task When_the_folder_is_numbered_anew_every_message_is_recognised_and_new_ones_are_found(PeerKind kind)
    {
        var peer = peers.Get(kind);
        var box = await peer.NewBoxAsync();
        await box.ConnectAsync();
        for (var i = 0; i < 5; i++)
        {
            await box.AppendAsync(box.Mail($"Before {i}"));
        }

        var twin = box.Mail("Without a number");
        twin.Headers.Remove("Message-ID");
        await box.AppendAsync(twin);
        await box.PlannedAsync(6);
        var validity = await _office.CountAsync($"SELECT uid_validity FROM connections WHERE mailbox_id = {box.Id}");
        await peer.RenumberAsync(box);
        await box.AppendAsync(box.Mail("After"));
        await Office.EventuallyAsync(async () =>
        {
            await box.LookAsync();
            return await _office.CountAsync($"SELECT uid_validity FROM connections WHERE mailbox_id = {box.Id}") != validity;
        });
        await box.PlannedAsync(7);
        (await box.CountAsync("duplicate_of_id IS NULL")).ShouldBe(7);
        (await _office.CountAsync($"SELECT count(*) FROM plans p JOIN messages m ON m.id = p.message_id WHERE m.mailbox_id = {box.Id}")).ShouldBe(7, "none was planned twice");
        (await box.CountAsync($"source_key LIKE 'imap:{validity}:%'")).ShouldBe(0, "every message has its new place");
    }

    [Theory]
    [MemberData(nameof(All))]
    public async Task A_cap_spreads_the_work_and_drops_nothing(PeerKind kind)
    {
        var box = await peers.Get(kind).NewBoxAsync();
        for (var i = 0; i < 7; i++)
        {
            await box.AppendAsync(box.Mail($"Many {i}"));
        }

        await box.ConnectAsync(c => c["cap"] = 3);
        (await _office.CountAsync($"SELECT behind FROM connections WHERE mailbox_id = {box.Id}")).ShouldBe(4);
        (await box.CountAsync("true")).ShouldBe(3);
        await box.LookAsync();
        await Office.EventuallyAsync(async () => await box.CountAsync("true") == 6);
        await box.PlannedAsync(7);

        // Every look balances: found = taken + carried over.
        (await _office.CountAsync($"""
            SELECT count(*) FROM runs r WHERE r.mailbox_id = {box.Id}
            AND r.looked_at <> r.carried_over + (SELECT count(*) FROM messages m WHERE m.run_id = r.id) + (SELECT count(*) FROM run_messages x WHERE x.run_id = r.id)
            """)).ShouldBe(0);
        (await _office.CountAsync($"SELECT sum(carried_over) FROM runs WHERE mailbox_id = {box.Id}")).ShouldBe(5, "four, then one");
    }

    [Theory]
    [MemberData(nameof(All))]
    public async Task Effects_are_carried_out_where_the_message_lies(PeerKind kind)
    {
        var peer = peers.Get(kind);
        var box = await peer.NewBoxAsync();
        await box.ConnectAsync();
        const string keyword = "harbour";
        await AddWorkflowAsync(
            box, $$"""{"effects":[{"kind":"MarkRead","name":null},{"kind":"SetFlag","name":null},{"kind":"SetKeyword","name":"{{keyword}}"},{"kind":"Move","name":"Done/Berths"}]}""");
        var message = box.Mail($"Effects {box.User}");
        await box.AppendAsync(message);
        await box.PlannedAsync(1);
        await DoneAsync(box, "Mailbox");
        await box.InsideAsync(async (client, inbox) =>
        {
            (await inbox.SearchAsync(SearchQuery.All)).ShouldBeEmpty();
            var folder = await client.GetFolderAsync("Done/Berths");
            await folder.OpenAsync(FolderAccess.ReadOnly);
            var summary = (await folder.FetchAsync(0, -1, MessageSummaryItems.Flags)).ShouldHaveSingleItem();
            (summary.Flags!.Value & ~MessageFlags.Recent).ShouldBe(MessageFlags.Seen | MessageFlags.Flagged, customMessage: "flags go with the message");
            summary.Keywords.ShouldContain(keyword);
            return true;
        });
        (await box.CountAsync(peer.IsPoor ? "true" : "moved_to LIKE 'imap:%:Done/Berths'")).ShouldBe(1);
    }

    [Theory]
    [MemberData(nameof(All))]
    public async Task A_message_goes_to_the_archive_and_one_that_is_gone_is_skipped_with_its_reason(PeerKind kind)
    {
        var box = await peers.Get(kind).NewBoxAsync();
        await box.ConnectAsync();
        await box.AppendAsync(box.Mail("For the archive"));
        await box.AppendAsync(box.Mail("Taken away"));
        await box.PlannedAsync(2);
        await box.InsideAsync(async (_, inbox) =>
        {
            await inbox.StoreAsync(await inbox.SearchAsync(SearchQuery.SubjectContains("Taken away")), new StoreFlagsRequest(StoreAction.Add, MessageFlags.Deleted));
            await inbox.ExpungeAsync();
            return true;
        });
        var workflow = await AddWorkflowAsync(box, """{"effects":[{"kind":"Archive","name":null}]}""");
        var run = await _office.PostAsync("/api/catch-ups", CatchUpTests.Request(workflow, ids: await IdsAsync(box)));
        await _office.PostAsync($"/api/catch-ups/{run}/confirm");
        await Office.EventuallyAsync(async () =>
            await _office.CountAsync($"SELECT count(*) FROM deeds WHERE run_id = {run} AND state IN ('Done', 'Skipped')") == 2);
        (await _office.CountAsync($"SELECT count(*) FROM deeds WHERE run_id = {run} AND state = 'Skipped' AND because LIKE '%no longer in its folder%'")).ShouldBe(1);
        await box.InsideAsync(async (client, _) =>
        {
            var archive = await client.GetFolderAsync("Archive");
            await archive.OpenAsync(FolderAccess.ReadOnly);
            (await archive.SearchAsync(SearchQuery.SubjectContains("For the archive"))).Count.ShouldBe(1);
            return true;
        });
    }

    [Theory]
    [MemberData(nameof(All))]
    public async Task The_test_of_a_connection_names_the_step_that_failed(PeerKind kind)
    {
        var peer = peers.Get(kind);
        var box = await peer.NewBoxAsync();
        var good = new { mailboxId = (long?)null, host = "127.0.0.1", port = peer.Port, tls = "None", user = box.User, password = kind is PeerKind.Practice or PeerKind.PoorPractice ? "practice" : "secret", folder = "INBOX" };
        var result = (await _office.PostAsync("/api/setup/connection-test", good))!;
        result["ok"]!.GetValue<bool>().ShouldBeTrue();
        result["pushes"]!.GetValue<bool>().ShouldBe(!peer.IsPoor);
        result["folders"]!.AsArray().Select(f => f!.GetValue<string>()).ShouldContain("INBOX");

        (await FailedAsync(good with { host = "no-such-host.invalid" })).ShouldBe("Name");
        (await FailedAsync(good with { port = 1 })).ShouldBe("Port");
        (await FailedAsync(good with { tls = "StartTls" })).ShouldBe("Tls");
        (await FailedAsync(good with { password = "wrong" })).ShouldBe("SignIn");
        (await FailedAsync(good with { folder = "Nowhere" })).ShouldBe("Folder");
    }

    private async Task<string?> FailedAsync(object request)
    {
        var result = (await _office.PostAsync("/api/setup/connection-test", request))!;
        result["ok"]!.GetValue<bool>().ShouldBeFalse();
        var steps = result["steps"]!.AsArray();
        var failed = steps.Single(s => s!["ok"]?.GetValue<bool>() == false)!;
        failed["says"]!.GetValue<string>().ShouldEndWith(".");
        return failed["step"]!.GetValue<string>();
    }

    [Fact]
    public async Task A_wrong_password_is_said_in_words_on_today_and_in_the_log_and_never_kept_readable()
    {
        var box = await peers.Get(PeerKind.Practice).NewBoxAsync();
        await box.ConnectAsync();
        var mailbox = (await _office.GetAsync("/api/setup"))["mailboxes"]!.AsArray().Single(m => m!["id"]!.GetValue<long>() == box.Id)!.DeepClone().AsObject();
        mailbox["connection"]!["password"] = "not-the-password";
        await _office.SaveMailboxAsync(mailbox, box.Id);
        JsonNode? health = null;
        await Office.EventuallyAsync(async () =>
        {
            health = (await _office.GetAsync("/api/today"))["mailboxes"]!.AsArray().Single(m => m!["id"]!.GetValue<long>() == box.Id)!["health"];
            return health!["problem"] is not null;
        });
        health!["problem"]!.GetValue<string>().ShouldContain("refused the user name or the password");
        health["nextLookAt"].ShouldNotBeNull();
        var runs = (await _office.GetAsync($"/api/log/runs?mailboxId={box.Id}&state=Failed"))["runs"]!.AsArray();
        runs[0]!["detail"]!.GetValue<string>().ShouldContain("NO");
        runs.ToJsonString().ShouldNotContain("not-the-password");
        (await _office.CountAsync("SELECT count(*) FROM connections WHERE protected_password LIKE '%not-the-password%' OR problem_detail LIKE '%not-the-password%'")).ShouldBe(0);
        (await _office.GetAsync("/api/setup")).ToJsonString().ShouldNotContain("protectedPassword");
        (await _office.PostAsync($"/api/setup/mailboxes/{box.Id}/pace", new { paceMinutes = 15, hours = (object?)null, cap = 1 }))!["says"].ShouldNotBeNull();
    }

    [Fact]
    public async Task Within_its_hours_a_mailbox_is_looked_at_and_outside_of_them_it_is_not()
    {
        var box = await peers.Get(PeerKind.Practice).NewBoxAsync();
        await box.AppendAsync(box.Mail("At any hour"));
        await box.ConnectAsync(c => c["hours"] = JsonNode.Parse("""{"from":"00:00","until":"00:00","days":[1,2,3,4,5,6,7],"zone":"Etc/UTC"}"""));
        await box.PlannedAsync(1);

        // An hour of the day before yesterday only: it is days away, and the server is left in peace.
        var day = (int)DateTime.UtcNow.AddDays(-2).DayOfWeek is var d && d == 0 ? 7 : d;
        var other = await peers.Get(PeerKind.Practice).NewBoxAsync();
        await other.AppendAsync(other.Mail("Not now"));
        var mailbox = Office.Mailbox("Asleep", other.User);
        mailbox["connection"] = JsonNode.Parse(
            $$"""
            {"host":"127.0.0.1","port":{{_office.ImapPort}},"tls":"None","user":"{{other.User}}","password":"practice","folder":"INBOX","backDays":30,"oldMail":"Keep","markRead":false,
             "paceMinutes":15,"hours":{"from":"09:00","until":"10:00","days":[{{day}}],"zone":"Etc/UTC"},"cap":null,"paused":false}
            """);
        var id = await _office.SaveMailboxAsync(mailbox);
        await box.AppendAsync(box.Mail("Meanwhile"));
        await box.PlannedAsync(2);
        (await _office.CountAsync($"SELECT count(*) FROM connections WHERE mailbox_id = {id} AND last_look_at IS NULL")).ShouldBe(1);
    }

    [Fact]
    public async Task The_kept_password_goes_to_no_other_server()
    {
        var box = await peers.Get(PeerKind.Practice).NewBoxAsync();
        await box.ConnectAsync();
        var elsewhere = new { mailboxId = box.Id, host = "127.0.0.1", port = 9, tls = "None", user = box.User, password = (string?)null, folder = "INBOX" };
        (await Should.ThrowAsync<HttpRequestException>(_office.PostAsync("/api/setup/connection-test", elsewhere))).Message.ShouldContain("entered again");
    }

    [Fact]
    public async Task A_message_sent_twice_is_here_twice_and_planned_once()
    {
        var box = await peers.Get(PeerKind.Practice).NewBoxAsync();
        await box.ConnectAsync();
        await _office.StandIns.PostAsync("/misbehaviour", global::System.Net.Http.Json.JsonContent.Create(new { deliversTwice = true }));
        await box.AppendAsync(box.Mail("Twice"));
        await _office.StandIns.PostAsync("/misbehaviour", global::System.Net.Http.Json.JsonContent.Create(new { }));
        await box.PlannedAsync(2);
        (await box.CountAsync("duplicate_of_id IS NOT NULL")).ShouldBe(1);
    }

    private static async Task<long[]> IdsAsync(Office office, long mailbox) =>
        [.. (await office.GetAsync($"/api/messages?mailboxId={mailbox}"))["messages"]!.AsArray().Select(m => m!["id"]!.GetValue<long>())];

    private Task<long[]> IdsAsync(Box box) => IdsAsync(_office, box.Id);

    private Task DoneAsync(Box box, string kind) => Office.EventuallyAsync(async () =>
        await _office.CountAsync($"SELECT count(*) FROM deeds d JOIN messages m ON m.id = d.message_id WHERE m.mailbox_id = {box.Id} AND d.kind = '{kind}' AND d.state = 'Done'") > 0);

    /// <summary>A live workflow, first of all, for the mail of one box.</summary>
    private async Task<long> AddWorkflowAsync(Box box, string inMailbox)
    {
        var line = $$"""{"id":"l1","case":"Any","categoryId":null,"andWhen":{"all":[],"any":[],"none":[]},"queues":[],"ticket":null,"files":[],"replies":[],"passOns":[],"inMailbox":{{inMailbox}}}""";
        var id = await CatchUpTests.AddWorkflowAsync(_office, $"Box {box.User}", box.Domain, line);
        var order = (await _office.GetAsync("/api/workflows")).AsArray().Select(w => w!["id"]!.GetValue<long>()).Where(w => w != id);
        using var saved = await _office.Http.PutAsync("/api/workflows/order", global::System.Net.Http.Json.JsonContent.Create(new { ids = order.Prepend(id) }));
        return id;
    }
}
