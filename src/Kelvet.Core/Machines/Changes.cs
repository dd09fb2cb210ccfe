namespace Kelvet.Core.Machines;

/// <summary>Ways of mending that leave the part in place.</summary>
public enum Remedy
{
    /// <summary>Clean contacts or heavy dust; off and cold.</summary>
    Clean,
    /// <summary>Straighten bent socket pins under magnification.</summary>
    Straighten,
    /// <summary>Clean off and renew the thermal paste, film off.</summary>
    Repaste,
    /// <summary>Write the current firmware.</summary>
    Flash,
    /// <summary>Put front-panel wires or fan plugs on the right pins.</summary>
    Rewire,
    /// <summary>Set a switch or a monitor's input right.</summary>
    Set,
    /// <summary>Run the board on the bench, out of the case.</summary>
    Isolate,
}

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

    /// <summary>Mends something without swapping a part.</summary>
    public sealed record Mend(Remedy Remedy, UnitId Unit) : Change;

    /// <summary>
    /// The change as it is stored and written in job files, which <see cref="TryParse"/> reads: "swap supply spare-supply",
    /// "fit stick-1 memory.A2", "display-at board/DP 1".
    /// </summary>
    public sealed override string ToString() => this switch
    {
        Fit c => $"fit {c.Unit} {c.Place}",
        Remove c => $"remove {c.Unit}",
        Move c => $"move {c.Unit} {c.Place}",
        Swap c => $"swap {c.Out} {c.In}",
        Reseat c => $"reseat {c.Unit}",
        Connect c => $"connect {c.Unit}",
        Bypass c => $"bypass {c.Unit}",
        StartWith { Method: StartMethod.CaseSwitch } => "start-with case-switch",
        StartWith => "start-with header-pins",
        DisplayAt c => $"display-at {c.Output}",
        ClearCmos => "clear-cmos",
        Mend c => $"{Files.DataPart.Dashed(c.Remedy)} {c.Unit}",
        _ => throw new InvalidOperationException(),
    };

    /// <summary>Reads a change; when it cannot, says what was expected.</summary>
    public static bool TryParse(string? text, out Change change, out string expected)
    {
        change = new ClearCmos();
        expected = "";
        var verb = (text ?? "").Trim();
        var rest = "";
        if (verb.IndexOf(' ') is > 0 and var space) (verb, rest) = (verb[..space], verb[(space + 1)..].Trim());
        var words = rest.Split(' ', 2, StringSplitOptions.TrimEntries);
        var first = words[0];
        var second = words.Length > 1 ? words[1] : "";
        Change? read = verb switch
        {
            "clear-cmos" when rest.Length == 0 => change,
            "remove" when UnitId.IsValid(rest) => new Remove(new UnitId(rest)),
            "reseat" when UnitId.IsValid(rest) => new Reseat(new UnitId(rest)),
            "connect" when UnitId.IsValid(rest) => new Connect(new UnitId(rest)),
            "bypass" when UnitId.IsValid(rest) => new Bypass(new UnitId(rest)),
            "swap" when UnitId.IsValid(first) && UnitId.IsValid(second) => new Swap(new UnitId(first), new UnitId(second)),
            "fit" when UnitId.IsValid(first) && Place.TryParse(second, out var place) => new Fit(new UnitId(first), place),
            "move" when UnitId.IsValid(first) && Place.TryParse(second, out var place) => new Move(new UnitId(first), place),
            "start-with" when rest == "case-switch" => new StartWith(StartMethod.CaseSwitch),
            "start-with" when rest == "header-pins" => new StartWith(StartMethod.HeaderPins),
            _ when UnitId.IsValid(rest) && TryRemedy(verb, out var remedy) => new Mend(remedy, new UnitId(rest)),
            "display-at" when OutputRef.TryParse(rest, out var output) => new DisplayAt(output),
            _ => null,
        };
        if (read is not null)
        {
            change = read;
            return true;
        }

        expected = verb switch
        {
            "clear-cmos" => "\"clear-cmos\" alone",
            "remove" or "reseat" or "connect" or "bypass" => $"\"{verb} UNIT\"",
            "swap" => "\"swap UNIT-OUT UNIT-IN\"",
            "fit" or "move" => $"\"{verb} UNIT PLACE\", with a place such as supply, memory.A2 or card.1",
            "start-with" => "\"start-with case-switch\" or \"start-with header-pins\"",
            "display-at" => "\"display-at board/HDMI\" or \"display-at card.1/DP 1\"",
            _ when TryRemedy(verb, out _) => $"\"{verb} UNIT\"",
            _ => "fit, remove, move, swap, reseat, connect, bypass, start-with, display-at, clear-cmos, clean, straighten, repaste, flash, rewire, set or isolate",
        };
        return false;
    }

    private static bool TryRemedy(string verb, out Remedy remedy)
    {
        foreach (var candidate in Enum.GetValues<Remedy>())
        {
            remedy = candidate;
            if (Files.DataPart.Dashed(candidate) == verb) return true;
        }

        remedy = default;
        return false;
    }

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
            Mend { Remedy: Remedy.Isolate } c => $"run {Name(c.Unit)} out of the case",
            Mend { Remedy: Remedy.Straighten } c => $"straighten the socket pins of {Name(c.Unit)}",
            Mend { Remedy: Remedy.Flash } c => $"flash the firmware of {Name(c.Unit)}",
            Mend { Remedy: Remedy.Set } c => $"set {Name(c.Unit)} right",
            Mend c => $"{Files.DataPart.Dashed(c.Remedy)} {Name(c.Unit)}",
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
