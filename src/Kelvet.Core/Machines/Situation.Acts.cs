using System.Collections.Immutable;

namespace Kelvet.Core.Machines;

/// <content>What each act makes of the machine, or why it cannot be done.</content>
public sealed partial class Situation
{
    private readonly record struct Attempt(Situation? Next, string? Refusal)
    {
        public static implicit operator Attempt(string refusal) => new(null, refusal);

        public static implicit operator Attempt(Situation next) => new(next, null);
    }

    private Attempt Fit(UnitId id, Place place)
    {
        if (Parts.Find(id) is not { } unit)
            return NoUnit(id);
        if (Now.PlaceOf(id) is { } already)
            return $"{unit.Name} is in {already.Words()} already.";
        if (Now[place] is { } occupant)
            return $"{Capital(place.Words())} is taken by {Parts[occupant].Name}.";
        if (WhyUnfit(unit, place, Board) is { } why)
            return why;
        return With(Now.WithUnit(place, id), id);
    }

    private Attempt Remove(UnitId id)
    {
        if (Parts.Find(id) is not { } unit)
            return NoUnit(id);
        if (Now.PlaceOf(id) is not { } place)
            return $"{unit.Name} is not fitted.";
        if (place == Place.Board)
            return "A machine without its board cannot be tried. Swap the board for another.";
        return With(WithoutDisplayOn(Now.WithUnit(place, null), place));
    }

    private Attempt Move(UnitId id, Place place)
    {
        if (Parts.Find(id) is not { } unit)
            return NoUnit(id);
        if (Now.PlaceOf(id) is not { } from)
            return $"{unit.Name} is not fitted; fit it instead.";
        if (from == place)
            return $"{unit.Name} is in {place.Words()} already.";
        if (Now[place] is { } occupant)
            return $"{Capital(place.Words())} is taken by {Parts[occupant].Name}.";
        if (WhyUnfit(unit, place, Board) is { } why)
            return why;
        var moved = Now.WithUnit(from, null).WithUnit(place, id);
        if (Now.Display is { } shown && shown.Source == from)
            moved = moved.WithDisplay(shown with { Source = place });
        return With(moved, id);
    }

    private Attempt Swap(UnitId outId, UnitId inId)
    {
        if (Parts.Find(outId) is not { } outgoing)
            return NoUnit(outId);
        if (Parts.Find(inId) is not { } incoming)
            return NoUnit(inId);
        if (outId == inId)
            return $"{outgoing.Name} cannot be swapped for itself.";
        if (Now.PlaceOf(outId) is not { } place)
            return $"{outgoing.Name} is not fitted.";
        if (place == Place.Board)
            return SwapBoard((Motherboard)outgoing, incoming);
        if (WhyUnfit(incoming, place, Board) is { } why)
            return why;
        if (Now.PlaceOf(inId) is { } other)
        {
            return WhyUnfit(outgoing, other, Board) is { } whyBack
                ? whyBack
                : With(Now.WithUnit(place, inId).WithUnit(other, outId), inId, outId);
        }

        var swapped = Now.WithUnit(place, inId);
        if (
            Now.Display is { } shown
            && shown.Source == place
            && incoming is GraphicsCard card
            && card.Outputs.All(o => o.Name != shown.Output)
        )
            swapped = swapped.WithDisplay(new OutputRef(place, card.Outputs[0].Name));
        return place == Place.Cpu && Now[Place.Cooler] is { } cooler ? With(swapped, inId, cooler) : With(swapped, inId);
    }

    private Attempt SwapBoard(Motherboard outgoing, Unit incoming)
    {
        if (incoming is not Motherboard board)
            return $"{incoming.Name} is not a motherboard.";
        foreach (var (place, id) in Now.At)
        {
            if (place == Place.Board)
                continue;
            if (WhyUnfit(Parts[id], place, board) is { } why)
                return $"On {board.Name}: {why} Move or take it out first.";
        }

        var swapped = Now.WithUnit(Place.Board, board.Id);
        if (Now.Display is { } shown && shown.Source == Place.Board && board.Outputs.All(o => o.Name != shown.Output))
        {
            var signal = outgoing.Outputs.First(o => o.Name == shown.Output).Signal;
            var instead = board.Outputs.FirstOrDefault(o => o.Signal == signal) ?? board.Outputs.FirstOrDefault();
            swapped = swapped.WithDisplay(instead is null ? null : new OutputRef(Place.Board, instead.Name));
        }

        // Everything that hangs on the board has been unplugged and plugged in again.
        return With(swapped, [.. Now.At.Values.Where(id => id != outgoing.Id), board.Id]);
    }

    private Attempt Reseat(UnitId id)
    {
        if (Parts.Find(id) is not { } unit)
            return NoUnit(id);
        if (!Now.Has(id))
            return $"{unit.Name} is not fitted.";
        return unit.Kind == UnitKind.Motherboard ? "A board is not reseated; reseat what is plugged into it." : With(Now, id);
    }

