using System.Text.RegularExpressions;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Web.Pages.Jobs;

namespace Kelvet.Web.Tests;

/// <summary>What nobody knows of a machine is drawn as such and printed nowhere.</summary>
public partial class KnowledgeTests
{
    private static readonly string[] Papers =
    [
        "customer",
        "customer?cost=true",
        "report",
        "ticket",
        "estimate",
        "invoice",
        "hand-over",
        "card",
    ];

    /// <summary>A machine of which nothing was told, its guesses under other names: slots, outputs, expansion slots.</summary>
    /// <param name="mark">What the other names begin with; empty for those that are usual.</param>
    /// <param name="fewer">Whether there are other parts in the guess: no drive, one stick.</param>
    private static Intake Bare(string mark, bool fewer = false)
    {
        var told = IntakeForm.Usual();
        told.Title = "Dark";
        var intake = told.Open([])!.Intake;
        string Other(string name) => mark.Length > 0 ? $"{mark}{name.Length}{name[0]}{name[^1]}" : name;
        var board = intake.Parts.All.OfType<Motherboard>().Single();
        var other = new Motherboard(
            board.Id,
            board.Name,
            board.Origin,
            board.Slots.Select(s => new MemorySlot(Other(s.Name), s.Channel)),
            board.Outputs.Select(o => o with { Name = Other(o.Name) }),
            board.CardSlots.Select(Other)
        )
        {
            Guessed = board.Guessed,
        };
        var received = intake.Received;
        foreach (var (place, id) in intake.Received.At.Where(a => a.Key.Kind == PlaceKind.Memory))
            received = received.WithUnit(place, null).WithUnit(Place.Memory(Other(place.Part)), id);
        if (received.Display is { } display)
            received = received.WithDisplay(new OutputRef(display.Source, Other(display.Output)));
        UnitId[] without = fewer ? [new("drive-1"), new("stick-2")] : [];
        foreach (var place in received.At.Where(a => without.Contains(a.Value)).Select(a => a.Key).ToArray())
            received = received.WithUnit(place, null);
        return intake with
        {
            Parts = Parts.Of(intake.Parts.All.Where(u => !without.Contains(u.Id)).Select(u => u.Id == board.Id ? other : u)),
            Received = received,
        };
    }

    private static BenchJob Started(Intake intake, params string[] stages) =>
        BenchJob
            .Open(intake)
            .With(
                stages.Select(
                    (s, i) =>
                        new TrialEntry(new Guid(i + 1, 0, 0, new byte[8]), [], ObservedFormat.TryRead(s, out var seen) ? seen : default)
                )
            );

    [Theory]
    [InlineData("4", "4")]
    [InlineData("6")]
    [InlineData("0")]
    [InlineData("7", "4", "7")]
    public async Task No_paper_prints_what_was_guessed(params string[] stages)
    {
        await using var shop = await Workshop.OpenAsync();
        async Task<string[]> PrintedAsync(Intake intake)
        {
            var number = await shop.OpenJobAsync(Started(intake, stages));
            var printed = new List<string>();
            foreach (var paper in Papers.Append("return/board").Append("return/stick-1"))
            {
                var text = "";
                // What is worked out beside the bench is waited for.
                for (var tries = 0; tries < 300; tries++)
                {
                    var page = await shop.GetAsync($"/jobs/{number}/{paper}");
                    text = string.Join(' ', page.QuerySelectorAll("main").Select(m => m.TextContent));
                    if (!text.Contains("beside the bench", StringComparison.Ordinal))
                        break;
                    await Task.Delay(200);
                }

                Assert.True(text.Length > 40, paper);
                var plain = Spaces().Replace(Times().Replace(text, ""), " ");
                printed.Add($"{paper}: {plain.Replace($"{number}", "N", StringComparison.Ordinal)}");
            }

            return [.. printed];
        }

        var usual = await PrintedAsync(Bare(""));
        foreach (var (one, other) in usual.Zip(await PrintedAsync(Bare("Q"))))
            Assert.Equal(one, other);
        // What somebody outside the shop reads is the same whatever parts were guessed.
        foreach (var (one, other) in usual.Zip(await PrintedAsync(Bare("", fewer: true))))
        {
            if (new[] { "customer:", "ticket", "hand-over", "invoice" }.Any(p => one.StartsWith(p, StringComparison.Ordinal)))
                Assert.Equal(one, other);
        }
    }

    [GeneratedRegex(@"\d\d:\d\d")]
    private static partial Regex Times();

    [GeneratedRegex(@"\s+")]
    private static partial Regex Spaces();
}
