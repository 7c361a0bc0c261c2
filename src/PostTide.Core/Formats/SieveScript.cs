using System.Collections.Immutable;
using System.Globalization;
using System.Text;

namespace PostTide.Core.Formats;

/// <summary>A Sieve script that cannot be read (RFC 5228 §8), with the line.</summary>
public sealed class SieveSyntaxException(int line, string text) : FormatException(text)
{
    public int Line { get; } = line;
}

/// <summary>A command or a test of a Sieve script.</summary>
/// <param name="Name">Its name, lower case.</param>
/// <param name="Tags">Its tagged arguments without the colon, lower case, each with the string that follows it, if it takes one.</param>
/// <param name="Strings">Its positional string lists.</param>
/// <param name="Number">Its number; null when it has none.</param>
/// <param name="Tests">The tests in it.</param>
/// <param name="Block">The commands in its block.</param>
/// <param name="Line">The line it begins in.</param>
public sealed record SieveNode(
    string Name, ImmutableDictionary<string, string> Tags, ImmutableArray<ImmutableArray<string>> Strings, long? Number, ImmutableArray<SieveNode> Tests,
    ImmutableArray<SieveNode> Block, int Line)
{
    public ImmutableArray<string> Keys(int index) => index < Strings.Length ? Strings[index] : [];
}

/// <summary>Reads the grammar of Sieve scripts, RFC 5228 §8.</summary>
public sealed class SieveScript
{
    private const int Deepest = 30;
    private const int LongestScript = 1_000_000;

    /// <summary>Tags that are followed by a value of their own (RFC 5228 §2.7.3, 5231, 5260).</summary>
    private static readonly ImmutableHashSet<string> WithValue = ["comparator", "value", "count", "zone", "content", "index", "importance"];

    private readonly List<Token> _tokens;
    private int _at;

    private SieveScript(List<Token> tokens) => _tokens = tokens;

    private enum Kind
    {
        Word,
        Tag,
        Number,
        Text,
        Sign,
        End,
    }

    /// <summary>The commands of a script.</summary>
    /// <exception cref="SieveSyntaxException">It is not a Sieve script.</exception>
    public static ImmutableArray<SieveNode> Read(string script)
    {
        if (script.Length > LongestScript)
        {
            throw new SieveSyntaxException(0, $"The script is longer than {LongestScript / 1_000_000} million characters.");
        }

        var reader = new SieveScript(Cut(script));
        var commands = reader.Commands(0);
        reader.Expect(Kind.End, "");
        return commands;
    }

    private ImmutableArray<SieveNode> Commands(int depth)
    {
        if (depth > Deepest)
        {
            throw new SieveSyntaxException(Next.Line, "Blocks are nested too deep.");
        }

        var commands = ImmutableArray.CreateBuilder<SieveNode>();
        while (Next.Kind == Kind.Word)
        {
            var command = Node(depth);
            if (Next is { Kind: Kind.Sign, Text: "{" })
            {
                _at++;
                command = command with { Block = Commands(depth + 1) };
                Expect(Kind.Sign, "}");
            }
            else
            {
                Expect(Kind.Sign, ";");
            }

            commands.Add(command);
        }

        return commands.ToImmutable();
    }

    private SieveNode Node(int depth)
    {
        if (depth > Deepest)
        {
            throw new SieveSyntaxException(Next.Line, "Tests are nested too deep.");
        }

        var name = Expect(Kind.Word, null);
        var tags = ImmutableDictionary.CreateBuilder<string, string>();
        var strings = ImmutableArray.CreateBuilder<ImmutableArray<string>>();
        long? number = null;
        while (true)
        {
            switch (Next.Kind)
            {
                case Kind.Tag:
                    var tag = Take().Text;
                    tags[tag] = WithValue.Contains(tag) && Next.Kind is Kind.Text or Kind.Number ? Take().Text : "";
                    continue;
                case Kind.Number:
                    number = long.Parse(Take().Text, CultureInfo.InvariantCulture);
                    continue;
                case Kind.Text:
                    strings.Add([Take().Text]);
                    continue;
                case Kind.Sign when Next.Text == "[":
                    strings.Add(List());
                    continue;
            }

            break;
        }

        var tests = Next is { Kind: Kind.Sign, Text: "(" } ? TestList(depth) : Next.Kind == Kind.Word ? [Node(depth + 1)] : ImmutableArray<SieveNode>.Empty;
        return new SieveNode(name.Text, tags.ToImmutable(), strings.ToImmutable(), number, tests, [], name.Line);
    }

    private ImmutableArray<SieveNode> TestList(int depth)
    {
        Expect(Kind.Sign, "(");
        var tests = ImmutableArray.CreateBuilder<SieveNode>();
        do
        {
            tests.Add(Node(depth + 1));
        }
        while (TryTake(","));
        Expect(Kind.Sign, ")");
        return tests.ToImmutable();
    }

    private ImmutableArray<string> List()
    {
        Expect(Kind.Sign, "[");
        var strings = ImmutableArray.CreateBuilder<string>();
        if (Next is not { Kind: Kind.Sign, Text: "]" })
        {
            do
            {
                strings.Add(Expect(Kind.Text, null).Text);
            }
            while (TryTake(","));
        }

        Expect(Kind.Sign, "]");
        return strings.ToImmutable();
    }

