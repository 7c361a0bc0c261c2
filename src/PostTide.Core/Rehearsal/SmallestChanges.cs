using System.Collections.Immutable;
using PostTide.Core.Matching;
using PostTide.Core.Messages;
using PostTide.Core.Workflows;

namespace PostTide.Core.Rehearsal;

/// <summary>A word to be added to a shared keyword list.</summary>
public sealed record ListAddition(long KeywordListId, string Word);

/// <summary>A change to a sheet by which a message that was left alone would be taken in.</summary>
/// <param name="Text">The change in words.</param>
/// <param name="Sheet">The sheet with the change.</param>
/// <param name="ListAdditions">Words to be added to shared lists; such a change reaches other workflows too.</param>
/// <param name="AlsoTakes">What else it would bring in, by message.</param>
public sealed record SmallChange(string Text, Sheet Sheet, ImmutableArray<ListAddition> ListAdditions, ImmutableArray<long> AlsoTakes);

/// <summary>Finds the smallest changes by which a sheet would take in a message, and what else each of them would bring in.</summary>
public static class SmallestChanges
{
    private const int MostOffered = 8;
    private const int WordsOffered = 3;
    private const int MostDemands = 3;

    /// <summary>The changes, the one that brings in the least first.</summary>
    /// <param name="message">The message that should have been taken in.</param>
    /// <param name="sheet">The sheet that leaves it alone.</param>
    /// <param name="mail">Past mail, to see what else a change brings in.</param>
    /// <param name="context">The context.</param>
    public static ImmutableArray<SmallChange> For(PreparedMessage message, Sheet sheet, IReadOnlyList<PreparedMessage> mail, PlanContext context)
    {
        var judgement = Judge(message, sheet, context);
        if (judgement.IsTakenIn)
        {
            return [];
        }

        var rare = RareWords.Of(message, mail, WordsOffered);
        var demands = DemandsOf(judgement, sheet, message, context, rare).Take(MostDemands + 1).ToList();
        if (demands.Count > MostDemands)
        {
            return [];
        }

        // What is left alone now is asked again with each change; most of it misses by more than the change can mend.
        var alone = LeftAlone(mail, sheet, context, demands.Count);
        return
        [
            .. Combine(demands)
                .Select(edits => Try(edits, message, sheet, alone, context))
                .OfType<SmallChange>()
                .DistinctBy(c => c.Text)
                .OrderBy(c => c.AlsoTakes.Length)
                .Take(MostOffered),
        ];
    }

    private static Judgement Judge(PreparedMessage message, Sheet sheet, PlanContext context) =>
        Judgement.Of(message, sheet, (context with { Now = message.ArrivedAt }).For(message));

    private static List<PreparedMessage> LeftAlone(IReadOnlyList<PreparedMessage> mail, Sheet sheet, PlanContext context, int edits) =>
    [
        .. mail.AsParallel().AsOrdered()
            .Where(m => Judge(m, sheet, context) is { IsTakenIn: false } j && j.TakesIn.Failures + (j.Addressed is null ? 1 : 0) <= edits),
    ];

    /// <summary>For each demand that failed, the edits that would mend it.</summary>
    private static IEnumerable<List<Edit>> DemandsOf(Judgement judgement, Sheet sheet, PreparedMessage message, PlanContext context, ImmutableArray<string> rare)
    {
        if (judgement.Addressed is null)
        {
            var writtenTo = message.OriginallyTo.IsEmpty ? message.Recipients().Select(r => r.Address) : message.OriginallyTo;
            yield return
            [
                .. writtenTo.Take(2).Select(a => new Edit($"take mail to {a} as well", s => s with { Addresses = s.Addresses.Add(a) })),
                new Edit("take mail to every address", s => s with { Addresses = [] }),
            ];
        }

        var alternatives = judgement.TakesIn.Decisive.Where(r => !r.Held && IsAlternative(sheet.TakesIn, r.Condition.Id)).ToList();
        if (alternatives.Count > 0)
        {
            yield return
            [
                .. alternatives.SelectMany(r => Mend(r, message, context, rare, mayDrop: false)),
                .. BesideEdits(alternatives[0].Condition.Id, message, rare),
            ];
        }

        foreach (var result in judgement.TakesIn.Decisive.Except(alternatives))
        {
            yield return [.. Mend(result, message, context, rare, mayDrop: true)];
        }
    }

