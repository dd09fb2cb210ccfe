using Kelvet.Core.Machines;
using Kelvet.Core.Observed;

namespace Kelvet.Core.Jobs;

/// <summary>What the complaint says beside how far a start gets: what the machine does then, and in which circumstances.</summary>
public sealed record Complaint
{
    /// <summary>Characters of <see cref="Since"/>.</summary>
    public const int LongestSince = 60;

    /// <summary>Nothing but how far it gets.</summary>
    public static Complaint None { get; } = new();

    /// <summary>What it does when it ends; null where it was not said.</summary>
    public Ending? Then { get; init; }

    /// <summary>Since when its picture is spoilt; null where it is not.</summary>
    public Artefacts? Picture { get; init; }

    /// <summary>The kind of start or use in which it happens; null for any, or where it was not said.</summary>
    public StartKind? When { get; init; }

    /// <summary>After how many minutes, 0 to 1440; null where it was not said.</summary>
    public double? Minutes { get; init; }

    /// <summary>Since when, in the customer's words; at most 60 characters.</summary>
    public string Since { get; init; } = "";

    /// <summary>The same as what is noted of a start.</summary>
    public Signs AsSigns =>
        new()
        {
            Ended = Then,
            Artefacts = Picture,
            Minutes = Minutes,
        };

    /// <summary>Whether it happens to a machine that had come up, so that a picture alone proves nothing.</summary>
    public bool IsOfUse => When is StartKind.Load or StartKind.Wake || (Then is not null && Minutes is > 1);
}

/// <summary>How sure a customer is of what they tell.</summary>
public enum Sureness
{
    /// <summary>They saw it themselves, and more than once.</summary>
    Certain,

    /// <summary>They think so.</summary>
    Fairly,

    /// <summary>Hearsay, or a guess.</summary>
    Doubtful,
}
