namespace Kelvet.Core.Observed;

/// <summary>What the power button did after a wait of 30 to 60 seconds: one press.</summary>
public enum ButtonTest
{
    /// <summary>An orderly stop within a few seconds: the machine had booted, picture or not.</summary>
    Orderly,

    /// <summary>Nothing, or only after holding it: POST had not completed.</summary>
    NoResponse,
}

/// <summary>What ends the use of a supply: it is not powered again.</summary>
public enum Alarm
{
    /// <summary>It smelt burnt.</summary>
    Smell,

    /// <summary>It smoked, sparked or crackled.</summary>
    Burnt,

    /// <summary>It tripped the breaker.</summary>
    TrippedBreaker,
}

/// <summary>What the fans did at the start.</summary>
public enum FanBehaviour
{
    /// <summary>No fan turns.</summary>
    Still,

    /// <summary>They jerk and stand.</summary>
    Twitch,

    /// <summary>They run as always.</summary>
    Run,

    /// <summary>They run, and stop again.</summary>
    RunThenStop,

    /// <summary>They run at full speed and stay there.</summary>
    FullSpeed,
}

/// <summary>What a code display did at the end.</summary>
public enum CodeMotion
{
    /// <summary>It stood.</summary>
    Stuck,

    /// <summary>It still changed when it was read.</summary>
    Passing,

    /// <summary>The same codes came round again and again.</summary>
    Cycling,
}

/// <summary>How a fault shows itself in a machine that comes up all the same.</summary>
public enum Symptom
{
    /// <summary>Less memory is seen than is fitted.</summary>
    MissingMemory,

    /// <summary>Stripes, blocks or wrong colours.</summary>
    Artefacts,
}

/// <summary>Since when a picture shows stripes, blocks or wrong colours.</summary>
public enum Artefacts
{
    /// <summary>From the logo on.</summary>
    FromTheLogo,

    /// <summary>Once the system runs.</summary>
    InTheSystem,
}

/// <summary>What a machine that had come up did when it ended.</summary>
public enum Ending
{
    /// <summary>It stood still and answered nothing.</summary>
    Froze,

    /// <summary>It restarted by itself.</summary>
    Restarted,

    /// <summary>It went off.</summary>
    Off,

    /// <summary>The system stopped with an error screen.</summary>
    StopError,

    /// <summary>The screen went dark while it ran on.</summary>
    DarkScreen,
}

/// <summary>What stands on the screen, by what it is about.</summary>
public enum ScreenText
{
    /// <summary>No drive to start from.</summary>
    NoDrive,

    /// <summary>Settings were lost, a checksum is wrong.</summary>
    SettingsLost,

    /// <summary>A memory error, or memory that changed.</summary>
    Memory,

    /// <summary>A fan that does not turn.</summary>
    Fan,

    /// <summary>Too hot.</summary>
    TooHot,

    /// <summary>A card without its power, or no card where one is expected.</summary>
    CardPower,

    /// <summary>A setting or a speed that did not work.</summary>
    BadSetting,
}

/// <summary>What a drive sounds like.</summary>
public enum DriveNoise
{
    /// <summary>It ticks softly: heads that seek, or search for what they cannot read.</summary>
    Ticking,

    /// <summary>It clicks loudly: heads that are thrown back.</summary>
    Clicking,
}

/// <summary>How warm something is to the hand.</summary>
public enum Warmth
{
    /// <summary>As cold as the room.</summary>
    Cold,

    /// <summary>Warm.</summary>
    Warm,

    /// <summary>Too hot to hold.</summary>
    Hot,
}

/// <summary>What a machine sounds like.</summary>
public enum Noise
{
    /// <summary>A fan or pump that grinds or rattles.</summary>
    Grinding,

    /// <summary>Clicks, again and again.</summary>
    Clicking,

    /// <summary>A high whine.</summary>
    Whine,
}

/// <summary>
/// What was seen and heard of a start besides how far it got; what each can be is told by its row in <see cref="SignKinds"/>. Code,
/// beeps and lights are weighed by the tables of signals, the others by the atlas.
/// </summary>
/// <remarks>A value that cannot be is refused with an <see cref="ArgumentException"/>, wherever it comes from.</remarks>
public sealed record Signs
{
    /// <summary>By the rows' index; null for what was not noted. Never changed once it is set.</summary>
    internal object?[] Values { get; private init; } = new object?[SignKinds.All.Length];

