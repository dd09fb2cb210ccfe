using System.Net;
using System.Net.Sockets;
using System.Text;
using System.Text.Json;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Tables;
using Kelvet.Core.Text;
using Kelvet.Data;
using Kelvet.Data.Copies;
using Kelvet.Web.Demo;
using Kelvet.Web.Drawing;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Connections;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Serilog;
using Serilog.Events;

namespace Kelvet.Web.Starting;

/// <summary>Starts the web application on 127.0.0.1 and says in one line why when it cannot.</summary>
public static class Server
{
    /// <summary>Hosts by which it is reached when nothing else is said: this machine alone, by no name that another could point
    /// here.</summary>
    public static IReadOnlyList<string> OwnHosts { get; } = ["127.0.0.1", "localhost", "[::1]"];

    /// <summary>Runs until it is stopped.</summary>
    /// <param name="port">Port; 0 for any that is free.</param>
    /// <param name="data">Folder of the shop's data.</param>
    /// <param name="demo">Whether an empty folder is filled with the demo shop.</param>
    /// <param name="hosts">Further host names by which it may be reached.</param>
    /// <param name="cancel">Stops it.</param>
    /// <returns>0 after an orderly stop, 1 when it could not start or a part of it failed.</returns>
    public static async Task<int> RunAsync(int port, string data, bool demo, IReadOnlyList<string> hosts, CancellationToken cancel)
    {
        if (port is < 0 or > 65535)
            return Fail($"Port {port} is not a port; choose 1 to 65535, or 0 for any that is free.");
        var folder = Path.GetFullPath(data);
        if (WhyNotWritable(folder) is { } why)
            return Fail($"The data folder {folder} cannot be written: {why}");
        try
        {
            var closed = new DataFolder(folder);
            closed.Close();
            using var claim = Claim(folder);
            if (claim is null)
                return Fail($"Kelvet already runs on the data in {folder}. Stop it first, or give another folder with --data.");
            if (!PortIsFree(port))
                return Taken(port);
            // What the first page needs is made ready on another core while the data are.
            var warm = Task.Run(WarmUp, cancel);
            while (true)
            {
                if (Restoring.Resume(folder) is { } replaced)
                    Console.WriteLine($"A copy was put back; what it replaced is in {replaced}");
                (var ended, port) = await OnceAsync(port, folder, demo, hosts, warm, cancel);
                if (ended is { } code)
                    return code;
                // Nothing of the data may be open while a copy is put in its place.
                SqliteConnection.ClearAllPools();
                FolderWatch.Forget(Path.Combine(folder, Database.FileName));
            }
        }
        catch (IOException e) when (e.InnerException is AddressInUseException)
        {
            // It was free when it was looked at, and taken while the data were made ready.
            return Taken(port);
        }
        catch (Exception e) when (StoreTroubles.Of(e) is { } trouble)
        {
            Log.Error(e, "The data cannot be used");
            return Fail($"The data in {folder} cannot be used. {AtStart(trouble)}");
        }
        catch (Exception e) when (e is DataFileException or IOException or UnauthorizedAccessException)
        {
            return Fail($"The data in {folder} cannot be used: {e.Message}");
        }
    }

    /// <summary>Runs until it is stopped, or is to start anew.</summary>
    /// <returns>The exit code, null where it is to start anew; and the port that it had.</returns>
    private static async Task<(int? Code, int Port)> OnceAsync(
        int port,
        string folder,
        bool demo,
        IReadOnlyList<string> hosts,
        Task warm,
        CancellationToken cancel
    )
    {
        await using var app = Build(port, folder, hosts);
        var log = app.Services.GetRequiredService<ILogger<Ending>>();
        await PrepareAsync(app, folder, demo);
        await warm;
        await app.StartAsync(cancel);
        log.LogInformation("Kelvet {Version} is ready on {Address}, data in {Folder}", HouseRules.Program, app.Urls.First(), folder);
        Console.WriteLine($"Kelvet is ready: {app.Urls.First()}");
        var got = new Uri(app.Urls.First()).Port;
        await app.WaitForShutdownAsync(cancel);
        log.LogInformation("Kelvet stops");
        var ending = app.Services.GetRequiredService<Ending>();
        var code =
            ending.IsToStartAgain ? (int?)null
            : ending.Failed ? 1
            : 0;
        return (code, got);
    }

