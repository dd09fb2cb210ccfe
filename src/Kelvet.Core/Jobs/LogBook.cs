using System.Collections.Immutable;

namespace Kelvet.Core.Jobs;

/// <summary>
/// A log while lines are added: what each line strikes, replaces or stands in front of, and the checks that need no
/// machine. Every step costs the same, however long the log is.
/// </summary>
internal sealed class LogBook
{
    private readonly ImmutableArray<LogLine> _before;
    private readonly ImmutableArray<Entry>.Builder _entries;
    private readonly Dictionary<Guid, int> _numberOf;
    private readonly Dictionary<Guid, StrikeEntry> _struckBy = [];

    /// <param name="entries">The lines so far.</param>
    /// <param name="before">The same, with what struck them.</param>
    public LogBook(ImmutableArray<Entry> entries, ImmutableArray<LogLine> before)
    {
        _before = before;
        _entries = entries.ToBuilder();
        _numberOf = new Dictionary<Guid, int>(entries.Length);
        for (var i = 0; i < entries.Length; i++)
            _numberOf[entries[i].Id] = i + 1;
        foreach (var line in before)
        {
            if (line.StruckBy is { } strike)
                _struckBy[line.Written.Id] = strike;
        }
    }

    /// <summary>Lines added.</summary>
    public int Added => _entries.Count - _before.Length;

    /// <summary>Whether what was added changes what stood before, so that all of it is to be replayed.</summary>
    public bool IsMended { get; private set; }

    /// <summary>Every line as written.</summary>
    public ImmutableArray<Entry> Entries => _entries.ToImmutable();

    /// <summary>Adds a line; one whose id is there already is passed over.</summary>
    /// <exception cref="EntryRefusedException">It does not fit the lines before it.</exception>
    public void Add(Entry entry)
    {
        if (_numberOf.ContainsKey(entry.Id))
            return;
        if (_entries.Count >= BenchJob.MostLines)
            throw Refused($"The log is full: a job holds at most {BenchJob.MostLines} lines.");
        CheckWords(entry);
        if (entry is StrikeEntry strike)
        {
            CheckStrike(strike);
            _struckBy[strike.Struck] = strike;
            foreach (var also in strike.Also)
                _struckBy[also] = strike;
        }

        if (entry is InsertEntry insert)
            CheckInsert(insert);
        IsMended |= entry.Row.Mends;
        _entries.Add(entry);
        _numberOf[entry.Id] = _entries.Count;
    }

    /// <summary>Every line with what struck it and its place in the order of events.</summary>
    public ImmutableArray<LogLine> Lines()
    {
        var position = Positions();
        return [.. _entries.Select((e, i) => new LogLine(i + 1, position[i], e, _struckBy.GetValueOrDefault(e.Id)))];
    }

    /// <summary>Lines that were forgotten stand in front of the line that they name; several before one line in the order of
    /// writing.</summary>
    private int[] Positions()
    {
        var inFrontOf = _entries.OfType<InsertEntry>().ToLookup(i => i.Before);
        var position = new int[_entries.Count];
        var next = 0;
        var stack = new Stack<(Entry Entry, bool Ready)>();
        foreach (var entry in _entries.Where(e => e is not InsertEntry))
        {
            stack.Push((entry, false));
            while (stack.TryPop(out var top))
            {
                if (top.Ready || !inFrontOf.Contains(top.Entry.Id))
                {
                    position[_numberOf[top.Entry.Id] - 1] = ++next;
                    continue;
                }

                stack.Push((top.Entry, true));
                foreach (var insert in inFrontOf[top.Entry.Id].Reverse())
                    stack.Push((insert, false));
            }
        }

        return position;
    }

    private void CheckStrike(StrikeEntry strike)
    {
        if (string.IsNullOrWhiteSpace(strike.Reason))
            throw Refused("Say why the line is struck.");
        var struck = Struckable(strike.Struck);
        // A correction keeps the sort of a line, so that the first words tell it as well as the last.
        if (strike.Replacement is { } r && r.GetType() != Content(struck).GetType())
            throw Refused($"Line {_numberOf[struck.Id]} can only be replaced by a line of the same sort.");
        foreach (var also in strike.Also)
        {
            if (also == strike.Struck || strike.Also.Count(a => a == also) > 1)
                throw Refused("A line is struck twice by the same correction.");
            _ = Struckable(also);
        }
    }

    private Entry Struckable(Guid id)
    {
        if (!_numberOf.TryGetValue(id, out var number))
            throw Refused("The line to be struck is not in this log.");
        // What was corrected counts in other words, and those may be wrong too.
        if (_struckBy.TryGetValue(id, out var by) && (by.Struck != id || by.Replacement is null))
            throw Refused($"Line {number} is struck already.");
        return _entries[number - 1] is StrikeEntry
            ? throw Refused($"Line {number} is a correction; it is not struck, write a new line.")
            : _entries[number - 1];
    }

    private void CheckInsert(InsertEntry insert)
    {
        if (string.IsNullOrWhiteSpace(insert.Reason))
            throw Refused("Say why the line comes late.");
        if (!_numberOf.TryGetValue(insert.Before, out var number))
            throw Refused("The line in front of which it would stand is not in this log.");
        if (_entries[number - 1] is StrikeEntry)
            throw Refused($"Line {number} is a correction; choose the line that it corrects.");
        if (insert.Line.Row.Mends)
            throw Refused("A correction cannot be put in front of a line.");
        if (insert.Line.Id != insert.Id)
            throw new ArgumentException("A line that is put in carries the id of the line that puts it in.", nameof(insert));
    }

    private void CheckWords(Entry entry)
    {
        Short("note", entry.Note, Entry.LongestNote);
        Short("reason why it was done live", entry.Live, Entry.LongestNote);
        switch (entry)
        {
            case StrikeEntry s:
                Short("reason", s.Reason, Entry.LongestNote);
                if (s.Replacement is { } replacement)
                    CheckWords(replacement);
                break;
            case InsertEntry i:
                Short("reason", i.Reason, Entry.LongestNote);
                CheckWords(i.Line);
                break;
            case AmendEntry a:
                Short("reason", a.Reason, Entry.LongestNote);
                if (string.IsNullOrWhiteSpace(a.Reason))
                    throw Refused("Say why what was taken in is corrected.");
                break;
            case NoteEntry when string.IsNullOrWhiteSpace(entry.Note):
                throw Refused("The note is empty.");
            case WorkEntry { Changes.Length: 0 }:
                throw Refused("Nothing was changed.");
            default:
                break;
        }
    }

    private void Short(string what, string text, int most)
    {
        if (text.Length > most)
            throw Refused($"The {what} has {text.Length} characters; {most} is the most.");
    }

    private static Entry Content(Entry entry) => entry is InsertEntry insert ? insert.Line : entry;

    private EntryRefusedException Refused(string why) => new(why) { Line = _entries.Count + 1 };
}
