using System.Globalization;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Diagnostics;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Kelvet.Web.Pages;

/// <summary>What is shown when a page cannot be.</summary>
[IgnoreAntiforgeryToken]
[ResponseCache(NoStore = true)]
public sealed class ErrorModel : PageModel
{
    /// <summary>Key of the number of the job that a page is about, among the items of a request.</summary>
    public const string Job = "kelvet-job";

    /// <summary>The job whose lines, as they are stored, can be looked at; null where the page is about none.</summary>
    public int? JobNumber =>
        HttpContext.Items[Job] as int?
        ?? (
            HttpContext.Features.Get<IExceptionHandlerPathFeature>()?.RouteValues?["number"] is string number
            && int.TryParse(number, NumberStyles.None, CultureInfo.InvariantCulture, out var job)
                ? job
                : null
        );

    /// <summary>What happened, in a few words.</summary>
    public string Heading { get; private set; } = "";

    /// <summary>What it means and what to do.</summary>
    public string Words { get; private set; } = "";

    /// <summary>The id under which the log file has it.</summary>
    public string Correlation => HttpContext.TraceIdentifier;

    /// <summary>Says what happened.</summary>
    public void OnGet(int? code) => Say(code);

    /// <summary>Says what happened.</summary>
    public void OnPost(int? code) => Say(code);

    private void Say(int? code)
    {
        var why = HttpContext.Items[StoreAnswers.Why] as string;
        (Heading, Words) = code switch
        {
            404 => ("Nothing here", "There is no such job, part or page. Nothing was lost: look for the job in the list."),
            400 => (
                "That form is stale",
                why
                    ?? "The page had been open too long, or was sent from elsewhere. Go back, reload it and send it again; "
                        + "what was recorded before is safe."
            ),
            413 => ("Too large", $"What was sent is larger than {SecurityHeaders.MostBytes / 1_000_000} MB. Nothing was changed."),
            503 => ("Not now", why ?? "The shop's data do not answer. Nothing was recorded."),
            422 => ("This job cannot be read", why ?? "It was written by another version. Nothing was changed."),
            null => (
                "Something broke",
                "The step may not have been recorded: look at the log before you enter it again. Details are in the log file "
                    + "of the data folder, under the id below."
            ),
            _ => ("That did not work", why ?? $"The server answered {code}. Nothing was changed."),
        };
        if (code is null && HttpContext.Response.StatusCode == 200)
            HttpContext.Response.StatusCode = 500;
    }
}
