using System.Collections.Immutable;
using PostTide.Core.Matching;
using PostTide.Core.Messages;
using PostTide.Core.Workflows;

namespace PostTide.Core.Rehearsal;

/// <summary>Conditions by which messages like the chosen ones could be recognised.</summary>
/// <param name="Text">The conditions in words.</param>
/// <param name="Set">The conditions.</param>
/// <param name="Chosen">How many of the chosen messages they hold for.</param>
/// <param name="Matched">How many messages of the past mail they hold for, chosen ones among them.</param>
/// <param name="Recall">The share of the chosen messages that is found.</param>
/// <param name="Precision">The share of what is found that was chosen.</param>
/// <param name="Others">What else they hold for, by message, the latest first.</param>
public sealed record KindProposal(string Text, ConditionSet Set, int Chosen, int Matched, double Recall, double Precision, ImmutableArray<long> Others)
{
    /// <summary>The harmonic mean of precision and recall (Manning, Raghavan, Schütze: Introduction to Information Retrieval, §8.3).</summary>
    public double F => Recall + Precision == 0 ? 0 : 2 * Recall * Precision / (Recall + Precision);
}

/// <summary>Finds what sets some messages apart from the rest of the mail, and proposes it as conditions.</summary>
public static class TheirKind
{
    private const int MostOffered = 8;
    private const int WordsTried = 24;
    private const int Paired = 8;

    /// <summary>Of signs that find the very same messages so many are offered, after one of each kind.</summary>
    private const int MostAlike = 3;

    /// <summary>A sign that fewer of the chosen messages share is not theirs.</summary>
    private const double LeastShared = 0.6;

    /// <summary>Proposals, the best first.</summary>
    /// <param name="chosen">The messages whose kind is looked for.</param>
    /// <param name="mail">Past mail, the chosen messages among it or not.</param>
    /// <param name="context">The context.</param>
    public static ImmutableArray<KindProposal> Find(IReadOnlyList<PreparedMessage> chosen, IReadOnlyList<PreparedMessage> mail, PlanContext context)
    {
        if (chosen.Count == 0)
        {
            return [];
        }

        var ids = chosen.Select(m => m.Id).ToHashSet();
        ImmutableArray<PreparedMessage> rest = [.. mail.Where(m => !ids.Contains(m.Id))];
        var signs = SignsOf(chosen, mail, context).DistinctBy(c => ConditionWords.Say(c, context))
            .Select(c => Try([c], chosen, rest, context)).Where(p => p.Proposal.Recall >= LeastShared).ToList();
        var best = signs.OrderByDescending(s => s.Proposal.F).ThenBy(s => s.Proposal.Text.Length).Take(Paired).ToList();

        // Two signs together are worth saying only where they find fewer others than either alone.
        var pairs = best.SelectMany((a, i) => best.Skip(i + 1).Select(b => (Parts: (a, b), Pair: Both(a, b, chosen.Count, context))))
            .Where(p => p.Pair.Recall >= LeastShared && p.Pair.Others.Length < Math.Min(p.Parts.a.Proposal.Others.Length, p.Parts.b.Proposal.Others.Length))
            .Select(p => p.Pair);

        // What finds a single message and nothing else says nothing about its kind.
        return
        [
            .. signs.Select(s => s.Proposal).Concat(pairs)
                .OrderBy(p => chosen.Count == 1 && p.Others.IsEmpty)
                .ThenByDescending(p => Math.Round(p.F, 3)).ThenBy(p => p.Set.All.Length).ThenBy(p => Rank(p.Set.All[0].Part)).ThenBy(p => p.Text.Length)
                .GroupBy(p => (p.Chosen, string.Join(' ', p.Others))).SelectMany(g => g.Take(MostAlike).Select((p, i) => (p, i)))
                .OrderBy(p => p.i).Select(p => p.p)
                .Take(MostOffered),
        ];
    }

    /// <summary>Who writes and by what list says more than a word that happens to find the same messages.</summary>
    private static int Rank(MessagePart part) => part switch
    {
        MessagePart.SenderDomain or MessagePart.ListId => 0,
        MessagePart.SenderAddress or MessagePart.Tag => 1,
        MessagePart.BaseSubject => 2,
        _ => 3,
    };

    /// <summary>Everything that could be said about some of the messages.</summary>
    private static IEnumerable<Condition> SignsOf(IReadOnlyList<PreparedMessage> chosen, IReadOnlyList<PreparedMessage> mail, PlanContext context)
    {
        var shared = chosen.SelectMany(m => SignsOf(m).DistinctBy(Key)).GroupBy(Key).Where(g => g.Count() >= LeastShared * chosen.Count).Select(g => g.First());
        var lists = context.KeywordLists.Values.Where(l => !l.Entries.IsEmpty)
            .Select(l => new Condition { Part = MessagePart.SubjectOrBody, Test = MatchTest.HasAnyWordIn, KeywordListId = l.Id });
        return shared.Concat(lists).Concat(WordsOf(chosen, mail));
    }

    private static string Key(Condition c) => $"{c.Part} {c.Test} {c.Name} {string.Join('\n', c.Values)} {string.Join(' ', c.Kinds)}";

