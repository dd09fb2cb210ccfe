namespace Kelvet.Data;

/// <summary>A job as stored: its intake as it was written down, and whether it is closed. The log is in <see cref="StepRow"/>.</summary>
public sealed class JobRow
{
    public int Id { get; set; }

    /// <summary>The number on the job card, counted from 1001.</summary>
    public int Number { get; set; }

    public string Title { get; set; } = "";

    public string Customer { get; set; } = "";

    /// <summary>The intake in the job format.</summary>
    public string IntakeJson { get; set; } = "";

    public DateTime OpenedAtUtc { get; set; }

    public string OpenedBy { get; set; } = "";

    public DateTime? ClosedAtUtc { get; set; }

    public string ClosedBy { get; set; } = "";

    /// <summary>What was done, in the technician's words, at closing.</summary>
    public string ClosingWords { get; set; } = "";

    /// <summary>Ids of the units that were found at fault, separated by spaces; empty when none was.</summary>
    public string FoundUnits { get; set; } = "";

    public List<StepRow> Steps { get; } = [];
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

/// <summary>A known-good part on the shop's shelf that any job may borrow.</summary>
public sealed class ShelfRow
{
    public int Id { get; set; }

    /// <summary>The unit in the job format.</summary>
    public string UnitJson { get; set; } = "";
}

/// <summary>The shop itself; one row.</summary>
public sealed class ShopRow
{
    public int Id { get; set; }

    public string Name { get; set; } = "";

    /// <summary>IANA name of the time zone that times are shown in.</summary>
    public string TimeZone { get; set; } = "Etc/UTC";
}
