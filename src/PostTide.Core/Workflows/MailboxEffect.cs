using System.Buffers;
using System.Collections.Immutable;
using System.Text.Json.Serialization;

namespace PostTide.Core.Workflows;

/// <summary>What can be done to a message where it lies in its mailbox. The flags are those of RFC 3501 §2.3.2.</summary>
public enum MailboxEffectKind
{
    MarkRead,
    MarkUnread,
    SetFlag,
    ClearFlag,
    SetKeyword,
    ClearKeyword,

    /// <summary>Move to a folder (RFC 6851).</summary>
    Move,

    /// <summary>Move to the folder the server names as its archive (RFC 6154).</summary>
    Archive,
}

/// <summary>One effect on a message in its mailbox.</summary>
/// <param name="Kind">What is done.</param>
/// <param name="Name">The keyword or the folder; null where the kind needs none.</param>
public sealed record MailboxEffect(MailboxEffectKind Kind, string? Name = null)
{
    private const int LongestName = 200;

    // RFC 3501 §9, atom-specials and resp-specials: what a keyword may not hold.
    private static readonly SearchValues<char> NotInKeyword = SearchValues.Create("(){%*\"\\] ");

    /// <summary>Whether the message lies elsewhere afterwards.</summary>
    [JsonIgnore]
    public bool Moves => Kind is MailboxEffectKind.Move or MailboxEffectKind.Archive;

    /// <summary>The effect in plain words.</summary>
    [JsonIgnore]
    public string Says => Kind switch
    {
        MailboxEffectKind.MarkRead => "mark as read",
        MailboxEffectKind.MarkUnread => "mark as unread",
        MailboxEffectKind.SetFlag => "set the flag",
        MailboxEffectKind.ClearFlag => "clear the flag",
        MailboxEffectKind.SetKeyword => $"set the keyword “{Name}”",
        MailboxEffectKind.ClearKeyword => $"clear the keyword “{Name}”",
        MailboxEffectKind.Move => $"move to “{Name}”",
        _ => "move to the archive",
    };

    /// <summary>Moves come last: after them the message has another place.</summary>
    public static ImmutableArray<MailboxEffect> InOrder(ImmutableArray<MailboxEffect> effects) => [.. effects.OrderBy(e => e.Moves)];

    /// <summary>A deed's effects in plain words.</summary>
    public static string Say(ImmutableArray<MailboxEffect> effects) => $"in the mailbox: {string.Join(", ", effects.Select(e => e.Says))}";

    /// <summary>What is wrong with a set of effects, each in a sentence.</summary>
    public static IEnumerable<string> ProblemsOf(ImmutableArray<MailboxEffect> effects)
    {
        if (effects.Count(e => e.Moves) > 1)
        {
            yield return "A message can be moved to one place only.";
        }

        if (effects.Any(e => e.Kind == MailboxEffectKind.MarkRead) && effects.Any(e => e.Kind == MailboxEffectKind.MarkUnread))
        {
            yield return "A message cannot be marked as read and as unread at once.";
        }

        if (effects.Any(e => e.Kind == MailboxEffectKind.SetFlag) && effects.Any(e => e.Kind == MailboxEffectKind.ClearFlag))
        {
            yield return "The flag cannot be set and cleared at once.";
        }

        foreach (var effect in effects)
        {
            switch (effect.Kind)
            {
                case MailboxEffectKind.SetKeyword or MailboxEffectKind.ClearKeyword when !IsKeyword(effect.Name ?? ""):
                    yield return $"“{effect.Name}” cannot be a keyword in a mailbox: letters, digits, “_”, “-”, “.” and “$” can.";
                    break;
                case MailboxEffectKind.Move when string.IsNullOrWhiteSpace(effect.Name) || effect.Name.Length > LongestName || effect.Name.Any(char.IsControl):
                    yield return "A move needs the name of a folder.";
                    break;
            }
        }
    }

    private static bool IsKeyword(string name) =>
        name.Length is > 0 and <= LongestName && name.All(c => c is > ' ' and < '\x7f') && !name.AsSpan().ContainsAny(NotInKeyword);
}
