using Microsoft.EntityFrameworkCore;
using PostTide.StandIns.Saltmarrow;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Cli.Demo;

/// <summary>What the office did with its mail: items taken and done, tickets closed, replies checked. The last hours are left open.</summary>
internal sealed class DemoWork(PostTideContext db, Dice dice, DateTimeOffset now)
{
    private static readonly string[] Desk = ["Dilys Wren", "Sten Ravn", "Nell Harbury"];

    private static readonly TimeSpan LeftToSort = TimeSpan.FromDays(21);

    public async Task DoAsync(CancellationToken stop)
    {
        var people = await db.Users.Where(p => Desk.Contains(p.DisplayName)).ToListAsync(stop);

        // What the sorter was unsure about has been left for whoever looks at the demo.
        var left = now - LeftToSort;
        foreach (var item in await db.Items.Where(i => i.State == ItemState.Open && (i.PlacedAt < left || !db.Queues.Any(q => q.Id == i.QueueId && q.Name == "Sort by hand"))).OrderBy(i => i.Id).ToListAsync(stop))
        {
            WorkOn(item, dice.Pick(people));
        }

        foreach (var ticket in await db.Tickets.Where(t => t.State == TicketState.Open).OrderBy(t => t.Id).ToListAsync(stop))
        {
            WorkOn(ticket);
        }

        var old = now.AddHours(-14);
        foreach (var reply in await db.Replies.Include(r => r.Deed).Where(r => r.Deed.State == DeedState.Checking && r.Deed.CreatedAt < old).ToListAsync(stop))
        {
            reply.CheckedBy = "Carys Toll";
            var at = reply.Deed.CreatedAt.AddMinutes(dice.Between(12, 500));
            (reply.Deed.State, reply.Deed.Because, reply.Deed.DoneAt) = (DeedState.Done, null, at);
            db.DeedHistory.Add(new DeedChange { DeedId = reply.DeedId, State = DeedState.Done, At = at, Note = HistoryOutbox.Note, Person = "Carys Toll" });
        }

        await db.SaveChangesAsync(stop);
    }

    private void WorkOn(Item item, Person person)
    {
        var age = now - item.PlacedAt;
        var taken = item.PlacedAt.AddMinutes(dice.Between(4, 200));
        if (age > TimeSpan.FromHours(20) ? dice.Chance(0.985) : dice.Chance(0.35))
        {
            var done = taken.AddMinutes(dice.Between(3, 90));
            if (done < now)
            {
                (item.TakenById, item.State, item.DoneAt) = (person.Id, ItemState.Done, done);
                Add(item.Id, null, EntryKind.Taken, "Taken", taken, person.DisplayName, item.MessageId);
                Add(item.Id, null, EntryKind.Done, "Done", done, person.DisplayName, item.MessageId);
            }
        }
        else if (taken < now && dice.Chance(0.3))
        {
            item.TakenById = person.Id;
            Add(item.Id, null, EntryKind.Taken, "Taken", taken, person.DisplayName, item.MessageId);
            if (dice.Chance(0.25))
            {
                (item.State, item.WaitsUntil) = (ItemState.Waiting, now.AddHours(dice.Between(4, 40)));
                Add(item.Id, null, EntryKind.Waiting, "Waits for an answer", taken.AddMinutes(6), person.DisplayName, item.MessageId);
            }
        }

        // Work in arrears is spread over the next hours, as it would be in an office that keeps up.
        if (item.State == ItemState.Open && age > TimeSpan.FromHours(20))
        {
            item.DueAt = now.AddMinutes(dice.Between(-90, 600));
        }
    }

    private void WorkOn(Ticket ticket)
    {
        var age = now - ticket.OpenedAt;
        if (age < TimeSpan.FromHours(30) || !dice.Chance(0.9))
        {
            return;
        }

        var person = dice.Pick(Desk);
        var at = ticket.OpenedAt.AddMinutes(dice.Between(90, 1_700));
        if (dice.Chance(0.3))
        {
            Add(null, ticket.Id, EntryKind.Note, dice.Pick("Rang them, all clear now.", "Spoke to the harbour master, agreed.", "Berth 14 given.", "Waiting for the engineer’s report.", "Asked for the papers once more.", "Done with the afternoon tide."), at.AddMinutes(-20), person, ticket.MessageId);
        }

        (ticket.State, ticket.ClosedAt, ticket.ChangedAt) = (TicketState.Closed, at, at);
        Add(null, ticket.Id, EntryKind.Done, "Closed", at, person, ticket.MessageId);
    }

    private void Add(long? item, long? ticket, EntryKind kind, string text, DateTimeOffset at, string person, long message) =>
        db.Entries.Add(new Entry { ItemId = item, TicketId = ticket, Kind = kind, Text = text, At = at, Person = person, MessageId = message });
}
