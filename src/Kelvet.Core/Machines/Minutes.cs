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

    /// <summary>Minutes of bench time, 0 or more.</summary>
    public double Value { get; }

    /// <summary>The sum.</summary>
    public static Minutes operator +(Minutes a, Minutes b) => new(a.Value + b.Value);

    /// <summary>The sum.</summary>
    public static Minutes Add(Minutes left, Minutes right) => left + right;

    /// <inheritdoc/>
    public int CompareTo(Minutes other) => Value.CompareTo(other.Value);

    /// <summary>Whether it is less.</summary>
    public static bool operator <(Minutes a, Minutes b) => a.Value < b.Value;

    /// <summary>Whether it is more.</summary>
    public static bool operator >(Minutes a, Minutes b) => a.Value > b.Value;

    /// <summary>Whether it is no more.</summary>
    public static bool operator <=(Minutes a, Minutes b) => a.Value <= b.Value;

    /// <summary>Whether it is no less.</summary>
    public static bool operator >=(Minutes a, Minutes b) => a.Value >= b.Value;

    /// <inheritdoc/>
    public override string ToString() => $"{Value:0.#} min";
}
