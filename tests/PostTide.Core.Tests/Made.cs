using CsCheck;
using PostTide.Core.Matching;
using PostTide.Core.Messages;
using PostTide.Core.Replies;
using PostTide.Core.Text;
using PostTide.Core.Workflows;

namespace PostTide.Core.Tests;

/// <summary>Messages, sheets and contexts for tests.</summary>
internal static class Made
{
    public static readonly DateTimeOffset Noon = new(2026, 11, 25, 12, 0, 0, TimeSpan.Zero);

    public static readonly KeywordList Berthing = new(1, "Berthing words", ["berth", "mooring", "finger berth", "visitors' pontoon"]);

    public static readonly PlanContext Context = new()
    {
        Now = Noon,
        KeywordLists = new Dictionary<long, KeywordList> { [1] = Berthing },
        Queues = new Dictionary<long, string> { [1] = "Berthing desk", [2] = "Large berths" },
        Destinations = new Dictionary<long, string> { [1] = "Register" },
        Templates = new Dictionary<long, ReplyTemplate>
        {
            [1] = new(1, "Received", "Dear {{ sender_name }}, your number is {{ ticket }}."),
            [2] = new(2, "Vessel", "We expect {{ vessel }}."),
        },
        TicketPrefix = "SH",
        OurAddresses = ["berths@saltmarrow.example"],
    };

    public static PreparedMessage Message(string subject = "Berth for Tern", string body = "Is there a berth for us?\n", string from = "maud@tern.example") => new()
    {
        Id = 7,
        MessageId = "m7@tern.example",
        From = new EmailAddress("Maud Ashgrove", from),
        ReturnPath = from,
        To = [new EmailAddress("", "berths@saltmarrow.example")],
        OriginallyTo = ["berths@saltmarrow.example"],
        Subject = subject,
        Body = BodySplitter.Split(body),
        ArrivedAt = Noon,
        ConversationId = 7,
    };

    /// <summary>One of the values, each as likely.</summary>
    public static Gen<T> OneOf<T>(params T[] values) => Gen.Int[0, values.Length - 1].Select(i => values[i]);

    public static Condition Text(string id, MessagePart part, MatchTest test, params string[] values) => new() { Id = id, Part = part, Test = test, Values = [.. values] };

    public static Condition Words(string id, MessagePart part = MessagePart.SubjectOrBody) => new() { Id = id, Part = part, Test = MatchTest.HasAnyWordIn, KeywordListId = 1 };

    public static Sheet Sheet(params Line[] lines) => new()
    {
        TakesIn = new ConditionSet { All = [Words("c1")] },
        Facts = ["sender_name", "sender_address", "subject"],
        Lines = [.. lines],
    };

    public static Line Line(string id = "l1") => new() { Id = id, Queues = [new PlaceSpec(1, 60)] };

    public static Edition Edition(Sheet sheet, long workflow = 1, string name = "Berths", int number = 1) => new(workflow, name, number, sheet);

    public static Verdict Decide(PreparedMessage message, Sheet sheet, PlanContext? context = null) =>
        Planner.Plan(message, [Edition(sheet)], context ?? Context).Verdicts[0];
}
