namespace PostTide.StandIns.Saltmarrow.Scenes;

/// <summary>What the town writes: permits, complaints, lost property.</summary>
internal static class TownScenes
{
    public static Draft Permit(Dice dice, DateTimeOffset at)
    {
        var writer = dice.Pick(Cast.Townspeople);
        var day = at.AddDays(dice.Between(20, 90));
        var what = dice.Pick("a small brass concert", "the Lantern Festival's opening", "a street food evening", "an outdoor film night", "a charity rowing day", "a wedding photograph session", "the model boat regatta", "a second-hand book market");
        var core = dice.Pick(
            $"We should like to hold {what} on the old quay on {Office.Day(day)} and understand that a permit is needed. What do you have to know from us?",
            $"I am applying for a permit for {what}, {Office.Day(day)}, from {Office.Clock(dice)} until ten at night, about {dice.Between(4, 60) * 10} people.",
            $"Is the quay free on {Office.Day(day)}? We are planning {what} and would need electricity and the gates open for two vans.",
            $"Last year you gave us leave for {what}. May we do it again on {Office.Day(day)}? The sketch of the stalls is attached, it has not changed much.");
        var extras = dice.Some(0.3, "We are insured for public events and can send the policy.", "There will be a small stage, three metres by four, and no fireworks.", "First aid will be on site.", "Who do we speak to about closing the car park?");
        return new Draft(writer, dice.Weighted([(Office.Events, 0.6), (Office.Harbour, 0.4)]), dice.Pick($"Permit for {what}", "Event on the quay", "Application: use of the old quay", $"Quay on {Office.Day(day)}?"), [core, .. extras])
        {
            Files = dice.Chance(0.3) ? [Files.Picture("stalls sketch.png", dice)] : dice.Chance(0.2) ? [Files.Calendar("event.ics", dice.Code("AAAA9999"), what, day)] : [],
        };
    }

    public static Draft Complaint(Dice dice, DateTimeOffset at)
    {
        var writer = dice.Pick(Cast.Townspeople);
        var core = dice.Pick(
            "The generator on the yacht by the steps ran the whole night again. I did not sleep and neither did the children. This is the third time I am writing.",
            $"I wish to complain about the noise from the quay on the night of {Office.Day(at.AddDays(-1))}. The music could be heard with the windows shut until half past one.",
            "Halyards slapping on the masts since Thursday, all night long. Surely somebody could go round and tie them off.",
            "The reversing signal of your boat hoist starts at ten past six in the morning. The notice on the gate says seven.",
            "There was a smell of diesel along the whole of Fish Street this morning and a film on the water by the slip. Somebody should look at that fuel dock.",
            "The crane was unloading scrap until midnight. I am told there is a rule about this. I would like to know what it says and who minds it.");
        var extras = dice.Some(0.35,
            "I expect an answer this time, not a form letter.", "My neighbours at number six will tell you the same.", "I have lived here for thirty-one years and do not complain lightly.",
            "A recording is on my telephone if you want it.", "If nothing happens I shall take it to the council.");
        return new Draft(writer, Office.Harbour, dice.Pick("Noise AGAIN", "Complaint: noise at night", "noise from the quay", "Formal complaint", "Sleepless on Ropewalk", "please do something about the generator", "Smell of diesel"), [core, .. extras]) is var draft
            && dice.Chance(0.25)
                ? draft with { Later = (dice.Between(20, 90), new Draft(writer, Office.Harbour, $"Re: {draft.Subject}", [dice.Pick("It happened again last night. Is anybody reading this?", "Thank you for looking into it. It has been quiet since, which I wanted to say as well.", "I have had no answer beyond the automatic one.")]) { Quoted = Office.Quote(at.AddHours(5), "Thank you for your message. We are sorry that you were disturbed\nand will look into it.\n\nSaltmarrow Harbour Office") }) }
                : draft;
    }

    public static Draft LostProperty(Dice dice, DateTimeOffset at)
    {
        var writer = dice.Pick(Cast.Townspeople.Concat(Cast.Vessels.Where(v => !v.Large).Select(v => v.Master)).ToList());
        var thing = dice.Pick("a navy blue windproof jacket", "a child's red rucksack with a felt whale on it", "my reading glasses", "a bunch of four keys on a cork float", "a folding bicycle, green", "a hand-held VHF radio", "one left sailing boot", "a silver hearing aid in a small case", "a black notebook with tide tables pasted in");
        var core = dice.Pick(
            $"Has anybody handed in {thing}? I must have left it near the ferry steps on {Office.Day(at.AddDays(-dice.Between(0, 4)))}.",
            $"I lost {thing} somewhere between the car park and the east pontoon. It has no value to anybody but me.",
            $"We think we left {thing} in the shower block. Could somebody have a look?",
            $"Found on the slipway this morning: {thing}. I have it here and would gladly bring it to the office.");
        return new Draft(writer, Office.Harbour, dice.Pick("Lost property", "lost: " + thing, "Something left behind", "Found on the slip", "Did somebody hand this in?"), [core]) { Files = dice.Chance(0.15) ? [Files.Picture("IMG_2043.png", dice)] : [] };
    }
}
