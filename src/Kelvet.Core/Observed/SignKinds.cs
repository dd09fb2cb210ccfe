using System.Collections.Immutable;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Observed;

/// <summary>
/// Every sign that can be noted of a start, one row each. A sign that only the atlas weighs needs nothing else: its field in files and
/// documents, its question on the bench and on the mending page, and its words in the log are made of its row.
/// </summary>
public static partial class SignKinds
{
    private static readonly List<SignKind> Rows = [];

    /// <summary>The two-digit code that stood last, as shown.</summary>
    public static SignKind<string> Code { get; } =
        Text(
            "code",
            "Code",
            Signs.LongestCode,
            CodeWords,
            SignPlace.CodeDisplay,
            "the code that stood last, as shown",
            "55",
            SignalKind.Post
        );

    /// <summary>What the code did at the end.</summary>
    public static SignKind<CodeMotion> Motion { get; } =
        Choice(
                "motion",
                "The code",
                "",
                (_, _) => null,
                SignPlace.CodeDisplay,
                "what the code did; `stuck` when left out",
                (CodeMotion.Stuck, "it stands"),
                (CodeMotion.Passing, "still changes"),
                (CodeMotion.Cycling, "round and round")
            )
            .Usually(CodeMotion.Stuck);

    /// <summary>Codes in the order in which they came.</summary>
    public static SignKind<string> Codes { get; } =
        Text(
            "codes",
            "Codes before it",
            Signs.LongestCodes,
            (v, _) => v.Contains(' ') ? $"codes {v}" : null,
            SignPlace.Signals,
            "those that came before it, with spaces",
            "02 19 2B"
        );

    /// <summary>Indicators in the order in which they lit, or blinks.</summary>
    public static SignKind<string> Lights { get; } =
        Text(
            "lights",
            "Lights in order",
            Signs.LongestLights,
            (v, _) => $"lights {v}",
            SignPlace.Signals,
            "as below",
            "cpu memory",
            SignalKind.Lights
        );

    /// <summary>Beeps as the technician writes them.</summary>
    public static SignKind<string> Beeps { get; } =
        Text("beeps", "Beeps", Signs.LongestBeeps, BeepWords, SignPlace.Signals, "as below", "1 long 3 short", SignalKind.Beeps);

    /// <summary>How sure the ear was of the beeps.</summary>
    public static SignKind<double> BeepsSure { get; } =
        Number("beeps-sure", "How sure", "", 0.01, 1, 0.01, _ => null, SignPlace.Nowhere, "how sure the ear was of the beeps").Usually(1.0);

    /// <summary>What a machine that had come up did when it ended.</summary>
    public static SignKind<Ending> Ended { get; } =
        Choice(
                "ended",
                "What it did then",
                "not noted",
                (_, words) => words,
                SignPlace.Ending,
                "what a machine that had come up did",
                (Ending.Froze, "it froze"),
                (Ending.Restarted, "it restarted by itself"),
                (Ending.Off, "it went off"),
                (Ending.StopError, "the system stopped with an error"),
                (Ending.DarkScreen, "the screen went dark while it ran on")
            )
            .Meaning();

    /// <summary>Minutes until it ended.</summary>
    public static SignKind<double> Minutes { get; } =
        Number("minutes", "After", "min", 0, 1440, 0.1, v => $"after {v:0.#} min", SignPlace.Ending, "until it ended")
            .Meaning(
                ("minutes-at-once", v => v <= SignNames.AtOnce),
                ("minutes-soon", v => v <= SignNames.Soon),
                ("minutes-later", _ => true)
            );

    /// <summary>How long was waited before it was judged.</summary>
    public static SignKind<int> Waited { get; } =
        Whole("waited", "Waited", "s", 0, Signs.LongestWait, v => $"waited {v} s", SignPlace.Ending, "seconds");

    /// <summary>What was smelt, heard or tripped.</summary>
    public static SignKind<Alarm> Alarm { get; } =
        Choice(
            "alarm",
            "Smell, smoke or breaker",
            "nothing",
            (_, words) => words,
            SignPlace.Ending,
            "what ends the use of the supply",
            (Observed.Alarm.Smell, "it smelt burnt"),
            (Observed.Alarm.Burnt, "it smoked, sparked or crackled"),
            (Observed.Alarm.TrippedBreaker, "it tripped the breaker")
        );

