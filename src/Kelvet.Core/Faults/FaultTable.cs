using System.Collections.Immutable;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;

namespace Kelvet.Core.Faults;

/// <summary>Every fault that a job's units can have, and every form that each can take, in a fixed order.</summary>
/// <param name="Faults">The faults.</param>
/// <param name="Forms">Their forms, those of one fault together.</param>
public sealed record FaultTable(ImmutableArray<Fault> Faults, ImmutableArray<FaultForm> Forms)
{
    /// <summary>A table in which the faults that starts have touched are told apart by form.</summary>
    /// <param name="faults">The faults.</param>
    /// <param name="touched">Per fault, whether it could act in a start.</param>
    /// <param name="behaviour">How faults in general behave.</param>
    /// <param name="noted">Symptoms that were looked for at any start.</param>
    public static FaultTable Of(
        ImmutableArray<Fault> faults,
        IReadOnlyList<bool> touched,
        Behaviour behaviour,
        IReadOnlySet<Symptom>? noted = null
    ) =>
        new(faults, [.. faults.SelectMany((f, i) => touched[i] ? FaultForm.Of(f, i, behaviour, noted) : [FaultForm.Whole(f, i)])])
        {
            IsOpen = [.. touched],
        };

    /// <summary>How many starts a run under load counts as for what acts now and then. Bench judgement.</summary>
    private const double StartsPerRun = 4;

    /// <summary>Whether each trial is followed up to a run under load, because the complaint is about that.</summary>
    public bool UnderLoad { get; init; }

    /// <summary>Per fault, whether it is told apart by form.</summary>
    public ImmutableArray<bool> IsOpen { get; private init; }

    /// <summary>Per fault, the chance that it acts in a situation, at a kind of start, by the rule of its mode.</summary>
    public double[] ByRule(Situation situation, StartKind? kind = null) => ByRule(Faults, situation, kind);

    /// <summary>The same of any faults.</summary>
    public static double[] ByRule(ImmutableArray<Fault> faults, Situation situation, StartKind? kind = null)
    {
        var engaged = new double[faults.Length];
        for (var f = 0; f < engaged.Length; f++)
            engaged[f] = ByRule(faults[f], situation, kind);
        return engaged;
    }

    /// <summary>The same of one fault.</summary>
    public static double ByRule(Fault fault, Situation situation, StartKind? kind) =>
        fault.Engaged(situation) is > 0 and var engaged ? engaged * fault.Mode.ActsAt(kind) : 0;

    /// <summary>Per form, the chance that it acts where its fault would by the rule.</summary>
    /// <param name="byRule">Per fault, as <see cref="ByRule(Situation, StartKind?)"/> gives it.</param>
    /// <param name="kind">The kind of start; null where it was not noted.</param>
    public double[] Engaged(double[] byRule, StartKind? kind = null)
    {
        var engaged = new double[Forms.Length];
        for (var i = 0; i < engaged.Length; i++)
            engaged[i] = Engaged(i, byRule[Forms[i].Fault], kind);
        return engaged;
    }

    /// <summary>The chance that a form acts where its fault would by the rule.</summary>
    /// <param name="form">Its index.</param>
    /// <param name="byRule">The chance, 0 to 1, that its fault acts by the rule.</param>
    /// <param name="kind">The kind of start; null where it was not noted.</param>
    public double Engaged(int form, double byRule, StartKind? kind)
    {
        if (byRule <= 0)
            return 0;
        var engaged = Forms[form].Engaged(byRule, Faults[Forms[form].Fault].Mode.Most, kind);
        // A run under load is as many chances to act as several starts.
        return Forms[form].Rate is not null && (kind == StartKind.Load || (UnderLoad && kind is null))
            ? 1 - Math.Pow(1 - engaged, StartsPerRun)
            : engaged;
    }

    /// <summary>Numbers per fault, spread over its forms.</summary>
    public double[] PerForm(IReadOnlyList<double> perFault)
    {
        var spread = new double[Forms.Length];
        for (var i = 0; i < spread.Length; i++)
            spread[i] = perFault[Forms[i].Fault];
        return spread;
    }
}
