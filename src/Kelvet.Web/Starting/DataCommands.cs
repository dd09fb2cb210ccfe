using System.CommandLine;
using Kelvet.Core.Text;
using Kelvet.Data;
using Kelvet.Data.Copies;
using Kelvet.Web.Hosting;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace Kelvet.Web.Starting;

/// <summary>What is done about a shop's data without a browser: a copy is made, put back, and everything is read through.</summary>
public static class DataCommands
{
    private static readonly Option<string> Data = new("--data")
    {
        Description = "Folder that holds the shop's data.",
        DefaultValueFactory = _ => "data",
    };

    private static readonly Option<string?> PassphraseFile = new("--passphrase-file")
    {
        Description = "File whose first line is the passphrase of an encrypted copy; KELVET_PASSPHRASE holds it otherwise.",
    };

    /// <summary>The commands.</summary>
    public static IEnumerable<Command> All()
    {
        var copy = new Command("copy", "Make a copy of the shop's data, beside a running server or without one.") { Data, PassphraseFile };
        copy.SetAction(r => Told(() => Copy(Folder(r.GetValue(Data)!), Passphrase(r.GetValue(PassphraseFile)))));
        var from = new Argument<string?>("copy")
        {
            Description = "The copy; the newest where none is named.",
            Arity = ArgumentArity.ZeroOrOne,
        };
        var look = new Option<bool>("--look") { Description = "Say what the copy holds, and put nothing back." };
        var restore = new Command("restore", "Put a copy back. What is there is kept in a folder of its own.")
        {
            from,
            Data,
            PassphraseFile,
            look,
        };
        restore.SetAction(r =>
            Told(() => Restore(r.GetValue(from), Folder(r.GetValue(Data)!), Passphrase(r.GetValue(PassphraseFile)), r.GetValue(look)))
        );
        var check = new Command("check", "Read everything in the shop's data and say what is sound.") { Data };
        check.SetAction((r, cancel) => StoreCheck.RunAsync(Folder(r.GetValue(Data)!), Console.Out, cancel));
        return [copy, restore, check];
    }

    private static string Folder(string data) => Path.GetFullPath(data);

    private static string Passphrase(string? file) =>
        file is null ? Environment.GetEnvironmentVariable("KELVET_PASSPHRASE") ?? "" : File.ReadLines(file).FirstOrDefault() ?? "";

    private static int Told(Func<int> act)
    {
        try
        {
            return act();
        }
        catch (Exception e) when (e is DataFileException or IOException or UnauthorizedAccessException)
        {
            return Server.Fail(e.Message);
        }
        catch (SqliteException e)
        {
            return Server.Fail(StoreTroubles.Of(e) is { } trouble ? StoreTroubles.Words(trouble) : e.Message);
        }
    }

    private static int Copy(string folder, string passphrase)
    {
        if (!File.Exists(Path.Combine(folder, Database.FileName)))
            return Server.Fail($"There is no shop's data in {folder}.");
        Own(folder);
        var copy = Rooms(folder).Make(CopyWishes.Usual with { Passphrase = passphrase, Days = CopyWishes.Usual.Days });
        Console.WriteLine($"{copy.Path} ({copy.Bytes / 1e3:N0} kB), read back and sound");
        return 0;
    }

    /// <summary>What is made in the folder is its owner's alone: another user's files would lock the program out.</summary>
    private static void Own(string folder)
    {
        if (FolderWatch.IsAnothers(folder))
            throw new DataFileException(
                $"The data in {folder} belong to another user. Run this as that user, such as with sudo -u kelvet."
            );
        new DataFolder(folder).Close();
    }

    private static CopyRoom Rooms(string folder) => new(folder, HouseRules.Program, TimeProvider.System);

    private static int Restore(string? from, string folder, string passphrase, bool look)
    {
        Directory.CreateDirectory(folder);
        Own(folder);
        var copy =
            from is { } named ? Path.GetFullPath(named)
            : Rooms(folder).All("") is [var newest, ..] ? newest.Path
            : throw new DataFileException($"There is no copy in {Rooms(folder).Place}. Name one.");
        if (from is not null && !File.Exists(copy) && Rooms(folder).Find(from, "") is { } inside)
            copy = inside.Path;
        if (Path.GetExtension(copy) != ".db" && CopyFile.Read(copy) is { } holds)
            Console.WriteLine(
                $"{copy}: made {holds.MadeUtc:yyyy-MM-dd HH:mm} UTC by version {holds.Program}; {holds.Jobs} jobs, {holds.Lines} lines, "
                    + $"{holds.Photos} photos, {holds.Customers} customers{(holds.Encrypted ? ", encrypted" : "")}"
            );
        if (look)
            return 0;
        using var claim = Server.Claim(folder);
        if (claim is null)
            return Server.Fail($"Kelvet runs on the data in {folder}. Stop it first, or put the copy back on its page Copies.");
        Restoring.Stage(copy, folder, passphrase, TimeProvider.System, Known(folder));
        var replaced = Restoring.Resume(folder);
        Console.WriteLine($"The copy is in its place. What was there is in {replaced}");
        return 0;
    }

    private static string[] Known(string folder)
    {
        var options = new DbContextOptionsBuilder<KelvetDb>();
        Database.Configure(options, folder);
        using var db = new KelvetDb(options.Options);
        return [.. db.Database.GetMigrations()];
    }
}
