using Kelvet.Core.Planning;

namespace Kelvet.Core.Words;

/// <summary>Words for what is done before a part is replaced.</summary>
public static class CheapWords
{
    /// <summary>One act and how it stands: "settings cleared", "not seated anew: it costs more than the part".</summary>
    public static string Words(this CheapCheck check) =>
        check.State switch
        {
            CheapState.Done => Said(check).Done,
            CheapState.Open => Said(check).Not,
            CheapState.NotInQuestion => $"{Said(check).Not}: it could not be that",
            CheapState.Impossible => $"{Said(check).Not}: it is not powered again",
            CheapState.TooDear => $"{Said(check).Not}: that costs more than the part",
            _ => throw new InvalidOperationException($"There are no words for {check.State}."),
        };

    /// <summary>What is to be done before a part is replaced: "Before the CPU is replaced: clear the settings, seat it anew. Or say why
    /// not."</summary>
    /// <param name="checks">The acts.</param>
    /// <param name="the">The part, as "the CPU".</param>
    public static string WhyHeld(this OpenChecks checks, string the) =>
        $"Before {the} is replaced: {string.Join(", ", checks.All.Where(c => c.Holds).Select(ToDo))}. Or say why not.";

    private static (string Done, string Not) Said(CheapCheck check) =>
        check.Act switch
        {
            CheapAct.ClearSettings => ("settings cleared", "settings not cleared"),
            CheapAct.Reseat => ("seated anew", "not seated anew"),
            CheapAct.Clean => ("contacts cleaned", "contacts not cleaned"),
            CheapAct.LookAt => ($"done: {check.Look!.Name}", $"not done: {check.Look.Name}"),
            _ => throw new InvalidOperationException($"There are no words for {check.Act}."),
        };

    private static string ToDo(CheapCheck check) => check.Act == CheapAct.ClearSettings ? "clear the settings" : "seat it anew";
}
