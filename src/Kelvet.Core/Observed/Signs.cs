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

/// <summary>What was seen and heard of a start besides how far it got. Code, beeps and lights are weighed by the tables of
/// signals.</summary>
public sealed record Signs
{
    /// <summary>The two-digit code that stood last, as shown; at most 8 characters; empty when there was none.</summary>
    public string Code { get; init; } = "";

    /// <summary>Whether it stood, was still changing, or came round again and again.</summary>
    public CodeMotion Motion { get; init; }

    /// <summary>Codes in the order in which they came, separated by spaces, at most 240 characters; empty when only the last was
    /// noted.</summary>
    public string Codes { get; init; } = "";

    /// <summary>Indicators in the order in which they lit (<see cref="LightSequence"/>), or blinks ("3 amber 2 white"); at most 80
    /// characters.</summary>
    public string Lights { get; init; } = "";

    /// <summary>Beeps as the technician writes them ("1 long 3 short"), at most 60 characters; empty when none were noted.</summary>
    public string Beeps { get; init; } = "";

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

    /// <summary>Nothing noted.</summary>
    public static Signs None { get; } = new();

    /// <summary>The most memory that a machine may say it has, GB.</summary>
    public const int MostMemory = 16384;

    /// <summary>Characters of a code.</summary>
    public const int LongestCode = 8;

    /// <summary>Characters of a beep pattern.</summary>
    public const int LongestBeeps = 60;

    /// <summary>Characters of a row of codes.</summary>
    public const int LongestCodes = 240;

    /// <summary>Characters of a light sequence.</summary>
    public const int LongestLights = 80;

    /// <summary>Seconds that a start is watched.</summary>
    public const int LongestWait = 7200;
}
