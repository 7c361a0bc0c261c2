namespace PostTide.StandIns.Saltmarrow.Scenes;

/// <summary>Fuel orders.</summary>
internal static class FuelScenes
{
    public static Draft Order(Dice dice, DateTimeOffset at)
    {
        var vessel = dice.Pick(Cast.Vessels);
        var litres = vessel.Large ? dice.Between(4, 60) * 500 : dice.Between(6, 60) * 10;
        var day = at.AddDays(dice.Between(0, 6));
        var fuel = dice.Pick("diesel", "marine diesel", "gas oil", "red diesel", "HVO");
        var core = dice.Pick(
            $"Could we have {litres} litres of {fuel} for {vessel.Name} on {Office.Day(day)}, around {Office.Clock(dice)} if the dock is free?",
            $"Fuel order: {vessel.Name}, {litres} l {fuel}, {day:dd/MM} {Office.Clock(dice)}. Payment on account.",
            $"Please quote for {litres} litres {fuel} delivered to {vessel.Name} alongside. We also need a barrel of 15W-40 if you keep it.",
            $"Need to bunker {litres} l before we sail on {Office.Day(day)}. When does the fuel dock open?",
            $"{vessel.Name} would like to come to the fuel dock for about {litres} l of {fuel}. Is there enough water at half tide? We draw {vessel.Draught} m.");
        var extras = dice.Some(0.2,
            "We have only the small filler on port side, so the slow nozzle please.", "A receipt with the vessel's name on it for the tax people would help.",
            "Last time the card machine was down. Is it mended?", "We also want to hand in about 20 litres of used oil.", "Can you take a bank transfer?");
        return new Draft(vessel.Master, dice.Weighted([(Office.Fuel, 0.75), (Office.Harbour, 0.25)]),
            dice.Pick($"Fuel for {vessel.Name}", "diesel", $"Bunkers {vessel.Name}", "Fuel order", $"{litres} l {fuel}", "fuel dock times"), [core, .. extras]);
    }
}