    private static IEnumerable<Condition> SignsOf(PreparedMessage message)
    {
        var sender = SubAddress.Split(message.From.Key);
        if (sender.Domain.Length > 0)
        {
            yield return Text(MessagePart.SenderAddress, MatchTest.Is, message.From.Key);
            yield return Text(MessagePart.SenderDomain, MatchTest.Is, sender.Domain);
        }

        if (BaseSubject.Of(message.Subject) is { Length: > 0 } subject)
        {
            yield return Text(MessagePart.BaseSubject, MatchTest.Is, subject);
            var words = subject.Split(' ');
            yield return Text(MessagePart.BaseSubject, MatchTest.Begins, words[0]);
            yield return Text(MessagePart.BaseSubject, MatchTest.Begins, string.Join(' ', words.Take(2)));
        }

        foreach (var to in message.OriginallyTo)
        {
            yield return Text(MessagePart.OriginallyTo, MatchTest.Is, to.ToLowerInvariant());
            if (SubAddress.Split(to).Detail is { Length: > 0 } tag)
            {
                yield return Text(MessagePart.Tag, MatchTest.Is, tag.ToLowerInvariant());
            }
        }

        foreach (var list in message.Header.Where(h => h.Name.Equals("List-Id", StringComparison.OrdinalIgnoreCase)))
        {
            yield return Text(MessagePart.ListId, MatchTest.Is, list.Value);
        }

        yield return new Condition { Part = MessagePart.Attachment, Test = message.Attachments.IsEmpty ? MatchTest.Absent : MatchTest.Present };
        foreach (var type in message.Attachments.Select(a => a.Type).Where(t => t.Length > 0).Distinct())
        {
            yield return Text(MessagePart.AttachmentType, MatchTest.Is, type);
        }

        foreach (var kind in message.Automatic.Select(a => a.Kind).Distinct())
        {
            yield return new Condition { Part = MessagePart.Automatic, Test = MatchTest.Present, Kinds = [kind] };
        }

        foreach (var field in message.Header.Where(h => h.Name.StartsWith("X-", StringComparison.OrdinalIgnoreCase)).Take(20))
        {
            yield return new Condition { Part = MessagePart.Header, Test = MatchTest.Present, Name = field.Name };
        }
    }

    /// <summary>The words that most of the chosen messages have and few others do.</summary>
    private static IEnumerable<Condition> WordsOf(IReadOnlyList<PreparedMessage> chosen, IReadOnlyList<PreparedMessage> mail)
    {
        var here = new Dictionary<uint, (string Text, int Count, bool Subject)>();
        foreach (var message in chosen)
        {
            foreach (var (hash, text) in RareWords.In(message).DistinctBy(w => w.Hash))
            {
                var known = here.GetValueOrDefault(hash);
                here[hash] = (text.ToLowerInvariant(), known.Count + 1, message.Subject.Contains(text, StringComparison.OrdinalIgnoreCase));
            }
        }

        var shared = here.Where(w => w.Value.Count >= LeastShared * chosen.Count).ToList();
        var frequency = RareWords.Frequencies(shared.Select(w => w.Key), mail);
        var telling = shared
            .OrderByDescending(w => (double)w.Value.Count / chosen.Count * w.Value.Count / Math.Max(w.Value.Count, frequency[w.Key])).Take(WordsTried);
        foreach (var (_, (text, _, inSubject)) in telling)
        {
            yield return Text(MessagePart.SubjectOrBody, MatchTest.Word, text);
            if (inSubject)
            {
                yield return Text(MessagePart.Subject, MatchTest.Word, text);
            }
        }
    }

    private static Condition Text(MessagePart part, MatchTest test, string value) => new() { Part = part, Test = test, Values = [value] };

    private static Tried Try(ImmutableArray<Condition> conditions, IReadOnlyList<PreparedMessage> chosen, ImmutableArray<PreparedMessage> rest, PlanContext context)
    {
        var set = new ConditionSet { All = [.. conditions.Select((c, i) => c with { Id = $"k{i + 1}" })] };
        bool Holds(PreparedMessage m) => Matcher.Decide(set, m, (context with { Now = m.ArrivedAt }).For(m)).Holds;
        var found = chosen.Where(Holds).Select(m => m.Id).ToHashSet();
        ImmutableArray<long> others = [.. rest.AsParallel().AsOrdered().Where(Holds).OrderByDescending(m => m.ArrivedAt).Select(m => m.Id)];
        return new Tried(Propose(set, found.Count, chosen.Count, others, context), found);
    }

    /// <summary>Both conditions together hold where each of them does: nothing has to be asked again.</summary>
    private static KindProposal Both(Tried a, Tried b, int chosen, PlanContext context)
    {
        var set = new ConditionSet { All = [.. a.Proposal.Set.All, b.Proposal.Set.All[0] with { Id = "k2" }] };
        var second = b.Proposal.Others.ToHashSet();
        return Propose(set, a.Found.Count(b.Found.Contains), chosen, [.. a.Proposal.Others.Where(second.Contains)], context);
    }

    private static KindProposal Propose(ConditionSet set, int found, int chosen, ImmutableArray<long> others, PlanContext context)
    {
        var matched = found + others.Length;
        return new KindProposal(
            string.Join(" and ", set.All.Select(c => ConditionWords.Say(c, context))), set, found, matched,
            (double)found / chosen, matched == 0 ? 0 : (double)found / matched, others);
    }

    private sealed record Tried(KindProposal Proposal, HashSet<long> Found);
}
