using System.Globalization;
using System.Text.RegularExpressions;
using Kelvet.Core.Observed;
using Kelvet.Core.Tables;
using Kelvet.Core.Text;

namespace Kelvet.Core.Tests;

/// <summary>The tables that ship, against what is published, and tables that a shop brings.</summary>
public partial class SignalTableTests
{
    private static readonly SignalLibrary Standard = SignalLibrary.Standard;

    [Fact]
    public void There_are_tables_of_every_kind_with_at_least_250_rows_in_all()
    {
        Assert.True(Standard.Tables.Sum(t => t.Rows.Length) >= 250);
        Assert.All(Enum.GetValues<SignalKind>(), kind => Assert.Contains(Standard.Tables, t => t.Kind == kind));
        Assert.All(
            Standard.Tables.SelectMany(t => t.Rows),
            r =>
            {
                Assert.NotEmpty(r.Meaning);
                Assert.NotEmpty(r.Causes);
                Assert.NotEmpty(r.Checks);
                Assert.True(
                    r.Confidence == Confidence.Published || r.Source.Contains("from memory") || r.Source.Contains("common practice"),
                    r.Source
                );
            }
        );
    }

    [Fact]
    public void A_table_written_and_read_again_is_the_same_text() =>
        Assert.All(
            Standard.Tables,
            t => Assert.Equal(SignalTableFile.Write(t), SignalTableFile.Write(SignalTableFile.Read(SignalTableFile.Write(t), t.Id)))
        );

    [Fact]
    public void Status_codes_are_those_of_the_header_in_edk2()
    {
        // UEFI Platform Initialization specification, volume 3, as MdePkg/Include/Pi/PiStatusCode.h has it in Debian's edk2 source.
        var constants = Defines(Outside.Read("PiStatusCode.h"));
        var rows = Standard.Table("uefi-pi")!.Rows;
        Assert.True(rows.Length > 120);
        Assert.All(
            rows,
            row =>
            {
                var value = uint.Parse(row.Signal.Split(' ')[1], NumberStyles.HexNumber, CultureInfo.InvariantCulture);
                foreach (var term in row.Term.Split(' '))
                {
                    Assert.Equal(constants[term], value & constants["EFI_STATUS_CODE_OPERATION_MASK"]);
                    Assert.Equal(row.Signal.StartsWith("error"), term.Contains("_EC_"));
                    Assert.Equal(
                        ClassOf(term, constants),
                        value
                            & (
                                term.StartsWith("EFI_SW_DXE_BS") || term.StartsWith("EFI_SW_PEI_PC") || term.StartsWith("EFI_SW_PEI_EC")
                                    ? 0xFFFF0000
                                    : ClassMask(term)
                            )
                    );
                }
            }
        );
    }

    /// <summary>Subclass that the standard puts a constant in, as far as its name tells; its class alone where the name tells no
    /// more.</summary>
    private static uint ClassOf(string term, Dictionary<string, uint> c) =>
        c[
            (
                from known in new[]
                {
                    ("EFI_CU_HP_", "EFI_COMPUTING_UNIT_HOST_PROCESSOR"),
                    ("EFI_CU_CACHE_", "EFI_COMPUTING_UNIT_CACHE"),
                    ("EFI_CU_MEMORY_", "EFI_COMPUTING_UNIT_MEMORY"),
                    ("EFI_CHIPSET_", "EFI_COMPUTING_UNIT_CHIPSET"),
                    ("EFI_CU_", "EFI_COMPUTING_UNIT"),
                    ("EFI_P_KEYBOARD_", "EFI_PERIPHERAL_KEYBOARD"),
                    ("EFI_P_", "EFI_PERIPHERAL"),
                    ("EFI_IOB_PCI_", "EFI_IO_BUS_PCI"),
                    ("EFI_IOB_", "EFI_IO_BUS"),
                    ("EFI_SW_SEC_", "EFI_SOFTWARE_SEC"),
                    ("EFI_SW_PEI_CORE_", "EFI_SOFTWARE_PEI_CORE"),
                    ("EFI_SW_PEI_", "EFI_SOFTWARE_PEI_MODULE"),
                    ("EFI_SW_DXE_CORE_", "EFI_SOFTWARE_DXE_CORE"),
                    ("EFI_SW_DXE_BS_", "EFI_SOFTWARE_DXE_BS_DRIVER"),
                    ("EFI_SW_PS_", "EFI_SOFTWARE_PEI_SERVICE"),
                    ("EFI_SW_", "EFI_SOFTWARE"),
                }
                where term.StartsWith(known.Item1, StringComparison.Ordinal)
                select known.Item2
            ).First()
        ];

