using System.Text;
using AngleSharp.Dom;
using AngleSharp.Html.Parser;

namespace PostTide.Core.Text;

/// <summary>Turns HTML mail into the plain text that conditions and searches look at.</summary>
public static class HtmlText
{
    /// <summary>HTML beyond this many characters is not read; the text says so at its end.</summary>
    public const int LongestRead = 1_000_000;

    private static readonly HashSet<string> Unseen = new(StringComparer.OrdinalIgnoreCase)
        { "script", "style", "head", "title", "template", "noscript", "iframe", "object", "svg", "math" };

    private static readonly HashSet<string> Blocks = new(StringComparer.OrdinalIgnoreCase)
    {
        "p", "div", "br", "tr", "li", "ul", "ol", "table", "h1", "h2", "h3", "h4", "h5", "h6", "blockquote", "pre", "hr",
        "section", "article", "header", "footer", "dd", "dt", "dl", "form",
    };

    /// <summary>
    /// The visible text: blocks on lines of their own, quoted blocks marked with <c>&gt;</c>, cells apart, white space folded.
    /// Walks without recursion, so nesting however deep costs only time proportional to its size.
    /// </summary>
    public static string ToPlainText(string html)
    {
        var cut = html.Length > LongestRead;
        var document = new HtmlParser().ParseDocument(cut ? html[..LongestRead] : html);
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

        return lines.Finish() + (cut ? "\n(the rest of this message is longer than is read)" : "");
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
