using System.Net;
using AngleSharp.Html.Dom;
using AngleSharp.Html.Parser;
using Kelvet.Core.Jobs;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Kelvet.Web.Starting;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.TestHost;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Logging;

namespace Kelvet.Web.Tests;

/// <summary>The application with a database of its own, and a client that keeps cookies and fills forms.</summary>
public sealed class Workshop : IAsyncDisposable
{
    private readonly WebApplication _app;
    private readonly HttpClient _client;
    private readonly CookieContainer _cookies = new();

    /// <summary>Whether its folder stays when it is closed.</summary>
    private bool _keep;

    private Workshop(WebApplication app, string folder, BenchClock clock)
    {
        Clock = clock;
        _app = app;
        Folder = folder;
        _client = new HttpClient(new CookieHandler(app.GetTestServer().CreateHandler(), _cookies))
        {
            BaseAddress = new Uri("http://localhost"),
        };
    }

    public string Folder { get; }

    /// <summary>The clock that the application goes by.</summary>
    public BenchClock Clock { get; }

    public IServiceProvider Services => _app.Services;

    public HttpClient Client => _client;

    /// <summary>What was logged, for tests of the log.</summary>
    public Notes Logged { get; private init; } = new();

    /// <summary>Opens a shop of its own; its database is a copy of one that is made once.</summary>
    public static async Task<Workshop> OpenAsync(
        bool demo = false,
        string? folder = null,
        Action<IServiceCollection>? also = null,
        bool keep = false
    )
    {
        if (folder is null)
        {
            folder = Directory.CreateTempSubdirectory("kelvet-test-").FullName;
            await FillAsync(folder, demo);
        }

        var shop = await StartAsync(demo, folder, also);
        shop._keep = keep;
        return shop;
    }

    /// <summary>Puts a shop into a folder, as the same version of the program would have made it.</summary>
    public static async Task FillAsync(string folder, bool demo)
    {
        File.Copy(await (demo ? DemoMade : EmptyMade).Value, Path.Combine(folder, Database.FileName));
        // The same version made it: nothing is copied before it is opened.
        await File.WriteAllTextAsync(Path.Combine(folder, Database.VersionFile), HouseRules.Program);
    }

    private static readonly Lazy<Task<string>> DemoMade = new(() => MadeAsync(true));
    private static readonly Lazy<Task<string>> EmptyMade = new(() => MadeAsync(false));

    private static async Task<string> MadeAsync(bool demo)
    {
        var folder = Directory.CreateTempSubdirectory("kelvet-made-").FullName;
        await using (await StartAsync(demo, folder, null))
        {
            var copy = Path.Combine(Directory.CreateTempSubdirectory("kelvet-copy-").FullName, Database.FileName);
            Database.CopyTo(Path.Combine(folder, Database.FileName), copy);
            return copy;
        }
    }

    private static async Task<Workshop> StartAsync(bool demo, string folder, Action<IServiceCollection>? also)
    {
        var builder = WebApplication.CreateBuilder(
            new WebApplicationOptions { ApplicationName = "Kelvet.Web", ContentRootPath = AppContext.BaseDirectory }
        );
        builder.WebHost.UseTestServer();
        Server.AddServices(builder.Services, folder);
        var clock = new BenchClock();
        builder.Services.AddSingleton<TimeProvider>(clock);
        also?.Invoke(builder.Services);
        var notes = new Notes();
        builder.Logging.ClearProviders().AddProvider(notes).AddFilter("Microsoft.EntityFrameworkCore", LogLevel.Warning);
        var app = builder.Build();
        Server.UsePipeline(app);
        await Server.PrepareAsync(app, folder, demo);
        await app.StartAsync();
        return new Workshop(app, folder, clock) { Logged = notes };
    }

    public async Task<T> WithStoreAsync<T>(Func<JobStore, Task<T>> use)
    {
        await using var scope = Services.CreateAsyncScope();
        return await use(scope.ServiceProvider.GetRequiredService<JobStore>());
    }

