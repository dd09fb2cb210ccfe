using System.Text;
using Kelvet.Core.Jobs;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>Reads a job file into a new job; a broken file changes nothing.</summary>
public sealed class ImportModel(Desk desk, HouseRules house, Visitor visitor, ILogger<ImportModel> log) : FormPage
{
    public void OnGet() { }

    /// <inheritdoc/>
    protected override Task ShowAsync() => Task.CompletedTask;

    /// <summary>Reads the file into a new job.</summary>
    public async Task<IActionResult> OnPostAsync(IFormFile? file)
    {
        if (file is null || file.Length == 0)
            return await RefusedAsync("Choose a file first.", "file");
        if (file.Length > 4L * JobFormat.MostCharacters)
            return await RefusedAsync($"The file has {file.Length} bytes; {JobFormat.MostCharacters} characters are the most.", "file");
        try
        {
            using var reader = new StreamReader(file.OpenReadStream(), new UTF8Encoding(false, true));
            var job = JobFormat.Read(await reader.ReadToEndAsync(HttpContext.RequestAborted));
            var rules = await house.CurrentAsync();
            var under = new DeskRules(visitor.Name, rules.Set, rules.Drain);
            return Redirect($"/jobs/{await desk.OpenAsync(job, Opening.Nothing, under, HttpContext.RequestAborted)}");
        }
        catch (Exception e) when (JobStore.IsUnreadable(e))
        {
            log.LogWarning("Refused a job file of {Bytes} bytes", file.Length);
            return await RefusedAsync(e.Message, "file");
        }
        catch (DecoderFallbackException)
        {
            log.LogWarning("Refused a job file of {Bytes} bytes: not UTF-8", file.Length);
            return await RefusedAsync("It is not UTF-8 text.", "file");
        }
    }
}
