using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.Json.Schema;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Data;

/// <summary>The JSON schemas of rig files and course files.</summary>
public static class RigSchema
{
    /// <summary>The schema, by draft 2020-12; made once.</summary>
    public static JsonNode Of => Schema.Value;

    /// <summary>The schema of course files.</summary>
    public static JsonNode OfCourse => CourseSchema.Value;

    /// <summary>The schema of challenge files.</summary>
    public static JsonNode OfChallenge => ChallengeSchema.Value;

    private static readonly Lazy<JsonNode> ChallengeSchema = new(() => Make(typeof(ChallengeFile), "A challenge of Chiton, version 1"));

    private static readonly Lazy<JsonNode> Schema = new(() => Make(typeof(RigFile), "A rig of Chiton, version 2"));

    private static readonly Lazy<JsonNode> CourseSchema = new(() => Make(typeof(CourseFile), "A course of Chiton, version 1"));

    private static JsonNode Make(Type file, string title)
    {
        JsonSchemaExporterOptions? options = null;
        options = new()
        {
            TreatNullObliviousAsNonNullable = true,
            TransformSchemaNode = (context, node) =>
            {
                var type = context.TypeInfo.Type;
                if (type == typeof(Sequence<GivenValue>))
                    return new JsonObject
                    {
                        ["type"] = "object",
                        ["additionalProperties"] = new JsonObject { ["type"] = new JsonArray("number", "boolean", "string") },
                    };
                if (type.IsGenericType && type.GetGenericTypeDefinition() == typeof(Sequence<>))
                    return new JsonObject
                    {
                        ["type"] = "array",
                        ["items"] = Documents.Options.GetJsonSchemaAsNode(type.GetGenericArguments()[0], options!),
                    };
                if (type == typeof(PortUse))
                    return new JsonObject
                    {
                        ["type"] = "array",
                        ["items"] = new JsonObject
                        {
                            ["enum"] = new JsonArray([
                                .. PortUses
                                    .Each((PortUse)511)
                                    .Select(u => JsonValue.Create(JsonNamingPolicy.CamelCase.ConvertName(u.ToString()))),
                            ]),
                        },
                    };
                return node;
            },
        };
        var schema = Documents.Options.GetJsonSchemaAsNode(file, options);
        schema["$schema"] = "https://json-schema.org/draft/2020-12/schema";
        schema["title"] = title;
        return schema;
    }
}
