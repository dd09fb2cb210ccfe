using Microsoft.EntityFrameworkCore;

namespace Kelvet.Data;

/// <summary>The shop's database.</summary>
public sealed partial class KelvetDb(DbContextOptions<KelvetDb> options) : DbContext(options)
{
    public DbSet<JobRow> Jobs => Set<JobRow>();

    public DbSet<StepRow> Steps => Set<StepRow>();

    public DbSet<TechnicianRow> Technicians => Set<TechnicianRow>();

    public DbSet<ShelfRow> Shelf => Set<ShelfRow>();

    public DbSet<ShopRow> Shops => Set<ShopRow>();

    public DbSet<TimerRow> Timers => Set<TimerRow>();

    public DbSet<PhotoRow> Photos => Set<PhotoRow>();

    public DbSet<CaptureRow> Captures => Set<CaptureRow>();

    public DbSet<ReaderRow> Readers => Set<ReaderRow>();

    public DbSet<SignalTableRow> SignalTables => Set<SignalTableRow>();

    public DbSet<MakerRow> Makers => Set<MakerRow>();

    public DbSet<RuleSetRow> RuleSets => Set<RuleSetRow>();

    public DbSet<TallyRow> Tallies => Set<TallyRow>();

    public DbSet<CustomerRow> Customers => Set<CustomerRow>();

    public DbSet<MachineRow> Machines => Set<MachineRow>();

    public DbSet<CatalogueRow> Catalogue => Set<CatalogueRow>();

    public DbSet<CardRow> Cards => Set<CardRow>();

    public DbSet<ShelfUseRow> ShelfUses => Set<ShelfUseRow>();

    public DbSet<SentRow> Sents => Set<SentRow>();

    public DbSet<InvoiceRow> Invoices => Set<InvoiceRow>();

    public DbSet<PartMoveRow> PartMoves => Set<PartMoveRow>();

    public DbSet<OrderRow> Orders => Set<OrderRow>();

    public DbSet<SupplierRow> Suppliers => Set<SupplierRow>();

    public DbSet<OfferRow> Offers => Set<OfferRow>();

    public DbSet<PaymentRow> Payments => Set<PaymentRow>();

    public DbSet<ModelTallyRow> ModelTallies => Set<ModelTallyRow>();

    private static void Money(ModelBuilder modelBuilder)
    {
        modelBuilder.Entity<OfferRow>().HasIndex(o => o.JobNumber);
        modelBuilder.Entity<PaymentRow>(payment =>
        {
            payment.HasKey(p => p.Number);
            payment.Property(p => p.Number).ValueGeneratedNever();
            payment.HasIndex(p => p.JobNumber);
        });
        modelBuilder.Entity<ModelTallyRow>().HasKey(t => t.Model);
    }

    private static void Invoice(Microsoft.EntityFrameworkCore.Metadata.Builders.EntityTypeBuilder<InvoiceRow> invoice)
    {
        invoice.HasKey(i => i.Number);
        invoice.Property(i => i.Number).ValueGeneratedNever();
        invoice.HasIndex(i => i.JobNumber);
        // An invoice is taken back once.
        invoice.HasIndex(i => i.Credits).IsUnique();
    }

    private static void Stock(ModelBuilder modelBuilder)
    {
        modelBuilder.Entity<ShelfRow>(shelf =>
        {
            shelf.Property(s => s.Why).HasDefaultValue("");
            shelf.Property(s => s.Position).HasDefaultValue("");
            shelf.HasMany(s => s.Moves).WithOne().HasForeignKey(m => m.ShelfId).OnDelete(DeleteBehavior.Restrict);
        });
        modelBuilder.Entity<OrderRow>(order =>
        {
            order.HasIndex(o => o.JobNumber);
            order.Property(o => o.Repairs).HasDefaultValue("");
        });
        modelBuilder.Entity<OrderRow>().HasIndex(o => o.State);
        modelBuilder.Entity<SupplierRow>().HasIndex(s => s.Name).IsUnique();
    }

