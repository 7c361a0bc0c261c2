using Microsoft.AspNetCore.DataProtection;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using PostTide.Core.Messages;
using PostTide.Core.Sorting;
using PostTide.Core.Workflows;
using PostTide.Destinations;
using PostTide.Engine.Planning;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Engine.Sorting;

/// <summary>Keeps the key of the outside sorter. The database holds it encrypted; the keys lie in the data folder.</summary>
public sealed class OutsideSecrets(IDataProtectionProvider protection)
{
    private readonly IDataProtector _protector = protection.CreateProtector("PostTide.OutsideSorter.Key");

    public string Protect(string key) => key.Length == 0 ? "" : _protector.Protect(key);

    /// <summary>The service as it is set up.</summary>
    /// <exception cref="OutsideSorterException">It is switched off, or its key can no longer be read.</exception>
    public OutsideService ServiceOf(OutsideSorterSettings? settings)
    {
        if (settings is not { On: true })
        {
            throw new OutsideSorterException("The outside sorter is switched off.");
        }

        try
        {
            return new OutsideService(
                settings.Address, settings.Model, settings.Secret.Length == 0 ? "" : _protector.Unprotect(settings.Secret), TimeSpan.FromSeconds(settings.TimeoutSeconds));
        }
        catch (System.Security.Cryptography.CryptographicException e)
        {
            throw new OutsideSorterException("The kept key can no longer be read, because its own key is gone from the data folder. Enter it again in Setup.", e);
        }
    }
}

/// <summary>
/// Asks the outside sorter about mail that is about to be planned, where a live workflow's sorter says so. The answers are written down;
/// the planner reads them like anything else it knows. No answer means unsure.
/// </summary>
public sealed class OutsideAsker(IServiceScopeFactory scopes, PlanningSetup setup, OutsideSecrets secrets, IHttpClientFactory http, TimeProvider clock)
{
    public const string HttpClientName = "outside-sorter";

    /// <summary>Mail waits for answers in batches of this size.</summary>
    private const int MostAtOnce = 40;
    private const int AskedTogether = 4;

    /// <summary>After this many failures in a batch nobody waits for the rest of it.</summary>
    private const int PatienceFor = 4;

    /// <summary>Asks about the next messages.</summary>
    /// <returns>How many messages may be planned now; null for any number.</returns>
    public async Task<int?> AskAsync(CancellationToken stop)
    {
        await using var scope = scopes.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<PostTideContext>();
        if (!await db.Sorters.AnyAsync(s => s.AsksOutside, stop))
        {
            return null;
        }

        var at = await setup.ReadAsync(db, stop);
        var asking = at.Live.Where(e => e.Sheet.SorterId is { } id && at.Context.Sorters.GetValueOrDefault(id) is { AsksOutside: true }).ToList();
        var rows = asking.Count == 0 ? [] : await db.Messages.AsNoTracking().Where(m => m.State == MessageState.Arrived).OrderBy(m => m.Id).Take(MostAtOnce).ToListAsync(stop);
        if (rows.Count == 0)
        {
            return null;
        }

        var hashes = rows.Select(r => r.RawSha256).Distinct().ToArray();
        var raws = await db.Raws.AsNoTracking().Where(r => hashes.Contains(r.Sha256)).ToDictionaryAsync(r => r.Sha256, r => r.Bytes, stop);
        var ids = rows.ConvertAll(r => r.Id);
        var known = (await db.OutsideAnswers.AsNoTracking().Where(a => ids.Contains(a.MessageId)).Select(a => new { a.SorterId, a.MessageId }).ToListAsync(stop)).ToHashSet();

        // What is going to be held is seen by no workflow, and so leaves for nobody.
        var policies = await db.Mailboxes.AsNoTracking().Where(m => m.Approval != null).ToDictionaryAsync(m => m.Id, m => m.Approval!, stop);
        bool IsHeld(Message row, PreparedMessage prepared) => row.ReleasedBy is null
            && policies.TryGetValue(row.MailboxId, out var policy) && SenderApproval.Decide(prepared, row.ConnectingHost, policy).Holds;
        var questions = rows.Where(r => !r.Old).Select(r => (Row: r, PreparedRows.Read(r, raws[r.RawSha256]).Prepared))
            .Where(r => r.Prepared is not null && !IsHeld(r.Row, r.Prepared)).Select(r => r.Prepared!)
            .SelectMany(m => asking.Where(e => Judgement.Of(m, e.Sheet, at.Context.For(m)).IsTakenIn).Select(e => (Sorter: e.Sheet.SorterId!.Value, Message: m)))
            .Where(q => !known.Contains(new { SorterId = q.Sorter, MessageId = q.Message.Id })).DistinctBy(q => (q.Sorter, q.Message.Id)).ToList();
        var settings = await SettingsAsync(db, [.. questions.Select(q => q.Sorter).Distinct()], stop);
        db.OutsideAnswers.AddRange(await AskAsync(db, questions, settings, stop));
        await db.SaveChangesAsync(stop);
        return rows.Count;
    }

    /// <summary>Asks about messages, a few at a time; every question has an answer or the reason why not.</summary>
    public async Task<IReadOnlyList<OutsideAnswerRecord>> AskAsync(
        PostTideContext db, IReadOnlyList<(long Sorter, PreparedMessage Message)> questions, IReadOnlyDictionary<long, SorterSettings> settings, CancellationToken stop)
    {
        var answers = new OutsideAnswerRecord[questions.Count];
        var outside = await db.OutsideSorters.AsNoTracking().SingleOrDefaultAsync(o => o.Id == OutsideSorterSettings.TheOne, stop);
        var failures = 0;
        await Parallel.ForEachAsync(Enumerable.Range(0, questions.Count), new ParallelOptions { MaxDegreeOfParallelism = AskedTogether, CancellationToken = stop }, async (i, token) =>
        {
            var (sorter, message) = questions[i];
            var answer = answers[i] = new OutsideAnswerRecord { SorterId = sorter, MessageId = message.Id, By = $"the outside sorter ({outside?.Model})", At = clock.GetUtcNow() };
            try
            {
                if (Volatile.Read(ref failures) >= PatienceFor)
                {
                    throw new OutsideSorterException("The outside sorter had failed several times just before, so it was not asked.");
                }

                var service = secrets.ServiceOf(outside);
                answer.CategoryId = await new OutsideSorter(http.CreateClient(HttpClientName))
                    .AskAsync(service, settings[sorter], OutsideQuestion.Of(settings[sorter], message, outside!.MostCharacters), token);
            }
            catch (OutsideSorterException e)
            {
                Interlocked.Increment(ref failures);
                answer.Problem = e.Message;
            }
        });
        return answers;
    }

    /// <summary>The settings of the numbers in use, or in hand where none is in use.</summary>
    public static async Task<IReadOnlyDictionary<long, SorterSettings>> SettingsAsync(PostTideContext db, long[] sorterIds, CancellationToken stop) =>
        (await db.SorterNumbers.AsNoTracking().Where(n => sorterIds.Contains(n.SorterId) && n.State != SorterNumberState.Past)
            .Select(n => new { n.SorterId, n.State, n.Settings }).ToListAsync(stop))
        .GroupBy(n => n.SorterId).ToDictionary(g => g.Key, g => g.OrderByDescending(n => n.State == SorterNumberState.InUse).First().Settings);
}
