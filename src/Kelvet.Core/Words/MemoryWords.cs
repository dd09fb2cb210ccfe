using System.Globalization;
using Kelvet.Core.Evidence;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Worksheets;

namespace Kelvet.Core.Words;

/// <summary>What is said of memory and of firmware.</summary>
public static class MemoryWords
{
    /// <summary>A stick by its figures: "8 GB DDR4, 2400 MT/s, profile 3200 MT/s 16-18-18-38, 2 ranks, kit K1"; what is not recorded
    /// is left out.</summary>
    public static string Figures(this MemoryStick stick)
    {
        var said = new List<string>();
        if (stick.SizeGb > 0 || stick.MemoryType.Length > 0)
            said.Add($"{(stick.SizeGb > 0 ? $"{stick.SizeGb} GB" : "")} {stick.MemoryType}".Trim());
        if (stick.Speed is { } plain)
            said.Add($"{plain} MT/s");
        if (stick.Profile is { } profile)
            said.Add($"profile {profile} MT/s {stick.Timings}".TrimEnd());
        else if (stick.Timings.Length > 0)
            said.Add(stick.Timings);
        if (stick.Ranks is { } ranks)
            said.Add(ranks == 1 ? "1 rank" : $"{ranks} ranks");
        if (stick.PartNumber.Length > 0)
            said.Add(stick.PartNumber);
        if (stick.Kit.Length > 0)
            said.Add($"kit {stick.Kit}");
        return string.Join(", ", said);
    }

    /// <summary>How the memory runs, in a sentence: "16 GB on channels A and B, at 2666 MT/s."</summary>
    public static string Words(this MemoryRun run)
    {
        var total = run.TotalGb is { } gb ? $"{gb} GB" : "Memory of a size that is not recorded";
        var channels = run.Channels.Length == 1 ? $"channel {run.Channels[0]}" : $"channels {string.Join(" and ", run.Channels)}";
        return $"{total} on {channels}, {(run.Speed is { } speed ? $"at {speed} MT/s" : "at a speed that is not recorded")}.";
    }

    /// <summary>What holds it back, and why.</summary>
    public static string Words(this MemoryLimit limit, MemoryRun run) =>
        limit switch
        {
            MemoryLimit.SlowestStick => $"Sticks of different speeds: all run as the slowest, {run.Slowest?.Name}.",
            MemoryLimit.ProfileHeldBack => "The profile is held back or off.",
            MemoryLimit.OneChannel => "All sticks are on one channel: half of the throughput. One on each channel uses both.",
            MemoryLimit.UnevenChannels => "The channels hold different amounts: what one has more of runs on one channel.",
            MemoryLimit.TwoOnAChannel => "Two sticks on a channel: many controllers run that slower than one, and some not at the profile.",
            _ => limit.ToString(),
        };

    /// <summary>What the last start told of the memory that it should not have; empty where it told nothing of it.</summary>
    public static string Told(BenchJob job)
    {
        if (job.Trials.LastOrDefault(t => t.Seen.ShowsPicture) is not { } last)
            return "";
        var signs = last.Entry.Signs;
        var said = new List<string>();
        if (last.MissingGb is > 0 and var missing)
            said.Add($"it sees {signs.MemorySeen} GB of {last.Situation.FittedGb}: {missing} GB are missing");
        if (last.SlotsUnseen is { Length: > 0 } unseen)
            said.Add($"no stick seen in {string.Join(", ", unseen)}");
        if (signs.MemorySpeed is { } speed && MemoryRun.Of(last.Situation)?.Speed is { } meant && speed != meant)
            said.Add($"it runs at {speed} MT/s, not {meant}");
        if (signs.ProfileOn is false && last.Situation.ProfileStepsDown == 0 && last.Situation.Sticks.Any(s => s.Stick.Profile is not null))
            said.Add("its profile is off");
        return said.Count == 0 ? "" : $"At start {last.Ordinal}: {string.Join("; ", said)}.";
    }

