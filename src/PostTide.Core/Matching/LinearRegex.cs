using System.Collections.Concurrent;
using System.Text.RegularExpressions;

namespace PostTide.Core.Matching;

/// <summary>Regular expressions that take time linear in the text, whatever the expression and whatever the text.</summary>
public static class LinearRegex
{
    private const int Longest = 500;
    private const int MostRepeats = 1_000;
    private const int MostKept = 1_000;

    private static readonly ConcurrentDictionary<(string, bool), (Regex? Regex, string? Problem)> Known = new();

    /// <summary>Reads an expression; gives either it or why it cannot be used, in a sentence.</summary>
    /// <param name="pattern">The expression, in .NET's syntax without what needs backtracking.</param>
    /// <param name="sameCase">Whether capital and small letters are told apart.</param>
    public static (Regex? Regex, string? Problem) Read(string pattern, bool sameCase)
    {
        if (Known.Count > MostKept)
        {
            Known.Clear();
        }

        return Known.GetOrAdd((pattern, sameCase), static key => Make(key.Item1, key.Item2));
    }

    private static (Regex?, string?) Make(string pattern, bool sameCase)
    {
        if (pattern.Length > Longest)
        {
            return (null, $"The regular expression is longer than {Longest} characters.");
        }

        if (Repeats(pattern) > MostRepeats)
        {
            return (null, $"The regular expression repeats a part more than {MostRepeats} times in all.");
        }

        try
        {
            var options = RegexOptions.NonBacktracking | RegexOptions.CultureInvariant | RegexOptions.Multiline;
            return (new Regex(pattern, sameCase ? options : options | RegexOptions.IgnoreCase), null);
        }
        catch (RegexParseException e)
        {
            return (null, $"The regular expression cannot be read at character {e.Offset + 1}: {Explain(e)}");
        }
        catch (Exception e) when (e is NotSupportedException or ArgumentException)
        {
            return (null, "The regular expression looks back or ahead, or refers to an earlier part, which can take very long. Only expressions that are read in one pass can be used.");
        }
    }

    /// <summary>What stands behind the pattern in the library's own sentence.</summary>
    private static string Explain(RegexParseException e)
    {
        var colon = e.Message.LastIndexOf(". ", StringComparison.Ordinal);
        return colon < 0 ? e.Message : e.Message[(colon + 2)..];
    }

    /// <summary>The product of all upper ends of counted repeats: what an expression such as <c>(a{1000}){1000}</c> grows to.</summary>
    private static long Repeats(string pattern)
    {
        var product = 1L;
        for (var at = pattern.IndexOf('{', StringComparison.Ordinal); at >= 0; at = pattern.IndexOf('{', at + 1))
        {
            var end = pattern.IndexOf('}', at);
            if (end < 0)
            {
                break;
            }

            if (int.TryParse(pattern[(at + 1)..end].Split(',')[^1], out var most) && most > 1)
            {
                product = Math.Min(product * most, long.MaxValue / int.MaxValue);
            }
            else if (int.TryParse(pattern[(at + 1)..end].Split(',')[0], out var least) && least > 1)
            {
                product = Math.Min(product * least, long.MaxValue / int.MaxValue);
            }
        }

        return product;
    }
}
