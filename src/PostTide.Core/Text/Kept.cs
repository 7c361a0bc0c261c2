namespace PostTide.Core.Text;

/// <summary>
/// Something worked out from a record and kept in it. It is no part of what the record says: two records are the same whether
/// they have worked it out or not, and a copy that says something else works it out anew.
/// </summary>
internal sealed class Kept<T>
    where T : class
{
    private Made? _made;

    public T Of<TSource>(TSource source, Func<TSource, T> make)
        where TSource : class
    {
        // Copies of a record share this; one reference holds both, so that none sees what another made.
        if (Volatile.Read(ref _made) is { } kept && ReferenceEquals(kept.Source, source))
        {
            return kept.Value;
        }

        var made = make(source);
        Volatile.Write(ref _made, new Made(source, made));
        return made;
    }

    public override bool Equals(object? obj) => obj is Kept<T>;

    public override int GetHashCode() => 0;

    private sealed record Made(object Source, T Value);
}