    private Token Next => _tokens[_at];

    private Token Take() => _tokens[_at++];

    private bool TryTake(string sign)
    {
        if (Next.Kind == Kind.Sign && Next.Text == sign)
        {
            _at++;
            return true;
        }

        return false;
    }

    private Token Expect(Kind kind, string? text) => Next.Kind == kind && (text is null || Next.Text == text)
        ? _at < _tokens.Count - 1 ? Take() : Next
        : throw new SieveSyntaxException(Next.Line, Next.Kind == Kind.End ? "The script ends too early." : $"“{Next.Text}” does not belong here.");

    private static List<Token> Cut(string script)
    {
        var tokens = new List<Token>();
        var (at, line) = (0, 1);
        while (at < script.Length)
        {
            var c = script[at];
            if (c == '\n')
            {
                line++;
                at++;
            }
            else if (char.IsWhiteSpace(c))
            {
                at++;
            }
            else if (c == '#')
            {
                at = End(script, at, "\n");
            }
            else if (c == '/' && at + 1 < script.Length && script[at + 1] == '*')
            {
                var end = script.IndexOf("*/", at + 2, StringComparison.Ordinal);
                end = end < 0 ? throw new SieveSyntaxException(line, "A comment is not closed.") : end + 2;
                line += script.AsSpan(at, end - at).Count('\n');
                at = end;
            }
            else if (c == '"')
            {
                var text = new StringBuilder();
                var begun = line;
                for (at++; at < script.Length && script[at] != '"'; at++)
                {
                    at += script[at] == '\\' && at + 1 < script.Length ? 1 : 0;
                    line += script[at] == '\n' ? 1 : 0;
                    text.Append(script[at]);
                }

                at = at < script.Length ? at + 1 : throw new SieveSyntaxException(begun, "A text is not closed.");
                tokens.Add(new Token(Kind.Text, text.ToString(), begun));
            }
            else if (char.IsAsciiDigit(c))
            {
                tokens.Add(new Token(Kind.Number, NumberAt(script, ref at, line), line));
            }
            else if (c == ':' || char.IsAsciiLetter(c) || c == '_')
            {
                var start = c == ':' ? at + 1 : at;
                for (at = start; at < script.Length && (char.IsAsciiLetterOrDigit(script[at]) || script[at] == '_'); at++)
                {
                }

                var word = script[start..at].ToLowerInvariant();
                if (word == "text" && c != ':' && at < script.Length && script[at] == ':')
                {
                    tokens.Add(new Token(Kind.Text, Multiline(script, ref at, ref line), line));
                }
                else
                {
                    tokens.Add(new Token(c == ':' ? Kind.Tag : Kind.Word, word, line));
                }
            }
            else if ("[](){},;".Contains(c, StringComparison.Ordinal))
            {
                tokens.Add(new Token(Kind.Sign, c.ToString(), line));
                at++;
            }
            else
            {
                throw new SieveSyntaxException(line, $"“{c}” does not belong here.");
            }
        }

        tokens.Add(new Token(Kind.End, "", line));
        return tokens;
    }

    /// <summary>A number with its quantifier: K, M and G stand for powers of 1,024 (RFC 5228 §2.4.1).</summary>
    private static string NumberAt(string script, ref int at, int line)
    {
        var start = at;
        while (at < script.Length && char.IsAsciiDigit(script[at]))
        {
            at++;
        }

        if (!long.TryParse(script.AsSpan(start, at - start), NumberStyles.None, CultureInfo.InvariantCulture, out var number) || number > int.MaxValue)
        {
            throw new SieveSyntaxException(line, "A number is too large.");
        }

        var factor = at >= script.Length ? 1 : script[at] switch { 'K' or 'k' => 1L << 10, 'M' or 'm' => 1L << 20, 'G' or 'g' => 1L << 30, _ => 1 };
        at += factor > 1 ? 1 : 0;
        return (number * factor).ToString(CultureInfo.InvariantCulture);
    }

    /// <summary>A text of several lines, ended by a line with a dot (RFC 5228 §2.4.2).</summary>
    private static string Multiline(string script, ref int at, ref int line)
    {
        at = End(script, at, "\n") + 1;
        line++;
        var text = new StringBuilder();
        while (at < script.Length)
        {
            var end = End(script, at, "\n");
            var one = script[at..end].TrimEnd('\r');
            at = Math.Min(end + 1, script.Length);
            line++;
            if (one == ".")
            {
                return text.ToString();
            }

            text.Append(one.StartsWith("..", StringComparison.Ordinal) ? one[1..] : one).Append('\n');
        }

        throw new SieveSyntaxException(line, "A text of several lines is not ended by a line with a dot.");
    }

    private static int End(string script, int at, string mark) => script.IndexOf(mark, at, StringComparison.Ordinal) is >= 0 and var end ? end : script.Length;

    private readonly record struct Token(Kind Kind, string Text, int Line);
}