    /// <summary>Nothing noted.</summary>
    public static Signs None { get; } = new();

    /// <summary>The two-digit code that stood last, as shown; empty when there was none.</summary>
    public string Code
    {
        get => Words(SignKinds.Code);
        init => Values = Put(SignKinds.Code, value);
    }

    /// <summary>Whether it stood, was still changing, or came round again and again.</summary>
    public CodeMotion Motion
    {
        get => At(SignKinds.Motion) ?? CodeMotion.Stuck;
        init => Values = Put(SignKinds.Motion, value);
    }

    /// <summary>Codes in the order in which they came, separated by spaces; empty when only the last was noted.</summary>
    public string Codes
    {
        get => Words(SignKinds.Codes);
        init => Values = Put(SignKinds.Codes, value);
    }

    /// <summary>Indicators in the order in which they lit (<see cref="LightSequence"/>), or blinks ("3 amber 2 white").</summary>
    public string Lights
    {
        get => Words(SignKinds.Lights);
        init => Values = Put(SignKinds.Lights, value);
    }

    /// <summary>Beeps as the technician writes them ("1 long 3 short"); empty when none were noted.</summary>
    public string Beeps
    {
        get => Words(SignKinds.Beeps);
        init => Values = Put(SignKinds.Beeps, value);
    }

    /// <summary>How sure the beeps are, 0.01 to 1: what the ear heard counts as far as it was sure; what was written by hand
    /// counts in full.</summary>
    public double BeepsSure
    {
        get => At(SignKinds.BeepsSure) ?? 1;
        init => Values = Put(SignKinds.BeepsSure, value);
    }

    /// <summary>What was smelt, heard or tripped at this start; null when nothing was.</summary>
    public Alarm? Alarm
    {
        get => At(SignKinds.Alarm);
        init => Values = Put(SignKinds.Alarm, value);
    }

    /// <summary>Case and cooler fans; null when not noted.</summary>
    public FanBehaviour? Fans
    {
        get => At(SignKinds.Fans);
        init => Values = Put(SignKinds.Fans, value);
    }

    /// <summary>The graphics card's fans at the first start; null when not noted.</summary>
    public FanBehaviour? CardFans
    {
        get => At(SignKinds.CardFans);
        init => Values = Put(SignKinds.CardFans, value);
    }

    /// <summary>How long was waited before it was judged, seconds; null when not noted.</summary>
    public int? Waited
    {
        get => At(SignKinds.Waited);
        init => Values = Put(SignKinds.Waited, value);
    }

    /// <summary>CPU temperature, degrees Celsius; null when not read.</summary>
    public double? Temperature
    {
        get => At(SignKinds.Temperature);
        init => Values = Put(SignKinds.Temperature, value);
    }

    /// <summary>Memory that the machine says it has, GB; null when not read. Less than is fitted is no pass.</summary>
    public int? MemorySeen
    {
        get => At(SignKinds.MemorySeen);
        init => Values = Put(SignKinds.MemorySeen, value);
    }

    /// <summary>Since when the picture shows stripes, blocks or wrong colours; null when it is clean or not noted.</summary>
    public Artefacts? Artefacts
    {
        get => At(SignKinds.Artefacts);
        init => Values = Put(SignKinds.Artefacts, value);
    }

    /// <summary>What it did when it ended; null when not noted.</summary>
    public Ending? Ended
    {
        get => At(SignKinds.Ended);
        init => Values = Put(SignKinds.Ended, value);
    }

    /// <summary>Minutes until it ended; null when not noted.</summary>
    public double? Minutes
    {
        get => At(SignKinds.Minutes);
        init => Values = Put(SignKinds.Minutes, value);
    }

    /// <summary>What stood on the screen; null when nothing did, or it was not noted.</summary>
    public ScreenText? Text
    {
        get => At(SignKinds.OnScreen);
        init => Values = Put(SignKinds.OnScreen, value);
    }

    /// <summary>Whether date and time were wrong; null when not looked at.</summary>
    public bool? ClockWrong
    {
        get => At(SignKinds.ClockWrong);
        init => Values = Put(SignKinds.ClockWrong, value);
    }