    /// <summary>Reads the atlas, a job and its drawing once, so that the first who asks need not wait for it.</summary>
    private static void WarmUp()
    {
        var job = JobFormat.Read(DemoShop.Text("one-slot.json"));
        _ = Atlas.Standard.Version;
        _ = JobFormat.ReadIntake(JobFormat.Write(job.Intake));
        foreach (var part in DrawingView.Of(job.Now, null).Drawing.Parts)
            part.Look.Draw(new Pen(), part.Box);
    }

    private static string? WhyNotWritable(string folder)
    {
        try
        {
            Directory.CreateDirectory(folder);
            var probe = Path.Combine(folder, $".probe-{Environment.ProcessId}");
            File.WriteAllText(probe, "");
            File.Delete(probe);
            return null;
        }
        catch (Exception e) when (e is UnauthorizedAccessException or IOException)
        {
            return e.Message;
        }
    }

    private static WebApplication Build(int port, string folder, IReadOnlyList<string> hosts)
    {
        var builder = WebApplication.CreateBuilder(new WebApplicationOptions { ContentRootPath = AppContext.BaseDirectory });
        builder.WebHost.ConfigureKestrel(k =>
        {
            k.Listen(IPAddress.Loopback, port);
            k.AddServerHeader = false;
            k.Limits.MaxRequestBodySize = SecurityHeaders.MostBytes;
        });
        builder.Host.UseSerilog(
            (_, log) =>
                log
                    .MinimumLevel.Information()
                    .MinimumLevel.Override("Microsoft", LogEventLevel.Warning)
                    .Enrich.FromLogContext()
                    .MinimumLevel.Override("Microsoft.AspNetCore.Diagnostics.ExceptionHandlerMiddleware", LogEventLevel.Error)
                    .MinimumLevel.Override("Microsoft.AspNetCore.DataProtection", LogEventLevel.Error)
                    // What keeps it from starting is said below.
                    .MinimumLevel.Override("Microsoft.Extensions.Hosting.Internal.Host", LogEventLevel.Fatal)
                    .WriteTo.Console(restrictedToMinimumLevel: LogEventLevel.Warning, standardErrorFromLevel: LogEventLevel.Verbose)
                    // A form that was open when its token changed is answered in words; it is no news.
                    .MinimumLevel.Override("Microsoft.AspNetCore.Antiforgery", LogEventLevel.Error)
                    .WriteTo.File(
                        new LogLines(),
                        Path.Combine(folder, "logs", "kelvet-.log"),
                        rollingInterval: RollingInterval.Day,
                        fileSizeLimitBytes: DataFolder.MostLogBytes,
                        rollOnFileSizeLimit: true,
                        retainedFileCountLimit: DataFolder.MostLogFiles
                    )
        );
        AddServices(builder.Services, folder, hosts);
        var app = builder.Build();
        UsePipeline(app);
        return app;
    }

