using System.Text;
using System.Text.Json;
using Kelvet.Core.Jobs;
using Kelvet.Core.Text;

namespace Kelvet.Cli;

/// <summary>Exit codes: 0 all well, 1 a file is wrong, 2 the command line is wrong or a file cannot be opened.</summary>
internal static class Exit
{
    public const int Well = 0;
    public const int WrongFile = 1;
    public const int WrongUse = 2;

    /// <summary>How a command prints JSON.</summary>
    public static readonly JsonSerializerOptions Json = new()
    {
        WriteIndented = true,
        PropertyNamingPolicy = JsonNamingPolicy.CamelCase,
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    /// <summary>Says what is wrong with how it was called.</summary>
    public static int Wrong(string line)
    {
        Console.Error.WriteLine(line);
        return WrongUse;
    }

    /// <summary>Runs a command and turns what can go wrong into one line and an exit code.</summary>
    public static int Guarded(Func<int> run)
    {
        try
        {
            return run();
        }
        catch (DataFileException e)
        {
            Console.Error.WriteLine(e.Message);
            return WrongFile;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            Console.Error.WriteLine(e.Message);
            return WrongUse;
        }
    }
}

/// <summary>Reads files from the disk for the core, which does no I/O.</summary>
internal static class CaseFiles
{
    /// <summary>Largest file that is opened at all, bytes.</summary>
    private const long MostBytes = 16_000_000;

    /// <exception cref="DataFileException">The file is broken; the message names file and place.</exception>
    public static BenchJob Job(string path)
    {
        try
        {
            return JobFormat.Read(Text(path));
        }
        catch (DataFileException e) when (!e.Message.StartsWith(path, StringComparison.Ordinal))
        {
            throw new DataFileException($"{path}: {e.Message}", e);
        }
    }

    public static string Text(string path)
    {
        var info = new FileInfo(path);
        if (info.Exists && info.Length > MostBytes)
            throw new DataFileException($"{path}: {info.Length} bytes; {MostBytes} is the most.");
        try
        {
            return File.ReadAllText(path, new UTF8Encoding(false, true));
        }
        catch (DecoderFallbackException e)
        {
            throw new DataFileException($"{path}: it is not UTF-8 text.", e);
        }
    }
}
