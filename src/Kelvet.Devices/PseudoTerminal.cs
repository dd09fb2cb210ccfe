using System.Runtime.InteropServices;
using System.Text;
using Microsoft.Win32.SafeHandles;

namespace Kelvet.Devices;

/// <summary>A pair of terminal ends: what is written at one is read at the other, as over a serial cable. Linux.</summary>
public sealed partial class PseudoTerminal : IDisposable
{
    private const int ReadWriteNoControl = 0x2 | 0x100;
    private const int RoomForTermios = 256;

    private PseudoTerminal(FileStream master, string path) => (Master, Path) = (master, path);

    /// <summary>This end.</summary>
    public Stream Master { get; }

    /// <summary>The path of the other end.</summary>
    public string Path { get; }

    /// <exception cref="IOException">The system gives none.</exception>
    public static PseudoTerminal Open()
    {
        var fd = OpenMaster(ReadWriteNoControl);
        var name = new byte[128];
        if (fd < 0 || Grant(fd) != 0 || Unlock(fd) != 0 || NameOf(fd, name, name.Length) != 0)
            throw new IOException($"No pseudo-terminal can be had: error {Marshal.GetLastPInvokeError()}.");

        // Bytes go through as they are: no echo, no line editing.
        var settings = new byte[RoomForTermios];
        if (Get(fd, settings) == 0)
        {
            MakeRaw(settings);
            _ = Set(fd, 0, settings);
        }

        return new PseudoTerminal(
            new FileStream(new SafeFileHandle(fd, true), FileAccess.ReadWrite, 1),
            Encoding.ASCII.GetString(name, 0, Array.IndexOf(name, (byte)0))
        );
    }

    public void Dispose() => Master.Dispose();

    [LibraryImport("libc", EntryPoint = "posix_openpt", SetLastError = true)]
    private static partial int OpenMaster(int flags);

    [LibraryImport("libc", EntryPoint = "grantpt", SetLastError = true)]
    private static partial int Grant(int fd);

    [LibraryImport("libc", EntryPoint = "unlockpt", SetLastError = true)]
    private static partial int Unlock(int fd);

    [LibraryImport("libc", EntryPoint = "ptsname_r", SetLastError = true)]
    private static partial int NameOf(int fd, [Out] byte[] name, nint length);

    [LibraryImport("libc", EntryPoint = "tcgetattr")]
    private static partial int Get(int fd, [In, Out] byte[] settings);

    [LibraryImport("libc", EntryPoint = "cfmakeraw")]
    private static partial void MakeRaw([In, Out] byte[] settings);

    [LibraryImport("libc", EntryPoint = "tcsetattr")]
    private static partial int Set(int fd, int when, [In] byte[] settings);
}