    /// <summary>Everything that the pages need, for the server and for tests alike.</summary>
    public static void AddServices(IServiceCollection services, string folder, IReadOnlyList<string>? hosts = null)
    {
        services.AddHostFiltering(h => h.AllowedHosts = [.. OwnHosts, .. hosts ?? []]);
        services.AddSingleton(new DataFolder(folder));
        services.AddSingleton<Ending>();
        services.AddSingleton<JobCache>();
        services.AddSingleton<JobNews>();
        services.AddHostedService<CardKeeper>();
        services.AddSingleton<CopyKeeper>();
        services.AddHostedService(s => s.GetRequiredService<CopyKeeper>());
        services.Configure<HostOptions>(h => h.BackgroundServiceExceptionBehavior = BackgroundServiceExceptionBehavior.Ignore);
        services.AddSingleton<HealthKeeper>();
        services.AddHostedService(s => s.GetRequiredService<HealthKeeper>());
        services.AddSingleton(s => new Elapsed(s.GetRequiredService<TimeProvider>(), Elapsed.ThisBoot));
        services.AddSingleton<ILineJudge, LineJudge>();
        services.AddSingleton<PhotoRoom>();
        services.AddScoped<Desk>();
        services.AddDbContext<KelvetDb>(o => Database.Configure(o, folder));
        services.AddSingleton(TimeProvider.System);
        services.AddScoped<JobStore>();
        services.AddScoped<Shop>();
        services.AddScoped<Invoices>();
        services.AddScoped<Orders>();
        services.AddScoped<Offers>();
        services.AddScoped<Payments>();
        services.AddScoped<Pages.Jobs.JobSums>();
        services.AddScoped<CustomerStore>();
        services.AddScoped<CatalogueStore>();
        services.AddScoped<BenchState>();
        services.AddScoped<SignalStore>();
        services.AddSingleton<LiveJobs>();
        services.AddSingleton<CatalogueImports>();
        services.AddSingleton<SupportLists>();
        services.AddSingleton<Readers>();
        services.AddHostedService(s => s.GetRequiredService<Readers>());
        services.AddScoped<Visitor>();
        services.AddSingleton<HouseRules>();
        services.AddSingleton<DiagnosisCache>();
        services.AddSingleton<PlayedAhead>();
        services.AddHostedService(s => s.GetRequiredService<PlayedAhead>());
        services.AddSingleton<SpareSavings>();
        services.AddHostedService(s => s.GetRequiredService<SpareSavings>());
        services.AddHttpContextAccessor();
        services.AddDataProtection().SetApplicationName("Kelvet").PersistKeysToFileSystem(new DirectoryInfo(Path.Combine(folder, "keys")));
        // What must be there is said by the handlers, in words; an empty field is no error by itself.
        services
            .AddRazorPages()
            .AddMvcOptions(o =>
            {
                o.SuppressImplicitRequiredAttributeForNonNullableReferenceTypes = true;
                o.ModelBinderProviders.Insert(0, new SignsBinders());
                o.Filters.Add<ReadableForms>();
                o.Filters.Add<OnceForms>();
            });
        // Styles and scripts alone: they hold no secret that could be guessed by the size of an answer.
        services.AddResponseCompression(c => c.MimeTypes = ["text/css", "text/javascript"]);
        services.AddRouting(r => r.LowercaseUrls = true);
        services.AddAntiforgery(a => a.Cookie.Name = "kelvet-form");
        services.Configure<FormOptions>(f =>
        {
            f.MultipartBodyLengthLimit = SecurityHeaders.MostBytes;
            f.ValueCountLimit = 600;
            f.ValueLengthLimit = 1_000_000;
        });
    }

    /// <summary>The request pipeline.</summary>
    public static void UsePipeline(WebApplication app)
    {
        app.UseMiddleware<SecurityHeaders>();
        app.UseHostFiltering();
        app.UseExceptionHandler("/error");
        app.UseStatusCodePagesWithReExecute("/error/{0}");
        app.UseMiddleware<BadRequests>();
        app.UseResponseCompression();
        app.UseStaticFiles();
        app.UseMiddleware<StoreAnswers>();
        app.UseMiddleware<OneFile>();
        app.MapRazorPages();
        app.MapGet(
            "/jobs/{number:int}/live",
            async (int number, LiveJobs live, Readers readers, HouseRules house, JobStore store, CancellationToken cancel) =>
            {
                if (await store.FindAsync(number, cancel) is not { } job)
                    return Results.NotFound();
                var signals = (await house.CurrentAsync()).Atlas.Signals;
                var family = signals.FamilyOf(job.Bench.Now.Board);
                return TypedResults.ServerSentEvents(
                    live.ListenAsync(
                        number,
                        () => JsonSerializer.Serialize(readers.Shown(number, signals, family), JsonSerializerOptions.Web),
                        cancel
                    )
                );
            }
        );
        app.MapGet(
            "/jobs/{number:int}/ahead",
            async (int number, JobStore store, DiagnosisCache readings, PlayedAhead played, CancellationToken cancel) =>
                await store.FindAsync(number, cancel) is { IsClosed: false } job
                    ? Results.Text(played.Ask(number, readings.Of(job, await readings.RulesAsync(job))).Word)
                    : Results.NotFound()
        );
        app.MapGet(
            "/jobs/{number:int}/captures/{id:int}.txt",
            async (int number, int id, SignalStore signals, CancellationToken cancel) =>
                await signals.CaptureAsync(number, id, cancel) is { } text
                    ? Results.File(Encoding.UTF8.GetBytes(text), "text/plain; charset=utf-8", $"codes-{number}-{id}.txt")
                    : Results.NotFound()
        );
        app.MapGet(
            "/codes/{table}.csv",
            async (string table, HouseRules house) =>
                (await house.CurrentAsync()).Atlas.Signals.Table(table) is { } found
                    ? Results.File(Encoding.UTF8.GetBytes(SignalTableFile.Write(found)), "text/csv; charset=utf-8", $"{found.Id}.csv")
                    : Results.NotFound()
        );
        Listening.Map(app);
        app.MapGet(
            "/jobs/{number:int}/photos/{id:guid}",
            async (int number, Guid id, BenchState bench, CancellationToken cancel) =>
                await bench.PhotoAsync(number, id, cancel) is { } jpeg ? Results.Bytes(jpeg, "image/jpeg") : Results.NotFound()
        );
        app.MapGet("/shelf/savings", (SpareSavings savings) => savings.State.Runs ? "playing" : "done");
        app.MapGet(
            "/logo",
            async (Shop shop) => (await shop.RowAsync()).Logo is { } jpeg ? Results.Bytes(jpeg, "image/jpeg") : Results.NotFound()
        );
        app.MapGet("/healthz", HealthAsync);
    }

