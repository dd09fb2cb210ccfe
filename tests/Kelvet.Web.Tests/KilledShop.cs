using System.Collections.Concurrent;
using System.Diagnostics;
using System.Globalization;
using System.Text.Json;
using Kelvet.Core.Jobs;
using Kelvet.Data;
using Kelvet.Data.Copies;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace Kelvet.Web.Tests;

/// <summary>
/// A shop whose server is killed in the middle of each sort of work, with a tally of what was acknowledged. A kill ends the process
/// and starts another. A stop freezes it, takes its folder as it is at that instant, which is what a kill would leave, and lets it go
/// on: far more of them fit into an hour.
/// </summary>
internal sealed class KilledShop(Random random)
{
    private const int StopsInWork = 12;
    private const int StopsInRestore = 8;

    private readonly string _folder = Directory.CreateTempSubdirectory("kelvet-test-").FullName;
    private readonly byte[] _photo = MakePhoto();

    /// <summary>Lines that were acknowledged and must be there, by their ids.</summary>
    private readonly ConcurrentDictionary<Guid, bool> _lines = [];

    /// <summary>Lines whose taking back was acknowledged.</summary>
    private readonly ConcurrentDictionary<Guid, bool> _taken = [];

    private int _imports;
    private int _copies;
    private int _restores;
    private int _closings;
    private string _example = "";

    /// <summary>What was acknowledged.</summary>
    public string Told =>
        string.Create(
            CultureInfo.InvariantCulture,
            $"{_lines.Count} lines, {_taken.Count} undone, {_imports} imports, {_closings} closings, {_copies} copies, {_restores} restores"
        );

    /// <summary>Freezes the server at instants of mixed work and of a copy being put back, and judges what a kill would leave.</summary>
    /// <param name="stops">How often, at least.</param>
    /// <returns>How often it was.</returns>
    public async Task<int> StopsAsync(int stops)
    {
        using var server = await RunningServer.StartAsync(_folder);
        _example = await server.TextAsync("/jobs/1003/export");
        var done = 0;
        while (done < stops)
        {
            using var ending = new CancellationTokenSource();
            // One page first: pages asked for at the same moment by a browser without a cookie bring one each, and the last would hold.
            await server.GetAsync("/jobs/1010");
            var work = new[]
            {
                RepeatAsync(() => StartAsync(server, null), () => StartAsync(server, null), () => UndoAsync(server, Go)),
                RepeatAsync(() => ImportAsync(server, Go)),
                RepeatAsync(() => CloseAsync(server, Go)),
                RepeatAsync(() => CopyAsync(server, Go)),
            };
            for (var i = 0; i < StopsInWork; i++, done++)
            {
                await Task.Delay(random.Next(400));
                await StopAsync(server);
            }

            await ending.CancelAsync();
            await Task.WhenAll(work);
            Assert.True(_closings > 0, "No closing was ever acknowledged: kills in the middle of one prove nothing.");
            // Alone: what is recorded between a copy and its being put back is lost as it is meant to be.
            var restore = RestoreAsync(server, Go);
            for (var i = 0; i < StopsInRestore && !restore.IsCompleted; i++, done++)
            {
                await Task.Delay(random.Next(600));
                await StopAsync(server);
            }

            await restore;
            await server.BackAsync();

            async Task RepeatAsync(params Func<Task>[] acts)
            {
                for (var n = 0; !ending.IsCancellationRequested; n++)
                {
                    try
                    {
                        await acts[n % acts.Length]();
                    }
                    catch (HttpRequestException e) when (e.StatusCode is null)
                    {
                        // It starts anew on what was put back.
                        await Task.Delay(100);
                    }
                }
            }
        }

        server.Kill();
        Directory.Delete(_folder, true);
        return done;
    }

    private static Task Go(RunningServer server) => Task.CompletedTask;

    private async Task StopAsync(RunningServer server)
    {
        var told = new Acknowledged([.. _lines.Keys], [.. _taken.Keys], _imports);
        var left = Directory.CreateTempSubdirectory("kelvet-left-").FullName;
        await server.FrozenAsync(() => Process.Start("/bin/cp", ["-a", $"{_folder}/.", left]).WaitForExitAsync());
        Restoring.Resume(left);
        await JudgeAsync(left, told, _example);
        Directory.Delete(left, true);
    }

    /// <summary>What was acknowledged at an instant.</summary>
    private sealed record Acknowledged(IReadOnlySet<Guid> Lines, IReadOnlySet<Guid> Taken, int Imports)
    {
        public Acknowledged(Guid[] lines, Guid[] taken, int imports)
            : this(lines.ToHashSet(), taken.ToHashSet(), imports) { }
    }

