using System.Collections.Immutable;

namespace Kelvet.Core.Observed;

/// <summary>What start-up was busy with when it ended. Indicators, codes and beeps point at one of these.</summary>
public enum StallDomain
{
    /// <summary>Power is missing or not good.</summary>
    Power,

    /// <summary>The processor does not run.</summary>
    Cpu,

    /// <summary>Memory is not found, or does not train.</summary>
    Memory,

    /// <summary>No graphics, or none that answers.</summary>
    Video,

    /// <summary>No drive to start from.</summary>
    Boot,

    /// <summary>It points nowhere.</summary>
    None,
}

/// <summary>
/// What lights, codes or beeps say of where start-up stalled: a likelihood, 0 to 1, per domain.
/// </summary>
public sealed record StallSignal
{
    /// <summary>How often a plain indicator points where the start-up really stalled. Bench judgement.</summary>
    private const double Fidelity = 0.85;

    private static readonly int Domains = Enum.GetValues<StallDomain>().Length;

    /// <exception cref="ArgumentException">Not six numbers from 0 to 1, or all of them 0.</exception>
    public StallSignal(IEnumerable<double> likelihoods)
    {
        Likelihoods = [.. likelihoods];
        if (Likelihoods.Length != Domains || Likelihoods.Any(l => !(l is >= 0 and <= 1)) || Likelihoods.All(l => l == 0))
            throw new ArgumentException($"A stall signal has {Domains} likelihoods from 0 to 1, not all 0.", nameof(likelihoods));
    }

    /// <summary>Weight of each domain, in the order of <see cref="StallDomain"/>; they need not add up to 1.</summary>
    public ImmutableArray<double> Likelihoods { get; }

    /// <summary>An indicator that points at one domain.</summary>
    public static StallSignal At(StallDomain domain)
    {
        var likelihoods = Enumerable.Repeat((1 - Fidelity) / Domains, Domains).ToArray();
        likelihoods[(int)domain] += Fidelity;
        return new StallSignal(likelihoods);
    }

    /// <summary>The domain that it speaks for most.</summary>
    public StallDomain Pointed => (StallDomain)Likelihoods.IndexOf(Likelihoods.Max());

    /// <summary>Whether it is a plain indicator, <see cref="At"/>.</summary>
    public bool IsPlain => Equals(At(Pointed));

    /// <summary>Weight of each domain, in the order of <see cref="StallDomain"/>; they need not add up to 1.</summary>
    public bool Equals(StallSignal? other) => other is not null && Likelihoods.SequenceEqual(other.Likelihoods);

    /// <summary>Weight of each domain, in the order of <see cref="StallDomain"/>; they need not add up to 1.</summary>
    public override int GetHashCode() => Likelihoods.Aggregate(0, HashCode.Combine);

    /// <summary>A signal that points at one domain.</summary>
    public static implicit operator StallSignal(StallDomain domain) => At(domain);

    /// <summary>A signal that points at one domain.</summary>
    public static StallSignal ToStallSignal(StallDomain domain) => At(domain);
}
