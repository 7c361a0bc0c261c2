using System.Globalization;

namespace PostTide.Core.Matching;

/// <summary>Numbers as people say them.</summary>
public static class Amounts
{
    private const double Step = 1_000;

    /// <summary>Bytes in decimal units (IEC 80000-13), such as <c>5.2 MB</c>.</summary>
    public static string Bytes(double bytes) => Math.Abs(bytes) switch
    {
        < Step => Say(bytes, "0", "bytes"),
        < Step * Step => Say(bytes / Step, "0.#", "kB"),
        < Step * Step * Step => Say(bytes / Step / Step, "0.#", "MB"),
        _ => Say(bytes / Step / Step / Step, "0.#", "GB"),
    };

    /// <summary>Days, such as <c>2.5 days</c>.</summary>
    public static string Days(double days) => Say(days, "0.#", Math.Round(days, 1) == 1 ? "day" : "days");

    /// <summary>A bare number.</summary>
    public static string Number(double number) => number.ToString("0.##", CultureInfo.InvariantCulture);

    private static string Say(double number, string format, string unit) => $"{number.ToString(format, CultureInfo.InvariantCulture)} {unit}";
}
