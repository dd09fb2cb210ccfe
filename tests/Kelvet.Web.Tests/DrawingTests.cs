using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Proving;
using Kelvet.Web.Demo;
using Kelvet.Web.Drawing;

namespace Kelvet.Web.Tests;

/// <summary>The drawn machine: one entry for each kind of place, everything on it, nothing on top of another.</summary>
public sealed class DrawingTests
{
    private static Situation Machine(int slots, int cards, int outputs, BoardForm? form, bool small)
    {
        var board = new Motherboard(
            new UnitId("board"),
            "Ondel",
            Origin.Customer,
            Enumerable.Range(0, slots).Select(i => new MemorySlot($"{(char)('A' + (i / 2))}{(i % 2) + 1}", $"{(char)('A' + (i / 2))}")),
            Enumerable.Range(1, outputs).Select(i => new VideoOutput($"DP {i}", VideoSignal.Digital)),
            Enumerable.Range(1, cards).Select(i => $"{i}")
        )
        {
            Form = form,
        };
        var units = new List<Unit> { board, new Cpu(new UnitId("cpu"), "Tarn", Origin.Customer, true) };
        var at = new Dictionary<Place, UnitId> { [Place.Board] = board.Id, [Place.Cpu] = new("cpu") };
        void Put(UnitKind kind, Place place)
        {
            var unit = Unit.Plain(new UnitId($"unit-{units.Count}"), kind, $"Part {units.Count}", Origin.Customer);
            units.Add(unit);
            at[place] = unit.Id;
        }

        foreach (
            var facts in UnitFacts.All.Where(f =>
                f.Kind is not (UnitKind.Motherboard or UnitKind.Cpu or UnitKind.MemoryStick or UnitKind.GraphicsCard) && (small || !f.Small)
            )
        )
            Put(facts.Kind, Place.Of(facts.Place, Place.HasParts(facts.Place) ? "1" : ""));
        foreach (var slot in board.Slots)
        {
            var stick = new MemoryStick(new UnitId($"stick-{units.Count}"), "Orrin", Origin.Customer);
            units.Add(stick);
            at[Place.Memory(slot.Name)] = stick.Id;
        }

        foreach (var slot in board.CardSlots.Take(2))
        {
            var card = new GraphicsCard(new UnitId($"card-{slot}"), "Brask", Origin.Customer, [new("DP 1", VideoSignal.Digital)], true);
            units.Add(card);
            at[Place.Card(slot)] = card.Id;
        }

        return Situation.AtIntake(
            Parts.Of(units),
            new Configuration(ImmutableSortedDictionary.CreateRange(at), StartMethod.CaseSwitch, null)
        );
    }

    [Fact]
    public void Every_kind_of_place_has_one_look_and_every_outline_a_plan()
    {
        Assert.Equal(Enum.GetValues<PlaceKind>().Order(), PartLook.All.Select(l => l.Place).Order());
        Assert.Equal(Enum.GetValues<BoardForm>().Order(), BoardPlan.All.Select(p => p.Form).Order());
        // ATX specification 2.2, microATX 1.2 and the Mini-ITX addendum (Intel): outlines in millimetres, from memory.
        var sizes = BoardPlan.All.ToDictionary(p => p.Form, p => (p.Width, p.Depth));
        Assert.Equal((305, 244), sizes[BoardForm.Full]);
        Assert.Equal((244, 244), sizes[BoardForm.Micro]);
        Assert.Equal((170, 170), sizes[BoardForm.Mini]);
    }

    [Theory]
    [InlineData(null, 2, 1, BoardForm.Mini)]
    [InlineData(null, 4, 2, BoardForm.Micro)]
    [InlineData(null, 4, 6, BoardForm.Full)]
    [InlineData(BoardForm.Mini, 2, 4, BoardForm.Office)]
    [InlineData(BoardForm.Office, 8, 2, BoardForm.Micro)]
    [InlineData(BoardForm.Micro, 4, 7, BoardForm.Full)]
    public void A_board_is_drawn_on_its_outline_or_on_the_next_that_has_room(BoardForm? form, int slots, int cards, BoardForm drawn) =>
        Assert.Equal(drawn, BoardPlan.Of(Machine(slots, cards, 2, form, false).Board!).Form);

    [Theory]
    [InlineData(1, 0, 0, false)]
    [InlineData(2, 1, 3, true)]
    [InlineData(4, 2, 3, false)]
    [InlineData(8, 7, 8, true)]
    [InlineData(16, 8, 8, true)]
    public void Every_part_is_drawn_once_inside_the_drawing_and_none_lies_on_another(int slots, int cards, int outputs, bool small)
    {
        foreach (var form in Enum.GetValues<BoardForm>())
        {
            var situation = Machine(slots, cards, outputs, form, small);
            var drawing = new MachineDrawing(situation, (Core.Proving.BenchDiagnosis?)null);
            Assert.Equal(situation.Now.At.Values.Order(), drawing.Parts.Where(p => p.Unit is not null).Select(p => p.Unit!.Id).Order());
            Assert.Equal(outputs, drawing.Outputs.Length);
            Assert.All(
                drawing.Parts,
                p =>
                    Assert.True(
                        p.Box is { X: >= 0, Y: >= 0 } b && b.Right <= MachineDrawing.Width && b.Bottom <= drawing.Height,
                        $"{p.Place}"
                    )
            );
            var parts = drawing.Parts.Where(p => p.Place.Kind != PlaceKind.Board).ToArray();
            var over =
                from a in parts
                from b in parts
                where
                    a.Place < b.Place
                    && Math.Min(a.Box.Right, b.Box.Right) - Math.Max(a.Box.X, b.Box.X) > 1
                    && Math.Min(a.Box.Bottom, b.Box.Bottom) - Math.Max(a.Box.Y, b.Box.Y) > 1
                select $"{form}: {a.Place} over {b.Place}";
            Assert.Empty(over);
            var order = drawing.Parts.Select(p => PartLook.Order(p.Place.Kind)).ToArray();
            Assert.Equal(order.Order(), order);
        }
    }

    [Fact]
    public void Hands_are_shown_to_every_place_that_a_step_touches()
    {
        var job = JobFormat.Read(DemoShop.Text("one-slot.json"));
        var now = job.Now;
        var hands = Hand.Of(
            [
                new Change.Remove(new UnitId("shelf-stick")),
                new Change.Fit(new UnitId("stick-1"), Place.Memory("A2")),
                new Change.ClearCmos(),
            ],
            now
        );
        Assert.Equal(
            [(Place.Memory("B2"), HandWay.Out), (Place.Memory("A2"), HandWay.In), (Place.Of(PlaceKind.Cell), HandWay.At)],
            hands.Select(h => (h.Place, h.Way))
        );
        var view = new DrawingView { Drawing = new MachineDrawing(now, BenchDiagnosis.Of(job, Atlas.Standard)), Hands = hands };
        Assert.Equal(3, System.Text.RegularExpressions.Regex.Count(view.Ways(), "class=\"lit\""));
        Assert.Contains("class=\"ghost-part\"", view.Ways());
    }
}
