namespace PostTide.StandIns.Saltmarrow;

/// <summary>Seeded chance: the same seed gives the same mail.</summary>
public sealed class Dice(int seed)
{
    private readonly Random _random = new(seed);

    public int Between(int low, int high) => _random.Next(low, high + 1);

    public double Fraction() => _random.NextDouble();

    public bool Chance(double probability) => _random.NextDouble() < probability;

    public T Pick<T>(IReadOnlyList<T> from) => from[_random.Next(from.Count)];

    public string Pick(params string[] from) => from[_random.Next(from.Length)];

    /// <summary>One of several, each as likely as its weight says.</summary>
    public T Weighted<T>(IReadOnlyList<(T Value, double Weight)> from)
    {
        var at = _random.NextDouble() * from.Sum(f => f.Weight);
        foreach (var (value, weight) in from)
        {
            at -= weight;
            if (at <= 0)
            {
                return value;
            }
        }

        return from[^1].Value;
    }

    /// <summary>Some of the texts, in their order.</summary>
    public IEnumerable<string> Some(double probability, params string[] from) => from.Where(_ => Chance(probability));

    /// <summary>A code of capital letters and digits.</summary>
    public string Code(string pattern) => new([.. pattern.Select(c => c switch
    {
        'A' => (char)('A' + Between(0, 25)),
        '9' => (char)('0' + Between(0, 9)),
        _ => c,
    })]);
}
