using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Proving;
using Kelvet.Core.Text;
using Kelvet.Core.Words;
using Kelvet.Data;
using Kelvet.Web.Drawing;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>The once-over with the power off: a sheet made for this machine, one key per point.</summary>
public sealed class OnceOverModel(
    JobStore store,
    DiagnosisCache readings,
    Visitor visitor,
    Desk desk,
    LiveJobs live,
    PhotoRoom photos,
    TimeProvider clock
) : JobPageModel(store, readings, visitor)
{
    /// <summary>The point that is looked at, by its check and unit: "look-plugs.supply"; empty for the first that is open.</summary>
    [BindProperty(SupportsGet = true)]
    public string? At { get; set; }

    /// <summary>The points, in walking order.</summary>
    public ImmutableArray<OncePoint> Points { get; private set; } = [];

    /// <summary>The point that is looked at; null when all are answered.</summary>
    public OncePoint? Point { get; private set; }

    /// <summary>Whether what it finds is put right in place.</summary>
    public Change? Righting { get; private set; }

    /// <summary>What does not fit together, seen without opening anything.</summary>
    public ImmutableArray<MisfitFound> Misfits { get; private set; } = [];

    /// <summary>Supply and lead.</summary>
    public BenchPower Power { get; private set; } = null!;

    /// <summary>When the drain is over; null where it does not drain.</summary>
    public DateTime? DrainedUtc { get; private set; }

    /// <summary>The machine, its points numbered.</summary>
    public DrawingView Drawing { get; private set; } = null!;

    /// <summary>Whether the point's look may be recorded as the power stands.</summary>
    public bool MayLook => Point is null || !Point.Check.HandsIn || Power.IsSafe;

    /// <summary>Shows the sheet.</summary>
    public void OnGet() => Fill();

    /// <inheritdoc/>
    protected override async Task ShowAsync()
    {
        await ReadAsync();
        Fill();
    }

    private void Fill()
    {
        Points = OnceOver.Of(Job.Bench, Rules.Atlas, PartLook.Order);
        Point =
            Points.FirstOrDefault(p => KeyOf(p) == At) ?? (Job.IsClosed ? null : Points.FirstOrDefault(p => p.Answer == PointAnswer.Open));
        Righting = Point is null ? null : OnceOver.Righting(Job.Bench, Rules.Atlas, Point.Check, Point.Unit.Id, "");
        Misfits = Job.IsClosed ? [] : MisfitFound.In(Job.Bench.Now);
        Power = desk.PowerOf(Job, Rules.Drain);
        DrainedUtc = Power.Left is { } left ? clock.GetUtcNow().UtcDateTime + left : null;
        Drawing = new DrawingView
        {
            Drawing = new MachineDrawing(Job.Bench.Now, (BenchDiagnosis?)null, Job.Bench.Intake.Received),
            Known = Knowledge.Of(Job.Bench),
            Points = DrawingView.OnePerPlace(Points.Select((p, i) => (p.Place, i + 1, p.Answer != PointAnswer.Open, p == Point))),
            PartLink = part =>
                Points.FirstOrDefault(p => p.Place == part.Place) is { } point
                    ? new DrawnLink($"/jobs/{Number}/once-over?at={KeyOf(point)}", "")
                    : null,
        };
    }

    /// <summary>A point by its check and unit.</summary>
    public static string KeyOf(OncePoint point) => $"{point.Check.Id}.{point.Unit.Id}";

    /// <summary>Supply off, lead out, start held: the drain begins.</summary>
    public async Task<IActionResult> OnPostOffAsync()
    {
        await desk.TakePowerOffAsync(Number, await DeskAsync(), HttpContext.RequestAborted);
        live.Tell(Number, "bench");
        return Back();
    }

    /// <summary>Says what a point showed.</summary>
    public async Task<IActionResult> OnPostAsync(
        string? check,
        string? unit,
        PointAnswer? answer,
        string? what,
        Guid stepId,
        IFormFile? photo
    )
    {
        if (Atlas.Standard.Check(check ?? "") is not { InVisit: true } look || !UnitId.IsValid(unit))
            return await RefusedAsync("That point is not on the sheet. Open the sheet again.");
        if (answer is not { } said || said == PointAnswer.Open)
            return await RefusedAsync("Say fine, put right, finding, or cannot see.");
        if (!string.IsNullOrEmpty(what) && look.Findings.All(f => f.Id != what))
            return await RefusedAsync("That is not among what this look tells apart. Choose one of its findings.");
        byte[]? jpeg = null;
        if (photo is { Length: > 0 })
        {
            (jpeg, var why) = await photos.ReadAsync(photo, HttpContext.RequestAborted);
            if (why is not null)
                return await RefusedAsync($"{why} The point was not recorded: choose another photo, or none.");
        }

        return await CarryOutAsync(async () =>
            await desk.RecordPointAsync(
                Number,
                look,
                new UnitId(unit!),
                said,
                said is PointAnswer.Finding or PointAnswer.PutRight ? what ?? "" : "",
                stepId == Guid.Empty ? Guid.NewGuid() : stepId,
                new Attachments(jpeg, []),
                await DeskAsync(),
                HttpContext.RequestAborted
            )
        );
    }

    /// <summary>Takes what does not fit together as a finding, put right where that takes no other part.</summary>
    public async Task<IActionResult> OnPostMisfitAsync(string? kind, Guid stepId)
    {
        if (!Dashed.TryRead<Misfit>(kind ?? "", out var misfit))
            return await RefusedAsync("Say what does not fit.");
        return await CarryOutAsync(async () =>
            await desk.TakeMisfitAsync(
                Number,
                misfit,
                stepId == Guid.Empty ? Guid.NewGuid() : stepId,
                await DeskAsync(),
                HttpContext.RequestAborted
            )
        );
    }

    private async Task<IActionResult> CarryOutAsync(Func<Task<DeskAnswer>> command)
    {
        try
        {
            var answer = await command();
            if (answer.Refused is { } refused)
                return await RefusedAsync(refused.Words());
            live.Tell(Number, "line");
            return Back();
        }
        catch (EntryRefusedException e)
        {
            return await RefusedAsync(e.Message);
        }
    }

    private RedirectResult Back() => Redirect($"/jobs/{Number}/once-over");

    /// <summary>What was said of a point.</summary>
    public static string Words(OncePoint point) =>
        point.Answer switch
        {
            PointAnswer.Fine => "fine",
            PointAnswer.PutRight => "put right",
            PointAnswer.Finding => point.Check.Findings.FirstOrDefault(f => f.Id == point.What)?.Name ?? point.Check.Found,
            PointAnswer.CannotSee => "could not be seen",
            _ => "",
        };
}
