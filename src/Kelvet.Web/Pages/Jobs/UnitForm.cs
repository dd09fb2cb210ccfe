using Kelvet.Core.Machines;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>Makes units from what a form knows of them.</summary>
public static class UnitForm
{
    /// <summary>
    /// A unit of a kind that takes what the form does not ask for (slots, outputs, sockets) from the unit of that kind
    /// that is in the machine.
    /// </summary>
    /// <exception cref="ArgumentException">The name is missing or too long.</exception>
    public static Unit Like(Situation now, UnitKind kind, UnitId id, string name, Origin origin)
    {
        var model =
            now.Parts.All.FirstOrDefault(u => u.Kind == kind && now.Now.Has(u.Id)) ?? now.Parts.All.FirstOrDefault(u => u.Kind == kind);
        return (kind, model) switch
        {
            (UnitKind.Motherboard, Motherboard b) => new Motherboard(id, name, origin, b.Slots, b.Outputs, b.CardSlots)
            {
                Socket = b.Socket,
                MemoryType = b.MemoryType,
                TellsPost = b.TellsPost,
                Form = b.Form,
                Tables = b.Tables,
                FanHeaders = b.FanHeaders,
                Tells = b.Tells,
                Order = b.Order,
            },
            (UnitKind.Cpu, Cpu c) => new Cpu(id, name, origin, c.HasGraphics) { Socket = c.Socket },
            (UnitKind.Cpu, _) => new Cpu(id, name, origin, false),
            (UnitKind.MemoryStick, MemoryStick m) => new MemoryStick(id, name, origin) { MemoryType = m.MemoryType, SizeGb = m.SizeGb },
            (UnitKind.MemoryStick, _) => new MemoryStick(id, name, origin) { MemoryType = now.Board?.MemoryType ?? "" },
            (UnitKind.GraphicsCard, GraphicsCard g) => new GraphicsCard(id, name, origin, g.Outputs, needsAuxPower: false),
            (UnitKind.GraphicsCard, _) => new GraphicsCard(
                id,
                name,
                origin,
                [new VideoOutput("HDMI", VideoSignal.Digital)],
                needsAuxPower: false
            ),
            _ => Unit.Plain(id, kind, name, origin),
        };
    }

    /// <summary>The message of an exception without the framework's tail.</summary>
    public static string Plainly(ArgumentException e) => e.Message.Split(" (Parameter")[0];
}
