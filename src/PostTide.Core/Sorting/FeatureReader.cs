using PostTide.Core.Matching;
using PostTide.Core.Messages;
using PostTide.Core.Text;

namespace PostTide.Core.Sorting;

/// <summary>
/// Reads the features of what a sorter looks at: words, words of the subject once more, pairs of neighbouring words, pieces of
/// words (so that a typing error or an ending changes little, and languages without spaces work) and marks.
/// </summary>
internal static class FeatureReader
{
    /// <summary>The version of the features; a model holds for one version only.</summary>
    public const int Version = 1;

    private const int ShortPiece = 3;
    private const int LongPiece = 5;
    private const int LongestWord = 30;

    [ThreadStatic]
    private static FeatureCounter? _counter;

    /// <summary>The features of a message.</summary>
    public static FeatureVector Read(PreparedMessage message) => Count((ref FeatureCounter c) => Visit(LookedAt.In(message), ref c));

    /// <summary>The features of a plain text, such as the description of a category.</summary>
    public static FeatureVector Read(string text) => Count((ref FeatureCounter c) => VisitWords(new SearchedText(text), 0, 0, text.Length, false, ref c));

    /// <summary>Hands every feature of a text to <paramref name="sink"/>, where it is met.</summary>
    public static void Visit<TSink>(LookedAt text, ref TSink sink)
        where TSink : IFeatureSink
    {
        for (var i = 0; i < text.Stretches.Count; i++)
        {
            var stretch = text.Stretches[i];
            VisitWords(stretch.Text, i, stretch.Start, stretch.Length, stretch.Place == EvidencePlace.Subject, ref sink);
        }

        for (var i = 0; i < text.Marks.Count; i++)
        {
            sink.Take(Key(FeatureFamily.Mark, TextWord.HashOf(text.Marks[i].Key)), FeatureFamily.Mark, new FeaturePlace(-1, i, 0));
        }
    }

    private delegate void Visitor(ref FeatureCounter counter);

    private static FeatureVector Count(Visitor visit)
    {
        var counter = _counter ??= new FeatureCounter();
        counter.Begin();
        visit(ref counter);
        return counter.Vector();
    }

    private static void VisitWords<TSink>(SearchedText text, int stretch, int start, int length, bool subject, ref TSink sink)
        where TSink : IFeatureSink
    {
        Span<char> letters = stackalloc char[LongestWord + 2];
        TextWord before = default;
        var beforeHash = 0u;
        foreach (var word in text.WordsIn(start, length))
        {
            var hash = Letters(text.Text.AsSpan(word.Start, word.Length), letters, out var count);
            var place = new FeaturePlace(stretch, word.Start, word.Length);
            if (sink.Take(Key(FeatureFamily.Word, hash), FeatureFamily.Word, place))
            {
                Pieces(letters[..(count + 2)], place, ref sink);
            }

            if (subject)
            {
                sink.Take(Key(FeatureFamily.SubjectWord, hash), FeatureFamily.SubjectWord, place);
            }

            if (beforeHash != 0)
            {
                sink.Take(Key(FeatureFamily.Pair, (beforeHash * 0x9E37_79B1u) ^ hash), FeatureFamily.Pair, new FeaturePlace(stretch, before.Start, word.End - before.Start));
            }

            (before, beforeHash) = (word, hash);
        }
    }

    /// <summary>The plain letters of a word between two bounds, figures all alike; their number is the word's.</summary>
    private static uint Letters(ReadOnlySpan<char> word, Span<char> letters, out int count)
    {
        count = 0;
        letters[0] = ' ';
        var hash = 2_166_136_261u;
        foreach (var c in word)
        {
            if (PlainLetters.IsMark(c))
            {
                continue;
            }

            var letter = char.IsAsciiDigit(c) ? '0' : PlainLetters.Of(c);
            hash = (hash ^ letter) * 16_777_619u;
            if (count < LongestWord)
            {
                letters[++count] = letter;
            }
        }

        letters[count + 1] = ' ';
        return hash;
    }

    private static void Pieces<TSink>(ReadOnlySpan<char> letters, FeaturePlace place, ref TSink sink)
        where TSink : IFeatureSink
    {
        foreach (var length in (ReadOnlySpan<int>)[ShortPiece, LongPiece])
        {
            for (var at = 0; at + length <= letters.Length; at++)
            {
                var hash = 2_166_136_261u;
                foreach (var c in letters.Slice(at, length))
                {
                    hash = (hash ^ c) * 16_777_619u;
                }

                sink.Take(Key(FeatureFamily.Piece, hash), FeatureFamily.Piece, place);
            }
        }
    }

    /// <summary>Spreads a hash over all 32 bits, apart for each family (the finishing step of MurmurHash3).</summary>
    private static uint Key(FeatureFamily family, uint hash)
    {
        hash ^= ((uint)family + 1) * 0x85EB_CA6Bu;
        hash ^= hash >> 16;
        hash *= 0x85EB_CA6Bu;
        hash ^= hash >> 13;
        hash *= 0xC2B2_AE35u;
        hash ^= hash >> 16;
        return hash == 0 ? 1 : hash;
    }
}
