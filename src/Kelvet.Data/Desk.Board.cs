using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Text;
using Kelvet.Core.Words;
using Microsoft.EntityFrameworkCore;

namespace Kelvet.Data;

/// <content>The shop's board: what a job waits for, who has it, when it goes; and where the shelf's parts are.</content>
public sealed partial class Desk
{
    /// <summary>Characters of what a job waits for.</summary>
    public const int LongestWait = 120;

    /// <summary>Lets a job wait, or takes it on again.</summary>
    /// <param name="number">The job.</param>
    /// <param name="wait">What for.</param>
    /// <param name="what">For which part, or which answer, in words.</param>
    /// <param name="from">From whom that comes; empty where it was not said.</param>
    /// <param name="due">When that is due; null where it was not said.</param>
    /// <param name="since">Since when, for what is told of the past; null for now, or since it has waited already.</param>
    /// <param name="cancel">Stops the work.</param>
    /// <exception cref="EntryRefusedException">It is closed, or nothing is said of what it waits for.</exception>
    public Task<DeskAnswer> WaitAsync(
        int number,
        JobWait wait,
        string what,
        string from,
        DateTime? due,
        DateTime? since = null,
        CancellationToken cancel = default
    ) =>
        RunAsync(
            "wait",
            number,
            job =>
            {
                if (job.IsClosed && wait != JobWait.None)
                    throw new EntryRefusedException($"Job {number} is closed: it waits for nothing.");
                if (wait != JobWait.None && what.Length is 0 or > LongestWait)
                    throw new EntryRefusedException($"Say what it waits for, in 1 to {LongestWait} characters.");
                if (from.Length > LongestWait)
                    throw new EntryRefusedException($"From whom it comes has at most {LongestWait} characters.");
                if (wait == JobWait.None)
                    GoOn(job.Row);
                else
                    (job.Row.Wait, job.Row.WaitsFor, job.Row.WaitsFrom, job.Row.DueUtc, job.Row.WaitsSinceUtc) = (
                        wait,
                        what,
                        from,
                        due,
                        since ?? job.Row.WaitsSinceUtc ?? Now()
                    );
                return Task.FromResult(new DeskAnswer(job));
            },
            cancel
        );

    /// <summary>It waits for nothing any more: the log stands where it stood.</summary>
    private static void GoOn(JobRow row) =>
        (row.Wait, row.WaitsFor, row.WaitsFrom, row.DueUtc, row.WaitsSinceUtc) = (JobWait.None, "", "", null, null);

    /// <summary>Promises a date, or takes the promise back.</summary>
    public Task<DeskAnswer> PromiseAsync(int number, DateTime? promised, CancellationToken cancel = default) =>
        RunAsync(
            "promise",
            number,
            job =>
            {
                job.Row.PromisedUtc = promised;
                return Task.FromResult(new DeskAnswer(job));
            },
            cancel
        );

    /// <summary>Passes a job on to another technician, with a note that stands in its log.</summary>
    /// <param name="number">The job.</param>
    /// <param name="to">Who takes it; empty for whoever does.</param>
    /// <param name="note">What they should know.</param>
    /// <param name="rules">What it is carried out under.</param>
    /// <param name="cancel">Stops the work.</param>
    /// <exception cref="EntryRefusedException">It is closed.</exception>
    public Task<DeskAnswer> PassOnAsync(int number, string to, string note, DeskRules rules, CancellationToken cancel = default) =>
        RunAsync(
            "pass on",
            number,
            async job =>
            {
                if (job.IsClosed)
                    throw new EntryRefusedException($"Job {number} is closed. Reopen it to pass it on.");
                job.Row.Holder = to;
                var words = $"Passed on{(to.Length > 0 ? $" to {to}" : "")}.{(note.Length > 0 ? $" {note}" : "")}";
                return new DeskAnswer(
                    await AppendAsync(job, new NoteEntry(Guid.NewGuid()) { Note = words }, rules, Attachments.None, cancel)
                );
            },
            cancel
        );

    /// <summary>Says who has a job on the bench; empty for whoever takes it.</summary>
    public Task<DeskAnswer> HoldAsync(int number, string by, CancellationToken cancel = default) =>
        RunAsync(
            "hold",
            number,
            job =>
            {
                job.Row.Holder = by;
                return Task.FromResult(new DeskAnswer(job));
            },
            cancel
        );

    /// <summary>Says what a machine is worth, running; null to go by its parts again.</summary>
    /// <exception cref="ArgumentOutOfRangeException">Less than 0 or more than 100,000.</exception>
    public Task<DeskAnswer> ValueAsync(int number, decimal? worth, CancellationToken cancel = default) =>
        RunAsync(
            "value",
            number,
            job =>
            {
                if (worth is < 0 or > 100_000)
                    throw new ArgumentOutOfRangeException(nameof(worth), worth, "A machine is worth 0 to 100,000.");
                job.Row.DropOffJson = (DropOff.Of(job.Row) with { Worth = worth }).Write();
                return Task.FromResult(new DeskAnswer(job));
            },
            cancel
        );

