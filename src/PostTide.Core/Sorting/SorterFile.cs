using System.Collections.Immutable;
using System.Text;
using System.Text.Json;

namespace PostTide.Core.Sorting;

/// <summary>A file that is not a sorter, is damaged, or belongs to another version.</summary>
public sealed class SorterFileException(string message) : Exception(message);

/// <summary>
/// A trained sorter as bytes: a mark, a description in JSON, then features in ascending order by their distances (LEB128), and
/// rarities, weights and biases as half-precision numbers. The same sorter gives the same bytes.
/// </summary>
public static class SorterFile
{
    private const string Mark = "POSTTIDE-SORTER";
    private const int MostFeatures = 10_000_000;
    private const int MostClasses = 1_000;

    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web);

    private sealed record Description(
        int Version, SorterSettings Settings, bool KnowsNone, double Factor, ImmutableArray<double> Shifts, int Seen, double Floor,
        ImmutableSortedDictionary<string, double> Floors, float UnknownRarity, int Features);

    /// <summary>Writes a sorter.</summary>
    public static byte[] Write(TrainedSorter sorter)
    {
        using var stream = new MemoryStream();
        using (var writer = new BinaryWriter(stream, Encoding.UTF8))
        {
            writer.Write(Encoding.ASCII.GetBytes(Mark));
            writer.Write(JsonSerializer.Serialize(
                new Description(
                    FeatureReader.Version, sorter.Settings, sorter.KnowsNone, sorter.Calibrator.Factor, sorter.Calibrator.Shifts, sorter.Calibrator.Seen,
                    sorter.Floors.Own, sorter.Floors.OfCategory, sorter.Vocabulary.UnknownRarity, sorter.Vocabulary.Count),
                Json));
            var before = 0u;
            foreach (var key in sorter.Vocabulary.Keys)
            {
                writer.Write7BitEncodedInt64(key - before);
                before = key;
            }

            foreach (var rarity in sorter.Vocabulary.Rarity)
            {
                writer.Write((Half)rarity);
            }

            for (var feature = 0; feature < sorter.Weights.Features; feature++)
            {
                foreach (var weight in sorter.Weights.Of(feature))
                {
                    writer.Write((Half)weight);
                }
            }

            foreach (var bias in sorter.Weights.Bias.AsSpan(0, sorter.Classes))
            {
                writer.Write(bias);
            }
        }

        return stream.ToArray();
    }

    /// <summary>Reads a sorter back.</summary>
    /// <exception cref="SorterFileException">The bytes are no sorter; the message says what is wrong.</exception>
    public static TrainedSorter Read(byte[] bytes)
    {
        using var reader = new BinaryReader(new MemoryStream(bytes), Encoding.UTF8);
        try
        {
            if (!reader.ReadBytes(Mark.Length).AsSpan().SequenceEqual(Encoding.ASCII.GetBytes(Mark)))
            {
                throw new SorterFileException("This is not a sorter file.");
            }

            var description = JsonSerializer.Deserialize<Description>(reader.ReadString(), Json)!;
            if (description.Version != FeatureReader.Version)
            {
                throw new SorterFileException($"The sorter was trained by another version of Post Tide (features {description.Version}, here {FeatureReader.Version}). Train it again.");
            }

            return Read(reader, description);
        }
        catch (Exception e) when (e is IOException or JsonException or FormatException or ArgumentException or OverflowException)
        {
            throw new SorterFileException("The sorter file is damaged.");
        }
    }

    private static TrainedSorter Read(BinaryReader reader, Description description)
    {
        var classes = description.Settings.Categories.Length + (description.KnowsNone ? 1 : 0);
        var left = reader.BaseStream.Length - reader.BaseStream.Position;
        if (description.Features is < 0 or > MostFeatures || classes is < 1 or > MostClasses || description.Shifts.Length != classes
            || left < description.Features * (3L + (2 * classes)))
        {
            throw new FormatException();
        }

        var keys = new uint[description.Features];
        var key = 0L;
        for (var i = 0; i < keys.Length; i++)
        {
            key += reader.Read7BitEncodedInt64();
            keys[i] = checked((uint)key);
        }

        var rarity = new float[keys.Length];
        for (var i = 0; i < rarity.Length; i++)
        {
            rarity[i] = (float)reader.ReadHalf();
        }

        var weights = new LinearWeights(keys.Length, classes);
        for (var feature = 0; feature < keys.Length; feature++)
        {
            foreach (ref var weight in weights.Of(feature))
            {
                weight = (float)reader.ReadHalf();
            }
        }

        foreach (ref var bias in weights.Bias.AsSpan(0, classes))
        {
            bias = reader.ReadSingle();
        }

        return new TrainedSorter(
            description.Settings, description.KnowsNone, new Vocabulary(keys, rarity, description.UnknownRarity), weights,
            new Calibrator(description.Factor, description.Shifts, description.Seen), new Floors(description.Floor, description.Floors));
    }
}
