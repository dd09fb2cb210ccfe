using System.Collections.Immutable;

namespace Kelvet.Core.Machines;

/// <summary>What holds a ceiling down.</summary>
public enum CeilingReason
{
    /// <summary>No power supply is connected.</summary>
    NoSupply,

    /// <summary>No board is on the bench.</summary>
    NoBoard,

    /// <summary>No case switch is connected to start it.</summary>
    NoSwitch,

    /// <summary>No CPU is fitted.</summary>
    NoCpu,

    /// <summary>No memory is fitted.</summary>
    NoMemory,

    /// <summary>No monitor is connected.</summary>
    NoMonitor,

    /// <summary>No video cable is connected.</summary>
    NoCable,

    /// <summary>The display adapter is out.</summary>
    NoAdapter,

    /// <summary>The monitor is not plugged into an output.</summary>
    NoOutput,

    /// <summary>The monitor is on the board, and this CPU has no graphics to drive it.</summary>
    CpuWithoutGraphics,

    /// <summary>Nothing in the machine can make a picture: no graphics in the CPU, and no card.</summary>
    NothingForAPicture,

    /// <summary>The monitor is on the board beside a fitted card, which usually takes the picture.</summary>
    BoardBesideCard,

    /// <summary>The monitor is on a card that is not fitted.</summary>
    CardNotFitted,

    /// <summary>No drive is connected.</summary>
    NoDrive,

    /// <summary>The supply's main cable is out.</summary>
    NoMainCable,

    /// <summary>The supply's cable to the processor is out.</summary>
    NoCpuCable,

    /// <summary>The supply's cable to the card is out.</summary>
    NoCardCable,
}

/// <summary>
/// How far a healthy machine could climb as it is now set up, and why no further.
/// A trial at a low ceiling says nothing about what lies above it.
/// </summary>
/// <param name="Stage">The highest stage that can be relied on.</param>
/// <param name="Beyond">
/// Chance, 0 to 1, that the stages above are reached all the same (a board that keeps its own outputs
/// alive beside a card); 0 where it is impossible.
/// </param>
/// <param name="Reasons">What holds the ceiling down.</param>
public sealed record Ceiling(BootStage Stage, double Beyond, ImmutableArray<CeilingReason> Reasons)
{
    /// <summary>Where the climb would end if the ceiling did not hold: stable with a drive, a picture without.</summary>
    private BootStage Top { get; init; } = BootStage.Stable;

    /// <summary>
    /// Chance that a board goes on driving its own outputs with a card fitted. Common practice says "usually not";
    /// the figure is bench judgement.
    /// </summary>
    public const double BoardOutputBesideCard = 0.25;

    /// <summary>Reads the ceiling off the machine as it stands.</summary>
    public static Ceiling Of(Situation situation)
    {
        var now = situation.Now;
        var stage = BootStage.Stable;
        var beyond = 0.0;
        var reasons = ImmutableArray.CreateBuilder<CeilingReason>();

        Lower(now[Place.Supply] is null, BootStage.NoStandby, CeilingReason.NoSupply);
        Lower(now[Place.Board] is null, BootStage.NoStandby, CeilingReason.NoBoard);
        Lower(now.Start == StartMethod.CaseSwitch && now[Place.Switch] is null, BootStage.StandbyOnly, CeilingReason.NoSwitch);
        Lower(Lacks(UnitKind.MainCable), BootStage.NoStandby, CeilingReason.NoMainCable);
        Lower(Lacks(UnitKind.CpuCable), BootStage.RunsNoPost, CeilingReason.NoCpuCable);
        Lower(now[Place.Cpu] is null, BootStage.RunsNoPost, CeilingReason.NoCpu);
        Lower(!situation.Sticks.Any(), BootStage.RunsNoPost, CeilingReason.NoMemory);
        Lower(now[Place.Monitor] is null, BootStage.PostNoPicture, CeilingReason.NoMonitor);
        Lower(now[Place.Cable] is null, BootStage.PostNoPicture, CeilingReason.NoCable);
        Lower(Lacks(UnitKind.DisplayAdapter), BootStage.PostNoPicture, CeilingReason.NoAdapter);
        Lower(now.Display is null, BootStage.PostNoPicture, CeilingReason.NoOutput);
        if (now.Display is { } shown)
        {
            if (shown.Source == Place.Board)
            {
                Lower(situation.Cpu is { HasGraphics: false }, BootStage.PostNoPicture, CeilingReason.CpuWithoutGraphics);
                if (stage > BootStage.PostNoPicture && situation.Cards.Any())
                {
                    beyond = BoardOutputBesideCard;
                    Lower(true, BootStage.PostNoPicture, CeilingReason.BoardBesideCard);
                }
            }
            else
            {
                Lower(now[shown.Source] is null, BootStage.PostNoPicture, CeilingReason.CardNotFitted);
                var draws = situation.Cards.Any(c => c.Place == shown.Source && c.Card.NeedsAuxPower);
                Lower(draws && Lacks(UnitKind.CardCable), BootStage.PostNoPicture, CeilingReason.NoCardCable);
            }
        }

        // Many boards stop before the end of POST where nothing can make a picture, others complete it.
        var blind = situation.Cpu is { HasGraphics: false } && !situation.Cards.Any();
        if (blind && stage >= BootStage.PostNoPicture)
        {
            Lower(true, BootStage.RunsNoPost, CeilingReason.NothingForAPicture);
            return new Ceiling(stage, 0.5, reasons.ToImmutable()) { Top = BootStage.PostNoPicture };
        }

        // A drive whose cable is listed and out is not reached.
        var drives = now.At.Keys.Where(p => p.Kind == PlaceKind.Storage).ToArray();
        var cables = situation.Parts.All.Count(u => u is { Kind: UnitKind.DataCable, Origin: Origin.Customer });
        var noDrive =
            !situation.IsChosen(MachineOption.LiveMedium)
            && drives.All(d => cables >= drives.Length && now[Place.Of(PlaceKind.DataCable, d.Part)] is null);
        Lower(noDrive, BootStage.Picture, CeilingReason.NoDrive);
        return new Ceiling(stage, beyond, reasons.ToImmutable()) { Top = noDrive ? BootStage.Picture : BootStage.Stable };

        // Cables that a job does not list belong to its supply.
        bool Lacks(UnitKind cable) =>
            now[Place.Of(UnitFacts.Of(cable).Place)] is null
            && situation.Parts.All.Any(u => u.Kind == cable && u.Origin == Origin.Customer);

        void Lower(bool when, BootStage to, CeilingReason reason)
        {
            if (!when)
                return;
            if (to < stage)
                stage = to;
            if (to < BootStage.Picture || stage == to)
                reasons.Add(reason);
        }
    }

    /// <summary>Whether a no-picture outcome of this trial would say anything about the picture path.</summary>
    public bool CanShowPicture => Reach(BootStage.Picture) > 0;

    /// <summary>The ceiling of a start that was judged while memory may still have been trained.</summary>
    /// <param name="chance">Chance, 0 to 1, that it was.</param>
    public Ceiling WhileTraining(double chance) =>
        Stage <= BootStage.RunsNoPost ? this : new Ceiling(BootStage.RunsNoPost, (1 - chance), Reasons) { Top = Stage };

    /// <summary>Whether a healthy machine can get to a stage, so that a failure to would say something.</summary>
    public bool CanReach(BootStage stage) => Reach(stage) > 0;

    /// <summary>Chance that a healthy machine gets at least to a stage.</summary>
    public double Reach(BootStage stage)
    {
        if (stage <= Stage)
            return 1;
        return stage <= Top ? Beyond : 0;
    }
}
