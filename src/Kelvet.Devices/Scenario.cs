using System.Collections.Immutable;
using Kelvet.Core.Observed;

namespace Kelvet.Devices;

/// <summary>What the stand-in of a reader plays: codes with their times, in the format of a capture.</summary>
/// <param name="Id">Lower case and dashes.</param>
/// <param name="Name">In words.</param>
/// <param name="Codes">The codes.</param>
public sealed record Scenario(string Id, string Name, CodeLog Codes)
{
    /// <summary>Also sends what no reader should.</summary>
    public bool IsNoisy => Id == "noisy";

    /// <summary>Sends ten thousand codes a second after its own.</summary>
    public bool Floods => Id == "flood";

    /// <summary>Begins again when it has ended.</summary>
    public bool Loops => Id == "restart-loop";

    /// <summary>The scenarios that ship.</summary>
    public static ImmutableArray<Scenario> All { get; } =
    [.. typeof(Scenario).Assembly.GetManifestResourceNames().Order(StringComparer.Ordinal).Select(Load)];

    public static Scenario? Find(string id) => All.FirstOrDefault(s => s.Id == id);

    private static Scenario Load(string id)
    {
        using var reader = new StreamReader(typeof(Scenario).Assembly.GetManifestResourceStream(id)!);
        return new Scenario(id, id.Replace('-', ' '), CodeLog.Read(reader.ReadToEnd(), $"{id}.txt"));
    }
}
