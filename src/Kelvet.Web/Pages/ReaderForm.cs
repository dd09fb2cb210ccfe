using Kelvet.Data;
using Kelvet.Devices;

namespace Kelvet.Web.Pages;

/// <summary>What a reader of POST codes must have.</summary>
public static class ReaderForm
{
    /// <summary>What is wrong with a reader, and what to do; null when nothing is.</summary>
    public static string? WhyNot(ReaderRow reader)
    {
        if (reader.Name.Length is 0 or > 40)
            return "The reader needs a name of 1 to 40 characters.";
        if (reader.Baud is < 300 or > 4_000_000)
            return "The baud rate is from 300 to 4,000,000; most readers use 115200.";
        if (reader.Address.Length is 0 or > 100)
            return "Say where the reader is: a port such as /dev/ttyUSB0, host:port, or a scenario.";
        return reader.Kind switch
        {
            ReaderKind.Serial => reader.Address.StartsWith("/dev/", StringComparison.Ordinal)
            && !reader.Address.Contains("..", StringComparison.Ordinal)
                ? null
                : $"\"{reader.Address}\" is no serial port: it begins with /dev/, such as /dev/ttyUSB0.",
            ReaderKind.Network => reader.Address.LastIndexOf(':') is > 0 and var colon
            && int.TryParse(reader.Address[(colon + 1)..], out var port)
            && port is > 0 and < 65536
                ? null
                : $"\"{reader.Address}\" is no network port: write host:port, such as 192.0.2.7:5490.",
            _ => Scenario.Find(reader.Address) is not null
                ? null
                : $"There is no scenario \"{reader.Address}\"; there are {string.Join(", ", Scenario.All.Select(s => s.Id))}.",
        };
    }
}
