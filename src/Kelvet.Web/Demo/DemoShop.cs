using Kelvet.Core.Billing;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Learning;
using Kelvet.Core.Listings;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Core.Proving;
using Kelvet.Core.Records;
using Kelvet.Core.Stock;
using Kelvet.Core.Text;
using Kelvet.Data;
using Kelvet.Web.Hosting;

namespace Kelvet.Web.Demo;

/// <summary>
/// The demo shop: an invented workshop with invented people, makers and serial numbers. Its jobs are ordinary job
/// files that are read the way an import is; what is wrong with each machine is worked out, not stored.
/// </summary>
public static class DemoShop
{
    /// <summary>Fills an empty database.</summary>
    public static async Task SeedAsync(IServiceProvider services)
    {
        var shop = services.GetRequiredService<Shop>();
        var now = services.GetRequiredService<TimeProvider>().GetUtcNow();
        var manifest = YamlPart.Root(Text("demo.yaml"), "demo.yaml");
        await shop.NameAsync(manifest.Get("shop").Text(), manifest.Get("time-zone").Text());
        string[] people = [.. manifest.Get("technicians").Items().Select(t => t.Text())];
        foreach (var name in people)
            await shop.AddTechnicianAsync(name);
        var billing = manifest.Get("billing");
        var terms = new BillingTerms
        {
            Address = billing.Get("address").Text(),
            Reach = billing.Get("reach").Text(),
            TaxName = billing.Get("tax-name").Text(),
            Tax = (decimal)billing.Get("tax").Number(0, 100),
            Prefix = billing.Get("prefix").Text(),
            ReceiptPrefix = billing.Get("receipt-prefix").Text(),
            DiagnosisFee = (decimal)billing.Get("diagnosis-fee").Number(0, 1000),
        };
        await shop.ChangeAsync(row => row.BillingJson = terms.Write());
        await SeedStockAsync(services, manifest, people[0], now);
        var signals = services.GetRequiredService<SignalStore>();
        foreach (var (maker, tables) in manifest.Get("makers").Fields())
            await signals.MakerAsync(maker, [.. tables.Items().Select(t => t.Slug())]);
        foreach (var reader in manifest.Get("readers").Items())
            await signals.AddReaderAsync(
                new ReaderRow
                {
                    Name = reader.Get("name").Text(),
                    Kind = ReaderKind.Simulated,
                    Address = reader.Get("scenario").Slug(),
                    JobNumber = reader.Get("job").Whole(1001, 9999),
                }
            );
        services.GetRequiredService<HouseRules>().Changed();
        await SeedCatalogueAsync(services, manifest);
        foreach (var entry in manifest.Get("jobs").Items())
            await SeedJobAsync(services, entry, people, now);

        services.GetRequiredService<HouseRules>().Changed();
    }

    private static async Task SeedStockAsync(IServiceProvider services, DataPart manifest, string by, DateTimeOffset now)
    {
        var shop = services.GetRequiredService<Shop>();
        var kept = manifest.Get("shelf").Fields().ToDictionary(f => f.Key, f => f.Value);
        foreach (var unit in JsonPart.Root(Text("shelf.json")).Items().Select(JobFormat.ReadUnit))
        {
            var of = kept.GetValueOrDefault(unit.Id.Value);
            await shop.AddToShelfAsync(
                [unit],
                by,
                of?.Find("quantity")?.Whole(1, PartMove.MostPieces) ?? 1,
                of?.Find("position")?.Text() ?? "",
                of?.Find("reorder-at")?.Whole(0, PartMove.MostPieces)
            );
        }

        var orders = services.GetRequiredService<Orders>();
        foreach (var (name, seller) in manifest.Get("sellers").Fields())
            await orders.KeepSupplierAsync(
                name,
                seller.Find("email")?.Text() ?? "",
                seller.Find("phone")?.Text() ?? "",
                seller.Find("return-days")?.Whole(0, 730)
            );
        foreach (var (order, number) in manifest.Get("orders").Items().Select((o, i) => (o, i + 1)))
        {
            Dashed.TryRead<UnitKind>(order.Get("kind").Slug(), out var kind);
            await orders.AddAsync(
                new Wanted(
                    Unit.Plain(new UnitId($"ordered-{number}"), kind, order.Get("name").Text(), Origin.New),
                    null,
                    order.Get("seller").Text(),
                    (decimal)order.Get("price").Number(0, 10_000),
                    order.Get("pieces").Whole(1, PartMove.MostPieces),
                    DateOnly.FromDateTime(now.UtcDateTime.AddDays(order.Get("expected").Whole(0, 100))),
                    "",
                    "for the shelf"
                ),
                new DeskRules(by, (await services.GetRequiredService<HouseRules>().CurrentAsync()).Set, TimeSpan.Zero)
            );
        }
    }