    private static uint ClassMask(string term) => ClassName().IsMatch(term) ? 0xFF000000 : 0xFFFF0000;

    [Fact]
    public void Firmware_events_are_those_of_the_header_in_freeipmi()
    {
        // IPMI 2.0, table 42-3, as freeipmi's ipmi-sensor-and-event-code-tables-spec.h has it in Debian's libfreeipmi-dev.
        var constants = Defines(Outside.Read("ipmi.h"));
        var rows = Standard.Table("ipmi")!.Rows;
        Assert.All(
            rows,
            row =>
                Assert.Equal(
                    constants[$"IPMI_SENSOR_TYPE_{row.Term}"],
                    uint.Parse(row.Signal.Split(' ')[1], NumberStyles.HexNumber, CultureInfo.InvariantCulture)
                )
        );
        var published = constants
            .Keys.Where(k => k.StartsWith("IPMI_SENSOR_TYPE_SYSTEM_FIRMWARE_PROGRESS_EVENT_DATA2_OFFSET_SYSTEM_FIRMWARE_"))
            .ToArray();
        Assert.Equal(14 + 26 + 26, published.Length);
        Assert.All(published, k => Assert.Contains(rows, r => $"IPMI_SENSOR_TYPE_{r.Term}" == k));
    }

    [Fact]
    public void Four_group_beeps_are_the_bits_of_the_task_that_failed()
    {
        // Phoenix Technologies, PhoenixBIOS 4.0: the task's code, two bits a group, plus one. From memory; the two tables are held
        // against each other.
        var tasks = Standard.Table("phoenix")!;
        var beeps = Standard.Table("phoenix-beeps")!.Rows.Where(r => r.Signal.Count(c => c == '-') == 3).ToArray();
        Assert.True(beeps.Length > 50);
        Assert.All(
            beeps,
            r =>
            {
                var code = r.Signal.Split('-').Aggregate(0, (v, g) => (v << 2) | (int.Parse(g, CultureInfo.InvariantCulture) - 1));
                var task = tasks.Find($"{code:X2}");
                Assert.NotNull(task);
                Assert.Contains(task.Meaning, r.Meaning);
                Assert.Equal(task.Points, r.Points);
            }
        );
    }

    [Fact]
    public void Checkpoints_follow_the_phases_that_the_platform_specification_names()
    {
        // The Aptio checkpoints are the platform specification's status codes on two digits: an error keeps its domain.
        var aptio = Standard.Table("aptio")!;
        var uefi = Standard.Table("uefi-pi")!;
        foreach (
            var (checkpoint, status) in new[]
            {
                ("2B", "progress 00051000"),
                ("2C", "progress 00051001"),
                ("2D", "progress 00051002"),
                ("2E", "progress 00051003"),
                ("51", "error 00051004"),
                ("53", "error 0005100A"),
                ("55", "error 00051009"),
                ("56", "error 00011000"),
                ("57", "error 00011002"),
                ("58", "error 00011004"),
                ("5A", "error 00011005"),
                ("92", "progress 02010000"),
                ("95", "progress 02011001"),
                ("9A", "progress 02020000"),
                ("AD", "progress 03051001"),
                ("D4", "error 02010009"),
                ("D9", "error 03051002"),
                ("F2", "progress 03031000"),
            }
        )
        {
            Assert.Equal(uefi.Find(status)!.Points, aptio.Find(checkpoint)!.Points);
        }
    }

