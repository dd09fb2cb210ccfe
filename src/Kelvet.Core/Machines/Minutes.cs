namespace Kelvet.Core.Machines;

/// <summary>A length of bench work in minutes, 0 or more and finite.</summary>
public readonly record struct Minutes : IComparable<Minutes>
{
    /// <exception cref="ArgumentOutOfRangeException">Negative, infinite or not a number.</exception>
    public Minutes(double value)
    {
        if (!double.IsFinite(value) || value < 0)
            throw new ArgumentOutOfRangeException(nameof(value), value, "Bench minutes are 0 or more.");
        Value = value;
    }

    public double Value { get; }

    public static Minutes operator +(Minutes a, Minutes b) => new(a.Value + b.Value);

    public static Minutes Add(Minutes left, Minutes right) => left + right;

    public int CompareTo(Minutes other) => Value.CompareTo(other.Value);

    public static bool operator <(Minutes a, Minutes b) => a.Value < b.Value;

    public static bool operator >(Minutes a, Minutes b) => a.Value > b.Value;

    public static bool operator <=(Minutes a, Minutes b) => a.Value <= b.Value;

    public static bool operator >=(Minutes a, Minutes b) => a.Value >= b.Value;

    public override string ToString() => $"{Value:0.#} min";
}
