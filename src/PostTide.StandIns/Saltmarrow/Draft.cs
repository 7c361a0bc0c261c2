namespace PostTide.StandIns.Saltmarrow;

/// <summary>A file that goes with a draft.</summary>
public sealed record DraftFile(string Name, string MediaType, byte[] Bytes);

/// <summary>A message in the making.</summary>
public sealed record Draft(Writer From, string To, string Subject, IReadOnlyList<string> Paragraphs)
{
    public IReadOnlyList<DraftFile> Files { get; init; } = [];
    public IReadOnlyList<(string Name, string Value)> Fields { get; init; } = [];
    public string? Cc { get; init; }

    /// <summary>Written by a machine: no greeting, no signature, no typing errors.</summary>
    public bool Machine { get; init; }

    /// <summary>The null return path of a notice from a mail host.</summary>
    public bool NullPath { get; init; }

    /// <summary>Earlier mail repeated below, with its introduction.</summary>
    public string? Quoted { get; init; }

    /// <summary>What the same person writes later in the same conversation, and after how many hours.</summary>
    public (double Hours, Draft Draft)? Later { get; init; }
}