    /// <summary>A rung by its name: "profile", "200 below", "off".</summary>
    public static string Name(this LadderRung rung)
    {
        var speed = rung.Speed is { } mts ? $", {mts} MT/s" : "";
        return rung.StepsDown == 0 ? $"Profile{speed}"
            : rung.StepsDown >= Situation.ProfileSteps.Length ? $"Profile off{speed}"
            : $"{rung.StepsDown * MemoryRun.Step} MT/s below{speed}";
    }

    /// <summary>What a rung tells of stick, controller and board. Common practice.</summary>
    public static string Tells(this LadderRung rung) =>
        rung.StepsDown == 0 ? "As sold. A failure here alone tells nothing of which: sticks, controller in the CPU, or board."
        : rung.StepsDown >= Situation.ProfileSteps.Length
            ? "Holds: it was the speed. Fails too: it is not the profile but a stick, slot, channel or controller."
        : rung.StepsDown == 1
            ? "Holds: little is lacking. A spare stick that holds the full profile clears board and controller; "
                + "another CPU that does points at the controller."
        : "Holds: much is lacking. Often four sticks, mixed kits, or a controller that was never sold for this speed.";

    /// <summary>How long to test a rung.</summary>
    public static string Test(this LadderRung rung) =>
        rung.StepsDown == 0
            ? "The complaint is the test."
            : $"{ProfileLadder.StartsOfARung} clean starts, then a test program: one whole pass for a rung on the way, "
                + "four for the one that stays.";

    /// <summary>What no errors in so many passes mean.</summary>
    public static string NoErrors(int passes)
    {
        string Missed(double rate) =>
            TestProgram.Missed(rate, passes).ToString("P0", CultureInfo.InvariantCulture).Replace(" ", "", StringComparison.Ordinal);
        return $"No errors in {passes} {(passes == 1 ? "pass" : "passes")}: a fault that shows in every other pass is missed so in "
            + $"{Missed(0.5)} of cases, one in 5 passes in {Missed(0.2)}, one in 20 in {Missed(0.05)}.";
    }

    /// <summary>Why an address points at no stick; empty where it does.</summary>
    public static string Words(this NoStick why) =>
        why switch
        {
            NoStick.NotAnAddress => "is no hexadecimal address",
            NoStick.Interleaved =>
                "sticks on more than one channel: neighbouring addresses lie on different sticks in turn, so no address names one. "
                    + "Test with one channel filled",
            NoStick.SizeUnknown => "the size of a stick is not recorded",
            NoStick.TooNearTheEdge => "too near to where one stick ends and the next begins",
            _ => "",
        };

    /// <summary>Whether the firmware knows the CPU, in a sentence.</summary>
    public static string Words(this FirmwareQuestion question)
    {
        var source = question.IsFromList ? " by the support list" : "";
        return question.State switch
        {
            FirmwareState.KnowsIt => $"{question.Board.Name} knows {question.Cpu.Name}.",
            FirmwareState.TooOld => $"{question.Cpu.Name} needs version {question.Least}{source}; "
                + $"{question.Board.Name} has {question.Board.Firmware}: it cannot start.",
            FirmwareState.VersionUnknown =>
                $"{question.Cpu.Name} needs version {question.Least}{source}; what {question.Board.Name} has is not known.",
            FirmwareState.NeedUnknown =>
                $"{question.Board.Name} has version {question.Board.Firmware}; what {question.Cpu.Name} needs of it is not known.",
            _ => $"Neither is known: what {question.Board.Name} has, and what {question.Cpu.Name} needs.",
        };
    }

    /// <summary>A way to settle it, as said to a technician.</summary>
    public static string Words(this FirmwareOption option) =>
        option.Way switch
        {
            FirmwareWay.ReadSticker => "Read the sticker on the flash chip, or on the board's box.",
            FirmwareWay.LookUpList => "Look it up in the board maker's list, for the revision that is printed on this board.",
            FirmwareWay.FlashWithoutCpu =>
                "Flash it by the board's own way, without a CPU: file of this revision, in the root of a FAT stick, in the marked port.",
            FirmwareWay.OlderCpu =>
                $"Fit {option.Cpu?.Name}, which its firmware knows; when it shows a picture, flash; then the other CPU back.",
            FirmwareWay.AskSeller => "Ask the seller what was on it when it was sold; many flash it for nothing.",
            _ => option.Way.ToString(),
        };
}