    /// <summary>What it sounded like.</summary>
    public static SignKind<Noise> Noise { get; } =
        Choice(
                "noise",
                "Noise",
                "as always",
                (_, words) => $"noise: {words}",
                SignPlace.Ending,
                "",
                (Observed.Noise.Grinding, "a fan or pump grinds"),
                (Observed.Noise.Clicking, "clicks, again and again"),
                (Observed.Noise.Whine, "a high whine")
            )
            .Meaning();

    /// <summary>What a drive sounds like.</summary>
    public static SignKind<DriveNoise> DriveNoise { get; } =
        Choice(
                "drive-noise",
                "Drive",
                "as always",
                (_, words) => $"drive {words}",
                SignPlace.Ending,
                "ear or hand on the drive; a drive without moving parts makes none",
                (Observed.DriveNoise.Ticking, "ticks, softly and evenly"),
                (Observed.DriveNoise.Clicking, "clicks loudly, again and again")
            )
            .Of(UnitKind.Storage)
            .Meaning();

    /// <summary>What case and cooler fans did.</summary>
    public static SignKind<FanBehaviour> Fans { get; } = FanRow("fans", "What the cooler's fan does", "fans", SignPlace.CoolerFan);

    /// <summary>What the graphics card's fans did.</summary>
    public static SignKind<FanBehaviour> CardFans { get; } =
        FanRow("card-fans", "What the card's fans do", "card's fans", SignPlace.CardFans);

    /// <summary>What stood on the screen.</summary>
    public static SignKind<ScreenText> OnScreen { get; } =
        Choice(
                "text",
                "On the screen",
                "nothing of note",
                (_, words) => $"on the screen: {words}",
                SignPlace.Screen,
                "what stood on the screen",
                (ScreenText.NoDrive, "no drive to start from"),
                (ScreenText.SettingsLost, "settings lost"),
                (ScreenText.Memory, "a memory error, or memory that changed"),
                (ScreenText.Fan, "a fan that does not turn"),
                (ScreenText.TooHot, "too hot"),
                (ScreenText.CardPower, "a card without its power"),
                (ScreenText.BadSetting, "a setting that did not work")
            )
            .Meaning();

    /// <summary>Since when the picture shows stripes, blocks or wrong colours.</summary>
    public static SignKind<Artefacts> Artefacts { get; } =
        Choice(
            "artefacts",
            "Stripes, blocks, wrong colours",
            "none",
            (_, words) => $"stripes or blocks {words}",
            SignPlace.Screen,
            "since when the picture shows stripes, blocks or wrong colours",
            (Observed.Artefacts.FromTheLogo, "from the logo on"),
            (Observed.Artefacts.InTheSystem, "once the system runs")
        );

    /// <summary>Memory that the machine says it has.</summary>
    public static SignKind<int> MemorySeen { get; } =
        Whole(
            "memory-seen",
            "Memory seen",
            "GB",
            0,
            Signs.MostMemory,
            v => $"{v} GB of memory seen",
            SignPlace.Signals,
            "GB that the machine says it has; less than is fitted is no pass"
        );

    /// <summary>Speed that the machine says its memory runs at.</summary>
    public static SignKind<int> MemorySpeed { get; } =
        Whole(
            "memory-speed",
            "Memory speed",
            "MT/s",
            100,
            20_000,
            v => $"memory at {v} MT/s",
            SignPlace.Signals,
            "MT/s that the machine says its memory runs at"
        );

    /// <summary>Memory slots in which the machine says that it sees a stick.</summary>
    public static SignKind<string> SlotsSeen { get; } =
        Text(
            "slots-seen",
            "Slots it names",
            Signs.LongestSlots,
            (v, _) => $"sticks seen in {v}",
            SignPlace.Signals,
            "memory slots in which the machine sees a stick, with commas",
            "A2, B2"
        );

    /// <summary>Whether the machine says that the memory's profile is on.</summary>
    public static SignKind<bool> ProfileOn { get; } =
        Flag(
            "profile-on",
            "Memory profile",
            "on",
            "off",
            (_, words) => $"memory profile {words}",
            SignPlace.Signals,
            "whether the machine says that the memory's profile is on"
        );

    /// <summary>Memory channels that the machine says it uses.</summary>
    public static SignKind<int> Channels { get; } =
        Whole(
                "channels",
                "Memory channels",
                "",
                1,
                8,
                v => $"{v} memory {(v == 1 ? "channel" : "channels")} seen",
                SignPlace.Signals,
                "memory channels that the machine says it uses"
            )
            .Meaning(
                ["channels-fewer", "channels-all"],
                (seen, fitted) =>
                    fitted is not { } all ? null
                    : seen < all ? "channels-fewer"
                    : "channels-all"
            );

