using PostTide.Core.Sorting;

namespace PostTide.Store.Records;

/// <summary>A sorter: a name and numbers.</summary>
public sealed class Sorter
{
    public long Id { get; set; }
    public required string Name { get; set; }

    /// <summary>Whether the outside sorter decides in place of the trained one.</summary>
    public bool AsksOutside { get; set; }
    public List<SorterNumber> Numbers { get; set; } = [];
}

/// <summary>What a number of a sorter is used for.</summary>
public enum SorterNumberState
{
    /// <summary>Being changed and trained; at most one of a sorter.</summary>
    InHand,

    /// <summary>Decides on mail; at most one of a sorter.</summary>
    InUse,

    /// <summary>Was in use once.</summary>
    Past,
}

/// <summary>A numbered version of a sorter. Never changed once in use.</summary>
public sealed class SorterNumber
{
    public long Id { get; set; }
    public long SorterId { get; set; }
    public int Number { get; set; }
    public SorterNumberState State { get; set; }
    public required SorterSettings Settings { get; set; }

    /// <summary>Counts the changes of the settings, so that two people's edits do not overwrite each other.</summary>
    public int Revision { get; set; }

    /// <summary>When settings or examples last changed; trained again when that is later than the training.</summary>
    public DateTimeOffset ChangedAt { get; set; }
    public string ChangedBy { get; set; } = "";
    public DateTimeOffset? TrainedAt { get; set; }

    /// <summary>On how many examples.</summary>
    public int TrainedOn { get; set; }

    /// <summary>How many milliseconds the training took.</summary>
    public double TrainedIn { get; set; }

    /// <summary>The trained sorter as <see cref="SorterFile"/> writes it; null before it was trained.</summary>
    public byte[]? Model { get; set; }
    public SorterEvaluation? Evaluation { get; set; }

    /// <summary>What it said about every example it was not trained on.</summary>
    public Prediction[]? Predictions { get; set; }

    /// <summary>Why it could not be trained, in a sentence.</summary>
    public string? Problem { get; set; }
    public DateTimeOffset? UsedSince { get; set; }
    public DateTimeOffset? UsedUntil { get; set; }
}

/// <summary>Where a label came from.</summary>
public enum LabelSource
{
    /// <summary>Given on the sorter's page.</summary>
    Labelling,

    /// <summary>A choice made for an unsure message.</summary>
    SortedByHand,

    /// <summary>A correction of what the sorter had decided.</summary>
    NotRight,

    /// <summary>An upload or a folder whose messages belong together.</summary>
    Folder,

    /// <summary>The queue in which people had put the messages.</summary>
    PastRouting,
}

/// <summary>An example: the category a person gave a message. One per sorter and message.</summary>
public sealed class SorterLabel
{
    public long SorterId { get; set; }
    public long MessageId { get; set; }

    /// <summary>The category; null for none of these.</summary>
    public string? CategoryId { get; set; }
    public LabelSource Source { get; set; }
    public string By { get; set; } = "";
    public DateTimeOffset At { get; set; }
}

/// <summary>What a sorter said about a live message. One per sorter and message: the last.</summary>
public sealed class SortedMessage
{
    public long SorterId { get; set; }
    public long MessageId { get; set; }
    public int Number { get; set; }
    public string? CategoryId { get; set; }
    public double Surety { get; set; }
    public bool Unsure { get; set; }
    public DateTimeOffset At { get; set; }
}

/// <summary>The service that may be asked to sort. There is one, and none at first.</summary>
public sealed class OutsideSorterSettings
{
    public const long TheOne = 1;

    public long Id { get; set; } = TheOne;

    /// <summary>Whether anything may be asked at all.</summary>
    public bool On { get; set; }

    /// <summary>The address below which the service has <c>chat/completions</c>.</summary>
    public string Address { get; set; } = "";
    public string Model { get; set; } = "";

    /// <summary>The key, encrypted; empty for none.</summary>
    public string Secret { get; set; } = "";

    /// <summary>How many characters of a message may leave.</summary>
    public int MostCharacters { get; set; } = 4_000;
    public int TimeoutSeconds { get; set; } = 10;
}

/// <summary>What the outside sorter answered about a message, or why it did not.</summary>
public sealed class OutsideAnswerRecord
{
    public long SorterId { get; set; }
    public long MessageId { get; set; }
    public string? CategoryId { get; set; }
    public string By { get; set; } = "";

    /// <summary>Why there is no answer; null where there is one.</summary>
    public string? Problem { get; set; }
    public DateTimeOffset At { get; set; }
}
