namespace Kelvet.Core.Text;

/// <summary>A mistake in a data file, with the file and the line that holds it.</summary>
public sealed class DataFileException : Exception
{
    public DataFileException() { }

    public DataFileException(string message)
        : base(message) { }

    public DataFileException(string message, Exception inner)
        : base(message, inner) { }
}
