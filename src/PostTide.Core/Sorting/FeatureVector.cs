namespace PostTide.Core.Sorting;

/// <summary>The features of a text: each a number that stands for a word, a pair of words, a piece of a word or a mark, and how much of it there is.</summary>
/// <param name="Keys">The features, each once.</param>
/// <param name="Values">How much of each, before rare ones are given more weight.</param>
internal sealed record FeatureVector(uint[] Keys, float[] Values)
{
    public static readonly FeatureVector Empty = new([], []);

    /// <summary>A number that equal texts share whatever their order in a folder; for putting examples in order and finding copies.</summary>
    public ulong Fingerprint()
    {
        // The order in which features were met is part of a text, so that a plain running hash will do.
        var hash = 14_695_981_039_346_656_037ul;
        foreach (var key in Keys)
        {
            hash = (hash ^ key) * 1_099_511_628_211ul;
        }

        return hash;
    }
}

/// <summary>The kinds of features; each has its own weight beside the others.</summary>
internal enum FeatureFamily : byte
{
    Word,
    SubjectWord,
    Pair,
    Piece,
    Mark,
}

/// <summary>Where a feature was met: a stretch of the text, or a mark by its index.</summary>
internal readonly record struct FeaturePlace(int Stretch, int Start, int Length);

/// <summary>Takes the features of a text as they are met.</summary>
internal interface IFeatureSink
{
    /// <summary>Takes one; says whether it is met for the first time.</summary>
    bool Take(uint key, FeatureFamily family, FeaturePlace place);
}
