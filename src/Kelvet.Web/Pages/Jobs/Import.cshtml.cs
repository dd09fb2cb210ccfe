using System.Text;
using Kelvet.Core.Files;
using Kelvet.Core.Jobs;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>Reads a job file into a new job; a broken file changes nothing.</summary>
public sealed class ImportModel(JobStore store, Visitor visitor) : PageModel
{
    public string? Problem { get; private set; }

    public void OnGet()
    {
    }

    public async Task<IActionResult> OnPostAsync(IFormFile? file)
    {
        if (file is null || file.Length == 0)
        {
            Problem = "Choose a file first.";
            return Page();
        }

        try
        {
            using var reader = new StreamReader(file.OpenReadStream(), new UTF8Encoding(false, true));
            var job = JobFormat.Read(await reader.ReadToEndAsync(HttpContext.RequestAborted));
            return Redirect($"/jobs/{await store.OpenAsync(job, visitor.Name, cancel: HttpContext.RequestAborted)}");
        }
        catch (DataFileException e)
        {
            Problem = e.Message;
        }
        catch (DecoderFallbackException)
        {
            Problem = "It is not UTF-8 text.";
        }

        return Page();
    }
}
