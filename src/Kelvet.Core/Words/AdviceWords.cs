using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;

namespace Kelvet.Core.Words;

/// <summary>Advice in sentences.</summary>
public static class AdviceWords
{
    /// <summary>A case that moves by less than this, whatever comes out, is no reason for a step.</summary>
    private const double WorthTelling = 0.05;

    private const string Together = "It tells most for its minutes.";

    /// <summary>What is done, in the trade's words.</summary>
    public static string Words(this Candidate step) =>
        step switch
        {
            { Check: { } check } => $"{check.Name}: {step.After.Parts.NameOf(step.Checked!)}",
            { Kind: StartKind.Cold, Changes.Length: 0 } => "let it get cold, and start it again",
            { Kind: StartKind.Restart, Changes.Length: 0 } => "restart it while it runs",
            { Kind: StartKind.Wake, Changes.Length: 0 } => "let it sleep, and wake it",
            { Kind: StartKind.Load, Changes.Length: 0 } => "let it run under load",
            { Changes.Length: 0 } => "start it again, nothing changed",
            { Kind: { } kind } => $"{step.Changes.Words(step.After.Parts)}, then {ThenStart(kind)}",
            _ => step.Changes.Words(step.After.Parts),
        };

    /// <summary>How a start of a kind is made after work.</summary>
    public static string ThenStart(StartKind kind) =>
        kind switch
        {
            StartKind.Cold => "let it get cold and start it",
            StartKind.Wake => "start it, let it sleep, and wake it",
            StartKind.Load => "run it under load",
            StartKind.Restart => "start it and restart it",
            _ => "start it",
        };

    /// <summary>Whether everything is in its place again, and else what stays empty.</summary>
    internal static string InPlace(Decision decision) =>
        decision.Empty.IsEmpty
            ? "everything in its place"
            : $"and {string.Join(", ", decision.Empty.Select(p => p.Brief()))} {(decision.Empty.Length == 1 ? "stays" : "stay")} empty: "
                + "the owner is to know, or another part is got";

    /// <summary>What else is changed when a part goes back to prove it.</summary>
    internal static string Otherwise(Decision decision) =>
        decision.Step?.Changes.Any(c => c is Change.ClearCmos) == true ? "the settings cleared" : "nothing else changed";

    /// <summary>A further start, the way that shows the complaint.</summary>
    private static string Again(Candidate? step) => step is { Kind: not null } ? $"{Capital(step.Words())}." : "Start it again.";

    /// <summary>An outcome in words.</summary>
    public static string Words(this Outcome outcome) =>
        outcome.Seen is { } seen ? seen.Words()
        : outcome.Found ? outcome.Check!.Found
        : "nothing found";

    /// <summary>Why a step is not worth taking; empty when it is.</summary>
    public static string WhyNotWords(this Assessment step) =>
        step.WhyNot switch
        {
            WhyNot.WorthIt => "",
            WhyNot.NoPictureWhatever => $"It can give no picture whatever is wrong: {step.Ceiling.Words()}.",
            _ => "Whatever it shows, the suspects stay as they are.",
        };

