using System.Runtime.InteropServices;
using System.Runtime.Intrinsics;

namespace PostTide.Core.Sorting;

/// <summary>The weights of a linear model: for every feature one per class, and a bias per class.</summary>
internal sealed class LinearWeights(int features, int classes)
{
    /// <summary>Few classes are worked on four at a time, more of them eight.</summary>
    private const int FewLanes = 4;
    private const int Lanes = 8;

    // Weights of one feature lie side by side, filled up to whole vectors.
    private readonly float[] _weights = new float[features * Stride(classes)];

    public int Features { get; } = features;
    public int Classes { get; } = classes;

    /// <summary>The bias of each class.</summary>
    public float[] Bias { get; } = new float[Stride(classes)];

    /// <summary>The weights of one feature.</summary>
    public Span<float> Of(int feature) => _weights.AsSpan(feature * Bias.Length, Classes);

    /// <summary>The scores of a row: bias and weighted sum for every class. <paramref name="scores"/> has room for whole vectors.</summary>
    public void Score(ReadOnlySpan<int> columns, ReadOnlySpan<float> values, Span<float> scores)
    {
        ref var weights = ref MemoryMarshal.GetArrayDataReference(_weights);
        var stride = Bias.Length;
        if (stride == FewLanes)
        {
            var sum = Vector128.LoadUnsafe(ref Bias[0]);
            for (var i = 0; i < columns.Length; i++)
            {
                sum += values[i] * Vector128.LoadUnsafe(ref weights, (nuint)(columns[i] * FewLanes));
            }

            sum.StoreUnsafe(ref scores[0]);
            return;
        }

        for (var block = 0; block < stride; block += Lanes)
        {
            var sum = Vector256.LoadUnsafe(ref Bias[block]);
            for (var i = 0; i < columns.Length; i++)
            {
                sum += values[i] * Vector256.LoadUnsafe(ref weights, (nuint)((columns[i] * stride) + block));
            }

            sum.StoreUnsafe(ref scores[block]);
        }
    }

    /// <summary>Adds a multiple of a row to the weights of every class, and the multiple to its bias.</summary>
    public void Add(ReadOnlySpan<int> columns, ReadOnlySpan<float> values, ReadOnlySpan<float> times)
    {
        ref var weights = ref MemoryMarshal.GetArrayDataReference(_weights);
        var stride = Bias.Length;
        if (stride == FewLanes)
        {
            var factor = Vector128.Create(times[..FewLanes]);
            for (var i = 0; i < columns.Length; i++)
            {
                var at = (nuint)(columns[i] * FewLanes);
                (Vector128.LoadUnsafe(ref weights, at) + (values[i] * factor)).StoreUnsafe(ref weights, at);
            }

            (Vector128.LoadUnsafe(ref Bias[0]) + factor).StoreUnsafe(ref Bias[0]);
            return;
        }

        for (var block = 0; block < stride; block += Lanes)
        {
            var factor = Vector256.Create(times.Slice(block, Lanes));
            for (var i = 0; i < columns.Length; i++)
            {
                var at = (nuint)((columns[i] * stride) + block);
                (Vector256.LoadUnsafe(ref weights, at) + (values[i] * factor)).StoreUnsafe(ref weights, at);
            }

            (Vector256.LoadUnsafe(ref Bias[block]) + factor).StoreUnsafe(ref Bias[block]);
        }
    }

    /// <summary>Rounds the weights to the half precision in which they are kept, so that a sorter read from a file says the same.</summary>
    public void Round()
    {
        foreach (ref var weight in _weights.AsSpan())
        {
            weight = (float)(Half)weight;
        }
    }

    /// <summary>How many numbers a row of scores has room for: the classes, filled up to whole vectors.</summary>
    public static int Stride(int classes) => classes <= FewLanes ? FewLanes : (classes + Lanes - 1) / Lanes * Lanes;
}
