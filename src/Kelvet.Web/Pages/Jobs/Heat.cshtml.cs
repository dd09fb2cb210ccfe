using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Observed;
using Kelvet.Core.Proving;
using Kelvet.Core.Text;
using Kelvet.Core.Words;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>Readings of a run under load: the rise of a temperature, and what it says of the cooling.</summary>
public sealed class HeatModel(JobStore store, DiagnosisCache readings, Visitor visitor, Desk desk, LiveJobs live)
    : JobPageModel(store, readings, visitor)
{
    private const int MostPasted = 200_000;

    /// <summary>The temperature over time; null before any was sent.</summary>
    public IReadOnlyList<Heat>? Run { get; private set; }

    /// <summary>The fit; null where there are too few readings.</summary>
    public HeatRun? Fit { get; private set; }

    /// <summary>Columns of the readings.</summary>
    public ImmutableArray<string> Columns { get; private set; } = [];

    /// <summary>The column that is looked at; null for the likeliest.</summary>
    public int? Column { get; private set; }

    /// <summary>Temperature at which it holds itself back, °C.</summary>
    public double Limit { get; private set; } = HeatRun.UsualLimit;

    /// <summary>Temperature of the air, °C.</summary>
    public double Air { get; private set; } = 22;

    /// <summary>Draw of the part, W; null where it was not told.</summary>
    public double? Watts { get; private set; }

    /// <summary>Seconds between readings.</summary>
    public double Every { get; private set; } = 1;

    /// <summary>What was pasted, so that it can be read again otherwise.</summary>
    public string Sent { get; private set; } = "";

    /// <summary>What is written into the log.</summary>
    public string Words => Fit is { } fit ? $"{fit.Verdict(Limit).Words()} {fit.Words(Watts, Air)}" : "";

    /// <summary>Reads them.</summary>
    public async Task<IActionResult> OnPostAsync(
        string? readings,
        IFormFile? file,
        int? column,
        double? limit,
        double? air,
        double? watts,
        double? every
    )
    {
        await ReadAsync();
        (Limit, Air, Watts, Every) = (limit ?? HeatRun.UsualLimit, air ?? 22, watts, every ?? 1);
        var text = readings ?? "";
        if (file is { Length: > 0 })
        {
            if (file.Length > RunReadings.MostCharacters)
                return await RefusedAsync(
                    $"The file has {file.Length / 1e6:0.0} MB; {RunReadings.MostCharacters / 1_000_000} MB is the most.",
                    "file"
                );
            using var reader = new StreamReader(file.OpenReadStream());
            text = await reader.ReadToEndAsync(HttpContext.RequestAborted);
        }

        if (text.Length <= MostPasted)
            Sent = text;
        if (Limit is not (>= 40 and <= 130) || Air is not (>= -20 and <= 60) || Watts is <= 0 or > 2000)
            return await RefusedAsync("The limit is 40 to 130 °C, the air -20 to 60 °C, the draw above 0 to 2000 W.", "limit");
        try
        {
            var read = RunReadings.Read(text, Every);
            (Columns, Column) = (read.Columns, column is >= 0 && column < read.Columns.Length ? column : read.LikelyTemperature);
            var heat = read.Of(Column.Value);
            if (heat.Count == 0)
                return await RefusedAsync($"Column \"{read.Columns[Column.Value]}\" holds no reading. Choose another.", "column");
            (Run, Fit) = (heat, HeatRun.Fit(heat, Limit));
            return Page();
        }
        catch (DataFileException e)
        {
            return await RefusedAsync(e.Message, "readings");
        }
    }

    /// <summary>Writes what a run said into the log.</summary>
    public async Task<IActionResult> OnPostRecordAsync(string? words, Guid stepId)
    {
        if (string.IsNullOrWhiteSpace(words) || words.Length > 600)
            return await RefusedAsync("Read the readings first, then put what they say into the log.");
        try
        {
            _ = await desk.RecordWordsAsync(
                Number,
                new NoteEntry(stepId == Guid.Empty ? Guid.NewGuid() : stepId) { Note = $"Run under load. {words.Trim()}" },
                null,
                Attachments.None,
                await DeskAsync(),
                HttpContext.RequestAborted
            );
            live.Tell(Number, "line");
            return Redirect($"/jobs/{Number}/log");
        }
        catch (EntryRefusedException e)
        {
            return await RefusedAsync(e.Message);
        }
    }
}
