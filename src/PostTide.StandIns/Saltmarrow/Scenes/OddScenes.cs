namespace PostTide.StandIns.Saltmarrow.Scenes;

/// <summary>What fits nowhere: forwarded chains and mail that does not say what it wants.</summary>
internal static class OddScenes
{
    public static Draft Forwarded(Dice dice, DateTimeOffset at)
    {
        var inner = BerthScenes.Request(dice, at);
        var writer = dice.Pick(Cast.Townspeople);
        return new Draft(writer, Office.Harbour, $"Fwd: {inner.Subject}", [dice.Pick("This came to me by mistake, I think it is for you.", "Found this in the club's inbox, could you take it from here?", "See below. Is this something for the berthing desk?")])
        {
            Quoted = $"---------- Forwarded message ----------\nFrom: {inner.From.Name} <{inner.From.Address}>\nDate: {at.AddHours(-7).ToString("ddd, d MMM yyyy HH:mm", System.Globalization.CultureInfo.InvariantCulture)}\nSubject: {inner.Subject}\nTo: secretary@saltmarrow-yc.example\n\n{string.Join("\n\n", inner.Paragraphs)}\n\n{inner.From.Signature}",
        };
    }

    public static Draft Unclear(Dice dice, DateTimeOffset at)
    {
        var writer = dice.Pick(Cast.Townspeople.Concat(Cast.Vessels.Select(v => v.Master)).Concat(Cast.Suppliers).ToList());
        return new Draft(writer, Office.Harbour, dice.Pick("Question", "Hello", "(no subject)", "", "As discussed", "Wi-Fi", "Friday", "job?", "school visit", "thank you!"),
        [
            dice.Pick(
                "As discussed with your colleague on the phone. Let me know if anything is missing.",
                "Do you know whether the bakery van still comes to the pontoons on Sundays?",
                "My daughter is fourteen and wants to be a harbour master. Is there somebody she could follow around for a day?",
                "What is the password of the wireless network in the wash house? The one on the door does not work any more.",
                "Thank you to the gentleman in the yellow jacket who caught our line on Saturday. He did not give his name.",
                "Are you hiring for the summer? I have a powerboat ticket and do not mind rain.",
                "The lamp on the second bollard from the end has been out since the storm.",
                "Could I bring a class of 28 eight-year-olds to see the crane? They would not touch anything.",
                "Which of you do I speak to about the seal on the slip? It has been there since yesterday and looks at people.",
                $"Please see attached and confirm by {Office.Day(at.AddDays(2))}."),
        ]);
    }
}
