namespace PostTide.Core.Matching;

/// <summary>
/// Simple endings of English words (common practice, no source): -s, -es, -’s, -d, -ed, -ing, and -y turned into -ies and
/// -ied. Only the last word of an entry takes them, and only when it has three letters or more.
/// </summary>
public static class WordEndings
{
    private const int ShortestStem = 3;

    /// <summary>The entry itself and its forms.</summary>
    public static IEnumerable<string> FormsOf(string entry)
    {
        yield return entry;
        var stem = entry.TrimEnd();
        var letters = stem.Reverse().TakeWhile(char.IsLetter).Count();
        if (letters < ShortestStem)
        {
            yield break;
        }

        foreach (var ending in new[] { "s", "es", "'s", "ed", "ing" })
        {
            yield return stem + ending;
        }

        if (stem[^1] is 'e' or 'E')
        {
            yield return stem + "d";
            yield return stem[..^1] + "ing";
        }
        else if (stem[^1] is 'y' or 'Y')
        {
            yield return stem[..^1] + "ies";
            yield return stem[..^1] + "ied";
        }
    }
}
