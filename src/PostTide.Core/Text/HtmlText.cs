using System.Text;
using AngleSharp.Dom;
using AngleSharp.Html.Parser;

namespace PostTide.Core.Text;

/// <summary>Turns HTML mail into the plain text that conditions and searches look at.</summary>
public static class HtmlText
{
    /// <summary>HTML beyond this many characters is not read; the text says so at its end.</summary>
    public const int LongestRead = 1_000_000;

    /// <summary>HTML nested deeper than this is read with its tags taken out, without their meaning.</summary>
    public const int DeepestRead = 500;

    private static readonly HashSet<string> Unseen = new(StringComparer.OrdinalIgnoreCase)
        { "script", "style", "head", "title", "template", "noscript", "iframe", "object", "svg", "math" };

    private static readonly HashSet<string> Blocks = new(StringComparer.OrdinalIgnoreCase)
    {
        "p", "div", "br", "tr", "li", "ul", "ol", "table", "h1", "h2", "h3", "h4", "h5", "h6", "blockquote", "pre", "hr",
        "section", "article", "header", "footer", "dd", "dt", "dl", "form",
    };

    /// <summary>
    /// The visible text: blocks on lines of their own, quoted blocks marked with <c>&gt;</c>, cells apart, white space folded.
    /// Nesting beyond reason, on which parsing costs the square of the depth, is not parsed at all.
    /// </summary>
    public static string ToPlainText(string html)
    {
        var cut = html.Length > LongestRead;
        var read = cut ? html[..LongestRead] : html;
        var text = DepthOf(read) > DeepestRead ? WithoutTags(read) : Seen(read);
        return text + (cut ? "\n(the rest of this message is longer than is read)" : "");
    }

    private static string Seen(string html)
    {
        var document = new HtmlParser().ParseDocument(html);
        var lines = new LineBuilder();
        INode? node = document.DocumentElement;
        while (node is not null)
        {
            if (Enter(node, lines) && node.FirstChild is { } child)
            {
                node = child;
                continue;
            }

            Leave(node, lines);
            while (node is not null && node.NextSibling is null)
            {
                node = node.Parent;
                if (node is not null)
                {
                    Leave(node, lines);
                }
            }

            node = node?.NextSibling;
        }

        return lines.Finish();
    }

    /// <summary>What stands between the tags, each tag become a space.</summary>
    private static string WithoutTags(string html)
    {
        var text = new StringBuilder(html.Length);
        var inside = false;
        foreach (var c in html)
        {
            inside = c == '<' || (inside && c != '>');
            if (!inside)
            {
                text.Append(c == '>' ? ' ' : c);
            }
        }

        return System.Net.WebUtility.HtmlDecode(text.ToString()).Trim();
    }

    /// <summary>A bound on the nesting: the most start tags without their end tag at any point. Void elements count too, so it errs upwards.</summary>
    public static int DepthOf(string html)
    {
        var depth = 0;
        var deepest = 0;
        for (var at = html.IndexOf('<', StringComparison.Ordinal); at >= 0 && at + 1 < html.Length; at = html.IndexOf('<', at + 1))
        {
            var next = html[at + 1];
            if (next == '/')
            {
                depth = Math.Max(0, depth - 1);
            }
            else if (char.IsAsciiLetter(next) && !IsVoid(html.AsSpan(at + 1)))
            {
                deepest = Math.Max(deepest, ++depth);
            }
        }

        return deepest;
    }

    private static bool IsVoid(ReadOnlySpan<char> tag)
    {
        foreach (var name in new[] { "br", "img", "hr", "meta", "link", "input", "col", "li", "td", "tr", "p", "o:p", "th", "dd", "dt", "base" })
        {
            if (tag.StartsWith(name, StringComparison.OrdinalIgnoreCase) && (tag.Length == name.Length || !char.IsLetterOrDigit(tag[name.Length])))
            {
                return true;
            }
        }

        return false;
    }

    /// <summary>Writes what stands before a node's children; false when the children are not seen.</summary>
    private static bool Enter(INode node, LineBuilder lines)
    {
        switch (node)
        {
            case IText text:
                lines.Write(text.Data);
                return false;
            case IElement element when Unseen.Contains(element.LocalName):
                return false;
            case IElement element:
                if (Blocks.Contains(element.LocalName))
                {
                    lines.Break(element.LocalName is "p" or "h1" or "h2" or "h3");
                }

                if (element.LocalName == "blockquote")
                {
                    lines.Quote(1);
                }

                if (element.LocalName is "td" or "th")
                {
                    lines.Write(" ");
                }

                return true;
            default:
                return node.HasChildNodes;
        }
    }

    private static void Leave(INode node, LineBuilder lines)
    {
        if (node is not IElement element || Unseen.Contains(element.LocalName) || !Blocks.Contains(element.LocalName))
        {
            return;
        }

        if (element.LocalName != "br")
        {
            lines.Break(element.LocalName is "p");
        }

        if (element.LocalName == "blockquote")
        {
            lines.Quote(-1);
        }
    }

    /// <summary>Collects text into lines, folding white space and prefixing quoted lines.</summary>
    private sealed class LineBuilder
    {
        private const int DeepestQuote = 10;
        private readonly StringBuilder _done = new();
        private readonly StringBuilder _line = new();
        private int _quote;
        private int _blank = 2;

        public void Write(string text)
        {
            foreach (var c in text)
            {
                if (!char.IsWhiteSpace(c))
                {
                    _line.Append(c);
                }
                else if (_line.Length > 0 && _line[^1] != ' ')
                {
                    _line.Append(' ');
                }
            }
        }

        public void Quote(int by)
        {
            Flush();
            _quote += by;
        }

        public void Break(bool paragraph)
        {
            Flush();
            if (paragraph && _blank == 0)
            {
                _done.Append('\n');
                _blank++;
            }
        }

        public string Finish()
        {
            Flush();
            return _done.ToString().TrimEnd();
        }

        private void Flush()
        {
            var line = _line.ToString().Trim();
            _line.Clear();
            if (line.Length == 0)
            {
                return;
            }

            if (_quote > 0)
            {
                _done.Append('>', Math.Min(_quote, DeepestQuote)).Append(' ');
            }

            _done.Append(line).Append('\n');
            _blank = 0;
        }
    }
}
