namespace Kelvet.Core.Tests;

/// <summary>Files of the project, and published ones that ./kelvet test fetches from Debian's packages.</summary>
internal static class Outside
{
    public static string Root { get; } = FindRoot();

    /// <summary>A fetched file, whole.</summary>
    public static string Read(string name)
    {
        var path = Path.Combine(Root, "artifacts/outside", name);
        Assert.True(File.Exists(path), $"{name} is not there: ./kelvet test fetches it.");
        return File.ReadAllText(path);
    }

    private static string FindRoot()
    {
        var folder = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(folder.FullName, "Kelvet.slnx")))
            folder = folder.Parent!;
        return folder.FullName;
    }
}
