namespace Kelvet.Core.Machines;

/// <summary>A memory slot: its name as printed on the board and the memory channel that it hangs on.</summary>
/// <param name="Name">As printed, for example "A2".</param>
/// <param name="Channel">Channel name, for example "A".</param>
public sealed record MemorySlot(string Name, string Channel);

/// <summary>A memory stick.</summary>
public sealed record MemoryStick : Unit
{
    /// <summary>A stick of which only the name is known.</summary>
    public MemoryStick(UnitId id, string name, Origin origin)
        : base(id, UnitKind.MemoryStick, name, origin) { }

    /// <summary>Memory generation, for example "DDR4"; empty when not recorded.</summary>
    public string MemoryType { get; init; } = "";

    private readonly int _sizeGb;

    /// <summary>Capacity in GB, 0 (not recorded) to 1024.</summary>
    public int SizeGb
    {
        get => _sizeGb;
        init =>
            _sizeGb = value is >= 0 and <= 1024
                ? value
                : throw new ArgumentOutOfRangeException(nameof(value), value, "A stick holds 0 (not recorded) to 1024 GB.");
    }

    private readonly string _partNumber = "";

    /// <summary>Maker's part number, at most 40 characters; empty when not recorded.</summary>
    public string PartNumber
    {
        get => _partNumber;
        init => _partNumber = Short(value, 40, "part number");
    }

    private readonly int? _ranks;

    /// <summary>Ranks, 1 to 8; null when not known.</summary>
    public int? Ranks
    {
        get => _ranks;
        init =>
            _ranks = value is null or (>= 1 and <= 8)
                ? value
                : throw new ArgumentOutOfRangeException(nameof(value), value, "A stick has 1 to 8 ranks.");
    }

    /// <summary>Slowest and fastest that a stick may be said to run, megatransfers per second.</summary>
    public const int LeastSpeed = 100;

    /// <summary>See <see cref="LeastSpeed"/>.</summary>
    public const int MostSpeed = 20_000;

    private readonly int? _speed;

    /// <summary>Speed that it runs at without a profile, megatransfers per second, 100 to 20000; null when not known.</summary>
    public int? Speed
    {
        get => _speed;
        init => _speed = Fast(value, "plain speed");
    }

    private readonly int? _profile;

    /// <summary>Speed of its profile, megatransfers per second, 100 to 20000; null when it has none or it is not known.</summary>
    public int? Profile
    {
        get => _profile;
        init => _profile = Fast(value, "profile speed");
    }

    private readonly string _timings = "";

    /// <summary>Timings of the profile, or without one of the plain speed, as "16-18-18-38"; at most 30 characters.</summary>
    public string Timings
    {
        get => _timings;
        init => _timings = Short(value, 30, "timings");
    }

    private readonly string _kit = "";

    /// <summary>Name of the kit that it was bought in, at most 20 characters, the same for all of it; empty when not known.</summary>
    public string Kit
    {
        get => _kit;
        init => _kit = Short(value, 20, "kit");
    }

    private string Short(string value, int most, string what) =>
        value.Length <= most ? value : throw new ArgumentException($"Stick {Id}: its {what} has at most {most} characters.", nameof(value));

    private int? Fast(int? value, string what) =>
        value is null or (>= LeastSpeed and <= MostSpeed)
            ? value
            : throw new ArgumentOutOfRangeException(nameof(value), value, $"Stick {Id}: its {what} is {LeastSpeed} to {MostSpeed} MT/s.");
}
