using System.Collections.Immutable;
using System.Globalization;
using System.Text;
using PostTide.Core.Matching;
using PostTide.Core.Messages;
using PostTide.Core.Workflows;

namespace PostTide.Core.Formats;

/// <summary>A workflow as a Sieve script, as far as it fits.</summary>
/// <param name="Script">The script; empty when what is taken in cannot be said in Sieve.</param>
/// <param name="DoesNotFit">What was left out, each in a sentence.</param>
/// <param name="FitsNearly">What is said in Sieve a little differently, each in a sentence.</param>
public sealed record SieveExport(string Script, ImmutableArray<string> DoesNotFit, ImmutableArray<string> FitsNearly);

/// <summary>
/// Writes what of a workflow fits as a Sieve script: RFC 5228 (base), 5229 (variables, for the category), 5233 (subaddress), 5260
/// (dates), 5173 (body), 3894 (copy), 5231 (comparing dates).
/// </summary>
public sealed class SieveWriter
{
    private readonly SortedSet<string> _needs = new(StringComparer.Ordinal);
    private readonly List<string> _doesNotFit = [];
    private readonly List<string> _nearly = [];
    private readonly WorkflowDocument _document;

    private SieveWriter(WorkflowDocument document) => _document = document;

    /// <summary>The script of a workflow.</summary>
    public static SieveExport Write(WorkflowDocument document) => new SieveWriter(document).Write();

    private SieveExport Write()
    {
        var takesIn = TestOf(_document.TakesIn);
        if (takesIn is null)
        {
            _doesNotFit.Insert(0, "What is taken in cannot be said in Sieve, so there is no script.");
            return Result("");
        }

        if (!_document.Addresses.IsEmpty)
        {
            Need("envelope", "subaddress");
            var addresses = _document.Addresses.Select(a => $"allof (envelope :user :is \"to\" {Quote(SubAddress.Split(a).User)}, envelope :domain :is \"to\" {Quote(SubAddress.Split(a).Domain)})");
            takesIn = AllOf([AnyOf([.. addresses]), takesIn]);
        }

        var body = new StringBuilder();
        WriteCategories(body);
        WriteLines(body);
        if (_document.Limits?.SkipLaterWorkflows ?? true)
        {
            body.Append("  stop;\n");
        }

        Note(_document.Sorter is not null, "No sorter is asked in Sieve.");
        Note(!_document.ReadsOut.IsEmpty, "Facts are not read out in Sieve.");
        return Result($"if {takesIn} {{\n{body}}}\n");
    }

    private SieveExport Result(string script)
    {
        var needs = _needs.Count == 0 ? "" : $"require [{string.Join(", ", _needs.Select(Quote))}];\n\n";
        return new SieveExport(script.Length == 0 ? "" : $"# {_document.Name.ReplaceLineEndings(" ")}\n{needs}{script}", [.. _doesNotFit.Distinct()], [.. _nearly.Distinct()]);
    }

    private void WriteCategories(StringBuilder body)
    {
        if (_document.SortsInto.IsEmpty)
        {
            return;
        }

        Need("variables");
        body.Append("  set \"category\" \"\";\n");
        var word = "if";
        foreach (var category in _document.SortsInto)
        {
            if (category.When is { } when && TestOf(when) is { } test)
            {
                body.Append(CultureInfo.InvariantCulture, $"  {word} {test} {{\n    set \"category\" {Quote(category.Name)};\n  }}\n");
                word = "elsif";
            }
            else
            {
                _doesNotFit.Add($"The category “{category.Name}” cannot be recognised in Sieve.");
            }
        }
    }

    private void WriteLines(StringBuilder body)
    {
        var word = "if";
        for (var i = 0; i < _document.Does.Length; i++)
        {
            var line = _document.Does[i];
            if (line.Off)
            {
                continue;
            }

            var test = LineTest(line);
            if (test is null)
            {
                _doesNotFit.Add($"Line {i + 1} fits by something that cannot be said in Sieve.");
                continue;
            }

            var actions = Actions(line, i + 1);
            body.Append(CultureInfo.InvariantCulture, $"  {word} {test} {{\n{string.Concat(actions.Select(a => $"    {a}\n"))}  }}\n");
            word = _document.EveryLine ? "if" : "elsif";
        }
    }

    private string? LineTest(LineDocument line)
    {
        // What rests on a sorter cannot be said: without this, a line for unsure mail would fit all mail.
        if (line.Unsure || line.SuretyFrom is not null || (line.NoneOfThese && _document.Sorter is not null)
            || _document.SortsInto.Any(c => c.BySorter && c.Name == line.Category))
        {
            return null;
        }

        var category = line.Category is { } name ? $"string :is \"${{category}}\" {Quote(name)}" : line.NoneOfThese && !_document.SortsInto.IsEmpty ? "string :is \"${category}\" \"\"" : null;
        var and = line.And is { } more && !more.IsEmpty() ? TestOf(more) : "true";
        return and is null ? null : category is null ? and : and == "true" ? category : AllOf([category, and]);
    }

