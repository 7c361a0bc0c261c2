using System.Collections.Immutable;

namespace PostTide.Core.Matching;

/// <summary>Changes one condition of a set, however deep it stands.</summary>
public static class ConditionEdit
{
    /// <summary>The set with a condition, found by its id, replaced; null takes it out, and a group left empty goes with it.</summary>
    public static ConditionSet Replace(this ConditionSet set, string id, Func<Condition, Condition?> change) => new()
    {
        All = Replace(set.All, id, change),
        Any = Replace(set.Any, id, change),
        None = Replace(set.None, id, change),
    };

    /// <summary>The set with one more alternative beside a condition that is one of several.</summary>
    public static ConditionSet AddBeside(this ConditionSet set, string id, Condition alternative) => new()
    {
        All = [.. set.All.Select(c => AddBeside(c, id, alternative))],
        Any = set.Any.Any(c => c.Id == id) ? set.Any.Add(alternative) : [.. set.Any.Select(c => AddBeside(c, id, alternative))],
        None = [.. set.None.Select(c => AddBeside(c, id, alternative))],
    };

    private static ImmutableArray<Condition> Replace(ImmutableArray<Condition> conditions, string id, Func<Condition, Condition?> change) =>
        [.. conditions.Select(c => ReplaceIn(c, id, change)).OfType<Condition>()];

    private static Condition? ReplaceIn(Condition condition, string id, Func<Condition, Condition?> change)
    {
        if (condition.Id == id && condition.Part != MessagePart.Group)
        {
            return change(condition);
        }

        if (condition.Part != MessagePart.Group || condition.Set is not { } set)
        {
            return condition;
        }

        var changed = set.Replace(id, change);
        return changed.IsEmpty() ? null : condition with { Set = changed };
    }

    private static Condition AddBeside(Condition condition, string id, Condition alternative) =>
        condition.Part == MessagePart.Group && condition.Set is { } set ? condition with { Set = set.AddBeside(id, alternative) } : condition;
}
