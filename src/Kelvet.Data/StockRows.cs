using Kelvet.Core.Stock;

namespace Kelvet.Data;

/// <summary>A part of the shelf that is in a job's machine.</summary>
public sealed class ShelfUseRow
{
    public int Id { get; set; }

    public int ShelfId { get; set; }

    public int JobNumber { get; set; }
}

/// <summary>How much a part on the shelf is trusted.</summary>
public enum ShelfCondition
{
    /// <summary>Known good.</summary>
    Good,

    /// <summary>Works, and shows its age.</summary>
    Worn,

    /// <summary>Not trusted: it is not offered until it is proved again.</summary>
    Doubtful,
}

/// <summary>A part on the shop's shelf that any job may borrow.</summary>
public sealed class ShelfRow
{
    public int Id { get; set; }

    /// <summary>The unit in the job format.</summary>
    public string UnitJson { get; set; } = "";

    /// <summary>How many of it there are, 0 to 999.</summary>
    public int Quantity { get; set; } = 1;

    /// <summary>How much it is trusted.</summary>
    public ShelfCondition Condition { get; set; }

    /// <summary>When a machine last passed with it in; null when none has.</summary>
    public DateTime? ProvedUtc { get; set; }

    /// <summary>Why it is trusted less or more than when it was put there; empty where nothing has come up.</summary>
    public string Why { get; set; } = "";

    /// <summary>Whether it is out of use; jobs that had it keep it.</summary>
    public bool Retired { get; set; }

    /// <summary>Where it lies, such as "drawer 3"; empty where it was not said.</summary>
    public string Position { get; set; } = "";

    /// <summary>More are got when as few are left; null where nobody wants to be told.</summary>
    public int? ReorderAt { get; set; }

    public List<PartMoveRow> Moves { get; } = [];
}

/// <summary>Something that happened to a part of the shelf (<see cref="PartMove"/>). Written once, never changed.</summary>
public sealed class PartMoveRow
{
    public int Id { get; set; }

    public int ShelfId { get; set; }

    public MoveKind Kind { get; set; }

    public int Pieces { get; set; }

    public int? JobNumber { get; set; }

    public string By { get; set; } = "";

    public DateTime AtUtc { get; set; }

    public string Note { get; set; } = "";

    /// <summary>The same as the core knows it.</summary>
    public PartMove Read() => new(Kind, Pieces, JobNumber, By, new DateTimeOffset(AtUtc, TimeSpan.Zero), Note);
}

/// <summary>Something that was ordered, or is to be.</summary>
public sealed class OrderRow
{
    public int Id { get; set; }

    /// <summary>Number of the job that waits for it; null where it is for the shelf.</summary>
    public int? JobNumber { get; set; }

    /// <summary>The part in the job format, as it will be known in the job or on the shelf.</summary>
    public string UnitJson { get; set; } = "";

    /// <summary>What it has to match, in words.</summary>
    public string Needs { get; set; } = "";

    /// <summary>Why, as the bench said.</summary>
    public string Why { get; set; } = "";

    /// <summary>From whom.</summary>
    public string Supplier { get; set; } = "";

    /// <summary>Price of one, in hundredths of the shop's money; null where it was not said.</summary>
    public long? Price { get; set; }

    /// <summary>How many, 1 to <see cref="PartMove.MostPieces"/>.</summary>
    public int Pieces { get; set; } = 1;

    /// <summary>When it is expected; null where nobody said.</summary>
    public DateOnly? Expected { get; set; }

    public OrderState State { get; set; }

    public string By { get; set; } = "";

    public DateTime AtUtc { get; set; }

    public DateTime? ArrivedUtc { get; set; }

    /// <summary>Id of the line of its arrival in the job's log: pressed twice it is one line.</summary>
    public Guid ArrivalId { get; set; }

    /// <summary>Id of the part that is sent out to be mended; empty where a part is bought.</summary>
    public string Repairs { get; set; } = "";

    /// <summary>What it came to in the end, in hundredths; null where that is its price.</summary>
    public long? Charged { get; set; }

    /// <summary>What is ordered.</summary>
    public OrderKind Kind => Repairs.Length > 0 ? OrderKind.Repair : OrderKind.Buy;

    /// <summary>What it came to, in the shop's money; null where nobody said.</summary>
    public decimal? CameTo => (Charged ?? Price) / 100m;

    /// <summary>What is wrong with it, where it goes back.</summary>
    public string Wrong { get; set; } = "";
}

/// <summary>Who sells parts to the shop.</summary>
public sealed class SupplierRow
{
    public int Id { get; set; }

    public string Name { get; set; } = "";

    public string Email { get; set; } = "";

    public string Phone { get; set; } = "";

    /// <summary>Days in which they take something back; null where it is not known.</summary>
    public int? ReturnDays { get; set; }
}
