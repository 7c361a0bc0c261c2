using System.Collections.Immutable;

namespace PostTide.StandIns;

/// <summary>A record the practice application took.</summary>
public sealed record PracticeRecord(int Number, DateTimeOffset At, string Key, string Body, int Repeats);

/// <summary>Another application for practice. It keeps one record for each idempotency key, and can be told to fail.</summary>
public sealed class PracticeApplication
{
    private readonly Lock _lock = new();
    private ImmutableList<PracticeRecord> _records = [];

    /// <summary>While set, every request is answered with 503.</summary>
    public bool Fails { get; set; }

    public IReadOnlyList<PracticeRecord> Records => _records;

    /// <summary>Takes a record, or recognises a repeat.</summary>
    public (PracticeRecord Record, bool Repeated) Take(string key, string body)
    {
        lock (_lock)
        {
            var at = _records.FindIndex(r => r.Key == key && key.Length > 0);
            if (at >= 0)
            {
                var repeated = _records[at] with { Repeats = _records[at].Repeats + 1 };
                _records = _records.SetItem(at, repeated);
                return (repeated, true);
            }

            var record = new PracticeRecord(_records.Count + 1, DateTimeOffset.UtcNow, key, body, 0);
            _records = _records.Add(record);
            return (record, false);
        }
    }
}
