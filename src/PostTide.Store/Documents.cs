using System.Text.Json;
using System.Text.Json.Serialization;

namespace PostTide.Store;

/// <summary>How documents are written as JSON: the same in the database and over HTTP.</summary>
public static class Documents
{
    public static readonly JsonSerializerOptions Json = Configure(new JsonSerializerOptions(JsonSerializerDefaults.Web));

    /// <summary>Applies the house rules to options another library made.</summary>
    public static JsonSerializerOptions Configure(JsonSerializerOptions options)
    {
        options.NumberHandling = JsonNumberHandling.Strict;
        options.Converters.Add(new JsonStringEnumConverter(namingPolicy: null, allowIntegerValues: false));
        options.RespectNullableAnnotations = true;
        options.RespectRequiredConstructorParameters = true;
        options.AllowOutOfOrderMetadataProperties = true;
        options.MaxDepth = 32;
        return options;
    }
}
