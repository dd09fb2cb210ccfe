using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Kelvet.Core.Tables;
using Kelvet.Core.Words;
using Kelvet.Web.Drawing;
using Kelvet.Web.Hosting;
using Kelvet.Web.Shown;
using Kelvet.Web.Wording;

namespace Kelvet.Web.Pages.Bench;

/// <content>What the page shows, made ready from the log, the address and the clock.</content>
public sealed partial class IndexModel
{
    private async Task PrepareAsync()
    {
        Stand();
        Pending = PendingChanges.Read(Bench, Do ?? []);
        Problem = Pending.Problem;
        Ceiling = Ceiling.Of(Pending.After);
        Timers = await bench.TimersAsync(Job.Row.Id, HttpContext.RequestAborted);
        if (A is { } a && B is { } b)
            Comparison = Comparison.Of(Reading.Diagnosis, a, b);
        if (Pending.Changes.Length > 0 && Bench.Trials.Length > 0)
            Foreseen = Planner.Foresee(Shown.Diagnosis, Pending.Changes);
        Points = IsPast || Job.IsClosed ? [] : OnceOver.Of(Bench, Rules.Atlas, PartLook.Order);
        if (Visit && Check is null && Points.FirstOrDefault(p => p.Answer == PointAnswer.Open) is { } first)
            (Check, Checked) = (first.Check.Id, first.Unit.Id.Value);
        Visit = Visit && Check is not null;
        if (
            !IsPast
            && Atlas.Standard.Check(Check ?? "") is { } check
            && UnitId.IsValid(Checked)
            && Bench.Now.Parts.Find(new UnitId(Checked!)) is { } unit
            && unit.Kind == check.On
        )
            OpenCheck = (check, unit);
        Gate = Gate.Of(Bench, Pending, LookNeedsHands, desk.PowerOf(Job, Rules.Drain), NowUtc);
        AllReaders = await signals.ReadersAsync();
        var library = Rules.Atlas.Signals;
        ReaderViews = readers.Shown(Number, library, library.FamilyOf(Pending.After.Board));
        if (
            (A is { } chosen && B is null ? Bench.Trials.FirstOrDefault(t => t.Number == chosen) : Bench.Trials.LastOrDefault()) is
            { } start
        )
            BoardSays = CodeSign.Of(start, Shown.Diagnosis);
        if (Bench.Trials.Length == 0 && !Job.IsClosed)
            Misfits = MisfitFound.In(Bench.Now);
        Picked = UnitId.IsValid(Pick) ? Bench.Now.Parts.Find(new UnitId(Pick!)) : null;
        Step =
            OpenCheck is { } open ? Candidates.Looking(open.Check, open.Unit, Bench.Now, Rules.Atlas)
            : Pending.Changes.Length > 0 || Kind is not null
                ? Candidates.Of(Pending.Changes, Bench.Now, Pending.After, Rules.Atlas) with
                {
                    Kind = Kind,
                }
            : null;
        Plain = PlainAdvice.Of(Shown.Advice, Shown.Diagnosis);
        Course = StartCourse.Of(Bench, Pending.Changes);
        Instruction =
            Job.IsClosed ? new Instruction("Closed.", Job.Row.ClosingWords)
            : IsPast ? new Instruction(Plain.Imperative, $"As it was after {Job.Bench.NameOf(StandAt!.Value)}. {Plain.Reason}")
            : Instruction.Of(Bench, Plain, Gate, Pending, Step, Rules.DrainSeconds);
        Drawing = Draw();
        Asked =
            Job.IsClosed || IsPast
                ? []
                : Drawing.Known!.Under(Pending.Changes.IsEmpty ? Shown.Advice.Next?.Candidate.Changes ?? [] : Pending.Changes);
    }

    /// <summary>The log as far as the line that is stood at.</summary>
    private void Stand()
    {
        (Bench, Shown) = (Job.Bench, Reading);
        if (StandAt is not { } line || line < 0 || line >= Job.Bench.Entries.Length)
            return;
        Bench = Job.Bench.AfterLines(line);
        var diagnosis = BenchDiagnosis.Of(Bench, Rules.Atlas);
        Shown = new Reading(diagnosis, Planner.Advise(diagnosis, Rules.School, Rules.Preferences), Rules);
        (Do, Check, Pick, Kind) = ([], null, null, null);
    }

    private DrawingView Draw()
    {
        var open = !Job.IsClosed && !IsPast;
        var parts = Bench.Now.Parts;
        var hands =
            Step is not null ? Hand.Of(Step, Bench.Now)
            : open && Instruction.IsAdvice && Shown.Advice.Decision.Step is { } next ? Hand.Of(next, Bench.Now)
            : [];
        var pins = Pending.After.Now.Start == StartMethod.HeaderPins;
        var startWith = new Change.StartWith(pins ? StartMethod.CaseSwitch : StartMethod.HeaderPins);
        return new DrawingView
        {
            Drawing = new MachineDrawing(Pending.After, Shown.Diagnosis, Bench.Intake.Received),
            Known = Knowledge.Of(Bench),
            Live = Gate.Power.IsStarted,
            Hands = OpenCheck is not null && Visit ? [] : hands,
            Picked = Picked?.Id,
            Last = Bench.Trials.LastOrDefault()?.Entry,
            Taps = open && OpenCheck is null && Gate.Step == GateStep.RecordStart,
            Points = Visit
                ? DrawingView.OnePerPlace(
                    Points.Select(
                        (p, i) =>
                            (
                                p.Place,
                                i + 1,
                                p.Answer != PointAnswer.Open,
                                OpenCheck is { } o && o.Check == p.Check && o.Unit.Id == p.Unit.Id
                            )
                    )
                )
                : [],
            PartLink = part => LinkOf(part, open),
            OutputLink = output => open && !output.IsShown ? With(new Change.DisplayAt(new OutputRef(Place.Board, output.Name))) : null,
            Clear = open ? With(new Change.ClearCmos(), "Coin cell and CMOS: clear") : null,
            Header = open
                ? With(
                    startWith,
                    $"Front-panel header, started {(pins ? "at the pins" : "by the case switch")}. {Text.Capital(startWith.Words(parts))}"
                )
                : null,
        };

        DrawnLink With(Change change, string words = "") =>
            new(Pending.With(Number, change), words.Length > 0 ? words : Text.Capital(change.Words(parts)), true);
    }

    private DrawnLink? LinkOf(DrawnPart part, bool open)
    {
        if (open && Picked is { } picked && Pending.Drop(picked, part.Place) is { } drop)
            return new DrawnLink(Pending.With(Number, drop), Text.Capital(drop.Words(Bench.Now.Parts)), true);
        if (part.Unit is null)
            return null;
        if (IsPast)
            return new DrawnLink($"/jobs/{Number}/unit/{part.Unit.Id}", "");
        return new DrawnLink(Pending.Picking(Number, part.Unit.Id), "");
    }
}