    private Attempt Connect(UnitId id)
    {
        if (Parts.Find(id) is not { } unit)
            return NoUnit(id);
        if (unit is MemoryStick or GraphicsCard)
            return $"{unit.Name} is fitted in a slot; say which.";
        return Fit(id, UsualPlace(unit));
    }

    private Attempt Bypass(UnitId id)
    {
        if (Parts.Find(id) is not { } unit)
            return NoUnit(id);
        return UnitFacts.Of(unit.Kind).Absence == Absence.Bypassed ? Remove(id) : $"{unit.Name} is not an extension; take it out instead.";
    }

    private Attempt StartWith(StartMethod method)
    {
        if (method == Now.Start)
            return "The machine is started that way already.";
        if (method == StartMethod.CaseSwitch && Now[Place.Switch] is null)
            return "No case switch is connected.";
        return With(Now.WithStart(method));
    }

    private Attempt DisplayAt(OutputRef output)
    {
        if (Now.Display == output)
            return $"The monitor is on {output.Words()} already.";
        if (OutputsAt(output.Source) is not { } outputs)
            return $"Nothing with a video output is in {output.Source.Words()}.";
        if (outputs.All(o => o.Name != output.Output))
            return $"There is no output {output.Output} there; there is {string.Join(", ", outputs.Select(o => o.Name))}.";
        return With(Now.WithDisplay(output));
    }

    private Attempt ClearCmos() =>
        Board is { } board
            ? After(
                _history with
                {
                    Cleared = _history.Cleared.Add(board.Id),
                    // What the firmware was told is forgotten with the rest; what the system was told is not.
                    Chosen =
                    [
                        .. _history.Chosen.Where(c =>
                            c.Board != board.Id || c.Option is MachineOption.FastStartOff or MachineOption.LiveMedium
                        ),
                    ],
                }
            )
            : "There is no board to clear.";

    private Attempt IntoCase(UnitId id)
    {
        if (Parts.Find(id) is not { } unit)
            return NoUnit(id);
        return Mended(id, Remedy.Isolate)
            ? After(_history with { Mended = _history.Mended.Remove((id, Remedy.Isolate)) })
            : $"{unit.Name} is in its case.";
    }

    private Attempt Choose(MachineOption option)
    {
        if (Board is not { } board)
            return "There is no board to set.";
        if (option == MachineOption.LiveMedium && HasDrive(Now))
            return "With a drive in it would start from that. Take the drives out first.";
        return IsChosen(option) || (option == MachineOption.ProfileOn && ProfileStepsDown == 0)
            ? $"That is set already: {option.Words()}."
            : After(_history with { Chosen = Beside(option, board.Id).Add((board.Id, option)) });
    }

    /// <summary>What stays chosen beside a setting: of the steps of the memory's profile one at a time.</summary>
    private ImmutableHashSet<(UnitId Board, MachineOption Option)> Beside(MachineOption option, UnitId board) =>
        IsOfProfile(option) ? [.. _history.Chosen.Where(c => c.Board != board || !IsOfProfile(c.Option))] : _history.Chosen;

    private static bool IsOfProfile(MachineOption option) => option == MachineOption.ProfileOn || ProfileSteps.Contains(option);

    private Attempt Undo(MachineOption option) =>
        IsChosen(option) && Board is { } board
            ? After(_history with { Chosen = _history.Chosen.Remove((board.Id, option)) })
            : $"That was not changed: {option.Words()}.";

    private Attempt Lay(Posture posture) =>
        Posture == posture ? $"It is {posture.Words()} already." : After(_history with { Posture = posture });

    private Situation After(History history) => new(Parts, Now, history);

    private Attempt Mend(UnitId id, Remedy remedy)
    {
        if (Parts.Find(id) is not { } unit)
            return NoUnit(id);
        if (!RemediesFor(unit.Kind).Contains(remedy))
            return $"That is not done to a {unit.Kind.Words()}.";
        if (
            remedy == Remedy.Flash
            && unit is Motherboard { FlashesWithoutCpu: false, Firmware: { } version }
            && Cpu is { NeedsFirmware: { } needed } cpu
            && needed > version
        )
            return $"{unit.Name} needs a running CPU to be flashed, and {cpu.Name} does not run on its firmware. Fit an older CPU first.";
        if (remedy == Remedy.Flash && Now[Place.Board] != id)
            return $"{unit.Name} is not on the bench.";
        return After(
            _history with
            {
                Refitted = remedy is Remedy.Clean or Remedy.Repaste or Remedy.Straighten ? _history.Refitted.Add(id) : _history.Refitted,
                Mended = _history.Mended.SetItem((id, remedy), TimesMended(id, remedy) + 1),
            }
        );
    }
}
