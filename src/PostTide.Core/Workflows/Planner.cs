using System.Collections.Immutable;
using PostTide.Core.Facts;
using PostTide.Core.Matching;
using PostTide.Core.Messages;

namespace PostTide.Core.Workflows;

/// <summary>Gives what an edition makes of a message; a rehearsal has it worked out beforehand.</summary>
public delegate Judgement Judge(PreparedMessage message, Edition edition, PlanContext context);

/// <summary>
/// Decides what the workflows do with a message. Pure: live mail, rehearsal and every later way of running a workflow
/// call this one function.
/// </summary>
public static class Planner
{
    /// <summary>The plan for one message under the editions in their order.</summary>
    public static Plan Plan(PreparedMessage message, IReadOnlyList<Edition> editions, PlanContext context, Judge? judge = null)
    {
        judge ??= static (m, e, c) => Judgement.Of(m, e.Sheet, c.For(m));
        var verdicts = ImmutableArray.CreateBuilder<Verdict>(editions.Count);
        Edition? skipper = null;
        foreach (var edition in editions)
        {
            if (skipper is not null)
            {
                verdicts.Add(Skipped(edition, skipper));
                continue;
            }

            var verdict = Decide(message, edition, judge(message, edition, context), context);
            verdicts.Add(verdict);
            if (verdict.Outcome == Outcome.TakenIn && edition.Sheet.Limits.SkipLaterWorkflows)
            {
                skipper = edition;
            }
        }

        return new Plan(message.Id, verdicts.ToImmutable());
    }

    /// <summary>The verdict of a workflow that does not see a message because an earlier one took it in.</summary>
    public static Verdict Skipped(Edition edition, Edition skipper) => new()
    {
        WorkflowId = edition.WorkflowId,
        WorkflowName = edition.WorkflowName,
        Edition = edition.Number,
        Outcome = Outcome.Skipped,
        Reasons = [new Reason($"“{skipper.WorkflowName}” took it in and skips later workflows", [])],
    };

    private static Verdict Decide(PreparedMessage message, Edition edition, Judgement judgement, PlanContext context)
    {
        var sheet = edition.Sheet;
        var verdict = new Verdict
        {
            WorkflowId = edition.WorkflowId,
            WorkflowName = edition.WorkflowName,
            Edition = edition.Number,
            Outcome = Outcome.LeftAlone,
            Addressed = judgement.Addressed is not null,
            Held = HeldBy(judgement.TakesIn),
        };
        if (judgement.IsTakenIn)
        {
            return TakeIn(message, sheet, context, verdict, judgement);
        }

        return verdict with
        {
            NearMiss = judgement.IsNearMiss(sheet),
            Reasons = judgement.Addressed is null
                ? [new Reason($"it was not written to {string.Join(" or ", sheet.Addresses)}", [])]
                : judgement.TakesIn.Decisive.Length == 1 ? [Failure(judgement.TakesIn.Decisive[0], context)] : [.. judgement.TakesIn.Decisive.Select(r => Failure(r, context))],
        };
    }

    private static Verdict TakeIn(PreparedMessage message, Sheet sheet, PlanContext context, Verdict verdict, Judgement judgement)
    {
        var reasons = ImmutableArray.CreateBuilder<Reason>();
        if (!sheet.Addresses.IsEmpty)
        {
            reasons.Add(judgement.Addressed!);
        }

        reasons.AddRange(judgement.TakesIn.Leaves().Where(r => r.Held).Select(r => new Reason(Say(r, context), r.Evidence)));
        if (judgement.Sorted is { } sorted)
        {
            reasons.Add(new Reason(sorted.Why, sorted.Evidence));
        }

        var facts = sheet.Facts.Select(name => BuiltInFacts.Read(name, message)).ToImmutableArray();
        var carried = judgement.Carried(sheet);
        reasons.AddRange(carried.Select(f => new Reason($"line {f.Number} fits", f.Further.Evidence())));
        if (carried.IsEmpty)
        {
            reasons.Add(new Reason("no line fits, so nothing is done", []));
        }

        return verdict with
        {
            Outcome = Outcome.TakenIn,
            CategoryId = judgement.Sorted?.CategoryId,
            Sorter = judgement.Sorted?.Sorter,
            LineId = carried.IsEmpty ? null : carried[0].Line.Id,
            Fits = [.. judgement.Fits.Select(f => f.Line.Id)],
            Reasons = reasons.ToImmutable(),
            Facts = facts,
            Deeds = DeedPlanner.DeedsOf([.. carried.Select(f => f.Line)], message, facts, verdict.WorkflowId, sheet.Limits, context),
        };
    }

    private static ImmutableArray<string> HeldBy(SetResult results)
    {
        var held = ImmutableArray.CreateBuilder<string>(results.Results.Length);
        foreach (var result in results.Results)
        {
            if (result.Condition.Part == MessagePart.Group)
            {
                held.AddRange(result.Leaves().Where(r => r.Held).Select(r => r.Condition.Id));
            }
            else if (result.Held)
            {
                held.Add(result.Condition.Id);
            }
        }

        return held.DrainToImmutable();
    }

    /// <summary>Why a condition keeps the message out: it failed, or it held and must not.</summary>
    private static Reason Failure(ConditionResult result, PlanContext context) =>
        result.Held ? new Reason($"left alone because {Say(result, context)}", result.Evidence)
        : result.Found is null ? ConditionWords.NotSo(result.Condition, context)
        : new Reason($"not so: {Say(result, context)}", []);

    private static string Say(ConditionResult result, PlanContext context)
    {
        var words = ConditionWords.Say(result.Condition, context);
        return result.Found is { } found ? $"{words} ({found})" : words;
    }
}
