using System.Collections.Immutable;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;

namespace Kelvet.Core.Tables;

/// <summary>A row that answers to a signal, with the table that it stands in.</summary>
/// <param name="Weight">Share of this answer among all, 0 to 1.</param>
public sealed record SignalMatch(SignalTable Table, SignalRow Row, double Weight);

/// <summary>What the tables say of one signal.</summary>
/// <param name="Kind">Its kind.</param>
/// <param name="Signal">In the form of the tables.</param>
/// <param name="FamilyKnown">Whether the board's family was known; otherwise every table of the kind was asked.</param>
/// <param name="Matches">The answers, the likeliest first; empty when no table has it.</param>
/// <param name="Asked">How many tables were asked.</param>
public sealed record SignalAnswer(SignalKind Kind, string Signal, bool FamilyKnown, ImmutableArray<SignalMatch> Matches, int Asked)
{
    /// <summary>The domains that the answers point at, with their shares, the largest first.</summary>
    public ImmutableArray<(StallDomain Domain, double Share)> Pointers =>
        [.. Matches.GroupBy(m => m.Row.Points).Select(g => (g.Key, g.Sum(m => m.Weight))).OrderByDescending(p => p.Item2)];

    /// <summary>Whether the answers point at more than one domain.</summary>
    public bool Disagree => Pointers.Length > 1;
}

/// <summary>A maker's boards and the tables that they go by.</summary>
/// <param name="Maker">How the board's name begins, compared without regard to case.</param>
/// <param name="Tables">Ids of tables.</param>
public sealed record MakerTables(string Maker, ImmutableArray<string> Tables);

/// <summary>All tables of signals that a shop has, and which boards go by which. Immutable.</summary>
public sealed record SignalLibrary(ImmutableArray<SignalTable> Tables, ImmutableArray<MakerTables> Makers)
{
    /// <summary>How much an answer from memory counts beside a published one when the family is not known. Bench judgement.</summary>
    private const double DoubtfulWeight = 0.5;

    /// <summary>The tables that ship with Kelvet.</summary>
    public static SignalLibrary Standard { get; } = new([.. StandardTables()], []);

    private static IEnumerable<SignalTable> StandardTables()
    {
        var assembly = typeof(SignalLibrary).Assembly;
        foreach (
            var name in assembly
                .GetManifestResourceNames()
                .Where(n => n.EndsWith(".csv", StringComparison.Ordinal))
                .Order(StringComparer.Ordinal)
        )
        {
            using var reader = new StreamReader(assembly.GetManifestResourceStream(name)!);
            yield return SignalTableFile.Read(reader.ReadToEnd(), name);
        }
    }

    /// <summary>With tables of the shop's own; one of the same id takes the place of one that ships.</summary>
    public SignalLibrary With(IEnumerable<SignalTable> own, IEnumerable<MakerTables> makers)
    {
        var added = own.Select(t => t with { IsOwn = true }).ToArray();
        return new SignalLibrary([.. Tables.Where(t => added.All(a => a.Id != t.Id)), .. added], [.. makers]);
    }

    /// <summary>The table of an id; null where there is none.</summary>
    public SignalTable? Table(string id) => Tables.FirstOrDefault(t => t.Id == id);

    /// <summary>Ids of the tables that a board goes by: its own, or its maker's; empty when the family is not known.</summary>
    public ImmutableArray<string> FamilyOf(Motherboard? board) =>
        board is null ? []
        : board.Tables.Length > 0 ? board.Tables
        : Makers
            .Where(m => board.Name.StartsWith(m.Maker, StringComparison.OrdinalIgnoreCase))
            .OrderByDescending(m => m.Maker.Length)
            .FirstOrDefault()
            ?.Tables
            ?? [];

    /// <summary>What the tables of a board's family say of a signal; where the family is not known, what all say.</summary>
    /// <param name="kind">The kind.</param>
    /// <param name="signal">In the form of <see cref="SignalText"/>.</param>
    /// <param name="family">Ids of tables; those of other kinds do not count.</param>
    public SignalAnswer Ask(SignalKind kind, string signal, ImmutableArray<string> family)
    {
        var own = Tables.Where(t => t.Kind == kind && family.Contains(t.Id)).ToArray();
        var asked = own.Length > 0 ? own : [.. Tables.Where(t => t.Kind == kind)];
        var found = asked
            .Select(t => (Table: t, Row: t.Find(signal)))
            .Where(f => f.Row is not null)
            .Select(f =>
                (f.Table, Row: f.Row!, Weight: (1 - f.Table.Uncertainty) * (f.Row!.Confidence == Confidence.Doubtful ? DoubtfulWeight : 1))
            )
            .ToArray();
        var sum = found.Sum(f => f.Weight);

        // Where more tables say the same, each of them is the likelier to be the one.
        double Backing(SignalRow row) => found.Where(o => o.Row.Points == row.Points).Sum(o => o.Weight);
        return new SignalAnswer(
            kind,
            signal,
            own.Length > 0,
            [
                .. found
                    .OrderByDescending(f => Backing(f.Row))
                    .ThenByDescending(f => f.Weight)
                    .Select(f => new SignalMatch(f.Table, f.Row, f.Weight / sum)),
            ],
            asked.Length
        );
    }

    /// <summary>Rows that a search finds: by signal in any writing of it, by words of meaning, causes, terms, or by family.</summary>
    /// <param name="query">What is looked for; empty finds nothing.</param>
    /// <param name="kind">Only of this kind; null for all.</param>
    /// <param name="family">Only in this table; null for all.</param>
    public ImmutableArray<(SignalTable Table, SignalRow Row)> Search(string? query, SignalKind? kind = null, string? family = null)
    {
        var plain = (query ?? "").Trim();
        if (plain.Length == 0)
            return [];
        var words = plain.Split(' ', StringSplitOptions.RemoveEmptyEntries);
        var found = new List<(SignalTable, SignalRow, int Rank)>();
        foreach (var table in Tables)
        {
            if ((kind is { } k && table.Kind != k) || (family is not null && table.Id != family))
                continue;
            var signal = SignalText.Of(table.Kind, plain);
            foreach (var row in table.Rows)
            {
                var rank =
                    signal is not null && row.Signal == signal ? 0
                    : signal is not null && row.Covers(signal, table.Kind) ? 1
                    : words.All(w => Holds(row.Meaning, w)) ? 2
                    : words.All(w =>
                        Holds(row.Meaning, w)
                        || Holds(row.Causes, w)
                        || Holds(row.Checks, w)
                        || Holds(row.Term, w)
                        || Holds(row.Signal, w)
                        || Holds(table.Name, w)
                    )
                        ? 3
                    : -1;
                if (rank >= 0)
                    found.Add((table, row, rank));
            }
        }

        // Where the signal itself is listed, rows that only mention it are not what was looked for.
        var most = found.Exists(f => f.Rank <= 1) ? 2 : 3;
        return [.. found.Where(f => f.Rank <= most).OrderBy(f => f.Rank).Select(f => (f.Item1, f.Item2))];

        static bool Holds(string text, string word) => text.Contains(word, StringComparison.OrdinalIgnoreCase);
    }
}
