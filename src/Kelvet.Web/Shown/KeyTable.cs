namespace Kelvet.Web.Shown;

/// <summary>What a key does. It does the same wherever it does anything.</summary>
/// <param name="Keys">The keys, each a single character.</param>
/// <param name="Words">What they do.</param>
public sealed record KeyRow(IReadOnlyList<char> Keys, string Words)
{
    private KeyRow(string keys, string words)
        : this([.. keys], words) { }

    /// <summary>All keys, by what they are for.</summary>
    public static IReadOnlyList<(string For, IReadOnlyList<KeyRow> Rows)> All { get; } =
    [
        ("Places of a job, from any of its pages", [.. JobPlace.All.Select(p => new KeyRow([p.Key], $"{p.Name}: {p.What}"))]),
        (
            "From anywhere",
            [
                new("/", "Find: a place, part, act, job, customer, code or page"),
                new("j", "New job"),
                new("n", "The next thing to do: on the bench the proposed step, elsewhere the page's main button"),
                new("?", "These keys"),
            ]
        ),
        (
            "Work on the bench",
            [
                new("g", "The gate: power off and drain before hands go in, power on when they are out; after a stage, started again"),
                new("z", "Take the power off at any time"),
                new("t", "Begin a wait: after pressing start, or a cold rest"),
                new("u", "Undo the last line"),
                new("c", "Clear CMOS"),
                new("p", "A part comes in"),
                new("v", "Look the machine over as one visit; with a column chosen, stand there again"),
                new("x", "Not now: drop what is pending, end a visit or a comparison"),
                new("m", "To the drawn machine: Tab walks it from the wall on, arrows follow the picture, Enter picks a part"),
            ]
        ),
        (
            "What was seen",
            [
                new("012345678", "The stage that a start reached: 6 a picture, 7 the system loads, 8 stable"),
                new("9", "Fans run, no picture, cannot tell whether it POSTed (4 or 5)"),
                new("s", "After 6 or 7: it stopped there. Otherwise it was not followed further"),
                new("0123456789", "The answer with that number: of a look, 0 is nothing found"),
                new("y", "With a column chosen: it was otherwise, another slot or another stage"),
                new(
                    "i",
                    "Details of a start or test, readings of a run. At a start 1 to 5 record that it came up and then ended by itself"
                ),
                new("h", "Signals: beeps, lights, codes. There Space is held while it beeps, 1 to 4 are the lights, v listens"),
                new("w", "Write a note"),
            ]
        ),
        (
            "What is shown",
            [
                new("q", "Why: what each outcome would mean, the numbers, other steps"),
                new("e", "Evidence on the first suspect"),
                new("k", "The whole climb, or its newest columns"),
                new("f", "Big: state, instruction and keys alone"),
            ]
        ),
    ];
}
