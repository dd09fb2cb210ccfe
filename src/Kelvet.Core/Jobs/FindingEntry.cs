using Kelvet.Core.Machines;

namespace Kelvet.Core.Jobs;

/// <summary>A look, a test or a reading, judged: it found what it looks for, or it did not.</summary>
public sealed record FindingEntry : Entry
{
    /// <summary>Most passes of a test program, and most errors that one counts.</summary>
    public const int MostPasses = 1000,
        MostErrors = 1_000_000_000;

    /// <summary>Most minutes that a test runs.</summary>
    public const int MostMinutes = 10_000;

    /// <summary>Most characters of addresses.</summary>
    public const int LongestAddresses = 400;

    /// <summary>A finding.</summary>
    /// <param name="id">Id of the line.</param>
    /// <param name="check">Id of a <see cref="Faults.Check"/> of the atlas.</param>
    /// <param name="unit">The unit that was looked at.</param>
    /// <param name="found">Whether the finding was there.</param>
    public FindingEntry(Guid id, string check, UnitId unit, bool found)
        : base(id) => (Check, Unit, Found) = (check, unit, found);

    /// <inheritdoc/>
    public override LineKind Row => LineKinds.Finding;

    /// <inheritdoc/>
    public override T ReadBy<T>(ILineReader<T> reader) => reader.Finding(this);

    /// <summary>A finding as it is told of a look: what was found says that something was.</summary>
    /// <param name="id">Id of the line.</param>
    /// <param name="check">The look.</param>
    /// <param name="unit">The unit that was looked at.</param>
    /// <param name="found">Whether it was found; null where that was not said.</param>
    /// <param name="what">Which of the things that the look tells apart; empty or null for any.</param>
    /// <exception cref="ArgumentException">The look tells no such thing apart, or nobody said whether it was found.</exception>
    public static FindingEntry Of(Guid id, Faults.Check check, UnitId unit, bool? found, string? what)
    {
        what ??= "";
        if (what.Length > 0 && check.Findings.All(f => f.Id != what))
            throw new ArgumentException("That is not among what this look tells apart. Choose one of its findings.", nameof(what));
        if ((found ?? (what.Length > 0 ? true : null)) is not { } seen)
            throw new ArgumentException("Say whether it was found: yes or no.", nameof(found));
        return new FindingEntry(id, check.Id, unit, seen) { What = seen ? what : "" };
    }

    /// <summary>Id of a <see cref="Faults.Check"/> of the atlas.</summary>
    public string Check { get; }

    /// <summary>The unit that was looked at.</summary>
    public UnitId Unit { get; }

    /// <summary>Whether the finding was there.</summary>
    public bool Found { get; }

    /// <summary>Which of the things that the check tells apart was found, by its id; empty where it was not told, or nothing was
    /// found.</summary>
    public string What
    {
        get;
        init => field = value.Length == 0 || Found ? value : throw new ArgumentException("What was found is told, and nothing was found.");
    } = "";

    /// <summary>Whole passes of a test program, 1 to 1000; null where it is no test program, or was not counted.</summary>
    public int? Passes
    {
        get;
        init =>
            field = value is null or (>= 1 and <= MostPasses)
                ? value
                : throw new ArgumentException($"Whole passes of a test program are 1 to {MostPasses}.");
    }

    /// <summary>Errors that it counted, 0 to 1,000,000,000; null where they were not counted. Any error is a finding.</summary>
    public int? Errors
    {
        get;
        init =>
            field =
                value is < 0 or > MostErrors ? throw new ArgumentException($"Errors are 0 to {MostErrors:N0}.")
                : value > 0 && !Found ? throw new ArgumentException($"It counted {value} errors: that is a finding. Record it as found.")
                : value;
    }

    /// <summary>Addresses of errors as shown, hexadecimal, separated by spaces; at most 400 characters.</summary>
    public string Addresses
    {
        get;
        init =>
            field =
                value.Length > LongestAddresses ? throw new ArgumentException($"Addresses are at most {LongestAddresses} characters.")
                : value.Length > 0 && !Found
                    ? throw new ArgumentException("Addresses of errors are told: that is a finding. Record it as found.")
                : value;
    } = "";

    /// <summary>Rails that were read as numbers; null where none were. Whether something was found follows from them.</summary>
    /// <exception cref="ArgumentException">What is found is not what they say.</exception>
    public Supplies.RailSet? Rails
    {
        get;
        init =>
            field =
                value is null || value.IsOut == Found
                    ? value
                    : throw new ArgumentException(
                        value.IsOut
                            ? "A rail is outside of its limits: that is a finding. Record it as found."
                            : "Every rail is inside of its limits, or too near to tell: that is no finding."
                    );
    }

    /// <summary>Readings of rails as a finding of the look that they belong to.</summary>
    /// <param name="id">Id of the line.</param>
    /// <param name="rails">The readings.</param>
    /// <param name="machine">The machine.</param>
    /// <exception cref="ArgumentException">There is no supply, or no extension that they were read at.</exception>
    public static FindingEntry OfRails(Guid id, Supplies.RailSet rails, Situation machine)
    {
        var (check, place) = rails switch
        {
            { Load: Supplies.RailLoad.None, At: Supplies.RailSpot.ExtensionEnd } => (AtExtension, PlaceKind.Extension),
            { Load: Supplies.RailLoad.None } => (Unloaded, PlaceKind.Supply),
            _ => (Loaded, PlaceKind.Supply),
        };
        if (machine.Now[Place.Of(place)] is not { } unit)
            throw new ArgumentException(
                place == PlaceKind.Supply ? "There is no supply in the machine." : "There is no extension in the machine.",
                nameof(machine)
            );
        return new FindingEntry(id, check, unit, rails.IsOut) { Rails = rails };
    }

    /// <summary>The checks of the atlas that rails are read in.</summary>
    public const string Unloaded = "test-supply",
        AtExtension = "test-supply-at-extension",
        Loaded = "read-rails-loaded";

    /// <summary>Minutes that it ran, 0 to 10000; null where they were not noted.</summary>
    public double? Minutes
    {
        get;
        init =>
            field = value is null or (>= 0 and <= MostMinutes)
                ? value
                : throw new ArgumentException($"A test ran 0 to {MostMinutes:N0} minutes.");
    }
}
