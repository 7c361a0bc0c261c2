namespace PostTide.StandIns.Saltmarrow.Scenes;

/// <summary>Notices from the system that watches crane and pumps.</summary>
internal static class PlantScenes
{
    private static readonly Writer Monitor = new("Plantwatch", "notices@plantwatch.example", Manner.Terse, "");

    private static readonly (string Code, string Name, string[] Faults)[] Units =
    [
        ("CR-1", "Quay crane 1", ["Hoist brake temperature high (94 °C)", "Slew encoder: no signal for 30 s", "Load cell deviation 4.2 %", "Overload trip at 11.8 t", "Limit switch, upper end: stays closed"]),
        ("CR-2", "Boat hoist", ["Hydraulic pressure low (61 bar)", "Remote control: battery below 15 %", "Strap 3 tension differs by 18 %"]),
        ("PU-1", "Fuel dock pump", ["Flow stopped with valve open", "Leak sensor wet", "Motor current 19 A, limit 16 A"]),
        ("PU-3", "Dry dock drain pump", ["Level does not fall after 20 min", "Bearing vibration 7.9 mm/s", "Float switch stuck", "Restarted 6 times within an hour"]),
        ("PU-4", "Sluice pump", ["Inlet screen blocked", "Level high, 3.12 m", "Phase L2 missing"]),
    ];

    public static Draft Fault(Dice dice, DateTimeOffset at)
    {
        var (code, name, faults) = dice.Pick(Units);
        var fault = dice.Pick(faults);
        var number = dice.Code("99999");
        return Notice(dice, at, $"[Plantwatch] FAULT {code} {name}: {fault}",
        [
            $"Unit:      {code} {name}\nState:     FAULT\nMessage:   {fault}\nSince:     {at:yyyy-MM-dd HH:mm} UTC\nNotice:    {number}",
            dice.Pick("The unit has been switched off by its own protection.", "The unit is still running.", "Automatic restart is disabled.", "This is the second notice of this kind today."),
            "Contact on duty: duty.engineer@saltmarrow.example",
        ]) with
        {
            Files = dice.Chance(0.2) ? [Files.Csv($"{code}-trend.csv", "time,value", $"{at.AddMinutes(-10):HH:mm},{dice.Between(20, 60)}", $"{at:HH:mm},{dice.Between(60, 99)}")] : [],
        };
    }

    public static Draft Cleared(Dice dice, DateTimeOffset at)
    {
        var (code, name, faults) = dice.Pick(Units);
        return Notice(dice, at, $"[Plantwatch] CLEARED {code} {name}",
        [
            $"Unit:      {code} {name}\nState:     CLEARED\nMessage:   {dice.Pick(faults)}\nLasted:    {dice.Between(2, 190)} min\nNotice:    {dice.Code("99999")}",
        ]);
    }

    private static Draft Notice(Dice dice, DateTimeOffset at, string subject, string[] paragraphs) => new(Monitor, Office.Plant, subject, paragraphs)
    {
        Machine = true,
        Fields = [("X-Plantwatch-Sent", at.ToString("yyyyMMddHHmmss", System.Globalization.CultureInfo.InvariantCulture) + dice.Code("99"))],
    };
}
