using System.Text;
using System.Text.Json;
using System.Text.RegularExpressions;
using Chiton.Core.Quantities;
using Chiton.Data;
using Microsoft.AspNetCore.Diagnostics;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Diagnostics.HealthChecks;

namespace Chiton.Server.App;

/// <summary>Turns what went wrong into problem details (RFC 9457) that name the field and what is allowed.</summary>
public sealed partial class Problems(IProblemDetailsService service, DataFolder folder, ILogger<Problems> log) : IExceptionHandler
{
    /// <inheritdoc/>
    public async ValueTask<bool> TryHandleAsync(HttpContext context, Exception exception, CancellationToken cancel)
    {
        if (exception is OperationCanceledException && context.RequestAborted.IsCancellationRequested)
            return true;
        var problem = For(exception);
        // What a person can mend on the disk is said in words; the log gets a line, not a stack.
        if (problem.Status == 500 && DataFolder.Words(exception, folder.Database) is { } words)
        {
            problem = new()
            {
                Status = words.Contains("disk is full", StringComparison.Ordinal)
                    ? StatusCodes.Status507InsufficientStorage
                    : StatusCodes.Status503ServiceUnavailable,
                Title = words,
                Detail = "This edit was not kept. What was kept before is.",
            };
            log.LogError("{Method} {Path}: {Words}", context.Request.Method, context.Request.Path, words);
        }
        if (problem.Status == 500)
            log.LogError(exception, "{Method} {Path} failed.", context.Request.Method, context.Request.Path);
        context.Response.StatusCode = problem.Status!.Value;
        await service.WriteAsync(new() { HttpContext = context, ProblemDetails = problem });
        return true;
    }

    private static ProblemDetails For(Exception exception) =>
        exception switch
        {
            InputProblem p => Input(p.Errors),
            BadHttpRequestException { InnerException: JsonException json } => Json(json),
            JsonException json => Json(json),
            BadHttpRequestException { StatusCode: 413 } => TooLarge,
            BadHttpRequestException { StatusCode: 415 } => NotJson,
            // A charset that nobody knows.
            InvalidOperationException { InnerException: ArgumentException, Message: var m }
                when m.Contains("charset", StringComparison.OrdinalIgnoreCase)
                    || m.Contains("encoding", StringComparison.OrdinalIgnoreCase) => NotJson,
            DecoderFallbackException => Input(new Dictionary<string, string> { ["body"] = "The body must be text in UTF-8." }),
            BadHttpRequestException { StatusCode: 400 } => Input(
                new Dictionary<string, string> { ["body"] = "The body must be a JSON object." }
            ),
            BadHttpRequestException bad => new()
            {
                Status = bad.StatusCode,
                Title = "This request could not be read.",
                Detail = bad.Message,
            },
            NotStored n => new() { Status = 404, Title = n.Message },
            NotYours y => new() { Status = 403, Title = y.Message },
            Room.TooMany m => new() { Status = 429, Title = m.Message },
            TooBusy b => new() { Status = 503, Title = b.Message },
            TookTooLong t => new()
            {
                Status = 503,
                Title = t.Message,
                Detail = "Nothing that was kept is lost. Ask for less at once, or find what goes on and on.",
            },
            WasStopped w => new()
            {
                Status = 409,
                Title = w.Message,
                Detail = "Nothing was kept of it.",
            },
            StaleEdit s => new()
            {
                Status = 409,
                Title = "Someone else changed this meanwhile.",
                Detail = $"The change was: {s.What}.",
                Extensions = { ["current"] = s.Current },
            },
            _ => new()
            {
                Status = 500,
                Title = "Something went wrong here.",
                Detail = "Nothing that was kept is lost. Please try again.",
            },
        };

    /// <summary>The answer to a body over the limit.</summary>
    public static ProblemDetails TooLarge =>
        new()
        {
            Status = 413,
            Title = "That is too much at once.",
            Detail = $"At most {Limits.BodyBytes / 1024 / 1024} MB can be sent in one go. Send it in parts.",
        };

    private static ProblemDetails Input(IReadOnlyDictionary<string, string> errors) =>
        new ValidationProblemDetails(errors.ToDictionary(e => e.Key, e => new[] { e.Value }))
        {
            Status = 400,
            Title = errors.Count == 1 ? errors.Values.First() : $"{errors.Count} things need mending.",
        };

    /// <summary>Answers what fits no call: most often the address is wrong, or what is sent is not called JSON.</summary>
    public static IResult Nowhere(HttpRequest request) =>
        request.ContentLength > 0 && !request.HasJsonContentType()
            ? Results.Problem(NotJson)
            : Results.Problem(title: "There is nothing at this address.", statusCode: 404);

    private static readonly ProblemDetails NotJson = new()
    {
        Status = 415,
        Title = "Send JSON in UTF-8: say “content-type: application/json”.",
    };