    /// <summary>What it sounded like; null when like any other, or not noted.</summary>
    public Noise? Noise
    {
        get => At(SignKinds.Noise);
        init => Values = Put(SignKinds.Noise, value);
    }

    /// <summary>Speed of the CPU's fan, turns a minute; null when not read.</summary>
    public int? FanSpeed
    {
        get => At(SignKinds.FanSpeed);
        init => Values = Put(SignKinds.FanSpeed, value);
    }

    /// <summary>The 12 V rail, volts; null when not read.</summary>
    public double? Volts
    {
        get => At(SignKinds.Volts);
        init => Values = Put(SignKinds.Volts, value);
    }

    /// <summary>Draw at the wall, watts; null when not read.</summary>
    public double? Watts
    {
        get => At(SignKinds.Watts);
        init => Values = Put(SignKinds.Watts, value);
    }

    /// <summary>Memory channels that the machine says it uses; null when not read.</summary>
    public int? Channels
    {
        get => At(SignKinds.Channels);
        init => Values = Put(SignKinds.Channels, value);
    }

    /// <summary>Speed that the machine says its memory runs at, megatransfers per second; null when not read.</summary>
    public int? MemorySpeed
    {
        get => At(SignKinds.MemorySpeed);
        init => Values = Put(SignKinds.MemorySpeed, value);
    }

    /// <summary>Memory slots in which the machine says that it sees a stick, by their names, separated by commas; empty when not read.
    /// A stick in another slot is not seen.</summary>
    public string SlotsSeen
    {
        get => Words(SignKinds.SlotsSeen);
        init => Values = Put(SignKinds.SlotsSeen, value);
    }

    /// <summary>Whether the machine says that the memory's profile is on; null when not read.</summary>
    public bool? ProfileOn
    {
        get => At(SignKinds.ProfileOn);
        init => Values = Put(SignKinds.ProfileOn, value);
    }

    /// <summary>The names in <see cref="SlotsSeen"/>.</summary>
    public IEnumerable<string> NamesOfSlotsSeen() =>
        SlotsSeen.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries);

    /// <summary>What was noted, in words, in the order of the rows.</summary>
    public IEnumerable<string> Told() => SignKinds.All.Select(k => k.Told(this)).OfType<string>();

    /// <summary>Two are the same when the same was noted.</summary>
    public bool Equals(Signs? other) => other is not null && Values.AsSpan().SequenceEqual(other.Values);

    /// <inheritdoc/>
    public override int GetHashCode()
    {
        var hash = new HashCode();
        foreach (var value in Values)
            hash.Add(value);
        return hash.ToHashCode();
    }

    /// <inheritdoc/>
    public override string ToString() => string.Join("; ", Told());

    /// <summary>The same with a value of a row; null for nothing noted.</summary>
    internal Signs With(SignKind kind, object? kept) =>
        Equals(Values[kind.Index], kept) ? this : this with { Values = Changed(kind, kept) };

    private T? At<T>(SignKind<T> kind)
        where T : struct => Values[kind.Index] is T value ? value : null;

    private string Words(SignKind<string> kind) => Values[kind.Index] as string ?? "";

    private object?[] Put<T>(SignKind<T> kind, T? value)
        where T : struct => Changed(kind, value is { } v ? kind.Kept(v) : null);

    private object?[] Put(SignKind<string> kind, string? value) => Changed(kind, kind.Kept(value ?? ""));

    private object?[] Changed(SignKind kind, object? kept)
    {
        object?[] values = [.. Values];
        values[kind.Index] = kept;
        return values;
    }

    /// <summary>The most memory that a machine may say it has, GB.</summary>
    public const int MostMemory = 16384;

    /// <summary>Characters of a code.</summary>
    public const int LongestCode = 8;

    /// <summary>Characters of a beep pattern.</summary>
    public const int LongestBeeps = 60;

    /// <summary>Characters of a row of codes.</summary>
    public const int LongestCodes = 240;

    /// <summary>Characters of the names of slots.</summary>
    public const int LongestSlots = 200;

    /// <summary>Characters of a light sequence.</summary>
    public const int LongestLights = 80;

    /// <summary>Seconds that a start is watched.</summary>
    public const int LongestWait = 7200;
}
