using Kelvet.Core.Jobs;

namespace Kelvet.Data;

/// <summary>A job as stored: its intake as it was written down, and whether it is closed. The log is in <see cref="StepRow"/>.</summary>
public sealed class JobRow
{
    public int Id { get; set; }

    /// <summary>The number on the job card, counted from 1001.</summary>
    public int Number { get; set; }

    public string Title { get; set; } = "";

    public string Customer { get; set; } = "";

    /// <summary>The <see cref="CustomerRow"/>; null where nobody is told, or they were erased.</summary>
    public int? CustomerId { get; set; }

    /// <summary>The <see cref="MachineRow"/>; null where it was never kept.</summary>
    public int? MachineId { get; set; }

    /// <summary>What the job is found by, in lower case: customer, title, complaint, parts, serials, marks.</summary>
    public string Search { get; set; } = "";

    /// <summary>What was agreed and left at drop-off, as JSON (<see cref="DropOff"/>).</summary>
    public string DropOffJson { get; set; } = "";

    /// <summary>What it waits for, as was said; what follows from the log is not kept.</summary>
    public JobWait Wait { get; set; }

    /// <summary>For what or whom it waits, in words.</summary>
    public string WaitsFor { get; set; } = "";

    /// <summary>From whom that comes; empty where it was not said.</summary>
    public string WaitsFrom { get; set; } = "";

    /// <summary>Since when it waits; null while it does not.</summary>
    public DateTime? WaitsSinceUtc { get; set; }

    /// <summary>When that is due; null where it was not said.</summary>
    public DateTime? DueUtc { get; set; }

    /// <summary>When the customer was promised it; null where nothing was promised.</summary>
    public DateTime? PromisedUtc { get; set; }

    /// <summary>Who has it on the bench; empty for whoever takes it.</summary>
    public string Holder { get; set; } = "";

    /// <summary>When it went back to the customer; null while it is here.</summary>
    public DateTime? HandedOverUtc { get; set; }

    /// <summary>Whether it was closed with the fault not seen here.</summary>
    public bool NotReproduced { get; set; }

    /// <summary>The intake in the job format; whose machine it is stands beside it.</summary>
    public string IntakeJson { get; set; } = "";

    public DateTime OpenedAtUtc { get; set; }

    public string OpenedBy { get; set; } = "";

    public DateTime? ClosedAtUtc { get; set; }

    public string ClosedBy { get; set; } = "";

    /// <summary>What was done, in the technician's words, at closing.</summary>
    public string ClosingWords { get; set; } = "";

    /// <summary>Ids of the units that were found at fault, separated by spaces; empty when none was.</summary>
    public string FoundUnits { get; set; } = "";

    /// <summary>Kinds of the customer's parts among them, as job files write them, separated by spaces.</summary>
    public string FoundKinds { get; set; } = "";

    /// <summary>Ids of the fault modes that the log had proved when it was closed, separated by spaces.</summary>
    public string ProvedModes { get; set; } = "";

    /// <summary>What the closing added to the shop's counts, as JSON; empty when it added nothing. Reopening takes it off again.</summary>
    public string TaughtJson { get; set; } = "";

    /// <summary>What the closing added to the counts of models, as JSON; empty when it added nothing.</summary>
    public string TaughtModels { get; set; } = "";

    /// <summary>What the owner finds the state of the job by: nothing that can be guessed; empty until it is asked for.</summary>
    public string StateCode { get; set; } = "";

    /// <summary>The figures that it was closed with, as JSON; empty where it was closed by a version that did not keep them.</summary>
    public string ClosedFigures { get; set; } = "";

    /// <summary>Id of the <see cref="RuleSetRow"/> that it was closed by; empty where it was not kept.</summary>
    public string ClosedRules { get; set; } = "";

    /// <summary>What was last recorded about supply and lead.</summary>
    public Power Power { get; set; }

    /// <summary>When that was recorded, to be shown; null before anything was.</summary>
    public DateTime? PowerSinceUtc { get; set; }

    /// <summary>The same by a clock that nobody sets (<see cref="Elapsed"/>); empty where it was recorded without one.</summary>
    public string PowerMoment { get; set; } = "";

    public List<StepRow> Steps { get; } = [];
}

/// <summary>What a job waits for.</summary>
public enum JobWait
{
    /// <summary>Nothing: it is on the bench, or waits to be taken there.</summary>
    None,

    /// <summary>A part.</summary>
    Part,

