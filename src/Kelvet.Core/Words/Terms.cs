using System.Collections.Immutable;

namespace Kelvet.Core.Words;

/// <summary>Words on pages and papers: one for each thing, and none of the model's own outside the drawer of numbers.</summary>
public static class Terms
{
    /// <summary>The trade's words in their one spelling, with spellings that are not used. Common practice, no source.</summary>
    public static ImmutableArray<(string Term, ImmutableArray<string> Never)> Spellings { get; } =
    [
        ("no POST", ["no-POST", "noPOST", "no post"]),
        ("known good", ["known-working"]),
        ("CMOS", ["Cmos", "cmos battery"]),
        ("24-pin", ["24 pin", "24pin"]),
        ("coin cell", ["CMOS battery", "button cell"]),
        ("stick", ["DIMM", "RAM module"]),
        ("supply", ["PSU"]),
        ("graphics card", ["GPU", "video card"]),
        ("firmware", ["BIOS"]),
    ];

    /// <summary>What the trade's words mean, for the one who hears them for the first time. Common practice, no source.</summary>
    public static ImmutableArray<(string Term, string Means)> Meanings { get; } =
    [
        ("standby", "The supply gives a little power as long as it is plugged in and switched on: enough for a light on the board."),
        ("POST", "The test that a board runs on itself when it starts. Without it there is never a picture."),
        ("no POST", "Fans turn, and the board gets no further: no beep, no picture, the lights stand."),
        ("restart loop", "It starts, stops, and starts again by itself."),
        ("known good", "A part of the shop's that is known to work, because machines have passed with it."),
        ("drain", "Supply off, lead out, start held: what is left in the supply's capacitors goes, before hands go in."),
        ("reseat", "Out and in again. It makes contact anew, and it shows whether it sat askew."),
        ("coin cell", "The small battery on the board that keeps clock and settings."),
        ("clear CMOS", "The board's settings go back to how it left the maker."),
        ("suspect", "What failed is explained best by this part; that is not a proof."),
        ("cleared", "It was in the machine when it passed: it is hardly the cause."),
        ("proof one-way", "It starts without the part. That it fails again with it has not been shown."),
        ("condemned", "It starts without the part, and fails again with it: proved both ways."),
        ("found, put right", "What was wrong was a seat, a plug or a setting. It was put right, and the machine has passed since."),
        ("clean start", "A start that passed, made in the way in which it used to fail."),
    ];

    /// <summary>Words of the model, which stand in the drawer of numbers and nowhere else.</summary>
    public static ImmutableArray<string> OfTheModel { get; } =
    [
        "bits",
        "odds",
        "posterior",
        "prior",
        "likelihood",
        "hypothesis",
        "entropy",
        "logarithm",
        "on the mean",
        "in none of the tables asked",
        "strengthens or weakens",
    ];
}
