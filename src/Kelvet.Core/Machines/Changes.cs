namespace Kelvet.Core.Machines;

/// <summary>One thing that the technician does to the machine between trials.</summary>
public abstract record Change
{
    private protected Change()
    {
    }

    /// <summary>Puts a loose unit into an empty place.</summary>
    public sealed record Fit(UnitId Unit, Place Place) : Change;

    /// <summary>Takes a unit out and leaves its place empty.</summary>
    public sealed record Remove(UnitId Unit) : Change;

    /// <summary>Moves a fitted unit to another, empty place of the same kind.</summary>
    public sealed record Move(UnitId Unit, Place Place) : Change;

    /// <summary>Takes one unit out and puts another in its place; two fitted units change places.</summary>
    public sealed record Swap(UnitId Out, UnitId In) : Change;

    /// <summary>Takes a unit (or its plugs) out and puts it back in the same place.</summary>
    public sealed record Reseat(UnitId Unit) : Change;

    /// <summary>Plugs a cabled unit (drive, peripheral, extension, cable, monitor, switch) into its usual place.</summary>
    public sealed record Connect(UnitId Unit) : Change;

    /// <summary>Takes an extension out of the path: the cable behind it is plugged in directly.</summary>
    public sealed record Bypass(UnitId Unit) : Change;

    /// <summary>Chooses what starts the machine.</summary>
    public sealed record StartWith(StartMethod Method) : Change;

    /// <summary>Plugs the monitor into another output.</summary>
    public sealed record DisplayAt(OutputRef Output) : Change;

    /// <summary>Clears the firmware settings of the fitted board.</summary>
    public sealed record ClearCmos : Change;

    /// <summary>The change in the trade's words, with the units' names.</summary>
    public string Words(Parts parts)
    {
        string Name(UnitId id) => parts.Find(id)?.Name ?? id.Value;
        return this switch
        {
            Fit c => $"fit {Name(c.Unit)} in {c.Place.Words()}",
            Remove c => $"take out {Name(c.Unit)}",
            Move c => $"move {Name(c.Unit)} to {c.Place.Words()}",
            Swap c => $"swap {Name(c.Out)} for {Name(c.In)}",
            Reseat c => $"reseat {Name(c.Unit)}",
            Connect c => $"connect {Name(c.Unit)}",
            Bypass c => $"bypass {Name(c.Unit)}",
            StartWith { Method: StartMethod.CaseSwitch } => "start with the case switch",
            StartWith => "start at the header pins",
            DisplayAt c => $"monitor on {c.Output.Words()}",
            ClearCmos => "clear CMOS",
            _ => throw new InvalidOperationException(),
        };
    }
}

/// <summary>A change that cannot be made, with the reason in words for the technician.</summary>
public sealed class ChangeRefusedException : Exception
{
    public ChangeRefusedException()
    {
    }

    public ChangeRefusedException(string message)
        : base(message)
    {
    }

    public ChangeRefusedException(string message, Exception inner)
        : base(message, inner)
    {
    }
}
