using System.Collections.Immutable;

namespace Kelvet.Core.Stock;

/// <summary>What can happen to a part of the shelf.</summary>
public enum MoveKind
{
    /// <summary>It was put on the shelf.</summary>
    Added,

    /// <summary>It was counted anew.</summary>
    Counted,

    /// <summary>It came from a seller.</summary>
    Arrived,

    /// <summary>It went into the machine of a job.</summary>
    IntoJob,

    /// <summary>It came out of the machine of a job.</summary>
    OutOfJob,

    /// <summary>It was sold with a machine.</summary>
    Sold,

    /// <summary>A job was reopened that it was sold with.</summary>
    Unsold,

    /// <summary>It was left by a closed job: bought and not used, or kept by leave of its owner.</summary>
    Kept,

    /// <summary>A job was reopened that had left it.</summary>
    Unkept,

    /// <summary>It was thrown away.</summary>
    Scrapped,

    /// <summary>It went back to the seller.</summary>
    ToSeller,

    /// <summary>A machine passed with it in.</summary>
    Passed,

    /// <summary>It is not trusted any more.</summary>
    Doubted,

    /// <summary>It was taken out of use.</summary>
    Retired,

    /// <summary>It was taken back into use.</summary>
    BackInUse,

    /// <summary>It lies elsewhere.</summary>
    Placed,

    /// <summary>It was taken out of a machine that is the shop's own.</summary>
    FromOwn,
}

/// <summary>One kind of move: the one table that a new one is added to.</summary>
/// <param name="Kind">The kind.</param>
/// <param name="Words">What happened, in a few words.</param>
/// <param name="Owned">By how many pieces the shop has more, for each piece that is moved: -1, 0 or 1.</param>
/// <param name="Out">By how many more are in machines, for each piece that is moved: -1, 0 or 1.</param>
/// <param name="MayBeLess">Whether its quantity can be negative: what is counted anew may be less.</param>
public sealed record MoveFacts(MoveKind Kind, string Words, int Owned = 0, int Out = 0, bool MayBeLess = false)
{
    /// <summary>Every kind, in the order of <see cref="MoveKind"/>.</summary>
    public static ImmutableArray<MoveFacts> All { get; } =
    [
        new(MoveKind.Added, "put on the shelf", 1),
        new(MoveKind.Counted, "counted anew", 1, MayBeLess: true),
        new(MoveKind.Arrived, "came from the seller", 1),
        new(MoveKind.IntoJob, "went into the machine", Out: 1),
        new(MoveKind.OutOfJob, "came out of the machine", Out: -1),
        new(MoveKind.Sold, "sold with the machine", -1),
        new(MoveKind.Unsold, "not sold: the job was reopened", 1),
        new(MoveKind.Kept, "left on the shelf by the job", 1),
        new(MoveKind.Unkept, "with its job again: it was reopened", -1),
        new(MoveKind.Scrapped, "thrown away", -1),
        new(MoveKind.ToSeller, "went back to the seller", -1),
        new(MoveKind.Passed, "the machine passed with it in"),
        new(MoveKind.Doubted, "not trusted any more"),
        new(MoveKind.Retired, "taken out of use"),
        new(MoveKind.BackInUse, "taken back into use"),
        new(MoveKind.Placed, "put elsewhere"),
        new(MoveKind.FromOwn, "taken out of a machine of the shop's", 1),
    ];

    /// <summary>The facts of a kind.</summary>
    public static MoveFacts Of(MoveKind kind) => All[(int)kind];
}

/// <summary>Something that happened to a part of the shelf.</summary>
public sealed record PartMove
{
    /// <summary>Most pieces of one move.</summary>
    public const int MostPieces = 999;

    /// <param name="kind">What happened.</param>
    /// <param name="pieces">How many pieces, 1 to <see cref="MostPieces"/>; of what is counted anew the difference, never 0.</param>
    /// <param name="job">Number of the job; null where it was in none.</param>
    /// <param name="by">Who did it; empty where nobody is named.</param>
    /// <param name="at">When.</param>
    /// <param name="note">A word more; empty for none.</param>
    /// <exception cref="ArgumentOutOfRangeException">There are no such pieces.</exception>
    public PartMove(MoveKind kind, int pieces, int? job, string by, DateTimeOffset at, string note = "")
    {
        var least = MoveFacts.Of(kind).MayBeLess ? -MostPieces : 1;
        if (pieces == 0 || pieces < least || pieces > MostPieces)
            throw new ArgumentOutOfRangeException(nameof(pieces), pieces, $"A move is of {least} to {MostPieces} pieces, and not of none.");
        (Kind, Pieces, Job, By, At, Note) = (kind, pieces, job, by, at, note);
    }

    /// <summary>What happened.</summary>
    public MoveKind Kind { get; }

    /// <summary>How many pieces.</summary>
    public int Pieces { get; }

    /// <summary>Number of the job; null where it was in none.</summary>
    public int? Job { get; }

    /// <summary>Who did it.</summary>
    public string By { get; }

    /// <summary>When.</summary>
    public DateTimeOffset At { get; }

    /// <summary>A word more.</summary>
    public string Note { get; }
}

/// <summary>The life of a part of the shelf, as far as its moves tell of it.</summary>
/// <param name="Owned">Pieces that the shop has, in machines or not.</param>
/// <param name="InJobs">Numbers of the jobs in whose machines it is, once for each piece.</param>
/// <param name="Passed">Numbers of the jobs in whose machines it passed.</param>
/// <param name="Doubted">Numbers of the jobs after which it was not trusted.</param>
public sealed record PartLife(int Owned, ImmutableArray<int> InJobs, ImmutableArray<int> Passed, ImmutableArray<int> Doubted)
{
    /// <summary>Pieces that lie on the shelf.</summary>
    public int Here => Math.Max(0, Owned - InJobs.Length);

    /// <summary>Whether it is in more machines than there are pieces: a log or a count is wrong.</summary>
    public bool IsShort => InJobs.Length > Owned;

    /// <summary>The life that moves make.</summary>
    /// <param name="moves">The moves, in order.</param>
    /// <exception cref="ArgumentException">More went than there was, or it came out of a machine that it was not in.</exception>
    public static PartLife Of(IEnumerable<PartMove> moves)
    {
        var owned = 0;
        var jobs = new List<int>();
        var (passed, doubted) = (new SortedSet<int>(), new SortedSet<int>());
        foreach (var move in moves)
        {
            var facts = MoveFacts.Of(move.Kind);
            owned += facts.Owned * move.Pieces;
            if (owned < 0)
                throw new ArgumentException($"It {facts.Words} on {move.At:yyyy-MM-dd}, and there was none.", nameof(moves));
            if (facts.Out > 0)
                jobs.Add(move.Job ?? throw new ArgumentException("It went into a machine of no job.", nameof(moves)));
            if (facts.Out < 0 && !jobs.Remove(move.Job ?? 0))
                throw new ArgumentException($"It came out of the machine of job {move.Job}, and was not in it.", nameof(moves));
            if (move is { Kind: MoveKind.Passed, Job: { } good })
                passed.Add(good);
            if (move is { Kind: MoveKind.Doubted, Job: { } bad })
                doubted.Add(bad);
        }

        return new PartLife(owned, [.. jobs.Order()], [.. passed], [.. doubted]);
    }
}