    private static byte[] MakePhoto()
    {
        using var picture = new SkiaSharp.SKBitmap(64, 48);
        return picture.Encode(SkiaSharp.SKEncodedImageFormat.Png, 90).ToArray();
    }

    /// <summary>Starts the server, works, and kills it in the middle of the last thing.</summary>
    public async Task RoundAsync(int round)
    {
        using var server = await RunningServer.StartAsync(_folder);
        if (_example.Length == 0)
            _example = await server.TextAsync("/jobs/1003/export");
        // What is acknowledged before, so that there is something to lose.
        await StartAsync(server, kill: null);
        switch (round % 6)
        {
            case 0:
                await StartAsync(server, Kill(150));
                break;
            case 1:
                await UndoAsync(server, Kill(150));
                break;
            case 2:
                await ImportAsync(server, Kill(900));
                break;
            case 3:
                await CloseAsync(server, Kill(600));
                break;
            case 4:
                await CopyAsync(server, Kill(700));
                break;
            default:
                await RestoreAsync(server, Kill(1500));
                break;
        }
    }

    private Func<RunningServer, Task> Kill(int most)
    {
        var after = random.Next(most);
        return async server =>
        {
            await Task.Delay(after);
            server.Kill();
        };
    }

    private async Task StartAsync(RunningServer server, Func<RunningServer, Task>? kill)
    {
        await server.PressAsync("/jobs/1010", await server.GetAsync("/jobs/1010"), "Again", "On");
        var hidden = RunningServer.Hidden(await server.GetAsync("/jobs/1010"));
        var content = new MultipartFormDataContent
        {
            { new StringContent("4-5"), "seen" },
            { new ByteArrayContent(_photo), "photo", "p.png" },
            { new StringContent("# kelvet-codes 1\n0.1 55\n"), "capture", "c.txt" },
        };
        foreach (var (name, value) in hidden)
            content.Add(new StringContent(value), name);
        var sent = server.SendAsync("/jobs/1010", content);
        if (kill is not null)
            await kill(server);
        if (await sent)
            _lines[Guid.Parse(hidden["stepId"])] = true;
    }

    private async Task UndoAsync(RunningServer server, Func<RunningServer, Task> kill)
    {
        var page = await server.GetAsync("/jobs/1010?said=1");
        var line = page.QuerySelector("[formaction*=Undo]")?.GetAttribute("value");
        if (line is null || !Guid.TryParse(line, out var id))
        {
            await kill(server);
            return;
        }

        var hidden = RunningServer.Hidden(page);
        var content = new MultipartFormDataContent
        {
            { new StringContent(line), "line" },
            { new StringContent(Guid.NewGuid().ToString()), "stepId" },
        };
        content.Add(new StringContent(hidden["__RequestVerificationToken"]), "__RequestVerificationToken");
        var sent = server.RedirectsAsync("/jobs/1010?handler=Undo", content);
        await kill(server);
        if (await sent is not null)
            _taken[id] = true;
    }

    private async Task ImportAsync(RunningServer server, Func<RunningServer, Task> kill)
    {
        var content = await server.FormAsync("/jobs/import", "form[enctype]");
        content.Add(new StringContent(_example), "file", "job.json");
        var sent = server.RedirectsAsync("/jobs/import", content);
        await kill(server);
        if (await sent is not null)
            _imports++;
    }

    private async Task CloseAsync(RunningServer server, Func<RunningServer, Task> kill)
    {
        var page = await server.GetAsync("/jobs/1008/close");
        var reopen = page.QuerySelector("form[action*=Reopen]") is not null;
        var content = await server.FormAsync("/jobs/1008/close", reopen ? "form[action*=Reopen]" : "form.grid");
        if (!reopen)
        {
            content.Add(new StringContent("Board replaced."), "words");
            content.Add(new StringContent("Ada Fenn"), "by");
            content.Add(new StringContent("board"), "found");
            foreach (var (name, value) in Workshop.Settled(page))
                content.Add(new StringContent(value), name);
            foreach (var price in page.QuerySelectorAll("input[name^=becomes][type=number]"))
                content.Add(new StringContent(price.GetAttribute("value")!), price.GetAttribute("name")!);
        }

        var sent = server.RedirectsAsync($"/jobs/1008/close{(reopen ? "?handler=Reopen" : "")}", content);
        await kill(server);
        if (await sent is not null)
            _closings++;
    }

    private async Task CopyAsync(RunningServer server, Func<RunningServer, Task> kill)
    {
        var sent = server.RedirectsAsync("/copies?handler=Make", await server.FormAsync("/copies", "form[action*=Make]"));
        await kill(server);
        if (await sent is not null)
            _copies++;
    }

