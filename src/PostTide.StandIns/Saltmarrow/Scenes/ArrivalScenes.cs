namespace PostTide.StandIns.Saltmarrow.Scenes;

/// <summary>Changes of arrival.</summary>
internal static class ArrivalScenes
{
    public static Draft Change(Dice dice, DateTimeOffset at)
    {
        var vessel = dice.Pick(Cast.Vessels);
        var eta = at.AddHours(dice.Between(6, 60));
        var core = dice.Pick(
            $"Change of arrival for {vessel.Name}: new ETA {Office.Day(eta)} {Office.Clock(dice)}. {Reason(dice)}",
            $"We are running late. {vessel.Name} now expects to be off the mole about {Office.Clock(dice)} on {Office.Day(eta)}. {Reason(dice)}",
            $"Revised ETA {vessel.Name} {eta:dd/MM} {Office.Clock(dice)} agw wp. {Reason(dice)}",
            $"Could you hold our berth one more night? {Reason(dice)} {vessel.Name} should be with you on {Office.Day(eta)} instead.",
            $"Earlier than planned, for once: {vessel.Name} will arrive {Office.Day(eta)}, towards {Office.Clock(dice)}. I hope that is not a problem.");
        var extras = dice.Some(0.2, "Everything else stays as booked.", "We will be on channel 12 from the fairway buoy.", "Please tell the fuel dock too.", "Length of stay unchanged.");
        return new Draft(vessel.Master, dice.Weighted([(Office.Berths, 0.6), (Office.Harbour, 0.4)]),
            dice.Pick($"{vessel.Name} delayed", $"Change of arrival {vessel.Name}", $"new ETA {vessel.Name}", "running late", $"ETA update: {vessel.Name}", "Arrival change"), [core, .. extras]);
    }

    private static string Reason(Dice dice) => dice.Pick(
        "Head wind and a foul tide off the point.", "Fog bank since dawn, proceeding at four knots.", "The alternator belt let go and we put into Wexley for the night.",
        "Loading took longer than planned.", "Crew member unwell, nothing serious.", "We waited for the lock.", "The forecast for the weekend is better than it has any right to be.",
        "Pilot shortage at the last port.", "A halyard went up the mast by itself.");
}