    [GeneratedRegex("""The JSON property '(.*?)' could not be mapped""", RegexOptions.Singleline)]
    private static partial Regex Unknown();

    private static ProblemDetails Json(JsonException json)
    {
        // Inside a list the path begins anew, so the whole is put together from the outside in.
        var path = "";
        var deepest = json;
        for (Exception? e = json; e is not null; e = e.InnerException)
            if (e is JsonException { Path: { Length: > 1 } part } at && (e == json || e.GetType() == typeof(JsonException)))
                (path, deepest) = (path + part[1..], at);
        path = path.TrimStart('.') is { Length: > 0 } whole ? whole : "body";
        for (Exception? e = json; e is not null; e = e.InnerException)
            if (Unknown().Match(e.Message) is { Success: true } unknown)
            {
                var name = unknown.Groups[1].Value;
                // The serialiser's path ends with the name, or with what holds it.
                var at =
                    path == "body" ? name
                    : path.EndsWith(name, StringComparison.Ordinal) ? path
                    : $"{path}.{name}";
                return Input(
                    new Dictionary<string, string>
                    {
                        [at] = $"There is no field “{QueryInput.Clip(name)}” here. Look whether its name is spelled as it should be.",
                    }
                );
            }
        if (
            deepest.Message.Contains("invalid start of a value", StringComparison.Ordinal)
            || deepest.Message.Contains("invalid JSON literal", StringComparison.Ordinal)
        )
            return Input(
                new Dictionary<string, string>
                {
                    [path] =
                        path == "body"
                            ? "The body must be a JSON object."
                            : "Must be a number, a text in quotes, true, false, a list or an object; NaN and Infinity are no "
                                + "numbers in JSON.",
                }
            );
        return Input(
            new Dictionary<string, string>
            {
                [path] =
                    path == "body"
                        ? "The body must be a JSON object."
                        : $"Must be {Wanted(deepest.Message + " " + deepest.InnerException?.Message)}.",
            }
        );
    }

    private static string Wanted(string message)
    {
        if (message.Contains("as a number"))
            return "a number";
        if (message.Contains("as a string"))
            return "text";
        if (message.Contains("as a boolean"))
            return "true or false";
        var type = WantedType().Match(message).Groups[1].Value;
        if (type.TrimEnd('.') is { Length: > 0 } name && typeof(Core.Quantities.Quantity).Assembly.GetType(name) is { IsEnum: true } words)
            return "one of " + string.Join(", ", Enum.GetNames(words).Select(JsonNamingPolicy.CamelCase.ConvertName));
        if (type.Contains("Double") || type.Contains("Int"))
            return "a number";
        if (type.Contains("String"))
            return "text";
        if (type.Contains("Boolean"))
            return "true or false";
        if (type.Contains("List") || type.Contains("[]") || type.Contains("Sequence"))
            return "a list";
        return "of another kind";
    }

    [GeneratedRegex(@"converted to (\S+)")]
    private static partial Regex WantedType();
}

/// <summary>Healthy when the database is there, can be read, and can be written to the disk.</summary>
public sealed class DatabaseHealth(ChitonDb db, DataFolder folder) : IHealthCheck
{
    /// <inheritdoc/>
    public async Task<HealthCheckResult> CheckHealthAsync(HealthCheckContext context, CancellationToken cancellationToken = default)
    {
        if (!File.Exists(folder.Database))
            return HealthCheckResult.Unhealthy($"{folder.Database} is gone. Stop Chiton, put the file or a backup back, and start again.");
        try
        {
            // A write that changes nothing anybody reads, on the disk before it answers: that is what an edit needs.
            await using var transaction = await db.Database.BeginTransactionAsync(
                System.Data.IsolationLevel.Serializable,
                cancellationToken
            );
            var version = await db
                .Database.SqlQueryRaw<long>("SELECT user_version AS Value FROM pragma_user_version")
                .SingleAsync(cancellationToken);
            await db.Database.ExecuteSqlRawAsync(version == 1 ? "PRAGMA user_version = 2" : "PRAGMA user_version = 1", cancellationToken);
            await transaction.CommitAsync(cancellationToken);
            return HealthCheckResult.Healthy("Everything is well.");
        }
        catch (Exception e) when (e is not OperationCanceledException)
        {
            return HealthCheckResult.Unhealthy(
                DataFolder.Words(e, folder.Database) ?? $"{folder.Database} cannot be written to: {e.Message}"
            );
        }
    }

    /// <summary>Writes the state and, where something is wrong, what to do.</summary>
    public static Task Write(HttpContext context, HealthReport report) =>
        context.Response.WriteAsJsonAsync(
            new
            {
                status = report.Status.ToString().ToLowerInvariant(),
                say = string.Join(" ", report.Entries.Values.Select(e => e.Description)),
            }
        );
}