    protected override void OnModelCreating(ModelBuilder modelBuilder)
    {
        modelBuilder.Entity<JobRow>(job =>
        {
            job.HasIndex(j => j.Number).IsUnique();
            job.HasIndex(j => j.ClosedAtUtc);
            job.HasIndex(j => j.CustomerId);
            job.HasIndex(j => j.MachineId);
            foreach (
                var added in new[]
                {
                    nameof(JobRow.TaughtJson),
                    nameof(JobRow.TaughtModels),
                    nameof(JobRow.StateCode),
                    nameof(JobRow.ClosedFigures),
                    nameof(JobRow.ClosedRules),
                    nameof(JobRow.Search),
                    nameof(JobRow.DropOffJson),
                    nameof(JobRow.WaitsFor),
                    nameof(JobRow.WaitsFrom),
                    nameof(JobRow.Holder),
                    nameof(JobRow.PowerMoment),
                    nameof(JobRow.FoundKinds),
                }
            )
                job.Property<string>(added).HasDefaultValue("");
            job.HasMany(j => j.Steps).WithOne().HasForeignKey(s => s.JobId).OnDelete(DeleteBehavior.Restrict);
        });
        modelBuilder.Entity<StepRow>(step =>
        {
            // Ids are unique within a job only: the same file may be imported twice.
            step.HasKey(s => new { s.JobId, s.Number });
            step.Property(s => s.Number).ValueGeneratedNever();
            step.HasIndex(s => new { s.JobId, s.Id }).IsUnique();
        });
        modelBuilder.Entity<TimerRow>().HasIndex(t => t.JobId);
        modelBuilder.Entity<PhotoRow>().HasIndex(p => new { p.JobId, p.StepId });
        modelBuilder.Entity<CaptureRow>().HasIndex(c => new { c.JobId, c.StepId });
        modelBuilder.Entity<ReaderRow>().HasIndex(r => r.Name).IsUnique();
        modelBuilder.Entity<MakerRow>().HasIndex(m => m.Maker).IsUnique();
        modelBuilder.Entity<ShopRow>(shop =>
        {
            shop.Property(s => s.School).HasDefaultValue("advisor");
            shop.Property(s => s.DrainSeconds).HasDefaultValue(20);
            shop.Property(s => s.SupportCsv).HasDefaultValue("");
            shop.Property(s => s.BillingJson).HasDefaultValue("");
            shop.Property(s => s.CopyFolder).HasDefaultValue("");
            shop.Property(s => s.CopySealed).HasDefaultValue("");
            shop.Property(s => s.CopyDays).HasDefaultValue(7);
            shop.Property(s => s.CopyWeeks).HasDefaultValue(13);
        });
        modelBuilder.Entity<InvoiceRow>(Invoice);
        Stock(modelBuilder);
        Money(modelBuilder);
        modelBuilder.Entity<ShelfUseRow>().HasIndex(u => new { u.ShelfId, u.JobNumber });
        modelBuilder.Entity<CardRow>(card =>
        {
            card.HasKey(c => c.JobId);
            card.Property(c => c.JobId).ValueGeneratedNever();
        });
        modelBuilder.Entity<MachineRow>().HasIndex(m => m.CustomerId);
        modelBuilder.Entity<MachineRow>().HasIndex(m => m.Serial);
        modelBuilder.Entity<CatalogueRow>().HasIndex(c => new { c.Kind, c.Key }).IsUnique();
        modelBuilder.Entity<SentRow>(sent =>
        {
            sent.Property(s => s.Id).ValueGeneratedNever();
            sent.HasIndex(s => s.AtUtc);
        });
        modelBuilder.Entity<TallyRow>().HasKey(t => t.Mode);
        modelBuilder.Entity<TechnicianRow>().HasIndex(t => t.Name).IsUnique();
    }
}
