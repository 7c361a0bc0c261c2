using System.Runtime.CompilerServices;

namespace PostTide.Core.Text;

/// <summary>Texts in plain letters, made once for as long as the text is in memory.</summary>
public static class PlainText
{
    private static readonly ConditionalWeakTable<string, string> Known = [];

    /// <summary>The text in <see cref="PlainLetters"/>, of the same length.</summary>
    public static string Of(string text) => Known.GetValue(text, static t => PlainLetters.Of(t));
}
