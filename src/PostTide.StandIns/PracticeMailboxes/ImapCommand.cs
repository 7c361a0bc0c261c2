using System.Globalization;
using System.Text;

namespace PostTide.StandIns.PracticeMailboxes;

/// <summary>A part of a command: a word or string, or a parenthesised list (RFC 3501 §4).</summary>
public sealed record ImapToken(string Text, byte[]? Literal, IReadOnlyList<ImapToken>? List)
{
    public bool IsList => List is not null;

    public bool Is(string word) => !IsList && Text.Equals(word, StringComparison.OrdinalIgnoreCase);
}

/// <summary>A command as sent by a client.</summary>
public sealed record ImapCommand(string Tag, string Name, IReadOnlyList<ImapToken> Arguments)
{
    public string Text(int index) => index < Arguments.Count ? Arguments[index].Text : throw new ImapSyntaxException("an argument is missing");
}

/// <summary>A command that cannot be read; it is answered with BAD.</summary>
public sealed class ImapSyntaxException(string why) : Exception(why);

/// <summary>Reads commands from a connection, literals and all.</summary>
public sealed class ImapCommandReader(Stream stream, Func<Task> askForMore)
{
    private const int LongestLine = 1_000_000;
    private const int LargestLiteral = 50_000_000;
    private const int Deepest = 20;
    private readonly byte[] _buffer = new byte[65_536];
    private int _at;
    private int _end;

    /// <summary>The next command; null at the end of the connection.</summary>
    public async Task<ImapCommand?> ReadAsync(CancellationToken stop)
    {
        if (await ReadLineAsync(stop) is not { } line)
        {
            return null;
        }

        var parser = new Parser();
        while (parser.Feed(line) is { } literal)
        {
            if (literal.Length > LargestLiteral)
            {
                throw new ImapSyntaxException("the literal is too large");
            }

            if (!literal.NonSynchronising)
            {
                await askForMore();
            }

            var bytes = new byte[literal.Length];
            await ReadExactlyAsync(bytes, stop);
            parser.Add(bytes);
            line = await ReadLineAsync(stop) ?? throw new EndOfStreamException();
        }

        var tokens = parser.Finish();
        return tokens.Count < 2
            ? throw new ImapSyntaxException("a command has a tag and a name")
            : tokens[1].Is("UID") && tokens.Count > 2
                ? new ImapCommand(tokens[0].Text, "UID " + tokens[2].Text.ToUpperInvariant(), [.. tokens.Skip(3)])
                : new ImapCommand(tokens[0].Text, tokens[1].Text.ToUpperInvariant(), [.. tokens.Skip(2)]);
    }

    /// <summary>One line without its end, for answers to a continuation; null at the end.</summary>
    public async Task<string?> ReadLineAsync(CancellationToken stop)
    {
        var line = new List<byte>(200);
        while (true)
        {
            if (_at == _end && !await FillAsync(stop))
            {
                return null;
            }

            var value = _buffer[_at++];
            if (value == '\n')
            {
                return Encoding.UTF8.GetString([.. line.Where(b => b != '\r')]);
            }

            line.Add(value);
            if (line.Count > LongestLine)
            {
                throw new ImapSyntaxException("the line is too long");
            }
        }
    }

    private async Task ReadExactlyAsync(byte[] bytes, CancellationToken stop)
    {
        for (var done = 0; done < bytes.Length;)
        {
            if (_at == _end && !await FillAsync(stop))
            {
                throw new EndOfStreamException();
            }

            var count = Math.Min(bytes.Length - done, _end - _at);
            Array.Copy(_buffer, _at, bytes, done, count);
            (_at, done) = (_at + count, done + count);
        }
    }

    private async Task<bool> FillAsync(CancellationToken stop)
    {
        (_at, _end) = (0, await stream.ReadAsync(_buffer, stop));
        return _end > 0;
    }

    private sealed class Parser
    {
        private readonly Stack<List<ImapToken>> _open = new([[]]);

        /// <summary>Takes in a line; gives the literal it ends with, null when it ends the command.</summary>
        public (int Length, bool NonSynchronising)? Feed(string line)
        {
            var at = 0;
            while (at < line.Length)
            {
                switch (line[at])
                {
                    case ' ':
                        at++;
                        break;
                    case '(':
                        if (_open.Count > Deepest)
                        {
                            throw new ImapSyntaxException("the lists are nested too deeply");
                        }

                        _open.Push([]);
                        at++;
                        break;
                    case ')':
                        if (_open.Count == 1)
                        {
                            throw new ImapSyntaxException("a bracket is closed that was not opened");
                        }

                        var list = _open.Pop();
                        _open.Peek().Add(new ImapToken("", null, list));
                        at++;
                        break;
                    case '"':
                        at = Quoted(line, at + 1);
                        break;
                    case '{' when line.EndsWith('}'):
                        var digits = line[(at + 1)..^1];
                        var plain = digits.TrimEnd('+', '-');
                        return int.TryParse(plain, CultureInfo.InvariantCulture, out var length) && length >= 0
                            ? (length, plain.Length < digits.Length)
                            : throw new ImapSyntaxException("the literal has no length");
                    default:
                        at = Atom(line, at);
                        break;
                }
            }

            return null;
        }

        public void Add(byte[] literal) => _open.Peek().Add(new ImapToken(Encoding.UTF8.GetString(literal), literal, null));

        public List<ImapToken> Finish() => _open.Count == 1 ? _open.Pop() : throw new ImapSyntaxException("a bracket is not closed");

        private int Quoted(string line, int at)
        {
            var text = new StringBuilder();
            for (; at < line.Length && line[at] != '"'; at++)
            {
                if (line[at] == '\\' && at + 1 < line.Length)
                {
                    at++;
                }

                text.Append(line[at]);
            }

            _open.Peek().Add(at < line.Length ? new ImapToken(text.ToString(), null, null) : throw new ImapSyntaxException("a quotation is not closed"));
            return at + 1;
        }

        /// <summary>A word; what stands in square brackets belongs to it (BODY[HEADER.FIELDS (…)]).</summary>
        private int Atom(string line, int at)
        {
            var start = at;
            var depth = 0;
            while (at < line.Length && (depth > 0 || line[at] is not (' ' or '(' or ')')))
            {
                depth += line[at] == '[' ? 1 : line[at] == ']' ? -1 : 0;
                at++;
            }

            _open.Peek().Add(new ImapToken(line[start..at], null, null));
            return at;
        }
    }
}
