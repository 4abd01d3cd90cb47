using System.Net;
using System.Security.Cryptography;
using Chiton.Server.App.Room;
using Microsoft.AspNetCore.Mvc;

namespace Chiton.Server.App;

/// <summary>
/// Lets only this server's own pages in: the Host header must name this machine, at the desk as itself and in the room by an address that
/// is listened at, and an Origin must be the same as the host, so that no other page a person has open can reach the bench. Sets the
/// security headers.
/// </summary>
public sealed class Guard(RequestDelegate next, IConfiguration configuration, RoomKeeper room)
{
    /// <summary>Where the request's nonce is kept.</summary>
    public const string NonceKey = "csp-nonce";

    private readonly HashSet<string> named = new(
        (configuration["CHITON_HOSTS"] ?? "").Split(',', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries),
        StringComparer.OrdinalIgnoreCase
    );

    /// <summary>True for a request that came in at the desk: by the local address of its connection, never by where it came from.</summary>
    public static bool IsDesk(HttpContext context) =>
        context.Connection.LocalIpAddress is { } at && (at.IsIPv4MappedToIPv6 ? at.MapToIPv4() : at).Equals(IPAddress.Loopback);

    private bool Serves(HttpContext context)
    {
        var host = context.Request.Host.Host;
        if (named.Contains(host))
            return true;
        return IsDesk(context)
            ? host is "127.0.0.1" or "[::1]" || host.Equals("localhost", StringComparison.OrdinalIgnoreCase)
            : IPAddress.TryParse(host, out var address) && room.Open?.Addresses.Contains(address) == true;
    }

    /// <summary>Handles a request.</summary>
    public async Task Invoke(HttpContext context)
    {
        var request = context.Request;
        if (!Serves(context))
        {
            await Refuse(context, "This address is not served here.");
            return;
        }
        if (request.Headers.Origin.FirstOrDefault() is { Length: > 0 } origin && !SameOrigin(origin, request))
        {
            await Refuse(context, "Other pages cannot use this bench.");
            return;
        }
        // A rig that was given out must always be taken in again.
        var most =
            HttpMethods.IsPost(request.Method) && request.Path.Equals("/api/rigs", StringComparison.Ordinal)
                ? Limits.ImportBytes
                : Limits.BodyBytes;
        if (
            most > Limits.BodyBytes
            && context.Features.Get<Microsoft.AspNetCore.Http.Features.IHttpMaxRequestBodySizeFeature>() is { IsReadOnly: false } larger
        )
            larger.MaxRequestBodySize = most;
        if (request.ContentLength > most)
        {
            // Read to its end before answering, within reason: a browser that is cut off while it sends never sees the answer.
            if (
                request.ContentLength <= Limits.DrainBytes
                && IsDesk(context)
                && context.Features.Get<Microsoft.AspNetCore.Http.Features.IHttpMaxRequestBodySizeFeature>() is { IsReadOnly: false } limit
            )
            {
                limit.MaxRequestBodySize = Limits.DrainBytes;
                await request.Body.CopyToAsync(Stream.Null, context.RequestAborted);
            }
            context.Response.StatusCode = StatusCodes.Status413PayloadTooLarge;
            await context.Response.WriteAsJsonAsync(Problems.TooLarge, options: null, contentType: "application/problem+json");
            return;
        }
        var nonce = Convert.ToBase64String(RandomNumberGenerator.GetBytes(16));
        context.Items[NonceKey] = nonce;
        var headers = context.Response.Headers;
        headers.ContentSecurityPolicy =
            $"default-src 'none'; script-src 'self'; style-src 'self' 'nonce-{nonce}'; font-src 'self'; img-src 'self' data:; "
            + $"connect-src 'self' ws://{request.Host}; base-uri 'none'; form-action 'none'; frame-ancestors 'none'";
        headers.XContentTypeOptions = "nosniff";
        headers.XFrameOptions = "DENY";
        headers["Referrer-Policy"] = "no-referrer";
        // Browsers heed it only where the origin is one they trust: this machine's own.
        if (IsDesk(context))
            headers["Cross-Origin-Opener-Policy"] = "same-origin";
        headers["Cross-Origin-Resource-Policy"] = "same-origin";
        if (request.Path.StartsWithSegments("/api"))
            headers.CacheControl = "no-store";
        await next(context);
    }

    private static bool SameOrigin(string origin, HttpRequest request) =>
        Uri.TryCreate(origin, UriKind.Absolute, out var uri)
        && string.Equals(uri.Authority, request.Host.Value, StringComparison.OrdinalIgnoreCase);

    /// <summary>Answers that something is not for whoever asks.</summary>
    internal static Task Refuse(HttpContext context, string why, int status = StatusCodes.Status403Forbidden)
    {
        context.Response.StatusCode = status;
        return context.Response.WriteAsJsonAsync(
            new ProblemDetails { Status = status, Title = why },
            options: null,
            contentType: "application/problem+json"
        );
    }
}

/// <summary>Serves the front page for every address that is not a file or a call.</summary>
public static class FrontPage
{
    private static readonly Lock Gate = new();
    private static string? page;

    /// <summary>Answers with the page, its nonce filled in.</summary>
    public static async Task Serve(HttpContext context, IWebHostEnvironment environment)
    {
        if (!HttpMethods.IsGet(context.Request.Method) && !HttpMethods.IsHead(context.Request.Method))
        {
            context.Response.StatusCode = StatusCodes.Status405MethodNotAllowed;
            return;
        }
        // A missing asset is missing; answering with the page would only hide it.
        if (Path.HasExtension(context.Request.Path))
        {
            context.Response.StatusCode = StatusCodes.Status404NotFound;
            return;
        }
        lock (Gate)
        {
            var file = environment.WebRootFileProvider.GetFileInfo("index.html");
            if (page is null && file.Exists)
            {
                using var reader = new StreamReader(file.CreateReadStream());
                page = reader.ReadToEnd();
            }
        }
        if (page is null)
        {
            context.Response.StatusCode = StatusCodes.Status503ServiceUnavailable;
            await context.Response.WriteAsync("The front end is not built. Run ./dev build.");
            return;
        }
        context.Response.ContentType = "text/html; charset=utf-8";
        context.Response.Headers.CacheControl = "no-store";
        await context.Response.WriteAsync(page.Replace("__NONCE__", (string)context.Items[Guard.NonceKey]!));
    }
}
