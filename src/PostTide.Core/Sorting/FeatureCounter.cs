namespace PostTide.Core.Sorting;

/// <summary>Counts features in an open table that is used again and again.</summary>
internal sealed class FeatureCounter : IFeatureSink
{
    // How much one feature of a family counts beside the others: chosen on the older part of the public mail corpus, the newest kept aside.
    private static readonly float[] FamilyWeights = [1f, 1f, 1f, 0.4f, 3f];

    private int[] _slots = new int[1 << 13];
    private uint[] _keys = new uint[1 << 12];
    private ushort[] _counts = new ushort[1 << 12];
    private FeatureFamily[] _families = new FeatureFamily[1 << 12];
    private int _count;

    /// <summary>Forgets what was counted.</summary>
    public void Begin()
    {
        Array.Clear(_slots);
        _count = 0;
    }

    public bool Take(uint key, FeatureFamily family, FeaturePlace place)
    {
        var mask = (uint)_slots.Length - 1;
        var at = key & mask;
        while (_slots[at] is var slot and not 0)
        {
            if (_keys[slot - 1] == key)
            {
                if (_counts[slot - 1] < ushort.MaxValue)
                {
                    _counts[slot - 1]++;
                }

                return false;
            }

            at = (at + 1) & mask;
        }

        if (_count == _keys.Length)
        {
            Grow();
            return Take(key, family, place);
        }

        _keys[_count] = key;
        _counts[_count] = 1;
        _families[_count] = family;
        _slots[at] = ++_count;
        return true;
    }

    /// <summary>What was counted; a word met often counts more than one met once, but not in proportion (the logarithm, IIR §6.4.1).</summary>
    public FeatureVector Vector()
    {
        var values = new float[_count];
        for (var i = 0; i < _count; i++)
        {
            values[i] = FamilyWeights[(int)_families[i]] * (1 + MathF.Log(_counts[i]));
        }

        return new FeatureVector(_keys[.._count], values);
    }

    private void Grow()
    {
        Array.Resize(ref _keys, _keys.Length * 2);
        Array.Resize(ref _counts, _counts.Length * 2);
        Array.Resize(ref _families, _families.Length * 2);
        _slots = new int[_slots.Length * 2];
        var mask = (uint)_slots.Length - 1;
        for (var i = 0; i < _count; i++)
        {
            var at = _keys[i] & mask;
            while (_slots[at] != 0)
            {
                at = (at + 1) & mask;
            }

            _slots[at] = i + 1;
        }
    }
}
