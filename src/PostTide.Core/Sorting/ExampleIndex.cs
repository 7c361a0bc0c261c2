using PostTide.Core.Messages;

namespace PostTide.Core.Sorting;

/// <summary>An example that is like a message.</summary>
/// <param name="Id">The example.</param>
/// <param name="CategoryId">Its category; null for none of these.</param>
/// <param name="Likeness">The cosine of the angle between the two (IIR §6.3.1), 0 for nothing in common, 1 for the same words.</param>
public sealed record NearExample(long Id, string? CategoryId, double Likeness);

/// <summary>The examples of a sorter, ready to be compared with a message.</summary>
public sealed class ExampleIndex
{
    private readonly TrainedSorter _sorter;
    private readonly (long Id, string? CategoryId)[] _examples;
    private readonly SparseRows _rows;

    /// <summary>Reads the examples; takes about as long as sorting them.</summary>
    public ExampleIndex(TrainedSorter sorter, IReadOnlyList<SorterExample> examples)
    {
        _sorter = sorter;
        _examples = [.. examples.Select(e => (e.Id, e.CategoryId))];
        var texts = new FeatureVector[examples.Count];
        Parallel.For(0, texts.Length, i => texts[i] = FeatureReader.Read(examples[i].Message));
        _rows = new SparseRows(sorter.Vocabulary, texts);
    }

    /// <summary>The examples most like a message, itself left out.</summary>
    public IReadOnlyList<NearExample> Nearest(PreparedMessage message, int count)
    {
        var likeness = Likeness(FeatureReader.Read(message));
        return
        [
            .. Enumerable.Range(0, _examples.Length).Where(i => _examples[i].Id != message.Id && likeness[i] > 0)
                .OrderByDescending(i => likeness[i]).ThenBy(i => _examples[i].Id).Take(count)
                .Select(i => new NearExample(_examples[i].Id, _examples[i].CategoryId, likeness[i])),
        ];
    }

    private float[] Likeness(FeatureVector features)
    {
        var (columns, values) = SparseRows.Row(_sorter.Vocabulary, features);
        var spread = new float[_sorter.Vocabulary.Count];
        for (var i = 0; i < columns.Length; i++)
        {
            spread[columns[i]] = values[i];
        }

        var likeness = new float[_examples.Length];
        for (var row = 0; row < likeness.Length; row++)
        {
            likeness[row] = Dot(_rows, row, spread);
        }

        return likeness;
    }

    internal static float Dot(SparseRows rows, int row, float[] spread)
    {
        var columns = rows.Columns(row);
        var values = rows.Values(row);
        var sum = 0f;
        for (var i = 0; i < columns.Length; i++)
        {
            sum += values[i] * spread[columns[i]];
        }

        return sum;
    }
}
