using System.Collections.Immutable;
using System.Security.Cryptography;
using System.Text.Json;
using ICSharpCode.SharpZipLib.Core;
using ICSharpCode.SharpZipLib.Zip;
using Kelvet.Core.Text;

namespace Kelvet.Data.Copies;

/// <summary>What a copy says of itself: an entry of its own in it, never encrypted, with nobody's name.</summary>
/// <param name="Format">Always "kelvet-copy".</param>
/// <param name="Version">Version of this shape.</param>
/// <param name="MadeUtc">When it was made.</param>
/// <param name="Program">Version of the program that made it.</param>
/// <param name="Schema">The last migration of the database in it.</param>
/// <param name="Jobs">Jobs in it.</param>
/// <param name="Lines">Lines of their logs.</param>
/// <param name="Photos">Photos in it.</param>
/// <param name="Customers">Customers in it.</param>
/// <param name="Encrypted">Whether its files are encrypted with a passphrase (AES, 256 bits, as WinZip's AE-2 has it).</param>
/// <param name="Files">Its files: name, bytes, SHA-256 in hexadecimal.</param>
public sealed record CopyManifest(
    string Format,
    int Version,
    DateTime MadeUtc,
    string Program,
    string Schema,
    int Jobs,
    int Lines,
    int Photos,
    int Customers,
    bool Encrypted,
    ImmutableArray<CopiedFile> Files
)
{
    /// <summary>What <see cref="Format"/> holds.</summary>
    public const string Name = "kelvet-copy";

    /// <summary>The version that is written.</summary>
    public const int Current = 1;
}

/// <summary>A file in a copy.</summary>
public sealed record CopiedFile(string Name, long Bytes, string Sha256);