    /// <summary>Whether date and time were wrong.</summary>
    public static SignKind<bool> ClockWrong { get; } =
        Flag("clock-wrong", "Date and time", "wrong", "right", (_, words) => $"date and time {words}", SignPlace.Readings, "date and time")
            .Meaning(("clock-wrong", v => v), ("clock-right", _ => true));

    /// <summary>CPU temperature.</summary>
    public static SignKind<double> Temperature { get; } =
        Number("temperature", "CPU", "°C", -20, 150, 0.1, v => $"CPU {v:0.#} °C", SignPlace.Readings, "of the CPU, °C")
            .Meaning(("heat-hot", v => v >= SignNames.TooHot), ("heat-normal", _ => true));

    /// <summary>Speed of the CPU's fan.</summary>
    public static SignKind<int> FanSpeed { get; } =
        Whole(
                "fan-speed",
                "CPU fan",
                "turns a minute",
                0,
                20_000,
                v => $"CPU fan {v} turns a minute",
                SignPlace.Readings,
                "of the CPU's fan, turns a minute"
            )
            .Meaning(("fan-stands", v => v < SignNames.Standing), ("fan-turns", _ => true));

    /// <summary>The 12 V rail.</summary>
    public static SignKind<double> Volts { get; } =
        Number("volts", "12 V rail", "V", 0, 30, 0.01, v => $"12 V rail {v:0.0#} V", SignPlace.Readings, "the 12 V rail")
            .Meaning(("volts-out", v => SignNames.IsOff(v, 12)), ("volts-in", _ => true));

    /// <summary>The 5 V rail.</summary>
    public static SignKind<double> FiveVolts { get; } =
        Number("volts-5", "5 V rail", "V", 0, 12, 0.01, v => $"5 V rail {v:0.0#} V", SignPlace.Readings, "the 5 V rail")
            .Meaning(("volts-5-out", v => SignNames.IsOff(v, 5)), ("volts-5-in", _ => true));

    /// <summary>How warm a display adapter is: one that converts draws power as long as it works.</summary>
    public static SignKind<Warmth> AdapterWarmth { get; } =
        Choice(
                "adapter-warmth",
                "Display adapter",
                "not felt",
                (_, words) => $"display adapter {words}",
                SignPlace.Readings,
                "a hand on the display adapter, some minutes after the start",
                (Warmth.Cold, "cold"),
                (Warmth.Warm, "warm"),
                (Warmth.Hot, "too hot to hold")
            )
            .Of(UnitKind.DisplayAdapter)
            .Meaning();

    /// <summary>Draw at the wall.</summary>
    public static SignKind<double> Watts { get; } =
        Number("watts", "At the wall", "W", 0, 3000, 0.1, v => $"{v:0.#} W at the wall", SignPlace.Readings, "at the wall")
            .Meaning(
                ("watts-standby", v => v <= SignNames.StandbyWatts),
                ("watts-little", v => v <= SignNames.IdleCpuWatts),
                ("watts-some", _ => true)
            );

    /// <summary>Every sign, in the order in which files, forms and logs have them.</summary>
    public static ImmutableArray<SignKind> All { get; } = [.. Rows];

    /// <summary>Those that are asked for at a place.</summary>
    public static IEnumerable<SignKind> At(SignPlace place) => All.Where(k => k.Place == place);

    /// <summary>Those of them that a job can show.</summary>
    public static IEnumerable<SignKind> At(SignPlace place, Parts parts) =>
        At(place).Where(k => k.On is not { } kind || parts.All.Any(u => u.Kind == kind));

    private static string? CodeWords(string code, Signs signs) =>
        $"code {code}"
        + signs.Motion switch
        {
            CodeMotion.Passing => ", still changing",
            CodeMotion.Cycling => ", round and round",
            _ => "",
        };

    private static string? BeepWords(string beeps, Signs signs) =>
        signs.BeepsSure < 1 ? $"beeps {beeps} ({100 * signs.BeepsSure:0} % sure)" : $"beeps {beeps}";

    private static SignKind<FanBehaviour> FanRow(string key, string label, string words, SignPlace place) =>
        Choice(
                key,
                label,
                "not noted",
                (_, does) => $"{words} {does}",
                place,
                "",
                (FanBehaviour.Still, "still"),
                (FanBehaviour.Twitch, "twitch"),
                (FanBehaviour.Run, "run"),
                (FanBehaviour.RunThenStop, "run, then stop"),
                (FanBehaviour.FullSpeed, "at full speed")
            )
            .Meaning();
}