    /// <summary>A copy is made and put back at once: what was recorded before it is there after it, wherever the kill comes.</summary>
    private async Task RestoreAsync(RunningServer server, Func<RunningServer, Task> kill)
    {
        Assert.NotNull(await server.RedirectsAsync("/copies?handler=Make", await server.FormAsync("/copies", "form[action*=Make]")));
        _copies++;
        var address = (await server.GetAsync("/copies")).QuerySelector("table a")!.GetAttribute("href")!;
        var content = await server.FormAsync(address, "#picked form");
        content.Add(new StringContent("restore"), "sure");
        var sent = server.RedirectsAsync("/copies?handler=Restore", content);
        await kill(server);
        if (await sent is not null)
            _restores++;
    }

    /// <summary>Reads everything that is stored: nothing that was acknowledged is lost, doubled or half there.</summary>
    public async Task JudgeAsync()
    {
        // Whoever starts next goes on with what was left in the middle.
        using (await RunningServer.StartAsync(_folder)) { }
        await JudgeAsync(_folder, new Acknowledged([.. _lines.Keys], [.. _taken.Keys], _imports), _example);
        Directory.Delete(_folder, true);
    }

    private static async Task JudgeAsync(string folder, Acknowledged told, string example)
    {
        SqliteConnection.ClearAllPools();
        Assert.True(StoreHealth.Check(Path.Combine(folder, Database.FileName)).IsSound);
        var options = new DbContextOptionsBuilder<KelvetDb>();
        Database.Configure(options, folder);
        await using var db = new KelvetDb(options.Options);
        await Ledger.JudgeAsync(db);
        var job = await db.Jobs.SingleAsync(j => j.Number == 1010);
        var steps = await db.Steps.Where(s => s.JobId == job.Id).OrderBy(s => s.Number).ToListAsync();
        var entries = steps.Select(s => JobFormat.ReadEntry(s.Body)).ToArray();
        Assert.Equal(steps.Count, entries.DistinctBy(e => e.Id).Count());
        Assert.Equal(Enumerable.Range(1, steps.Count), steps.Select(s => s.Number));
        Assert.Empty(told.Lines.Except(entries.Select(e => e.Id)));
        Assert.Empty(told.Taken.Except(entries.OfType<StrikeEntry>().Select(s => s.Struck)));
        // Each start with its photo and its capture, each once.
        Guid[] starts = [.. entries.OfType<TrialEntry>().Select(e => e.Id).Order()];
        Assert.Equal(starts, await db.Photos.Where(p => p.JobId == job.Id).Select(p => p.StepId).OrderBy(p => p).ToListAsync());
        Assert.Equal(
            starts,
            await db
                .Captures.Where(c => c.JobId == job.Id && c.Source.StartsWith("file"))
                .Select(c => c.StepId)
                .OrderBy(c => c)
                .ToListAsync()
        );
        // Each import whole, with its customer and every line.
        var lines = JobFormat.Read(example).Entries.Length;
        var imports = await db
            .Jobs.Where(j => j.Number > 1012)
            .Select(j => new { j.Number, Lines = db.Steps.Count(s => s.JobId == j.Id) })
            .ToListAsync();
        Assert.True(imports.Count >= told.Imports, $"{told.Imports} acknowledged, {imports.Count} there");
        Assert.All(imports, i => Assert.Equal(lines, i.Lines));
        Assert.Equal(imports.Count, imports.Select(i => i.Number).Distinct().Count());
        // Closed with its figures and the rules that they were worked out by, or not at all; and what is counted is what closed jobs
        // taught.
        var closed = await db.Jobs.SingleAsync(j => j.Number == 1008);
        Assert.Equal(closed.ClosedAtUtc is null, closed.ClosedFigures.Length == 0);
        Assert.Equal(closed.ClosedAtUtc is null, closed.ClosedRules.Length == 0);
        Assert.True(closed.ClosedAtUtc is null || await db.RuleSets.AnyAsync(r => r.Id == closed.ClosedRules));
        var taught = await db.Jobs.Where(j => j.TaughtJson != "").Select(j => j.TaughtJson).ToListAsync();
        var counted = taught
            .SelectMany(t => JsonSerializer.Deserialize<Dictionary<string, Core.Learning.Tally>>(t)!)
            .Sum(t => t.Value.Cases);
        Assert.Equal(counted, await db.Tallies.SumAsync(t => t.Cases));
        // Every copy that has a name is whole.
        foreach (var copy in new CopyRoom(folder, "", TimeProvider.System).All(""))
            CopyFile.Verify(copy.Path);
        await db.DisposeAsync();
        SqliteConnection.ClearAllPools();
    }
}
