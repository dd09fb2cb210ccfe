using System.Text.Json;
using System.Text.Json.Serialization;

namespace Kelvet.Data;

/// <summary>What was agreed and left at the counter. What is null was not asked, or not answered.</summary>
public sealed record DropOff
{
    /// <summary>Nothing.</summary>
    public static DropOff Nothing { get; } = new();

    /// <summary>The version of this shape that is written; before the first it said none.</summary>
    public const int Current = 2;

    /// <summary>Version of the shape.</summary>
    public int Version { get; init; } = Current;

    /// <summary>Whether it may be opened, seals included.</summary>
    public bool? MayOpen { get; init; }

    /// <summary>Whether its data may be touched: copied, or lost.</summary>
    public bool? MayTouchData { get; init; }

    /// <summary>Whether their system may be started.</summary>
    public bool? MayStartSystem { get; init; }

    /// <summary>The most that it may cost without a question, in the shop's money; null where nothing was said.</summary>
    public decimal? Limit { get; init; }

    /// <summary>What the machine is worth, running, in the shop's money; null where nobody said.</summary>
    public decimal? Worth { get; init; }

    /// <summary>What the machine cost, where it is the shop's own to be mended and sold; null for a customer's.</summary>
    public decimal? Bought { get; init; }

    /// <summary>What is asked for it then; null where nobody said.</summary>
    public decimal? Asking { get; init; }

    /// <summary>Ids of the parts of the shop's own machine that were put on the shelf after it was closed, separated by spaces.</summary>
    public string PartedOut { get; init; } = "";

    /// <summary>The same as a list.</summary>
    [JsonIgnore]
    public IReadOnlyList<string> OnShelf => PartedOut.Split(' ', StringSplitOptions.RemoveEmptyEntries);

    /// <summary>Whether a password is not needed; null where it was not asked.</summary>
    public bool? NoPassword { get; init; }

    /// <summary>The password, sealed; empty where none is kept.</summary>
    public string Sealed { get; init; } = "";

    /// <summary>What was left with the machine, in words.</summary>
    public string Accessories { get; init; } = "";

    /// <summary>As a column holds it.</summary>
    public string Write() => JsonSerializer.Serialize(this);

    /// <summary>Read back; nothing where nothing is kept, or it is no such text.</summary>
    public static DropOff Of(JobRow row)
    {
        if (row.DropOffJson.Length == 0)
            return Nothing;
        try
        {
            return JsonSerializer.Deserialize<DropOff>(row.DropOffJson) ?? Nothing;
        }
        catch (JsonException)
        {
            // What was agreed is asked again; the job goes on.
            return Nothing;
        }
    }
}
