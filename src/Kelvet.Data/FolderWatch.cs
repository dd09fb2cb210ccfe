using System.Buffers.Binary;
using System.Collections.Concurrent;
using System.Runtime.InteropServices;

namespace Kelvet.Data;

/// <summary>
/// Notices when the database under the running program is not the file any more that was opened: a folder that was moved, replaced
/// or unmounted. An open file goes on taking what is written to it after its name is gone, and all of that would be lost.
/// </summary>
public static class FolderWatch
{
    private const int CurrentFolder = -100; // AT_FDCWD
    private const uint Inode = 0x100; // STATX_INO

    private static readonly ConcurrentDictionary<string, (ulong Device, ulong Inode)> Known = new(StringComparer.Ordinal);

    /// <summary>Remembers which file it is.</summary>
    public static void Remember(string file)
    {
        if (IdentityOf(file) is { } id)
            Known[file] = id;
    }

    /// <summary>Forgets it: the file is to be replaced.</summary>
    public static void Forget(string file) => Known.TryRemove(file, out _);

    /// <summary>Whether a file that was remembered is gone, or another now. False for one that never was.</summary>
    public static bool IsGone(string file) => Known.TryGetValue(file, out var known) && IdentityOf(file) != known;

    /// <summary>Whether a file or folder belongs to another user than the one this process runs as.</summary>
    public static bool IsAnothers(string path)
    {
        const uint Owner = 0x8; // STATX_UID
        if (!OperatingSystem.IsLinux())
            return false;
        var buffer = new byte[256];
        return Statx(CurrentFolder, path, 0, Owner, buffer) == 0
            && BinaryPrimitives.ReadUInt32LittleEndian(buffer.AsSpan(20)) != EffectiveUser();
    }

    [DllImport("libc", EntryPoint = "geteuid")]
    [DefaultDllImportSearchPaths(DllImportSearchPath.System32)]
    private static extern uint EffectiveUser();

    /// <summary>Device and inode; null where there is no file, or this system does not tell.</summary>
    private static (ulong Device, ulong Inode)? IdentityOf(string file)
    {
        if (!OperatingSystem.IsLinux())
            return File.Exists(file) ? (0, 0) : null;
        // struct statx has the same layout on every architecture (Linux manual, statx(2)): inode at 32, device at 136.
        var buffer = new byte[256];
        if (Statx(CurrentFolder, file, 0, Inode, buffer) != 0)
            return null;
        return (BinaryPrimitives.ReadUInt64LittleEndian(buffer.AsSpan(136)), BinaryPrimitives.ReadUInt64LittleEndian(buffer.AsSpan(32)));
    }

    [DllImport("libc", EntryPoint = "statx", CharSet = CharSet.Ansi, BestFitMapping = false, ThrowOnUnmappableChar = true)]
    [DefaultDllImportSearchPaths(DllImportSearchPath.System32)]
    private static extern int Statx(int folder, [MarshalAs(UnmanagedType.LPUTF8Str)] string path, int flags, uint mask, byte[] buffer);
}
