using System.Collections.Immutable;
using System.Globalization;
using NodaTime;
using NodaTime.Text;
using PostTide.Core.Messages;

namespace PostTide.Core.Matching;

/// <summary>Conditions on what is not text: numbers, times, marks, results, and the place in a conversation.</summary>
internal static class ValueTests
{
    public static readonly LocalDatePattern Day = LocalDatePattern.Iso;
    public static readonly LocalTimePattern Minute = LocalTimePattern.CreateWithInvariantCulture("HH:mm");

    public static ConditionResult Decide(Condition condition, PreparedMessage message, MatchContext context) => condition.Part switch
    {
        MessagePart.Attachment => Marks(condition, message.Attachments.Select(a => Evidence.In(EvidencePlace.Attachment, a.Name, 0, a.Name.Length, a.Index))),
        MessagePart.Automatic => Marks(condition, message.Automatic
            .Select((mark, i) => (mark, i))
            .Where(m => condition.Kinds.IsEmpty || condition.Kinds.Contains(m.mark.Kind))
            .Select(m => Evidence.In(EvidencePlace.Sign, m.mark.Sign, 0, m.mark.Sign.Length, m.i))),
        MessagePart.AttachmentType => AttachmentTypes(condition, message),
        MessagePart.AttachmentCount => Number(condition, message.Attachments.Length, n => n == 1 ? "1 attachment" : $"{n:0} attachments"),
        MessagePart.AttachmentSize => AttachmentSizes(condition, message),
        MessagePart.Size => Number(condition, message.Size, Amounts.Bytes),
        MessagePart.Age => message.SentAt is { } sent
            ? Number(condition, (context.Now - sent).TotalDays, Amounts.Days)
            : new ConditionResult(condition, false, [], "it has no date"),
        MessagePart.ConversationNumber => Number(condition, context.Conversation.Number, n => $"message {n:0} of its conversation"),
        MessagePart.Fact => Fact(condition, message),
        MessagePart.ArrivalDate => Date(condition, Local(message, context).Date),
        MessagePart.SentDate => message.SentAt is { } at
            ? Date(condition, LocalDate.FromDateTime(at.DateTime))
            : new ConditionResult(condition, false, [], "it has no date"),
        MessagePart.Weekday => OneOf(condition, Local(message, context).DayOfWeek.ToString()),
        MessagePart.Hour => Hour(condition, Local(message, context).TimeOfDay),
        MessagePart.BusinessHours => Is(condition, context.Desk.Includes(Instant.FromDateTimeOffset(message.ArrivedAt)), Arrived(Local(message, context))),
        MessagePart.AnswersOurs => Is(condition, context.Conversation.AnswersOurs, null),
        MessagePart.HasTicket => Is(condition, context.HasTicket, null),
        MessagePart.Authentication => Authentication(condition, message, context),
        MessagePart.Category => OneOf(condition, context.CategoryId ?? ""),
        _ => new ConditionResult(condition, false, []),
    };

    /// <summary>The number a condition looks at; null when it looks at none.</summary>
    public static double? NumberOf(Condition condition, PreparedMessage message, MatchContext context) => condition.Part switch
    {
        MessagePart.AttachmentCount => message.Attachments.Length,
        MessagePart.AttachmentSize => message.Attachments.IsEmpty ? null : message.Attachments.Max(a => a.Size),
        MessagePart.Size => message.Size,
        MessagePart.Age => (context.Now - message.SentAt)?.TotalDays,
        MessagePart.ConversationNumber => context.Conversation.Number,
        MessagePart.Fact => Facts.BuiltInFacts.Read(condition.Name ?? "", message).Value is { } value ? NumberIn(value) : null,
        _ => null,
    };

    /// <summary>The number a text is, whatever stands for the decimal point; null when it is none.</summary>
    public static double? NumberIn(string text)
    {
        var trimmed = text.Trim();
        return double.TryParse(trimmed, NumberStyles.Number, CultureInfo.InvariantCulture, out var number) ? number : null;
    }

    private static ZonedDateTime Local(PreparedMessage message, MatchContext context) => Instant.FromDateTimeOffset(message.ArrivedAt).InZone(context.Desk.Zone);

    private static ConditionResult Marks(Condition condition, IEnumerable<Evidence> marks)
    {
        ImmutableArray<Evidence> found = [.. marks.Take(TextTest.MostEvidence)];
        return condition.Test == MatchTest.Absent ? new ConditionResult(condition, found.IsEmpty, []) : new ConditionResult(condition, !found.IsEmpty, found);
    }

