using System.Collections.Immutable;

namespace PostTide.Core.Matching;

/// <summary>The text a piece of evidence points into.</summary>
public enum EvidencePlace
{
    /// <summary>The sender as shown, <see cref="Messages.EmailAddress.Shown"/>.</summary>
    Sender,

    /// <summary>One of the recipients as shown, by index.</summary>
    Recipient,
    Subject,

    /// <summary>The whole text of the body.</summary>
    Body,

    /// <summary>The name of one attachment, by index.</summary>
    Attachment,

    /// <summary>A sign of automatic mail, by index.</summary>
    Sign,
}

/// <summary>The words a decision rests on, as a place in one of the message's texts.</summary>
/// <param name="Place">Which text.</param>
/// <param name="Start">Offset of the first character in UTF-16 units.</param>
/// <param name="Length">Length in UTF-16 units.</param>
/// <param name="Text">The words themselves, as they stand there.</param>
/// <param name="Index">Which of several recipients, attachments or signs.</param>
public sealed record Evidence(EvidencePlace Place, int Start, int Length, string Text, int Index = 0)
{
    internal static Evidence In(EvidencePlace place, string text, int start, int length, int index = 0) =>
        new(place, start, length, text.Substring(start, length), index);
}

/// <summary>Whether a condition held, and on what.</summary>
public sealed record ConditionResult(Condition Condition, bool Held, ImmutableArray<Evidence> Evidence);

/// <summary>What a set of conditions came to.</summary>
/// <param name="Holds">The verdict of the whole set.</param>
/// <param name="Results">Every condition's own result, in the order all, any, none.</param>
/// <param name="Failures">How many demands of the set failed; <c>any</c> counts as one demand. One failure is a near miss.</param>
/// <param name="Decisive">The conditions that made it fail; empty when it holds.</param>
public sealed record SetResult(
    bool Holds, ImmutableArray<ConditionResult> Results, int Failures, ImmutableArray<Condition> Decisive)
{
    /// <summary>The evidence of every condition that counts for the set.</summary>
    public ImmutableArray<Evidence> Evidence() => [.. Results.Where(r => r.Held).SelectMany(r => r.Evidence)];
}
