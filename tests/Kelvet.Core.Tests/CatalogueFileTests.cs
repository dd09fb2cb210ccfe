using System.Text;
using CsvHelper;
using Kelvet.Core.Listings;
using Kelvet.Core.Machines;
using Kelvet.Core.Text;

namespace Kelvet.Core.Tests;

/// <summary>A catalogue comes in whole or not at all, whatever file it is, and goes out as nothing that runs.</summary>
public sealed class CatalogueFileTests
{
    private static (List<CataloguePart> Parts, List<CatalogueMistake> Mistakes) Read(string text)
    {
        var parts = new List<CataloguePart>();
        var mistakes = new List<CatalogueMistake>();
        CatalogueFile.Read(text, CatalogueFile.Preview(text, 0).Mapping, (_, p) => parts.Add(p), mistakes.Add);
        return (parts, mistakes);
    }

    [Fact]
    public void Each_kind_is_read_with_what_is_known_of_it()
    {
        var (parts, mistakes) = Read(
            """
            kind,name,socket,memory,slots,order,outputs,cards,form,graphics,gb,watts,plugs,fits,firmware,needs-firmware,tells,made,price
            motherboard,Ondel B40,T1,DDR4,A1 A2 B1 B2,A1 B1 A2 B2,HDMI VGA,2,micro,,,40,,,21,,indicators code-display,2021,89.90
            cpu,Tarn C5,T1,,,,,,,yes,,65,,,,12,,,139
            memory-stick,Orrin 8 GB,,DDR4,,,,,,,8,4,,,,,,,
            graphics-card,Brask R70,,,,,DP-1 HDMI,,,,,170,1,,,,,,
            supply,Velm 450 W,,,,,,,,,,450,1,,,,,2019,45
            cooler,Halden tower,,,,,,,,,,160,,T1 T2,,,,,
            """
        );
        Assert.Empty(mistakes);
        var board = Assert.IsType<Motherboard>(parts[0].Unit);
        Assert.Equal(("T1", "DDR4", BoardForm.Micro, 21), (board.Socket, board.MemoryType, board.Form, board.Firmware));
        Assert.Equal("A1 B1 A2 B2", string.Join(' ', board.UsualOrder));
        Assert.Equal([VideoSignal.Digital, VideoSignal.Analogue], board.Outputs.Select(o => o.Signal));
        Assert.True(board is { FlashesWithoutCpu: false, TellsPost: true, Tells: [Teller.Indicators, Teller.CodeDisplay] });
        Assert.Equal(89.90m, parts[0].Price);
        Assert.True(parts[1].Unit is Cpu { HasGraphics: true, NeedsFirmware: 12, Watts: 65 });
        Assert.True(parts[2].Unit is MemoryStick { SizeGb: 8, MemoryType: "DDR4" });
        Assert.True(parts[3].Unit is GraphicsCard { NeedsAuxPower: true, Plugs: 1 });
        Assert.True(parts[4].Unit is { Kind: UnitKind.Supply, Watts: 450, Made: 2019 });
        Assert.True(parts[5].Unit is { Kind: UnitKind.Cooler, Fits: ["T1", "T2"] });
    }

    [Fact]
    public void What_is_written_is_read_back_and_a_plain_csv_reader_reads_it_too()
    {
        var root = AppContext.BaseDirectory[..AppContext.BaseDirectory.IndexOf("/tests/", StringComparison.Ordinal)];
        var text = File.ReadAllText(Path.Combine(root, "src/Kelvet.Web/Demo/catalogue.csv"));
        var (parts, mistakes) = Read(text);
        Assert.Empty(mistakes);
        Assert.True(parts.Count > 40);
        var again = Read(CatalogueFile.Write(parts));
        Assert.Empty(again.Mistakes);
        Assert.Equal(
            parts.Select(p => (p.Unit.Kind, p.Unit.Name, p.Unit.Watts, p.Price)),
            again.Parts.Select(p => (p.Unit.Kind, p.Unit.Name, p.Unit.Watts, p.Price))
        );
        using var plain = new CsvReader(new StringReader(CatalogueFile.Write(parts)), System.Globalization.CultureInfo.InvariantCulture);
        Assert.Equal(parts.Count, plain.GetRecords<dynamic>().Count());
    }

