using System.Globalization;
using Kelvet.Core.Machines;

namespace Kelvet.Core.Evidence;

/// <summary>Why an address of an error points at no stick.</summary>
public enum NoStick
{
    /// <summary>It does.</summary>
    None,

    /// <summary>It is no hexadecimal number.</summary>
    NotAnAddress,

    /// <summary>More than one channel holds sticks: neighbouring addresses lie on different sticks in turn.</summary>
    Interleaved,

    /// <summary>The size of a stick is not recorded.</summary>
    SizeUnknown,

    /// <summary>It is too near to where one stick ends and the next begins, or beyond the last.</summary>
    TooNearTheEdge,
}

/// <summary>What a memory test program tells: what no errors in so many passes mean, and which stick an error is on.</summary>
public static class TestProgram
{
    /// <summary>
    /// Share of what one pass has missed that a further one finds. The same patterns are run again, so it is less than a first
    /// one finds. Bench judgement.
    /// </summary>
    private const double FurtherPass = 0.3;

    /// <summary>
    /// GB by which an address may be off: what lies below 4 GB for devices pushes memory up, and firmware keeps some for itself.
    /// Common practice, no published source.
    /// </summary>
    private const double EdgeGb = 1.5;

    /// <summary>Chance, 0 to 1, that any of so many passes finds a fault.</summary>
    /// <param name="first">Chance, 0 to 1, that the first one does; 0 stays 0.</param>
    /// <param name="passes">Passes, 1 or more.</param>
    public static double After(double first, int passes) =>
        first <= 0 || passes <= 1 ? first : 1 - ((1 - first) * Math.Pow(1 - FurtherPass, passes - 1));

    /// <summary>Chance, 0 to 1, that a fault which shows in this share of passes has shown in none of so many.</summary>
    /// <param name="rate">Share of passes in which it shows, 0 to 1.</param>
    /// <param name="passes">Passes without an error, 0 or more.</param>
    public static double Missed(double rate, int passes) => Math.Pow(1 - rate, passes);

    /// <summary>Clean passes after which a fault of this rate is there with at most this chance, were it as likely as not before.</summary>
    /// <param name="rate">Share of passes in which it shows, above 0 to 1.</param>
    /// <param name="chance">Chance that is left, above 0 and below a half.</param>
    public static int PassesFor(double rate, double chance)
    {
        if (rate is not (> 0 and <= 1))
            throw new ArgumentOutOfRangeException(nameof(rate), rate, "A fault shows in more than 0 and at most all passes.");
        if (chance is not (> 0 and < 0.5))
            throw new ArgumentOutOfRangeException(nameof(chance), chance, "What is left is above 0 and below 0.5.");
        // Odds of one, times what each clean pass takes off: Bayes' rule.
        return rate >= 1 ? 1 : Math.Max(1, (int)Math.Ceiling(Math.Log(chance / (1 - chance)) / Math.Log(1 - rate)));
    }

    /// <summary>The stick that an address of an error lies on, where that can be told.</summary>
    /// <param name="machine">The machine as the test ran on it.</param>
    /// <param name="address">As shown, hexadecimal, with or without 0x.</param>
    public static (MemoryStick? Stick, NoStick Why) StickAt(Situation machine, string address)
    {
        var digits = address.Trim();
        if (digits.Length > 1 && digits[0] == '0' && digits[1] is 'x' or 'X')
            digits = digits[2..];
        if (!ulong.TryParse(digits, NumberStyles.HexNumber, CultureInfo.InvariantCulture, out var at))
            return (null, NoStick.NotAnAddress);
        var sticks = machine.Sticks;
        if (sticks.Length == 1)
            return (sticks[0].Stick, NoStick.None);
        if (sticks.Length == 0 || sticks.Select(s => machine.Board?.Slot(s.Place.Part)?.Channel).Distinct().Count() > 1)
            return (null, NoStick.Interleaved);
        if (machine.FittedGb is null)
            return (null, NoStick.SizeUnknown);
        var gb = at / (double)(1UL << 30);
        double from = 0;
        foreach (var slot in machine.Board!.Slots)
        {
            if (sticks.FirstOrDefault(s => s.Place.Part == slot.Name).Stick is not { } stick)
                continue;
            var first = from == 0;
            var last = from + stick.SizeGb >= machine.FittedGb;
            if ((first || gb >= from + EdgeGb) && (last ? gb < from + stick.SizeGb + EdgeGb : gb < from + stick.SizeGb - EdgeGb))
                return (stick, NoStick.None);
            from += stick.SizeGb;
        }

        return (null, NoStick.TooNearTheEdge);
    }
}
