using System.Collections.Immutable;
using PostTide.Core.Matching;
using PostTide.Core.Messages;
using PostTide.Core.Sorting;

namespace PostTide.Core.Workflows;

/// <summary>A line that fits a message, its number counted from 1, and what its further conditions came to.</summary>
public sealed record LineFit(Line Line, int Number, SetResult Further);

/// <summary>
/// What an edition makes of a message before anything is to be done: whether it takes it in, its category and the lines that
/// fit. It rests on the message and its surroundings, never on what was replied before, so that it may be worked out ahead.
/// </summary>
/// <param name="Addressed">Why it counts as written to the sheet's addresses; null when it was not.</param>
/// <param name="TakesIn">What the conditions under “takes in” came to.</param>
/// <param name="Sorted">What it was sorted as; null when not taken in or when the sheet sorts nothing.</param>
/// <param name="Fits">Every line that fits, in their order; none when not taken in.</param>
public sealed record Judgement(
    Reason? Addressed, SetResult TakesIn, CategoryDecision? Sorted, ImmutableArray<LineFit> Fits)
{
    private static readonly Reason EveryAddress = new("every address is looked at", []);

    public bool IsTakenIn => Addressed is not null && TakesIn.Holds;

    /// <summary>
    /// Left alone because of exactly one condition, the address counting as one, while something the sheet asks for was there.
    /// </summary>
    public bool IsNearMiss(Sheet sheet) => !IsTakenIn
        && TakesIn.Failures + (Addressed is null ? 1 : 0) == 1
        && TakesIn.Results.Any(r => r.Held && !sheet.TakesIn.None.Contains(r.Condition));

    /// <summary>The lines that are carried out.</summary>
    public ImmutableArray<LineFit> Carried(Sheet sheet) => sheet.EveryLine || Fits.Length < 2 ? Fits : [Fits[0]];

    /// <summary>Judges one message.</summary>
    public static Judgement Of(PreparedMessage message, Sheet sheet, MatchContext context)
    {
        var addressed = FindAddress(message, sheet.Addresses);
        var takesIn = Matcher.Decide(sheet.TakesIn, message, context);
        if (addressed is null || !takesIn.Holds)
        {
            return new Judgement(addressed, takesIn, null, []);
        }

        var sorted = sheet.Categories.IsEmpty && sheet.SorterId is null ? null : CategorySorting.Decide(message, sheet.Categories, sheet.SorterId, context);
        return new Judgement(addressed, takesIn, sorted, FitsOf(message, sheet, sorted, context with { CategoryId = sorted?.CategoryId }));
    }

    private static ImmutableArray<LineFit> FitsOf(PreparedMessage message, Sheet sheet, CategoryDecision? sorted, MatchContext context)
    {
        var fits = ImmutableArray.CreateBuilder<LineFit>();
        for (var i = 0; i < sheet.Lines.Length; i++)
        {
            var line = sheet.Lines[i];
            var mayFit = !line.Off && line.Case switch
            {
                LineCase.Any => true,
                LineCase.Unsure => sorted is { Unsure: true },
                LineCase.NoneOfThese => sorted is not { Unsure: true } && sorted?.CategoryId is null,
                _ => sorted?.CategoryId is { } category && category == line.CategoryId,
            };
            if (mayFit && (sorted?.Sorter?.Surety ?? 1) >= (line.SuretyFrom ?? 0) && Matcher.Decide(line.AndWhen, message, context) is { Holds: true } further)
            {
                fits.Add(new LineFit(line, i + 1, further));
            }
        }

        return fits.ToImmutable();
    }

    /// <summary>Why the message counts as written to the sheet's addresses; null when it was not.</summary>
    private static Reason? FindAddress(PreparedMessage message, ImmutableArray<string> addresses)
    {
        if (addresses.IsEmpty)
        {
            return EveryAddress;
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

            for (var i = 0; i < recipients.Count; i++)
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
}
