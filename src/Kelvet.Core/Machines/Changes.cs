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

    /// <summary>A new coin cell on the board.</summary>
    NewCell,
}

/// <summary>Everything that can be done to a machine between two starts.</summary>
public enum ActKind
{
    /// <summary>A loose unit into an empty place.</summary>
    Fit,

    /// <summary>A unit out, its place left empty.</summary>
    Remove,

    /// <summary>A unit to another empty place.</summary>
    Move,

    /// <summary>One unit out, another in.</summary>
    Swap,

    /// <summary>A unit out and in again.</summary>
    Reseat,

    /// <summary>A cabled unit to its usual place.</summary>
    Connect,

    /// <summary>An extension out of the path.</summary>
    Bypass,

    /// <summary>Another way of starting.</summary>
    StartWith,

    /// <summary>The monitor to another output.</summary>
    DisplayAt,

    /// <summary>The board's settings cleared.</summary>
    ClearCmos,

    /// <summary><see cref="Remedy.Clean"/>.</summary>
    Clean,

    /// <summary><see cref="Remedy.Straighten"/>.</summary>
    Straighten,

    /// <summary><see cref="Remedy.Repaste"/>.</summary>
    Repaste,

    /// <summary><see cref="Remedy.Flash"/>.</summary>
    Flash,

    /// <summary><see cref="Remedy.Rewire"/>.</summary>
    Rewire,

    /// <summary><see cref="Remedy.Set"/>.</summary>
    Set,

    /// <summary><see cref="Remedy.Isolate"/>.</summary>
    Isolate,

    /// <summary><see cref="Remedy.NewCell"/>.</summary>
    NewCell,

    /// <summary>The board back into the case.</summary>
    IntoCase,

    /// <summary>A setting changed.</summary>
    Choose,

    /// <summary>A setting put back.</summary>
    Undo,

    /// <summary>The machine stood up or laid down.</summary>
    Lay,
}

/// <summary>Facts about acts.</summary>
public static class Acts
{
    /// <summary>The act that a remedy is.</summary>
    public static ActKind Of(Remedy remedy) =>
        remedy switch
        {
            Remedy.Clean => ActKind.Clean,
            Remedy.Straighten => ActKind.Straighten,
            Remedy.Repaste => ActKind.Repaste,
            Remedy.Flash => ActKind.Flash,
            Remedy.Rewire => ActKind.Rewire,
            Remedy.Set => ActKind.Set,
            Remedy.Isolate => ActKind.Isolate,
            Remedy.NewCell => ActKind.NewCell,
            _ => throw new ArgumentOutOfRangeException(nameof(remedy), remedy, "No such remedy."),
        };

    /// <summary>The remedy that an act is; null when it is none.</summary>
    public static Remedy? RemedyOf(ActKind act)
    {
        foreach (var remedy in Enum.GetValues<Remedy>())
        {
            if (Of(remedy) == act)
                return remedy;
        }

        return null;
    }
}

/// <summary>One thing that the technician does to the machine between trials.</summary>
public abstract record Change
{
    private protected Change() { }

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

    /// <summary>Puts a board that ran on the bench back into its case.</summary>
    public sealed record IntoCase(UnitId Unit) : Change;

    /// <summary>Changes a setting of the fitted board or of the system that runs on it.</summary>
    public sealed record Choose(MachineOption Option) : Change;

    /// <summary>Puts a setting back that was changed.</summary>
    public sealed record Undo(MachineOption Option) : Change;

    /// <summary>Stands the machine up or lays it down.</summary>
    public sealed record Lay(Posture Posture) : Change;

    /// <summary>What sort of act it is.</summary>
    public ActKind Act =>
        this switch
        {
            Fit => ActKind.Fit,
            Remove => ActKind.Remove,
            Move => ActKind.Move,
            Swap => ActKind.Swap,
            Reseat => ActKind.Reseat,
            Connect => ActKind.Connect,
            Bypass => ActKind.Bypass,
            StartWith => ActKind.StartWith,
            DisplayAt => ActKind.DisplayAt,
            ClearCmos => ActKind.ClearCmos,
            Mend c => Acts.Of(c.Remedy),
            IntoCase => ActKind.IntoCase,
            Choose => ActKind.Choose,
            Undo => ActKind.Undo,
            Lay => ActKind.Lay,
            _ => throw new InvalidOperationException($"No act for {GetType().Name}."),
        };

    /// <summary>The unit that it is done to; null where it is done to no unit alone. Of a swap, the one that comes out.</summary>
    public UnitId? Subject =>
        this switch
        {
            Fit c => c.Unit,
            Remove c => c.Unit,
            Move c => c.Unit,
            Swap c => c.Out,
            Reseat c => c.Unit,
            Connect c => c.Unit,
            Bypass c => c.Unit,
            Mend c => c.Unit,
            IntoCase c => c.Unit,
            _ => null,
        };

    /// <summary>Whether a unit goes into the machine, out of it, or elsewhere in it by this.</summary>
    public bool Moves(UnitId unit) => this is Swap s ? s.Out == unit || s.In == unit : this is Fit or Remove or Move && Subject == unit;

    /// <summary>
    /// Whether hands go into the machine for it, so that it is off and drained first: not for a setting, a cable behind it
    /// or what hangs outside.
    /// </summary>
    /// <param name="parts">The parts of the job, to know what the unit is; one that is not known is taken to be inside.</param>
    public bool HandsIn(Parts parts) =>
        Act is not (ActKind.DisplayAt or ActKind.StartWith or ActKind.Choose or ActKind.Undo or ActKind.Lay)
        && !(Subject is { } id && parts.Find(id) is { } unit && UnitFacts.Of(unit.Kind).Outside);

    /// <summary>The text form of <see cref="MachineFormat"/>.</summary>
    public sealed override string ToString() => MachineFormat.Write(this);
}

/// <summary>A change that cannot be made, with the reason in words for the technician.</summary>
public sealed class ChangeRefusedException : Exception
{
    /// <summary>An exception without words.</summary>
    public ChangeRefusedException() { }

    /// <summary>An exception that says what is wrong and where.</summary>
    public ChangeRefusedException(string message)
        : base(message) { }

    /// <summary>The same, with what caused it.</summary>
    public ChangeRefusedException(string message, Exception inner)
        : base(message, inner) { }
}
