using System.Globalization;
using System.Text.Json;
using System.Text.RegularExpressions;
using Kelvet.Core.Billing;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Text;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;

namespace Kelvet.Data;

/// <summary>An earlier visit, and by what it was found.</summary>
/// <param name="Number">The job.</param>
/// <param name="Title">Its title.</param>
/// <param name="OpenedAtUtc">When it was opened.</param>
/// <param name="Ended">With what it was closed; empty while it is open.</param>
/// <param name="By">By what it was found: the same machine, a serial, the customer.</param>
public sealed record EarlierVisit(int Number, string Title, DateTime OpenedAtUtc, string Ended, string By);

/// <summary>Customers and their machines: found, kept, handed out and erased.</summary>
public sealed partial class CustomerStore(KelvetDb db, JobCache cache, TimeProvider clock, ILogger<CustomerStore> log)
{
    /// <summary>What stands where something was erased.</summary>
    public const string Erased = "[erased]";

    private const int MostFound = 8;

    /// <summary>Customers whose name, phone or e-mail holds each word, best first; none for an empty text.</summary>
    public async Task<IReadOnlyList<CustomerRow>> FindAsync(string? text, CancellationToken cancel = default)
    {
        var query = db.Customers.AsNoTracking();
        var words = WordsOf(text);
        if (words.Length == 0)
            return [];
        foreach (var word in words)
        {
            var like = LikeOf(word);
            query = query.Where(c => EF.Functions.Like(c.Search, like, "\\"));
        }

        return await query.OrderBy(c => c.Name).Take(MostFound).ToListAsync(cancel);
    }

    /// <summary>A customer; null where there is none.</summary>
    public Task<CustomerRow?> GetAsync(int id, CancellationToken cancel = default) =>
        db.Customers.AsNoTracking().FirstOrDefaultAsync(c => c.Id == id, cancel);

    /// <summary>A page of all customers by name, and how many there are.</summary>
    public async Task<(IReadOnlyList<CustomerRow> Rows, int Total)> ListAsync(
        string? text,
        int page,
        int size,
        CancellationToken cancel = default
    )
    {
        var query = db.Customers.AsNoTracking();
        foreach (var word in WordsOf(text))
        {
            var like = LikeOf(word);
            query = query.Where(c => EF.Functions.Like(c.Search, like, "\\"));
        }

        return (
            await query.OrderBy(c => c.Name).ThenBy(c => c.Id).Skip((page - 1) * size).Take(size).ToListAsync(cancel),
            await query.CountAsync(cancel)
        );
    }

    /// <summary>Machines of a customer, the last changed first.</summary>
    public async Task<IReadOnlyList<MachineRow>> MachinesAsync(int customer, CancellationToken cancel = default) =>
        await db.Machines.AsNoTracking().Where(m => m.CustomerId == customer).OrderByDescending(m => m.ChangedUtc).ToListAsync(cancel);

    /// <summary>The last job of each machine, by its row.</summary>
    public async Task<IReadOnlyDictionary<int, int>> LastJobsAsync(IReadOnlyList<MachineRow> machines, CancellationToken cancel = default)
    {
        int?[] ids = [.. machines.Select(m => (int?)m.Id)];
        return await db
            .Jobs.AsNoTracking()
            .Where(j => ids.Contains(j.MachineId))
            .GroupBy(j => j.MachineId)
            .Select(g => new { g.Key, Last = g.Max(j => j.Number) })
            .ToDictionaryAsync(g => g.Key!.Value, g => g.Last, cancel);
    }

    /// <summary>Templates by name.</summary>
    public async Task<IReadOnlyList<MachineRow>> TemplatesAsync(CancellationToken cancel = default) =>
        await db.Machines.AsNoTracking().Where(m => m.IsTemplate).OrderBy(m => m.Name).ToListAsync(cancel);

    /// <summary>Templates and machines that were here, by a part of their name, serial or mark; templates first.</summary>
    public async Task<IReadOnlyList<MachineRow>> MachinesLikeAsync(string text, int most, CancellationToken cancel = default)
    {
        var query = db.Machines.AsNoTracking();
        foreach (var word in WordsOf(text))
        {
            var like = LikeOf(word);
            query = query.Where(m =>
                EF.Functions.Like(m.Name, like, "\\") || EF.Functions.Like(m.Serial, like, "\\") || EF.Functions.Like(m.Mark, like, "\\")
            );
        }

        return await query.OrderByDescending(m => m.IsTemplate).ThenByDescending(m => m.ChangedUtc).Take(most).ToListAsync(cancel);
    }

    /// <summary>A machine or template; null where there is none.</summary>
    public Task<MachineRow?> MachineAsync(int id, CancellationToken cancel = default) =>
        db.Machines.AsNoTracking().FirstOrDefaultAsync(m => m.Id == id, cancel);

