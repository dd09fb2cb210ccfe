using Kelvet.Core.Evidence;
using Kelvet.Core.Jobs;
using Kelvet.Core.Observed;
using Kelvet.Core.Proving;
using Kelvet.Core.Tables;
using Kelvet.Core.Text;
using Kelvet.Core.Words;
using Kelvet.Web.Wording;

namespace Kelvet.Web.Shown;

/// <summary>A code, beep pattern or light sequence of a start with what it says, for the bench and the log.</summary>
/// <param name="Line">Line of the start.</param>
/// <param name="Signal">In the form of the tables.</param>
/// <param name="Address">Where it is looked up; empty when no table has it.</param>
/// <param name="Says">What it points at.</param>
/// <param name="DoesNotSay">What it leaves open.</param>
/// <param name="Checks">What to look at first, as the first table has it; empty when none has it.</param>
public sealed record CodeSign(int Line, string Signal, string Address, string Says, string DoesNotSay, string Checks)
{
    /// <summary>Everything that the board told at a start.</summary>
    public static IReadOnlyList<CodeSign> Of(Trial trial, BenchDiagnosis diagnosis) =>
        [
            .. SignalEvidence
                .Sayings(trial.Entry.Signs, trial.Situation.Board, diagnosis.Atlas.Signals)
                .Select(saying =>
                {
                    var meaning = SignalMeaning.Of(saying, diagnosis.Faults, trial.Situation);
                    var first = saying.Answer.Matches.FirstOrDefault();
                    var leaves = trial.Seen.ShowsPicture ? "The start got a picture: it counts against nothing." : meaning.DoesNotSay;
                    return new CodeSign(
                        trial.Number,
                        saying.Answer.Signal,
                        first is null ? "" : AddressOf(first.Table, first.Row.Signal),
                        meaning.Says,
                        leaves,
                        trial.Seen.ShowsPicture ? "" : first?.Row.Checks ?? ""
                    );
                }),
        ];

    /// <summary>The page of a row of a table.</summary>
    public static string AddressOf(SignalTable table, string signal) => $"/codes/{table.Id}/{Uri.EscapeDataString(signal)}";

    /// <summary>Reads an uploaded capture.</summary>
    /// <returns>The codes, or why there are none; both null when no file was sent.</returns>
    public static async Task<(CodeLog? Codes, string? Why)> ReadAsync(IFormFile? file)
    {
        if (file is not { Length: > 0 })
            return (null, null);
        if (file.Length > CodeLog.MostCharacters)
            return (null, $"The capture has {file.Length} bytes; {CodeLog.MostCharacters} is the most.");
        using var reader = new StreamReader(file.OpenReadStream());
        try
        {
            return (CodeLog.Read(await reader.ReadToEndAsync(), Text.Cut(file.FileName, 60)), null);
        }
        catch (DataFileException e)
        {
            return (null, e.Message);
        }
    }
}