    [Theory]
    [InlineData("kind,name\nrocket,X", 2, "kind: \"rocket\" is none of")]
    [InlineData("kind,name\ncpu,", 2, "name: it is empty")]
    [InlineData("kind,name,watts\ncpu,A,many", 2, "watts: \"many\" is not a whole number from 0 to 5000")]
    [InlineData("kind,name\ncpu,A\n\ncpu,a", 4, "stands in line 2 already")]
    [InlineData("kind,name\nsupply,\"=HYPERLINK(\"\"x\"\")\"", 2, "name: \"=HYPERLINK(\"x\")\" is a formula")]
    [InlineData("kind,name\nsupply,@SUM(A1)", 2, "is a formula")]
    [InlineData("kind,name,slots\nmotherboard,B,", 2, "slots: it is empty")]
    [InlineData("kind,name,slots,order\nmotherboard,B,A1 B1,A1 C9", 2, "names each of its slots at most once")]
    [InlineData("kind,name,graphics\ncpu,A,perhaps", 2, "graphics: \"PERHAPS\" is neither yes nor no")]
    [InlineData("kind,name,price\ncpu,A,-3", 2, "price: \"-3\"")]
    public void A_mistake_is_told_with_its_line_and_column(string text, int line, string words)
    {
        var mistake = Assert.Single(Read(text).Mistakes);
        Assert.Equal(line, mistake.Line);
        Assert.Contains(words, mistake.Words, StringComparison.Ordinal);
    }

    [Fact]
    public void Columns_are_found_by_other_names_and_separators_and_can_be_mapped_by_hand()
    {
        Assert.Single(Read("Category;Model;TDP\ncpu;Tarn C5;65").Parts, p => p.Unit.Watts == 65);
        var parts = new List<CataloguePart>();
        CatalogueFile.Read("a\tb\ncpu\tTarn C5", ["kind", "name"], (_, p) => parts.Add(p), _ => Assert.Fail());
        Assert.Equal("Tarn C5", Assert.Single(parts).Unit.Name);
        Assert.Throws<DataFileException>(() => CatalogueFile.Read("a,b\ncpu,T", ["kind", "kind"], (_, _) => { }, _ => { }));
        Assert.Throws<DataFileException>(() => CatalogueFile.Read("a,b\ncpu,T", ["kind", ""], (_, _) => { }, _ => { }));
    }

    public static TheoryData<byte[], string> Hostile =>
        new()
        {
            { [0x50, 0x4b, 3, 4, 0, 0], "compressed" },
            { [0x1f, 0x8b, 8, 0], "compressed" },
            { Encoding.UTF8.GetBytes("kind,name\ncpu,\0A"), "no text" },
            { new byte[CatalogueFile.MostBytes + 1], "the most" },
        };

    [Theory]
    [MemberData(nameof(Hostile))]
    public void What_is_no_csv_is_refused_in_words(byte[] file, string words) =>
        Assert.Contains(words, Assert.Throws<DataFileException>(() => CatalogueFile.Decode(file)).Message, StringComparison.Ordinal);

    [Fact]
    public void Encodings_are_read_and_a_guess_is_told()
    {
        const string Text = "kind,name\ncooler,Kühler Größe 3";
        foreach (
            var encoding in new Encoding[] { new UTF8Encoding(true), new UTF8Encoding(false), Encoding.Unicode, Encoding.BigEndianUnicode }
        )
        {
            var (read, note) = CatalogueFile.Decode([.. encoding.GetPreamble(), .. encoding.GetBytes(Text)]);
            Assert.Equal((Text, ""), (read, note));
        }

        var (guessed, told) = CatalogueFile.Decode(Encoding.Latin1.GetBytes(Text));
        Assert.Equal(Text, guessed);
        Assert.Contains("not UTF-8", told, StringComparison.Ordinal);
    }

    [Fact]
    public void Huge_lines_open_quotes_and_too_many_rows_end_soon()
    {
        Assert.Throws<DataFileException>(() => Read("kind,name\ncpu," + new string('x', 5000)));
        Assert.Throws<DataFileException>(() => CatalogueFile.Preview("", 3));
        Assert.Throws<DataFileException>(() => CatalogueFile.Preview(string.Join(',', Enumerable.Repeat("a", 100)), 3));
        var many = new StringBuilder("kind,name\n");
        for (var i = 0; i <= CatalogueFile.MostRows; i++)
            many.Append(System.Globalization.CultureInfo.InvariantCulture, $"cpu,C{i}\n");
        Assert.Contains("50,000 rows", Assert.Throws<DataFileException>(() => Read(many.ToString())).Message, StringComparison.Ordinal);
        // A quote that is never closed makes one field of the rest, and that is no name.
        Assert.NotEmpty(Read("kind,name\ncpu,\"open\ncpu,B\ncpu,C").Mistakes);
    }

    [Fact]
    public void No_cell_that_goes_out_is_a_formula()
    {
        var evil = Unit.Plain(new UnitId("x"), UnitKind.Cooler, "=1+1", Origin.Customer);
        var text = CatalogueFile.Write([new CataloguePart(evil, null)]);
        Assert.DoesNotContain(",=", text, StringComparison.Ordinal);
        Assert.Equal("=1+1", Assert.Single(Read(text).Parts).Unit.Name);
    }
}