    /// <summary>Whether a condition stands under “any”, where another one may stand in for it.</summary>
    private static bool IsAlternative(ConditionSet set, string id) =>
        set.Any.Any(c => c.Id == id) || set.Each().Any(c => c.Part == MessagePart.Group && c.Set is { } inner && IsAlternative(inner, id));

    private static IEnumerable<Edit> Mend(ConditionResult result, PreparedMessage message, PlanContext context, ImmutableArray<string> rare, bool mayDrop)
    {
        var condition = result.Condition;
        var said = ConditionWords.Say(condition, context);
        if (result.Held || mayDrop)
        {
            yield return new Edit($"drop “{said}”", s => s with { TakesIn = s.TakesIn.Replace(condition.Id, _ => null) });
        }

        if (result.Held)
        {
            yield break;
        }

        foreach (var edit in condition.Test switch
        {
            MatchTest.HasAnyWordIn => ListWords(condition, message, context, rare),
            MatchTest.Between => Widen(condition, message, context),
            _ => ValuesFor(condition, message, rare).Select(v => new Edit(
                $"“{v}” beside {Listed(condition)}", s => s with { TakesIn = s.TakesIn.Replace(condition.Id, c => c with { Values = c.Values.Add(v) }) })),
        })
        {
            yield return edit;
        }
    }

    private static string Listed(Condition condition) => condition.Values.IsEmpty
        ? $"nothing in {ConditionWords.Say(condition.Part)}"
        : $"{string.Join(", ", condition.Values.Take(2).Select(v => $"“{v}”"))} in {ConditionWords.Say(condition.Part)}";

    /// <summary>The values of this message that the condition could ask for as well.</summary>
    private static IEnumerable<string> ValuesFor(Condition condition, PreparedMessage message, ImmutableArray<string> rare) => (condition.Part, condition.Test) switch
    {
        (_, MatchTest.Regex or MatchTest.Matches or MatchTest.Present or MatchTest.Absent) => [],
        (MessagePart.Sender or MessagePart.SenderAddress, MatchTest.Is or MatchTest.Contains) => [message.From.Key],
        (MessagePart.SenderDomain, MatchTest.Is or MatchTest.Contains) => [SubAddress.Split(message.From.Key).Domain],
        (MessagePart.OriginallyTo or MessagePart.Recipient, MatchTest.Is or MatchTest.Contains) => message.OriginallyTo.Take(1),
        (MessagePart.Subject or MessagePart.BaseSubject, MatchTest.Is) => [condition.Part == MessagePart.Subject ? message.Subject : BaseSubject.Of(message.Subject)],
        (MessagePart.Subject or MessagePart.BaseSubject, MatchTest.Contains or MatchTest.Word) => rare.Where(w => message.Subject.Contains(w, StringComparison.OrdinalIgnoreCase)),
        (MessagePart.Body or MessagePart.SubjectOrBody, MatchTest.Contains or MatchTest.Word) => rare,
        (MessagePart.Weekday, _) => [message.ArrivedAt.DayOfWeek.ToString()],
        _ => [],
    };

    private static IEnumerable<Edit> ListWords(Condition condition, PreparedMessage message, PlanContext context, ImmutableArray<string> rare) =>
        condition.KeywordListId is { } id && context.KeywordLists.TryGetValue(id, out var list)
            ? ValuesFor(condition with { Test = MatchTest.Word }, message, rare).Select(w => new Edit($"the word “{w}” in “{list.Name}”", s => s, new ListAddition(id, w)))
            : [];

