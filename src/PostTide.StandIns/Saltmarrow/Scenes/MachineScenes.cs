namespace PostTide.StandIns.Saltmarrow.Scenes;

/// <summary>Mail no person wrote: newsletters, absence notices, bounces.</summary>
internal static class MachineScenes
{
    public static Draft Newsletter(Dice dice, DateTimeOffset at)
    {
        var (name, address) = dice.Pick<(string, string)>([("Small Ports Bulletin", "bulletin@smallports.example"), ("Chandlers' Weekly Offers", "offers@chandlersweekly.example"), ("Coastal Weather Digest", "digest@coastalweather.example"), ("Harbour Masters' Forum", "forum-list@harbourforum.example")]);
        var subject = dice.Pick($"{name}: {at:MMMM} issue", "This week: antifouling at a third off", "Notice of the annual general meeting", "[forum] Charging for hoist time, what do others do?", "Long-range outlook for the coast", "New rules for shore power: what to know");
        return new Draft(new Writer(name, address, Manner.Formal, ""), dice.Weighted([(Office.Harbour, 0.8), (Office.Accounts, 0.2)]), subject,
        [
            dice.Pick(
                "In this issue: a harbour that pays for its dredging with seaweed, three views on lone sailing, and the price of zinc.",
                "Members have asked how others charge for hoist time that runs over. The answers so far range from “by the quarter hour” to “we sigh”.",
                "Outlook: unsettled at first with a depression passing to the north, then a ridge. Berth your visitors accordingly.",
                "Rope, shackles and fenders at prices that will not come back before the spring."),
            "You receive this because you subscribed. To leave the list follow the link below.\nhttps://" + address.Split('@')[1] + "/leave?id=" + dice.Code("A9A9A9A9"),
        ])
        {
            Machine = true,
            Fields = [("List-Id", $"{name} <{address.Replace('@', '.')}>"), ("List-Unsubscribe", $"<https://{address.Split('@')[1]}/leave>"), ("Precedence", "bulk")],
        };
    }

    public static Draft Absence(Dice dice, DateTimeOffset at)
    {
        var writer = dice.Pick(Cast.Vessels.Select(v => v.Master).Concat(Cast.Suppliers).ToList());
        var (subject, text) = dice.Pick<(string, string)>(
        [
            ("Automatic reply: Your berth request", $"I am at sea until {Office.Day(at.AddDays(8))} and read mail only when there is a signal. In urgent cases call the boat on VHF."),
            ("Out of office", $"Thank you for your message. The office is closed until {Office.Day(at.AddDays(4))}. Your mail is not forwarded."),
            ("Abwesenheitsnotiz: Re: Liegeplatz", "Ich bin bis Ende der Woche nicht im Büro. Ihre Nachricht wird nicht weitergeleitet."),
            ("Réponse automatique : Votre demande", "Je suis absent du bureau cette semaine. Je vous répondrai dès mon retour."),
        ]);
        return new Draft(writer, dice.Pick(Office.Berths, Office.Harbour, Office.Accounts), subject, [text]) { Machine = true, Fields = [("Auto-Submitted", "auto-replied")] };
    }

    public static Draft Bounce(Dice dice, DateTimeOffset at)
    {
        var failed = dice.Pick(Cast.Vessels.Select(v => v.Master.Address).ToList());
        var domain = failed.Split('@')[1];
        return new Draft(new Writer("Mail Delivery System", $"mailer-daemon@{domain}", Manner.Terse, ""), dice.Pick(Office.Berths, Office.Harbour), dice.Pick("Undelivered Mail Returned to Sender", "Delivery Status Notification (Failure)", "Mail delivery failed: returning message to sender"),
        [
            $"This is the mail system at host mx.{domain}.",
            $"I'm sorry to have to inform you that your message could not be delivered to one or more recipients.\n\n<{failed}>: host mx.{domain} said: {dice.Pick("550 5.1.1 user unknown", "452 4.2.2 mailbox full", "554 5.7.1 rejected by policy")} (in reply to RCPT TO command)",
            $"Reporting-MTA: dns; mx.{domain}\nArrival-Date: {at:R}\n\nFinal-Recipient: rfc822; {failed}\nAction: failed\nStatus: 5.1.1",
        ])
        {
            Machine = true,
            NullPath = true,
            Fields = [("Auto-Submitted", "auto-replied")],
        };
    }
}
