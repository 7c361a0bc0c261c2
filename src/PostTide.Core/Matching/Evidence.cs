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

    /// <summary>The value of a header field, by index.</summary>
    Header,
}

/// <summary>The words a decision rests on, as a place in one of the message's texts.</summary>
/// <param name="Place">Which text.</param>
/// <param name="Start">Offset of the first character in UTF-16 units.</param>
/// <param name="Length">Length in UTF-16 units.</param>
/// <param name="Text">The words themselves, as they stand there.</param>
/// <param name="Index">Which of several recipients, attachments, signs or header fields.</param>
public sealed record Evidence(EvidencePlace Place, int Start, int Length, string Text, int Index = 0)
{
    internal static Evidence In(EvidencePlace place, string text, int start, int length, int index = 0) =>
        new(place, start, length, text.Substring(start, length), index);
}

/// <summary>Whether a condition held, and on what.</summary>
/// <param name="Condition">The condition.</param>
/// <param name="Held">The verdict.</param>
/// <param name="Evidence">The words it rests on; none where it rests on a number or a time.</param>
/// <param name="Found">What was there instead of words, such as <c>5.2 MB</c>; null for conditions on text.</param>
/// <param name="Inner">What the conditions of a group or of a saved condition came to; null for any other.</param>
public sealed record ConditionResult(
    Condition Condition, bool Held, ImmutableArray<Evidence> Evidence, string? Found = null, SetResult? Inner = null)
{
    /// <summary>How many demands failed; a condition that held has none.</summary>
    public int Failures => Held ? 0 : Math.Max(1, Inner?.Failures ?? 1);

    /// <summary>The result itself, or those of the conditions of a group, however deep.</summary>
    public IEnumerable<ConditionResult> Leaves() => Condition.Part == MessagePart.Group && Inner is not null ? Inner.Results.SelectMany(r => r.Leaves()) : [this];
}

/// <summary>What a set of conditions came to.</summary>
/// <param name="Holds">The verdict of the whole set.</param>
/// <param name="Results">Every condition's own result, in the order all, any, none.</param>
/// <param name="Failures">How many demands of the set failed; <c>any</c> counts as one demand. One failure is a near miss.</param>
/// <param name="Decisive">The conditions that made it fail; empty when it holds.</param>
public sealed record SetResult(
    bool Holds, ImmutableArray<ConditionResult> Results, int Failures, ImmutableArray<ConditionResult> Decisive)
{
    /// <summary>The evidence of every condition that counts for the set.</summary>
    public ImmutableArray<Evidence> Evidence() => [.. Results.Where(r => r.Held).SelectMany(r => r.Evidence)];

    /// <summary>The results of conditions that are not groups, however deep.</summary>
    public IEnumerable<ConditionResult> Leaves() => Results.SelectMany(r => r.Leaves());
}
