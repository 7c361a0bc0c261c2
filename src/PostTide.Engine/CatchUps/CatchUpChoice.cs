using System.Globalization;
using PostTide.Store.Search;

namespace PostTide.Engine.CatchUps;

/// <summary>Which old messages a catch-up is about.</summary>
/// <param name="Query">The search, with its mailbox and dates.</param>
/// <param name="Ids">Messages selected by hand; null for whatever the search finds.</param>
/// <param name="Most">At most this many, the newest first.</param>
public sealed record CatchUpChoice(MessageQuery Query, IReadOnlyList<long>? Ids, int Most)
{
    /// <summary>More messages than this are carried out in several runs.</summary>
    public const int Largest = 10_000;

    /// <summary>The choice in words.</summary>
    public string Say(string? mailbox)
    {
        if (Ids is not null)
        {
            return Ids.Count == 1 ? "one message" : $"{Ids.Count} messages selected by hand";
        }

        var parts = new List<string>();
        if (Query.Text.Trim().Length > 0)
        {
            parts.Add($"found by “{Query.Text.Trim()}”");
        }

        if (mailbox is not null)
        {
            parts.Add($"in {mailbox}");
        }

        if (Query.Show != MessageShow.All)
        {
            parts.Add(Query.Show switch
            {
                MessageShow.TakenIn => "taken in",
                MessageShow.LeftAlone => "left alone",
                MessageShow.Old => "old mail",
                MessageShow.Automatic => "automatic",
                MessageShow.Held => "held",
                MessageShow.Duplicate => "copies",
                _ => "unreadable",
            });
        }

        if (Query.From is { } from)
        {
            parts.Add($"from {from.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture)}");
        }

        if (Query.Until is { } until)
        {
            parts.Add($"before {until.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture)}");
        }

        parts.Add($"at most {Most}");
        return "mail" + (parts.Count == 1 ? ", " : " ") + string.Join(", ", parts);
    }
}
