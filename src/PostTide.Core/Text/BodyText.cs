using System.Collections.Immutable;
using System.Text.Json.Serialization;

namespace PostTide.Core.Text;

/// <summary>What a stretch of a body is.</summary>
public enum StretchKind
{
    /// <summary>What the sender wrote this time.</summary>
    New,

    /// <summary>Earlier mail repeated below or between.</summary>
    Quoted,

    /// <summary>The sender's signature.</summary>
    Signature,
}

/// <summary>A stretch of a body: where it begins, how long it is, what it is.</summary>
public sealed record Stretch(StretchKind Kind, int Start, int Length);

/// <summary>The text of a message, cut into stretches that follow each other without gaps.</summary>
/// <param name="Text">The whole text, lines ending in LF, in Unicode normalisation form C.</param>
/// <param name="Stretches">The stretches in order.</param>
public sealed record BodyText(string Text, ImmutableArray<Stretch> Stretches)
{
    public static readonly BodyText Empty = new("", []);

    private readonly Kept<SearchedText> _searched = new();
    private readonly Kept<Stretch[]> _new = new();

    /// <summary>The text with its words.</summary>
    [JsonIgnore]
    public SearchedText Searched => _searched.Of(Text, static t => new SearchedText(t));

    /// <summary>The stretches that are new; where there are none (a bare forward) the quoted ones count as new.</summary>
    [JsonIgnore]
    public IReadOnlyList<Stretch> NewStretches => _new.Of(this, static b => b.FindNew());

    /// <summary>The new part as one text, for a ticket's description.</summary>
    [JsonIgnore]
    public string NewPart => string.Concat(NewStretches.Select(s => Text.Substring(s.Start, s.Length))).Trim();

    private Stretch[] FindNew() => [.. Stretches.Any(IsNew) ? Stretches.Where(IsNew) : Stretches.Where(s => s.Kind == StretchKind.Quoted)];

    private bool IsNew(Stretch s) => s.Kind == StretchKind.New && !Text.AsSpan(s.Start, s.Length).IsWhiteSpace();
}