    private static ConditionResult Is(Condition condition, bool so, string? found) => new(condition, condition.Test == MatchTest.Absent ? !so : so, [], found);

    private static ConditionResult Number(Condition condition, double number, Func<double, string> say) =>
        new(condition, Includes(condition, number), [], say(number));

    private static bool Includes(Condition condition, double number) => !(number < condition.Least) && !(number > condition.Most);

    private static ConditionResult AttachmentSizes(Condition condition, PreparedMessage message)
    {
        var fitting = message.Attachments.Where(a => Includes(condition, a.Size)).ToList();
        var found = message.Attachments.IsEmpty ? "no attachment" : string.Join(", ", message.Attachments.Take(5).Select(a => Amounts.Bytes(a.Size)));
        return new ConditionResult(
            condition, fitting.Count > 0, [.. fitting.Take(TextTest.MostEvidence).Select(a => Evidence.In(EvidencePlace.Attachment, a.Name, 0, a.Name.Length, a.Index))], found);
    }

    /// <summary>The name of a fitting attachment is the evidence; the type itself stands nowhere in the message.</summary>
    private static ConditionResult AttachmentTypes(Condition condition, PreparedMessage message)
    {
        var test = TextTest.Of(condition);
        var fitting = message.Attachments
            .Where(a => test.HoldsOn(new TextField(EvidencePlace.Attachment, a.Type, 0, a.Type.Length), ImmutableDictionary<long, KeywordList>.Empty, [])).ToList();
        var found = message.Attachments.IsEmpty ? "no attachment" : string.Join(", ", message.Attachments.Take(5).Select(a => a.Type.Length == 0 ? "unknown type" : a.Type));
        return new ConditionResult(
            condition, fitting.Count > 0, [.. fitting.Take(TextTest.MostEvidence).Select(a => Evidence.In(EvidencePlace.Attachment, a.Name, 0, a.Name.Length, a.Index))], found);
    }

    private static ConditionResult Fact(Condition condition, PreparedMessage message)
    {
        var fact = Facts.BuiltInFacts.Read(condition.Name ?? "", message);
        var number = fact.Value is { } value ? NumberIn(value) : null;
        return new ConditionResult(
            condition, number is { } n && Includes(condition, n), number is not null && fact.Evidence is { } evidence ? [evidence] : [],
            fact.Value is null ? "not found" : number is null ? $"“{fact.Value}” is no number" : null);
    }

    private static ConditionResult Date(Condition condition, LocalDate day)
    {
        var from = condition.From is { } f ? Day.Parse(f) : null;
        var until = condition.Until is { } u ? Day.Parse(u) : null;
        var readable = from is not { Success: false } && until is not { Success: false };
        return new ConditionResult(
            condition, readable && (from is null || day >= from.Value) && (until is null || day <= until.Value), [], Day.Format(day));
    }

    private static ConditionResult Hour(Condition condition, LocalTime time)
    {
        var from = Minute.Parse(condition.From ?? "00:00");
        var until = Minute.Parse(condition.Until ?? "00:00");
        var found = Minute.Format(time);
        if (!from.Success || !until.Success)
        {
            return new ConditionResult(condition, false, [], found);
        }

        // Until midnight is the whole rest of the day; until an earlier minute than from runs over midnight.
        var overMidnight = until.Value <= from.Value;
        var held = overMidnight ? time >= from.Value || time < until.Value : time >= from.Value && time < until.Value;
        return new ConditionResult(condition, held, [], found);
    }

    private static ConditionResult OneOf(Condition condition, string value) =>
        new(condition, value.Length > 0 && condition.Values.Contains(value, StringComparer.OrdinalIgnoreCase), [], value.Length == 0 ? "none" : value);

    private static ConditionResult Authentication(Condition condition, PreparedMessage message, MatchContext context)
    {
        var results = message.Authentication.IsEmpty
            ? []
            : SenderApproval.Counting(message.Authentication, context.TrustedServers).Where(r => string.Equals(r.Method, condition.Name, StringComparison.OrdinalIgnoreCase)).ToList();
        var held = results.Count == 0
            ? condition.Values.Contains("none", StringComparer.OrdinalIgnoreCase)
            : results.Any(r => condition.Values.Contains(r.Result, StringComparer.OrdinalIgnoreCase));
        return new ConditionResult(condition, held, [], results.Count == 0 ? "no trusted host says anything about it" : string.Join(", ", results.Select(r => r.Says)));
    }

    private static string Arrived(ZonedDateTime at) => $"{at.DayOfWeek} {Minute.Format(at.TimeOfDay)}";
}
