using Ganss.Xss;
using PostTide.Core.Text;

namespace PostTide.Mail;

/// <summary>HTML mail made harmless, and what was taken out of it.</summary>
/// <param name="Html">Safe to show in a sandboxed frame; loads nothing.</param>
/// <param name="BlockedPictures">How many remote or embedded pictures are not shown.</param>
/// <param name="Note">What the reader should know, or null.</param>
public sealed record ShownHtml(string Html, int BlockedPictures, string? Note);

/// <summary>Makes HTML mail harmless: no scripts, no forms, no styles that load or cover anything, no remote content.</summary>
public static class SafeHtml
{
    /// <summary>Longer HTML is not shown as HTML: cleaning it would cost too much. Characters.</summary>
    public const int Longest = 400_000;

    /// <summary>Deeper nesting is not shown as HTML: cleaning costs the square of it.</summary>
    public const int Deepest = 200;

    private static readonly string[] AllowedTags =
    [
        "a", "abbr", "b", "blockquote", "br", "caption", "cite", "code", "col", "colgroup", "dd", "del", "div", "dl", "dt", "em",
        "font", "h1", "h2", "h3", "h4", "h5", "h6", "hr", "i", "ins", "kbd", "li", "ol", "p", "pre", "q", "s", "samp", "small",
        "span", "strike", "strong", "sub", "sup", "table", "tbody", "td", "tfoot", "th", "thead", "tr", "tt", "u", "ul", "center",
    ];

    private static readonly string[] AllowedAttributes =
        ["align", "valign", "cellpadding", "cellspacing", "colspan", "rowspan", "border", "dir", "lang", "title", "href", "width"];

    /// <summary>Cleans HTML; null when it is too long or too deep to be cleaned, and the text has to do.</summary>
    public static ShownHtml? Clean(string html)
    {
        if (html.Length > Longest || HtmlText.DepthOf(html) > Deepest)
        {
            return null;
        }

        var pictures = 0;
        var sanitizer = new HtmlSanitizer();
        sanitizer.AllowedTags.Clear();
        sanitizer.AllowedTags.UnionWith(AllowedTags);
        sanitizer.AllowedAttributes.Clear();
        sanitizer.AllowedAttributes.UnionWith(AllowedAttributes);
        sanitizer.AllowedCssProperties.Clear();
        sanitizer.AllowedAtRules.Clear();
        sanitizer.AllowedSchemes.Clear();
        sanitizer.AllowedSchemes.UnionWith(["http", "https", "mailto"]);
        sanitizer.AllowDataAttributes = false;
        sanitizer.RemovingTag += (_, e) =>
        {
            if (e.Tag.LocalName is "img")
            {
                pictures++;
            }
        };
        sanitizer.PostProcessNode += (_, e) =>
        {
            if (e.Node is AngleSharp.Dom.IElement { LocalName: "a" } link)
            {
                link.SetAttribute("rel", "noopener noreferrer nofollow");
                link.SetAttribute("target", "_blank");
            }
        };
        var clean = sanitizer.Sanitize(html);
        return new ShownHtml(clean, pictures, pictures == 0 ? null : $"{pictures} {(pictures == 1 ? "picture is" : "pictures are")} not loaded.");
    }
}
