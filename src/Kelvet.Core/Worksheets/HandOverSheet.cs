using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Proving;

namespace Kelvet.Core.Worksheets;

/// <summary>What is looked at before a machine goes back.</summary>
public enum HandOverKind
{
    /// <summary>All memory is seen, at its speed.</summary>
    Memory,

    /// <summary>A drive is seen with its size.</summary>
    Drive,

    /// <summary>A video output shows a picture.</summary>
    Output,

    /// <summary>The USB ports of one side.</summary>
    Ports,

    /// <summary>Network and sound.</summary>
    Network,

    /// <summary>A fan turns, on its own header.</summary>
    Fan,

    /// <summary>The pump runs.</summary>
    Pump,

    /// <summary>The processor's temperature after some minutes.</summary>
    Temperature,

    /// <summary>Version and date of the firmware are noted.</summary>
    Firmware,

    /// <summary>Date and time are right, also after the lead was out.</summary>
    Clock,

    /// <summary>Settings, boot order and memory profile as agreed.</summary>
    Settings,

    /// <summary>What does not fit together was told.</summary>
    Misfit,

    /// <summary>Something that was found in the course of the job: put right, or only told.</summary>
    Finding,

    /// <summary>Something that is still to be done.</summary>
    LooseEnd,

    /// <summary>A part of the customer's that is not in its place: back, or in a bag with its label.</summary>
    PartOut,

    /// <summary>A part of the shop's that is still in it.</summary>
    PartLent,

    /// <summary>Case closed, nothing loose in it, accessories with it.</summary>
    Case,
}

/// <summary>A point of the sheet.</summary>
/// <param name="Kind">What is looked at.</param>
/// <param name="Unit">The part that it is about; null where it is about the machine.</param>
/// <param name="Detail">What is to be seen there: GB, an output's name, a loose end; empty where nothing more is said.</param>
/// <param name="Misfit">What does not fit; null for other points.</param>
public sealed record HandOverItem(HandOverKind Kind, Unit? Unit, string Detail, Misfit? Misfit = null);

/// <summary>Everything there, everything in order: the points that this machine has, before it goes back to its owner.</summary>
public static class HandOverSheet
{
    /// <summary>The points of a job as its machine now stands.</summary>
    public static ImmutableArray<HandOverItem> Of(BenchDiagnosis diagnosis)
    {
        var job = diagnosis.Job;
        return [.. OfTheMachine(job.Now, Knowledge.Of(job)), .. FoundIn(job, diagnosis.Atlas), .. OfTheJob(job)];
    }

    private static IEnumerable<HandOverItem> OfTheMachine(Situation now, Knowledge known)
    {
        if (now.Board is not null && now.Sticks.Length > 0)
            yield return new(HandOverKind.Memory, null, MemoryOf(now, known));
        foreach (var (place, id) in now.Now.At)
        {
            var unit = now.Parts[id];
            HandOverKind? kind = place.Kind switch
            {
                PlaceKind.Storage => HandOverKind.Drive,
                PlaceKind.Fan or PlaceKind.Cooler => HandOverKind.Fan,
                PlaceKind.Pump => HandOverKind.Pump,
                _ => null,
            };
            if (kind is { } looked && !known.IsGuess(id, PartFact.Presence))
                yield return new(looked, unit, "");
        }

        // Behind a card the board's own outputs are dark on most machines.
        foreach (var source in now.Now.At.Keys.Where(p => now.Cards.IsEmpty ? p.Kind == PlaceKind.Board : p.Kind == PlaceKind.Card))
        {
            if (known.IsGuess(now.Now[source]!.Value, PartFact.Outputs))
            {
                yield return new(HandOverKind.Output, now.Parts[now.Now[source]!.Value], "");
                continue;
            }

            foreach (var output in now.Cpu is { HasGraphics: false } && source.Kind == PlaceKind.Board ? [] : now.OutputsAt(source) ?? [])
                yield return new(HandOverKind.Output, now.Parts[now.Now[source]!.Value], output.Name);
        }

        yield return new(HandOverKind.Ports, null, "at the front");
        yield return new(HandOverKind.Ports, null, "at the back");
        yield return new(HandOverKind.Network, null, "");
        yield return new(HandOverKind.Temperature, null, "");
        if (now.Board is { } board)
            yield return new(HandOverKind.Firmware, board, board.Firmware is { } version ? $"{version}" : "");
        yield return new(HandOverKind.Clock, null, "");
        yield return new(HandOverKind.Settings, null, "");
    }

    /// <summary>What the memory comes to as far as it is known: by its labels, else as the machine itself told; empty where nobody knows.
    /// </summary>
    private static string MemoryOf(Situation now, Knowledge known)
    {
        if (MemoryRun.Of(now) is not { } run || now.Sticks.Any(s => known.IsGuess(s.Stick.Id, PartFact.Presence)))
            return known.MemorySeen is { } told ? $"{told} GB" : "";
        var speed = run.Speed is { } mts ? $", {mts} MT/s" : "";
        var total = run.TotalGb ?? known.MemorySeen;
        var slots = known.IsGuess(now.Board?.Id ?? default, PartFact.Slots)
            ? ""
            : $": {string.Join(", ", now.Sticks.Select(s => s.Stick.SizeGb > 0 ? $"{s.Place.Part} {s.Stick.SizeGb} GB" : s.Place.Part))}";
        return $"{(total is { } gb ? $"{gb} GB" : $"{now.Sticks.Length} sticks")}{speed}{slots}";
    }

    /// <summary>What was found and is not there to be seen any more, or belongs to no fault: each is put right, or was told.</summary>
    private static IEnumerable<HandOverItem> FoundIn(BenchJob job, Atlas atlas)
    {
        var there = MisfitFound.In(job.Now).Select(m => m.Kind).ToHashSet();
        foreach (var misfit in job.Lines.Select(l => l.Stands).OfType<MisfitEntry>().Where(m => !there.Contains(m.Kind)))
            yield return new(HandOverKind.Finding, job.Now.Parts[misfit.Unit], "", misfit.Kind);
        // The last look at the same thing counts: what was found and then no more was put right.
        var looks = job.Lines.Select(l => l.Stands).OfType<FindingEntry>().GroupBy(f => (f.Check, f.Unit)).Select(g => g.Last());
        foreach (var look in looks.Where(f => f.Found && job.Now.Now.Has(f.Unit)))
        {
            if (atlas.Check(look.Check) is { Powered: false } check)
                yield return new(
                    HandOverKind.Finding,
                    job.Now.Parts[look.Unit],
                    check.Findings.FirstOrDefault(s => s.Id == look.What)?.Name ?? check.Found
                );
        }
    }

    private static IEnumerable<HandOverItem> OfTheJob(BenchJob job)
    {
        foreach (var misfit in MisfitFound.In(job.Now).Where(m => m.Kind != Misfit.FirmwareUnknown))
            yield return new(HandOverKind.Misfit, job.Now.Parts[misfit.Unit], "", misfit.Kind);
        foreach (var end in Procedures.LooseEnds(job))
            yield return new(HandOverKind.LooseEnd, null, end);
        var strays = Settling.Of(job);
        foreach (var (unit, _) in job.OutOfPlace().Where(o => strays.All(s => s.Unit.Id != o.Unit.Id || s.Said is null)))
            yield return new(HandOverKind.PartOut, unit, "");
        foreach (var lent in strays.Where(s => s is { Stray: Stray.OursIn, Said: null }))
            yield return new(HandOverKind.PartLent, lent.Unit, "");
        yield return new(HandOverKind.Case, null, "");
    }
}