    private List<string> Actions(LineDocument line, int number)
    {
        var actions = new List<string>();
        foreach (var effect in line.InMailbox)
        {
            if (effect.Kind == MailboxEffectKind.Move)
            {
                Need("fileinto");
                actions.Add($"fileinto {Quote(effect.Name ?? "")};");
            }
            else
            {
                _doesNotFit.Add($"Line {number}: “{effect.Says}” has no counterpart among the extensions used here.");
            }
        }

        Note(!line.Queues.IsEmpty, $"Line {number}: Sieve knows no queues.");
        Note(line.Ticket is not null, $"Line {number}: Sieve knows no tickets.");
        Note(!line.Files.IsEmpty, $"Line {number}: Sieve does not save attachments.");
        Note(!line.Replies.IsEmpty, $"Line {number}: replies from a template have no counterpart.");
        Note(!line.PassOn.IsEmpty, $"Line {number}: passing on to another application has no counterpart.");
        return actions.Count == 0 ? ["keep;"] : actions;
    }

    /// <summary>The test for a set; null when a demand of it cannot be said.</summary>
    private string? TestOf(SetDocument set)
    {
        var tests = new List<string>();
        foreach (var condition in set.All)
        {
            if (TestOf(condition) is not { } test)
            {
                return null;
            }

            tests.Add(test);
        }

        if (!set.Any.IsEmpty)
        {
            // An alternative that cannot be said is left out: less is taken in then, never more.
            var any = set.Any.Select(TestOf).OfType<string>().ToList();
            if (any.Count == 0)
            {
                return null;
            }

            tests.Add(AnyOf(any));
        }

        foreach (var condition in set.None)
        {
            if (TestOf(condition) is not { } test)
            {
                return null;
            }

            tests.Add($"not {test}");
        }

        return AllOf(tests);
    }

    private string? TestOf(ConditionDocument condition)
    {
        var test = (condition.Part ?? (condition.IsEmpty() ? MessagePart.SubjectOrBody : MessagePart.Group)) switch
        {
            MessagePart.Group => TestOf((SetDocument)condition),
            MessagePart.Saved => _document.SavedConditions.FirstOrDefault(s => s.Name == condition.Saved)?.Set is { } set ? TestOf(set) : null,
            MessagePart.Sender => Header(condition, "From"),
            MessagePart.SenderAddress => Address(condition, ":all", "From"),
            MessagePart.SenderDomain => Address(condition, ":domain", "From"),
            MessagePart.Recipient => Address(condition, ":all", "To", "Cc"),
            MessagePart.OriginallyTo => Envelope(condition, ":all"),
            MessagePart.Tag => Envelope(condition, ":detail"),
            MessagePart.Subject => Header(condition, "Subject"),
            MessagePart.ListId => Header(condition, "List-Id"),
            MessagePart.Header => Header(condition, condition.Name ?? ""),
            MessagePart.Body => Body(condition),
            MessagePart.SubjectOrBody => Both(Header(condition, "Subject"), Body(condition)),
            MessagePart.Size => Size(condition),
            MessagePart.ArrivalDate => Date(condition, "currentdate", "date", condition.From, condition.Until),
            MessagePart.SentDate => Date(condition, "date :originalzone", "date", condition.From, condition.Until),
            MessagePart.Hour => Hours(condition),
            MessagePart.Weekday => Weekdays(condition),
            MessagePart.Automatic when condition.Kinds.SequenceEqual([AutomaticKind.MailingList]) =>
                condition.Test == MatchTest.Absent ? "not exists \"List-Id\"" : "exists \"List-Id\"",
            _ => null,
        };
        Note(test is null, $"“{condition.Part?.ToString() ?? "a group"}” compared by {condition.Test?.ToString() ?? "its usual test"} has no counterpart.");
        return test;
    }

    private string? Header(ConditionDocument condition, string name) => condition.Test switch
    {
        MatchTest.Present => $"exists {Quote(name)}",
        MatchTest.Absent => $"not exists {Quote(name)}",
        _ => Match(condition) is var (how, keys) ? $"header {how} {Quote(name)} {keys}" : null,
    };

    private string? Address(ConditionDocument condition, string part, params string[] fields) =>
        Match(condition) is var (how, keys) ? $"address {part} {how} {List(fields)} {keys}" : null;

    private string? Envelope(ConditionDocument condition, string part)
    {
        if (Match(condition) is not var (how, keys))
        {
            return null;
        }

        Need("envelope");
        if (part == ":detail")
        {
            Need("subaddress");
        }

        return $"envelope {part} {how} \"to\" {keys}";
    }

    private string? Body(ConditionDocument condition)
    {
        if (Match(condition) is not var (how, keys))
        {
            return null;
        }

        Need("body");
        Nearly(!condition.WholeBody, "A body is looked at whole, quoted history and signature too.");
        return $"body :text {how} {keys}";
    }

