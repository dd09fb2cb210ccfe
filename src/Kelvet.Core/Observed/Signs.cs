using Kelvet.Core.Text;

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

/// <summary>What was seen and heard of a start besides how far it got. Code, beeps and lights are weighed by the tables of
/// signals.</summary>
public sealed record Signs
{
    /// <summary>The two-digit code that stood last, as shown; at most 8 characters; empty when there was none.</summary>
    /// <exception cref="ArgumentException">It is no such signal: it would be kept and would say nothing.</exception>
    public string Code
    {
        get;
        init => field = Readable(SignalKind.Post, value);
    } = "";

    /// <summary>Whether it stood, was still changing, or came round again and again.</summary>
    public CodeMotion Motion { get; init; }

    /// <summary>Codes in the order in which they came, separated by spaces, at most 240 characters; empty when only the last was
    /// noted.</summary>
    public string Codes
    {
        get;
        init => field = Folded.Of(value);
    } = "";

    /// <summary>Indicators in the order in which they lit (<see cref="LightSequence"/>), or blinks ("3 amber 2 white"); at most 80
    /// characters.</summary>
    /// <exception cref="ArgumentException">It is no such signal: it would be kept and would say nothing.</exception>
    public string Lights
    {
        get;
        init => field = Readable(SignalKind.Lights, value);
    } = "";

    /// <summary>Beeps as the technician writes them ("1 long 3 short"), at most 60 characters; empty when none were noted.</summary>
    /// <exception cref="ArgumentException">It is no such signal: it would be kept and would say nothing.</exception>
    public string Beeps
    {
        get;
        init => field = Readable(SignalKind.Beeps, value);
    } = "";

    /// <summary>How sure the beeps are, above 0 to 1: what the ear heard counts as far as it was sure; what was written by hand
    /// counts in full.</summary>
    public double BeepsSure { get; init; } = 1;

    /// <summary>What was smelt, heard or tripped at this start; null when nothing was.</summary>
    public Alarm? Alarm { get; init; }

    /// <summary>Case and cooler fans; null when not noted.</summary>
    public FanBehaviour? Fans { get; init; }

    /// <summary>The graphics card's fans at the first start; null when not noted.</summary>
    public FanBehaviour? CardFans { get; init; }

    /// <summary>How long was waited before it was judged, seconds, 0 to 7200; null when not noted.</summary>
    public int? Waited { get; init; }

    /// <summary>CPU temperature, degrees Celsius, -20 to 150; null when not read.</summary>
    public double? Temperature { get; init; }

    /// <summary>Memory that the machine says it has, GB, 0 to 16384; null when not read. Less than is fitted is no pass.</summary>
    public int? MemorySeen { get; init; }

    /// <summary>Since when the picture shows stripes, blocks or wrong colours; null when it is clean or not noted.</summary>
    public Artefacts? Artefacts { get; init; }

    /// <summary>What it did when it ended; null when not noted.</summary>
    public Ending? Ended { get; init; }

    /// <summary>Minutes until it ended, 0 to 1440; null when not noted.</summary>
    public double? Minutes { get; init; }

    /// <summary>What stood on the screen; null when nothing did, or it was not noted.</summary>
    public ScreenText? Text { get; init; }

    /// <summary>Whether date and time were wrong; null when not looked at.</summary>
    public bool? ClockWrong { get; init; }

    /// <summary>What it sounded like; null when like any other, or not noted.</summary>
    public Noise? Noise { get; init; }

    /// <summary>Speed of the CPU's fan, turns a minute, 0 to 20000; null when not read.</summary>
    public int? FanSpeed { get; init; }

    /// <summary>The 12 V rail, volts, 0 to 30; null when not read.</summary>
    public double? Volts { get; init; }

    /// <summary>Draw at the wall, watts, 0 to 3000; null when not read.</summary>
    public double? Watts { get; init; }

    /// <summary>Memory channels that the machine says it uses, 1 to 8; null when not read.</summary>
    public int? Channels { get; init; }

    /// <summary>Speed that the machine says its memory runs at, megatransfers per second, 100 to 20000; null when not read.</summary>
    public int? MemorySpeed { get; init; }

    /// <summary>
    /// Memory slots in which the machine says that it sees a stick, by their names, separated by commas, at most 200 characters;
    /// empty when not read. A stick in another slot is not seen.
    /// </summary>
    public string SlotsSeen
    {
        get;
        init => field = Folded.Of(value);
    } = "";

    /// <summary>Whether the machine says that the memory's profile is on; null when not read.</summary>
    public bool? ProfileOn { get; init; }

    /// <summary>The names in <see cref="SlotsSeen"/>.</summary>
    public IEnumerable<string> NamesOfSlotsSeen() =>
        SlotsSeen.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries);

    /// <summary>A signal as it was typed; one that no table could ever list is refused.</summary>
    private static string Readable(SignalKind kind, string? typed)
    {
        var text = Folded.Of(typed);
        return text.Length == 0 || SignalText.Typed(kind, text) is not null
            ? text
            : throw new ArgumentException($"\"{text}\" is not {SignalText.Expected(kind)}.");
    }

    /// <summary>Nothing noted.</summary>
    public static Signs None { get; } = new();

    /// <summary>The most memory that a machine may say it has, GB.</summary>
    public const int MostMemory = 16384;

    /// <summary>The first value that cannot be, by the name of its field and in words; null when all can.</summary>
    public (string Field, string Words)? WhyNot()
    {
        if (Temperature is { } degrees && degrees is not (>= -20 and <= 150))
            return ("temperature", "The CPU's temperature is -20 to 150 °C.");
        if (Waited is < 0 or > LongestWait)
            return ("waited", $"The wait is 0 to {LongestWait} seconds.");
        if (MemorySeen is < 0 or > MostMemory)
            return ("memorySeen", $"The memory seen is 0 to {MostMemory} GB.");
        if (BeepsSure is not (> 0 and <= 1))
            return ("beepsSure", "How sure the beeps are is above 0 to 1.");
        if (Minutes is { } minutes && minutes is not (>= 0 and <= 1440))
            return ("minutes", "The minutes until it ended are 0 to 1440.");
        if (FanSpeed is < 0 or > 20_000)
            return ("fanSpeed", "A fan turns 0 to 20000 times a minute.");
        if (Volts is { } volts && volts is not (>= 0 and <= 30))
            return ("volts", "The 12 V rail reads 0 to 30 V.");
        if (Watts is { } watts && watts is not (>= 0 and <= 3000))
            return ("watts", "The draw at the wall is 0 to 3000 W.");
        if (MemorySpeed is < 100 or > 20_000)
            return ("memorySpeed", "Memory runs at 100 to 20000 MT/s.");
        return Channels is < 1 or > 8 ? ("channels", "Memory channels are 1 to 8.") : null;
    }

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
