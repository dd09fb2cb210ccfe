using System.Collections.Immutable;
using System.Globalization;
using System.Text.RegularExpressions;
using Microsoft.Data.Sqlite;

namespace Kelvet.Data;

/// <summary>What a look through a database found.</summary>
/// <param name="Tables">Tables that cannot be read to their end, by name; empty where all can.</param>
/// <param name="Findings">What SQLite itself says is wrong, the first of it; empty where it is sound.</param>
public sealed record StoreReport(ImmutableArray<string> Tables, ImmutableArray<string> Findings)
{
    /// <summary>Sound.</summary>
    public static StoreReport Sound { get; } = new([], []);

    /// <summary>Whether everything in it can be read.</summary>
    public bool IsSound => Tables.IsEmpty && Findings.IsEmpty;

    /// <summary>What is damaged and what still works, a sentence each.</summary>
    public IEnumerable<string> Words() =>
        Tables.IsEmpty && !Findings.IsEmpty
            ? ["The database has a fault that touches no table as a whole; everything that was read could be read."]
            : Tables.Select(t => StoreHealth.Words(t));
}

/// <summary>
/// Looks through a database: SQLite's own <c>quick_check</c> (pages, records, order; not whether indexes agree), and where that
/// finds anything, which tables cannot be read to their end.
/// </summary>
public static partial class StoreHealth
{
    private const int MostFindings = 20;

    /// <summary>Tables whose content is worked out from others.</summary>
    private static readonly string[] Derived = ["Cards"];

    /// <summary>Looks through a database that may be in use.</summary>
    /// <param name="file">The database.</param>
    /// <exception cref="SqliteException">It cannot be opened at all.</exception>
    public static StoreReport Check(string file)
    {
        using var connection = new SqliteConnection(
            new SqliteConnectionStringBuilder
            {
                DataSource = file,
                Mode = SqliteOpenMode.ReadOnly,
                Pooling = false,
                DefaultTimeout = 10,
            }.ToString()
        );
        connection.Open();
        string[] findings = [.. Rows(connection, $"PRAGMA quick_check({MostFindings})").Where(f => f != "ok")];
        if (findings.Length == 0)
            return StoreReport.Sound;
        var tables = Tables(connection);
        var roots = tables.ToDictionary(t => t.Root, t => t.Name);
        var named = findings
            .Select(f => TreeOf().Match(f))
            .Where(m => m.Success)
            .Select(m => roots.GetValueOrDefault(long.Parse(m.Groups["root"].Value, CultureInfo.InvariantCulture)))
            .OfType<string>();
        var broken = tables.Where(t => t.IsTable && !Reads(connection, t.Name)).Select(t => t.Name);
        return new StoreReport([.. named.Concat(broken).Distinct().Order()], [.. findings]);
    }

    /// <summary>What damage in a table means, and what still works.</summary>
    public static string Words(string table) =>
        table switch
        {
            "Steps" => "The logs of some jobs are damaged (Steps). Those jobs show a row that says so; all others, customers, shelf and "
                + "catalogue work.",
            "Photos" => "Some photos are damaged (Photos). They show as missing; logs, reports and everything else work.",
            "Jobs" =>
                "The list of jobs is damaged (Jobs). What was recorded of them is in their logs; customers, shelf and catalogue work.",
            "Captures" => "Some captures of codes are damaged (Captures); logs and everything else work.",
            "Customers" or "Machines" => $"What is kept of some customers or their machines is damaged ({table}); their jobs work.",
            "Catalogue" or "Shelf" or "SignalTables" or "Makers" => $"Part of the {table} is damaged; the jobs work.",
            "Cards" => "What the list shows of jobs is damaged (Cards). It is only worked out from their logs, and made anew.",
            _ => $"{table} is damaged; what does not need it works.",
        };

    /// <summary>Throws away what is only worked out, so that it is made anew.</summary>
    /// <returns>Whether it is empty and whole now.</returns>
    public static bool DropDerived(string file)
    {
        using var connection = new SqliteConnection(
            new SqliteConnectionStringBuilder
            {
                DataSource = file,
                Pooling = false,
                DefaultTimeout = 10,
            }.ToString()
        );
        connection.Open();
        foreach (var table in Derived)
        {
            if (Rows(connection, $"SELECT sql FROM sqlite_master WHERE type = 'table' AND name = '{table}'") is not [var made])
                continue;
            try
            {
                Do(connection, $"DROP TABLE \"{table}\"");
            }
            catch (SqliteException)
            {
                // Pages that cannot be walked cannot be freed: the table's name is taken off them, and they lie idle until the file
                // is written anew.
                Do(
                    connection,
                    $"PRAGMA writable_schema=ON; DELETE FROM sqlite_master WHERE tbl_name = '{table}'; PRAGMA writable_schema=RESET;"
                );
            }

            Do(connection, made);
        }

        return Derived.All(t => Reads(connection, t));
    }

    private static List<(string Name, long Root, bool IsTable)> Tables(SqliteConnection connection)
    {
        try
        {
            using var command = connection.CreateCommand();
            command.CommandText = "SELECT tbl_name, rootpage, type = 'table' FROM sqlite_master WHERE rootpage > 0";
            using var reader = command.ExecuteReader();
            var tables = new List<(string Name, long Root, bool IsTable)>();
            while (reader.Read())
                tables.Add((reader.GetString(0), reader.GetInt64(1), reader.GetBoolean(2)));
            return tables;
        }
        catch (SqliteException)
        {
            return [];
        }
    }

    /// <summary>Whether every row of a table can be read.</summary>
    private static bool Reads(SqliteConnection connection, string table)
    {
        try
        {
            using var command = connection.CreateCommand();
            command.CommandText = $"SELECT * FROM \"{table}\" NOT INDEXED";
            using var reader = command.ExecuteReader();
            while (reader.Read())
            {
                for (var i = 0; i < reader.FieldCount; i++)
                    _ = reader.GetValue(i);
            }

            return true;
        }
        catch (SqliteException)
        {
            return false;
        }
    }

    private static List<string> Rows(SqliteConnection connection, string sql)
    {
        var rows = new List<string>();
        try
        {
            using var command = connection.CreateCommand();
            command.CommandText = sql;
            using var reader = command.ExecuteReader();
            while (reader.Read())
                rows.Add(reader.GetString(0));
        }
        catch (SqliteException e) when (StoreTroubles.Of(e) == StoreTrouble.Damaged)
        {
            rows.Add(e.Message);
        }

        return rows;
    }

    private static void Do(SqliteConnection connection, string sql)
    {
        using var command = connection.CreateCommand();
        command.CommandText = sql;
        command.ExecuteNonQuery();
    }

    /// <summary>How SQLite names the tree of a page that is wrong ("Tree 12 page 40 cell 3: …").</summary>
    [GeneratedRegex(@"^Tree (?<root>[0-9]{1,9}) ")]
    private static partial Regex TreeOf();
}