    private static string? Both(string? a, string? b) => a is null || b is null ? null : AnyOf([a, b]);

    /// <summary>The match type with its comparator, and the keys.</summary>
    private (string How, string Keys)? Match(ConditionDocument condition)
    {
        var comparator = condition.SameCase ? " :comparator \"i;octet\"" : "";
        var test = condition.Test ?? (condition.KeywordList is null ? MatchTest.Contains : MatchTest.HasAnyWordIn);
        switch (test)
        {
            case MatchTest.Is:
                return ($":is{comparator}", List(condition.Values));
            case MatchTest.Contains:
                return ($":contains{comparator}", List(condition.Values));
            case MatchTest.Matches:
                return ($":matches{comparator}", List(condition.Values));
            case MatchTest.Begins:
                return ($":matches{comparator}", List(condition.Values.Select(v => Literally(v) + "*")));
            case MatchTest.Ends:
                return ($":matches{comparator}", List(condition.Values.Select(v => "*" + Literally(v))));
            case MatchTest.Word:
                Nearly(true, "Words are found within longer words too.");
                return ($":contains{comparator}", List(condition.Values));
            case MatchTest.HasAnyWordIn when _document.KeywordLists.FirstOrDefault(l => l.Name == condition.KeywordList) is { } list:
                Nearly(true, "Words are found within longer words too.");
                return (":contains", List(list.Words));
            default:
                return null;
        }
    }

    private static string Size(ConditionDocument condition) => AllOf(
    [
        .. condition.Least is { } least ? [$"size :over {Math.Max(0, (long)Math.Ceiling(least) - 1)}"] : Array.Empty<string>(),
        .. condition.Most is { } most ? [$"not size :over {(long)Math.Floor(most)}"] : Array.Empty<string>(),
    ]);

    private string Date(ConditionDocument condition, string test, string part, string? from, string? until)
    {
        Need("date", "relational");
        var of = test.StartsWith("date", StringComparison.Ordinal) ? " \"Date\"" : "";
        var (name, zone) = test.Split(' ') is [var n, var z] ? (n, " " + z) : (test, "");
        return AllOf(
        [
            .. from is null ? Array.Empty<string>() : [$"{name}{zone} :value \"ge\"{of} \"{part}\" {Quote(from)}"],
            .. until is null ? Array.Empty<string>() : [$"{name}{zone} :value \"le\"{of} \"{part}\" {Quote(until)}"],
        ]);
    }

    private string Hours(ConditionDocument condition)
    {
        Need("date", "relational");
        Nearly(true, "Times of day go by the clock of the mail server.");
        string[] ends =
        [
            .. condition.From is { } from ? [$"currentdate :value \"ge\" \"time\" {Quote(from + ":00")}"] : Array.Empty<string>(),
            .. condition.Until is { } until and not "00:00" ? [$"currentdate :value \"lt\" \"time\" {Quote(until + ":00")}"] : Array.Empty<string>(),
        ];
        var overMidnight = condition is { From: { } f, Until: { } u } && string.CompareOrdinal(u, f) <= 0 && u != "00:00";
        return overMidnight ? AnyOf(ends) : AllOf(ends);
    }

    /// <summary>RFC 5260 §4.1: 0 is Sunday.</summary>
    private string Weekdays(ConditionDocument condition)
    {
        Need("date");
        Nearly(true, "Times of day go by the clock of the mail server.");
        var days = condition.Values.Select(v => Enum.TryParse<DayOfWeek>(v, true, out var day) ? ((int)day).ToString(CultureInfo.InvariantCulture) : "");
        return $"currentdate :is \"weekday\" {List(days)}";
    }

    private void Need(params string[] extensions) => _needs.UnionWith(extensions);

    private void Note(bool so, string text)
    {
        if (so)
        {
            _doesNotFit.Add(text);
        }
    }

    private void Nearly(bool so, string text)
    {
        if (so)
        {
            _nearly.Add(text);
        }
    }

    private static string AllOf(IReadOnlyList<string> tests) => tests.Count switch { 0 => "true", 1 => tests[0], _ => $"allof ({string.Join(", ", tests)})" };

    private static string AnyOf(IReadOnlyList<string> tests) => tests.Count switch { 0 => "false", 1 => tests[0], _ => $"anyof ({string.Join(", ", tests)})" };

    private static string List(IEnumerable<string> values) => values.ToList() is [var one] ? Quote(one) : $"[{string.Join(", ", values.Select(Quote))}]";

    /// <summary>A text that stands for itself in a <c>:matches</c> pattern.</summary>
    private static string Literally(string value) => value.Replace("\\", "\\\\", StringComparison.Ordinal).Replace("*", "\\*", StringComparison.Ordinal).Replace("?", "\\?", StringComparison.Ordinal);

    private static string Quote(string value) => $"\"{value.Replace("\\", "\\\\", StringComparison.Ordinal).Replace("\"", "\\\"", StringComparison.Ordinal)}\"";
}