    /// <summary>The advice in one sentence.</summary>
    public static string Words(this Advice advice)
    {
        var d = advice.Decision;
        string Name(Unit? unit) => advice.Parts.NameOf(unit!);
        var step = d.Step?.Words() ?? "";
        return d.Kind switch
        {
            AdviceKind.LookThenStart =>
                "Look it over with the power off: every plug, stick and card. Then start it as it came in and record how far it gets.",
            AdviceKind.MakeSafe => d.Missing is { } missing ? $"{d.Block!.Value.Words()} Get {Name(missing)}."
            : step.Length > 0 ? $"Before any power: {step}."
            : d.Block!.Value.Words(),
            AdviceKind.CompleteProof or AdviceKind.PutBackToProve => $"Prove it: {step}.",
            AdviceKind.AwaitFailure or AdviceKind.StartOnceMore => Again(d.Step),
            AdviceKind.LeaveOut => $"Leave out {Name(d.About)}.",
            AdviceKind.FlashWhileItRuns => $"Flash it while it runs: {step}.",
            AdviceKind.ReplaceCondemned when d.StandIn is { } standIn =>
                $"{Name(d.About)} is condemned, proved both ways. Put {Name(standIn)} in its place.",
            AdviceKind.ReplaceCondemned =>
                $"{Name(d.About)} is condemned, proved both ways. Replace it, put everything back, prove that it runs.",
            AdviceKind.GetReplacement =>
                $"{Name(d.About)} is at {Percent.Words(d.Probability)}, and nothing at hand can take its place: get {Name(d.Missing)}.",
            AdviceKind.GetSticks => $"None of the customer's sticks can stay, and there is no other: get {Name(d.Missing)}.",
            AdviceKind.TryTogether => $"Put it together without what is proved, and start it: {step}.",
            AdviceKind.PutRight => $"Nothing is broken: put it where it belongs, and start it: {step}.",
            AdviceKind.PutRestBack => $"Put the rest back and start it: {step}.",
            AdviceKind.MisSeen => "Start it again, and watch closely.",
            AdviceKind.Done =>
                $"It runs, {InPlace(d)}; the chance that something is left is {Percent.Words(d.Probability)}. Close the job.",
            AdviceKind.NotReproduced =>
                "Not reproduced: it never failed here. Ask for the customer's own monitor, cable, lead and strip, the outlet that it "
                    + "hangs on, and how and when it fails there; start it once with those before it goes back.",
            AdviceKind.PartTellsMore => $"{Capital(Name(d.Missing))} would tell more than anything at hand: {d.WithAPart!.Words()}.",
            AdviceKind.OnlyAPartTells => $"Nothing at hand tells more. {Capital(Name(d.Missing))} would: {d.WithAPart!.Words()}.",
            AdviceKind.NothingTells => "Nothing that can be tried here tells more.",
            AdviceKind.NotProved =>
                "Nothing left to try would settle it soon: stop here, say what was ruled out and who could look further.",
            _ => $"{Capital(step)}.",
        };
    }

    /// <summary>Why it is advised; empty when the words say it.</summary>
    public static string Why(this Advice advice)
    {
        var d = advice.Decision;
        string Name(Unit? unit) => advice.Parts.NameOf(unit!);
        return d.Kind switch
        {
            AdviceKind.MakeSafe => d.Missing is null && d.Step is not null ? d.Block!.Value.Words() : "",
            AdviceKind.HouseFirst => "This shop does it first.",
            AdviceKind.CheapFirst =>
                $"{Name(d.About)} is at {Percent.Words(d.Probability)}. Before another is got, this is tried with it in: it takes minutes.",
            AdviceKind.MakeItFail => "It is said to fail so. It has to fail here before anything can be told from it.",
            AdviceKind.TellsMost => advice.Next is { } next ? Reason(next) : "",
            AdviceKind.NextOfSchool => advice.Next is { } next ? $"Next in the order of \"{advice.School.Name}\". {Reason(next)}" : "",
            AdviceKind.CompleteProof or AdviceKind.PutBackToProve =>
                $"{Name(d.About)} is at {Percent.Words(d.Probability)}, but the proof runs one way only. If the machine "
                    + $"fails again with it back and {Otherwise(d)}, that is proof.",
            AdviceKind.Control => $"{Name(d.About)} is at {Percent.Words(d.Probability)}, but the log allows as well: {d.Fault!.Words()} "
                + $"({Name(d.Fault!.Unit)}). This tells the two apart.",
            AdviceKind.AwaitFailure => $"{Name(d.About)} is back and should fail again; it may do so only now and then.",
            AdviceKind.SwapToProve =>
                $"{Name(d.About)} is at {Percent.Words(d.Probability)}. If the machine starts without it, half the proof is there.",
            AdviceKind.LookBeforeGivingBack => "It has not failed here. It is looked over, part by part, before it is given back.",
            AdviceKind.MendWhatWasFound =>
                $"{Name(d.About)}, {d.Fault!.Words()}: it was found so. Whatever else is wrong, a machine with it is not repaired.",
            AdviceKind.Mend => $"{Name(d.About)} is at {Percent.Words(d.Probability)}, and this is what most likely cures it.",
            AdviceKind.FlashWhileItRuns => $"{Name(d.About)} is not broken: {d.Fault!.Words()}.",
            AdviceKind.ReplaceCondemned when d.StandIn is not null => "Then everything goes back as it was received and is proved to run.",
            AdviceKind.TryTogether => "What keeps it from starting is known and stays out.",
            AdviceKind.PutRestBack =>
                "What was found is dealt with; the rest goes back as it was received, and the whole machine is tried.",
            AdviceKind.StartOnceMore => $"It runs, {InPlace(d)}. {Starts(d.More)} needed: until then the chance that it fails again "
                + "at the next start is above half a percent.",
            AdviceKind.MisSeen => "The last start failed, and nothing left explains it: it may have been mis-seen.",
            _ => "",
        };
    }

