using System.Collections.Immutable;

namespace Kelvet.Core.Machines;

/// <summary>What does not fit together in a machine, seen before it is powered.</summary>
public enum Misfit
{
    /// <summary>The CPU is for another socket than the board has.</summary>
    SocketDiffers,

    /// <summary>The board's firmware is older than the CPU needs.</summary>
    FirmwareTooOld,

    /// <summary>The CPU needs a firmware of some version, and the board's is not known.</summary>
    FirmwareUnknown,

    /// <summary>A CPU is fitted and no cooler.</summary>
    NoCooler,

    /// <summary>A stick is of another generation than the board takes.</summary>
    MemoryTypeDiffers,

    /// <summary>Sticks of different kits, sizes or speeds are fitted together.</summary>
    MixedSticks,

    /// <summary>Sticks are in other slots than is usual for their number.</summary>
    WrongSlots,

    /// <summary>Two sticks or more share one channel.</summary>
    OneChannel,

    /// <summary>The monitor is on the board, and the CPU has no graphics.</summary>
    MonitorOnBoardWithoutGraphics,

    /// <summary>The monitor is on the board beside a fitted card, which usually takes the picture.</summary>
    MonitorOnBoardBesideCard,

    /// <summary>Nothing in it can make a picture.</summary>
    NothingForAPicture,

    /// <summary>A card needs power of its own, and no cable goes to it though the supply's cables are listed.</summary>
    NoCardCable,

    /// <summary>The card needs more power plugs than the supply has.</summary>
    TooFewPlugs,

    /// <summary>The supply is rated for less than the parts may draw.</summary>
    SupplyTooSmall,

    /// <summary>The cooler is for other sockets than the board has.</summary>
    CoolerForOtherSocket,

    /// <summary>The cooler carries off less than the CPU gives.</summary>
    CoolerTooWeak,

    /// <summary>More fans are fitted than the board has headers, and no hub.</summary>
    MoreFansThanHeaders,
}

/// <summary>One thing that does not fit, and the change that puts it right.</summary>
/// <param name="Kind">What it is.</param>
/// <param name="Unit">The unit that it is about.</param>
/// <param name="Fix">Changes that put it right with what is fitted; empty where it takes a part, a flash or a look.</param>
public sealed record MisfitFound(Misfit Kind, UnitId Unit, ImmutableArray<Change> Fix)
{
    /// <summary>Everything that does not fit in a machine, what stops it first.</summary>
    public static ImmutableArray<MisfitFound> In(Situation machine) =>
        machine.Board is not { } board
            ? []
            : [.. OfCpu(machine, board), .. OfPicture(machine, board), .. OfMemory(machine, board), .. OfPower(machine)];

    private static IEnumerable<MisfitFound> OfCpu(Situation machine, Motherboard board)
    {
        if (machine.Cpu is not { } cpu)
            yield break;
        if (cpu.Socket.Length > 0 && board.Socket.Length > 0 && !Same(cpu.Socket, board.Socket))
            yield return new(Misfit.SocketDiffers, cpu.Id, []);
        if (cpu.NeedsFirmware is { } needed && board.Firmware is { } has && has < needed)
            yield return new(Misfit.FirmwareTooOld, board.Id, []);
        if (cpu.NeedsFirmware is > 0 && board.Firmware is null)
            yield return new(Misfit.FirmwareUnknown, board.Id, []);
        if (machine.Now[Place.Cooler] is not { } fitted)
        {
            yield return new(Misfit.NoCooler, cpu.Id, []);
            yield break;
        }

        var cooler = machine.Parts[fitted];
        var socket = board.Socket.Length > 0 ? board.Socket : cpu.Socket;
        if (socket.Length > 0 && cooler.Fits.Length > 0 && !cooler.Fits.Any(s => Same(s, socket)))
            yield return new(Misfit.CoolerForOtherSocket, fitted, []);
        if (cooler.Watts is { } carries && cpu.Watts is { } gives && carries < gives)
            yield return new(Misfit.CoolerTooWeak, fitted, []);
    }

