using System.Collections.Immutable;
using PostTide.Core.Messages;

namespace PostTide.Core.Matching;

/// <summary>Decides conditions over a message, with the words that made each one hold.</summary>
public static class Matcher
{
    /// <summary>Decides a whole set. Every condition is decided, so that each can be counted and explained.</summary>
    public static SetResult Decide(ConditionSet set, PreparedMessage message, MatchContext context)
    {
        var results = ImmutableArray.CreateBuilder<ConditionResult>(set.All.Length + set.Any.Length + set.None.Length);
        var decisive = ImmutableArray.CreateBuilder<ConditionResult>();
        var failures = 0;
        foreach (var condition in set.All)
        {
            var result = Decide(condition, message, context);
            results.Add(result);
            if (!result.Held)
            {
                failures += result.Failures;
                decisive.AddRange(DecisiveOf(result));
            }
        }

        var (anyHeld, fewest) = (set.Any.IsEmpty, int.MaxValue);
        foreach (var condition in set.Any)
        {
            var result = Decide(condition, message, context);
            results.Add(result);
            anyHeld |= result.Held;
            fewest = Math.Min(fewest, result.Failures);
        }

        if (!anyHeld)
        {
            // The alternatives that came nearest are the ones to look at.
            failures += fewest;
            decisive.AddRange(results.Skip(set.All.Length).Where(r => r.Failures == fewest).SelectMany(DecisiveOf));
        }

        foreach (var condition in set.None)
        {
            var result = Decide(condition, message, context);
            results.Add(result);
            if (result.Held)
            {
                failures++;
                decisive.Add(result);
            }
        }

        return new SetResult(failures == 0, results.MoveToImmutable(), failures, decisive.ToImmutable());
    }

    /// <summary>Decides one condition.</summary>
    public static ConditionResult Decide(Condition condition, PreparedMessage message, MatchContext context) => condition.Part switch
    {
        MessagePart.Group => Nested(condition, condition.Set ?? ConditionSet.Empty, message, context),
        MessagePart.Saved => condition.SavedId is { } id && context.SavedConditions.TryGetValue(id, out var saved)
            ? Nested(condition, saved.Set, message, context)
            : new ConditionResult(condition, false, [], "it is gone"),
        _ when IsOnText(condition) => OnText(condition, message, context),
        _ => ValueTests.Decide(condition, message, context),
    };

    /// <summary>The type of an attachment is a text, but one that stands nowhere in the message.</summary>
    private static bool IsOnText(Condition condition) =>
        condition.Part != MessagePart.AttachmentType && condition.Test != MatchTest.Between && PartTests.IsText(condition.Part);

    private static ConditionResult Nested(Condition condition, ConditionSet set, PreparedMessage message, MatchContext context)
    {
        var result = Decide(set, message, context);

        // A set that asks for nothing would hold for everything; as a condition among others it holds for nothing.
        var held = result.Holds && !set.IsEmpty();
        return new ConditionResult(condition, held, held ? result.Evidence() : [], null, result);
    }

    private static ConditionResult OnText(Condition condition, PreparedMessage message, MatchContext context)
    {
        var test = TextTest.Of(condition);
        List<Evidence>? found = null;
        var (held, any) = (false, false);
        foreach (var field in TextField.Of(condition, message))
        {
            any = true;
            held |= test.HoldsOn(field, context.KeywordLists, found ??= []);
        }

        return condition.Test == MatchTest.Absent
            ? new ConditionResult(condition, !any, [])
            : new ConditionResult(condition, held, found is { Count: > 0 } ? [.. found] : []);
    }

    private static IEnumerable<ConditionResult> DecisiveOf(ConditionResult failed) =>
        failed is { Condition.Part: MessagePart.Group, Inner.Decisive: { Length: > 0 } inner } ? inner : [failed];
}