    /// <summary>What keeps a machine from being powered, and what has to be recorded first.</summary>
    public static string Words(this PowerBlock block) =>
        block switch
        {
            PowerBlock.NoCooler => "A CPU is not run without a cooler, not even for a second. Fit the cooler first.",
            PowerBlock.SupplyTripped =>
                "This supply tripped a breaker: it is not powered again. Swap it for a known-good one, and have the outlet "
                    + "checked by an electrician.",
            PowerBlock.SupplyBurnt => "It smelled burnt: this supply is not powered again. Swap it for a known-good one first.",
            PowerBlock.LookOverBoard =>
                "It smelled burnt: look the board over for burn marks and swollen capacitors, and record that, before anything is powered.",
            PowerBlock.BoardBurnt =>
                "It smelled burnt, and this board has burn marks: it is not powered again. Another board goes in first.",
            PowerBlock.LookForDamp =>
                "Liquid got in: do not power it. Battery out, dry it, take the board out, look for damp and residue, and "
                    + "record that look first.",
            PowerBlock.StillDamp =>
                "It was still damp or had residue at the last look: clean and dry it, and record another look before it is powered.",
            PowerBlock.BlindFlash =>
                "A board is flashed only while the machine shows a picture as it stands, or where the board flashes without a CPU. "
                    + "Start it as it stands first; without a picture, fit a CPU that its firmware knows.",
            _ => block.ToString(),
        };

    /// <summary>Why the gate refuses, and what to do.</summary>
    public static string Words(this GateAnswer answer) =>
        answer.Why switch
        {
            GateRefusal.Blocked => answer.Block!.Value.Words(),
            GateRefusal.TakePowerOffFirst => "Hands go in first: take the power off, then drain.",
            GateRefusal.StillDraining => "It is still draining. Wait for the countdown.",
            GateRefusal.AlreadyRecorded => "How this start went is recorded already. Start it again first, then say how far it got.",
            GateRefusal.PowerIsOff => "The power is off. Put it on, then say how far it got.",
            GateRefusal.PowerNotRecorded => "Whether it is on is not recorded. Say that the power is on, then how far it got.",
            GateRefusal.NothingToStartAgain => "The power is off: there is nothing to start again. Put the power on.",
            _ => answer.Why.ToString(),
        };

    /// <summary>"3 more clean starts in a row are", to be followed by "needed".</summary>
    internal static string Starts(int more) =>
        more switch
        {
            <= 1 => "One more clean start is",
            >= Closing.MostForeseen => $"{Closing.MostForeseen} more clean starts or above are",
            _ => $"{more} more clean starts in a row are",
        };

    private static string Reason(Assessment a)
    {
        var parts = a.Candidate.After.Parts;
        if (a.Outcomes.Length < 2 || a.Outcomes.Any(o => o.Meaning.Length == 0))
            return Together;
        // What stands the same either way is not what the step is taken for.
        var told = a.Outcomes[0]
            .Meaning.Zip(a.Outcomes[1].Meaning)
            .SkipWhile(m => m.First.Unit.Id == m.Second.Unit.Id && Math.Abs(m.First.Probability - m.Second.Probability) < WorthTelling)
            .ToArray();
        if (told.Length == 0)
            return Together;
        var (first, second) = told[0];
        return first.Unit.Id != second.Unit.Id
            ? $"It tells {parts.NameOf(first.Unit)} from {parts.NameOf(second.Unit)}."
            : $"After it {parts.NameOf(first.Unit)} is at {Percent.Words(first.Probability)} or at {Percent.Words(second.Probability)}.";
    }

    private static string Capital(string text) => char.ToUpperInvariant(text[0]) + text[1..];
}
