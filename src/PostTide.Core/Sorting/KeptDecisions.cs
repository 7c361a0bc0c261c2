namespace PostTide.Core.Sorting;

/// <summary>
/// What the last sorters said about a message, kept with it, so that an edit of a workflow does not sort thousands of messages anew. It
/// is no part of what the message says.
/// </summary>
internal sealed class KeptDecisions
{
    private const int Most = 2;
    private Made[] _made = [];

    public SorterDecision Of(object source, TrainedSorter sorter, Func<TrainedSorter, SorterDecision> decide)
    {
        var made = Volatile.Read(ref _made);
        foreach (var kept in made)
        {
            if (ReferenceEquals(kept.Sorter, sorter) && ReferenceEquals(kept.Source, source))
            {
                return kept.Decision;
            }
        }

        var decision = decide(sorter);
        Volatile.Write(ref _made, [new Made(source, sorter, decision), .. made.Take(Most - 1)]);
        return decision;
    }

    public override bool Equals(object? obj) => obj is KeptDecisions;

    public override int GetHashCode() => 0;

    private sealed record Made(object Source, TrainedSorter Sorter, SorterDecision Decision);
}
