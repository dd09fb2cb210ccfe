using System.Text.Json;
using System.Text.Json.Nodes;
using Kelvet.Core.Learning;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Kelvet.Core.Records;
using Kelvet.Core.Text;
using Kelvet.Data;
using Kelvet.Data.Copies;
using Kelvet.Web.Hosting;

namespace Kelvet.Web.Tests;

/// <summary>
/// Every shape that is stored beside the job, read back from a file of each version, and written as the newest file has it: a field
/// that is added or renamed without a new version and a file of it fails here. Databases of past editions are in <see cref="StartTests"/>.
/// </summary>
public class StoredShapeTests
{
    private static string Golden(string name) => File.ReadAllText(Path.Combine(AppContext.BaseDirectory, "data", "stored", $"{name}.json"));

    /// <summary>The names of the fields, to the depth, of what is written.</summary>
    private static string Fields(string json)
    {
        return string.Join(' ', Walk(JsonNode.Parse(json)!, "").Distinct().Order(StringComparer.Ordinal));

        static IEnumerable<string> Walk(JsonNode node, string path) =>
            node switch
            {
                JsonObject o => o.SelectMany(p => Walk(p.Value ?? JsonValue.Create(0), $"{path}.{p.Key}").Prepend($"{path}.{p.Key}")),
                JsonArray a => a.SelectMany(i => Walk(i!, $"{path}[]")),
                _ => [],
            };
    }

    [Theory]
    [InlineData("case-0")]
    [InlineData("case-1")]
    public void What_a_job_was_closed_with_is_read_from_each_version(string name)
    {
        var record = CaseRecord.Read(Golden(name));
        var part = Assert.Single(record.Named);
        Assert.Equal(("card", "Brask R80 12 GB", "dead", Standing.Condemned), (part.Unit, part.Name, part.Fault, part.Standing));
        Assert.Equal("under 1\u00A0%", record.Left);
        if (name == "case-0")
        {
            Assert.Equal((null, 0, ""), (record.First, record.Advised, part.Mode));
            return;
        }

        Assert.Equal((new FirstGuess("board", "Ondel B40-M", true), 3, 5), (record.First!, record.Followed, record.Advised));
        Assert.Equal(Fields(Golden(name)), Fields(record.Write()));
        Assert.Contains("\"Standing\":\"Condemned\"", record.Write(), StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("{}")]
    [InlineData("[")]
    [InlineData("""{"Version":2,"Named":[]}""")]
    public void What_is_no_record_of_a_case_is_refused_in_words(string json) =>
        Assert.Contains("closed with", Assert.Throws<DataFileException>(() => CaseRecord.Read(json)).Message);

    [Theory]
    [InlineData("drop-off-0", null)]
    [InlineData("drop-off-1", 340.5)]
    [InlineData("drop-off-2", 340.5)]
    public void What_was_agreed_is_read_from_each_version(string name, double? worth)
    {
        var read = DropOff.Of(new JobRow { DropOffJson = Golden(name) });
        Assert.Equal(
            (true, null, false, 120m, "lead"),
            (read.MayOpen, read.MayTouchData, read.MayStartSystem, read.Limit, read.Accessories)
        );
        Assert.Equal(worth, (double?)read.Worth);
        if (name != "drop-off-2")
        {
            Assert.Equal((null, null, 0), (read.Bought, read.Asking, read.OnShelf.Count));
            return;
        }

        Assert.Equal((45m, 180m, "stick-1,card"), (read.Bought, read.Asking, string.Join(',', read.OnShelf)));
        Assert.Equal(Fields(Golden(name)), Fields(read.Write()));
        Assert.Equal(DropOff.Nothing, DropOff.Of(new JobRow { DropOffJson = "no text of ours" }));
    }

    [Fact]
    public void What_jobs_taught_is_read_back()
    {
        var read = JsonSerializer.Deserialize<Dictionary<string, Tally>>(Golden("taught-1"))!;
        Assert.Equal(new Tally(1, 2), read["card-dead"]);
        Assert.Equal(Fields(Golden("taught-1")), Fields(JsonSerializer.Serialize(read)));
    }

    [Theory]
    [InlineData("preferences-0")]
    [InlineData("preferences-1")]
    public void How_a_shop_works_is_read_from_each_version(string name)
    {
        var read = HouseRules.PreferencesOf(new ShopRow { PreferencesJson = Golden(name) }, out var why);
        Assert.Null(why);
        Assert.Equal(
            (SupplyTester.Trusted, 72.0, 95.0),
            (read.SupplyTester, read.HourlyRate, read.PriceOf(Core.Machines.UnitKind.Motherboard).New)
        );
        // A kind that had no price then has one now.
        Assert.Equal(3, read.PriceOf(Core.Machines.UnitKind.CoinCell).New);
        if (name == "preferences-1")
            Assert.Equal(Fields(Golden(name)), Fields(HouseRules.Write(read)));
    }

    [Fact]
    public void What_the_list_shows_is_read_back_or_made_anew()
    {
        var card = JobCard.Read(Golden("card-1"))!;
        Assert.Equal(("Put the stick back in A2.", Standing.Suspect), (card.Imperative, card.LeaderStands));
        Assert.NotNull(card.Picture());
        Assert.Equal(Fields(Golden("card-1")), Fields(card.Write()));
        Assert.Null(JobCard.Read("not a card"));
    }

    [Fact]
    public void How_copying_went_and_what_a_copy_says_of_itself_are_read_back()
    {
        var folder = Directory.CreateTempSubdirectory("kelvet-test-").FullName;
        Directory.CreateDirectory(Path.Combine(folder, CopyRoom.FolderName));
        var room = new CopyRoom(folder, "1.0", TimeProvider.System);
        File.WriteAllText(Path.Combine(room.Place, "status.json"), Golden("status-1"));
        Assert.Equal(
            ("kelvet-20261129-051240.zip", "The last copy failed: no room is left on the disk."),
            (room.Status().Last, room.Status().Failure)
        );
        File.WriteAllText(Path.Combine(room.Place, "status.json"), "half writ");
        Assert.Equal(CopyStatus.None, room.Status());
        var web = new JsonSerializerOptions(JsonSerializerDefaults.Web);
        var manifest = JsonSerializer.Deserialize<CopyManifest>(Golden("manifest-1"), web)!;
        Assert.Equal((12, 118, "kelvet.db"), (manifest.Jobs, manifest.Lines, manifest.Files[0].Name));
        Assert.Equal(Fields(Golden("manifest-1")), Fields(JsonSerializer.Serialize(manifest, web)));
    }
}