    /// <summary>Every job, newest first, read.</summary>
    public Task<ListedJob[]> JobsAsync() =>
        WithStoreAsync(async store =>
        {
            var listed = new List<ListedJob>();
            foreach (var row in (await store.ListAsync(null, JobsShown.All, 1, 500)).Jobs)
                listed.Add(await store.ReadListedAsync(row));
            return listed.ToArray();
        });

    /// <summary>Uses the desk as a page would, under the rules of the shop.</summary>
    public async Task<T> WithDeskAsync<T>(Func<Desk, DeskRules, Task<T>> use)
    {
        await using var scope = Services.CreateAsyncScope();
        var rules = await scope.ServiceProvider.GetRequiredService<HouseRules>().CurrentAsync();
        return await use(scope.ServiceProvider.GetRequiredService<Desk>(), new DeskRules("Ada", rules.Set, rules.Drain));
    }

    /// <summary>Opens a job as an import would.</summary>
    public Task<int> OpenJobAsync(BenchJob job, Opening? with = null, string by = "Ada") =>
        WithDeskAsync((desk, rules) => desk.OpenAsync(job, with ?? Opening.Nothing, rules with { By = by }));

    /// <summary>Records a note.</summary>
    public Task<DeskAnswer> NoteAsync(int job, string words) =>
        WithDeskAsync(
            (desk, rules) => desk.RecordWordsAsync(job, new NoteEntry(Guid.NewGuid()) { Note = words }, null, Attachments.None, rules)
        );

    public async Task<IHtmlDocument> GetAsync(string path, HttpStatusCode expected = HttpStatusCode.OK)
    {
        using var response = await _client.GetAsync(new Uri(path, UriKind.Relative));
        Assert.Equal(expected, response.StatusCode);
        return await new HtmlParser().ParseDocumentAsync(await response.Content.ReadAsStringAsync());
    }

    /// <summary>What somebody says of each part that has to be settled: the first thing that can become of it.</summary>
    public static IEnumerable<(string Name, string Value)> Settled(IHtmlDocument page) =>
        page.QuerySelectorAll("select[name^=becomes]")
            .Select(s =>
                (s.GetAttribute("name")!, s.QuerySelectorAll("option").Select(o => o.GetAttribute("value")!).First(v => v.Length > 0))
            );

    /// <summary>Sends a form of a page as a browser would, with some fields changed and one button pressed.</summary>
    public async Task<(HttpResponseMessage Response, IHtmlDocument Page)> SendAsync(
        IHtmlDocument page,
        string form,
        IEnumerable<(string Name, string Value)> fields,
        (string Name, string Value)? button = null,
        string? action = null,
        (string Field, string Name, byte[] Bytes)? file = null
    )
    {
        var element = (IHtmlFormElement)page.QuerySelector(form)!;
        var values = new List<KeyValuePair<string, string>>();
        var changed = fields.ToLookup(f => f.Name, f => f.Value);
        foreach (var input in element.QuerySelectorAll("input, select, textarea"))
        {
            var name = input.GetAttribute("name");
            if (name is null || changed.Contains(name))
                continue;
            if (input is IHtmlInputElement { Type: "checkbox" or "radio", IsChecked: false })
                continue;
            values.Add(
                new(
                    name,
                    input switch
                    {
                        IHtmlInputElement i => i.Value,
                        IHtmlSelectElement s => s.Value ?? "",
                        _ => input.TextContent,
                    }
                )
            );
        }

        values.AddRange(changed.SelectMany(g => g.Select(v => new KeyValuePair<string, string>(g.Key, v))));
        if (button is { } b)
            values.Add(new(b.Name, b.Value));
        using var content = file is { } sent ? Multipart(values, sent) : (HttpContent)new FormUrlEncodedContent(values);
        var target = action ?? element.GetAttribute("action") ?? "";
        var response = await _client.PostAsync(new Uri(target, UriKind.Relative), content);
        return (response, await new HtmlParser().ParseDocumentAsync(await response.Content.ReadAsStringAsync()));
    }

