namespace Kelvet.Core.Text;

/// <summary>A mistake in a data file, with the file and the line that holds it.</summary>
public sealed class DataFileException : Exception
{
    /// <summary>An exception without words.</summary>
    public DataFileException() { }

    /// <summary>An exception that says what is wrong and where.</summary>
    public DataFileException(string message)
        : base(message) { }

    /// <summary>The same, with what caused it.</summary>
    public DataFileException(string message, Exception inner)
        : base(message, inner) { }
}
