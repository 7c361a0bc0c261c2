using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using PostTide.Engine.Mailboxes;
using PostTide.Engine.Planning;
using PostTide.StandIns;
using PostTide.StandIns.PracticeMailboxes;
using PostTide.StandIns.Saltmarrow;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Cli.Demo;

/// <summary>Loads the Saltmarrow demo: the office, its mail of the last 90 days, and the work done on it.</summary>
public sealed class DemoLoader(IServiceScopeFactory scopes, BatchPlanner planner, MailboxSecrets secrets, TimeProvider clock)
{
    private const int Seed = 1894;
    private const int Days = 90;
    private const string PracticeHost = "127.0.0.1";
    private const string Loaded = "Loaded the Saltmarrow demo";

    public async Task LoadAsync(int count, DemoPlaces places, Action<string> say, CancellationToken stop)
    {
        await using (var scope = scopes.CreateAsyncScope())
        {
            var db = scope.ServiceProvider.GetRequiredService<PostTideContext>();
            await db.Database.MigrateAsync(stop);
            if (await db.Audit.AnyAsync(a => a.What == Loaded, stop))
            {
                // The practice mail server may have found its usual port taken this time.
                await db.Connections.Where(c => c.Host == PracticeHost && places.ImapPort > 0).ExecuteUpdateAsync(s => s.SetProperty(c => c.Port, places.ImapPort), stop);
                say("The demo data is there already and was kept.");
                return;
            }

            // A load that was cut off goes on where it stopped.
            if (!await db.Mailboxes.AnyAsync(stop))
            {
                await SetUpAsync(scope.ServiceProvider, db, count, places, stop);
            }
        }

        var planned = 0;
        while (await planner.PlanNextAsync(atArrival: true, stop) is > 0 and var batch)
        {
            planned += batch;
            if (planned % 500 == 0)
            {
                say($"  {planned} messages planned");
            }
        }

        await using var work = scopes.CreateAsyncScope();
        var records = work.ServiceProvider.GetRequiredService<PostTideContext>();
        records.Audit.Add(new AuditEntry { At = clock.GetUtcNow(), Person = "Post Tide", What = Loaded });
        await new DemoWork(records, new Dice(Seed), clock.GetUtcNow()).DoAsync(stop);
        say($"Loaded {planned} messages of {Days} days.");
    }

    private async Task SetUpAsync(IServiceProvider services, PostTideContext db, int count, DemoPlaces places, CancellationToken stop)
    {
        var now = clock.GetUtcNow();
        var setup = new DemoSetup(
            db, services.GetRequiredService<UserManager<Person>>(), services.GetRequiredService<RoleManager<IdentityRole<long>>>(),
            services.GetRequiredService<FileStore>());
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var mailboxes = await setup.SetUpAsync(places.PracticePages, now.AddDays(-Days), stop);
        if (places.MailFolder is { } folder && Directory.Exists(folder))
        {
            // Mailboxes of a load that was cut off: its records were undone, so these begin anew as well.
            Directory.Delete(folder, recursive: true);
        }

        var practice = places.ImapPort > 0 ? new PracticeStore(places.MailFolder) : null;
        var history = await StoreAsync(db, mailboxes, new Generator(Seed).History(now, Days, count), practice, stop);
        DemoSorter.Add(db, db.Sorters.Local.Single(), history, now.AddDays(-Days), now, stop);
        await db.SaveChangesAsync(stop);

        if (practice is not null)
        {
            Connect(db, mailboxes, practice, places.ImapPort, now);
            await db.SaveChangesAsync(stop);
        }

        await transaction.CommitAsync(stop);
    }

    private static async Task<IReadOnlyList<(Message Row, MadeMail Mail)>> StoreAsync(
        PostTideContext db, IReadOnlyList<Mailbox> mailboxes, IReadOnlyList<MadeMail> history, PracticeStore? practice, CancellationToken stop)
    {
        var number = 0;
        var rows = new List<(Message, MadeMail)>(history.Count);
        var stored = new HashSet<string>(StringComparer.Ordinal);
        foreach (var mail in history)
        {
            var to = mail.EnvelopeTo.Replace("+web", "", StringComparison.Ordinal);
            var user = practice is null ? null : Office.MailboxOf(to);
            var bytes = user is null ? mail.ToBytes() : PracticeMailHost.Delivered(mail.EnvelopeFrom, mail.EnvelopeTo, mail.ToBytes());
            var key = user is null ? $"demo:{number++}" : KeyOf(practice!, user, practice!.Deliver(user, [(bytes, mail.At)])[0]);
            var hash = Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(bytes));
            if (stored.Add(hash))
            {
                db.Raws.Add(new Raw { Sha256 = hash, Bytes = bytes });
            }

            var row = new Message
            {
                MailboxId = mailboxes.First(m => m.Addresses.Any(a => a.Address == to)).Id,
                SourceKey = key,
                RawSha256 = hash,
                Size = bytes.Length,
                ArrivedAt = mail.At.ToUniversalTime(),
                TakenAt = mail.At.ToUniversalTime(),
                EnvelopeFrom = user is null ? mail.EnvelopeFrom : null,
                EnvelopeTo = user is null ? [mail.EnvelopeTo] : [],
            };
            db.Messages.Add(row);
            rows.Add((row, mail));
        }

        await db.SaveChangesAsync(stop);
        return rows;
    }

    private static string KeyOf(PracticeStore practice, string user, uint uid) => new SourceKey(practice.Find(user, "INBOX")!.UidValidity, uid, "INBOX").ToString();

    /// <summary>The office's mailboxes have been connected all along: their history came in through them.</summary>
    private void Connect(PostTideContext db, IReadOnlyList<Mailbox> mailboxes, PracticeStore practice, int port, DateTimeOffset now)
    {
        foreach (var box in Office.Boxes.Where(b => b.User is not null))
        {
            practice.Open(box.User!);
            var inbox = practice.Find(box.User!, "INBOX")!;
            db.Connections.Add(new Connection
            {
                MailboxId = mailboxes.First(m => m.Name == box.Name).Id,
                Host = PracticeHost,
                Port = port,
                User = box.User!,
                ProtectedPassword = secrets.Protect(PracticeStore.Password),
                Folder = "INBOX",
                ConnectedAt = now.AddDays(-Days),
                Since = now.AddDays(-Days),
                UidValidity = inbox.UidValidity,
                LastUid = inbox.UidNext - 1,
                FirstNewUid = 1,
            });
        }
    }
}

/// <summary>Where the stand-ins of the demo are.</summary>
/// <param name="PracticePages">The address of the practice pages.</param>
/// <param name="ImapPort">The port of the practice mail server; 0 when no mailbox is to be connected.</param>
/// <param name="MailFolder">Where the practice mailboxes lie on disk.</param>
public sealed record DemoPlaces(string PracticePages, int ImapPort, string? MailFolder);
