using Kelvet.Core.Observed;
using Kelvet.Core.Text;
using static Kelvet.Core.Jobs.ValueForms;

namespace Kelvet.Core.Jobs;

/// <summary>Every field of what was seen and heard of a start.</summary>
internal static class SignFields
{
    private static readonly Field<Signs, string> Code = May(
        "code",
        Forms.Text(Observed.Signs.LongestCode),
        (Signs s) => s.Code,
        "",
        "the code that stood last, as shown"
    );
    private static readonly Field<Signs, CodeMotion> Motion = May(
        "motion",
        Forms.Choice<CodeMotion>(),
        (Signs s) => s.Motion,
        CodeMotion.Stuck,
        "what the code did; `stuck` when left out"
    );
    private static readonly Field<Signs, string> Codes = May(
        "codes",
        Forms.Text(Observed.Signs.LongestCodes),
        (Signs s) => s.Codes,
        "",
        "those that came before it, with spaces"
    );
    private static readonly Field<Signs, string> Lights = May(
        "lights",
        Forms.Text(Observed.Signs.LongestLights),
        (Signs s) => s.Lights,
        "",
        "as below"
    );
    private static readonly Field<Signs, string> Beeps = May(
        "beeps",
        Forms.Text(Observed.Signs.LongestBeeps),
        (Signs s) => s.Beeps,
        "",
        "as below"
    );
    private static readonly Field<Signs, double> BeepsSure = May(
        "beeps-sure",
        Forms.Number(0.01, 1),
        (Signs s) => s.BeepsSure,
        1,
        "how sure the ear was of the beeps"
    );
    private static readonly Field<Signs, Alarm?> AlarmSeen = MayValue(
        "alarm",
        Forms.Choice<Alarm>(),
        (Signs s) => s.Alarm,
        "what ends the use of the supply"
    );
    private static readonly Field<Signs, FanBehaviour?> Fans = MayValue("fans", Forms.Choice<FanBehaviour>(), (Signs s) => s.Fans);
    private static readonly Field<Signs, FanBehaviour?> CardFans = MayValue(
        "card-fans",
        Forms.Choice<FanBehaviour>(),
        (Signs s) => s.CardFans
    );
    private static readonly Field<Signs, int?> Waited = MayValue(
        "waited",
        Forms.Whole(0, Observed.Signs.LongestWait),
        (Signs s) => s.Waited,
        "seconds"
    );
    private static readonly Field<Signs, double?> Temperature = MayValue(
        "temperature",
        Forms.Number(-20, 150),
        (Signs s) => s.Temperature,
        "of the CPU, °C"
    );

    private static readonly Field<Signs, int?> MemorySeen = MayValue(
        "memory-seen",
        Forms.Whole(0, Observed.Signs.MostMemory),
        (Signs s) => s.MemorySeen,
        "GB that the machine says it has; less than is fitted is no pass"
    );
    private static readonly Field<Signs, Artefacts?> ArtefactsSeen = MayValue(
        "artefacts",
        Forms.Choice<Artefacts>(),
        (Signs s) => s.Artefacts,
        "since when the picture shows stripes, blocks or wrong colours"
    );

    private static readonly Field<Signs, Ending?> Ended = MayValue(
        "ended",
        Forms.Choice<Ending>(),
        (Signs s) => s.Ended,
        "what a machine that had come up did"
    );
    private static readonly Field<Signs, double?> Minutes = MayValue(
        "minutes",
        Forms.Number(0, 1440),
        (Signs s) => s.Minutes,
        "until it ended"
    );
    private static readonly Field<Signs, ScreenText?> Text = MayValue(
        "text",
        Forms.Choice<ScreenText>(),
        (Signs s) => s.Text,
        "what stood on the screen"
    );
    private static readonly Field<Signs, bool?> ClockWrong = MayValue(
        "clock-wrong",
        Forms.Flag,
        (Signs s) => s.ClockWrong,
        "date and time"
    );
    private static readonly Field<Signs, Noise?> NoiseHeard = MayValue("noise", Forms.Choice<Noise>(), (Signs s) => s.Noise);
    private static readonly Field<Signs, int?> FanSpeed = MayValue(
        "fan-speed",
        Forms.Whole(0, 20_000),
        (Signs s) => s.FanSpeed,
        "of the CPU's fan, turns a minute"
    );
    private static readonly Field<Signs, double?> Volts = MayValue("volts", Forms.Number(0, 30), (Signs s) => s.Volts, "the 12 V rail");
    private static readonly Field<Signs, double?> Watts = MayValue("watts", Forms.Number(0, 3000), (Signs s) => s.Watts, "at the wall");
    private static readonly Field<Signs, int?> Channels = MayValue(
        "channels",
        Forms.Whole(1, 8),
        (Signs s) => s.Channels,
        "memory channels that the machine says it uses"
    );

    private static readonly Field<Signs, int?> MemorySpeed = MayValue(
        "memory-speed",
        Forms.Whole(100, 20_000),
        (Signs s) => s.MemorySpeed,
        "MT/s that the machine says its memory runs at"
    );
    private static readonly Field<Signs, string> SlotsSeen = May(
        "slots-seen",
        Forms.Text(Observed.Signs.LongestSlots),
        (Signs s) => s.SlotsSeen,
        "",
        "memory slots in which the machine sees a stick, with commas"
    );
    private static readonly Field<Signs, bool?> ProfileOn = MayValue(
        "profile-on",
        Forms.Flag,
        (Signs s) => s.ProfileOn,
        "whether the machine says that the memory's profile is on"
    );

    /// <summary>What was seen and heard of a start.</summary>
    public static readonly ObjectForm<Signs> Signs = new(
        [
            Code,
            Motion,
            Codes,
            Lights,
            Beeps,
            BeepsSure,
            AlarmSeen,
            Fans,
            CardFans,
            Waited,
            Temperature,
            MemorySeen,
            ArtefactsSeen,
            Ended,
            Minutes,
            Text,
            ClockWrong,
            NoiseHeard,
            FanSpeed,
            Volts,
            Watts,
            Channels,
            MemorySpeed,
            SlotsSeen,
            ProfileOn,
        ],
        v => new Signs
        {
            Code = v.Of(Code),
            Motion = v.Of(Motion),
            Codes = v.Of(Codes),
            Lights = v.Of(Lights),
            Beeps = v.Of(Beeps),
            BeepsSure = v.Of(BeepsSure),
            Alarm = v.Of(AlarmSeen),
            Fans = v.Of(Fans),
            CardFans = v.Of(CardFans),
            Waited = v.Of(Waited),
            Temperature = v.Of(Temperature),
            MemorySeen = v.Of(MemorySeen),
            Artefacts = v.Of(ArtefactsSeen),
            Ended = v.Of(Ended),
            Minutes = v.Of(Minutes),
            Text = v.Of(Text),
            ClockWrong = v.Of(ClockWrong),
            Noise = v.Of(NoiseHeard),
            FanSpeed = v.Of(FanSpeed),
            Volts = v.Of(Volts),
            Watts = v.Of(Watts),
            Channels = v.Of(Channels),
            MemorySpeed = v.Of(MemorySpeed),
            SlotsSeen = v.Of(SlotsSeen),
            ProfileOn = v.Of(ProfileOn),
        }
    );
}
