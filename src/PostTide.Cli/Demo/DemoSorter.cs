using System.Collections.Immutable;
using PostTide.Core.Messages;
using PostTide.Core.Sorting;
using PostTide.Core.Text;
using PostTide.Mail;
using PostTide.StandIns.Saltmarrow;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Cli.Demo;

/// <summary>The sorter of the Saltmarrow Harbour Office: described, labelled by people who know the mail, number 1 in use.</summary>
internal static class DemoSorter
{
    public const string Name = "Harbour desk";

    private const int MostOfAKind = 36;
    private const int InFirstNumber = 14;
    private const string Labeller = "Bram Okoye";

    /// <summary>Mail that belongs to none of the categories.</summary>
    private static readonly string[] None = ["cargo", "invoice", "newsletter", "unclear"];

    public static readonly SorterSettings Settings = new()
    {
        Categories =
        [
            Category("berth", "Visitor berth", "Asks for a place to moor for one or more nights, with a vessel and a date.", "berth", "mooring", "overnight"),
            Category("large", "Large vessel", "A ship’s agent applies for a berth at the stone quay, with length, draught and cargo.", "LOA", "draught", "agent"),
            Category("change", "Change of arrival", "A vessel already expected comes earlier, later or not at all.", "delayed", "ETA", "cancel"),
            Category("fuel", "Fuel order", "Wants diesel, petrol or lubricants delivered at the dock or alongside.", "diesel", "litres", "bunkers"),
            Category("event", "Quay event", "Wants to hold something on harbour land: market, regatta, filming.", "permit", "event", "quay"),
            Category("complaint", "Complaint", "Somebody is disturbed by noise, smell or dirt and wants it to stop.", "noise", "complaint"),
            Category("lost", "Lost property", "Something was lost or found in the harbour.", "lost", "found", "left behind"),
        ],
        RightAtLeast = 0.98,
        CostlyMistakes = [new CostlyMistake("complaint", null, 3)],
    };

    /// <summary>Labels part of the mail and trains the number in use; without mail there are descriptions only. The number in hand has more labels and is trained by the server.</summary>
    public static void Add(PostTideContext db, Sorter sorter, IReadOnlyList<(Message Row, MadeMail Mail)> history, DateTimeOffset begin, DateTimeOffset now, CancellationToken stop)
    {
        if (history.Count == 0)
        {
            sorter.Numbers.Add(new SorterNumber { Number = 1, State = SorterNumberState.InHand, Settings = Settings, ChangedAt = now, ChangedBy = Labeller });
            return;
        }

        var labelled = history.Where(h => Settings.Categories.Any(c => c.Id == h.Mail.Kind) || None.Contains(h.Mail.Kind))
            .GroupBy(h => h.Mail.Kind).SelectMany(g => g.Take(MostOfAKind).Select((h, i) => (h.Row, h.Mail, First: i < InFirstNumber, Place: i))).ToList();
        var known = new List<SorterExample>();
        foreach (var (row, mail, first, place) in labelled)
        {
            // Two labels went wrong, as happens.
            var kind = mail.Kind == "large" && place is 5 or 11 ? "berth" : mail.Kind;
            var category = None.Contains(kind) ? null : kind;
            db.SorterLabels.Add(new SorterLabel
            {
                SorterId = sorter.Id,
                MessageId = row.Id,
                CategoryId = category,
                Source = LabelSource.Labelling,
                By = Labeller,
                At = first ? begin : now.AddDays(-2).AddMinutes(place),
            });
            if (first)
            {
                known.Add(new SorterExample(row.Id, category, Prepare(row, mail)));
            }
        }

        var training = SorterTrainer.Train(Settings, known, stop: stop);
        sorter.Numbers.Add(new SorterNumber
        {
            Number = 1,
            State = SorterNumberState.InUse,
            Settings = Settings,
            ChangedAt = begin,
            ChangedBy = Labeller,
            TrainedAt = begin,
            TrainedOn = known.Count,
            Model = SorterFile.Write(training.Sorter),
            Evaluation = training.Evaluation,
            Predictions = [.. training.Predictions],
            UsedSince = begin,
        });
        sorter.Numbers.Add(new SorterNumber { Number = 2, State = SorterNumberState.InHand, Settings = Settings, ChangedAt = now, ChangedBy = Labeller });
    }

    private static PreparedMessage Prepare(Message row, MadeMail mail) =>
        Preparation.Prepare(MailReader.Read(mail.ToBytes()), new Envelope(row.EnvelopeFrom, [.. row.EnvelopeTo]), row.ArrivedAt) with { Id = row.Id };

    private static SorterCategory Category(string id, string name, string description, params string[] cues) =>
        new() { Id = id, Name = name, Description = description, Cues = [.. cues] };
}
