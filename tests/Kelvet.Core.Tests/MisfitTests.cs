using System.Collections.Immutable;
using Kelvet.Core.Machines;
using Kelvet.Core.Words;

namespace Kelvet.Core.Tests;

/// <summary>What does not fit together is found before the first power-on, with what comes of it and what puts it right.</summary>
[Trait("suite", "rules")]
public sealed class MisfitTests
{
    private sealed record Built(string[] Sticks, string[] Slots)
    {
        public bool Graphics { get; init; } = true;

        public bool Card { get; init; }

        public bool Cooler { get; init; } = true;

        public string Socket { get; init; } = "T1";

        public int? Firmware { get; init; }

        public int? Needs { get; init; }

        public string Display { get; init; } = "board";

        public bool MainCable { get; init; }

        public Situation Machine()
        {
            var at = ImmutableSortedDictionary.CreateBuilder<Place, UnitId>();
            var parts = Parts.None;
            void Put(Unit unit, Place place)
            {
                parts = parts.With(unit);
                at[place] = unit.Id;
            }

            Put(
                new Motherboard(
                    new UnitId("board"),
                    "Ondel",
                    Origin.Customer,
                    [new("A1", "A"), new("A2", "A"), new("B1", "B"), new("B2", "B")],
                    [new("HDMI", VideoSignal.Digital)],
                    ["1"]
                )
                {
                    Socket = "T1",
                    MemoryType = "DDR4",
                    Firmware = Firmware,
                },
                Place.Board
            );
            Put(new Cpu(new UnitId("cpu"), "Tarn", Origin.Customer, Graphics) { Socket = Socket, NeedsFirmware = Needs }, Place.Cpu);
            if (Cooler)
                Put(Unit.Plain(new UnitId("cooler"), UnitKind.Cooler, "Tarn box", Origin.Customer), Place.Cooler);
            if (Card)
                Put(
                    new GraphicsCard(new UnitId("card"), "Brask", Origin.Customer, [new("DP 1", VideoSignal.Digital)], true),
                    Place.Card("1")
                );
            if (MainCable)
                Put(Unit.Plain(new UnitId("main"), UnitKind.MainCable, "24-pin", Origin.Customer), Place.Of(PlaceKind.MainCable));
            for (var i = 0; i < Sticks.Length; i++)
                Put(
                    new MemoryStick(new UnitId($"stick-{i}"), Sticks[i], Origin.Customer)
                    {
                        MemoryType = Sticks[i] == "Old" ? "DDR3" : "DDR4",
                        SizeGb = Sticks[i] == "Large" ? 16 : 8,
                    },
                    Place.Memory(Slots[i])
                );
            var display = Display == "board" ? new OutputRef(Place.Board, "HDMI") : new OutputRef(Place.Card("1"), "DP 1");
            return Situation.AtIntake(parts, new Configuration(at.ToImmutable(), StartMethod.CaseSwitch, display));
        }
    }

    private static readonly Built Sound = new(["Orrin", "Orrin"], ["A2", "B2"]);

    private static IEnumerable<Misfit> Found(Built built) => MisfitFound.In(built.Machine()).Select(f => f.Kind);

    [Fact]
    public void A_machine_that_fits_together_has_none() => Assert.Empty(Found(Sound));

    [Fact]
    public void Each_is_found_by_itself_and_told_with_what_comes_of_it()
    {
        (Built Built, Misfit Kind)[] cases =
        [
            (Sound with { Socket = "T2" }, Misfit.SocketDiffers),
            (Sound with { Firmware = 3, Needs = 4 }, Misfit.FirmwareTooOld),
            (Sound with { Needs = 4 }, Misfit.FirmwareUnknown),
            (Sound with { Cooler = false }, Misfit.NoCooler),
            (Sound with { Sticks = ["Old", "Old"] }, Misfit.MemoryTypeDiffers),
            (Sound with { Sticks = ["Orrin", "Large"] }, Misfit.MixedSticks),
            (Sound with { Slots = ["A1", "B1"] }, Misfit.WrongSlots),
            (Sound with { Graphics = false, Card = true }, Misfit.MonitorOnBoardWithoutGraphics),
            (Sound with { Card = true }, Misfit.MonitorOnBoardBesideCard),
            (Sound with { Graphics = false }, Misfit.NothingForAPicture),
            (Sound with { Card = true, Display = "card", MainCable = true }, Misfit.NoCardCable),
        ];
        foreach (var (built, kind) in cases)
        {
            var machine = built.Machine();
            var found = MisfitFound.In(machine);
            Assert.All(found, f => Assert.Equal(kind, f.Kind));
            Assert.NotEmpty(found);
            Assert.All(found, f => Assert.EndsWith(".", f.Words(machine), StringComparison.Ordinal));
            // What is offered to put it right does.
            foreach (var f in found.Where(f => f.Fix.Length > 0))
                Assert.Empty(MisfitFound.In(machine.After(f.Fix)));
        }

        Assert.Empty(Found(Sound with { Firmware = 4, Needs = 4 }));
        Assert.Empty(Found(Sound with { Card = true, Display = "card" }));
    }

    [Fact]
    public void A_kit_is_summed_up_and_one_stick_has_no_order_to_keep()
    {
        var mixed = (Sound with { Sticks = ["Orrin", "Large"] }).Machine();
        Assert.Contains("24 GB in all", MisfitFound.In(mixed)[0].Words(mixed));
        Assert.Empty(Found(new Built(["Orrin"], ["A2"])));
        Assert.Empty(Found(new Built(["Stick 1", "Stick 2"], ["A2", "B2"])));
        Assert.Equal([Misfit.WrongSlots], Found(new Built(["Orrin", "Orrin"], ["A1", "A2"])));
    }
}
