using System.Collections.Immutable;
using PostTide.Core.Messages;

namespace PostTide.Core.Matching;

/// <summary>Decides conditions over a message, with the words that made each one hold.</summary>
public static class Matcher
{
    /// <summary>More places than this are not collected for one condition; the first ones explain it.</summary>
    private const int MostEvidence = 20;

    /// <summary>Decides a whole set. Every condition is decided, so that each can be counted and explained.</summary>
    public static SetResult Decide(ConditionSet set, PreparedMessage message, IReadOnlyDictionary<long, KeywordList> keywordLists)
    {
        var all = set.All.Select(c => Decide(c, message, keywordLists)).ToImmutableArray();
        var any = set.Any.Select(c => Decide(c, message, keywordLists)).ToImmutableArray();
        var none = set.None.Select(c => Decide(c, message, keywordLists)).ToImmutableArray();

        var decisive = ImmutableArray.CreateBuilder<Condition>();
        decisive.AddRange(all.Where(r => !r.Held).Select(r => r.Condition));
        var failures = decisive.Count;
        if (any.Length > 0 && !any.Any(r => r.Held))
        {
            failures++;
            decisive.AddRange(any.Select(r => r.Condition));
        }

        var forbidden = none.Where(r => r.Held).Select(r => r.Condition).ToList();
        failures += forbidden.Count;
        decisive.AddRange(forbidden);
        return new SetResult(failures == 0, [.. all, .. any, .. none], failures, decisive.ToImmutable());
    }

    /// <summary>Decides one condition.</summary>
    public static ConditionResult Decide(
        Condition condition, PreparedMessage message, IReadOnlyDictionary<long, KeywordList> keywordLists)
    {
        var found = new List<Evidence>();
        var held = condition.Part switch
        {
            MessagePart.Attachment => message.Attachments.Length > 0 && AddAll(found, message.Attachments
                .Select(a => Evidence.In(EvidencePlace.Attachment, a.Name, 0, a.Name.Length, a.Index))),
            MessagePart.Automatic => AddAll(found, message.Automatic
                .Select((mark, i) => (mark, i))
                .Where(m => condition.Kinds.IsEmpty || condition.Kinds.Contains(m.mark.Kind))
                .Select(m => Evidence.In(EvidencePlace.Sign, m.mark.Sign, 0, m.mark.Sign.Length, m.i))),
            _ => HoldsOnText(condition, message, keywordLists, found),
        };
        return new ConditionResult(condition, held, [.. found]);
    }

    private static bool HoldsOnText(
        Condition condition, PreparedMessage message, IReadOnlyDictionary<long, KeywordList> keywordLists, List<Evidence> found)
    {
        var held = false;
        foreach (var field in FieldsOf(condition.Part, message))
        {
            held |= condition.Test switch
            {
                MatchTest.HasAnyWordIn => condition.KeywordListId is { } id && keywordLists.TryGetValue(id, out var list)
                    && AddAll(found, list.FindIn(field.Text, field.Start, field.Length)
                        .Select(w => Evidence.In(field.Place, field.Text, w.Start, w.Length, field.Index))),
                MatchTest.Contains => condition.Values.Any(v => Contains(field, v, found)),
                MatchTest.Is => condition.Values.Any(v => Is(field, v, found)),
                MatchTest.Matches => condition.Values.Any(v => Matches(field, v, found)),
                _ => false,
            };
        }

        return held;
    }

    /// <summary>The texts a part stands for. Conditions on the body see what is new in it, stretch by stretch.</summary>
    private static IEnumerable<Field> FieldsOf(MessagePart part, PreparedMessage message)
    {
        switch (part)
        {
            case MessagePart.Sender:
                return [Field.OfAddress(EvidencePlace.Sender, message.From, 0)];
            case MessagePart.Recipient:
                return message.Recipients().Select((a, i) => Field.OfAddress(EvidencePlace.Recipient, a, i));
            case MessagePart.AttachmentName:
                return message.Attachments.Select(a => Field.Whole(EvidencePlace.Attachment, a.Name, a.Index));
            case MessagePart.Subject:
                return [Field.Whole(EvidencePlace.Subject, message.Subject, 0)];
            case MessagePart.Body:
                return BodyFields(message);
            case MessagePart.SubjectOrBody:
                return BodyFields(message).Prepend(Field.Whole(EvidencePlace.Subject, message.Subject, 0));
            default:
                return [];
        }
    }

    private static IEnumerable<Field> BodyFields(PreparedMessage message) =>
        message.Body.NewStretches.Select(s => new Field(EvidencePlace.Body, message.Body.Text, s.Start, s.Length, 0, []));

    private static bool Contains(Field field, string value, List<Evidence> found)
    {
        if (value.Length == 0)
        {
            return true;
        }

        var end = field.Start + field.Length;
        var at = field.Text.IndexOf(value, field.Start, field.Length, StringComparison.OrdinalIgnoreCase);
        var held = at >= 0;
        while (at >= 0 && found.Count < MostEvidence)
        {
            found.Add(Evidence.In(field.Place, field.Text, at, value.Length, field.Index));
            var from = at + value.Length;
            at = field.Text.IndexOf(value, from, end - from, StringComparison.OrdinalIgnoreCase);
        }

        return held;
    }

    private static bool Is(Field field, string value, List<Evidence> found)
    {
        foreach (var (start, length) in field.Wholes())
        {
            if (field.Text.AsSpan(start, length).Equals(value, StringComparison.OrdinalIgnoreCase))
            {
                found.Add(Evidence.In(field.Place, field.Text, start, length, field.Index));
                return true;
            }
        }

        return false;
    }

    private static bool Matches(Field field, string pattern, List<Evidence> found)
    {
        var wildcard = new Wildcard(pattern);
        var places = new List<(int Start, int Length)>();
        foreach (var (start, length) in field.Wholes())
        {
            places.Clear();
            if (wildcard.Fits(field.Text.Substring(start, length), places))
            {
                AddAll(found, places.Select(p => Evidence.In(field.Place, field.Text, start + p.Start, p.Length, field.Index)));
                return true;
            }
        }

        return false;
    }

    private static bool AddAll(List<Evidence> found, IEnumerable<Evidence> more)
    {
        var any = false;
        foreach (var evidence in more)
        {
            any = true;
            if (found.Count >= MostEvidence)
            {
                break;
            }

            found.Add(evidence);
        }

        return any;
    }

    /// <summary>A text a condition is decided on, and the parts of it that count as wholes for <c>is</c> and <c>matches</c>.</summary>
    private sealed record Field(
        EvidencePlace Place, string Text, int Start, int Length, int Index, ImmutableArray<(int Start, int Length)> Parts)
    {
        public static Field Whole(EvidencePlace place, string text, int index) => new(place, text, 0, text.Length, index, []);

        /// <summary>An address counts whole as shown, by its address alone and by its display name alone.</summary>
        public static Field OfAddress(EvidencePlace place, EmailAddress address, int index)
        {
            var shown = address.Shown;
            ImmutableArray<(int, int)> parts = address.Name.Length == 0
                ? []
                : [(address.Name.Length + 2, address.Address.Length), (0, address.Name.Length)];
            return new Field(place, shown, 0, shown.Length, index, parts);
        }

        public IEnumerable<(int Start, int Length)> Wholes() => Parts.Prepend((Start, Length));
    }
}
