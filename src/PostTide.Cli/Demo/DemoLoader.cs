using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using PostTide.Engine.Planning;
using PostTide.StandIns.Saltmarrow;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Cli.Demo;

/// <summary>Loads the Saltmarrow demo: the office, its mail of the last 90 days, and the work done on it.</summary>
public sealed class DemoLoader(IServiceScopeFactory scopes, BatchPlanner planner, TimeProvider clock)
{
    private const int Seed = 1894;
    private const int Days = 90;
    private const string Loaded = "Loaded the Saltmarrow demo";

    public async Task LoadAsync(int count, string practice, Action<string> say, CancellationToken stop)
    {
        await using (var scope = scopes.CreateAsyncScope())
        {
            var db = scope.ServiceProvider.GetRequiredService<PostTideContext>();
            await db.Database.MigrateAsync(stop);
            if (await db.Audit.AnyAsync(a => a.What == Loaded, stop))
            {
                say("The demo data is there already and was kept.");
                return;
            }

            // A load that was cut off goes on where it stopped.
            if (!await db.Mailboxes.AnyAsync(stop))
            {
                await SetUpAsync(scope.ServiceProvider, db, count, practice, stop);
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

    private async Task SetUpAsync(IServiceProvider services, PostTideContext db, int count, string practice, CancellationToken stop)
    {
        var now = clock.GetUtcNow();
        var setup = new DemoSetup(
            db, services.GetRequiredService<UserManager<Person>>(), services.GetRequiredService<RoleManager<IdentityRole<long>>>(),
            services.GetRequiredService<FileStore>());
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var mailboxes = await setup.SetUpAsync(practice, now.AddDays(-Days), stop);
        await StoreAsync(db, mailboxes, new Generator(Seed).History(now, Days, count), stop);
        await transaction.CommitAsync(stop);
    }

    private static async Task StoreAsync(PostTideContext db, IReadOnlyList<Mailbox> mailboxes, IReadOnlyList<MadeMail> history, CancellationToken stop)
    {
        var number = 0;
        var stored = new HashSet<string>(StringComparer.Ordinal);
        foreach (var mail in history)
        {
            var bytes = mail.ToBytes();
            var hash = Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(bytes));
            if (stored.Add(hash))
            {
                db.Raws.Add(new Raw { Sha256 = hash, Bytes = bytes });
            }

            var to = mail.EnvelopeTo.Replace("+web", "", StringComparison.Ordinal);
            db.Messages.Add(new Message
            {
                MailboxId = mailboxes.First(m => m.Addresses.Any(a => a.Address == to)).Id,
                SourceKey = $"demo:{number++}",
                RawSha256 = hash,
                Size = bytes.Length,
                ArrivedAt = mail.At.ToUniversalTime(),
                EnvelopeFrom = mail.EnvelopeFrom,
                EnvelopeTo = [mail.EnvelopeTo],
            });
        }

        await db.SaveChangesAsync(stop);
    }
}
