using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Kelvet.Web.Pages;

/// <summary>What is shown when a page cannot be.</summary>
[IgnoreAntiforgeryToken]
[ResponseCache(NoStore = true)]
public sealed class ErrorModel : PageModel
{
    public string Heading { get; private set; } = "";

    public string Words { get; private set; } = "";

    public void OnGet(int? code) => Say(code);

    public void OnPost(int? code) => Say(code);

    private void Say(int? code)
    {
        (Heading, Words) = code switch
        {
            404 => ("Nothing here", "There is no such job, part or page. Nothing was lost: look for the job in the list."),
            400 => ("That form is stale", "The page had been open too long, or was sent from elsewhere. Go back, reload it and send it again; what was recorded before is safe."),
            413 => ("Too large", "What was sent is larger than 5 MB. Nothing was changed."),
            null => ("Something broke", "The step may not have been recorded: look at the log before you enter it again. Details are in the log file of the data folder."),
            _ => ("That did not work", $"The server answered {code}. Nothing was changed."),
        };
        if (code is null && HttpContext.Response.StatusCode == 200) HttpContext.Response.StatusCode = 500;
    }
}
