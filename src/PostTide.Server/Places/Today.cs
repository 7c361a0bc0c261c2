using Microsoft.EntityFrameworkCore;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Server.Places;

/// <summary>What came in on one day (UTC): every message is in exactly one of the four.</summary>
public sealed record DayCount(DateOnly Day, int TakenIn, int LeftAlone, int Copies, int Unreadable)
{
    public int All => TakenIn + LeftAlone + Copies + Unreadable;
}

/// <summary>One of the last 24 hours: what came in, what of it workflows took, and how many queue items waited for people at its end.</summary>
public sealed record HourCount(DateTimeOffset Hour, int CameIn, int TakenIn, int Waiting);

/// <summary>The deeds planned since midnight (UTC): all = done + waiting + stuck + skipped.</summary>
public sealed record DeedBalance(int All, int Done, int Waiting, int Stuck, int Skipped);

/// <summary>A queue and what waits in it.</summary>
public sealed record QueueLoad(long Id, string Name, int Open, int Overdue, int WithinHour, int Waiting, int Untaken, DateTimeOffset? NextDue);

/// <summary>What a workflow did today.</summary>
public sealed record WorkflowDay(long Id, string Name, int Messages, int Done, int Waiting, int Stuck, int Skipped);

/// <summary>Something only a person can settle.</summary>
/// <param name="Kind">What it is, for the link: mailbox, stuck, checking, overdue, held, unreadable.</param>
/// <param name="Count">How many.</param>
/// <param name="Text">Said in a few words.</param>
/// <param name="Oldest">Since when the oldest of them waits.</param>
public sealed record NeedsPerson(string Kind, int Count, string Text, DateTimeOffset? Oldest);

/// <summary>A connected mailbox and how it is doing.</summary>
public sealed record MailboxState(long Id, string Name, MailboxHealth Health);

/// <summary>Everything on the first page.</summary>
public sealed record TodayView(
    DateTimeOffset Now, IReadOnlyList<DayCount> Days, IReadOnlyList<HourCount> Hours, DeedBalance Deeds, int NotPlannedYet, IReadOnlyList<QueueLoad> Queues, IReadOnlyList<WorkflowDay> Workflows,
    IReadOnlyList<NeedsPerson> NeedsPerson, IReadOnlyList<MailboxState> Mailboxes, IReadOnlyList<MessageRow> Latest);

/// <summary>Today: what came in, what waits, what needs a person.</summary>
internal static class Today
{
    private const int Days = 30;
    private const int LatestShown = 12;

    public static void MapToday(this RouteGroupBuilder api) => api.MapGet("/today", ReadAsync).WithTags("Today");

    private static async Task<TodayView> ReadAsync(PostTideContext db, TimeProvider clock, CancellationToken stop)
    {
        var now = clock.GetUtcNow();
        var midnight = new DateTimeOffset(now.UtcDateTime.Date, TimeSpan.Zero);
        return new TodayView(
            now,
            await CountDaysAsync(db, midnight, stop),
            await CountHoursAsync(db, now, stop),
            await BalanceAsync(db, midnight, stop),
            await db.Messages.CountAsync(m => m.State == MessageState.Arrived, stop),
            await QueueLoads(db, now).ToListAsync(stop),
            await CountWorkflowsAsync(db, midnight, stop),
            await FindNeedsAsync(db, now, stop),
            await ReadMailboxesAsync(db, stop),
            (await db.Messages.AsNoTracking().OrderByDescending(m => m.ArrivedAt).ThenByDescending(m => m.Id).Take(LatestShown).ToListAsync(stop))
                .ConvertAll(MessageRow.Of));
    }

    /// <summary>Every queue with its counts, in order.</summary>
    public static IQueryable<QueueLoad> QueueLoads(PostTideContext db, DateTimeOffset now)
    {
        var soon = now.AddHours(1);
        return db.Queues.AsNoTracking().OrderBy(q => q.Position).ThenBy(q => q.Id).Select(q => new QueueLoad(
            q.Id,
            q.Name,
            db.Items.Count(i => i.QueueId == q.Id && i.State == ItemState.Open),
            db.Items.Count(i => i.QueueId == q.Id && i.State == ItemState.Open && i.DueAt < now),
            db.Items.Count(i => i.QueueId == q.Id && i.State == ItemState.Open && i.DueAt >= now && i.DueAt < soon),
            db.Items.Count(i => i.QueueId == q.Id && i.State == ItemState.Waiting),
            db.Items.Count(i => i.QueueId == q.Id && i.State == ItemState.Open && i.TakenById == null),
            db.Items.Where(i => i.QueueId == q.Id && i.State == ItemState.Open && i.DueAt >= now).Min(i => i.DueAt)));
    }

    private static async Task<List<DayCount>> CountDaysAsync(PostTideContext db, DateTimeOffset midnight, CancellationToken stop)
    {
        var first = midnight.AddDays(1 - Days);
        var counted = await db.Messages.AsNoTracking().Where(m => m.ArrivedAt >= first && m.State != MessageState.Arrived)
            .GroupBy(m => m.ArrivedAt.Date)
            .Select(g => new
            {
                Day = g.Key,
                TakenIn = g.Count(m => m.TakenIn),
                Copies = g.Count(m => m.DuplicateOfId != null),
                Unreadable = g.Count(m => m.State == MessageState.Unreadable),
                All = g.Count(),
            })
            .ToListAsync(stop);
        var byDay = counted.ToDictionary(
            c => DateOnly.FromDateTime(c.Day),
            c => new DayCount(DateOnly.FromDateTime(c.Day), c.TakenIn, c.All - c.TakenIn - c.Copies - c.Unreadable, c.Copies, c.Unreadable));
        return
        [
            .. Enumerable.Range(0, Days).Select(i => DateOnly.FromDateTime(first.AddDays(i).UtcDateTime))
                .Select(day => byDay.GetValueOrDefault(day) ?? new DayCount(day, 0, 0, 0, 0)),
        ];
    }

