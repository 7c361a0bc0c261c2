using System.Collections.Immutable;
using PostTide.Core.Messages;
using PostTide.Core.Sorting;

namespace PostTide.Core.Tests.Sorting;

/// <summary>Small mail for sorters: three kinds with words of their own, and words they share.</summary>
internal static class MadeMail
{
    private static readonly string[] Berth = ["berth", "mooring", "overnight", "pontoon", "yacht", "arrive"];
    private static readonly string[] Fuel = ["diesel", "litres", "petrol", "tank", "delivery", "pump"];
    private static readonly string[] Noise = ["noise", "generator", "sleep", "complaint", "music", "midnight"];
    private static readonly string[] Shared = ["please", "harbour", "Friday", "we", "the", "thanks", "could", "boat"];

    public static readonly SorterSettings Settings = new() { Categories = [Category("berth"), Category("fuel"), Category("noise")] };

    public static SorterCategory Category(string id, string description = "", params string[] cues) => new() { Id = id, Name = id, Description = description, Cues = [.. cues] };

    /// <summary>A message of a kind; null for one that belongs to none.</summary>
    public static SorterExample Example(Random random, long id, string? kind)
    {
        string[] own = kind switch { "berth" => Berth, "fuel" => Fuel, "noise" => Noise, _ => ["invoice", "newsletter", "statement", "offer"] };
        var words = Enumerable.Range(0, 6).Select(_ => own[random.Next(own.Length)]).Concat(Enumerable.Range(0, 8).Select(_ => Shared[random.Next(Shared.Length)])).ToArray();
        random.Shuffle(words);
        return new SorterExample(id, kind, Made.Message(words[0], string.Join(' ', words) + "\n", "someone@mail.example") with { Id = id, MessageId = $"{id}@mail.example" });
    }

    /// <summary>So many of each of the three kinds.</summary>
    public static ImmutableArray<SorterExample> Examples(int each, int seed = 1, bool none = false)
    {
        var random = new Random(seed);
        string?[] kinds = none ? ["berth", "fuel", "noise", null] : ["berth", "fuel", "noise"];
        return [.. Enumerable.Range(0, each).SelectMany(i => kinds.Select((k, j) => Example(random, (i * kinds.Length) + j + 1, k)))];
    }

    public static PreparedMessage Says(string body, string subject = "Hello") => Made.Message(subject, body, "someone@mail.example") with { MessageId = "" };
}
