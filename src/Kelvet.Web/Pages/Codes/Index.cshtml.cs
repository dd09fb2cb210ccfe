using System.Collections.Immutable;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Tables;
using Kelvet.Core.Words;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Kelvet.Web.Pages.Codes;

/// <summary>The reference: every table of codes, beeps and lights, and a search over them.</summary>
public sealed class IndexModel(HouseRules house) : PageModel
{
    /// <summary>Most rows that a search shows.</summary>
    public const int Most = 100;

    [BindProperty(SupportsGet = true)]
    public string? Q { get; set; }

    [BindProperty(SupportsGet = true)]
    public SignalKind? Kind { get; set; }

    [BindProperty(SupportsGet = true)]
    public string? Family { get; set; }

    public IEnumerable<SignalTable> Tables { get; private set; } = [];

    public ImmutableArray<(SignalTable Table, SignalRow Row)> Found { get; private set; } = [];

    /// <summary>What the exact answers point at, when they point at more than one thing; empty otherwise.</summary>
    public string Disagreement { get; private set; } = "";

    public async Task OnGetAsync()
    {
        var library = (await house.CurrentAsync()).Atlas.Signals;
        Tables = library.Tables.OrderByDescending(t => t.IsOwn).ThenBy(t => t.Kind).ThenBy(t => t.Name, StringComparer.Ordinal);
        Found = library.Search(Q, Kind, string.IsNullOrEmpty(Family) ? null : Family);
        foreach (var kind in Enum.GetValues<SignalKind>())
        {
            if (SignalText.Of(kind, Q) is not { } signal || (Kind is { } k && k != kind) || !string.IsNullOrEmpty(Family))
                continue;
            var answer = library.Ask(kind, signal, []);
            if (answer.Disagree)
                Disagreement = string.Join(", ", answer.Pointers.Select(p => $"{p.Domain.Words()} {Math.Round(100 * p.Share)} %"));
        }
    }
}
