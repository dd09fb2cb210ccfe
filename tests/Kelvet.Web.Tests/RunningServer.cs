using System.Diagnostics;
using System.Net.Sockets;
using AngleSharp.Html.Dom;
using AngleSharp.Html.Parser;

namespace Kelvet.Web.Tests;

/// <summary>A real server process of its own.</summary>
public sealed class RunningServer : IDisposable
{
    private readonly Process _process;
    private readonly HttpClient _client;

    private RunningServer(Process process, int port)
    {
        _process = process;
        Port = port;
        _client = new HttpClient { BaseAddress = new Uri($"http://127.0.0.1:{port}") };
    }

    public int Port { get; }

    public static Process Launch(params string[] arguments)
    {
        // The application as it is published starts sooner than as it is built.
        var application = Environment.GetEnvironmentVariable("KELVET_TEST_APP") ?? Path.Combine(AppContext.BaseDirectory, "Kelvet.Web.dll");
        var start = new ProcessStartInfo("dotnet", [application, .. arguments])
        {
            RedirectStandardOutput = true,
            RedirectStandardError = true,
        };
        return Process.Start(start)!;
    }

    /// <summary>Starts it on a folder; on an empty one with the demo shop, which is made once for all.</summary>
    public static async Task<RunningServer> StartAsync(string folder, params string[] arguments)
    {
        Directory.CreateDirectory(folder);
        if (arguments.Length == 0 && !File.Exists(Path.Combine(folder, Data.Database.FileName)))
            await Workshop.FillAsync(folder, demo: true);
        var process = Launch(["--data", folder, "--port", "0", .. arguments]);
        while (await process.StandardOutput.ReadLineAsync() is { } line)
        {
            if (line.Contains("is ready", StringComparison.Ordinal))
                return new RunningServer(process, new Uri(line.Split(' ')[^1]).Port);
        }

        throw new InvalidOperationException(await process.StandardError.ReadToEndAsync());
    }

    public static int FreePort()
    {
        using var listener = new TcpListener(System.Net.IPAddress.Loopback, 0);
        listener.Start();
        return ((System.Net.IPEndPoint)listener.LocalEndpoint).Port;
    }

    public async Task<IHtmlDocument> GetAsync(string path) =>
        await new HtmlParser().ParseDocumentAsync(await _client.GetStringAsync(new Uri(path, UriKind.Relative)), CancellationToken.None);

    public async Task RecordAsync(string path, string seen)
    {
        await PressAsync(path, await GetAsync(path), "Again", "On");
        var fields = Hidden(await GetAsync(path));
        fields["seen"] = seen;
        using var content = new FormUrlEncodedContent(fields);
        using var response = await _client.PostAsync(new Uri(path, UriKind.Relative), content);
        response.EnsureSuccessStatusCode();
        Assert.Contains("said=", response.RequestMessage!.RequestUri!.Query);
    }

    /// <summary>Waits until it answers again, as after a copy was put back.</summary>
    public async Task BackAsync()
    {
        for (var tries = 0; ; tries++)
        {
            try
            {
                await _client.GetStringAsync(new Uri("/healthz", UriKind.Relative));
                return;
            }
            catch (HttpRequestException) when (tries < 600)
            {
                await Task.Delay(100);
            }
        }
    }

    /// <summary>The text of an address.</summary>
    public Task<string> TextAsync(string path) => _client.GetStringAsync(new Uri(path, UriKind.Relative));

    /// <summary>The hidden fields of a form of a page.</summary>
    public async Task<MultipartFormDataContent> FormAsync(string path, string form)
    {
        var content = new MultipartFormDataContent();
        foreach (var field in (await GetAsync(path)).QuerySelector(form)!.QuerySelectorAll("input[type=hidden]"))
            content.Add(new StringContent(field.GetAttribute("value") ?? ""), field.GetAttribute("name")!);
        return content;
    }

