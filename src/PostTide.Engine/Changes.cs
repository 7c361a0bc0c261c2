using Microsoft.EntityFrameworkCore;
using PostTide.Store;

namespace PostTide.Engine;

/// <summary>
/// Tells every running server which places have changed. The notice is part of the transaction: it goes out when, and
/// only if, the change is committed.
/// </summary>
public static class Changes
{
    public const string Channel = "posttide_changed";

    public const string Mail = "mail";
    public const string Queues = "queues";
    public const string Tickets = "tickets";
    public const string Replies = "replies";
    public const string Files = "files";
    public const string Deeds = "deeds";
    public const string Workflows = "workflows";
    public const string Setup = "setup";
    public const string Runs = "runs";
    public const string Sorters = "sorters";

    public static Task NotifyAsync(this PostTideContext db, params string[] places) =>
        db.Database.ExecuteSqlAsync($"SELECT pg_notify({Channel}, {string.Join(',', places)})");
}