    [Theory]
    [InlineData("0x55", "55")]
    [InlineData("d4h", "D4")]
    [InlineData("$2b", "2B")]
    [InlineData("12-14", "12-14")]
    [InlineData("14-12", null)]
    [InlineData("G1", null)]
    [InlineData("--", "--")]
    public void A_code_is_read_in_its_usual_writings(string text, string? form) => Assert.Equal(form, SignalText.Of(SignalKind.Post, text));

    [Theory]
    [InlineData("5", "5 short")]
    [InlineData("five", null)]
    [InlineData("5 beeps", "5 short")]
    [InlineData("1 long, 2 short", "1 long 2 short")]
    [InlineData("1L2S", "1 long 2 short")]
    [InlineData("long short short", "1 long 2 short")]
    [InlineData("3 short and 1 long", "3 short 1 long")]
    [InlineData("1-2-2-3", "1-2-2-3")]
    [InlineData("1 - 3", "1-3")]
    [InlineData("Continuous", "continuous")]
    [InlineData("high low", "siren")]
    [InlineData("repeating short", "endless short")]
    [InlineData("99 short", null)]
    [InlineData("0 short", null)]
    [InlineData("", null)]
    [InlineData("short of memory", null)]
    [InlineData("5 short beeps", "5 short")]
    [InlineData("two long", null)]
    [InlineData("111111111111111111111111111111111111111111111111111111111111111111111111!", null)]
    public void Beeps_are_read_as_a_technician_writes_them(string text, string? form) =>
        Assert.Equal(form, SignalText.Of(SignalKind.Beeps, text));

    [Fact]
    public void The_same_beeps_are_not_the_same_everywhere()
    {
        var five = Standard.Ask(SignalKind.Beeps, "5 short", []);
        Assert.False(five.FamilyKnown);
        Assert.True(five.Disagree);
        Assert.True(five.Pointers.Length >= 3);
        Assert.Equal(1, five.Matches.Sum(m => m.Weight), 9);
        Assert.Equal(StallDomain.Cpu, five.Matches[0].Row.Points);
        Assert.Contains(five.Matches, m => m.Table.Id == "office-count-beeps" && m.Row.Meaning.Contains("coin cell"));

        var known = Standard.Ask(SignalKind.Beeps, "5 short", ["aptio", "office-count-beeps"]);
        Assert.True(known.FamilyKnown);
        Assert.Equal("office-count-beeps", Assert.Single(known.Matches).Table.Id);
    }

    [Fact]
    public void A_board_goes_by_its_own_tables_else_by_its_maker()
    {
        var library = Standard.With([], [new MakerTables("Ondel", ["award"]), new MakerTables("Ondel B40", ["phoenix"])]);
        Assert.Equal<string>(["phoenix"], library.FamilyOf(Bench.Board("board")));
        Assert.Equal<string>(["aptio"], library.FamilyOf(Bench.Board("board") with { Tables = ["aptio"] }));
        Assert.Empty(Standard.FamilyOf(Bench.Board("board")));
    }

    [Theory]
    [InlineData("55", "aptio", "55")]
    [InlineData("13", "aptio", "12-14")]
    [InlineData("1 long 2 short", "pc-beeps", "1 long 2 short")]
    [InlineData("1-2-2-3", "phoenix-beeps", "1-2-2-3")]
    [InlineData("coin cell", "office-count-beeps", "5 short")]
    [InlineData("EFI_CU_MEMORY_EC_NONE_DETECTED", "uefi-pi", "error 00051009")]
    public void A_search_finds_a_code_a_pattern_or_a_word(string query, string table, string signal) =>
        Assert.Contains(Standard.Search(query), f => f.Table.Id == table && f.Row.Signal == signal);