    private static async Task<List<HourCount>> CountHoursAsync(PostTideContext db, DateTimeOffset now, CancellationToken stop)
    {
        var last = new DateTimeOffset(now.Year, now.Month, now.Day, now.Hour, 0, 0, TimeSpan.Zero);
        var first = last.AddHours(-23);
        var arrived = await db.Messages.AsNoTracking().Where(m => m.ArrivedAt >= first).Select(m => new { m.ArrivedAt, m.TakenIn }).ToListAsync(stop);
        var items = await db.Items.AsNoTracking().Where(i => i.DoneAt == null || i.DoneAt >= first).Select(i => new { i.PlacedAt, i.DoneAt }).ToListAsync(stop);
        return
        [
            .. Enumerable.Range(0, 24).Select(i => first.AddHours(i)).Select(hour =>
            {
                var end = hour.AddHours(1) < now ? hour.AddHours(1) : now;
                return new HourCount(
                    hour,
                    arrived.Count(m => m.ArrivedAt >= hour && m.ArrivedAt < end),
                    arrived.Count(m => m.TakenIn && m.ArrivedAt >= hour && m.ArrivedAt < end),
                    items.Count(x => x.PlacedAt < end && (x.DoneAt is null || x.DoneAt >= end)));
            }),
        ];
    }

    private static async Task<DeedBalance> BalanceAsync(PostTideContext db, DateTimeOffset midnight, CancellationToken stop)
    {
        var counts = await db.Deeds.Where(d => d.CreatedAt >= midnight).GroupBy(d => d.State).Select(g => new { g.Key, Count = g.Count() })
            .ToDictionaryAsync(g => g.Key, g => g.Count, stop);
        int Count(params DeedState[] states) => states.Sum(s => counts.GetValueOrDefault(s));
        return new DeedBalance(
            counts.Values.Sum(), Count(DeedState.Done), Count(DeedState.Waiting, DeedState.Checking, DeedState.Delayed, DeedState.UnderWay),
            Count(DeedState.Stuck), Count(DeedState.Skipped, DeedState.Dropped));
    }

    private static Task<List<WorkflowDay>> CountWorkflowsAsync(PostTideContext db, DateTimeOffset midnight, CancellationToken stop) =>
        db.Workflows.AsNoTracking().OrderBy(w => w.Position).ThenBy(w => w.Id).Select(w => new WorkflowDay(
            w.Id,
            w.Name,
            db.Deeds.Where(d => d.WorkflowId == w.Id && d.CreatedAt >= midnight).Select(d => d.MessageId).Distinct().Count(),
            db.Deeds.Count(d => d.WorkflowId == w.Id && d.CreatedAt >= midnight && d.State == DeedState.Done),
            db.Deeds.Count(d => d.WorkflowId == w.Id && d.CreatedAt >= midnight
                && (d.State == DeedState.Waiting || d.State == DeedState.Checking || d.State == DeedState.Delayed || d.State == DeedState.UnderWay)),
            db.Deeds.Count(d => d.WorkflowId == w.Id && d.CreatedAt >= midnight && d.State == DeedState.Stuck),
            db.Deeds.Count(d => d.WorkflowId == w.Id && d.CreatedAt >= midnight && (d.State == DeedState.Skipped || d.State == DeedState.Dropped))))
            .ToListAsync(stop);

    private static async Task<List<MailboxState>> ReadMailboxesAsync(PostTideContext db, CancellationToken stop) =>
        (await db.Mailboxes.AsNoTracking().Include(m => m.Connection).Where(m => m.Connection != null).OrderBy(m => m.Id).ToListAsync(stop))
            .ConvertAll(m => new MailboxState(m.Id, m.Name, MailboxHealth.Of(m.Connection!)));

    private static async Task<List<NeedsPerson>> FindNeedsAsync(PostTideContext db, DateTimeOffset now, CancellationToken stop)
    {
        var stuck = db.Deeds.Where(d => d.State == DeedState.Stuck).Select(d => d.CreatedAt);
        var checking = db.Deeds.Where(d => d.State == DeedState.Checking).Select(d => d.CreatedAt);
        var overdue = db.Items.Where(i => i.State == ItemState.Open && i.DueAt < now).Select(i => i.DueAt!.Value);
        var held = db.Messages.Where(m => m.State == MessageState.Held).Select(m => m.ArrivedAt);
        var troubled = db.Connections.Where(c => c.Problem != null && !c.Paused).Select(c => c.ProblemSince!.Value);
        var unreadable = db.Messages.Where(m => m.State == MessageState.Unreadable).Select(m => m.ArrivedAt);
        var needs = new List<NeedsPerson>();
        foreach (var (kind, times, one, many) in new[]
        {
            ("mailbox", troubled, "mailbox cannot be read", "mailboxes cannot be read"),
            ("stuck", stuck, "deed is stuck", "deeds are stuck"),
            ("overdue", overdue, "queue item is overdue", "queue items are overdue"),
            ("checking", checking, "reply waits for checking", "replies wait for checking"),
            ("held", held, "message is held, its sender not approved", "messages are held, their senders not approved"),
            ("unreadable", unreadable, "message could not be read", "messages could not be read"),
        })
        {
            var count = await times.CountAsync(stop);
            if (count > 0)
            {
                needs.Add(new NeedsPerson(kind, count, count == 1 ? one : many, await times.MinAsync(stop)));
            }
        }

        return needs;
    }
}