    /// <summary>The customer.</summary>
    Customer,
}

/// <summary>A customer of the shop.</summary>
public sealed class CustomerRow
{
    public int Id { get; set; }

    public string Name { get; set; } = "";

    public string Phone { get; set; } = "";

    public string Email { get; set; } = "";

    /// <summary>How and when to reach them, in words.</summary>
    public string Reach { get; set; } = "";

    /// <summary>Name, phone and e-mail in lower case, digits of the phone alone: what they are found by.</summary>
    public string Search { get; set; } = "";

    public DateTime SinceUtc { get; set; }
}

/// <summary>A machine that was here, or a template for machines of one sort.</summary>
public sealed class MachineRow
{
    public int Id { get; set; }

    /// <summary>Whose it is; null for a template, or where the owner was erased.</summary>
    public int? CustomerId { get; set; }

    /// <summary>What it is called: maker and model of the whole, or what the customer calls it.</summary>
    public string Name { get; set; } = "";

    /// <summary>Serial number of the case, or of the maker.</summary>
    public string Serial { get; set; } = "";

    /// <summary>Mark that the shop or the office has put on it.</summary>
    public string Mark { get; set; } = "";

    /// <summary>Its parts, as an intake of the job format with nothing told.</summary>
    public string IntakeJson { get; set; } = "";

    /// <summary>Whether others are taken in by it.</summary>
    public bool IsTemplate { get; set; }

    public DateTime ChangedUtc { get; set; }
}

/// <summary>A part of the catalogue.</summary>
public sealed class CatalogueRow
{
    public int Id { get; set; }

    /// <summary>Kind, as job files write it.</summary>
    public string Kind { get; set; } = "";

    public string Name { get; set; } = "";

    /// <summary>The name in upper case, by which a part is told from others of its kind.</summary>
    public string Key { get; set; } = "";

    /// <summary>The part in the job format.</summary>
    public string UnitJson { get; set; } = "";

    /// <summary>Price in hundredths of the shop's money; null when not known.</summary>
    public long? Price { get; set; }
}

/// <summary>
/// What the list of jobs shows of one, as it was worked out from its log: kept so that a list need not read every log. Good
/// for the log and the rules that it was made from, and made anew for others.
/// </summary>
public sealed class CardRow
{
    /// <summary>The job's row.</summary>
    public int JobId { get; set; }

    /// <summary>What it was made from: lines, intake and rules.</summary>
    public string Stamp { get; set; } = "";

    /// <summary>What is shown, JSON.</summary>
    public string Json { get; set; } = "";
}

/// <summary>A countdown that runs at the bench: a drain, a wait for POST, CMOS pins held.</summary>
public sealed class TimerRow
{
    public int Id { get; set; }

    public int JobId { get; set; }

    /// <summary>What it is for, in words.</summary>
    public string Name { get; set; } = "";

    public DateTime StartedAtUtc { get; set; }

    /// <summary>Length, seconds.</summary>
    public int Seconds { get; set; }
}

/// <summary>A photo that belongs to a line of a log, re-encoded without what the camera wrote beside it.</summary>
public sealed class PhotoRow
{
    public Guid Id { get; set; }

    public int JobId { get; set; }

    /// <summary>Id of the line.</summary>
    public Guid StepId { get; set; }

    /// <summary>The picture, JPEG.</summary>
    public byte[] Jpeg { get; set; } = [];

    public DateTime AtUtc { get; set; }
}

/// <summary>The codes of one start as a reader showed them, in the plain text of a capture.</summary>
public sealed class CaptureRow
{
    public int Id { get; set; }

    public int JobId { get; set; }

    /// <summary>Id of the line.</summary>
    public Guid StepId { get; set; }

    /// <summary>Where it came from: names of readers, or of the file.</summary>
    public string Source { get; set; } = "";

    public string Text { get; set; } = "";

    public DateTime AtUtc { get; set; }
}

/// <summary>How a reader of POST codes is connected.</summary>
public enum ReaderKind
{
    Serial,
    Network,
    Simulated,
}

/// <summary>A reader of POST codes that the shop has.</summary>
public sealed class ReaderRow
{
    public int Id { get; set; }

    public string Name { get; set; } = "";

    public ReaderKind Kind { get; set; }

    /// <summary>"/dev/ttyUSB0", "host:port", or the id of a scenario.</summary>
    public string Address { get; set; } = "";

