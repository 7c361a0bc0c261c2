using System.Collections.Concurrent;
using System.Collections.Immutable;
using System.Globalization;
using Fluid;
using Fluid.Ast;
using Fluid.Values;

namespace PostTide.Core.Replies;

/// <summary>What filling a template gave: the text, and the names it asked for in vain.</summary>
/// <param name="Text">The filled text; missing values are empty in it.</param>
/// <param name="Missing">The missing names; a reply with any is held for a person.</param>
/// <param name="Error">What is wrong with the template itself, or null.</param>
public sealed record FilledText(string Text, ImmutableArray<string> Missing, string? Error);

/// <summary>Fills Liquid templates strictly: a missing value is reported, never passed over.</summary>
public static class LiquidText
{
    private const int LongestTemplate = 100_000;
    private const int MostCached = 500;
    private static readonly FluidParser Parser = new();
    private static readonly ConcurrentDictionary<string, (IFluidTemplate? Template, string? Error)> Parsed = new(StringComparer.Ordinal);
    private static readonly TemplateOptions Options = new() { MaxSteps = 100_000, MaxRecursion = 20, CultureInfo = CultureInfo.InvariantCulture };

    /// <summary>What is wrong with a template, or null.</summary>
    public static string? Check(string template) => Parse(template).Error;

    /// <summary>Fills a template with values by name. Values are escaped nowhere: the result is plain text.</summary>
    public static FilledText Fill(string template, IReadOnlyDictionary<string, object?> values)
    {
        var (parsed, error) = Parse(template);
        if (parsed is null)
        {
            return new FilledText("", [], error);
        }

        var missing = new SortedSet<string>(StringComparer.Ordinal);
        var context = new TemplateContext(Options)
        {
            Undefined = name =>
            {
                missing.Add(name);
                return ValueTask.FromResult<FluidValue>(NilValue.Instance);
            },
        };
        foreach (var (name, value) in values)
        {
            if (value is not null and not "")
            {
                context.SetValue(name, FluidValue.Create(value, Options));
            }
        }

        try
        {
            return new FilledText(parsed.Render(context), [.. missing], null);
        }
        catch (Exception e) when (e is InvalidOperationException or FluidException or FormatException or ArgumentException)
        {
            return new FilledText("", [.. missing], e.Message);
        }
    }

    private static (IFluidTemplate? Template, string? Error) Parse(string template)
    {
        if (template.Length > LongestTemplate)
        {
            return (null, $"The template is longer than {LongestTemplate} characters.");
        }

        if (Parsed.Count > MostCached)
        {
            Parsed.Clear();
        }

        return Parsed.GetOrAdd(template, static t =>
            !Parser.TryParse(t, out var parsed, out var error) ? (null, error)
            : new RangeFinder().IsIn(parsed) ? (null, "Ranges such as (1..10) cannot be used.")
            : (parsed, null));
    }

    /// <summary>A range is filled before its first step is counted, so that no limit on steps would stop a long one.</summary>
    private sealed class RangeFinder : AstVisitor
    {
        private bool _found;

        public bool IsIn(IFluidTemplate template)
        {
            VisitTemplate(template);
            return _found;
        }

        protected override Expression VisitRangeExpression(RangeExpression rangeExpression)
        {
            _found = true;
            return rangeExpression;
        }
    }
}
