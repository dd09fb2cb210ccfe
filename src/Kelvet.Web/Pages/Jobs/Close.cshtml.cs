using System.Text.Json;
using Kelvet.Core.Jobs;
using Kelvet.Core.Learning;
using Kelvet.Core.Machines;
using Kelvet.Core.Proving;
using Kelvet.Core.Words;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>Closes a job with what was found, or reopens it.</summary>
public sealed class CloseModel(JobStore store, DiagnosisCache readings, Visitor visitor, Desk desk, Shop shop, HouseRules house)
    : JobPageModel(store, readings, visitor)
{
    private const int MostWords = 400;

    /// <summary>What was done, as it stands in the form.</summary>
    public string Words { get; private set; } = "";

    /// <summary>Ids of the ticked parts.</summary>
    public IReadOnlyCollection<string> Found { get; private set; } = [];

    /// <summary>Who closes it, as it stands in the form.</summary>
    public string By { get; private set; } = "";

    /// <summary>Ticks what the log speaks for.</summary>
    public void OnGet() =>
        (Found, By) = (
            [
                .. Reading
                    .Diagnosis.Suspects.Where(s => s.Standing is Standing.Condemned or Standing.ProofOneWay or Standing.PutRight)
                    .Select(s => s.Unit.Id.Value),
            ],
            Visitor.Name
        );

    /// <summary>Closes it.</summary>
    public async Task<IActionResult> OnPostAsync(string[]? found, string? words, string? by)
    {
        await ReadAsync();
        (Found, Words, By) = (found ?? [], words?.Trim() ?? "", by?.Trim() ?? "");
        if (Words.Length is 0 or > MostWords)
            return await RefusedAsync($"Say what was done, in 1 to {MostWords} characters.", "words");
        if (By.Length is 0 or > WhoModel.LongestName)
            return await RefusedAsync($"Say who closes the job: a name of 1 to {WhoModel.LongestName} characters.", "by");
        if (Found.Any(f => !UnitId.IsValid(f) || !Job.Bench.Now.Parts.Has(new UnitId(f))))
            return await RefusedAsync("One of the ticked parts is not in this job.", "found");
        UnitId[] units = [.. Found.Select(f => new UnitId(f))];
        var figures = JsonSerializer.Serialize(CaseRecord.Of(Reading.Diagnosis, units));
        try
        {
            var rules = (await DeskAsync()) with { By = By, Rules = Rules.Set };
            await desk.CloseAsync(
                Number,
                new Closing(Words, units, Experience.Proved(Reading.Diagnosis, units), figures),
                rules,
                HttpContext.RequestAborted
            );
        }
        catch (EntryRefusedException e)
        {
            return await RefusedAsync(e.Message);
        }

        if (Visitor.Name.Length == 0)
        {
            await shop.AddTechnicianAsync(By);
            Visitor.Remember(By);
        }

        house.Learnt();
        return Redirect($"/jobs/{Number}/report");
    }

    /// <summary>Reopens it.</summary>
    public async Task<IActionResult> OnPostReopenAsync()
    {
        await desk.ReopenAsync(Number, HttpContext.RequestAborted);
        house.Learnt();
        return Redirect($"/jobs/{Number}");
    }
}