    private static IEnumerable<Edit> Widen(Condition condition, PreparedMessage message, PlanContext context)
    {
        if (ValueTests.NumberOf(condition, message, (context with { Now = message.ArrivedAt }).For(message)) is not { } number)
        {
            return [];
        }

        var (least, most) = (number < condition.Least ? Math.Floor(number) : condition.Least, number > condition.Most ? Math.Ceiling(number) : condition.Most);
        var wider = condition with { Least = least, Most = most };
        return [new Edit($"“{ConditionWords.Say(wider, context)}” instead of “{ConditionWords.Say(condition, context)}”", s => s with { TakesIn = s.TakesIn.Replace(condition.Id, _ => wider) })];
    }

    /// <summary>One more alternative: the sender, or the words of the subject.</summary>
    private static IEnumerable<Edit> BesideEdits(string beside, PreparedMessage message, ImmutableArray<string> rare)
    {
        Edit Beside(string says, Condition more) => new(says, s => s with { TakesIn = s.TakesIn.AddBeside(beside, more) });
        var sender = message.From.Key;
        if (sender.Length > 0)
        {
            yield return Beside($"or the sender’s address is “{sender}”", New(MessagePart.SenderAddress, MatchTest.Is, sender));
            if (SubAddress.Split(sender).Domain is { Length: > 0 } domain)
            {
                yield return Beside($"or the sender’s domain is “{domain}”", New(MessagePart.SenderDomain, MatchTest.Is, domain));
            }
        }

        foreach (var word in rare.Where(w => message.Subject.Contains(w, StringComparison.OrdinalIgnoreCase)))
        {
            yield return Beside($"or the subject has the word “{word}”", New(MessagePart.Subject, MatchTest.Word, word));
        }
    }

    private static Condition New(MessagePart part, MatchTest test, string value) => new() { Id = $"n-{part}-{value}", Part = part, Test = test, Values = [value] };

    /// <summary>One edit for each demand; where several demands failed, the first ones of each only.</summary>
    private static IEnumerable<ImmutableArray<Edit>> Combine(List<List<Edit>> demands)
    {
        var most = demands.Count == 1 ? int.MaxValue : 3;
        IEnumerable<ImmutableArray<Edit>> combined = [[]];
        return demands.Aggregate(combined, (sofar, edits) => sofar.SelectMany(c => edits.Take(most).Select(e => c.Add(e))));
    }

    private static SmallChange? Try(ImmutableArray<Edit> edits, PreparedMessage message, Sheet sheet, List<PreparedMessage> alone, PlanContext context)
    {
        var changed = edits.Aggregate(sheet, (s, e) => e.Change(s));
        ImmutableArray<ListAddition> additions = [.. edits.Select(e => e.Addition).OfType<ListAddition>()];
        var with = additions.IsEmpty ? context : context with { KeywordLists = WithWords(context.KeywordLists, additions) };
        if (!Judge(message, changed, with).IsTakenIn)
        {
            return null;
        }

        return new SmallChange(
            string.Join(", and ", edits.Select(e => e.Says)), changed, additions,
            [.. alone.AsParallel().AsOrdered().Where(m => m.Id != message.Id && Judge(m, changed, with).IsTakenIn).Select(m => m.Id)]);
    }

    private static Dictionary<long, KeywordList> WithWords(IReadOnlyDictionary<long, KeywordList> lists, ImmutableArray<ListAddition> additions)
    {
        var changed = lists.ToDictionary();
        foreach (var addition in additions)
        {
            var list = changed[addition.KeywordListId];
            changed[list.Id] = new KeywordList(list.Id, list.Name, list.Entries.Add(addition.Word), list.Options);
        }

        return changed;
    }

    private sealed record Edit(string Says, Func<Sheet, Sheet> Change, ListAddition? Addition = null);
}
