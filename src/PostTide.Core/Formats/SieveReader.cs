using System.Collections.Immutable;
using PostTide.Core.Matching;
using PostTide.Core.Workflows;

namespace PostTide.Core.Formats;

/// <summary>
/// Makes a workflow document of a Sieve script: tests and actions that have a counterpart become conditions and lines, the rest
/// is told by line. A branch with something in it that has no counterpart is left out as a whole.
/// </summary>
public sealed class SieveReader
{
    private const string CategoryVariable = "${category}";

    private static readonly ImmutableHashSet<string> Silent = ["require", "keep", "stop", "set"];

    private readonly List<DocumentProblem> _notes = [];
    private readonly List<CategoryDocument> _categories = [];
    private readonly List<LineDocument> _lines = [];
    private bool _every;

    /// <summary>The document, and what of the script has no counterpart.</summary>
    public static (WorkflowDocument? Document, ImmutableArray<DocumentProblem> Notes) Read(string script, string name)
    {
        var reader = new SieveReader();
        try
        {
            return (reader.Read(SieveScript.Read(script), name), [.. reader._notes.OrderBy(n => n.Line)]);
        }
        catch (SieveSyntaxException e)
        {
            return (null, [new DocumentProblem(e.Line, e.Message)]);
        }
    }

    private WorkflowDocument Read(ImmutableArray<SieveNode> commands, string name)
    {
        ImmutableArray<SieveNode> acting = [.. commands.Where(c => c.Name != "require")];

        // One “if” around everything says what is taken in; branches at the top level are lines over all mail.
        var outer = acting is [{ Name: "if" } only] && only.Block.Any(b => b.Name == "if") ? only : null;
        var (addresses, demand) = TakeAddresses(outer?.Tests[0]);
        var takesIn = demand is null ? new SetDocument() : SetOf(demand);
        if (outer is not null && takesIn is null)
        {
            Note(outer.Line, "What the script takes in has no counterpart, so nothing was brought in.");
            takesIn = new SetDocument();
            acting = [];
        }

        ReadLines(outer?.Block ?? acting);
        return new WorkflowDocument
        {
            Name = name,
            Addresses = addresses,
            TakesIn = takesIn ?? new SetDocument(),
            SortsInto = [.. _categories],
            Does = [.. _lines],
            EveryLine = _every,
            Limits = outer is null || outer.Block.Any(c => c.Name == "stop") ? null : new LimitsDocument { SkipLaterWorkflows = false },
        };
    }

    /// <summary>
    /// The addresses a script asks for by user and domain (RFC 5233), so that sub-addresses count as well, and what else it asks for.
    /// </summary>
    private static (ImmutableArray<string> Addresses, SieveNode? Others) TakeAddresses(SieveNode? test)
    {
        if (test is null)
        {
            return ([], null);
        }

        if (AddressesOf(test) is { } alone)
        {
            return (alone, null);
        }

        var asked = test.Name == "allof" ? test.Tests.FirstOrDefault(t => AddressesOf(t) is not null) : null;
        return asked is null ? ([], test) : (AddressesOf(asked)!.Value, test with { Tests = test.Tests.Remove(asked) });
    }

    private static ImmutableArray<string>? AddressesOf(SieveNode test)
    {
        if (test.Name == "anyof" && test.Tests.All(t => AddressesOf(t) is not null))
        {
            return [.. test.Tests.SelectMany(t => AddressesOf(t)!.Value)];
        }

        return test is { Name: "allof", Tests: [{ Name: "envelope" } user, { Name: "envelope" } domain] }
            && user.Tags.ContainsKey("user") && domain.Tags.ContainsKey("domain") && user.Keys(1) is [var name] && domain.Keys(1) is [var host]
            ? [$"{name}@{host}"]
            : null;
    }

    private void ReadLines(ImmutableArray<SieveNode> commands)
    {
        var separate = 0;
        var stops = true;
        foreach (var command in commands)
        {
            switch (command.Name)
            {
                case "if" or "elsif" or "else" when IsCategory(command):
                    _categories.Add(new CategoryDocument(command.Block[0].Keys(1).FirstOrDefault() ?? "", null, SetOf(command.Tests[0]) ?? new SetDocument()));
                    break;
                case "if" or "elsif" or "else":
                    separate += command.Name == "if" && _lines.Count > 0 && !stops ? 1 : 0;
                    stops = command.Block.Any(c => c.Name == "stop");
                    AddLine(command, command.Tests.IsEmpty ? new SetDocument() : SetOf(command.Tests[0]), command.Block);
                    break;
                case "fileinto" or "discard" or "redirect" or "reject" or "vacation":
                    AddLine(command, new SetDocument(), [command]);
                    break;
                default:
                    Note(!Silent.Contains(command.Name), command.Line, $"The action “{command.Name}” has no counterpart.");
                    break;
            }
        }

        _every = separate > 0;
    }

