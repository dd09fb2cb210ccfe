using System.Text;
using System.Text.RegularExpressions;
using AngleSharp;
using AngleSharp.Html.Parser;
using Kelvet.Data;

namespace Kelvet.Web.Hosting;

/// <summary>
/// A paper of a job as one HTML file that needs nothing beside it: with <c>?file=html</c> styles, fonts and photos are put into the
/// page, and everything that only works inside the application is left out.
/// </summary>
public sealed partial class OneFile(RequestDelegate next, IWebHostEnvironment environment)
{
    private readonly Lazy<string> _styles = new(() => Styles(environment));

    /// <summary>Papers that can be had as a file: what goes out of the house. The ticket, with how to reach the customer, is not
    /// among them.</summary>
    [GeneratedRegex("^/jobs/(?<job>[0-9]{1,9})/(?<paper>customer|report|estimate|hand-over|invoice|receipt|return/[a-z0-9-]{1,40})$")]
    private static partial Regex Paper();

    [GeneratedRegex(@"url\(""?\.\./fonts/(?<font>[a-z0-9-]+\.woff2)""?\)")]
    private static partial Regex Fonts();

    /// <summary>Carries a request on; where a file is asked for, what comes back is made into one.</summary>
    public async Task InvokeAsync(HttpContext context, BenchState bench, Shop shop)
    {
        if (context.Request.Query["file"] != "html" || Paper().Match(context.Request.Path) is not { Success: true } paper)
        {
            await next(context);
            return;
        }

        var outer = context.Response.Body;
        await using var page = new MemoryStream();
        context.Response.Body = page;
        try
        {
            await next(context);
        }
        finally
        {
            context.Response.Body = outer;
        }

        page.Position = 0;
        if (context.Response.StatusCode != StatusCodes.Status200OK)
        {
            await page.CopyToAsync(outer, context.RequestAborted);
            return;
        }

        var number = int.Parse(paper.Groups["job"].ValueSpan, System.Globalization.CultureInfo.InvariantCulture);
        var file = Encoding.UTF8.GetBytes(await MadeAsync(page, number, bench, shop, context.RequestAborted));
        var name = $"job-{number}-{paper.Groups["paper"].Value.Replace('/', '-')}.html";
        context.Response.Headers.ContentDisposition = $"attachment; filename=\"{name}\"";
        context.Response.ContentLength = file.Length;
        await outer.WriteAsync(file, context.RequestAborted);
    }

    private async Task<string> MadeAsync(Stream page, int number, BenchState bench, Shop shop, CancellationToken cancel)
    {
        var document = await new HtmlParser().ParseDocumentAsync(page, cancel);
        foreach (var own in document.QuerySelectorAll("script, link, .no-print, .strip, .skip, dialog, form").ToArray())
            own.Remove();
        foreach (var link in document.QuerySelectorAll("a[href]"))
            link.RemoveAttribute("href");
        var style = document.CreateElement("style");
        style.TextContent = _styles.Value;
        document.Head!.AppendChild(style);
        document.DocumentElement.SetAttribute("data-theme", "light");
        foreach (var image in document.QuerySelectorAll("img[src]"))
        {
            var photo = image.GetAttribute("src")!;
            if (photo == "/logo" && (await shop.RowAsync()).Logo is { } logo)
            {
                image.SetAttribute("src", Data("image/jpeg", logo));
                continue;
            }

            image.SetAttribute(
                "src",
                Guid.TryParse(photo[(photo.LastIndexOf('/') + 1)..], out var id) && await bench.PhotoAsync(number, id, cancel) is { } jpeg
                    ? Data("image/jpeg", jpeg)
                    : "data:,"
            );
        }

        return document.ToHtml();
    }

    private static string Styles(IWebHostEnvironment environment)
    {
        var css = File.ReadAllText(Path.Combine(environment.WebRootPath, "css", "site.css"));
        return Fonts()
            .Replace(
                css,
                m => $"url({Data("font/woff2", File.ReadAllBytes(Path.Combine(environment.WebRootPath, "fonts", m.Groups["font"].Value)))})"
            );
    }

    private static string Data(string type, byte[] bytes) => $"data:{type};base64,{Convert.ToBase64String(bytes)}";
}
