using System.Text;
using Kelvet.Core.Jobs;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>A job's lines as they are stored. Nothing is worked out of them, so that the page stands where the job cannot be read,
/// or a line of it is more than the program can bear.</summary>
public sealed class LinesModel(JobStore store, Desk desk, HouseRules house, Visitor visitor) : FormPage, IFindsItself
{
    /// <summary>The job's number.</summary>
    [BindProperty(SupportsGet = true)]
    public int Number { get; set; }

    /// <summary>What is stored.</summary>
    public StoredLog Log { get; private set; } = null!;

    /// <summary>What a line is, in a word or two; nothing of it is worked out.</summary>
    public static string Kind(StoredLine line) =>
        line.Entry?.GetType().Name.Replace("Entry", "", StringComparison.Ordinal).ToLowerInvariant() ?? "cannot be read";

    /// <inheritdoc/>
    public async Task<IActionResult?> FindAsync(CancellationToken cancel)
    {
        if (await store.AsStoredAsync(Number, cancel) is not { } log)
            return NotFound();
        Log = log;
        return null;
    }

    /// <inheritdoc/>
    protected override async Task ShowAsync() => await FindAsync(HttpContext.RequestAborted);

    /// <summary>Shows them.</summary>
    public void OnGet() { }

    /// <summary>Everything that is stored, as text.</summary>
    public IActionResult OnGetFile()
    {
        var text = new StringBuilder(Log.Row.IntakeJson).Append('\n');
        foreach (var line in Log.Lines)
            text.Append(line.Body).Append('\n');
        return File(Encoding.UTF8.GetBytes(text.ToString()), "text/plain; charset=utf-8", $"job-{Number}-as-stored.txt");
    }

    /// <summary>Strikes a line.</summary>
    public async Task<IActionResult> OnPostAsync(Guid line, string? reason)
    {
        try
        {
            var rules = await house.CurrentAsync();
            var sent = Guid.TryParse(Request.Form[OnceTagHelper.Field], out var id) ? id : Guid.NewGuid();
            await desk.StrikeStoredAsync(
                Number,
                line,
                reason ?? "",
                sent,
                new DeskRules(visitor.Name, rules.Set, rules.Drain),
                HttpContext.RequestAborted
            );
            return Redirect($"/jobs/{Number}/lines");
        }
        catch (EntryRefusedException e)
        {
            return await RefusedAsync(e.Message);
        }
    }
}
