using System.Text;

namespace PostTide.Core.Text;

/// <summary>Makes received text fit to store and to show: one kind of line end, no control characters, form C.</summary>
public static class CleanText
{
    /// <summary>Cleans a body: CR LF and CR become LF, tabs stay, other control characters and lone surrogates go.</summary>
    public static string Body(string text) => Clean(text.ReplaceLineEndings("\n"), keepLines: true);

    /// <summary>Cleans a value that stands on one line, such as a subject or a name: line ends become spaces.</summary>
    public static string Line(string text) => Clean(text.ReplaceLineEndings(" ").Replace('\t', ' '), keepLines: false).Trim();

    private static string Clean(string text, bool keepLines)
    {
        var built = new StringBuilder(text.Length);
        foreach (var rune in text.EnumerateRunes())
        {
            // A lone surrogate is enumerated as U+FFFD, which stays: the reader should see that something was broken.
            if (rune.Value is '\n' or '\t' ? keepLines : !Rune.IsControl(rune))
            {
                built.Append(rune.ToString());
            }
        }

        var cleaned = built.ToString();
        return cleaned.IsNormalized(NormalizationForm.FormC) ? cleaned : cleaned.Normalize(NormalizationForm.FormC);
    }
}