    private const string Own = """
        # kelvet-signals 1
        # id: ondel-b40
        # name: Ondel B40, board codes
        # kind: post
        # version: 3
        # uncertainty: 0.05
        signal,meaning,power,cpu,memory,video,boot,none,causes,checks,term,source,confidence
        0d,no memory,0.1,0.1,1,0,0,0,stick,reseat,,board manual,published
        """;

    [Fact]
    public void A_shop_brings_a_table_of_its_own_and_may_replace_one_that_ships()
    {
        var library = Standard.With([SignalTableFile.Read(Own, "own.csv")], []);
        Assert.Equal("no memory", library.Ask(SignalKind.Post, "0D", ["ondel-b40"]).Matches[0].Row.Meaning);
        Assert.True(library.Table("ondel-b40")!.IsOwn);
        var replaced = Standard.With([SignalTableFile.Read(Own.Replace("ondel-b40", "aptio"), "own.csv")], []);
        Assert.Single(replaced.Table("aptio")!.Rows);
    }

    [Theory]
    [InlineData("# kelvet-signals 1", "# something", "line 1: expected")]
    [InlineData("# id: ondel-b40", "# id: Ondel B40", "line 2: \"Ondel B40\" is not an id")]
    [InlineData("# kind: post", "# kind: smoke", "line 4: \"smoke\" is none of post")]
    [InlineData("# uncertainty: 0.05", "# uncertainty: 2", "line 6: uncertainty")]
    [InlineData("# version: 3", "# colour: 3", "line 5: \"colour\" is not known")]
    [InlineData(",confidence", ",trust", "line 7: the column \"trust\" is not known")]
    [InlineData(",", ";", "line 7: the columns are parted by semicolons")]
    [InlineData("0d,", "xx,", "line 8: \"xx\" is not two hexadecimal digits")]
    [InlineData("0.1,0.1,1,", "0.1,0.1,1.5,", "line 8: memory: \"1.5\" is not a number from 0 to 1")]
    [InlineData("0.1,0.1,1,0,", "0,0,0,0,", "line 8: one of the six")]
    [InlineData("board manual", "", "line 8: source is needed")]
    [InlineData(",published", ",sure", "line 8: confidence")]
    [InlineData(",board manual,published", ",published", "line 8: 12 fields")]
    [InlineData("published", "published\n0D,again,0,0,1,0,0,0,a,b,,c,likely", "line 9: 0D stands in line 8 already")]
    public void A_mistake_in_a_table_is_told_with_its_line(string good, string bad, string message) =>
        Assert.Contains(message, Assert.Throws<DataFileException>(() => SignalTableFile.Read(Own.Replace(good, bad), "own.csv")).Message);

    private static Dictionary<string, uint> Defines(string header)
    {
        var values = new Dictionary<string, uint>();
        foreach (Match match in Define().Matches(header))
        {
            var sum = 0u;
            var known = true;
            foreach (var part in match.Groups["value"].Value.Trim('(', ')', ' ').Split('|', StringSplitOptions.TrimEntries))
            {
                if (part.StartsWith("0x") && uint.TryParse(part[2..], NumberStyles.HexNumber, CultureInfo.InvariantCulture, out var n))
                    sum |= n;
                else if (values.TryGetValue(part, out var earlier))
                    sum |= earlier;
                else
                    known = false;
            }

            if (known)
                values[match.Groups["name"].Value] = sum;
        }

        return values;
    }

    [GeneratedRegex(@"^#define\s+(?<name>\w+)\s+(?<value>\(?[\w| ]+\)?)\s*$", RegexOptions.Multiline)]
    private static partial Regex Define();

    [GeneratedRegex("^EFI_(CU_PC|CU_EC|P_PC|P_EC|IOB_PC_|IOB_EC|IOB_ATA|SW_PC|SW_EC)")]
    private static partial Regex ClassName();
}
