using System.Net;
using AngleSharp.Dom;
using AngleSharp.Html.Dom;
using AngleSharp.Html.Parser;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.TestHost;
using Microsoft.Extensions.DependencyInjection;

namespace Kelvet.Web.Tests;

/// <summary>The application with a database of its own, and a client that keeps cookies and fills forms.</summary>
public sealed class Workshop : IAsyncDisposable
{
    private readonly WebApplication _app;
    private readonly HttpClient _client;
    private readonly CookieContainer _cookies = new();

    private Workshop(WebApplication app, string folder)
    {
        _app = app;
        Folder = folder;
        _client = new HttpClient(new CookieHandler(app.GetTestServer().CreateHandler(), _cookies)) { BaseAddress = new Uri("http://localhost") };
    }

    public string Folder { get; }

    public IServiceProvider Services => _app.Services;

    public HttpClient Client => _client;

    public static async Task<Workshop> OpenAsync(bool demo = false, string? folder = null)
    {
        folder ??= Directory.CreateTempSubdirectory("kelvet-test-").FullName;
        var builder = WebApplication.CreateBuilder(new WebApplicationOptions { ApplicationName = "Kelvet.Web", ContentRootPath = AppContext.BaseDirectory });
        builder.WebHost.UseTestServer();
        Server.AddServices(builder.Services, folder);
        var app = builder.Build();
        Server.UsePipeline(app);
        await Server.PrepareAsync(app, folder, demo);
        await app.StartAsync();
        return new Workshop(app, folder);
    }

    public async Task<T> WithStoreAsync<T>(Func<JobStore, Task<T>> use)
    {
        await using var scope = Services.CreateAsyncScope();
        return await use(scope.ServiceProvider.GetRequiredService<JobStore>());
    }

    public async Task<IHtmlDocument> GetAsync(string path, HttpStatusCode expected = HttpStatusCode.OK)
    {
        using var response = await _client.GetAsync(new Uri(path, UriKind.Relative));
        Assert.Equal(expected, response.StatusCode);
        return await new HtmlParser().ParseDocumentAsync(await response.Content.ReadAsStringAsync());
    }

    /// <summary>Sends a form of a page as a browser would, with some fields changed and one button pressed.</summary>
    public async Task<(HttpResponseMessage Response, IHtmlDocument Page)> SendAsync(
        IHtmlDocument page, string form, IEnumerable<(string Name, string Value)> fields, (string Name, string Value)? button = null, string? action = null)
    {
        var element = (IHtmlFormElement)page.QuerySelector(form)!;
        var values = new List<KeyValuePair<string, string>>();
        var changed = fields.ToLookup(f => f.Name, f => f.Value);
        foreach (var input in element.QuerySelectorAll("input, select, textarea"))
        {
            var name = input.GetAttribute("name");
            if (name is null || changed.Contains(name)) continue;
            if (input is IHtmlInputElement { Type: "checkbox", IsChecked: false }) continue;
            values.Add(new(name, input switch
            {
                IHtmlInputElement i => i.Value,
                IHtmlSelectElement s => s.Value ?? "",
                _ => input.TextContent,
            }));
        }

        values.AddRange(changed.SelectMany(g => g.Select(v => new KeyValuePair<string, string>(g.Key, v))));
        if (button is { } b) values.Add(new(b.Name, b.Value));
        using var content = new FormUrlEncodedContent(values);
        var target = action ?? element.GetAttribute("action") ?? "";
        var response = await _client.PostAsync(new Uri(target, UriKind.Relative), content);
        return (response, await new HtmlParser().ParseDocumentAsync(await response.Content.ReadAsStringAsync()));
    }

    public async ValueTask DisposeAsync()
    {
        _client.Dispose();
        await _app.DisposeAsync();
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        Directory.Delete(Folder, true);
    }

    private sealed class CookieHandler(HttpMessageHandler inner, CookieContainer cookies) : DelegatingHandler(inner)
    {
        protected override async Task<HttpResponseMessage> SendAsync(HttpRequestMessage request, CancellationToken cancellationToken)
        {
            if (cookies.GetCookieHeader(request.RequestUri!) is { Length: > 0 } header) request.Headers.Add("Cookie", header);
            var response = await base.SendAsync(request, cancellationToken);
            if (response.Headers.TryGetValues("Set-Cookie", out var set))
            {
                foreach (var cookie in set) cookies.SetCookies(request.RequestUri!, cookie);
            }

            return response;
        }
    }
}