    private static MultipartFormDataContent Multipart(
        IEnumerable<KeyValuePair<string, string>> values,
        (string Field, string Name, byte[] Bytes) file
    )
    {
        var content = new MultipartFormDataContent();
        foreach (var (name, value) in values)
            content.Add(new StringContent(value), name);
        content.Add(new ByteArrayContent(file.Bytes), file.Field, file.Name);
        return content;
    }

    /// <summary>Goes through the gate, so that how far a machine got can be recorded: off and drained where hands go in, then on,
    /// or started again.</summary>
    public async Task StartAsync(string path)
    {
        var page = await GetAsync(path);
        if (page.QuerySelector("#record [formaction*=Off]") is not null)
        {
            await SendAsync(page, "#record", [], action: $"{path.Split('?')[0]}?handler=Off");
            Clock.Advance(TimeSpan.FromMinutes(1));
            page = await GetAsync(path);
        }

        if (page.QuerySelector("#record [formaction*='=On'], #record [formaction*=Again]") is { } on)
            await SendAsync(page, "#record", [], action: on.GetAttribute("formaction"));
    }

    /// <summary>Starts the machine of a bench page and records how far it got.</summary>
    public async Task<(HttpResponseMessage Response, IHtmlDocument Page)> RecordAsync(
        string path,
        string seen,
        params (string Name, string Value)[] fields
    )
    {
        await StartAsync(path);
        return await SendAsync(await GetAsync(path), "#record", fields, ("seen", seen));
    }

    public async ValueTask DisposeAsync()
    {
        _client.Dispose();
        // What works in the background ends before its folder goes.
        await _app.StopAsync();
        await _app.DisposeAsync();
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        if (!_keep)
            Directory.Delete(Folder, true);
    }

    private sealed class CookieHandler(HttpMessageHandler inner, CookieContainer cookies) : DelegatingHandler(inner)
    {
        protected override async Task<HttpResponseMessage> SendAsync(HttpRequestMessage request, CancellationToken cancellationToken)
        {
            if (cookies.GetCookieHeader(request.RequestUri!) is { Length: > 0 } header)
                request.Headers.Add("Cookie", header);
            var response = await base.SendAsync(request, cancellationToken);
            if (response.Headers.TryGetValues("Set-Cookie", out var set))
            {
                foreach (var cookie in set)
                    cookies.SetCookies(request.RequestUri!, cookie);
            }

            return response;
        }
    }
}

/// <summary>A clock that a test moves: time that passes, and a wall clock that is set back.</summary>
public sealed class BenchClock : TimeProvider
{
    private TimeSpan _passed;
    private TimeSpan _set;

    public override long TimestampFrequency => TimeSpan.TicksPerSecond;

    public override DateTimeOffset GetUtcNow() => System.GetUtcNow() + _passed + _set;

    public override long GetTimestamp() => System.GetElapsedTime(0).Ticks + _passed.Ticks;

    /// <summary>Time passes.</summary>
    public void Advance(TimeSpan by) => _passed += by;

    /// <summary>Somebody sets the wall clock; no time passes.</summary>
    public void Set(TimeSpan by) => _set += by;
}

/// <summary>A log that a test reads.</summary>
public sealed class Notes : ILoggerProvider
{
    private readonly System.Collections.Concurrent.ConcurrentQueue<string> _lines = new();

    /// <summary>Every line, oldest first: level, category, message.</summary>
    public IReadOnlyCollection<string> Lines => _lines;

    public ILogger CreateLogger(string categoryName) => new Writer(this, categoryName);

    public void Dispose() { }

    private sealed class Writer(Notes notes, string category) : ILogger
    {
        public IDisposable? BeginScope<TState>(TState state)
            where TState : notnull => null;

        public bool IsEnabled(LogLevel logLevel) => logLevel >= LogLevel.Information;

        public void Log<TState>(
            LogLevel logLevel,
            EventId eventId,
            TState state,
            Exception? exception,
            Func<TState, Exception?, string> formatter
        ) =>
            notes._lines.Enqueue(
                $"{logLevel} {category[(category.LastIndexOf('.') + 1)..]} {formatter(state, exception)} {exception?.Message}"
            );
    }
}