    /// <summary>Keeps a customer: one that is there is changed, one of the same name and phone is found again.</summary>
    /// <returns>The id; null where nothing was told.</returns>
    public async Task<int?> KeepAsync(int? id, string name, string phone, string email, string reach, CancellationToken cancel = default)
    {
        if (name.Length == 0 && phone.Length == 0 && email.Length == 0)
            return null;
        var row = id is { } known
            ? await db.Customers.FindAsync([known], cancel)
            : await db.Customers.FirstOrDefaultAsync(c => c.Name == name && (c.Phone == phone || phone == "") && name != "", cancel);
        if (row is null)
            db.Customers.Add(row = new CustomerRow { SinceUtc = Now() });
        (row.Name, row.Phone, row.Email, row.Reach) = (
            Or(name, row.Name),
            Or(phone, row.Phone),
            Or(email, row.Email),
            Or(reach, row.Reach)
        );
        row.Search = Searched(row);
        await db.SaveChangesAsync(cancel);
        return row.Id;

        static string Or(string told, string known) => told.Length > 0 ? told : known;
    }

    /// <summary>The customer of a name; one that is not there yet is kept. Null where no name was told.</summary>
    public async Task<int?> NamedAsync(string name, CancellationToken cancel = default) =>
        name.Length == 0 ? null
        : await db.Customers.FirstOrDefaultAsync(c => c.Name == name, cancel) is { } row ? row.Id
        : await KeepAsync(null, name, "", "", "", cancel);

    /// <summary>What a job is found by, with its customer and machine.</summary>
    public async Task<string> SearchAsync(JobRow row, Intake intake, CancellationToken cancel = default) =>
        SearchOf(
            row,
            intake,
            row.CustomerId is { } c ? await db.Customers.AsNoTracking().FirstOrDefaultAsync(r => r.Id == c, cancel) : null,
            row.MachineId is { } m ? await db.Machines.AsNoTracking().FirstOrDefaultAsync(r => r.Id == m, cancel) : null
        );

    /// <summary>What a page showed of a customer, so that a change that was made meanwhile on another screen is noticed.</summary>
    public static string Shown(CustomerRow row) => string.Join('\n', row.Name, row.Phone, row.Email, row.Reach);

    /// <summary>Changes what is kept of a customer, empty fields included; their jobs show the new name.</summary>
    /// <param name="id">The customer.</param>
    /// <param name="name">Name.</param>
    /// <param name="phone">Phone.</param>
    /// <param name="email">E-mail.</param>
    /// <param name="reach">How and when to reach them.</param>
    /// <param name="shown">What the page had shown (<see cref="Shown"/>); null to change whatever stands there.</param>
    /// <param name="cancel">Stops the work.</param>
    /// <exception cref="EntryRefusedException">It was changed meanwhile on another screen, or they were erased.</exception>
    public async Task ChangeAsync(
        int id,
        string name,
        string phone,
        string email,
        string reach,
        string? shown = null,
        CancellationToken cancel = default
    )
    {
        await using var writing = await db.WriteAsync(cancel);
        db.ChangeTracker.Clear();
        if (await db.Customers.FindAsync([id], cancel) is not { } row)
            throw new EntryRefusedException("This customer is not kept any more: somebody erased them meanwhile.");
        if (shown is not null && Lines(shown) != Shown(row))
            throw new EntryRefusedException(
                "Meanwhile this customer was changed on another screen, to: "
                    + $"{string.Join(", ", Shown(row).Split('\n').Where(t => t.Length > 0))}. "
                    + "What you typed is kept below: look at it and keep it again."
            );
        (row.Name, row.Phone, row.Email, row.Reach) = (name, phone, email, reach);
        row.Search = Searched(row);
        foreach (var job in await db.Jobs.Where(j => j.CustomerId == id).ToListAsync(cancel))
            job.Customer = name;
        await db.SaveChangesAsync(cancel);
        await SearchAgainAsync(id, cancel);
        await writing.CommitAsync(cancel);
        cache.Forget();

        // A browser sends line ends of its own.
        static string Lines(string text) => text.ReplaceLineEndings("\n");
    }

    /// <summary>Keeps a machine as it came in, so that it is taken in again by a click.</summary>
    public async Task<int> KeepMachineAsync(
        int? id,
        int? customer,
        string name,
        string serial,
        string mark,
        Intake intake,
        bool template,
        CancellationToken cancel = default
    )
    {
        var row = id is { } known ? await db.Machines.FindAsync([known], cancel) : null;
        if (row is null || (row.IsTemplate && !template))
            db.Machines.Add(row = new MachineRow { IsTemplate = template });
        row.CustomerId = template ? null : customer ?? row.CustomerId;
        (row.Name, row.Serial, row.Mark) = (name, serial, mark);
        row.IntakeJson = JobFormat.Write(Bare(intake, template));
        row.ChangedUtc = Now();
        await db.SaveChangesAsync(cancel);
        return row.Id;
    }

