using Microsoft.AspNetCore.Diagnostics;
using Microsoft.AspNetCore.Http.Features;

namespace Kelvet.Web.Hosting;

/// <summary>
/// Headers that hold the page to its own scripts, styles and fonts, on errors too; and what is the shop's own business is
/// kept by no cache.
/// </summary>
public sealed class SecurityHeaders(RequestDelegate next)
{
    /// <summary>Largest request body, bytes: a photo with room to spare.</summary>
    public const int MostBytes = 12_000_000;

    /// <summary>The content security policy.</summary>
    public const string Policy =
        "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; connect-src 'self'; "
        + "form-action 'self'; base-uri 'none'; frame-ancestors 'none'";

    private static readonly string[] Shared = ["/css", "/js", "/fonts", "/lib", "/icon.svg"];

    /// <summary>Sets them when the answer starts, so that an error handler that clears headers does not lose them.</summary>
    public Task InvokeAsync(HttpContext context)
    {
        var own = !Array.Exists(Shared, s => context.Request.Path.StartsWithSegments(s));
        context.Response.OnStarting(() =>
        {
            var headers = context.Response.Headers;
            headers.ContentSecurityPolicy = Policy;
            headers.XContentTypeOptions = "nosniff";
            headers["Referrer-Policy"] = "same-origin";
            headers["Cross-Origin-Opener-Policy"] = "same-origin";
            if (own)
                headers.CacheControl = "no-store";
            return Task.CompletedTask;
        });
        return next(context);
    }
}

/// <summary>Requests that are broken or too large are answered as such, not as a failure of the program.</summary>
public sealed class BadRequests(RequestDelegate next)
{
    /// <summary>Answers them.</summary>
    public async Task InvokeAsync(HttpContext context)
    {
        // The page that tells of it comes by here again.
        if (context.Request.ContentLength > SecurityHeaders.MostBytes && context.Features.Get<IStatusCodeReExecuteFeature>() is null)
        {
            context.Response.StatusCode = StatusCodes.Status413PayloadTooLarge;
            return;
        }

        if (context.Features.Get<IHttpMaxRequestBodySizeFeature>() is { IsReadOnly: false } limit)
            limit.MaxRequestBodySize = SecurityHeaders.MostBytes;
        try
        {
            await next(context);
        }
        catch (BadHttpRequestException e) when (!context.Response.HasStarted)
        {
            context.Response.Clear();
            context.Response.StatusCode = e.StatusCode;
        }
        catch (InvalidDataException) when (!context.Response.HasStarted)
        {
            context.Response.Clear();
            context.Response.StatusCode = StatusCodes.Status400BadRequest;
        }
    }
}
