using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Microsoft.AspNetCore.OpenApi;
using Microsoft.OpenApi;

namespace Chiton.Server.App;

/// <summary>How the API describes itself.</summary>
public static class OpenApiShape
{
    /// <summary>Sets the document up.</summary>
    public static void Configure(OpenApiOptions options)
    {
        options.AddDocumentTransformer(
            (document, _, _) =>
            {
                document.Info = new()
                {
                    Title = "Chiton",
                    Version = "v1",
                    Description = "The bench for sensor-triggered mechanisms.",
                };
                // The address differs from start to start and has no place in a committed description.
                document.Servers = [];
                return Task.CompletedTask;
            }
        );
        options.AddSchemaTransformer(
            async (schema, context, cancel) =>
            {
                var clr = context.JsonTypeInfo.Type;
                if (clr == typeof(Sequence<GivenValue>))
                {
                    schema.Type = JsonSchemaType.Object;
                    schema.Items = null;
                    schema.AdditionalProperties = new OpenApiSchema
                    {
                        Type = JsonSchemaType.Number | JsonSchemaType.Boolean | JsonSchemaType.String,
                    };
                    return;
                }
                if (clr.IsGenericType && clr.GetGenericTypeDefinition() == typeof(Sequence<>))
                {
                    schema.Type = JsonSchemaType.Array;
                    schema.Items = await context.GetOrCreateSchemaAsync(clr.GetGenericArguments()[0], null, cancel);
                }
                if (clr == typeof(PortUse))
                {
                    schema.Type = JsonSchemaType.Array;
                    schema.Items = new OpenApiSchema { Type = JsonSchemaType.String };
                }
                // Strict JSON: a number is a number, never also a string of digits.
                if (
                    schema.Type is { } type
                    && (type.HasFlag(JsonSchemaType.Number) || type.HasFlag(JsonSchemaType.Integer))
                    && type.HasFlag(JsonSchemaType.String)
                )
                {
                    schema.Type = type & ~JsonSchemaType.String;
                    schema.Pattern = null;
                }
            }
        );
    }
}
