using System.Text;
using Kelvet.Core.Planning;
using Kelvet.Core.Words;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Kelvet.Web.Pages.Jobs;
using Kelvet.Web.Shown;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Bench;

/// <summary>The grid of sticks and slots.</summary>
public sealed class MemoryModel(JobStore store, DiagnosisCache readings, Visitor visitor) : JobPageModel(store, readings, visitor)
{
    /// <summary>The grid; null where the machine has no board.</summary>
    public MemoryGrid? Grid { get; private set; }

    /// <summary>Shows it.</summary>
    public void OnGet() => Grid = MemoryGrid.Of(Reading.Diagnosis);

    /// <summary>The grid as a file for a spreadsheet.</summary>
    public IActionResult OnGetExport()
    {
        if (MemoryGrid.Of(Reading.Diagnosis) is not { } grid)
            return NotFound();
        return File(Encoding.UTF8.GetBytes(grid.Csv()), "text/csv; charset=utf-8", $"memory-{Number}.csv");
    }

    /// <summary>Where a cell is taken as the next step; null where it cannot be.</summary>
    public string? Take(GridCell cell) => Job.IsClosed || cell.Bar != CellBar.None ? null : PendingChanges.Address(Number, cell.Changes);

    /// <summary>The class of a cell.</summary>
    public static string ClassOf(GridCell cell) =>
        cell.IsUntried ? "untried"
        : cell.Elsewhere > 0 && cell.PassedAlone + cell.PassedBeside == 0 ? "elsewhere"
        : cell.FailedAlone + cell.FailedBeside == 0 ? "passed"
        : cell.PassedAlone + cell.PassedBeside == 0 ? "failed"
        : "mixed";
}
