using System.Collections.Immutable;
using System.Globalization;
using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.Json.Schema;
using System.Text.Json.Serialization;
using System.Text.Json.Serialization.Metadata;
using YamlDotNet.Core;
using YamlDotNet.Core.Events;
using YamlDotNet.RepresentationModel;

namespace PostTide.Core.Formats;

/// <summary>Something wrong in a document, with the line it stands in.</summary>
/// <param name="Line">The line, from 1; 0 for the document as a whole.</param>
/// <param name="Text">What is wrong, in a sentence.</param>
/// <param name="Blocks">Whether nothing can be made of the document; otherwise it is only unfinished, as an edition in hand may be.</param>
public sealed record DocumentProblem(int Line, string Text, bool Blocks = true);

/// <summary>A document as read, and the line of every part of it by its path, such as <c>$.does[0].queues</c>.</summary>
public sealed record ReadDocument<T>(T? Value, ImmutableArray<DocumentProblem> Problems, IReadOnlyDictionary<string, int> Lines)
{
    /// <summary>The line of a part, or of what it is part of.</summary>
    public int LineOf(string path)
    {
        for (var at = path; at.Length > 0;)
        {
            if (Lines.TryGetValue(at, out var line))
            {
                return line;
            }

            var cut = Math.Max(at.LastIndexOf('.'), at.LastIndexOf('['));
            at = cut < 0 ? "" : at[..cut];
        }

        return 0;
    }
}

