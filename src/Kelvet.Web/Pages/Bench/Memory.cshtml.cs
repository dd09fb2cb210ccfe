using System.Text;
using Kelvet.Core.Jobs;
using Kelvet.Core.Listings;
using Kelvet.Core.Machines;
using Kelvet.Core.Text;
using Kelvet.Core.Words;
using Kelvet.Core.Worksheets;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Kelvet.Web.Pages.Jobs;
using Kelvet.Web.Shown;
using Kelvet.Web.Wording;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Bench;

/// <summary>The grid of sticks and slots, what fails only together, the profile's ladder, and the firmware.</summary>
public sealed class MemoryModel(
    JobStore store,
    DiagnosisCache readings,
    Visitor visitor,
    Desk desk,
    LiveJobs live,
    SupportLists lists,
    Shop shop
) : JobPageModel(store, readings, visitor)
{
    /// <summary>A stick by what is known of it.</summary>
    public sealed class StickFacts
    {
        public string? Id { get; set; }

        public string? Name { get; set; }

        public int? Gb { get; set; }

        public string? Type { get; set; }

        public int? Speed { get; set; }

        public int? Profile { get; set; }

        public string? Timings { get; set; }

        public int? Ranks { get; set; }

        public string? PartNumber { get; set; }

        public string? Kit { get; set; }
    }

    /// <summary>What is known of the board, and what the CPU needs of it.</summary>
    public sealed class BoardFacts
    {
        public int? Firmware { get; set; }

        public DateOnly? Date { get; set; }

        public string? Revision { get; set; }

        public SlotLayout? Layout { get; set; }

        public bool FlashesAlone { get; set; }

        public int? Needs { get; set; }
    }

    /// <summary>The grid; null where the machine has no board.</summary>
    public MemoryGrid? Grid { get; private set; }

    /// <summary>Pair by channel; null with fewer than two sticks.</summary>
    public MemoryPairs? Pairs { get; private set; }

    /// <summary>The profile's ladder; null where nothing failed, or no stick has a profile.</summary>
    public ProfileLadder? Ladder { get; private set; }

    /// <summary>How the memory runs by what is fitted; null without a stick.</summary>
    public MemoryRun? Run { get; private set; }

    /// <summary>What the last start told of the memory that it should not have.</summary>
    public string Told { get; private set; } = "";

    /// <summary>Whether the firmware knows the CPU; null without board or CPU.</summary>
    public FirmwareQuestion? Firmware { get; private set; }

    /// <summary>What was read from a listing, in words; empty when nothing was.</summary>
    public string Read { get; private set; } = "";

    /// <summary>The sticks that were taken in with the machine.</summary>
    public List<StickFacts> Sticks { get; private set; } = [];

    /// <summary>The CPU that the machine came in with: what is known of it is corrected here, whatever is fitted now.</summary>
    public Cpu? Received => Job.Bench.Intake.Parts.All.OfType<Cpu>().FirstOrDefault(c => Job.Bench.Intake.Received.Has(c.Id));

    /// <summary>The board that was.</summary>
    public BoardFacts Board { get; private set; } = new();

    /// <summary>Shows it.</summary>
    public Task OnGetAsync() => ShowAsync();

    /// <inheritdoc/>
    protected override async Task ShowAsync()
    {
        await ReadAsync();
        var bench = Job.Bench;
        Grid = MemoryGrid.Of(Reading.Diagnosis);
        Pairs = MemoryPairs.Of(Reading.Diagnosis);
        Ladder = ProfileLadder.Of(bench);
        Run = MemoryRun.Of(bench.Now);
        Told = MemoryWords.Told(bench);
        Firmware = FirmwareQuestion.Of(bench, await lists.CurrentAsync(), Rules.Atlas.Work, (await shop.ShelfAsync()).OfType<Cpu>());
        if (Sticks.Count == 0)
            Sticks = [.. SticksOf(bench.Intake.Parts).Select(FactsOf)];
        if (
            Problem is null
            && bench.Intake.Parts.All.OfType<Motherboard>().FirstOrDefault(b => bench.Intake.Received.Has(b.Id)) is { } board
        )
        {
            Board = new BoardFacts
            {
                Firmware = board.Firmware,
                Date = board.FirmwareDate,
                Revision = board.Revision,
                Layout = board.Layout,
                FlashesAlone = board.FlashesWithoutCpu,
                Needs = Received?.NeedsFirmware,
            };
        }
    }

    /// <summary>The grid as a file for a spreadsheet.</summary>
    public IActionResult OnGetExport()
    {
        if (MemoryGrid.Of(Reading.Diagnosis) is not { } grid)
            return NotFound();
        return File(Encoding.UTF8.GetBytes(grid.Csv()), "text/csv; charset=utf-8", $"memory-{Number}.csv");
    }

    /// <summary>Keeps what is known of sticks, board and CPU: a correction of what was taken in.</summary>
    public async Task<IActionResult> OnPostFactsAsync(List<StickFacts>? sticks, BoardFacts? board, int? lines)
    {
        await ReadAsync();
        (Sticks, Board) = (sticks ?? [], board ?? new());
        if (ModelState.FirstOrDefault(f => f.Value is { Errors.Count: > 0 }) is { Key: { } field })
            return await RefusedAsync($"{field}: that is no number. Correct it and keep it again.", field);
        var intake = Job.Bench.Intake;
        try
        {
            var parts = Parts.Of(intake.Parts.All.Select(u => With(u, intake.Received)));
            _ = await desk.AmendAsync(
                Number,
                new AmendEntry(Guid.NewGuid(), intake with { Parts = parts }, "What is known of memory and firmware."),
                lines,
                await DeskAsync(),
                HttpContext.RequestAborted
            );
            live.Tell(Number, "line");
            return Redirect($"/jobs/{Number}/memory");
        }
        catch (ArgumentException e)
        {
            return await RefusedAsync(Forms.Plainly(e));
        }
        catch (EntryRefusedException e)
        {
            return await RefusedAsync(e.Message);
        }
    }

    /// <summary>Fills the form in from what a tool prints; nothing is kept by that.</summary>
    public async Task<IActionResult> OnPostListingAsync(List<StickFacts>? sticks, BoardFacts? board, string? listing, IFormFile? file)
    {
        await ReadAsync();
        (Sticks, Board) = (sticks ?? [], board ?? new());
        var text = listing ?? "";
        if (file is { Length: > 0 and <= ListingReader.MostCharacters })
        {
            using var reader = new StreamReader(file.OpenReadStream());
            text = await reader.ReadToEndAsync(HttpContext.RequestAborted);
        }

        try
        {
            var read = ListingReader.Read(text);
            ListedStick[] told = [.. read.Memory.Where(m => m.Gb is not 0)];
            if (told.Length == 0)
                return await RefusedAsync(
                    "No stick is told of in it. Paste all that decode-dimms, dmidecode -t 17 or lshw prints.",
                    "listing"
                );
            foreach (var (facts, of) in Sticks.Zip(Matched(told)))
                Fill(facts, of);
            Read =
                $"{Math.Min(told.Length, Sticks.Count)} of {told.Length} sticks filled in from {string.Join(", ", read.Tools)}. "
                + "Look them over, then keep them.";
            await ShowAsync();
            return Page();
        }
        catch (DataFileException e)
        {
            return await RefusedAsync(e.Message, "listing");
        }
    }

    /// <summary>What was told of each stick of the form: by its slot, by its serial, else in order.</summary>
    private IEnumerable<ListedStick> Matched(ListedStick[] told)
    {
        var intake = Job.Bench.Intake;
        var left = told.ToList();
        foreach (var facts in Sticks)
        {
            var id = new UnitId(facts.Id!);
            var slot = intake.Received.PlaceOf(id)?.Part ?? "none";
            var serial = intake.Parts.Find(id)?.Serial ?? "";
            var of =
                left.FirstOrDefault(t => serial.Length > 0 && t.Serial.Equals(serial, StringComparison.OrdinalIgnoreCase))
                ?? left.FirstOrDefault(t => Bare(t.Slot).EndsWith(Bare(slot), StringComparison.OrdinalIgnoreCase))
                ?? left.FirstOrDefault();
            if (of is null)
                yield break;
            left.Remove(of);
            yield return of;
        }
    }

    /// <summary>A slot's name by its letters and digits: the tool writes "DIMM_A2", the job "DIMM-A2" or "A2".</summary>
    private static string Bare(string slot) => string.Concat(slot.Where(char.IsLetterOrDigit));

    private static void Fill(StickFacts facts, ListedStick told)
    {
        facts.Gb = told.Gb ?? facts.Gb;
        facts.Type = told.Type.Length > 0 ? told.Type : facts.Type;
        facts.Ranks = told.Ranks ?? facts.Ranks;
        facts.PartNumber = told.PartNumber.Length > 0 ? Text.Cut(told.PartNumber, 40) : facts.PartNumber;
        facts.Speed = told.Speed ?? facts.Speed;
        // What runs faster than its plain speed runs by a profile.
        facts.Profile = told.Runs > told.Speed ? told.Runs : facts.Profile;
    }

    private Unit With(Unit unit, Configuration received)
    {
        switch (unit)
        {
            case MemoryStick stick when Sticks.FirstOrDefault(s => s.Id == stick.Id.Value) is { } told:
                return stick with
                {
                    // Who tells of a stick has it in hand.
                    Guessed = [.. stick.Guessed.Where(g => g != PartFact.Presence)],
                    SizeGb = told.Gb ?? 0,
                    MemoryType = told.Type?.Trim() ?? "",
                    Speed = told.Speed,
                    Profile = told.Profile,
                    Timings = told.Timings?.Trim() ?? "",
                    Ranks = told.Ranks,
                    PartNumber = told.PartNumber?.Trim() ?? "",
                    Kit = told.Kit?.Trim() ?? "",
                };
            case Motherboard board when received.Has(board.Id):
                return board with
                {
                    Firmware = Board.Firmware,
                    FirmwareDate = Board.Date,
                    Revision = Board.Revision?.Trim() ?? "",
                    Layout = Board.Layout,
                    FlashesWithoutCpu = Board.FlashesAlone,
                };
            case Cpu cpu when received.Has(cpu.Id):
                return cpu with { NeedsFirmware = Board.Needs };
            default:
                return unit;
        }
    }

    private static IEnumerable<MemoryStick> SticksOf(Parts parts) =>
        parts.All.OfType<MemoryStick>().OrderBy(s => s.Origin).ThenBy(s => s.Id);

    private static StickFacts FactsOf(MemoryStick stick) =>
        new()
        {
            Id = stick.Id.Value,
            Name = stick.Name,
            Gb = stick.SizeGb > 0 ? stick.SizeGb : null,
            Type = stick.MemoryType,
            Speed = stick.Speed,
            Profile = stick.Profile,
            Timings = stick.Timings,
            Ranks = stick.Ranks,
            PartNumber = stick.PartNumber,
            Kit = stick.Kit,
        };

    /// <summary>Where a cell is taken as the next step; null where it cannot be.</summary>
    public string? Take(GridCell cell) => Job.IsClosed || cell.Bar != CellBar.None ? null : PendingChanges.Address(Number, cell.Changes);

    /// <summary>The same of a pair.</summary>
    public string? Take(PairCell cell) =>
        Job.IsClosed || cell.Bar != CellBar.None || cell.Changes.Length == 0 ? null : PendingChanges.Address(Number, cell.Changes);

    /// <summary>Where a pair is, in words.</summary>
    public static string Where(PairCell cell) => cell.Channel.Length > 0 ? $"both on channel {cell.Channel}" : "one on each channel";

    /// <summary>The class of a pair.</summary>
    public static string ClassOf(PairCell cell) =>
        (cell.Passed, cell.Failed + cell.FailedBeside) switch
        {
            (0, 0) => "untried",
            (_, 0) => "passed",
            (0, _) => "failed",
            _ => "mixed",
        };

    /// <summary>The class of a cell.</summary>
    public static string ClassOf(GridCell cell) =>
        cell.IsUntried ? "untried"
        : cell.Elsewhere > 0 && cell.PassedAlone + cell.PassedBeside == 0 ? "elsewhere"
        : cell.FailedAlone + cell.FailedBeside == 0 ? "passed"
        : cell.PassedAlone + cell.PassedBeside == 0 ? "failed"
        : "mixed";
}
