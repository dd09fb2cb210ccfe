using System.Globalization;
using System.Text;
using Kelvet.Core.Text;

namespace Kelvet.Core.Observed;

/// <summary>A code that came and how often it came without another in between.</summary>
/// <param name="Seconds">When it first came, from the start of the capture.</param>
/// <param name="Code">Two upper-case hexadecimal digits.</param>
/// <param name="Times">How often, at least once.</param>
public sealed record CodeSeen(double Seconds, string Code, long Times);

/// <summary>Something that happened to a reader: gone, back, another one.</summary>
public sealed record CodeMark(double Seconds, string What);

/// <summary>
/// The codes of one start with their times: what a reader showed, kept as plain text (docs/formats.md). Bounded: of a
/// flood the first and the last are kept, and how many were left out between.
/// </summary>
public sealed class CodeLog
{
    /// <summary>Most changes of code that are kept from the beginning and from the end.</summary>
    public const int MostFirst = 1000,
        MostLast = 9000;

    /// <summary>Largest file, characters.</summary>
    public const int MostCharacters = 400_000;

    /// <summary>A code that was the last for this long stood, seconds. Bench judgement.</summary>
    public const double Stands = 3;

    private const string Mark = "# kelvet-codes 1";
    private const int LongestCycle = 60;
    private const int MostMarks = 200;

    private readonly List<CodeSeen> _first = [];
    private readonly Queue<CodeSeen> _last = new();
    private readonly List<CodeMark> _marks = [];
    private CodeSeen? _current;

    /// <summary>All codes that came, repeats counted.</summary>
    public long Total { get; private set; }

    /// <summary>Changes of code that are not kept any more.</summary>
    public long LeftOut { get; private set; }

    /// <summary>The last code; null before the first.</summary>
    public CodeSeen? Current => _current;

    /// <summary>Events between codes, by time.</summary>
    public IReadOnlyList<CodeMark> Marks => _marks;

    /// <summary>The kept changes, oldest first.</summary>
    public IEnumerable<CodeSeen> Seen => _current is null ? [] : [.. _first, .. _last, _current];

    /// <summary>Takes a code.</summary>
    /// <param name="seconds">From the start; an earlier time than the last counts as the last.</param>
    /// <param name="code">0 to 255.</param>
    public void Add(double seconds, byte code) => Add(seconds, code.ToString("X2", CultureInfo.InvariantCulture), 1);

    /// <summary>Notes what happened to a reader.</summary>
    public void Note(double seconds, string what)
    {
        if (_marks.Count < MostMarks)
            _marks.Add(new CodeMark(seconds, what.ReplaceLineEndings(" ")));
    }

    private void Add(double seconds, string code, long times)
    {
        Total += times;
        if (_current?.Code == code)
        {
            _current = _current with { Times = _current.Times + times };
            return;
        }

        if (_current is not null)
        {
            if (_first.Count < MostFirst)
                _first.Add(_current);
            else
                _last.Enqueue(_current);
            if (_last.Count > MostLast)
            {
                _last.Dequeue();
                LeftOut++;
            }
        }

        _current = new CodeSeen(Math.Max(seconds, _current?.Seconds ?? 0), code, times);
    }

    /// <summary>What the last code did by a moment: stood, still changed, or came round again and again.</summary>
    /// <param name="now">Seconds from the start.</param>
    public CodeMotion MotionAt(double now)
    {
        if (_current is null || now - _current.Seconds >= Stands)
            return CodeMotion.Stuck;
        var tail = _last.Concat([_current]).Select(c => c.Code).TakeLast(4 * LongestCycle).ToArray();
        if (_last.Count == 0)
            tail = [.. _first.Select(c => c.Code), _current.Code];
        for (var period = 1; period <= Math.Min(LongestCycle, tail.Length / 3); period++)
        {
            if (Enumerable.Range(tail.Length - (2 * period), 2 * period).All(i => tail[i] == tail[i - period]))
                return CodeMotion.Cycling;
        }

        return CodeMotion.Passing;
    }

    /// <summary>The last code with what came before it, to go with a start.</summary>
    /// <param name="signs">What was noted by hand; a code noted by hand stays.</param>
    /// <param name="now">Seconds from the start.</param>
    public Signs Into(Signs signs, double now)
    {
        if (_current is null)
            return signs;
        var before = Seen.Select(c => c.Code).Reverse().Distinct().Take((Signs.LongestCodes + 1) / 3).Reverse();
        return signs with
        {
            Code = signs.Code.Length > 0 ? signs.Code : _current.Code,
            Motion = signs.Code.Length > 0 ? signs.Motion : MotionAt(now),
            Codes = signs.Codes.Length > 0 ? signs.Codes : string.Join(' ', before),
        };
    }

    /// <summary>As plain text: a mark, then "seconds code [times]" a line, "#" before what is no code.</summary>
    public string Write()
    {
        var text = new StringBuilder().Append(Mark).Append('\n');
        if (LeftOut > 0)
            text.Append(CultureInfo.InvariantCulture, $"# left out after the first {MostFirst} changes: {LeftOut}\n");
        foreach (
            var (seconds, line) in Seen.Select(c =>
                    (
                        c.Seconds,
                        string.Create(CultureInfo.InvariantCulture, $"{c.Seconds:0.000} {c.Code}{(c.Times > 1 ? $" {c.Times}" : "")}")
                    )
                )
                .Concat(_marks.Select(m => (m.Seconds, string.Create(CultureInfo.InvariantCulture, $"# {m.Seconds:0.000} {m.What}"))))
                .OrderBy(l => l.Seconds)
        )
        {
            text.Append(line).Append('\n');
        }

        return text.ToString();
    }

    /// <summary>Reads the plain text.</summary>
    /// <param name="text">The file.</param>
    /// <param name="name">Its name, for messages.</param>
    /// <exception cref="DataFileException">It is broken; the message names the line.</exception>
    public static CodeLog Read(string text, string name)
    {
        if (text.Length > MostCharacters)
            throw new DataFileException($"{name}: the capture has {text.Length} characters; {MostCharacters} is the most.");
        var log = new CodeLog();
        var lines = text.TrimStart('\uFEFF').Split('\n');
        if (lines[0].Trim() != Mark)
            throw new DataFileException($"{name}, line 1: expected \"{Mark}\".");
        for (var i = 1; i < lines.Length; i++)
        {
            var words = lines[i].Split(' ', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
            if (words.Length == 0)
                continue;
            if (words[0] == "#")
            {
                if (words.Length > 2 && Number(words[1]) is { } at)
                    log.Note(at, string.Join(' ', words[2..]));
                continue;
            }

            var times = 1L;
            if (
                words.Length is < 2 or > 3
                || Number(words[0]) is not { } seconds
                || SignalText.Of(SignalKind.Post, words[1]) is not { Length: 2 } code
                || code == "--"
                || (
                    words.Length == 3
                    && !(long.TryParse(words[2], CultureInfo.InvariantCulture, out times) && times is > 0 and < 1_000_000_000_000)
                )
            )
            {
                throw new DataFileException(
                    $"{name}, line {i + 1}: expected seconds and a code, such as \"0.412 2B\", and after it how often when more than once."
                );
            }

            log.Add(seconds, code, times);
        }

        return log;

        static double? Number(string word) =>
            double.TryParse(word, NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var n) && n < 1e7 ? n : null;
    }
}