    /// <summary>The owner has answered: what it may come to is what was agreed, and the job goes on.</summary>
    /// <param name="number">The job.</param>
    /// <param name="limit">The most that it may come to now; null where it is to go back as it is.</param>
    /// <param name="cancel">Gives up.</param>
    public Task<DeskAnswer> AnsweredAsync(int number, decimal? limit, CancellationToken cancel = default) =>
        RunAsync(
            "answered",
            number,
            job =>
            {
                if (limit is { } most)
                    job.Row.DropOffJson = (DropOff.Of(job.Row) with { Limit = most }).Write();
                if (job.Row.Wait == JobWait.Customer)
                    GoOn(job.Row);
                return Task.FromResult(new DeskAnswer(job));
            },
            cancel
        );

    /// <summary>The machine is the shop's own, bought to be mended and sold; null for what it cost makes it a customer's again.</summary>
    /// <exception cref="EntryRefusedException">An amount is out of its range.</exception>
    public Task<DeskAnswer> OwnAsync(int number, decimal? bought, decimal? asking, CancellationToken cancel = default) =>
        RunAsync(
            "own",
            number,
            job =>
            {
                if (bought is < 0 or > Core.Billing.BillLine.Most || asking is < 0 or > Core.Billing.BillLine.Most)
                    throw new EntryRefusedException($"What it cost and what is asked for it are 0 to {Core.Billing.BillLine.Most:N0}.");
                job.Row.DropOffJson = (DropOff.Of(job.Row) with { Bought = bought, Asking = bought is null ? null : asking }).Write();
                return Task.FromResult(new DeskAnswer(job));
            },
            cancel
        );

    /// <summary>The code by which the owner finds the state of a job; it is made where there is none yet.</summary>
    public Task<DeskAnswer> StateCodeAsync(int number, CancellationToken cancel = default) =>
        RunAsync(
            "state code",
            number,
            job =>
            {
                if (job.Row.StateCode.Length == 0)
                    job.Row.StateCode = StateCodes.New();
                return Task.FromResult(new DeskAnswer(job));
            },
            cancel
        );

    /// <summary>The machine goes back to its owner. A sealed password goes with it: it is not kept.</summary>
    /// <exception cref="EntryRefusedException">The job is still open.</exception>
    public Task<DeskAnswer> HandOverAsync(int number, CancellationToken cancel = default) =>
        RunAsync(
            "hand over",
            number,
            job =>
            {
                if (!job.IsClosed)
                    throw new EntryRefusedException($"Close job {number} first, with what was found.");
                job.Row.HandedOverUtc ??= Now();
                job.Row.DropOffJson = DropOff.Of(job.Row) is { Sealed.Length: > 0 } kept
                    ? (kept with { Sealed = "" }).Write()
                    : job.Row.DropOffJson;
                return Task.FromResult(new DeskAnswer(job));
            },
            cancel
        );

    /// <summary>Closes a job whose fault was not seen here, after enough starts that passed. Nothing is named as the cause.</summary>
    /// <param name="number">The job.</param>
    /// <param name="words">What the customer should watch.</param>
    /// <param name="rules">What it is carried out under; the name must be given.</param>
    /// <param name="cancel">Stops the work.</param>
    /// <exception cref="EntryRefusedException">It failed here, it was not started often enough, or nobody says who closes it.</exception>
    public Task<DeskAnswer> CloseUnreproducedAsync(int number, string words, DeskRules rules, CancellationToken cancel = default) =>
        RunAsync(
            "close unreproduced",
            number,
            async job =>
            {
                if (job.IsClosed)
                    throw new EntryRefusedException($"Job {number} is closed already.");
                if (rules.By.Length == 0)
                    throw new EntryRefusedException("Say who closes the job.");
                if (words.Length is 0 or > 1000)
                    throw new EntryRefusedException("Say what the customer should watch, in 1 to 1,000 characters.");
                if (!Reproduction.MayEndUnreproduced(job.Bench))
                    throw new EntryRefusedException(
                        job.Bench.Trials.Any(t => t.Failed)
                            ? "It failed here: the fault was seen. Close it with what was found."
                            : $"Start it at least {Reproduction.LeastPasses} times before \"not reproduced\" is said."
                    );
                CheckSettled(job.Bench);
                await MoveShelfAsync(job, closes: true, cancel);
                var row = job.Row;
                (row.ClosedAtUtc, row.ClosedBy, row.NotReproduced) = (Now(), rules.By, true);
                row.ClosingWords = $"Not reproduced in {job.Bench.Trials.Count(t => t.Passed)} starts. {words}";
                row.ClosedRules = rules.Rules.Id;
                await KeepRulesAsync(rules.Rules, cancel);
                return new DeskAnswer(job);
            },
            cancel
        );

    /// <summary>Refuses to close a job of which some part is nowhere.</summary>
    /// <exception cref="EntryRefusedException">What became of a part is not said; the message names it.</exception>
    private static void CheckSettled(BenchJob job)
    {
        if (Settling.Open(job) is { Length: > 0 } open)
            throw new EntryRefusedException(
                $"Say what becomes of {string.Join(", of ", open.Select(o => job.Now.The(o.Unit)))}: a part that is not where it came in "
                    + "is settled before the job is closed."
            );
    }
}
