using System.Globalization;
using Chiton.Core.Quantities;
using Microsoft.AspNetCore.Http.Metadata;

namespace Chiton.Server.App;

/// <summary>Refuses addresses whose values do not fit the call, naming each, before the call is made.</summary>
public sealed class QueryInput(RequestDelegate next)
{
    private const int MostShown = 40;

    /// <summary>Looks at the address and goes on when it fits.</summary>
    /// <exception cref="InputProblem">When a value does not fit, or one that is needed is missing.</exception>
    public Task Invoke(HttpContext context)
    {
        if (context.GetEndpoint()?.Metadata.GetOrderedMetadata<IParameterBindingMetadata>() is { Count: > 0 } asked)
        {
            var need = new Require();
            foreach (var parameter in asked)
                if (Kind(parameter.ParameterInfo.ParameterType) is { } kind)
                {
                    var given = context.Request.RouteValues.TryGetValue(parameter.Name, out var inPath)
                        ? Convert.ToString(inPath, CultureInfo.InvariantCulture)
                        : (string?)context.Request.Query[parameter.Name];
                    if (string.IsNullOrEmpty(given))
                        need.That(
                            parameter.IsOptional || Nullable.GetUnderlyingType(parameter.ParameterInfo.ParameterType) is not null,
                            parameter.Name,
                            $"Give this: {kind}."
                        );
                    else
                        need.That(
                            Fits(parameter.ParameterInfo.ParameterType, given),
                            parameter.Name,
                            $"“{Clip(given)}” does not fit here: it must be {kind}."
                        );
                }
            need.Done();
        }
        return next(context);
    }

    private static string? Kind(Type type) =>
        (Nullable.GetUnderlyingType(type) ?? type) switch
        {
            var t when t == typeof(int) || t == typeof(long) => "a whole number",
            var t when t == typeof(double) => "a number",
            var t when t == typeof(bool) => "true or false",
            _ => null,
        };

    private static bool Fits(Type type, string text) =>
        (Nullable.GetUnderlyingType(type) ?? type) switch
        {
            var t when t == typeof(int) => int.TryParse(text, CultureInfo.InvariantCulture, out _),
            var t when t == typeof(long) => long.TryParse(text, CultureInfo.InvariantCulture, out _),
            var t when t == typeof(double) => double.TryParse(text, CultureInfo.InvariantCulture, out _),
            _ => bool.TryParse(text, out _),
        };

    /// <summary>What was sent, short enough to be shown.</summary>
    public static string Clip(string text) => text.Length <= MostShown ? text : text[..MostShown] + "…";
}