    /// <summary>A machine with nothing told of it; of a template the serial numbers go as well. What the shop lent it (an outlet, a
    /// monitor of the bench) is not part of it.</summary>
    private static Intake Bare(Intake intake, bool template)
    {
        var own = Parts.Of(
            intake
                .Parts.All.Where(u => u.Origin == Origin.Customer && intake.Received.Has(u.Id))
                .Select(u => template ? u with { Serial = "", FittedByOwner = false } : u)
        );
        return new()
        {
            Title = "-",
            Parts = own,
            Received = intake.Received.Only(own.Has),
        };
    }

    /// <summary>A machine as it was kept. Places that hold what is not among its parts, as older versions kept them, are empty.</summary>
    /// <exception cref="DataFileException">It cannot be read.</exception>
    public static Intake MachineOf(MachineRow row)
    {
        var kept = JobFormat.ReadIntake(row.IntakeJson);
        return kept with { Received = kept.Received.Only(kept.Parts.Has) };
    }

    /// <summary>Earlier visits of a machine, of one with the same serial or mark, and of the customer.</summary>
    public async Task<IReadOnlyList<EarlierVisit>> VisitsAsync(
        int? customer,
        int? machine,
        IEnumerable<string> serials,
        int? but = null,
        CancellationToken cancel = default
    )
    {
        var found = new List<EarlierVisit>();
        if (machine is { } m && !await db.Machines.AnyAsync(r => r.Id == m && r.IsTemplate, cancel))
            await AddAsync(db.Jobs.Where(j => j.MachineId == m), "the same machine");
        foreach (var serial in serials.Where(s => s.Length >= 3).Distinct().Take(12))
        {
            var like = LikeOf(serial.ToLowerInvariant());
            await AddAsync(db.Jobs.Where(j => EF.Functions.Like(j.Search, like, "\\")), $"serial or mark {serial}");
        }

        if (customer is { } c)
            await AddAsync(db.Jobs.Where(j => j.CustomerId == c), "the customer");
        return found;

        async Task AddAsync(IQueryable<JobRow> jobs, string by)
        {
            var rows = await jobs.AsNoTracking().OrderByDescending(j => j.Number).Take(MostFound).ToListAsync(cancel);
            found.AddRange(
                rows.Where(j => j.Number != but && found.All(f => f.Number != j.Number))
                    .Select(j => new EarlierVisit(j.Number, j.Title, j.OpenedAtUtc, j.ClosedAtUtc is null ? "" : j.ClosingWords, by))
            );
        }
    }

    /// <summary>
    /// Kinds of part that failed at least twice at one customer, with how often: parts that die again and again point at the
    /// site (outlet, strip, heat, dust), not at the parts.
    /// </summary>
    public async Task<IReadOnlyList<(string Kind, int Times)>> DyingAgainAsync(int customer, CancellationToken cancel = default) =>
        (await DyingAgainAsync([customer], cancel)).GetValueOrDefault(customer) ?? [];

    /// <summary>The same for some customers; those at whom nothing does are left out.</summary>
    public async Task<IReadOnlyDictionary<int, IReadOnlyList<(string Kind, int Times)>>> DyingAgainAsync(
        IReadOnlyCollection<int> at,
        CancellationToken cancel = default
    )
    {
        var found = await db
            .Jobs.AsNoTracking()
            .Where(j => j.CustomerId != null && at.Contains(j.CustomerId.Value) && j.FoundKinds != "")
            .Select(j => new { j.CustomerId, j.FoundKinds })
            .ToListAsync(cancel);
        return found
            .GroupBy(f => f.CustomerId!.Value)
            .Select(g => (g.Key, Again: Again(g.SelectMany(f => f.FoundKinds.Split(' ')))))
            .Where(g => g.Again.Count > 0)
            .ToDictionary(g => g.Key, g => g.Again);

        static IReadOnlyList<(string, int)> Again(IEnumerable<string> kinds) =>
            [
                .. kinds
                    .Where(k => Dashed.TryRead<UnitKind>(k, out _))
                    .GroupBy(k => k)
                    .Where(g => g.Count() > 1)
                    .Select(g => (Dashed.TryRead<UnitKind>(g.Key, out var kind) ? kind.Words() : g.Key, g.Count())),
            ];
    }

    /// <summary>Kinds of the customer's parts among those that were found at fault, as they are kept.</summary>
    public static string KindsOf(Parts parts, IEnumerable<UnitId> found) =>
        string.Join(' ', found.Select(parts.Find).OfType<Unit>().Select(u => Dashed.Of(u.Kind)));

