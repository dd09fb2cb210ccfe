namespace Kelvet.Web.Hosting;

/// <summary>The folder that holds the shop's data: readable by its owner alone, bounded where it would grow.</summary>
/// <param name="Path">Where it is.</param>
public sealed record DataFolder(string Path)
{
    /// <summary>Most log files that are kept.</summary>
    public const int MostLogFiles = 14;

    /// <summary>Most bytes of one log file.</summary>
    public const long MostLogBytes = 10_000_000;

    /// <summary>Bytes of the files in one of its folders; 0 where there is none.</summary>
    public long Bytes(string folder)
    {
        var inside = System.IO.Path.Combine(Path, folder);
        return Directory.Exists(inside) ? new DirectoryInfo(inside).EnumerateFiles().Sum(f => f.Length) : 0;
    }

    /// <summary>
    /// Takes everybody's but the owner's rights off the folder, what is in it, and what this process will make. An owner may
    /// give them back to files from before; they are taken off again at the next start.
    /// </summary>
    public void Close()
    {
        if (OperatingSystem.IsWindows())
            return;
        _ = Umask(0b000_111_111);
        const UnixFileMode owner = UnixFileMode.UserRead | UnixFileMode.UserWrite;
        File.SetUnixFileMode(Path, owner | UnixFileMode.UserExecute);
        foreach (var folder in Directory.EnumerateDirectories(Path, "*", SearchOption.AllDirectories))
            File.SetUnixFileMode(folder, owner | UnixFileMode.UserExecute);
        foreach (var file in Directory.EnumerateFiles(Path, "*", SearchOption.AllDirectories))
            File.SetUnixFileMode(file, owner);
    }

    [System.Runtime.InteropServices.DllImport("libc", EntryPoint = "umask")]
    [System.Runtime.InteropServices.DefaultDllImportSearchPaths(System.Runtime.InteropServices.DllImportSearchPath.System32)]
    private static extern uint Umask(uint mask);
}