    private static bool IsCategory(SieveNode command) =>
        command.Tests.Length == 1 && command.Block is [{ Name: "set" } set] && set.Keys(0) is ["category"];

    private void AddLine(SieveNode command, SetDocument? test, ImmutableArray<SieveNode> actions)
    {
        if (test is null)
        {
            Note(command.Line, "A branch was left out, as its test has no counterpart.");
            return;
        }

        var (category, none, rest) = TakeCategory(command.Tests.IsEmpty ? null : command.Tests[0], test);
        var effects = new List<MailboxEffect>();
        foreach (var action in actions)
        {
            if (action.Name == "fileinto" && !action.Tags.ContainsKey("copy"))
            {
                effects.Add(new MailboxEffect(MailboxEffectKind.Move, action.Keys(0).FirstOrDefault() ?? ""));
            }
            else
            {
                Note(!Silent.Contains(action.Name), action.Line, $"The action “{action.Name}{(action.Tags.ContainsKey("copy") ? " :copy" : "")}” has no counterpart.");
            }
        }

        if (effects.Count > 1)
        {
            Note(command.Line, "A message can be moved to one folder only; the first was kept.");
        }

        _lines.Add(new LineDocument { Category = category, NoneOfThese = none, And = rest.IsEmpty() ? null : rest, InMailbox = [.. effects.Take(1)] });
    }

    /// <summary>The category a branch asks for by the variable, and the other conditions.</summary>
    private static (string? Category, bool None, SetDocument Others) TakeCategory(SieveNode? test, SetDocument set)
    {
        var asked = test is null ? null : (test.Name == "allof" ? test.Tests : [test]).FirstOrDefault(IsAboutCategory);
        if (asked is null)
        {
            return (null, false, set);
        }

        var name = asked.Keys(1).FirstOrDefault() ?? "";
        return (name.Length == 0 ? null : name, name.Length == 0, set);
    }

    private static bool IsAboutCategory(SieveNode test) => test.Name == "string" && test.Keys(0) is [CategoryVariable];

    /// <summary>The conditions of a test; null when it has no counterpart.</summary>
    private SetDocument? SetOf(SieveNode test) => test.Name switch
    {
        "true" => new SetDocument(),
        "allof" => All(test.Tests),
        "anyof" => Each(test.Tests) is { } any ? new SetDocument { Any = any } : null,
        "not" => ConditionOf(test.Tests[0]) is { } not ? new SetDocument { None = [not] } : null,
        _ when IsAboutCategory(test) => new SetDocument(),
        _ => ConditionOf(test) is { } one ? new SetDocument { All = [one] } : null,
    };

    private SetDocument? All(ImmutableArray<SieveNode> tests)
    {
        var set = new SetDocument();
        foreach (var test in tests.Where(t => !IsAboutCategory(t) && t.Name != "true"))
        {
            var inner = test.Name == "not" ? test.Tests[0] : test;
            if (ConditionOf(inner) is not { } condition)
            {
                return null;
            }

            set = test.Name == "not" ? set with { None = set.None.Add(condition) } : set with { All = set.All.Add(condition) };
        }

        return set;
    }

    private ImmutableArray<ConditionDocument>? Each(ImmutableArray<SieveNode> tests)
    {
        var conditions = tests.Select(ConditionOf).ToList();
        return conditions.TrueForAll(c => c is not null) ? [.. conditions.OfType<ConditionDocument>()] : null;
    }

    private ConditionDocument? ConditionOf(SieveNode test)
    {
        var condition = test.Name switch
        {
            "allof" or "anyof" or "not" => SetOf(test) is { } set ? new ConditionDocument { Part = MessagePart.Group, All = set.All, Any = set.Any, None = set.None } : null,
            "header" => Match(test, HeaderPart(test.Keys(0)), test.Keys(1)),
            "address" => Match(test, AddressPart(test, test.Keys(0)), test.Keys(1)),
            "envelope" => Match(test, EnvelopePart(test, test.Keys(0)), test.Keys(1)),
            "exists" => Exists(test.Keys(0)),
            "size" => Size(test),
            "body" => Match(test, (MessagePart.Body, null), test.Keys(0)) is { } body ? body with { WholeBody = true } : null,
            "currentdate" => Date(test, MessagePart.ArrivalDate, test.Keys(0), test.Keys(1)),
            "date" => test.Keys(0) is [var field] && field.Equals("date", StringComparison.OrdinalIgnoreCase) ? Date(test, MessagePart.SentDate, test.Keys(1), test.Keys(2)) : null,
            _ => null,
        };
        Note(condition is null, test.Line, $"The test “{test.Name}” as it stands here has no counterpart.");
        return condition;
    }

