using PostTide.Core.Messages;
using PostTide.Store.Records;

namespace PostTide.Server.Places;

/// <summary>A message in a list.</summary>
public sealed record MessageRow(
    long Id, DateTimeOffset ArrivedAt, string SenderName, string SenderAddress, string Subject, int AttachmentCount,
    AutomaticKind? Automatic, MessageState State, bool TakenIn, bool Duplicate, bool Old, string? Problem)
{
    public static MessageRow Of(Message m) => new(
        m.Id, m.ArrivedAt, m.SenderName, m.SenderAddress, m.Subject, m.AttachmentCount, m.Automatic, m.State, m.TakenIn,
        m.DuplicateOfId != null, m.Old, m.Problem);
}

/// <summary>A page of messages and where the next one begins; null when there is none.</summary>
public sealed record MessagePage(IReadOnlyList<MessageRow> Messages, DateTimeOffset? NextTime, long? NextId, int? Total);

/// <summary>One line of a timeline.</summary>
public sealed record EntryView(long Id, EntryKind Kind, DateTimeOffset At, string? Person, string Text, long? MessageId)
{
    public static EntryView Of(Entry e) => new(e.Id, e.Kind, e.At, e.Person, e.Text, e.MessageId);
}

/// <summary>Something with a name, for choosing.</summary>
public sealed record Named(long Id, string Name);
