using Kelvet.Core.Machines;
using Kelvet.Core.Stock;
using Kelvet.Core.Text;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Kelvet.Web.Pages.Jobs;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages;

/// <summary>The parts that any job may borrow.</summary>
public sealed class ShelfModel(Shop shop, HouseRules house, Visitor visitor, SpareSavings savings) : FormPage
{
    /// <summary>Most of one part.</summary>
    public const int Most = PartMove.MostPieces;

    /// <summary>Longest words of where a part lies.</summary>
    public const int LongestPosition = 40;

    /// <summary>Whether more of a part are to be got.</summary>
    public bool RunsLow(ShelfRow row) => !row.Retired && row.ReorderAt is { } at && row.Quantity - Uses[row.Id].Count() <= at;

    /// <summary>Kinds that are lent from job to job. Boards are described in a job, where their slots are known.</summary>
    public static IReadOnlyList<UnitKind> Kinds { get; } =
    [
        UnitKind.Supply,
        UnitKind.MemoryStick,
        UnitKind.GraphicsCard,
        UnitKind.Cpu,
        UnitKind.VideoCable,
        UnitKind.Monitor,
        UnitKind.MainsLead,
        UnitKind.PowerExtension,
        UnitKind.Storage,
        UnitKind.Cooler,
    ];

    /// <summary>Everything on it, in use first.</summary>
    public IReadOnlyList<(ShelfRow Row, Unit Unit)> Parts { get; private set; } = [];

    /// <summary>A condition as it is said.</summary>
    public static string Words(ShelfCondition condition) =>
        condition switch
        {
            ShelfCondition.Good => "known good",
            ShelfCondition.Worn => "works, worn",
            _ => "doubtful: not offered",
        };

    /// <summary>Which spare would have saved most, as far as that is worked out.</summary>
    public SavingsState Savings => savings.State;

    /// <summary>Works it out.</summary>
    public IActionResult OnPostSavings()
    {
        savings.Ask();
        return Redirect("/shelf#savings");
    }

    /// <summary>Shows them.</summary>
    public Task OnGetAsync() => ShowAsync();

    /// <inheritdoc/>
    protected override async Task ShowAsync()
    {
        Parts = [.. (await shop.WholeShelfAsync()).Parts.OrderBy(p => p.Row.Retired)];
        Uses = await shop.UsesAsync();
    }

    /// <summary>Numbers of the jobs in whose machines a part is, by its row.</summary>
    public ILookup<int, int> Uses { get; private set; } = Array.Empty<int>().ToLookup(i => i);

    /// <summary>What a part fits and needs, in a few words.</summary>
    public static string Needs(Unit unit)
    {
        var facts = Catalogue.IndexModel.Facts(unit);
        return unit is GraphicsCard { NeedsAuxPower: false } ? $"{facts}, needs no power plug" : facts;
    }

    /// <summary>Adds a part.</summary>
    public async Task<IActionResult> OnPostPartAsync(
        UnitKind? kind,
        string? part,
        string? serial,
        string? fits,
        int? watts,
        int? plugs,
        bool? forSale,
        int? quantity,
        string? position
    )
    {
        await ShowAsync();
        if (kind is not { } sort || !Kinds.Contains(sort))
            return await RefusedAsync("Choose a kind from the list.", "kind");
        if (quantity is < 1 or > Most)
            return await RefusedAsync($"How many: 1 to {Most}.", "quantity");
        var number = 1;
        while (Parts.Any(u => u.Unit.Id.Value == $"shelf-{Dashed.Of(sort)}-{number}"))
            number++;
        if (position?.Trim() is { Length: > LongestPosition })
            return await RefusedAsync($"Where it lies, in at most {LongestPosition} characters.", "position");
        try
        {
            Unit unit = UnitForm.Like(
                Situation.AtIntake(Core.Machines.Parts.None, Configuration.Empty),
                sort,
                new UnitId($"shelf-{Dashed.Of(sort)}-{number}"),
                part ?? "",
                forSale == true ? Origin.New : Origin.Shelf
            );
            unit = unit switch
            {
                MemoryStick m => m with { MemoryType = fits?.Trim() ?? "" },
                Cpu c => c with { Socket = fits?.Trim() ?? "" },
                { Kind: UnitKind.Cooler } when !string.IsNullOrWhiteSpace(fits) => unit with { Fits = [fits.Trim()] },
                _ => unit,
            };
            unit = unit with { Serial = serial?.Trim() ?? "", Watts = watts, Plugs = plugs };
            await shop.AddToShelfAsync([unit], visitor.Name, quantity ?? 1, position?.Trim() ?? "");
            house.Changed();
            return Redirect("/shelf");
        }
        catch (ArgumentException e)
        {
            return await RefusedAsync(UnitForm.Plainly(e));
        }
    }
}
