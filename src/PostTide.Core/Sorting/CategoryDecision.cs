using System.Collections.Immutable;
using PostTide.Core.Matching;
using PostTide.Core.Messages;

namespace PostTide.Core.Sorting;

/// <summary>A category of a sheet, recognised by its own conditions.</summary>
public sealed record Category
{
    /// <summary>An id that stays with the category across editions.</summary>
    public string Id { get; init; } = "";
    public string Name { get; init; } = "";
    public ConditionSet When { get; init; } = ConditionSet.Empty;
}

/// <summary>What a message was sorted as.</summary>
/// <param name="CategoryId">The category, or null for “none of these”.</param>
/// <param name="Evidence">The words it rests on.</param>
public sealed record CategoryDecision(string? CategoryId, ImmutableArray<Evidence> Evidence);

/// <summary>
/// Sorts a message into one of a sheet's categories. The planner knows only this delegate, so that another way of
/// deciding joins without a change to it.
/// </summary>
public delegate CategoryDecision CategoryDecider(PreparedMessage message, MatchContext context);

/// <summary>Sorting by each category's own conditions, in their order: the first category that holds is the one.</summary>
public static class ConditionSorting
{
    public static CategoryDecider Over(ImmutableArray<Category> categories) => (message, context) =>
    {
        foreach (var category in categories)
        {
            if (!category.When.IsEmpty() && Matcher.Decide(category.When, message, context) is { Holds: true } result)
            {
                return new CategoryDecision(category.Id, result.Evidence());
            }
        }

        return new CategoryDecision(null, []);
    };
}