    /// <summary>Everything personal that is kept of a customer, as JSON; null where there is no such customer.</summary>
    public async Task<string?> ExportAsync(int id, CancellationToken cancel = default)
    {
        if (await GetAsync(id, cancel) is not { } row)
            return null;
        var jobs = await db.Jobs.AsNoTracking().Where(j => j.CustomerId == id).OrderBy(j => j.Number).ToListAsync(cancel);
        int[] numbers = [.. jobs.Select(j => j.Number)];
        var invoices = await db.Invoices.AsNoTracking().Where(i => numbers.Contains(i.JobNumber)).ToListAsync(cancel);
        var offers = await db.Offers.AsNoTracking().Where(o => numbers.Contains(o.JobNumber)).ToListAsync(cancel);
        var payments = await db.Payments.AsNoTracking().Where(p => numbers.Contains(p.JobNumber)).ToListAsync(cancel);
        return JsonSerializer.Serialize(
            new
            {
                row.Name,
                row.Phone,
                row.Email,
                row.Reach,
                row.SinceUtc,
                Machines = (await MachinesAsync(id, cancel)).Select(m => new
                {
                    m.Name,
                    m.Serial,
                    m.Mark,
                }),
                Jobs = jobs.Select(j => new
                {
                    j.Number,
                    j.Title,
                    j.OpenedAtUtc,
                    j.ClosedAtUtc,
                    j.ClosingWords,
                    Symptom = Told(j.IntakeJson),
                    Estimates = offers
                        .Where(o => o.JobNumber == j.Number)
                        .Select(o => new
                        {
                            o.AtUtc,
                            Most = o.Read().Most.Total,
                            o.AnsweredUtc,
                            o.Who,
                        }),
                    Invoices = invoices
                        .Where(i => i.JobNumber == j.Number)
                        .Select(i => new
                        {
                            Number = BillingTerms.Read(i.TermsJson).NumberOf(i.Number),
                            i.IssuedUtc,
                            Total = (i.Credits is null ? 1 : -1) * BillFormat.Read(i.BillJson).Total,
                        }),
                    Payments = payments
                        .Where(p => p.JobNumber == j.Number)
                        .Select(p => new
                        {
                            p.Kind,
                            p.Amount,
                            p.How,
                            p.AtUtc,
                        }),
                    DropOff = DropOff.Of(j) with
                    {
                        Sealed = "",
                    },
                }),
            },
            Indented
        );

        static string Told(string intake)
        {
            try
            {
                return JobFormat.ReadIntake(intake).Symptom;
            }
            catch (DataFileException)
            {
                return "";
            }
        }
    }

    private static readonly JsonSerializerOptions Indented = new()
    {
        WriteIndented = true,
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    /// <summary>What a job is found by.</summary>
    public static string SearchOf(JobRow row, Intake intake, CustomerRow? customer, MachineRow? machine) =>
        string.Join(
                ' ',
                new[] { row.Number.ToString(CultureInfo.InvariantCulture), row.Title, row.Customer, intake.Symptom, customer?.Search ?? "" }
                    .Concat(machine is null ? [] : [machine.Name, machine.Serial, machine.Mark])
                    .Concat(intake.Parts.All.SelectMany(u => new[] { u.Name, u.Serial }))
                    .Where(t => t.Length > 0)
                    .Distinct()
            )
            .ToLowerInvariant();

    /// <summary>The words of a search, in lower case.</summary>
    public static string[] WordsOf(string? text) =>
        [.. (text ?? "").ToLowerInvariant().Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries).Take(8)];

    /// <summary>A pattern that finds a word anywhere.</summary>
    public static string LikeOf(string word) => $"%{word.Replace("\\", "\\\\").Replace("%", "\\%").Replace("_", "\\_")}%";

    private async Task SearchAgainAsync(int customer, CancellationToken cancel)
    {
        var row = await GetAsync(customer, cancel);
        foreach (var job in await db.Jobs.Where(j => j.CustomerId == customer).ToListAsync(cancel))
        {
            var machine = job.MachineId is { } id ? await MachineAsync(id, cancel) : null;
            try
            {
                job.Search = SearchOf(job, JobFormat.ReadIntake(job.IntakeJson), row, machine);
            }
            catch (DataFileException e)
            {
                log.LogWarning("Job {Job} is not found by its parts: {Why}", job.Number, e.Message);
            }
        }

        await db.SaveChangesAsync(cancel);
    }

    private static string Searched(CustomerRow row) =>
        $"{row.Name} {row.Email} {row.Phone} {NoDigit().Replace(row.Phone, "")}".ToLowerInvariant();

    private DateTime Now() => clock.GetUtcNow().UtcDateTime;

    [GeneratedRegex("[^0-9]+")]
    private static partial Regex NoDigit();
}
