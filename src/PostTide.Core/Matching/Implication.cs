using System.Collections.Immutable;

namespace PostTide.Core.Matching;

/// <summary>
/// What follows from conditions by logic alone. Answers are safe rather than complete: true is always so, false may only mean
/// that it could not be shown.
/// </summary>
public static class Implication
{
    /// <summary>Whether every message for which the first set holds is one for which the second holds.</summary>
    public static bool Follows(ConditionSet from, ConditionSet to, IReadOnlyDictionary<long, SavedCondition> saved) =>
        to.All.All(c => FollowsOne(from, c, saved))
        && (to.Any.IsEmpty || FollowsAny(from, to.Any, saved))
        && to.None.All(c => Excludes(from, c, saved));

    /// <summary>Whether no message can ever satisfy the set.</summary>
    public static bool IsImpossible(ConditionSet set, IReadOnlyDictionary<long, SavedCondition> saved)
    {
        var demanded = Demanded(set, saved).ToList();
        return demanded.Any(d => IsForbidden(set, d, saved))
            || demanded.Any(a => demanded.Any(b => AreOpposed(a, b)))
            || (!set.Any.IsEmpty && set.Any.All(c => IsForbidden(set, c, saved)))
            || set.All.Any(c => InnerOf(c, saved) is { } inner && IsImpossible(inner, saved));
    }

    /// <summary>Whether the two sets can never hold for the same message.</summary>
    public static bool AreDisjoint(ConditionSet a, ConditionSet b, IReadOnlyDictionary<long, SavedCondition> saved) =>
        IsImpossible(new ConditionSet { All = [Group(a), Group(b)], None = [.. a.None, .. b.None] }, saved);

    /// <summary>Whether one condition implies another.</summary>
    public static bool Implies(Condition a, Condition b, IReadOnlyDictionary<long, SavedCondition> saved)
    {
        if (InnerOf(a, saved) is { } inner)
        {
            return SameInner(a, b) || Follows(inner, InnerOf(b, saved) ?? new ConditionSet { All = [b] }, saved);
        }

        if (InnerOf(b, saved) is { } outer)
        {
            return Follows(new ConditionSet { All = [a] }, outer, saved);
        }

        return ValueImplication.Implies(a, b);
    }

    private static bool FollowsOne(ConditionSet from, Condition to, IReadOnlyDictionary<long, SavedCondition> saved) =>
        from.All.Any(a => Implies(a, to, saved))
        || (!from.Any.IsEmpty && from.Any.All(a => Implies(a, to, saved)))
        || (InnerOf(to, saved) is { } inner && !inner.IsEmpty() && Follows(from, inner, saved));

    private static bool FollowsAny(ConditionSet from, ImmutableArray<Condition> any, IReadOnlyDictionary<long, SavedCondition> saved) =>
        any.Any(c => FollowsOne(from, c, saved))
        || (!from.Any.IsEmpty && from.Any.All(a => any.Any(c => Implies(a, c, saved))));

    /// <summary>Whether the condition can never hold where the set does.</summary>
    private static bool Excludes(ConditionSet from, Condition condition, IReadOnlyDictionary<long, SavedCondition> saved) =>
        from.None.Any(n => Implies(condition, n, saved)) || Demanded(from, saved).Any(d => AreOpposed(d, condition));

    private static bool IsForbidden(ConditionSet set, Condition condition, IReadOnlyDictionary<long, SavedCondition> saved) =>
        set.None.Any(n => Implies(condition, n, saved));

    /// <summary>The conditions that must hold, those of groups that must hold as a whole among them.</summary>
    private static IEnumerable<Condition> Demanded(ConditionSet set, IReadOnlyDictionary<long, SavedCondition> saved) =>
        (set.Any.Length == 1 ? set.All.Add(set.Any[0]) : set.All).SelectMany(c => InnerOf(c, saved) is { } inner ? Demanded(inner, saved).Prepend(c) : [c]);

    private static bool AreOpposed(Condition a, Condition b) => ValueImplication.AreOpposed(a, b);

    private static ConditionSet? InnerOf(Condition condition, IReadOnlyDictionary<long, SavedCondition> saved) => condition.Part switch
    {
        MessagePart.Group => condition.Set ?? ConditionSet.Empty,
        MessagePart.Saved when condition.SavedId is { } id && saved.TryGetValue(id, out var known) => known.Set,
        _ => null,
    };

    private static bool SameInner(Condition a, Condition b) => a.Part == MessagePart.Saved && b.Part == MessagePart.Saved && a.SavedId == b.SavedId;

    private static Condition Group(ConditionSet set) => new() { Part = MessagePart.Group, Test = MatchTest.Present, Set = set };
}
