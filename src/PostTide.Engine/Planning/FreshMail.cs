using System.Collections.Concurrent;

namespace PostTide.Engine.Planning;

/// <summary>
/// Messages that were prepared as they were stored, handed on to planning so that they are not read again. It holds some tens of
/// megabytes; what does not fit is read from the database.
/// </summary>
public sealed class FreshMail
{
    private const long MostBytes = 64_000_000;
    private readonly ConcurrentDictionary<long, ReadMessage> _kept = new();
    private long _bytes;

    internal void Keep(long id, ReadMessage read)
    {
        if (Interlocked.Add(ref _bytes, read.Raw.Length) > MostBytes || !_kept.TryAdd(id, read))
        {
            Interlocked.Add(ref _bytes, -read.Raw.Length);
        }
    }

    /// <summary>Gives a message out, once; null when it is not here.</summary>
    internal ReadMessage? Take(long id)
    {
        if (!_kept.TryRemove(id, out var read))
        {
            return null;
        }

        Interlocked.Add(ref _bytes, -read.Raw.Length);
        return read;
    }
}
