namespace Kelvet.Web.Hosting;

/// <summary>How the program ends: whether a part of it failed, so that whoever started it is told by the exit code.</summary>
public sealed class Ending
{
    /// <summary>Whether a part of it failed.</summary>
    public bool Failed { get; private set; }

    /// <summary>A part of it failed.</summary>
    public void Fail() => Failed = true;

    /// <summary>Whether it starts anew in this process once it has stopped: a copy is to be put back.</summary>
    public bool IsToStartAgain { get; private set; }

    /// <summary>It is to start anew.</summary>
    public void StartAgain() => IsToStartAgain = true;
}
