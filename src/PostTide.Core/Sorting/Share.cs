namespace PostTide.Core.Sorting;

/// <summary>A share of a number of cases with its confidence interval.</summary>
/// <param name="Of">How many cases.</param>
/// <param name="Value">The share, 0 to 1; 0 where there are no cases.</param>
/// <param name="Low">The lower end of the 95 % interval.</param>
/// <param name="High">The upper end.</param>
public sealed record Share(int Of, double Value, double Low, double High)
{
    /// <summary>The two-sided 95 % point of the normal distribution.</summary>
    public const double Z95 = 1.959963984540054;

    /// <summary>Wilson’s score interval (NIST/SEMATECH e-Handbook of Statistical Methods, 7.2.4.1).</summary>
    /// <param name="count">The cases that are so.</param>
    /// <param name="of">All cases.</param>
    /// <param name="z">How many standard deviations wide.</param>
    public static Share Wilson(int count, int of, double z = Z95)
    {
        if (of == 0)
        {
            return new Share(0, 0, 0, 1);
        }

        var (n, p, zz) = ((double)of, (double)count / of, z * z);
        var middle = p + (zz / (2 * n));
        var half = z * Math.Sqrt((p * (1 - p) / n) + (zz / (4 * n * n)));
        var whole = 1 + (zz / n);
        return new Share(of, p, Math.Max(0, (middle - half) / whole), Math.Min(1, (middle + half) / whole));
    }
}
