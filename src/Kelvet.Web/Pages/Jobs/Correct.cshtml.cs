using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Tables;
using Kelvet.Core.Words;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Kelvet.Web.Shown;
using Kelvet.Web.Wording;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>
/// Mends the log at one line: corrects what it says, strikes it, strikes from it on, or puts a forgotten line in front of
/// it. Nothing that was written goes away; what later lines become is shown before it is recorded.
/// </summary>
public sealed class CorrectModel(JobStore store, DiagnosisCache readings, Visitor visitor, Desk desk)
    : JobPageModel(store, readings, visitor)
{
    /// <summary>What can be done at a line.</summary>
    public enum Mending
    {
        /// <summary>It says something else.</summary>
        Correct,

        /// <summary>It is struck.</summary>
        Strike,

        /// <summary>It and all after it are struck.</summary>
        StrikeOn,

        /// <summary>A forgotten line goes in front of it.</summary>
        Insert,
    }

    /// <summary>What a forgotten line is.</summary>
    public enum Forgotten
    {
        /// <summary>A start.</summary>
        Start,

        /// <summary>Work without a start.</summary>
        Work,

        /// <summary>A look, a test or a reading.</summary>
        Finding,

        /// <summary>Words.</summary>
        Note,
    }

    /// <summary>The form as it was sent, or as the line fills it.</summary>
    public sealed class Sent
    {
        /// <summary>Why it is mended.</summary>
        public string? Reason { get; set; }

        /// <summary>What is done.</summary>
        public Mending? What { get; set; }

        /// <summary>What the forgotten line is.</summary>
        public Forgotten? Kind { get; set; }

        /// <summary>Least stage, 0 to 8.</summary>
        public int? Low { get; set; }

        /// <summary>Highest stage, 0 to 8.</summary>
        public int? High { get; set; }

        /// <summary>Where lights pointed; null for nowhere.</summary>
        public StallDomain? Stall { get; set; }

        /// <summary>What was seen and heard.</summary>
        public Signs? Signs { get; set; }

        /// <summary>Changes that stay, in the text form; empty ones count for nothing.</summary>
        public string?[] Keep { get; set; } = [];

        /// <summary>Changes that are added, in the text form; empty ones count for nothing.</summary>
        public string?[] Add { get; set; } = [];

        /// <summary>A check and the unit that it was made on: "look-plugs supply".</summary>
        public string? Checked { get; set; }

        /// <summary>How the start came about.</summary>
        public StartKind? Start { get; set; }

        /// <summary>What the power button did after the start; null where it was not tried.</summary>
        public ButtonTest? Button { get; set; }

        /// <summary>Which of the things that a look tells apart was found.</summary>
        public string? Sort { get; set; }

        /// <summary>Whether it was found, or ran.</summary>
        public bool? Yes { get; set; }

        /// <summary>Free words.</summary>
        public string? Note { get; set; }

        /// <summary>Lines that are struck with it because they would not be possible any more.</summary>
        public Guid[] Also { get; set; } = [];

        /// <summary>Whether it is only looked at.</summary>
        public bool Preview { get; set; }
    }

    /// <summary>The line.</summary>
    public LogLine Line { get; private set; } = null!;

    /// <summary>What the line says by now; what it said, where it was struck.</summary>
    public Entry Standing => Line.Stands ?? Line.Content;

    /// <summary>The form.</summary>
    [BindProperty]
    public Sent Form { get; set; } = new();

    /// <summary>What the log would become; null before it was asked for.</summary>
    public MendingPreview? Preview { get; private set; }

    /// <summary>The machine as it stood before the line.</summary>
    public Situation Before { get; private set; } = null!;

    /// <summary>Everything that could have been done to the machine before the line, in the trade's words.</summary>
    public IEnumerable<(string Text, string Words)> Possible =>
        Before
            .Parts.All.SelectMany(u => Core.Machines.Possible.For(Before, u.Id))
            .Distinct()
            .Select(c => (MachineFormat.Write(c), Text.Capital(c.Words(Before.Parts))))
            .OrderBy(c => c.Item2, StringComparer.Ordinal);

    /// <summary>Every check that could have been made, in words.</summary>
    public IEnumerable<(string Text, string Words)> Checks =>
        from unit in Before.Parts.All
        from check in Atlas.Standard.Checks
        where check.On == unit.Kind && Before.Now.Has(unit.Id)
        orderby unit.Name
        select ($"{check.Id} {unit.Id}", $"{unit.Name}: {check.Name}");

    /// <summary>What the line changes; empty for lines that change nothing.</summary>
    public ImmutableArray<Change> Changes => Standing is ClaimEntry told ? told.Changes : Standing.Done;

    /// <summary>Whether it can be mended at all.</summary>
    public bool CanBeMended => Line.CanBeMended && !Job.IsClosed;

    /// <summary>Shows the line.</summary>
    public IActionResult OnGet(int line)
    {
        if (!Find(line))
            return NotFound();
        FillFrom(Standing);
        return Page();
    }

    /// <summary>Shows what it would become, or records it.</summary>
    public async Task<IActionResult> OnPostAsync(int line, Guid stepId, IFormFile? capture)
    {
        await ReadAsync();
        if (!Find(line))
            return NotFound();
        try
        {
            var (codes, why) = await CodeSign.ReadAsync(capture);
            if (why is not null)
                throw new EntryRefusedException($"{why} Nothing was corrected: choose another capture, or none.");
            var mending = Mended(stepId == Guid.Empty ? Guid.NewGuid() : stepId, codes);
            if (Form.Preview)
            {
                Preview = Job.Bench.Preview(mending);
                return Page();
            }

            IReadOnlyList<(string, string)> captures = codes is null ? [] : [($"file {Text.Cut(capture!.FileName, 60)}", codes.Write())];
            var answer = await desk.MendAsync(
                Number,
                mending,
                null,
                new Attachments(null, captures),
                await DeskAsync(),
                HttpContext.RequestAborted
            );
            if (answer.Refused is { } refused)
                throw new EntryRefusedException(refused.Words());
            return Redirect($"/jobs/{Number}?said={answer.Job.Bench.Lines.Length}");
        }
        catch (Exception e) when (e is EntryRefusedException or ArgumentException)
        {
            Problem = e is ArgumentException wrong ? $"{Core.Text.Forms.Plainly(wrong)}." : e.Message;
            return Page();
        }
    }

    /// <inheritdoc/>
    protected override async Task ShowAsync()
    {
        await ReadAsync();
        if (int.TryParse(RouteData.Values["line"] as string, out var line))
            Find(line);
    }

    private Entry Mended(Guid id, CodeLog? codes)
    {
        var reason = Form.Reason ?? "";
        return Form.What switch
        {
            Mending.Correct => new StrikeEntry(id, Line.Written.Id, reason, Corrected(Standing, codes)) { Also = [.. Form.Also] },
            Mending.Strike => new StrikeEntry(id, Line.Written.Id, reason) { Also = [.. Form.Also] },
            Mending.StrikeOn => new StrikeEntry(id, Line.Written.Id, reason)
            {
                Also = [.. Job.Bench.Lines.Where(l => l.Position > Line.Position && l.CanBeMended).Select(l => l.Written.Id)],
            },
            Mending.Insert => new InsertEntry(id, Line.Written.Id, Put(id), reason),
            _ => throw new EntryRefusedException(
                "Say what is to be done: correct the line, strike it, strike from it on, or put a forgotten line in front of it."
            ),
        };
    }

    private Entry Corrected(Entry content, CodeLog? codes)
    {
        var note = Form.Note ?? content.Note;
        Entry corrected = content switch
        {
            TrialEntry t => new TrialEntry(Guid.NewGuid(), ChangesSent(), Seen(), Form.Stall is { } pointed ? pointed : null)
            {
                Button = Has(nameof(Form.Button)) ? Form.Button : t.Button,
                Kind = Has(nameof(Form.Start)) ? Form.Start : t.Kind,
                Signs = Heard(t.Signs, Form.Signs, codes),
                Live = t.Live,
                // Another act than was recorded may or may not have been the one proposed.
                Followed = ChangesSent().SequenceEqual(t.Changes) ? t.Followed : null,
            },
            WorkEntry => new WorkEntry(Guid.NewGuid(), ChangesSent()),
            ClaimEntry c => new ClaimEntry(Guid.NewGuid(), ChangesSent(), Seen()) { Times = c.Times, Sure = c.Sure },
            FindingEntry f => Told(Guid.NewGuid(), f.Check, f.Unit, Form.Sort) with
            {
                Passes = f.Passes,
                // What is said not to have been found has counted no errors.
                Errors =
                    Form.Yes == true ? f.Errors
                    : f.Errors is null ? null
                    : 0,
                Addresses = Form.Yes == true ? f.Addresses : "",
                Minutes = f.Minutes,
                Followed = f.Followed,
            },
            ElsewhereEntry e => new ElsewhereEntry(
                Guid.NewGuid(),
                e.Unit,
                Form.Yes ?? throw new EntryRefusedException("Say whether it ran.")
            ),
            NoteEntry => new NoteEntry(Guid.NewGuid()),
            _ => throw new EntryRefusedException("This line can only be struck."),
        };
        return corrected with { Note = note, By = content.By, At = content.At };
    }

    private FindingEntry Told(Guid id, string look, UnitId unit, string? what)
    {
        try
        {
            return Atlas.Standard.Check(look) is { } check
                ? FindingEntry.Of(id, check, unit, Form.Yes, Form.Yes == false ? "" : what)
                : new FindingEntry(id, look, unit, Form.Yes ?? throw new EntryRefusedException("Say whether it was found."));
        }
        catch (ArgumentException e)
        {
            throw new EntryRefusedException($"{Core.Text.Forms.Plainly(e)}.", e);
        }
    }

    private Entry Put(Guid id) =>
        (
            Form.Kind switch
            {
                Forgotten.Start => new TrialEntry(id, ChangesSent(), Seen(), Form.Stall is { } pointed ? pointed : null)
                {
                    Button = Form.Button,
                    Kind = Form.Start,
                    Signs = Heard(Signs.None, Form.Signs, null),
                },
                Forgotten.Work => (Entry)new WorkEntry(id, ChangesSent()),
                Forgotten.Finding => Look(id),
                Forgotten.Note => new NoteEntry(id),
                _ => throw new EntryRefusedException("Say what was forgotten: a start, work, a look or a note."),
            }
        ) with
        {
            Note = Form.Note ?? "",
            By = Visitor.Name,
        };

    private FindingEntry Look(Guid id)
    {
        var words = (Form.Checked ?? "").Split(' ');
        if (words.Length != 2 || Atlas.Standard.Check(words[0]) is null || !UnitId.IsValid(words[1]))
            throw new EntryRefusedException("Choose the look that was made from the list.");
        return Told(id, words[0], new UnitId(words[1]), null);
    }

    private StageRange Seen()
    {
        if (Form.Low is not (>= 0 and <= 8) || Form.High is not (>= 0 and <= 8))
            throw new EntryRefusedException("A stage is 0 to 8.");
        return Form.Low > Form.High
            ? throw new EntryRefusedException("\"At least\" is above \"not beyond\". Turn them round.")
            : new StageRange((BootStage)Form.Low, (BootStage)Form.High);
    }

    private ImmutableArray<Change> ChangesSent()
    {
        var (changes, problem) = PendingChanges.Sent([
            .. Form.Keep.Concat(Form.Add).Where(a => !string.IsNullOrWhiteSpace(a)).Select(a => a!),
        ]);
        return problem is null ? changes : throw new EntryRefusedException(problem);
    }

    private bool Has(string field) => Request.Form.ContainsKey($"Form.{field}");

    /// <summary>
    /// What was noted, with what is corrected of it; a sign that was not sent stays as it was. A capture says which codes came, but a
    /// code that was corrected by hand stays.
    /// </summary>
    private Signs Heard(Signs noted, Signs? sent, CodeLog? capture)
    {
        if (sent is null)
            return capture?.Into(noted, double.MaxValue) ?? noted;
        var heard = SignKinds.All.Where(k => Has($"Signs.{k.Field}")).Aggregate(noted, (signs, kind) => kind.Copy(sent, signs));
        // What was heard counts as far as the ear was sure of it, and what is written by hand in full.
        if (heard.Beeps != noted.Beeps)
            heard = heard with { BeepsSure = 1 };
        // A row of codes ends with the code that stood: another code was not read off it.
        var same = heard.Code == noted.Code;
        if (!same && heard.Codes == noted.Codes)
            heard = heard with { Codes = "" };
        return capture is null ? heard : capture.Into(same ? heard with { Code = "", Codes = "" } : heard, double.MaxValue);
    }

    private void FillFrom(Entry content)
    {
        Form.Note = content.Note;
        Form.Keep = [.. Changes.Select(MachineFormat.Write)];
        switch (content)
        {
            case TrialEntry t:
                (Form.Low, Form.High, Form.Stall, Form.Signs) = ((int)t.Seen.Low, (int)t.Seen.High, t.Stall?.Pointed, t.Signs);
                (Form.Start, Form.Button) = (t.Kind, t.Button);
                break;
            case ClaimEntry c:
                (Form.Low, Form.High) = ((int)c.Seen.Low, (int)c.Seen.High);
                break;
            case FindingEntry f:
                Form.Sort = f.What;
                Form.Yes = f.Found;
                break;
            case ElsewhereEntry e:
                Form.Yes = e.Worked;
                break;
            default:
                break;
        }
    }

    private bool Find(int line)
    {
        if (line < 1 || line > Job.Bench.Lines.Length)
            return false;
        Line = Job.Bench.Lines[line - 1];
        Before = Job.Bench.MachineBefore(Line);
        return true;
    }
}