    private static IEnumerable<MisfitFound> OfPicture(Situation machine, Motherboard board)
    {
        var card = machine.Cards.FirstOrDefault();
        ImmutableArray<Change> toCard = card.Card is null
            ? []
            : [new Change.DisplayAt(new OutputRef(card.Place, card.Card.Outputs[0].Name))];
        var onBoard = machine.Now.Display is { Source.Kind: PlaceKind.Board };
        if (machine.Cpu is { HasGraphics: false })
        {
            if (card.Card is null)
                yield return new(Misfit.NothingForAPicture, board.Id, []);
            else if (onBoard)
                yield return new(Misfit.MonitorOnBoardWithoutGraphics, card.Card.Id, toCard);
        }
        else if (onBoard && card.Card is not null)
            yield return new(Misfit.MonitorOnBoardBesideCard, card.Card.Id, toCard);
    }

    private static IEnumerable<MisfitFound> OfMemory(Situation machine, Motherboard board)
    {
        var sticks = machine.Sticks;
        foreach (var (_, stick) in sticks)
        {
            if (stick.MemoryType.Length > 0 && board.MemoryType.Length > 0 && !Same(stick.MemoryType, board.MemoryType))
                yield return new(Misfit.MemoryTypeDiffers, stick.Id, []);
        }

        if (sticks.Length < 2)
            yield break;
        // Names tell no kit: two of one kit are often called by a number or a mark.
        var odd = sticks.Skip(1).Select(s => s.Stick).FirstOrDefault(s => MemoryRun.AreOfDifferentKits(sticks[0].Stick, s));
        if (odd is not null)
            yield return new(Misfit.MixedSticks, odd.Id, []);
        var slots = sticks.Select(s => s.Place.Part).ToArray();
        if (!board.HasUsualOrder(slots))
            yield return new(Misfit.WrongSlots, sticks[0].Stick.Id, ToUsual(machine, board));
        else if (board.Channels.Count() > 1 && slots.Select(s => board.Slot(s)?.Channel).Distinct().Count() == 1)
            yield return new(Misfit.OneChannel, sticks[0].Stick.Id, []);
    }

    private static IEnumerable<MisfitFound> OfPower(Situation machine)
    {
        if (machine.Now[Place.Supply] is { } id && machine.Parts[id] is var supply)
        {
            if (supply.Watts is { } rated && PowerEstimate.Of(machine) is { } estimate && rated < estimate.Wanted)
                yield return new(Misfit.SupplyTooSmall, id, []);
            if (supply.Plugs is { } plugs && machine.Cards.Sum(c => c.Card.Plugs ?? 0) > plugs)
                yield return new(Misfit.TooFewPlugs, id, []);
        }

        var fans = machine.Now.At.Keys.Count(p => p.Kind == PlaceKind.Fan);
        if (machine.Board is { FanHeaders: { } headers } board && fans > headers && machine.Now[Place.Of(PlaceKind.FanHub)] is null)
            yield return new(Misfit.MoreFansThanHeaders, board.Id, []);
        var listed = machine.Now.At.Keys.Any(p => p.Kind is PlaceKind.MainCable or PlaceKind.CpuCable or PlaceKind.CardCable);
        if (!listed || machine.Now[Place.Of(PlaceKind.CardCable)] is not null)
            yield break;
        foreach (var (_, card) in machine.Cards.Where(c => c.Card.NeedsAuxPower))
            yield return new(Misfit.NoCardCable, card.Id, []);
    }

    /// <summary>Moves that bring the sticks into the slots that are filled first, each at most once.</summary>
    private static ImmutableArray<Change> ToUsual(Situation machine, Motherboard board)
    {
        var wanted = board.UsualOrder.Take(machine.Sticks.Length).ToArray();
        var free = new Queue<string>(wanted.Where(w => machine.Now[Place.Memory(w)] is null));
        return
        [
            .. machine
                .Sticks.Where(s => !wanted.Contains(s.Place.Part))
                .Select(s => new Change.Move(s.Stick.Id, Place.Memory(free.Dequeue()))),
        ];
    }

    private static bool Same(string one, string other) => string.Equals(one, other, StringComparison.OrdinalIgnoreCase);
}
