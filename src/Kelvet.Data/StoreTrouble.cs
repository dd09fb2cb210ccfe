using Microsoft.Data.Sqlite;

namespace Kelvet.Data;

/// <summary>Why the store does not do what it is asked.</summary>
public enum StoreTrouble
{
    /// <summary>Another program, or another bench for too long, holds it.</summary>
    Busy,

    /// <summary>No room is left on the disk.</summary>
    Full,

    /// <summary>The disk or the folder can only be read.</summary>
    ReadOnly,

    /// <summary>The folder, or the database in it, is not the one that the program was started on.</summary>
    Gone,

    /// <summary>What is on the disk is not what was written.</summary>
    Damaged,

    /// <summary>The disk does not answer as a disk should.</summary>
    Failing,
}

/// <summary>The store does not do what it was asked; nothing of it was done.</summary>
public sealed class StoreException : Exception
{
    /// <summary>An exception without words.</summary>
    public StoreException() { }

    /// <summary>An exception that says what is wrong.</summary>
    public StoreException(string message)
        : base(message) { }

    /// <summary>The same, with what caused it.</summary>
    public StoreException(string message, Exception inner)
        : base(message, inner) { }

    /// <summary>An exception of a kind, in the words that the pages show.</summary>
    public StoreException(StoreTrouble trouble, Exception? inner = null)
        : base(StoreTroubles.Words(trouble), inner) => Trouble = trouble;

    /// <summary>What is wrong.</summary>
    public StoreTrouble Trouble { get; }
}

/// <summary>Tells the troubles of a store from the mistakes of a program, and says them in words.</summary>
public static class StoreTroubles
{
    /// <summary>The trouble that an exception tells of; null where it tells of another thing.</summary>
    /// <remarks>Codes: SQLite's documentation, "Result and Error Codes".</remarks>
    public static StoreTrouble? Of(Exception exception)
    {
        for (Exception? e = exception; e is not null; e = e.InnerException)
        {
            if (e is StoreException known)
                return known.Trouble;
            if (e is SqliteException sqlite)
                return sqlite.SqliteErrorCode switch
                {
                    5 or 6 => StoreTrouble.Busy,
                    8 => StoreTrouble.ReadOnly,
                    10 => StoreTrouble.Failing,
                    11 or 26 => StoreTrouble.Damaged,
                    13 => StoreTrouble.Full,
                    14 => StoreTrouble.Gone,
                    _ => null,
                };
        }

        return null;
    }

    /// <summary>What it means and what to do. Nothing was recorded in any of them.</summary>
    public static string Words(StoreTrouble trouble) =>
        trouble switch
        {
            StoreTrouble.Busy => "The shop's data are in use by another program, or a long piece of work is being kept. Nothing was "
                + "recorded: try again in a moment.",
            StoreTrouble.Full => "The disk is full: nothing was recorded. Make room, then record it again.",
            StoreTrouble.ReadOnly => "The shop's data can only be read: the disk or the folder is write-protected. Nothing was "
                + "recorded: give it back the right to be written, then record it again.",
            StoreTrouble.Gone => "The folder with the shop's data was moved, replaced or taken out while the program ran. Nothing was "
                + "recorded: put it back, or stop the program and start it on the right folder.",
            StoreTrouble.Damaged => "Part of the shop's data is damaged on the disk, and this page needs it. Nothing was recorded. The "
                + "first page says what is damaged and what still works; a copy can be put back with ./kelvet restore.",
            _ => "The disk with the shop's data does not answer as it should. Nothing was recorded: look at the disk before going on.",
        };
}
