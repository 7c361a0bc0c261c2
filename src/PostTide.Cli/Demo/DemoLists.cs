using PostTide.Store.Records;

namespace PostTide.Cli.Demo;

/// <summary>The keyword lists of the Saltmarrow Harbour Office.</summary>
public static class DemoLists
{
    public static IEnumerable<KeywordListRecord> All()
    {
        static KeywordListRecord List(string name, string description, params string[] words) => new() { Name = name, Description = description, Words = words, Revision = 1 };
        yield return List("Berthing words", "What people call a place to lie", "berth", "berths", "berthing", "mooring", "moorings", "pontoon", "alongside", "finger berth", "buoy", "visitors' pontoon", "lie at the stone quay", "large berth");
        yield return List("Large vessel words", "Signs of a vessel for the commercial quay", "LOA", "gross tonnage", "coaster", "superyacht", "bulk carrier", "dredger", "brigantine", "spritsail barge", "fishing vessel", "agents for", "tug", "pilot", "metres over all");
        yield return List("Arrival change words", "A booked vessel comes at another time", "new ETA", "revised ETA", "change of arrival", "arrival change", "delayed", "running late", "ETA update", "earlier than planned", "hold our berth");
        yield return List("Cancellation words", "A booking is withdrawn", "cancel", "cancellation", "withdrawn", "release the berth", "we can't make it");
        yield return List("Fuel words", "Fuel and bunkers", "fuel", "diesel", "gas oil", "bunker", "bunkers", "HVO", "litres", "fuel dock");
        yield return List("Cargo words", "Papers of a cargo call", "manifest", "bill of lading", "B/L", "packing list", "stowage plan", "cargo", "voyage");
        yield return List("Invoice words", "Bills and what goes with them", "invoice", "credit note", "statement of account", "reminder");
        yield return List("Complaint words", "Somebody is not happy", "complaint", "complain", "noise", "sleepless", "did not sleep", "smell of diesel", "all night long", "until midnight", "until half past one");
        yield return List("Permit words", "Events on the quay", "permit", "festival", "regatta", "market", "film night", "concert", "event on the quay", "old quay", "give us leave");
        yield return List("Lost property words", "Lost and found", "lost property", "handed in", "I lost", "left behind", "found on the slip", "found on the slipway", "lost");
    }
}
