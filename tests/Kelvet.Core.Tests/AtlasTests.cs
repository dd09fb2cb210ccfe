using Kelvet.Core.Faults;
using Kelvet.Core.Machines;
using Kelvet.Core.Text;

namespace Kelvet.Core.Tests;

public class AtlasTests
{
    private static string Text()
    {
        using var stream = typeof(Atlas).Assembly.GetManifestResourceStream("atlas.yaml")!;
        return new StreamReader(stream).ReadToEnd();
    }

    [Fact]
    public void The_shipped_atlas_has_the_modes_and_reaches_that_never_rise()
    {
        var atlas = Atlas.Standard;
        Assert.True(atlas.Modes.Length >= 25);
        Assert.All(
            atlas.Modes,
            m =>
            {
                Assert.Equal(1, m.Reach[0]);
                for (var s = 1; s < BootStages.Count; s++)
                    Assert.True(m.Reach[s] <= m.Reach[s - 1] + 1e-12, m.Id);
                Assert.Equal(1, m.Stall.Sum(), 1e-9);
            }
        );
    }

    [Fact]
    public void Every_mode_of_the_atlas_can_bite_on_some_machine()
    {
        var job = Bench
            .Office(card: true)
            .Add(Bench.Plain("outlet", UnitKind.Outlet), Place.Outlet)
            .Add(Bench.Plain("lead", UnitKind.MainsLead), Place.Lead)
            .Job;
        var small = UnitFacts
            .All.Where(f => f.Small)
            .Aggregate(
                Bench.Office(card: true),
                (b, f) =>
                    b.Add(Bench.Plain($"own-{f.Kind}".ToLowerInvariant(), f.Kind), Place.Of(f.Place, Place.HasParts(f.Place) ? "1" : ""))
            )
            .Job.Now;
        var onCard = job.Now;
        var onBoard = onCard.After([Bench.Remove("card")]);
        var faults = Fault.AllOf(Atlas.Standard, onCard.Parts, []);
        var wrong = onCard.After([Bench.Move("stick-1", "memory.A1"), Bench.Move("stick-2", "memory.B1")]);
        var pair = onCard.After([Bench.Move("stick-2", "memory.A1")]);
        var full = Bench
            .Office(card: true)
            .Shelf(Bench.Stick("third"), Bench.Stick("fourth"))
            .Job.Now.After([Bench.Fit("third", "memory.A1"), Bench.Fit("fourth", "memory.B1")]);
        var biting = faults
            .Where(f => new[] { onCard, onBoard, wrong, pair, full }.Any(s => f.Engaged(s) > 0))
            .Select(f => f.Mode.Id)
            .ToHashSet();
        var withSmall = Fault.AllOf(Atlas.Standard, small.Parts, []);
        biting.UnionWith(withSmall.Where(f => f.Engaged(small) > 0).Select(f => f.Mode.Id));
        // A cable that is listed takes its fault over from the supply.
        Assert.DoesNotContain(withSmall, f => f.Mode.Id is "card-cable-dead" or "reset-stuck" or "battery-flat" or "firmware-corrupt");
        Assert.Equal([], Atlas.Standard.Modes.Select(m => m.Id).Where(id => !biting.Contains(id)));
    }

    [Fact]
    public void Context_moves_the_odds_of_the_customers_parts_only()
    {
        var parts = Bench.Office().Shelf(Bench.Plain("spare-supply", UnitKind.Supply, Origin.Shelf)).Job.Now.Parts;
        var calm = Fault.AllOf(Atlas.Standard, parts, []).ToDictionary(f => f.Key, f => f.Odds);
        var storm = Fault.AllOf(Atlas.Standard, parts, ["power-event"]).ToDictionary(f => f.Key, f => f.Odds);
        Assert.Equal(4 * calm["supply/supply-dead"], storm["supply/supply-dead"], 1e-12);
        Assert.Equal(calm["spare-supply/supply-dead"], storm["spare-supply/supply-dead"]);
        Assert.True(calm["spare-supply/supply-dead"] < calm["supply/supply-dead"] / 5);
    }

    [Theory]
    // A group's factor and the context's; what the context says of a mode itself; a mode of no group.
    [InlineData("after-upgrade", "profile-200-too-fast", 3)]
    [InlineData("died-in-use", "profile-200-too-fast", 0.3)]
    [InlineData("died-in-use", "kit-incompatible", 0.02)]
    [InlineData("old", "needs-legacy-video", 0.2)]
    [InlineData("old", "card-combination", 0.05)]
    [InlineData("after-transport", "profile-200-too-fast", 0.5)]
    public void A_context_multiplies_groups_of_modes(string context, string mode, double factor) =>
        Assert.Equal(factor, Atlas.Standard.Contexts.Single(c => c.Id == context).ByMode[mode], 1e-12);

    [Theory]
    [InlineData("odds: 0.035", "odds: many", "expected a number from 0 to 10")]
    [InlineData("odds: 0.035", "odds: 11", "11 is not from 0 to 10")]
    [InlineData("on: mains-lead", "on: mains-led", "\"mains-led\" is none of outlet, mains-lead")]
    [InlineData("when: [fitted, card-draws]", "when: [fitted, card-drawz]", "there is no condition \"card-drawz\"")]
    [InlineData("stops: { StandbyOnly: 0.75,", "stops: { StandbyOnly: 0.95,", "more than 1")]
    [InlineData("id: supply-trips", "id: supply-dead", "there is a mode \"supply-dead\" already")]
    [InlineData("cure: replace", "cure: pray", "\"pray\" is none of replace")]
    [InlineData("where: [needs-aux]", "where: [needs-luck]", "there is no trait \"needs-luck\"")]
    [InlineData("profile: { profile-too-fast: 1", "profile: { profil-too-fast: 1", "there is no mode \"profil-too-fast\"")]
    [InlineData("  profile: { profile-too-fast: 1", "  supply: { profile-too-fast: 1", "a group needs a name of its own")]
    [InlineData("multiply: { supply: 4,", "multiply: { suply: 4,", "neither a mode nor what a mode sits on")]
    public void A_mistake_is_reported_with_its_line(string good, string bad, string complaint)
    {
        var text = Text();
        var at = text.IndexOf(good, StringComparison.Ordinal);
        Assert.True(at > 0, good);
        var line = text[..at].Count(c => c == '\n') + 1;
        var error = Assert.Throws<DataFileException>(() =>
            AtlasReader.Read(text.Replace(good, bad, StringComparison.Ordinal), "shop.yaml")
        );
        Assert.Contains(complaint, error.Message);

        // A doubled id is reported at the head of the second entry; everything else at the very line.
        Assert.Matches($"^shop.yaml line ({line}|{line + 1}):", error.Message);
    }

    [Fact]
    public void Broken_YAML_is_reported_with_its_line() =>
        Assert.Contains("shop.yaml line", Assert.Throws<DataFileException>(() => AtlasReader.Read("a: [1, 2", "shop.yaml")).Message);
}
