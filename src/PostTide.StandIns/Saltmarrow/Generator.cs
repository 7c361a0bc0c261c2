using PostTide.StandIns.Saltmarrow.Scenes;

namespace PostTide.StandIns.Saltmarrow;

/// <summary>Makes up the mail of the Saltmarrow Harbour Office. The same seed and times give the same mail.</summary>
public sealed class Generator(int seed)
{
    private readonly Dice _dice = new(seed);

    /// <summary>What is written to the harbour, and how often.</summary>
    private static readonly ((Func<Dice, DateTimeOffset, Draft> Make, string Kind) Scene, double Weight)[] Scenes =
    [
        ((BerthScenes.Request, "berth"), 24), ((BerthScenes.LargeVessel, "large"), 9), ((BerthScenes.Cancellation, "change"), 3), ((ArrivalScenes.Change, "change"), 10),
        ((FuelScenes.Order, "fuel"), 10), ((CargoScenes.Papers, "cargo"), 9), ((PlantScenes.Fault, "plant"), 12), ((PlantScenes.Cleared, "plant"), 5),
        ((TownScenes.Permit, "event"), 4), ((TownScenes.Complaint, "complaint"), 5), ((TownScenes.LostProperty, "lost"), 4), ((InvoiceScenes.Invoice, "invoice"), 9),
        ((MachineScenes.Newsletter, "newsletter"), 5), ((MachineScenes.Absence, "absence"), 3), ((MachineScenes.Bounce, "bounce"), 3), ((OddScenes.Forwarded, ""), 3),
        ((OddScenes.Unclear, "unclear"), 6),
    ];

    /// <summary>About <paramref name="count"/> messages over the days before <paramref name="until"/>, in the order of their arrival.</summary>
    public IReadOnlyList<MadeMail> History(DateTimeOffset until, int days, int count)
    {
        var made = new List<MadeMail>();
        while (made.Count < count)
        {
            AddConversation(made, _dice.Weighted(Scenes), RandomTime(until, days), until);
        }

        // A copy now and then: the same message sent twice by an impatient outbox.
        foreach (var copied in made.Where(m => m.EnvelopeFrom.Length > 0).Where(_ => _dice.Chance(0.006)).ToList())
        {
            made.Add(copied with { At = copied.At.AddMinutes(3) });
        }

        return [.. made.Where(m => m.At <= until).OrderBy(m => m.At).TakeLast(count)];
    }

    /// <summary>One fresh message.</summary>
    public MadeMail One(DateTimeOffset at) => MailBuilder.Build(_dice.Weighted(Scenes).Make(_dice, at) with { Later = null }, at, _dice, []);

    private void AddConversation(List<MadeMail> made, (Func<Dice, DateTimeOffset, Draft> Make, string Kind) scene, DateTimeOffset at, DateTimeOffset until)
    {
        var references = new List<string>();
        (double Hours, Draft Draft)? next = (0, scene.Make(_dice, at));
        while (next is { } now && at.AddHours(now.Hours) <= until)
        {
            at = at.AddHours(now.Hours);
            var mail = MailBuilder.Build(now.Draft, at, _dice, references) with { Kind = scene.Kind };
            made.Add(mail);
            references.Add(mail.Message.MessageId!);
            next = now.Draft.Later;
        }
    }

    /// <summary>Working days carry more mail than weekends, mornings more than evenings.</summary>
    private DateTimeOffset RandomTime(DateTimeOffset until, int days)
    {
        while (true)
        {
            var at = until.AddMinutes(-_dice.Fraction() * days * 24 * 60);
            var busy = at.Hour switch { < 5 => 0.08, < 7 => 0.3, < 12 => 1.0, < 18 => 0.8, < 21 => 0.35, _ => 0.15 };
            var weekend = at.DayOfWeek is DayOfWeek.Saturday or DayOfWeek.Sunday ? 0.45 : 1.0;
            if (_dice.Chance(busy * weekend))
            {
                return at;
            }
        }
    }
}
