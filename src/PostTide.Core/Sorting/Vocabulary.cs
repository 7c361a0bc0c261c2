using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;

namespace PostTide.Core.Sorting;

/// <summary>The features a model knows, each with its inverse document frequency (IIR §6.2.1, smoothed): the rarer, the heavier.</summary>
internal sealed class Vocabulary
{
    private const int Shares = 4;
    private readonly uint[] _keys;
    private readonly int[] _slots;

    /// <param name="keys">The features, in ascending order.</param>
    /// <param name="rarity">Their inverse document frequencies.</param>
    /// <param name="unknownRarity">That of a feature no example has.</param>
    public Vocabulary(uint[] keys, float[] rarity, float unknownRarity)
    {
        _keys = keys;
        Rarity = rarity;
        UnknownRarity = unknownRarity;
        var size = 16;
        while (size < keys.Length * 2)
        {
            size *= 2;
        }

        _slots = new int[size];
        for (var i = 0; i < keys.Length; i++)
        {
            var at = keys[i] & (uint)(size - 1);
            while (_slots[at] != 0)
            {
                at = (at + 1) & (uint)(size - 1);
            }

            _slots[at] = i + 1;
        }
    }

    public int Count => _keys.Length;
    public ReadOnlySpan<uint> Keys => _keys;
    public float[] Rarity { get; }
    public float UnknownRarity { get; }

    /// <summary>The place of a feature; −1 when it is not known.</summary>
    public int Find(uint key)
    {
        var mask = (uint)_slots.Length - 1;
        for (var at = key & mask; ; at = (at + 1) & mask)
        {
            var slot = _slots[at];
            if (slot == 0)
            {
                return -1;
            }

            if (_keys[slot - 1] == key)
            {
                return slot - 1;
            }
        }
    }

    /// <summary>The features of some texts.</summary>
    /// <param name="texts">The texts.</param>
    /// <param name="others">Further texts that only tell how rare a feature is.</param>
    /// <param name="least">In how many texts a feature has to be to be known.</param>
    /// <param name="most">How many features at most; the most widespread ones are kept.</param>
    public static Vocabulary Of(IReadOnlyList<FeatureVector> texts, IReadOnlyList<FeatureVector> others, int least, int most)
    {
        // Features are spread evenly over their numbers: each share of them is counted by itself, on every core.
        var shares = new (uint Key, int Count, int Everywhere)[Shares][];
        Parallel.For(0, Shares, share => shares[share] = CountShare(texts, others, least, (uint)share));
        var known = shares.SelectMany(s => s).ToArray();
        if (known.Length > most)
        {
            Array.Sort(known, (a, b) => a.Count != b.Count ? b.Count.CompareTo(a.Count) : a.Key.CompareTo(b.Key));
            known = known[..most];
        }

        Array.Sort(known, (a, b) => a.Key.CompareTo(b.Key));
        var total = texts.Count + others.Count;
        return new Vocabulary(
            [.. known.Select(k => k.Key)], [.. known.Select(k => RarityOf(total, k.Everywhere))], RarityOf(total, 0));
    }

    private static (uint Key, int Count, int Everywhere)[] CountShare(IReadOnlyList<FeatureVector> texts, IReadOnlyList<FeatureVector> others, int least, uint share)
    {
        // Of the features of many texts about one in six is new; room for them beforehand saves moving them.
        var counts = new Dictionary<uint, int>(texts.Sum(t => t.Keys.Length) / 6 / Shares);
        foreach (var text in texts)
        {
            foreach (var key in text.Keys)
            {
                if (key % Shares == share)
                {
                    CollectionsMarshal.GetValueRefOrAddDefault(counts, key, out _)++;
                }
            }
        }

        var known = counts.Where(c => c.Value >= least).ToArray();
        foreach (var key in others.SelectMany(t => t.Keys))
        {
            ref var count = ref CollectionsMarshal.GetValueRefOrNullRef(counts, key);
            if (!Unsafe.IsNullRef(ref count))
            {
                count++;
            }
        }

        return [.. known.Select(c => (c.Key, c.Value, counts[c.Key]))];
    }

    /// <summary>ln((1 + N) / (1 + df)) + 1: never zero, so that a word every text has still counts; to the precision in which it is kept.</summary>
    internal static float RarityOf(int texts, int containing) => (float)(Half)(MathF.Log((1f + texts) / (1f + containing)) + 1);
}
