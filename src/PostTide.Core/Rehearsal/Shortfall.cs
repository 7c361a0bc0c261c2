using PostTide.Core.Matching;
using PostTide.Core.Messages;
using PostTide.Core.Text;
using PostTide.Core.Workflows;

namespace PostTide.Core.Rehearsal;

/// <summary>The one condition that kept a message out, and by how little.</summary>
/// <param name="ConditionId">The condition; empty for the address.</param>
/// <param name="Text">The condition in words.</param>
/// <param name="ByHowLittle">How far it was from holding; null where that cannot be said.</param>
/// <param name="Evidence">The words that came near, or that must not stand there; null where there are none.</param>
public sealed record Shortfall(string ConditionId, string Text, string? ByHowLittle, Evidence? Evidence)
{
    /// <summary>A word this many letters off is shown as near, for words of at least so many letters each.</summary>
    private const int MostLettersOff = 2;
    private const int LettersPerLetterOff = 4;

    /// <summary>What a near miss fell short by; null when the message is taken in or missed by more than one condition.</summary>
    public static Shortfall? Of(PreparedMessage message, Sheet sheet, PlanContext context)
    {
        var at = context with { Now = message.ArrivedAt };
        var surroundings = at.For(message);
        var judgement = Judgement.Of(message, sheet, surroundings);
        if (!judgement.IsNearMiss(sheet))
        {
            return null;
        }

        if (judgement.Addressed is null)
        {
            return new Shortfall("", $"written to {string.Join(" or ", sheet.Addresses)}", $"it was written to {string.Join(" and ", WrittenTo(message))}", null);
        }

        var shortfalls = judgement.TakesIn.Decisive.Select(r => Of(r, message, at)).ToList();
        return shortfalls.FirstOrDefault(s => s.ByHowLittle is not null) ?? shortfalls[0];
    }

    private static Shortfall Of(ConditionResult result, PreparedMessage message, PlanContext context)
    {
        var text = ConditionWords.Say(result.Condition, context);
        if (result.Held)
        {
            return new Shortfall(result.Condition.Id, text, "this must not hold", result.Evidence.FirstOrDefault());
        }

        if (result.Found is { } found)
        {
            return new Shortfall(result.Condition.Id, text, found, null);
        }

        return Nearest(result.Condition, message, context) is { } near
            ? new Shortfall(result.Condition.Id, text, $"“{near.Evidence.Text}” is {(near.Off == 1 ? "one letter" : $"{near.Off} letters")} off “{near.Wanted}”", near.Evidence)
            : new Shortfall(result.Condition.Id, text, null, null);
    }

    /// <summary>The word of the message that comes nearest to one of the words wanted.</summary>
    private static (Evidence Evidence, string Wanted, int Off)? Nearest(Condition condition, PreparedMessage message, PlanContext context)
    {
        var wanted = (condition.Test switch
        {
            MatchTest.HasAnyWordIn when condition.KeywordListId is { } id && context.KeywordLists.TryGetValue(id, out var list) => list.Entries,
            MatchTest.Contains or MatchTest.Word or MatchTest.Is or MatchTest.Begins or MatchTest.Ends => condition.Values,
            _ => [],
        }).Where(w => Words.In(w, 0, w.Length).Take(2).Count() == 1 && w.Length >= LettersPerLetterOff).ToList();
        (Evidence Evidence, string Wanted, int Off)? nearest = null;
        foreach (var field in TextField.Of(condition, message))
        {
            foreach (var word in field.WithWords.WordsIn(field.Start, field.Length))
            {
                foreach (var candidate in wanted)
                {
                    var most = Math.Min(nearest?.Off - 1 ?? MostLettersOff, candidate.Length / LettersPerLetterOff);
                    var off = most < 1 ? most + 1 : EditDistance.Between(field.Text.AsSpan(word.Start, word.Length), candidate, most);
                    if (most >= 1 && off <= most && off > 0)
                    {
                        nearest = (field.At(word.Start, word.Length), candidate, off);
                    }
                }
            }
        }

        return nearest;
    }

    private static IEnumerable<string> WrittenTo(PreparedMessage message) =>
        message.OriginallyTo.IsEmpty ? message.Recipients().Select(r => r.Address).Take(3) : message.OriginallyTo.Take(3);
}
