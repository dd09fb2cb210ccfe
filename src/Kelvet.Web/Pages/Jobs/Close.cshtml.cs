using System.Collections.Immutable;
using Kelvet.Core.Jobs;
using Kelvet.Core.Learning;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Core.Records;
using Kelvet.Core.Text;
using Kelvet.Core.Words;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Kelvet.Web.Wording;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>Closes a job with what was found, or reopens it.</summary>
public sealed class CloseModel(
    JobStore store,
    DiagnosisCache readings,
    Visitor visitor,
    Desk desk,
    Shop shop,
    HouseRules house,
    JobSums sums
) : JobPageModel(store, readings, visitor)
{
    private const int MostWords = 400;

    /// <summary>It was taken for nothing in particular.</summary>
    public const string Nothing = "-";

    /// <summary>What was done, as it stands in the form.</summary>
    public string Words { get; private set; } = "";

    /// <summary>Ids of the ticked parts.</summary>
    public IReadOnlyCollection<string> Ticked { get; private set; } = [];

    /// <summary>What it was first taken for, as it stands in the form: a part's id, "-" for nothing in particular, or empty for what
    /// the log spoke for.</summary>
    public string First { get; private set; } = "";

    /// <summary>What the log spoke for after the first start that failed; null where none did.</summary>
    public FirstGuess? ByTheLog => _byTheLog ??= CaseRecord.FirstTakenFor(Reading.Diagnosis);

    private FirstGuess? _byTheLog;

    /// <summary>Who closes it, as it stands in the form.</summary>
    public string By { get; private set; } = "";

    /// <summary>Parts that are ticked and are held: something that may restore them was not tried.</summary>
    public IReadOnlyList<Unit> Held =>
        ReplacementGate.HeldAtClosing(
            Job.Bench,
            Ticked.Where(UnitId.IsValid).Select(f => new UnitId(f)).Where(Job.Bench.Now.Parts.Has),
            Rules.Atlas,
            Rules.Preferences
        );

    /// <summary>Why they are replaced all the same, by id, as it stands in the form.</summary>
    public IReadOnlyDictionary<string, string> Why { get; private set; } = new Dictionary<string, string>();

    /// <summary>What is said of a part, as it stands in the form.</summary>
    public sealed class FateForm
    {
        /// <summary>What becomes of it; null where nothing was chosen.</summary>
        public Fate? Fate { get; set; }

        /// <summary>For how much it is sold.</summary>
        public decimal? Price { get; set; }

        /// <summary>Who agreed.</summary>
        public string? Agreed { get; set; }
    }

    /// <summary>The parts that have to be settled.</summary>
    public ImmutableArray<StrayPart> Strays => _strays ??= Settling.Of(Job.Bench);

    private ImmutableArray<StrayPart>? _strays;

    /// <summary>Parts that are in the machine and not where they came in.</summary>
    public ImmutableArray<(Unit Unit, Place Place)> OutOfPlace =>
        [.. Job.Bench.OutOfPlace().Where(o => Strays.All(s => s.Unit.Id != o.Unit.Id))];

    /// <summary>What is said of each, by its id.</summary>
    public IReadOnlyDictionary<string, FateForm> Becomes { get; private set; } = new Dictionary<string, FateForm>();

    private Func<Unit, decimal> _price = _ => 0;
    private IReadOnlySet<string> _mended = new HashSet<string>();

    /// <summary>What was said of each part before, or what usually becomes of it.</summary>
    private Dictionary<string, FateForm> AsUsual(UnitId[] found) =>
        Strays
            .Select(s => s.Said)
            .OfType<SettledEntry>()
            .Concat(Settling.Usual(Job.Bench, found, Guid.NewGuid, _price))
            .ToDictionary(
                s => s.Unit.Value,
                s => new FateForm
                {
                    Fate = s.Fate == Fate.GivenBack && _mended.Contains(s.Unit.Value) ? Fate.MendedElsewhere : s.Fate,
                    Price = s.Price,
                    Agreed = s.Agreed,
                }
            );

    /// <summary>Ticks what the log speaks for, and says what was done by it, to be changed.</summary>
    public async Task OnGetAsync()
    {
        _price = await sums.PriceAsync(this, HttpContext.RequestAborted);
        _mended = await sums.MendedAsync(this, HttpContext.RequestAborted);
        UnitId[] found = [.. CaseRecord.StandingOut(Reading.Diagnosis, Rules.Preferences)];
        (Ticked, By) = ([.. found.Select(u => u.Value)], Visitor.Name);
        Becomes = AsUsual(found);
        Words = Text.Cut(PlainReport.Of(Reading.Diagnosis, found, Rules.Preferences).DoneInWords, MostWords);
    }

    /// <summary>Closes it.</summary>
    public async Task<IActionResult> OnPostAsync(
        string[]? found,
        string? words,
        string? by,
        string? first,
        Dictionary<string, string>? why,
        Dictionary<string, FateForm>? becomes
    )
    {
        await ReadAsync();
        (Ticked, Words, By, First) = (found ?? [], words?.Trim() ?? "", by?.Trim() ?? "", first ?? "");
        (Why, Becomes) = (why ?? [], becomes ?? []);
        if (Words.Length is 0 or > MostWords)
            return await RefusedAsync($"Say what was done, in 1 to {MostWords} characters.", "words");
        if (By.Length is 0 or > WhoModel.LongestName)
            return await RefusedAsync($"Say who closes the job: a name of 1 to {WhoModel.LongestName} characters.", "by");
        if (Ticked.Any(f => !UnitId.IsValid(f) || !Job.Bench.Now.Parts.Has(new UnitId(f))))
            return await RefusedAsync("One of the ticked parts is not in this job.", "found");
        if (
            First is not ("" or Nothing)
            && (!UnitId.IsValid(First) || Job.Bench.Intake.Parts.Find(new UnitId(First)) is not { Origin: Origin.Customer })
        )
            return await RefusedAsync("What it was first taken for is not among the parts that came in.", "first");
        UnitId[] units = [.. Ticked.Select(f => new UnitId(f))];
        var record = CaseRecord.Of(Reading.Diagnosis, Rules.Preferences, units);
        if (First.Length > 0)
            record = record with
            {
                First =
                    First == Nothing
                        ? new FirstGuess("", "", Said: true)
                        : new FirstGuess(First, Job.Bench.Intake.Parts[new UnitId(First)].Name, Said: true),
            };
        UnitId[] accepted = [.. Reading.Advice.Proofs.Where(p => p.Accepted).Select(p => p.Unit.Id)];
        try
        {
            var rules = (await DeskAsync()) with { By = By, Rules = Rules.Set };
            foreach (var held in Held.Where(u => !string.IsNullOrWhiteSpace(Why.GetValueOrDefault(u.Id.Value))))
                _ = await desk.RecordWordsAsync(
                    Number,
                    new GoAheadEntry(Guid.NewGuid(), held.Id, Why[held.Id.Value]),
                    null,
                    Attachments.None,
                    rules,
                    HttpContext.RequestAborted
                );
            await desk.CloseAsync(
                Number,
                new Data.Closing(Words, units, Experience.Proved(Reading.Diagnosis, units, accepted), record.Write())
                {
                    Broken = Experience.Broken(Reading.Diagnosis, units),
                    Fates = [.. Strays.Select(SaidOf).OfType<SettledEntry>()],
                },
                rules,
                HttpContext.RequestAborted
            );
        }
        catch (Exception e) when (e is ArgumentException or EntryRefusedException)
        {
            return await RefusedAsync(e is ArgumentException wrong ? Forms.Plainly(wrong) : e.Message, "why");
        }

        if (Visitor.Name.Length == 0)
        {
            await shop.AddTechnicianAsync(By);
            Visitor.Remember(By);
        }

        house.Learnt();
        return Redirect($"/jobs/{Number}/report");
    }

    /// <summary>What the form says of a part; null where it says nothing, or what was said before.</summary>
    /// <exception cref="ArgumentException">Something that belongs to it is missing.</exception>
    private SettledEntry? SaidOf(StrayPart part)
    {
        if (Becomes.GetValueOrDefault(part.Unit.Id.Value) is not { Fate: { } fate } said)
            return null;
        var row = FateRow.Row(fate);
        try
        {
            var entry = new SettledEntry(Guid.NewGuid(), part.Unit.Id, fate, row.Priced ? said.Price : null, AgreedTo(row, said));
            var isSame = part.Said is { } before && (before.Fate, before.Price, before.Agreed) == (entry.Fate, entry.Price, entry.Agreed);
            return isSame ? null : entry;
        }
        catch (ArgumentException e)
        {
            throw new EntryRefusedException($"{Job.Bench.Now.Parts.NameOf(part.Unit)}: {Forms.Plainly(e)}");
        }
    }

    /// <summary>Who agreed; of a machine that is the shop's own nobody else has to.</summary>
    private string AgreedTo(FateRow row, FateForm said) =>
        row.Agreed && string.IsNullOrWhiteSpace(said.Agreed) && DropOff.Of(Job.Row).Bought is not null
            ? "the shop's own machine"
            : said.Agreed ?? "";

    /// <summary>Reopens it.</summary>
    public async Task<IActionResult> OnPostReopenAsync()
    {
        await desk.ReopenAsync(Number, HttpContext.RequestAborted);
        house.Learnt();
        return Redirect($"/jobs/{Number}");
    }
}