    private static (MessagePart Part, string? Name)? HeaderPart(ImmutableArray<string> names) => names is not [var name] ? null : name.ToLowerInvariant() switch
    {
        "subject" => (MessagePart.Subject, null),
        "from" => (MessagePart.Sender, null),
        "list-id" => (MessagePart.ListId, null),
        _ => (MessagePart.Header, name),
    };

    private static (MessagePart, string?)? AddressPart(SieveNode test, ImmutableArray<string> fields)
    {
        var names = fields.Select(f => f.ToLowerInvariant()).ToHashSet();
        if (names.SetEquals(["from"]))
        {
            return test.Tags.ContainsKey("domain") ? (MessagePart.SenderDomain, null) : test.Tags.ContainsKey("localpart") ? null : (MessagePart.SenderAddress, null);
        }

        return names.IsSubsetOf(["to", "cc"]) && !test.Tags.ContainsKey("domain") && !test.Tags.ContainsKey("localpart") && !test.Tags.ContainsKey("detail")
            ? (MessagePart.Recipient, null)
            : null;
    }

    private static (MessagePart, string?)? EnvelopePart(SieveNode test, ImmutableArray<string> fields) =>
        fields is not [var field] || !field.Equals("to", StringComparison.OrdinalIgnoreCase) ? null
        : test.Tags.ContainsKey("detail") ? (MessagePart.Tag, null)
        : test.Tags.ContainsKey("user") || test.Tags.ContainsKey("domain") || test.Tags.ContainsKey("localpart") ? null
        : (MessagePart.OriginallyTo, null);

    private static ConditionDocument? Match(SieveNode test, (MessagePart Part, string? Name)? part, ImmutableArray<string> keys)
    {
        if (part is null || test.Tags.ContainsKey("count") || test.Tags.ContainsKey("value") || keys.Any(k => k.Contains("${", StringComparison.Ordinal)))
        {
            return null;
        }

        return new ConditionDocument
        {
            Part = part.Value.Part,
            Name = part.Value.Name,
            Test = test.Tags.ContainsKey("contains") ? MatchTest.Contains : test.Tags.ContainsKey("matches") ? MatchTest.Matches : MatchTest.Is,
            SameCase = test.Tags.TryGetValue("comparator", out var comparator) && comparator == "i;octet",
            Values = keys,
        };
    }

    private static ConditionDocument Exists(ImmutableArray<string> names)
    {
        ImmutableArray<ConditionDocument> each = [.. names.Select(n => new ConditionDocument { Part = MessagePart.Header, Name = n, Test = MatchTest.Present })];
        return each.Length == 1 ? each[0] : new ConditionDocument { Part = MessagePart.Group, All = each };
    }

    /// <summary>Larger than and smaller than, the number itself on neither side (RFC 5228 §5.9).</summary>
    private static ConditionDocument? Size(SieveNode test) => test.Number is not { } number ? null
        : test.Tags.ContainsKey("over") ? new ConditionDocument { Part = MessagePart.Size, Test = MatchTest.Between, Least = number + 1 }
        : test.Tags.ContainsKey("under") ? new ConditionDocument { Part = MessagePart.Size, Test = MatchTest.Between, Most = number - 1 }
        : null;

    private static ConditionDocument? Date(SieveNode test, MessagePart day, ImmutableArray<string> part, ImmutableArray<string> keys)
    {
        var relation = test.Tags.GetValueOrDefault("value");
        return (part is [var name] ? name.ToLowerInvariant() : "", keys) switch
        {
            ("date", [var key]) => relation switch
            {
                "ge" => new ConditionDocument { Part = day, Test = MatchTest.Between, From = key },
                "le" => new ConditionDocument { Part = day, Test = MatchTest.Between, Until = key },
                null or "eq" when !test.Tags.ContainsKey("contains") && !test.Tags.ContainsKey("matches") => new ConditionDocument { Part = day, Test = MatchTest.Between, From = key, Until = key },
                _ => null,
            },
            ("time", [var key]) when day == MessagePart.ArrivalDate && key.EndsWith(":00", StringComparison.Ordinal) => relation switch
            {
                "ge" => new ConditionDocument { Part = MessagePart.Hour, Test = MatchTest.Between, From = key[..^3] },
                "lt" => new ConditionDocument { Part = MessagePart.Hour, Test = MatchTest.Between, Until = key[..^3] },
                _ => null,
            },
            ("weekday", _) when day == MessagePart.ArrivalDate && relation is null && keys.All(k => k is ['0' and >= '0' or '1' or '2' or '3' or '4' or '5' or '6']) =>
                new ConditionDocument { Part = MessagePart.Weekday, Test = MatchTest.OneOf, Values = [.. keys.Select(k => ((DayOfWeek)(k[0] - '0')).ToString())] },
            _ => null,
        };
    }

    private void Note(int line, string text) => _notes.Add(new DocumentProblem(line, text));

    private void Note(bool so, int line, string text)
    {
        if (so)
        {
            Note(line, text);
        }
    }
}
