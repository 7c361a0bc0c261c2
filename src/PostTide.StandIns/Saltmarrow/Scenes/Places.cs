namespace PostTide.StandIns.Saltmarrow.Scenes;

/// <summary>The addresses of the harbour office, and how its own mail reads when it is quoted.</summary>
internal static class Office
{
    public const string Harbour = "harbour@saltmarrow.example";
    public const string Berths = "berths@saltmarrow.example";
    public const string Fuel = "fuel@saltmarrow.example";
    public const string Cargo = "cargo@saltmarrow.example";
    public const string Plant = "plant@saltmarrow.example";
    public const string Accounts = "accounts@saltmarrow.example";
    public const string Events = "events@saltmarrow.example";

    public static string Day(DateTimeOffset at) => at.ToString("dddd d MMMM", System.Globalization.CultureInfo.InvariantCulture);

    public static string Clock(Dice dice) => $"{dice.Between(5, 21):00}{dice.Pick(":", "", ".")}{dice.Pick("00", "15", "30", "45")}";

    /// <summary>The office's own answer as the other side's mail program repeats it.</summary>
    public static string Quote(DateTimeOffset at, string answer) =>
        $"On {at.ToString("ddd, d MMM yyyy HH:mm", System.Globalization.CultureInfo.InvariantCulture)} Saltmarrow Harbour Office wrote:\n"
        + string.Join("\n", answer.Split('\n').Select(l => $"> {l}"));
}
