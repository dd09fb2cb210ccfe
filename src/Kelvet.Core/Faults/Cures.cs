using System.Collections.Immutable;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Faults;

/// <summary>Everything that is known about one cure.</summary>
/// <param name="Cure">The cure.</param>
/// <param name="Changes">What does it, the plain way first; empty for what only another part helps.</param>
/// <param name="AskedBy">The conditions of the atlas that ask whether it was done, in the order of <paramref name="Done"/>.</param>
/// <param name="Done">For each condition, whether it was done to the unit of a fault since intake.</param>
public sealed record CureFacts(
    Cure Cure,
    Func<Fault, Situation, Change?> Changes,
    ImmutableArray<string> AskedBy,
    ImmutableArray<Func<Situation, Fault, bool>> Done
)
{
    /// <summary>How often it was done to the unit of a fault; null where it is done or not done.</summary>
    public Func<Situation, Fault, int>? Times { get; init; }

    /// <summary>The setting that it changes; null where it changes none.</summary>
    public MachineOption? Option { get; init; }

    /// <summary>Whether it is worth doing once more where it did not help the first time: hands slip, film is overlooked.</summary>
    public bool IsWorthRepeating { get; init; }
}

/// <summary>The one table of cures: what is done about a fault, and how the log shows that it was done.</summary>
public static class Cures
{
    private static readonly Func<Situation, Fault, bool> Refitted = (s, f) => s.Refitted(f.Unit.Id);

    /// <summary>Every cure that is done in place.</summary>
    public static ImmutableArray<CureFacts> All { get; } =
    [
        new(Cure.Reseat, (f, _) => new Change.Reseat(f.Unit.Id), ["reseated"], [Refitted]),
        // The settings of a board belong to what is fitted on it as well.
        new(
            Cure.ClearCmos,
            (_, _) => new Change.ClearCmos(),
            ["cmos-cleared", "board-cleared"],
            [
                (s, f) => s.CmosCleared(f.Unit.Id),
                (s, f) => f.Unit is not Motherboard && s.Now[Place.Board] is { } board && s.CmosCleared(board),
            ]
        ),
        // A switch or an input that was set wrong is right again when the unit was plugged in anew.
        new(
            Cure.Set,
            (f, _) => new Change.Mend(Remedy.Set, f.Unit.Id),
            ["set-right", "reseated"],
            [(s, f) => s.Mended(f.Unit.Id, Remedy.Set), Refitted]
        ),
        InPlace(Cure.Rewire, Remedy.Rewire, "rewired") with
        {
            IsWorthRepeating = true,
        },
        InPlace(Cure.Clean, Remedy.Clean, "cleaned") with
        {
            IsWorthRepeating = true,
        },
        InPlace(Cure.Straighten, Remedy.Straighten, "straightened"),
        InPlace(Cure.Repaste, Remedy.Repaste, "repasted") with
        {
            IsWorthRepeating = true,
        },
        InPlace(Cure.Isolate, Remedy.Isolate, "isolated"),
        InPlace(Cure.NewCell, Remedy.NewCell, "cell-renewed"),
        // Flashing is done to the board that the fault's unit sits on.
        new(
            Cure.Flash,
            (f, s) => Flashed(f, s) is { } board ? new Change.Mend(Remedy.Flash, board) : null,
            ["flashed"],
            [(s, f) => s.Mended(Flashed(f, s) ?? f.Unit.Id, Remedy.Flash)]
        )
        {
            Times = (s, f) => s.TimesMended(Flashed(f, s) ?? f.Unit.Id, Remedy.Flash),
        },
        HeldBack(Cure.ProfileOff, 4, "profile-off"),
        // What is too fast by little is put right by the profile off as well, which is tried first; how much of it can be had back
        // is for the ladder.
        HeldBack(Cure.ProfileOneDown, 1, "slower-200"),
        HeldBack(Cure.ProfileTwoDown, 2, "slower-400"),
        HeldBack(Cure.ProfileThreeDown, 3, "slower-600"),
        BySetting(Cure.LinkHeldBack, MachineOption.LinkHeldBack, "link-held-back"),
        BySetting(Cure.LegacyVideo, MachineOption.LegacyVideo, "legacy-video"),
        BySetting(Cure.CardFirst, MachineOption.CardFirst, "card-first"),
        BySetting(Cure.FastStartOff, MachineOption.FastStartOff, "fast-start-off"),
    ];

    private static readonly ImmutableDictionary<Cure, CureFacts> ByCure = All.ToImmutableDictionary(c => c.Cure);

    /// <summary>What mends a fault in place; null when only another part helps, or when its cure has failed.</summary>
    public static Change? Mending(Fault fault, Situation now) =>
        IsMendedInPlace(fault) ? ByCure.GetValueOrDefault(fault.Mode.Cure)?.Changes(fault, now) : null;

    /// <summary>Whether a fault is mended in place: it never was, or its cure is worth a second try.</summary>
    public static bool IsMendedInPlace(Fault fault) =>
        !IsOutOfReach(fault)
        && (
            fault.After != CureOutcome.Failed
            || (fault.Tries == 1 && ByCure.GetValueOrDefault(fault.Mode.Cure) is { IsWorthRepeating: true })
        );

    /// <summary>Firmware that is gone shows no picture to be written anew by: only a board that flashes without a CPU can.</summary>
    private static bool IsOutOfReach(Fault fault) =>
        fault.Mode.Cure == Cure.Flash
        && fault.Unit is Motherboard { FlashesWithoutCpu: false }
        && fault.Mode.Reach[(int)BootStage.Picture] < 0.5;

    /// <summary>The setting that a cure changes; null where it changes none.</summary>
    public static MachineOption? OptionOf(Cure cure) => ByCure.GetValueOrDefault(cure)?.Option;

    /// <summary>Whether a cure puts settings right, which takes minutes and buys nothing.</summary>
    public static bool IsSetting(Cure cure) => cure == Cure.ClearCmos || OptionOf(cure) is not null;

    /// <summary>How often what cures a fault has been done to its unit since intake.</summary>
    public static int TimesDone(Fault fault, Situation situation)
    {
        if (!ByCure.TryGetValue(fault.Mode.Cure, out var facts))
            return 0;
        if (facts.Times is { } times && times(situation, fault) is > 0 and var n)
            return n;
        foreach (var done in facts.Done)
        {
            if (done(situation, fault))
                return 1;
        }

        return 0;
    }

    private static CureFacts InPlace(Cure cure, Remedy remedy, string asked) =>
        new(cure, (f, _) => new Change.Mend(remedy, f.Unit.Id), [asked], [(s, f) => s.Mended(f.Unit.Id, remedy)])
        {
            Times = (s, f) => s.TimesMended(f.Unit.Id, remedy),
        };

    private static CureFacts BySetting(Cure cure, MachineOption option, string asked) =>
        new(cure, (_, _) => new Change.Choose(option), [asked], [(s, _) => s.IsChosen(option)]) { Option = option };

    private static CureFacts HeldBack(Cure cure, int steps, string asked) =>
        new(cure, (_, _) => new Change.Choose(MachineOption.ProfileOff), [asked], [(s, _) => s.ProfileStepsDown >= steps])
        {
            Option = MachineOption.ProfileOff,
        };

    private static UnitId? Flashed(Fault fault, Situation situation) =>
        fault.Unit is Motherboard ? fault.Unit.Id : situation.Now[Place.Board];
}
