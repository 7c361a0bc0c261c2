using PostTide.Core.Rehearsal;
using PostTide.Core.Workflows;

namespace PostTide.Store.Records;

/// <summary>A workflow: a name, a place in the order, and editions.</summary>
public sealed class Workflow
{
    public long Id { get; set; }
    public required string Name { get; set; }

    /// <summary>Its place in the order in which workflows see a message.</summary>
    public int Position { get; set; }

    /// <summary>A paused workflow sees no mail; its editions stay.</summary>
    public bool Paused { get; set; }
    public List<WorkflowEdition> Editions { get; set; } = [];
}

/// <summary>What an edition is used for.</summary>
public enum EditionState
{
    /// <summary>Being changed; at most one of a workflow.</summary>
    InHand,

    /// <summary>Decides on mail; at most one of a workflow.</summary>
    Live,

    /// <summary>Was live once.</summary>
    Past,
}

/// <summary>A numbered version of a workflow. Never changed once live.</summary>
public sealed class WorkflowEdition
{
    public long Id { get; set; }
    public long WorkflowId { get; set; }
    public int Number { get; set; }
    public EditionState State { get; set; }
    public required Sheet Sheet { get; set; }

    /// <summary>Counts the changes in hand, so that two people's edits do not overwrite each other.</summary>
    public int Revision { get; set; }
    public DateTimeOffset ChangedAt { get; set; }
    public string ChangedBy { get; set; } = "";
    public DateTimeOffset? LiveSince { get; set; }
    public DateTimeOffset? LiveUntil { get; set; }
}

/// <summary>A message of which it is known what a workflow should make of it. Going live with an edition that does otherwise asks first.</summary>
public sealed class KeptExampleRecord
{
    public long Id { get; set; }
    public long WorkflowId { get; set; }
    public long MessageId { get; set; }
    public required Expectation Expected { get; set; }
    public string KeptBy { get; set; } = "";
    public DateTimeOffset KeptAt { get; set; }
}

/// <summary>The time zone of the desk and its business hours. There is one.</summary>
public sealed class DeskHours
{
    public const long TheOne = 1;

    public long Id { get; set; } = TheOne;

    /// <summary>A name of the IANA time zone database.</summary>
    public string Zone { get; set; } = "UTC";

    /// <summary>HH:mm.</summary>
    public string From { get; set; } = "09:00";
    public string Until { get; set; } = "17:00";

    /// <summary>ISO days, 1 for Monday to 7.</summary>
    public int[] Days { get; set; } = [1, 2, 3, 4, 5];
}
