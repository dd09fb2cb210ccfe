using Kelvet.Core.Text;

namespace Kelvet.Core.Machines;

/// <summary>A model of part, as its name in whatever letters it was written.</summary>
/// <param name="Kind">Its kind.</param>
/// <param name="Name">Its name in capitals, words parted by one space.</param>
public readonly record struct UnitModel(UnitKind Kind, string Name)
{
    /// <summary>The model of a part; null where nobody knows what it is called.</summary>
    public static UnitModel? Of(Unit unit)
    {
        if (unit.Guessed.Contains(PartFact.Name))
            return null;
        var name = string.Join(' ', unit.Name.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries)).ToUpperInvariant();
        return name.Length == 0 ? null : new UnitModel(unit.Kind, name);
    }

    /// <summary>As a column holds it: "supply CORVEN 450".</summary>
    public override string ToString() => $"{Dashed.Of(Kind)} {Name}";

    /// <summary>Reads it back; null where it is none.</summary>
    public static UnitModel? Read(string text) =>
        text.IndexOf(' ', StringComparison.Ordinal) is > 0 and var at
        && Dashed.TryRead(text[..at], out UnitKind kind)
        && text[(at + 1)..] is { Length: > 0 } name
            ? new UnitModel(kind, name)
            : null;
}
