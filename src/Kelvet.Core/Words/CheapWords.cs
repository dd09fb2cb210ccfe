using Kelvet.Core.Planning;

namespace Kelvet.Core.Words;

/// <summary>Words for what is done before a part is replaced.</summary>
public static class CheapWords
{
    /// <summary>One act and how it stands: "settings cleared", "not seated anew: it costs more than the part".</summary>
    public static string Words(this CheapCheck check) =>
        check.State switch
        {
            CheapState.Done => Done(check),
            CheapState.Open => $"not {Done(check)}",
            CheapState.NotInQuestion => $"not {Done(check)}: it could not be that",
            CheapState.Impossible => $"not {Done(check)}: it is not powered again",
            CheapState.TooDear => $"not {Done(check)}: that costs more than the part",
            _ => throw new InvalidOperationException($"There are no words for {check.State}."),
        };

    /// <summary>What is to be done before a part is replaced: "Before the CPU is replaced: clear the settings, seat it anew. Or say why
    /// not."</summary>
    /// <param name="checks">The acts.</param>
    /// <param name="the">The part, as "the CPU".</param>
    public static string WhyHeld(this OpenChecks checks, string the) =>
        $"Before {the} is replaced: {string.Join(", ", checks.All.Where(c => c.Holds).Select(ToDo))}. Or say why not.";

    private static string Done(CheapCheck check) =>
        check.Act switch
        {
            CheapAct.ClearSettings => "settings cleared",
            CheapAct.Reseat => "seated anew",
            CheapAct.Clean => "contacts cleaned",
            CheapAct.LookAt => $"looked at ({check.Look!.Name})",
            _ => throw new InvalidOperationException($"There are no words for {check.Act}."),
        };

    private static string ToDo(CheapCheck check) => check.Act == CheapAct.ClearSettings ? "clear the settings" : "seat it anew";
}
