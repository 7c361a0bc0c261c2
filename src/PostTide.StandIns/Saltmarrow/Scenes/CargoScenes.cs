namespace PostTide.StandIns.Saltmarrow.Scenes;

/// <summary>Cargo papers with their attachments.</summary>
internal static class CargoScenes
{
    public static Draft Papers(Dice dice, DateTimeOffset at)
    {
        var vessel = dice.Pick(Cast.Vessels.Where(v => v.Large && v.Kind is "coaster" or "bulk carrier" or "fishing vessel").ToList());
        var goods = dice.Pick("sawn timber", "road salt in bulk", "malting barley", "crushed granite", "fish meal in bags", "wind turbine parts", "fertiliser in big bags", "round wood");
        var tonnes = dice.Between(18, 260) * 10;
        var voyage = dice.Code("A-999");
        var core = dice.Pick(
            $"Please find attached the cargo manifest and bill of lading for {vessel.Name}, voyage {voyage}: {tonnes} t {goods}. Discharge is planned for {Office.Day(at.AddDays(3))}.",
            $"Attached: papers for {vessel.Name} {voyage}. {tonnes} tonnes {goods}, one hold. Customs reference to follow.",
            $"{vessel.Name} / {voyage}: manifest attached as requested. Kindly arrange weighing and let us know the stevedores' gang times.",
            $"As agreed on the telephone I send the stowage plan and the manifest ({goods}, {tonnes} t). The original bills travel with the master.");
        var extras = dice.Some(0.25,
            "The notify party has changed, see page two.", "There is dangerous goods documentation for two packages, class 9, on the last page.",
            "Draft survey on arrival please.", "The receiver's lorries will come from seven o'clock.", "We are still waiting for the phytosanitary certificate and will send it separately.");
        DraftFile[] files =
        [
            Files.Pdf($"{dice.Pick("Manifest", "manifest", "CARGO MANIFEST")} {vessel.Name} {voyage}.pdf", "Cargo manifest", vessel.Name, $"Voyage {voyage}", $"{tonnes} t {goods}"),
            .. dice.Chance(0.5) ? new[] { Files.Csv($"packing-list_{voyage}.csv", "item,quantity,unit", $"\"{goods}\",{tonnes},t") } : [],
            .. dice.Chance(0.3) ? new[] { Files.Picture("stowage plan.png", dice) } : [],
        ];

        // Now and then the file that the text speaks of was forgotten.
        return new Draft(vessel.Master, dice.Weighted([(Office.Cargo, 0.85), (Office.Harbour, 0.15)]),
            dice.Pick($"Cargo papers {vessel.Name} {voyage}", $"{vessel.Name} - manifest", $"Documents voyage {voyage}", $"B/L and manifest, {goods}"), [core, .. extras])
        {
            Files = dice.Chance(0.08) ? [] : files,
        };
    }
}