/// <summary>
/// A copy as a file: a ZIP archive with <c>manifest.json</c>, <c>kelvet.db</c> (photos and captures are in it) and <c>keys/</c> (with
/// which passwords are sealed). Any program that reads AES in ZIP archives opens an encrypted one.
/// </summary>
public static class CopyFile
{
    private const string Manifest = "manifest.json";
    private const int KeyBits = 256;
    private const int Fast = 1;
    private const int Block = 1 << 16;

    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web) { WriteIndented = true };

    /// <summary>Writes a copy and sees it onto the disk.</summary>
    /// <param name="path">The file, which must not be there.</param>
    /// <param name="manifest">What it says of itself; its files are filled in.</param>
    /// <param name="files">Name in the archive and path of each file.</param>
    /// <param name="passphrase">What it is encrypted with; empty for nothing.</param>
    /// <returns>The manifest as written.</returns>
    public static CopyManifest Write(
        string path,
        CopyManifest manifest,
        IEnumerable<(string Name, string Path)> files,
        string passphrase = ""
    )
    {
        using var target = new FileStream(path, FileMode.CreateNew, FileAccess.Write, FileShare.None, Block);
        using (var zip = new ZipOutputStream(target) { IsStreamOwner = false, UseZip64 = UseZip64.On })
        {
            zip.SetLevel(Fast);
            var written = ImmutableArray.CreateBuilder<CopiedFile>();
            zip.Password = passphrase.Length > 0 ? passphrase : null;
            foreach (var (name, file) in files)
            {
                zip.PutNextEntry(Entry(name, manifest.MadeUtc, passphrase.Length > 0));
                using var source = File.OpenRead(file);
                written.Add(new CopiedFile(name, source.Length, Hashed(source, zip)));
                zip.CloseEntry();
            }

            manifest = manifest with { Files = written.ToImmutable(), Encrypted = passphrase.Length > 0 };
            zip.Password = null;
            zip.PutNextEntry(Entry(Manifest, manifest.MadeUtc, encrypted: false));
            zip.Write(JsonSerializer.SerializeToUtf8Bytes(manifest, Json));
            zip.CloseEntry();
        }

        target.Flush(flushToDisk: true);
        return manifest;
    }

    private static ZipEntry Entry(string name, DateTime at, bool encrypted) =>
        new(name) { DateTime = at, AESKeySize = encrypted ? KeyBits : 0 };

    /// <summary>What a copy says of itself.</summary>
    /// <exception cref="DataFileException">It is no copy, or of a version that is not known here.</exception>
    public static CopyManifest Read(string path)
    {
        try
        {
            using var zip = new ZipFile(path);
            var entry =
                zip.GetEntry(Manifest) ?? throw new DataFileException($"{Path.GetFileName(path)} is no copy: it has no {Manifest}.");
            using var text = zip.GetInputStream(entry);
            var manifest = JsonSerializer.Deserialize<CopyManifest>(text, Json);
            return manifest switch
            {
                { Format: CopyManifest.Name, Version: CopyManifest.Current, Files.IsDefault: false } => manifest,
                { Format: CopyManifest.Name } => throw new DataFileException(
                    $"{Path.GetFileName(path)} was made by another version of Kelvet ({manifest.Version}); start that one to put it back."
                ),
                _ => throw new DataFileException($"{Path.GetFileName(path)} is no copy of Kelvet's."),
            };
        }
        catch (Exception e) when (e is ZipException or JsonException or InvalidOperationException or NotSupportedException)
        {
            throw new DataFileException($"{Path.GetFileName(path)} is damaged, or no copy: {e.Message}", e);
        }
    }

    /// <summary>Reads every file of a copy to its end and compares it with what the manifest says.</summary>
    /// <param name="path">The copy.</param>
    /// <param name="passphrase">What it is encrypted with.</param>
    /// <param name="into">A folder that its files are written into; null to throw them away.</param>
    /// <returns>The manifest.</returns>
    /// <exception cref="DataFileException">It is damaged, or the passphrase is another.</exception>
    public static CopyManifest Verify(string path, string passphrase = "", string? into = null)
    {
        var manifest = Read(path);
        if (manifest.Encrypted && passphrase.Length == 0)
            throw new DataFileException($"{Path.GetFileName(path)} is encrypted: say its passphrase.");
        try
        {
            using var zip = new ZipFile(path) { Password = manifest.Encrypted ? passphrase : null };
            foreach (var file in manifest.Files)
            {
                var entry = zip.GetEntry(file.Name) ?? throw new DataFileException($"{Path.GetFileName(path)} lacks {file.Name}.");
                using var source = zip.GetInputStream(entry);
                using var target = into is null ? Stream.Null : Target(into, file.Name);
                if (Hashed(source, target) != file.Sha256)
                    throw new DataFileException($"{Path.GetFileName(path)} is damaged: {file.Name} is not what was written.");
                (target as FileStream)?.Flush(flushToDisk: true);
            }

            return manifest;
        }
        catch (Exception e)
            when (e is ZipException or ICSharpCode.SharpZipLib.SharpZipBaseException or IOException and not FileNotFoundException)
        {
            throw new DataFileException(
                manifest.Encrypted
                    ? $"{Path.GetFileName(path)} cannot be opened with this passphrase, or is damaged."
                    : $"{Path.GetFileName(path)} is damaged: {e.Message}",
                e
            );
        }
    }

    /// <summary>A file inside a folder, wherever its name in the archive points.</summary>
    private static FileStream Target(string folder, string name)
    {
        var path = Path.GetFullPath(Path.Combine(folder, name));
        if (!path.StartsWith(Path.GetFullPath(folder) + Path.DirectorySeparatorChar, StringComparison.Ordinal))
            throw new DataFileException($"\"{name}\" does not lie inside the copy.");
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        return new FileStream(path, FileMode.CreateNew, FileAccess.Write, FileShare.None, Block);
    }

    private static string Hashed(Stream source, Stream target)
    {
        using var sum = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        var buffer = new byte[Block];
        StreamUtils.Copy(source, new Summing(target, sum), buffer);
        return Convert.ToHexStringLower(sum.GetHashAndReset());
    }

    /// <summary>Writes on and sums up what goes through.</summary>
    private sealed class Summing(Stream target, IncrementalHash sum) : Stream
    {
        public override bool CanRead => false;

        public override bool CanSeek => false;

        public override bool CanWrite => true;

        public override long Length => throw new NotSupportedException();

        public override long Position
        {
            get => throw new NotSupportedException();
            set => throw new NotSupportedException();
        }

        public override void Flush() => target.Flush();

        public override int Read(byte[] buffer, int offset, int count) => throw new NotSupportedException();

        public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

        public override void SetLength(long value) => throw new NotSupportedException();

        public override void Write(byte[] buffer, int offset, int count)
        {
            sum.AppendData(buffer, offset, count);
            target.Write(buffer, offset, count);
        }
    }
}
