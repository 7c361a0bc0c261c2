namespace PostTide.Core.Sorting;

/// <summary>Texts as rows of the features a vocabulary knows, each row of length one over all the features of the text.</summary>
internal sealed class SparseRows
{
    private readonly int[] _starts;
    private readonly int[] _columns;
    private readonly float[] _values;

    public SparseRows(Vocabulary vocabulary, IReadOnlyList<FeatureVector> texts)
    {
        _starts = new int[texts.Count + 1];
        var rows = new (int[] Columns, float[] Values)[texts.Count];
        Parallel.For(0, texts.Count, i => rows[i] = Row(vocabulary, texts[i]));
        for (var i = 0; i < rows.Length; i++)
        {
            _starts[i + 1] = _starts[i] + rows[i].Columns.Length;
        }

        _columns = new int[_starts[^1]];
        _values = new float[_starts[^1]];
        for (var i = 0; i < rows.Length; i++)
        {
            rows[i].Columns.CopyTo(_columns, _starts[i]);
            rows[i].Values.CopyTo(_values, _starts[i]);
        }
    }

    public int Count => _starts.Length - 1;

    public ReadOnlySpan<int> Columns(int row) => _columns.AsSpan(_starts[row].._starts[row + 1]);

    public ReadOnlySpan<float> Values(int row) => _values.AsSpan(_starts[row].._starts[row + 1]);

    /// <summary>The squared length of what the vocabulary knows of a row: 1 where it knows every feature.</summary>
    public float SquaredLength(int row)
    {
        var sum = 0f;
        foreach (var value in Values(row))
        {
            sum += value * value;
        }

        return sum;
    }

    /// <summary>
    /// One text. What the vocabulary does not know counts for its length, so that a text of unknown words has little to say for any
    /// category.
    /// </summary>
    public static (int[] Columns, float[] Values) Row(Vocabulary vocabulary, FeatureVector text)
    {
        var columns = new int[text.Keys.Length];
        var values = new float[text.Keys.Length];
        var count = Fill(vocabulary, text, columns, values);
        return (columns[..count], values[..count]);
    }

    /// <summary>The same into spans that are at least as long as the text has features; the number of known ones.</summary>
    public static int Fill(Vocabulary vocabulary, FeatureVector text, Span<int> columns, Span<float> values)
    {
        var (count, squares) = (0, 0f);
        for (var i = 0; i < text.Keys.Length; i++)
        {
            var column = vocabulary.Find(text.Keys[i]);
            var value = text.Values[i] * (column < 0 ? vocabulary.UnknownRarity : vocabulary.Rarity[column]);
            squares += value * value;
            if (column >= 0)
            {
                columns[count] = column;
                values[count++] = value;
            }
        }

        var scale = squares > 0 ? 1 / MathF.Sqrt(squares) : 0;
        foreach (ref var value in values[..count])
        {
            value *= scale;
        }

        return count;
    }
}