    private static async Task SeedCatalogueAsync(IServiceProvider services, DataPart manifest)
    {
        var parts = new List<CataloguePart>();
        var text = Text("catalogue.csv");
        CatalogueFile.Read(
            text,
            CatalogueFile.Preview(text, 0).Mapping,
            (_, part) => parts.Add(part),
            mistake => throw new DataFileException($"catalogue.csv, line {mistake.Line}: {mistake.Words}")
        );
        await services.GetRequiredService<CatalogueStore>().KeepAsync(parts);
        await services.GetRequiredService<SupportLists>().KeepAsync(SupportList.Read(Text("support.csv")).List);
        var customers = services.GetRequiredService<CustomerStore>();
        foreach (var (name, told) in manifest.Get("customers").Fields())
            await customers.KeepAsync(null, name, Told(told, "phone"), Told(told, "email"), Told(told, "reach"));
        foreach (var (name, file) in manifest.Get("templates").Fields())
            await customers.KeepMachineAsync(null, null, name, "", "", JobFormat.Read(Text(file.Text())).Intake, template: true);
    }

    private static async Task SeedJobAsync(IServiceProvider services, DataPart entry, string[] people, DateTimeOffset now)
    {
        var customers = services.GetRequiredService<CustomerStore>();
        var desk = services.GetRequiredService<Desk>();
        var opened = now.AddDays(-entry.Get("days-ago").Number(0, 1000)).UtcDateTime;
        var by = people[entry.Get("by").Whole(1, people.Length) - 1];
        var job = Dated(Named(JobFormat.Read(Text(entry.Get("file").Text())), entry), new DateTimeOffset(opened), by);
        var known = await customers.FindAsync(job.Intake.Customer);
        var with = new Opening
        {
            AtUtc = opened,
            Customer = known is [var customer, ..] ? new ToldCustomer(customer.Id, customer.Name) : null,
            Machine = new ToldMachine(null, entry.Find("machine")?.Text() ?? job.Now.Board?.Name ?? "Machine", Mark: Told(entry, "mark")),
            PromisedUtc = InDays(entry, "promised"),
            DropOff = new DropOff
            {
                MayOpen = true,
                Limit = entry.Find("limit") is { } limit ? (decimal)limit.Number(0, 10_000) : null,
                Accessories = Told(entry, "accessories"),
            },
        };
        var rules = await services.GetRequiredService<HouseRules>().CurrentAsync();
        var under = new DeskRules(by, rules.Set, rules.Drain);
        var number = await desk.OpenAsync(job, with, under);
        if (entry.Find("holder") is { } holder)
            await desk.HoldAsync(number, people[holder.Whole(1, people.Length) - 1]);
        if (entry.Find("closed") is null)
            await SeedMoneyAsync(services, entry, number, job, under);
        if (entry.Find("wait") is { } wait)
            await desk.WaitAsync(
                number,
                wait.Choice<JobWait>(),
                Told(entry, "for"),
                Told(entry, "from"),
                InDays(entry, "due"),
                since: InDays(entry, "since")
            );
        if (entry.Find("closed") is { } closed)
        {
            UnitId[] found = [.. entry.Get("found").Items().Select(f => new UnitId(f.Slug()))];
            var diagnosis = BenchDiagnosis.Of(job, Atlas.Standard);
            var closing = new Closing(
                closed.Text(400),
                found,
                entry.Find("teaches")?.Flag() == false ? [] : Experience.Proved(diagnosis, found),
                CaseRecord.Of(diagnosis, Preferences.Usual, found).Write(),
                job.Entries[^1].At.UtcDateTime.AddHours(2)
            )
            {
                Fates = Settling.Usual(job, found, Guid.NewGuid, Preferences.Usual.SellingPrice),
            };
            await desk.CloseAsync(number, closing with { Broken = Experience.Broken(diagnosis, found) }, under);
        }

        if (entry.Find("closed") is not null)
            await SeedMoneyAsync(services, entry, number, (await services.GetRequiredService<JobStore>().FindAsync(number))!.Bench, under);
        if (entry.Find("handed-over")?.Flag() == true)
            await desk.HandOverAsync(number);

        DateTime? InDays(DataPart from, string key) => from.Find(key) is { } days ? now.AddDays(days.Number(-100, 100)).UtcDateTime : null;
    }