    /// <summary>Asks the database, and tells what the last look through it found.</summary>
    private static async Task<IResult> HealthAsync(KelvetDb db, HealthKeeper health, ILogger<KelvetDb> log, CancellationToken cancel)
    {
        try
        {
            _ = await db.Jobs.OrderBy(j => j.Id).Select(j => j.Id).FirstOrDefaultAsync(cancel);
            return health.Last is { IsSound: false } report
                ? Results.Text(string.Join('\n', report.Words()), statusCode: StatusCodes.Status503ServiceUnavailable)
                : Results.Text("kelvet");
        }
        catch (Exception e) when (e is SqliteException || StoreTroubles.Of(e) is not null)
        {
            var words = StoreTroubles.Of(e) is { } trouble ? $": {StoreTroubles.Words(trouble)}" : "";
            log.LogError("The database does not answer: {Why}", e.GetType().Name);
            return Results.Text($"the database does not answer{words}", statusCode: StatusCodes.Status503ServiceUnavailable);
        }
    }

    /// <summary>Migrates and, when asked to, seeds.</summary>
    public static async Task PrepareAsync(WebApplication app, string folder, bool demo)
    {
        await using var scope = app.Services.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<KelvetDb>();
        var copies = scope.ServiceProvider.GetRequiredService<CopyKeeper>().Room;
        if (await Database.MigrateAsync(db, folder, copies, HouseRules.Program) is { } copy)
            Console.WriteLine($"The database was brought up to date; a copy from before is {copy}");
        FolderWatch.Remember(Path.Combine(folder, Database.FileName));
        try
        {
            await scope.ServiceProvider.GetRequiredService<Shop>().CountOnceAsync();
            await scope
                .ServiceProvider.GetRequiredService<JobStore>()
                .IndexOnceAsync(scope.ServiceProvider.GetRequiredService<CustomerStore>());
            await db.ForgetSentAsync();
        }
        catch (Exception e) when (StoreTroubles.Of(e) == StoreTrouble.Damaged)
        {
            // Part of it is damaged: the first page tells, and the rest works.
            app.Logger.LogError("What older jobs teach and are found by could not be read: the database is damaged");
        }

        if (demo && !await db.Jobs.AnyAsync())
            await DemoShop.SeedAsync(scope.ServiceProvider);
    }

    /// <summary>Holds the folder for this process; null when another process has it.</summary>
    internal static FileStream? Claim(string folder)
    {
        var path = Path.Combine(folder, "kelvet.lock");
        try
        {
            return new FileStream(path, FileMode.OpenOrCreate, FileAccess.ReadWrite, FileShare.None, 1, FileOptions.DeleteOnClose);
        }
        catch (IOException) when (File.Exists(path))
        {
            return null;
        }
    }

    /// <summary>What is wrong with the data at a start, and what to do.</summary>
    private static string AtStart(StoreTrouble trouble) =>
        trouble switch
        {
            StoreTrouble.Busy => "Another program holds the database. Stop it, then start again.",
            StoreTrouble.Full => "The disk is full. Make room, then start again.",
            StoreTrouble.ReadOnly => "The database can only be read. Give it the right to be written, then start again.",
            StoreTrouble.Damaged =>
                "The database is damaged. Look through it with ./kelvet check, and put back a copy with ./kelvet restore.",
            StoreTrouble.Gone => "The database cannot be opened. Look whether the folder is there and may be read.",
            _ => "The disk does not answer as it should.",
        };

    private static bool PortIsFree(int port)
    {
        try
        {
            using var listener = new TcpListener(IPAddress.Loopback, port);
            listener.Start();
            return true;
        }
        catch (SocketException)
        {
            return false;
        }
    }

    private static int Taken(int port) => Fail($"Port {port} is taken by another program. Choose another with --port.");

    internal static int Fail(string line)
    {
        Console.Error.WriteLine(line);
        return 1;
    }
}
