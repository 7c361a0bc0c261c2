using PostTide.Core.Messages;
using PostTide.Core.Sorting;
using PostTide.Store.Records;

namespace PostTide.Server.Places;

/// <summary>A sorter in the table: its numbers in use and in hand, how much it decides without a person, and how much of that is right.</summary>
public sealed record SorterRow(long Id, string Name, int? InUse, int? InHand, int Categories, int Examples, Share? Decided, Share? Right, IReadOnlyList<string> UsedBy);

/// <summary>A number of a sorter and how good it is.</summary>
public sealed record SorterNumberView(
    int Number, SorterNumberState State, DateTimeOffset ChangedAt, string ChangedBy, DateTimeOffset? TrainedAt, int TrainedOn, double TrainedIn, bool HasModel,
    DateTimeOffset? UsedSince, DateTimeOffset? UsedUntil, string? Problem);

/// <summary>What changed against the number in use, on the examples both were tried on.</summary>
public sealed record SorterComparison(int Compared, int NowRight, int NowWrong, double DecidedBefore, double MacroF1Before, double CalibrationErrorBefore);

/// <summary>A sorter opened.</summary>
public sealed record SorterView(
    long Id, string Name, bool AsksOutside, SorterSettings Settings, int Number, SorterNumberState State, int Revision, bool Due, TrainingStep? Training,
    IReadOnlyList<SorterNumberView> Numbers, SorterEvaluation? Evaluation, IReadOnlyDictionary<string, double> Floors, SorterComparison? Comparison, SorterEvaluation? InUse,
    IReadOnlyDictionary<string, int> Examples, int LabelsToday, IReadOnlyList<string> Advice, LearningForecast? Forecast, IReadOnlyList<Named> UsedBy);

/// <summary>The settings as changed, and the revision the change was made on.</summary>
public sealed record SorterSettingsRequest(SorterSettings Settings, int Number, int Revision);

/// <summary>A message as a sorter sees it, for labelling.</summary>
public sealed record SorterLookView(PreparedMessage Message, IReadOnlyList<CategorySurety> Sureties, SorterExplanation Explanation);

/// <summary>A label for a message; null for none of these.</summary>
public sealed record LabelRequest(long MessageId, string? CategoryId);

/// <summary>What label a message had before, so that the change can be taken back.</summary>
public sealed record LabelBefore(bool Had, string? CategoryId);

/// <summary>Where labels are gathered from.</summary>
public sealed record GatherRequest(Engine.Sorting.GatherFrom From, long Id, string? CategoryId, int Most, bool Write);

/// <summary>An example in a list, with what the sorter says about it.</summary>
public sealed record ExampleRow(
    long MessageId, DateTimeOffset ArrivedAt, string SenderAddress, string Subject, string? CategoryId, LabelSource Source, string By, DateTimeOffset At, Prediction? Prediction);

/// <summary>A page of examples.</summary>
public sealed record ExamplePage(IReadOnlyList<ExampleRow> Examples, int Total);

/// <summary>An example that is like a message.</summary>
public sealed record NearExampleRow(long MessageId, string Subject, string SenderAddress, string? CategoryId, double Likeness);

/// <summary>Why a sorter says what it says about a message.</summary>
public sealed record SorterReasons(int Number, IReadOnlyList<CategorySurety> Sureties, SorterExplanation Explanation, IReadOnlyList<NearExampleRow> Nearest);

/// <summary>How a sorter has done since it is in use.</summary>
public sealed record SorterOverTime(IReadOnlyList<SortedWeek> Weeks, SorterDrift? Drift);

/// <summary>What a sorter said about a message, as it matters to the person who decides.</summary>
public sealed record MessageSorting(
    long SorterId, string Sorter, IReadOnlyList<CategorySurety> Sureties, IReadOnlyList<Named> Workflows, string? CategoryId, bool Unsure, IReadOnlyDictionary<string, string> Names,
    bool Labelled, string? LabelledAs, string? LabelledBy);

/// <summary>
/// A person's decision about a message: the category (null for none of these), whether what the workflow does with it is done now, and
/// the queue item that is done with it.
/// </summary>
public sealed record SortByHandRequest(string? CategoryId, bool CarryOut, long? ItemId);

/// <summary>What an outside service would be sent.</summary>
public sealed record OutsideView(OutsideQuestion Question, string? Answer, string? Problem);

/// <summary>Both sorters on the same mail.</summary>
public sealed record OutsideComparison(int Asked, int Answered, int OutsideRight, int OwnRight, IReadOnlyList<OutsideDifference> Differences, string? Problem);

/// <summary>A message on which the sorters differ.</summary>
public sealed record OutsideDifference(long MessageId, string Subject, string? Is, string? Own, string? Outside, string? Problem);