    /// <summary>What the demo's estimate counts for the rest, minutes: nothing is played out while the shop is filled.</summary>
    private const double MinutesToPutRight = 25;

    /// <summary>What was asked for and paid in a job.</summary>
    private static async Task SeedMoneyAsync(IServiceProvider services, DataPart entry, int number, BenchJob job, DeskRules under)
    {
        var terms = await services.GetRequiredService<Shop>().TermsAsync();
        var payments = services.GetRequiredService<Payments>();
        if (entry.Find("deposit") is { } deposit)
            await payments.TakeAsync(number, new Payment(PaymentKind.Deposit, (decimal)deposit.Number(0, 10_000), "cash"), terms, under.By);
        if (entry.Find("estimate") is not null)
        {
            var diagnosis = BenchDiagnosis.Of(job, Atlas.Standard);
            var worth = Worth.Of(diagnosis, MinutesToPutRight, null, Preferences.Usual);
            var estimate = Estimate.Of(diagnosis, worth.Ways[0], false, null, Preferences.Usual, terms);
            var extras = Extra.For(job).Select(e => new OfferLine(e.What, terms.PriceOf(e), terms.PriceOf(e), e.Why, true));
            var until = DateOnly.FromDateTime(services.GetRequiredService<TimeProvider>().GetUtcNow().UtcDateTime).AddDays(terms.OfferDays);
            var offer = new Offer(terms, estimate.Known, estimate.Proposal, [.. estimate.Lines, .. extras], until, 0);
            await services.GetRequiredService<Offers>().GiveAsync(number, offer, under.By);
        }

        if (entry.Find("invoice") is null)
            return;
        var bill = JobBill.Of(
            job,
            [.. entry.Get("found").Items().Select(f => new UnitId(f.Slug()))],
            Effort.Minutes(job, Atlas.Standard),
            (decimal)Preferences.Usual.HourlyRate,
            Preferences.Usual.SellingPrice,
            terms
        );
        if (bill is null)
            return;
        var issued = await services.GetRequiredService<Invoices>().IssueAsync(number, bill, terms, under.By);
        await payments.TakeAsync(
            issued.JobNumber,
            new Payment(PaymentKind.Payment, bill.Total, entry.Get("invoice").Text()),
            terms,
            under.By
        );
    }

    private static string Told(DataPart from, string key) => from.Find(key)?.Text() ?? "";

    /// <summary>Under another name, where the manifest gives one.</summary>
    private static BenchJob Named(BenchJob job, DataPart entry) =>
        BenchJob
            .Open(
                job.Intake with
                {
                    Title = entry.Find("title")?.Text() ?? job.Intake.Title,
                    Customer = entry.Find("customer")?.Text() ?? job.Intake.Customer,
                }
            )
            .With(job.Entries);

    /// <summary>The text of a demo file.</summary>
    public static string Text(string file)
    {
        using var stream =
            typeof(DemoShop).Assembly.GetManifestResourceStream($"demo/{file}")
            ?? throw new DataFileException($"There is no demo file {file}.");
        using var reader = new StreamReader(stream);
        return reader.ReadToEnd();
    }

    private static BenchJob Dated(BenchJob job, DateTimeOffset opened, string by) =>
        BenchJob
            .Open(job.Intake)
            .With(
                job.Entries.Select((e, i) => e with { At = opened.AddMinutes(6 * (i + 1)), By = by, AtlasVersion = Atlas.Standard.Version })
            );
}
