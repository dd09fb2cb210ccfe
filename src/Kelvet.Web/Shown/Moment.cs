using System.Globalization;

namespace Kelvet.Web.Shown;

/// <summary>A time as scripts read it.</summary>
public static class Moment
{
    /// <summary>A UTC time, ms since 1970.</summary>
    public static string Ms(DateTime utc) =>
        new DateTimeOffset(DateTime.SpecifyKind(utc, DateTimeKind.Utc)).ToUnixTimeMilliseconds().ToString(CultureInfo.InvariantCulture);
}