/// <summary>Writes records as YAML 1.2 and reads them again. The shape of a document is that of its record in JSON.</summary>
public static class YamlText
{
    private const int LongestText = 5_000_000;
    private const int MostNodes = 500_000;
    private const int Deepest = 60;

    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web)
    {
        Converters = { new JsonStringEnumConverter(JsonNamingPolicy.CamelCase, allowIntegerValues: false), new TextConverter() },
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
        UnmappedMemberHandling = JsonUnmappedMemberHandling.Disallow,
        RespectNullableAnnotations = true,
        RespectRequiredConstructorParameters = true,
        NumberHandling = JsonNumberHandling.Strict,
        Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
        MaxDepth = 2 * Deepest,
        TypeInfoResolver = new DefaultJsonTypeInfoResolver { Modifiers = { LeaveOutWhatSaysNothing } },
    };

    /// <summary>Writes a document. The same document is always written the same.</summary>
    public static string Write<T>(T document)
    {
        var text = new StringWriter(CultureInfo.InvariantCulture) { NewLine = "\n" };
        var emitter = new Emitter(text, new EmitterSettings().WithBestWidth(120).WithMaxSimpleKeyLength(128));
        emitter.Emit(new StreamStart());
        emitter.Emit(new DocumentStart());
        Emit(emitter, JsonSerializer.SerializeToNode(document, Json));
        emitter.Emit(new DocumentEnd(isImplicit: true));
        emitter.Emit(new StreamEnd());
        return text.ToString();
    }

    /// <summary>Reads a document; what cannot be read is told with its line.</summary>
    public static ReadDocument<T> Read<T>(string text)
        where T : class
    {
        var lines = new Dictionary<string, int>(StringComparer.Ordinal);
        try
        {
            if (text.Length > LongestText)
            {
                return Failed<T>(0, $"The document is longer than {LongestText / 1_000_000} million characters.", lines);
            }

            var stream = new YamlStream();
            stream.Load(new Parser(new StringReader(text)));
            if (stream.Documents.Count != 1)
            {
                return Failed<T>(0, stream.Documents.Count == 0 ? "The document is empty." : "The text holds more than one document.", lines);
            }

            var json = new MemoryStream();
            using (var writer = new Utf8JsonWriter(json, new JsonWriterOptions { MaxDepth = 2 * Deepest }))
            {
                var budget = MostNodes;
                Copy(stream.Documents[0].RootNode, writer, "$", lines, 0, ref budget);
            }

            return new ReadDocument<T>(JsonSerializer.Deserialize<T>(json.ToArray(), Json), [], lines);
        }
        catch (YamlException e)
        {
            return Failed<T>(Math.Min((int)e.Start.Line, text.AsSpan().Count('\n') + 1), $"It is not YAML: {e.Message}", lines);
        }
        catch (JsonException e)
        {
            return Failed<T>(new ReadDocument<T>(null, [], lines).LineOf(e.Path ?? "$"), Explain(e), lines);
        }
        catch (FormatException e)
        {
            return Failed<T>(0, e.Message, lines);
        }
    }

    /// <summary>The JSON Schema (2020-12) of a document.</summary>
    public static string SchemaOf<T>(string title)
    {
        var schema = (JsonObject)Json.GetJsonSchemaAsNode(typeof(T), new JsonSchemaExporterOptions
        {
            TreatNullObliviousAsNonNullable = true,

            // A text that looks like a number or like true needs no quotes.
            TransformSchemaNode = static (context, node) => context.TypeInfo.Type == typeof(string) ? new JsonObject { ["type"] = new JsonArray("string", "number", "boolean") } : node,
        });
        schema.Insert(0, "$schema", "https://json-schema.org/draft/2020-12/schema");
        schema.Insert(1, "title", title);
        return schema.ToJsonString(new JsonSerializerOptions { WriteIndented = true, Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping }).ReplaceLineEndings("\n") + "\n";
    }

    private static ReadDocument<T> Failed<T>(int line, string text, Dictionary<string, int> lines)
        where T : class => new(null, [new DocumentProblem(line, text)], lines);

    private static string Explain(JsonException e)
    {
        var part = e.Path is { Length: > 2 } path ? $"“{path[2..]}”" : "The document";
        return e.Message.Contains("could not be mapped", StringComparison.Ordinal) ? $"{part} holds “{Quoted(e.Message)}”, which is not known here."
            : e.Message.Contains("missing required", StringComparison.Ordinal) ? $"{part} lacks {Quoted(e.Message[Math.Max(0, e.Message.IndexOf("including", StringComparison.Ordinal))..])}."
            : $"{part} is not what belongs there.";
    }

    private static string Quoted(string message)
    {
        var start = message.IndexOf('\'', StringComparison.Ordinal) + 1;
        var end = start == 0 ? -1 : message.IndexOf('\'', start);
        return end < 0 ? message : message[start..end];
    }

    private static void Copy(YamlNode node, Utf8JsonWriter writer, string path, Dictionary<string, int> lines, int depth, ref int budget)
    {
        if (--budget < 0 || depth > Deepest)
        {
            throw new FormatException("The document is nested too deep, or repeats itself too often.");
        }

        lines.TryAdd(path, (int)node.Start.Line);
        switch (node)
        {
            case YamlMappingNode mapping:
                writer.WriteStartObject();
                foreach (var (key, value) in mapping)
                {
                    var name = (key as YamlScalarNode)?.Value ?? throw new FormatException($"A name in line {key.Start.Line} is not a text.");
                    writer.WritePropertyName(name);
                    lines[$"{path}.{name}"] = (int)key.Start.Line;
                    Copy(value, writer, $"{path}.{name}", lines, depth + 1, ref budget);
                }

                writer.WriteEndObject();
                break;
            case YamlSequenceNode sequence:
                writer.WriteStartArray();
                for (var i = 0; i < sequence.Children.Count; i++)
                {
                    Copy(sequence.Children[i], writer, $"{path}[{i}]", lines, depth + 1, ref budget);
                }

                writer.WriteEndArray();
                break;
            case YamlScalarNode scalar:
                Copy(scalar, writer);
                break;
            default:
                throw new FormatException($"Line {node.Start.Line} holds something that is neither a text, a list nor names with values.");
        }
    }

    /// <summary>Plain scalars by the core schema of YAML 1.2.2 §10.3.2; quoted ones are texts.</summary>
    private static void Copy(YamlScalarNode scalar, Utf8JsonWriter writer)
    {
        var value = scalar.Value ?? "";
        if (scalar.Style != ScalarStyle.Plain)
        {
            writer.WriteStringValue(value);
        }
        else if (value is "" or "~" or "null" or "Null" or "NULL")
        {
            writer.WriteNullValue();
        }
        else if (value is "true" or "True" or "TRUE" or "false" or "False" or "FALSE")
        {
            writer.WriteBooleanValue(value[0] is 't' or 'T');
        }
        else if (IsNumber(value))
        {
            writer.WriteRawValue(value);
        }
        else
        {
            writer.WriteStringValue(value);
        }
    }

    /// <summary>Whether a text is a number as JSON writes it (RFC 8259 §6).</summary>
    private static bool IsNumber(string value)
    {
        var reader = new Utf8JsonReader(Encoding.UTF8.GetBytes(value));
        try
        {
            return (char.IsAsciiDigit(value[0]) || value[0] == '-') && reader.Read() && reader.TokenType == JsonTokenType.Number && reader.BytesConsumed == value.Length && !reader.Read();
        }
        catch (JsonException)
        {
            return false;
        }
    }

    private static void Emit(Emitter emitter, JsonNode? node)
    {
        switch (node)
        {
            case JsonObject mapping:
                emitter.Emit(new MappingStart(AnchorName.Empty, TagName.Empty, isImplicit: true, MappingStyle.Block));
                foreach (var (key, value) in mapping)
                {
                    emitter.Emit(new Scalar(AnchorName.Empty, TagName.Empty, key, ScalarStyle.Plain, isPlainImplicit: true, isQuotedImplicit: false));
                    Emit(emitter, value);
                }

                emitter.Emit(new MappingEnd());
                break;
            case JsonArray sequence:
                emitter.Emit(new SequenceStart(AnchorName.Empty, TagName.Empty, isImplicit: true, SequenceStyle.Block));
                foreach (var item in sequence)
                {
                    Emit(emitter, item);
                }

                emitter.Emit(new SequenceEnd());
                break;
            default:
                emitter.Emit(ScalarOf(node));
                break;
        }
    }

    private static Scalar ScalarOf(JsonNode? node)
    {
        if (node?.GetValueKind() != JsonValueKind.String)
        {
            return new Scalar(AnchorName.Empty, TagName.Empty, node?.ToJsonString() ?? "null", ScalarStyle.Plain, isPlainImplicit: true, isQuotedImplicit: false);
        }

        // A text that would be read as something else, or holds what a plain one cannot, stands in quotes.
        var text = node.GetValue<string>();
        var style = IsSafe(text) ? ScalarStyle.Plain : text.Contains('\n', StringComparison.Ordinal) && IsSafeBlock(text) ? ScalarStyle.Literal : ScalarStyle.DoubleQuoted;
        return new Scalar(AnchorName.Empty, TagName.Empty, text, style, isPlainImplicit: true, isQuotedImplicit: true);
    }

    private static bool IsSafe(string text) => text.Length > 0 && char.IsLetter(text[0])
        && text.All(c => char.IsLetterOrDigit(c) || c is ' ' or '-' or '_' or '.' or '/' or '@' or '+' or '(' or ')')
        && text[^1] != ' '
        && text.ToLowerInvariant() is not ("null" or "true" or "false" or "yes" or "no" or "on" or "off" or "y" or "n");

    /// <summary>A block keeps its text as it is, save what ends or begins in white space or holds control characters.</summary>
    private static bool IsSafeBlock(string text) =>
        !text.Any(c => (char.IsControl(c) && c != '\n') || c is '\u0085' or '\u2028' or '\u2029' or '\uFEFF') && !char.IsWhiteSpace(text[0]) && !text.Contains(" \n", StringComparison.Ordinal)
        && text.TrimEnd('\n').Length >= text.Length - 1 && text[^1] != ' ' && !text.EnumerateRunes().Any(r => r.Value == 0xFFFD || !Rune.IsValid(r.Value));

    /// <summary>Empty lists, empty sets and what is not switched on are the same as not said.</summary>
    private static void LeaveOutWhatSaysNothing(JsonTypeInfo type)
    {
        foreach (var property in type.Properties)
        {
            if (property.PropertyType.IsGenericType && property.PropertyType.GetGenericTypeDefinition() == typeof(ImmutableArray<>))
            {
                property.ShouldSerialize = static (_, value) => value is System.Collections.ICollection { Count: > 0 };
            }
            else if (property.PropertyType == typeof(SetDocument))
            {
                property.ShouldSerialize = static (_, value) => value is SetDocument set && !set.IsEmpty();
            }
            else if (property.PropertyType == typeof(bool) && type.Type.Namespace == typeof(YamlText).Namespace)
            {
                property.ShouldSerialize = static (_, value) => value is true;
            }
        }
    }

    /// <summary>A text may look like a number or like true; it is taken as it was written.</summary>
    private sealed class TextConverter : JsonConverter<string>
    {
        public override string? Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options) => reader.TokenType switch
        {
            JsonTokenType.String => reader.GetString(),
            JsonTokenType.Number => Encoding.UTF8.GetString(reader.ValueSpan),
            JsonTokenType.True => "true",
            JsonTokenType.False => "false",
            _ => throw new JsonException(),
        };

        public override void Write(Utf8JsonWriter writer, string value, JsonSerializerOptions options) => writer.WriteStringValue(value);
    }
}
