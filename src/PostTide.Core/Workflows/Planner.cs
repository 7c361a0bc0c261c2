using System.Collections.Immutable;
using PostTide.Core.Facts;
using PostTide.Core.Matching;
using PostTide.Core.Messages;
using PostTide.Core.Sorting;

namespace PostTide.Core.Workflows;

/// <summary>
/// Decides what the workflows do with a message. Pure: live mail, rehearsal and every later way of running a workflow
/// call this one function.
/// </summary>
public static class Planner
{
    /// <summary>The plan for one message under the editions in their order.</summary>
    public static Plan Plan(PreparedMessage message, IReadOnlyList<Edition> editions, PlanContext context)
    {
        var verdicts = ImmutableArray.CreateBuilder<Verdict>(editions.Count);
        Edition? skipper = null;
        foreach (var edition in editions)
        {
            if (skipper is not null)
            {
                verdicts.Add(Skipped(edition, skipper));
                continue;
            }

            var verdict = Decide(message, edition, context);
            verdicts.Add(verdict);
            if (verdict.Outcome == Outcome.TakenIn && edition.Sheet.Limits.SkipLaterWorkflows)
            {
                skipper = edition;
            }
        }

        return new Plan(message.Id, verdicts.ToImmutable());
    }

    private static Verdict Skipped(Edition edition, Edition skipper) => new()
    {
        WorkflowId = edition.WorkflowId,
        WorkflowName = edition.WorkflowName,
        Edition = edition.Number,
        Outcome = Outcome.Skipped,
        Reasons = [new Reason($"“{skipper.WorkflowName}” took it in and skips later workflows", [])],
    };

    private static Verdict Decide(PreparedMessage message, Edition edition, PlanContext context)
    {
        var sheet = edition.Sheet;
        var addressed = FindAddress(message, sheet.Addresses);
        var conditions = Matcher.Decide(sheet.TakesIn, message, context.KeywordLists);
        var verdict = new Verdict
        {
            WorkflowId = edition.WorkflowId,
            WorkflowName = edition.WorkflowName,
            Edition = edition.Number,
            Outcome = Outcome.LeftAlone,
            Addressed = addressed is not null,
            Held = [.. conditions.Results.Where(r => r.Held).Select(r => r.Condition.Id)],
        };
        if (addressed is null)
        {
            return verdict with
            {
                NearMiss = conditions.Holds && HeldAny(sheet.TakesIn, conditions),
                Reasons = [new Reason($"it was not written to {Listing(sheet.Addresses)}", [])],
            };
        }

        if (!conditions.Holds)
        {
            return verdict with
            {
                NearMiss = conditions.Failures == 1 && HeldAny(sheet.TakesIn, conditions),
                Reasons = [.. conditions.Decisive.Select(c => Failure(c, sheet.TakesIn, conditions, context))],
            };
        }

        return TakeIn(message, sheet, context, verdict, addressed, conditions);
    }

    private static Verdict TakeIn(
        PreparedMessage message, Sheet sheet, PlanContext context, Verdict verdict, Reason addressed, SetResult conditions)
    {
        var reasons = ImmutableArray.CreateBuilder<Reason>();
        if (!sheet.Addresses.IsEmpty)
        {
            reasons.Add(addressed);
        }

        reasons.AddRange(conditions.Results
            .Where(r => r.Held)
            .Select(r => new Reason(ConditionWords.Say(r.Condition, context.KeywordLists), r.Evidence)));

        var decision = ConditionSorting.Over(sheet.Categories, context.KeywordLists)(message);
        var category = sheet.Categories.FirstOrDefault(c => c.Id == decision.CategoryId);
        if (!sheet.Categories.IsEmpty)
        {
            reasons.Add(new Reason(category is null ? "sorted as none of these" : $"sorted as “{category.Name}”", decision.Evidence));
        }

        var facts = sheet.Facts.Select(name => BuiltInFacts.Read(name, message)).ToImmutableArray();
        var (line, number, fit) = FirstFit(message, sheet, category, context);
        reasons.Add(line is null
            ? new Reason("no line fits, so nothing is done", [])
            : new Reason($"line {number} fits", fit!.Evidence()));

        return verdict with
        {
            Outcome = Outcome.TakenIn,
            CategoryId = category?.Id,
            LineId = line?.Id,
            Reasons = reasons.ToImmutable(),
            Facts = facts,
            Deeds = line is null ? [] : DeedPlanner.DeedsOf(line, message, facts, verdict.WorkflowId, sheet.Limits, context),
        };
    }

    /// <summary>The first line that fits, its number counted from 1, and what its further conditions came to.</summary>
    private static (Line? Line, int Number, SetResult? Fit) FirstFit(
        PreparedMessage message, Sheet sheet, Category? category, PlanContext context)
    {
        for (var i = 0; i < sheet.Lines.Length; i++)
        {
            var line = sheet.Lines[i];
            var fits = line.Case switch
            {
                LineCase.Any => true,
                LineCase.NoneOfThese => category is null,
                _ => category is not null && category.Id == line.CategoryId,
            };
            if (fits && Matcher.Decide(line.AndWhen, message, context.KeywordLists) is { Holds: true } further)
            {
                return (line, i + 1, further);
            }
        }

        return (null, 0, null);
    }

    /// <summary>Why the message counts as written to the sheet's addresses; null when it was not.</summary>
    private static Reason? FindAddress(PreparedMessage message, ImmutableArray<string> addresses)
    {
        if (addresses.IsEmpty)
        {
            return new Reason("every address is looked at", []);
        }

        // The address it was originally written to decides; To and Cc count only when that is not known (an uploaded file).
        var recipients = message.Recipients();
        var decisive = message.OriginallyTo.IsEmpty ? recipients.Select(r => r.Address) : message.OriginallyTo;
        foreach (var to in decisive)
        {
            if (!addresses.Any(own => SubAddress.Reaches(to, own)))
            {
                continue;
            }

            for (var i = 0; i < recipients.Length; i++)
            {
                if (string.Equals(recipients[i].Address, to, StringComparison.OrdinalIgnoreCase))
                {
                    var shown = recipients[i].Shown;
                    var at = shown.LastIndexOf(to, StringComparison.OrdinalIgnoreCase);
                    return new Reason($"it was written to {to}", [Evidence.In(EvidencePlace.Recipient, shown, at, to.Length, i)]);
                }
            }

            return new Reason($"it was written to {to}", []);
        }

        return null;
    }

    private static Reason Failure(Condition condition, ConditionSet set, SetResult results, PlanContext context)
    {
        var words = ConditionWords.Say(condition, context.KeywordLists);
        var forbidden = set.None.Contains(condition);
        var evidence = forbidden ? results.Results.First(r => ReferenceEquals(r.Condition, condition)).Evidence : [];
        return new Reason(forbidden ? $"left alone because {words}" : $"not so: {words}", evidence);
    }

    /// <summary>Whether something the sheet asks for was there. Mail that only lacks what is forbidden has missed by far.</summary>
    private static bool HeldAny(ConditionSet set, SetResult results) => results.Results.Any(r => r.Held && !set.None.Contains(r.Condition));

    private static string Listing(ImmutableArray<string> values) => string.Join(" or ", values);
}