    /// <summary>Bits a second of a serial reader.</summary>
    public int Baud { get; set; } = 115200;

    /// <summary>Number of the job whose machine it is plugged into; null when it lies idle.</summary>
    public int? JobNumber { get; set; }
}

/// <summary>A table of signals that the shop has brought in, as its file.</summary>
public sealed class SignalTableRow
{
    /// <summary>The table's id.</summary>
    public string Id { get; set; } = "";

    public string Text { get; set; } = "";
}

/// <summary>Which tables a maker's boards go by.</summary>
public sealed class MakerRow
{
    public int Id { get; set; }

    /// <summary>How the names of its boards begin.</summary>
    public string Maker { get; set; } = "";

    /// <summary>Ids of tables, separated by spaces.</summary>
    public string Tables { get; set; } = "";
}

/// <summary>One line of a job's log. Never updated or deleted; triggers in the database refuse it.</summary>
public sealed class StepRow
{
    /// <summary>Made by the sender, so that a step sent twice is stored once.</summary>
    public Guid Id { get; set; }

    public int JobId { get; set; }

    /// <summary>1 for the job's first line.</summary>
    public int Number { get; set; }

    /// <summary>The line in the job format.</summary>
    public string Body { get; set; } = "";

    public DateTime AtUtc { get; set; }
}

/// <summary>Someone who works at the bench.</summary>
public sealed class TechnicianRow
{
    public int Id { get; set; }

    public string Name { get; set; } = "";
}

/// <summary>The shop itself; one row.</summary>
public sealed class ShopRow
{
    public int Id { get; set; }

    public string Name { get; set; } = "";

    /// <summary>IANA name of the time zone that times are shown in.</summary>
    public string TimeZone { get; set; } = "Etc/UTC";

    /// <summary>Id of the order of work that is followed.</summary>
    public string School { get; set; } = "advisor";

    /// <summary>Where practitioners differ, as JSON; empty for the usual.</summary>
    public string PreferencesJson { get; set; } = "";

    /// <summary>How long the start button is held to drain a machine, seconds.</summary>
    public int DrainSeconds { get; set; } = 20;

    /// <summary>Jobs closed before this teach nothing any more; null when all do.</summary>
    public DateTime? LearnFromUtc { get; set; }

    /// <summary>A second place for copies; empty where there is none.</summary>
    public string CopyFolder { get; set; } = "";

    /// <summary>Days of which the last copy of each is kept, 1 to 366.</summary>
    public int CopyDays { get; set; } = 7;

    /// <summary>Weeks of which the last copy of each is kept, 0 to 520.</summary>
    public int CopyWeeks { get; set; } = 13;

    /// <summary>The passphrase that copies are encrypted with, sealed; empty where they are not.</summary>
    public string CopySealed { get; set; } = "";

    /// <summary>How it writes its bills, as <see cref="Core.Billing.BillingTerms"/>; empty for the usual.</summary>
    public string BillingJson { get; set; } = "";

    /// <summary>What stands at the head of papers, PNG or JPEG; null where there is nothing.</summary>
    public byte[]? Logo { get; set; }

    /// <summary>Whether owners may look at the state of their job by its code.</summary>
    public bool StatePage { get; set; }

    /// <summary>The shop's support list: which firmware boards need for which CPU, as CSV.</summary>
    public string SupportCsv { get; set; } = "";
}

/// <summary>What lines and closings were read with. Written once, never changed.</summary>
public sealed class RuleSetRow
{
    /// <summary>The id of the <see cref="Core.Learning.RuleSet"/>.</summary>
    public string Id { get; set; } = "";

    /// <summary>Version of the atlas.</summary>
    public string Atlas { get; set; } = "";

    /// <summary>Version of the program.</summary>
    public string Program { get; set; } = "";

    /// <summary>Odds by mode, JSON.</summary>
    public string OddsJson { get; set; } = "";

    /// <summary>The shop's preferences, JSON; empty for the usual.</summary>
    public string PreferencesJson { get; set; } = "";

    /// <summary>When it was first used, UTC.</summary>
    public DateTime SinceUtc { get; set; }
}

/// <summary>What the shop's closed jobs have counted for one mode.</summary>
public sealed class TallyRow
{
    /// <summary>Id of the mode.</summary>
    public string Mode { get; set; } = "";

    /// <summary>Times that it was proved.</summary>
    public int Cases { get; set; }

    /// <summary>Times that it could have been there.</summary>
    public double Exposure { get; set; }
}
