using Kelvet.Core.Text;
using Kelvet.Data;
using Kelvet.Data.Copies;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Kelvet.Web.Pages.Copies;

/// <summary>Copies of the shop's data: made, kept in a second place, looked into and put back.</summary>
public sealed class IndexModel(
    CopyKeeper keeper,
    Shop shop,
    KelvetDb db,
    DataFolder folder,
    HealthKeeper health,
    Ending ending,
    IHostApplicationLifetime host,
    TimeProvider clock
) : FormPage
{
    /// <summary>Characters of a passphrase.</summary>
    public const int LeastPassphrase = 8,
        LongestPassphrase = 200;

    /// <summary>Most days and weeks.</summary>
    public const int MostDays = 366,
        MostWeeks = 520;

    /// <summary>Every copy, newest first.</summary>
    public IReadOnlyList<CopyAt> All { get; private set; } = [];

    /// <summary>How copying last went.</summary>
    public CopyStatus Status { get; private set; } = CopyStatus.None;

    /// <summary>The shop.</summary>
    public ShopRow Row { get; private set; } = null!;

    /// <summary>What the last look through the database found; null before it.</summary>
    public StoreReport? Report => health.Last;

    /// <summary>The copy that is looked into; null for none.</summary>
    public CopyAt? Picked { get; private set; }

    /// <summary>What it holds; null where it does not say, or is none.</summary>
    public CopyManifest? Holds { get; private set; }

    /// <summary>Folders with what a restore has replaced.</summary>
    public IReadOnlyList<string> Replaced { get; private set; } = [];

    /// <summary>How long ago, in a word or two.</summary>
    public string Ago(DateTime utc) => AgoOf(clock.GetUtcNow().UtcDateTime - utc);

    /// <summary>A time in a word or two.</summary>
    public static string AgoOf(TimeSpan past) =>
        past.TotalMinutes < 2 ? "just now"
        : past.TotalHours < 2 ? $"{past.TotalMinutes:0} min ago"
        : past.TotalDays < 2 ? $"{past.TotalHours:0} h ago"
        : $"{past.TotalDays:0} days ago";

    /// <summary>Shows them.</summary>
    public async Task OnGetAsync(string? copy)
    {
        await ShowAsync();
        Pick(copy);
    }

    private void Pick(string? copy)
    {
        Picked = All.FirstOrDefault(c => c.Name == copy);
        if (Picked is null || Path.GetExtension(Picked.Path) == ".db")
            return;
        try
        {
            Holds = CopyFile.Read(Picked.Path);
        }
        catch (Exception e) when (e is DataFileException or IOException)
        {
            Problem = e.Message;
        }
    }

    /// <inheritdoc/>
    protected override async Task ShowAsync()
    {
        Row = await shop.RowAsync();
        All = keeper.Room.All(Row.CopyFolder);
        Status = keeper.Room.Status();
        Replaced = [.. Directory.GetDirectories(folder.Path, $"{Restoring.Replaced}*").Select(d => Path.GetFileName(d)).OrderDescending()];
    }

    /// <summary>Makes one now.</summary>
    public async Task<IActionResult> OnPostMakeAsync()
    {
        try
        {
            await keeper.MakeAsync(HttpContext.RequestAborted);
            return Redirect("/copies");
        }
        catch (DataFileException e)
        {
            return await RefusedAsync(e.Message);
        }
    }

    /// <summary>Says where copies go and how long they stay.</summary>
    public async Task<IActionResult> OnPostAsync(string? second, int? days, int? weeks, string? passphrase, bool? open)
    {
        second = second?.Trim() ?? "";
        if (days is not (>= 1 and <= MostDays))
            return await RefusedAsync($"Days are 1 to {MostDays}.", "days");
        if (weeks is not (>= 0 and <= MostWeeks))
            return await RefusedAsync($"Weeks are 0 to {MostWeeks}.", "weeks");
        if (second.Length > 0 && WhyNot(second) is { } why)
            return await RefusedAsync(why, "second");
        passphrase ??= "";
        if (passphrase.Length > 0 && passphrase.Length is < LeastPassphrase or > LongestPassphrase)
            return await RefusedAsync($"A passphrase has {LeastPassphrase} to {LongestPassphrase} characters.", "passphrase");
        await shop.ChangeAsync(row =>
        {
            (row.CopyFolder, row.CopyDays, row.CopyWeeks) = (second, days.Value, weeks.Value);
            row.CopySealed =
                open == true ? ""
                : passphrase.Length > 0 ? keeper.Sealed(passphrase)
                : row.CopySealed;
        });
        return Redirect("/copies");
    }

    private string? WhyNot(string place)
    {
        if (!Path.IsPathFullyQualified(place))
            return "The second place is a folder by its whole path, such as /media/copies.";
        if (Path.GetFullPath(place).StartsWith(folder.Path + Path.DirectorySeparatorChar, StringComparison.Ordinal))
            return "The second place lies inside the data folder: what takes the one would take the other.";
        if (!Directory.Exists(place))
            return $"There is no folder {place}. Make it, or plug in what it is on.";
        try
        {
            var probe = Path.Combine(place, $".kelvet-{Guid.NewGuid():N}");
            System.IO.File.WriteAllText(probe, "");
            System.IO.File.Delete(probe);
            return null;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return $"Nothing can be written to {place}: {e.Message}";
        }
    }

    /// <summary>Puts a copy back: it is unpacked and checked, then the server starts anew on it.</summary>
    public async Task<IActionResult> OnPostRestoreAsync(string? copy, string? passphrase, string? sure)
    {
        await ShowAsync();
        Pick(copy);
        if (Picked is null)
            return await RefusedAsync("That copy is not there any more. Choose another.");
        if (!string.Equals(sure?.Trim(), "restore", StringComparison.OrdinalIgnoreCase))
        {
            var refused = await RefusedAsync("Type the word restore. What was recorded since that copy is set aside.", "sure");
            Pick(copy);
            return refused;
        }

        try
        {
            var known = db.Database.GetMigrations().ToArray();
            await Task.Run(() => Restoring.Stage(Picked.Path, folder.Path, passphrase ?? "", clock, known), HttpContext.RequestAborted);
        }
        catch (DataFileException e)
        {
            var refused = await RefusedAsync(e.Message, "passphrase");
            Pick(copy);
            return refused;
        }

        ending.StartAgain();
        Response.OnCompleted(() =>
        {
            host.StopApplication();
            return Task.CompletedTask;
        });
        return new ContentResult
        {
            ContentType = "text/html; charset=utf-8",
            Content =
                "<!doctype html><html lang=\"en\"><meta charset=\"utf-8\"><meta http-equiv=\"refresh\" content=\"4;url=/copies\">"
                + "<title>Kelvet</title><link rel=\"stylesheet\" href=\"/css/site.css\"><div class=\"page\"><h1>The copy is put back</h1>"
                + "<p>Kelvet starts anew on it; this page goes on by itself.</p><p><a href=\"/copies\">Go on</a></p></div></html>",
        };
    }
}
