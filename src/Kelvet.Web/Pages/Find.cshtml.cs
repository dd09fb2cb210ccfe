using Kelvet.Core.Faults;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Core.Words;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Kelvet.Web.Shown;
using Kelvet.Web.Wording;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Kelvet.Web.Pages;

/// <summary>One place to find anything from: a place, part or act of the job that is open, a job, customer, part, code or page.</summary>
public sealed class FindModel(
    JobStore jobs,
    CustomerStore customers,
    CatalogueStore catalogue,
    Shop shop,
    HouseRules house,
    DiagnosisCache readings
) : PageModel
{
    private const int MostOfAKind = 6;

    /// <summary>Something found.</summary>
    /// <param name="Name">What it is called.</param>
    /// <param name="What">What is said of it besides; may be empty.</param>
    /// <param name="Address">Where it is.</param>
    public sealed record Found(string Name, string What, string Address)
    {
        /// <summary>The key that leads there without looking for it; null where there is none.</summary>
        public char? Key { get; init; }
    }

    /// <summary>Pages of the shop.</summary>
    private static readonly Found[] s_pages =
    [
        new("Jobs", "all of them", "/"),
        new("New job", "a machine comes in", "/jobs/new") { Key = 'j' },
        new("Counter", "a machine is taken in within a minute", "/jobs/new?counter=true"),
        new("Import a job", "a job file of another shop", "/jobs/import"),
        new("Customers", "and their machines", "/customers"),
        new("Shelf", "parts that any job may borrow", "/shelf"),
        new("Catalogue", "parts by name", "/catalogue"),
        new("Codes, beeps and lights", "the tables", "/codes"),
        new("Hear and watch", "beeps by microphone", "/listen"),
        new("Shop", "rules, prices, readers", "/shop"),
        new("Copies", "of the data", "/copies"),
        new("Help", "what each place is for, and what the words mean", "/help"),
        new("Keys", "what each key does", "/keys") { Key = '?' },
        new("Who are you?", "the name that lines carry", "/who"),
    ];

    /// <summary>What is looked for.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Q { get; set; }

    /// <summary>The job from whose page it is looked for; null where from none.</summary>
    [BindProperty(SupportsGet = true)]
    public int? Job { get; set; }

    /// <summary>What was found, by kind.</summary>
    public IReadOnlyList<(string Kind, IReadOnlyList<Found> Rows)> Groups { get; private set; } = [];

    /// <summary>How much was found.</summary>
    public int Total => Groups.Sum(g => g.Rows.Count);

    /// <summary>The page.</summary>
    public Task OnGetAsync() => FindAsync();

    /// <summary>What is found alone, for the page that asks while it is typed.</summary>
    public async Task<IActionResult> OnGetListAsync()
    {
        await FindAsync();
        return Partial("_Found", this);
    }

    private async Task FindAsync()
    {
        Q = Text.Cut(Q?.Trim() ?? "", 80);
        var words = Q.Split(' ', StringSplitOptions.RemoveEmptyEntries);
        var groups = new List<(string, IReadOnlyList<Found>)>();
        if (Job is { } number && await OfJobAsync(number) is { } own)
            groups.Add(($"In job {number}", Matching(own, words, words.Length == 0 ? own.Count : MostOfAKind * 2)));
        groups.Add(("Jobs", await JobsAsync()));
        if (words.Length > 0)
        {
            groups.Add(("Codes, beeps and lights", await CodesAsync()));
            groups.Add(("Parts", await PartsAsync(words)));
            groups.Add(
                (
                    "Customers",
                    [
                        .. (await customers.FindAsync(Q, HttpContext.RequestAborted)).Select(c => new Found(
                            c.Name,
                            c.Phone,
                            $"/customers/{c.Id}"
                        )),
                    ]
                )
            );
        }

        groups.Add(("Pages", Matching(s_pages, words, s_pages.Length)));
        Groups = [.. groups.Where(g => g.Item2.Count > 0)];
    }

    private static Found[] Matching(IEnumerable<Found> all, string[] words, int most) =>
        [
            .. all.Where(f =>
                    words.All(w =>
                        f.Name.Contains(w, StringComparison.OrdinalIgnoreCase) || f.What.Contains(w, StringComparison.OrdinalIgnoreCase)
                    )
                )
                .OrderByDescending(f => words.Length > 0 && f.Name.StartsWith(words[0], StringComparison.OrdinalIgnoreCase))
                .Take(most),
        ];

    /// <summary>Places, parts and acts of a job; null where there is none, or it cannot be read.</summary>
    private async Task<IReadOnlyList<Found>?> OfJobAsync(int number)
    {
        try
        {
            if (await jobs.FindAsync(number, HttpContext.RequestAborted) is not { } job)
                return null;
            var found = new List<Found>();
            foreach (var place in JobPlace.All)
            {
                found.AddRange(
                    place.ToGoTo.Select(
                        (page, i) =>
                            new Found(page.Name, i == 0 ? place.What : place.Name, JobPlace.AddressOf(number, page))
                            {
                                Key = i == 0 ? place.Key : null,
                            }
                    )
                );
            }

            if (Q is not { Length: > 0 })
                return found;
            var now = job.Bench.Now;
            var reading = readings.Of(job, await readings.RulesAsync(job));
            found.AddRange(
                now.Parts.All.Select(u => new Found(
                    u.Name,
                    $"{u.Kind.Words()}, {(now.Now.PlaceOf(u.Id) is { } at ? at.Words() : "out of the machine")}",
                    $"/jobs/{number}/unit/{u.Id}"
                ))
            );
            if (!job.IsClosed)
                found.AddRange(
                    Candidates
                        .From(reading.Diagnosis)
                        .Where(c => c.Missing is null)
                        .Select(c => new Found(c.Imperative(now), "an act", PendingChanges.AddressOf(number, c)))
                );
            return found;
        }
        catch (Exception e) when (JobStore.IsUnreadable(e))
        {
            return null;
        }
    }

    private async Task<IReadOnlyList<Found>> JobsAsync()
    {
        var shown = Q is { Length: > 0 } ? JobsShown.All : JobsShown.Open;
        var (rows, _) = await jobs.ListAsync(Q, shown, 1, MostOfAKind, HttpContext.RequestAborted);
        return [.. rows.Where(r => r.Number != Job).Select(r => new Found($"{r.Number} {r.Title}", r.Customer, $"/jobs/{r.Number}"))];
    }

    private async Task<IReadOnlyList<Found>> CodesAsync()
    {
        var library = (await house.CurrentAsync()).Atlas.Signals;
        return
        [
            .. library
                .Search(Q)
                .Take(MostOfAKind)
                .Select(f => new Found($"{f.Row.Signal} · {f.Row.Meaning}", f.Table.Name, CodeSign.AddressOf(f.Table, f.Row.Signal))),
        ];
    }

    private async Task<IReadOnlyList<Found>> PartsAsync(string[] words)
    {
        var shelf = (await shop.WholeShelfAsync()).Parts.Select(p => new Found(
            p.Unit.Name,
            $"{p.Unit.Kind.Words()}, on the shelf",
            $"/shelf/{p.Row.Id}"
        ));
        var (known, _) = await catalogue.ListAsync(null, Q, 1, MostOfAKind, HttpContext.RequestAborted);
        return
        [
            .. Matching(shelf, words, MostOfAKind),
            .. known.Select(k => new Found(
                k.Unit.Name,
                $"{k.Unit.Kind.Words()}, catalogue",
                $"/catalogue?q={Uri.EscapeDataString(k.Unit.Name)}"
            )),
        ];
    }
}
