using System.Text.Json;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Learning;
using Kelvet.Core.Machines;
using Kelvet.Core.Proving;
using Kelvet.Core.Text;
using Kelvet.Core.Words;
using Kelvet.Data;
using Kelvet.Web.Hosting;

namespace Kelvet.Web.Demo;

/// <summary>
/// The demo shop: an invented workshop with invented people, makers and serial numbers. Its jobs are ordinary job
/// files that are read the way an import is; what is wrong with each machine is worked out, not stored.
/// </summary>
public static class DemoShop
{
    /// <summary>Fills an empty database.</summary>
    public static async Task SeedAsync(IServiceProvider services)
    {
        var shop = services.GetRequiredService<Shop>();
        var store = services.GetRequiredService<JobStore>();
        var now = services.GetRequiredService<TimeProvider>().GetUtcNow();
        var manifest = YamlPart.Root(Text("demo.yaml"), "demo.yaml");
        await shop.NameAsync(manifest.Get("shop").Text(), manifest.Get("time-zone").Text());
        string[] people = [.. manifest.Get("technicians").Items().Select(t => t.Text())];
        foreach (var name in people)
            await shop.AddTechnicianAsync(name);
        await shop.AddToShelfAsync(JsonPart.Root(Text("shelf.json")).Items().Select(JobFormat.ReadUnit));
        var signals = services.GetRequiredService<SignalStore>();
        foreach (var (maker, tables) in manifest.Get("makers").Fields())
            await signals.MakerAsync(maker, [.. tables.Items().Select(t => t.Slug())]);
        foreach (var reader in manifest.Get("readers").Items())
            await signals.AddReaderAsync(
                new ReaderRow
                {
                    Name = reader.Get("name").Text(),
                    Kind = ReaderKind.Simulated,
                    Address = reader.Get("scenario").Slug(),
                    JobNumber = reader.Get("job").Whole(1001, 9999),
                }
            );
        services.GetRequiredService<HouseRules>().Changed();
        foreach (var entry in manifest.Get("jobs").Items())
        {
            var opened = now.AddDays(-entry.Get("days-ago").Number(0, 1000)).UtcDateTime;
            var by = people[entry.Get("by").Whole(1, people.Length) - 1];
            var job = Dated(JobFormat.Read(Text(entry.Get("file").Text())), new DateTimeOffset(opened), by);
            var number = await store.OpenAsync(job, by, opened);
            if (entry.Find("closed") is { } closed)
            {
                UnitId[] found = [.. entry.Get("found").Items().Select(f => new UnitId(f.Slug()))];
                var diagnosis = BenchDiagnosis.Of(job, Atlas.Standard);
                var rules = await services.GetRequiredService<HouseRules>().CurrentAsync();
                var closing = new Closing(
                    closed.Text(400),
                    found,
                    Experience.Proved(diagnosis, found),
                    JsonSerializer.Serialize(CaseRecord.Of(diagnosis, found)),
                    job.Entries[^1].At.UtcDateTime.AddHours(2)
                );
                await services.GetRequiredService<Desk>().CloseAsync(number, closing, new DeskRules(by, rules.Set, rules.Drain));
            }
        }

        services.GetRequiredService<HouseRules>().Changed();
    }

    /// <summary>The text of a demo file.</summary>
    public static string Text(string file)
    {
        using var stream =
            typeof(DemoShop).Assembly.GetManifestResourceStream($"demo/{file}")
            ?? throw new DataFileException($"There is no demo file {file}.");
        using var reader = new StreamReader(stream);
        return reader.ReadToEnd();
    }

    private static BenchJob Dated(BenchJob job, DateTimeOffset opened, string by) =>
        BenchJob
            .Open(job.Intake)
            .With(
                job.Entries.Select((e, i) => e with { At = opened.AddMinutes(6 * (i + 1)), By = by, AtlasVersion = Atlas.Standard.Version })
            );
}