    /// <summary>Sends a form and tells where it led; null where it was refused or the server is away.</summary>
    public async Task<Uri?> RedirectsAsync(string path, MultipartFormDataContent content)
    {
        try
        {
            using var response = await _client.PostAsync(new Uri(path, UriKind.Relative), content);
            var page = await new HtmlParser().ParseDocumentAsync(await response.Content.ReadAsStringAsync());
            return response.IsSuccessStatusCode && page.QuerySelector("[role=alert]") is null ? response.RequestMessage!.RequestUri : null;
        }
        catch (Exception e) when (e is HttpRequestException or SocketException or IOException)
        {
            return null;
        }
    }

    /// <summary>Sends a form of a page with some fields changed.</summary>
    public async Task PostAsync(string path, string form, string action, params (string Name, string Value)[] fields)
    {
        var element = (await GetAsync(path)).QuerySelector(form)!;
        var values = element
            .QuerySelectorAll("input[name], select[name], textarea[name]")
            .GroupBy(i => i.GetAttribute("name")!)
            .ToDictionary(g => g.Key, g => g.First().GetAttribute("value") ?? "");
        foreach (var (name, value) in fields)
            values[name] = value;
        using var content = new FormUrlEncodedContent(values);
        using var response = await _client.PostAsync(new Uri(action, UriKind.Relative), content);
        response.EnsureSuccessStatusCode();
    }

    /// <summary>Sends a form as it is and does not wait for what becomes of it.</summary>
    public async Task<bool> SendAsync(string path, MultipartFormDataContent content)
    {
        try
        {
            using var response = await _client.PostAsync(new Uri(path, UriKind.Relative), content);
            return response.IsSuccessStatusCode && response.RequestMessage!.RequestUri!.Query.Contains("said=", StringComparison.Ordinal);
        }
        catch (Exception e) when (e is HttpRequestException or System.Net.Sockets.SocketException)
        {
            return false;
        }
    }

    /// <summary>Presses the first of some buttons that the page has.</summary>
    public async Task PressAsync(string path, IHtmlDocument page, params string[] handlers)
    {
        if (handlers.FirstOrDefault(h => page.QuerySelector($"#record [formaction$='={h}']") is not null) is not { } handler)
            return;
        using var content = new FormUrlEncodedContent(Hidden(page));
        using var response = await _client.PostAsync(new Uri($"{path}?handler={handler}", UriKind.Relative), content);
        response.EnsureSuccessStatusCode();
    }

    /// <summary>The hidden fields of the form in which a start is recorded.</summary>
    public static Dictionary<string, string> Hidden(IHtmlDocument page) =>
        page.QuerySelectorAll("#record input[type=hidden]").ToDictionary(i => i.GetAttribute("name")!, i => i.GetAttribute("value")!);

    /// <summary>Does something while every thread of the server stands still.</summary>
    public async Task FrozenAsync(Func<Task> act)
    {
        await SignalAsync("STOP");
        while (Directory.EnumerateDirectories($"/proc/{_process.Id}/task").Any(t => !IsStopped(t)))
            await Task.Delay(1);
        await act();
        await SignalAsync("CONT");
    }

    private Task SignalAsync(string name) => Process.Start("/bin/kill", [$"-{name}", $"{_process.Id}"]).WaitForExitAsync();

    /// <summary>What follows the name in a thread's line, which stands in brackets, is its state.</summary>
    private static bool IsStopped(string task)
    {
        try
        {
            return File.ReadAllText(Path.Combine(task, "stat")).Split(") ")[^1].StartsWith('T');
        }
        catch (IOException)
        {
            // It ended meanwhile.
            return true;
        }
    }

    /// <summary>Tells it to stop, as a service manager does.</summary>
    /// <returns>Its exit code.</returns>
    public async Task<int> StopAsync()
    {
        await SignalAsync("TERM");
        await _process.WaitForExitAsync();
        return _process.ExitCode;
    }

    public void Kill()
    {
        if (!_process.HasExited)
            _process.Kill(true);
        _process.WaitForExit();
    }

    public void Dispose()
    {
        Kill();
        _client.Dispose();
        _process.Dispose();
    }
}
