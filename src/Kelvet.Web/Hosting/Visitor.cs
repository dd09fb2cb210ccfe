using Kelvet.Data;

namespace Kelvet.Web.Hosting;

/// <summary>Who sits in front of this browser, which theme it likes and which clock the shop goes by.</summary>
public sealed class Visitor(IHttpContextAccessor http, Shop shop)
{
    private const string WhoCookie = "kelvet-who";
    private const string ThemeCookie = "kelvet-theme";
    private const string ViewCookie = "kelvet-view";
    private const string GuideCookie = "kelvet-guide";

    private HttpContext Context => http.HttpContext!;

    /// <summary>The technician's name; empty until picked.</summary>
    public string Name => Uri.UnescapeDataString(Context.Request.Cookies[WhoCookie] ?? "") is { Length: <= 60 } name ? name : "";

    /// <summary>auto, light or dark.</summary>
    public string Theme => Context.Request.Cookies[ThemeCookie] is ("light" or "dark") and var theme ? theme : "auto";

    /// <summary>The job that this browser is guided through; null for none.</summary>
    public int? Guided => int.TryParse(Context.Request.Cookies[GuideCookie], out var job) ? job : null;

    /// <summary>Guides through a job, or through none any more.</summary>
    public void Guide(int? job) => Set(GuideCookie, job?.ToString(System.Globalization.CultureInfo.InvariantCulture) ?? "");

    /// <summary>Whether this browser was told to show the bench so: "big" for state, step and keys alone, "quiet" for no sounds,
    /// "speak" for spoken instructions.</summary>
    public bool Is(string view) => Views.Contains(view);

    /// <summary>What is on, for the page.</summary>
    public string View => string.Join(' ', Views);

    private static readonly string[] KnownViews = ["big", "quiet", "speak"];

    private IEnumerable<string> Views => (Context.Request.Cookies[ViewCookie] ?? "").Split(' ').Where(v => KnownViews.Contains(v));

    /// <summary>Turns one of them on, or off again.</summary>
    public void Turn(string view) => Set(ViewCookie, string.Join(' ', KnownViews.Where(v => v == view ? !Is(v) : Is(v))));

    public void Remember(string name) => Set(WhoCookie, Uri.EscapeDataString(name));

    public void RememberTheme(string theme) => Set(ThemeCookie, theme is "light" or "dark" ? theme : "auto");

    /// <summary>A UTC time as the shop reads it: "3 Mar 2026 09:30".</summary>
    public async Task<string> TimeAsync(DateTimeOffset utc) => (await LocalAsync(utc)).ToString("d MMM yyyy HH:mm");

    /// <summary>A UTC time by the shop's clock.</summary>
    public async Task<DateTimeOffset> LocalAsync(DateTimeOffset utc) => TimeZoneInfo.ConvertTime(utc, await shop.TimeZoneAsync());

    public Task<string> TimeAsync(DateTime utc) => TimeAsync(new DateTimeOffset(DateTime.SpecifyKind(utc, DateTimeKind.Utc)));

    /// <summary>A UTC time as a day: "Tue 3 Mar".</summary>
    public async Task<string> DayAsync(DateTime utc) =>
        TimeZoneInfo
            .ConvertTime(new DateTimeOffset(DateTime.SpecifyKind(utc, DateTimeKind.Utc)), await shop.TimeZoneAsync())
            .ToString("ddd d MMM");

    /// <summary>A UTC time as a day on paper: "3 March 2026".</summary>
    public async Task<string> LongDayAsync(DateTime utc) =>
        (await LocalAsync(new DateTimeOffset(DateTime.SpecifyKind(utc, DateTimeKind.Utc)))).ToString(
            "d MMMM yyyy",
            System.Globalization.CultureInfo.InvariantCulture
        );

    /// <summary>The end of a day by the shop's clock, UTC.</summary>
    public async Task<DateTime> EndOfDayAsync(DateTime day) =>
        TimeZoneInfo.ConvertTimeToUtc(
            DateTime.SpecifyKind(day.Date.AddDays(1).AddMinutes(-1), DateTimeKind.Unspecified),
            await shop.TimeZoneAsync()
        );

    private void Set(string cookie, string value) =>
        Context.Response.Cookies.Append(
            cookie,
            value,
            new CookieOptions
            {
                HttpOnly = true,
                SameSite = SameSiteMode.Lax,
                MaxAge = TimeSpan.FromDays(365),
                IsEssential = true,
            }
        );
}
