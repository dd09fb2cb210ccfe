using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Text;

namespace Kelvet.Web.Pages.Jobs;

/// <content>What cannot be, field by field.</content>
public sealed partial class IntakeForm
{
    /// <summary>A box that is sent empty is no box.</summary>
    private void Tidy()
    {
        (Contexts, Outputs, Tables) = ([.. Contexts.OfType<string>()], [.. Outputs.OfType<string>()], [.. Tables.OfType<string>()]);
        (Filled, Spares, Small) = ([.. Filled.OfType<string>()], [.. Spares.OfType<string>()], [.. Small.OfType<string>()]);
        Owner = [.. Owner.OfType<string>()];
        // What is ticked beside it is known.
        if (Filled.Length > 1)
            Filled = [.. Filled.Where(f => f != NotKnown)];
        if (Outputs.Length > 1)
            Outputs = [.. Outputs.Where(o => o != NotKnown)];
        Parts.RemoveAll(p => p is null);
        Tried.RemoveAll(t => t?.What is null);
        // A title that nobody wrote says what is told.
        if (string.IsNullOrWhiteSpace(Title))
        {
            var told = Stages.FirstOrDefault(s => s.Value == Reported).Title ?? "Not told yet";
            Title = string.IsNullOrWhiteSpace(MachineName) ? told : Wording.Text.Cut($"{told}: {MachineName.Trim()}", 110);
        }
    }

    private void CheckTold()
    {
        Check(nameof(Title), Title, 120);
        foreach (var (field, value, most) in new[] { (nameof(Customer), Customer, 120), (nameof(Phone), Phone, 40) })
            Check(field, value, most);
        foreach (var (field, value) in new[] { (nameof(Email), Email), (nameof(Reach), Reach), (nameof(MachineName), MachineName) })
            Check(field, value, 120);
        Check(nameof(MachineSerial), MachineSerial, 60);
        Check(nameof(MachineMark), MachineMark, 60);
        Check(nameof(Symptom), Symptom, Entry.LongestNote);
        Check(nameof(Since), Since, Complaint.LongestSince);
        Check(nameof(Accessories), Accessories, 400);
        Check(nameof(Password), Password, 200);
        if (!string.IsNullOrWhiteSpace(Email) && (Email.IndexOf('@') is var at && (at < 1 || at == Email.Trim().Length - 1)))
            Wrong[nameof(Email)] = "An e-mail address has an @ in it, such as name@example.org.";
        if (Minutes is { } minutes && minutes is not (>= 0 and <= 1440))
            Wrong[nameof(Minutes)] = "Say 0 to 1440 minutes, or leave it empty.";
        if (Limit is < 0 or > 100_000)
            Wrong[nameof(Limit)] = "The limit is 0 to 100,000.";
        if (Contexts.FirstOrDefault(c => Atlas.Standard.Contexts.All(a => a.Id != c)) is { } context)
            Wrong[nameof(Contexts)] = $"\"{context}\" is not among what can be known; choose from the list.";
        if (Owner.FirstOrDefault(k => OwnerKinds.All(o => Dashed.Of(o) != k)) is { } owner)
            Wrong[nameof(Owner)] = $"\"{owner}\" is not among the parts; choose from the list.";
        if ((FailedTimes is null) != (OfTimes is null) || (FailedTimes is { } k2 && !new Times(k2, OfTimes!.Value).Makes))
            Wrong[nameof(FailedTimes)] = "Say how often it failed of how many starts, such as 2 of 5, or leave both empty.";
        foreach (var tried in Tried.Where(t => !string.IsNullOrEmpty(t.Seen) && !ObservedFormat.TryRead(t.Seen, out _)))
            Wrong[nameof(Tried)] = $"\"{tried.Seen}\" is not one of the stages; choose from the list.";
    }

    private void CheckMachine(MemorySlot[]? layout)
    {
        foreach (
            var (field, value) in new[] { (nameof(Supply), Supply), (nameof(Board), Board), (nameof(Cpu), Cpu), (nameof(Stick), Stick) }
        )
            Check(field, value, 60);
        foreach (var (field, value) in new[] { (nameof(Card), Card), (nameof(Monitor), Monitor), (nameof(BoardSerial), BoardSerial) })
            Check(field, value, 60);
        Check(nameof(Cooler), Cooler, 60);
        foreach (var (field, value) in new[] { (nameof(MemoryType), MemoryType), (nameof(Socket), Socket) })
            Check(field, value, 20);
        if (layout is null)
            Wrong[nameof(Slots)] = "Choose one of the layouts.";
        else if (Filled.FirstOrDefault(f => f != NotKnown && SlotsOf(layout).All(s => s.Name != f)) is { } missing)
            Wrong[nameof(Filled)] = $"This board has no slot {missing}; untick it or choose another layout.";
        if (Outputs.FirstOrDefault(o => o != NotKnown && BoardOutputs.All(b => b.Name != o)) is { } output)
            Wrong[nameof(Outputs)] = $"\"{output}\" is not among the outputs; choose from the list.";
        if (StickGb is < 0 or > 1024)
            Wrong[nameof(StickGb)] = "A stick holds 0 (not known) to 1024 GB.";
        if (CardSlots is < 0 or > 8)
            Wrong[nameof(CardSlots)] = "A board has 0 to 8 expansion slots.";
        if (Drives is < 0 or > 8)
            Wrong[nameof(Drives)] = "Say 0 to 8 drives.";
        if (SupplyWatts is < 0 or > Unit.MostWatts)
            Wrong[nameof(SupplyWatts)] = $"A supply is rated 0 to {Unit.MostWatts} W, or leave it empty.";
        if (SupplyMade is not null and (< 1980 or > 2100))
            Wrong[nameof(SupplyMade)] = "Say the year, such as 2019, or leave it empty.";
        if (!string.IsNullOrWhiteSpace(Card) && CardSlots == 0 && Catalogued<Motherboard>(UnitKind.Motherboard, Board) is null)
            Wrong[nameof(CardSlots)] = "A card is named, but the board has no slot for it.";
        if (Small.FirstOrDefault(k => SmallKinds.All(s => Dashed.Of(s) != k)) is { } kind)
            Wrong[nameof(Small)] = $"\"{kind}\" is not among the parts; choose from the list.";
    }

    private void CheckParts()
    {
        foreach (var part in Parts.Where(p => !p.Gone))
        {
            Check(nameof(Parts), part.Name, 80, needed: true);
            Check(nameof(Parts), part.Serial, 60);
        }

        Check(nameof(AddName), AddName, 80, needed: AddKind is not null);
        if (AddKind is { } added && !AddKinds.Contains(added))
            Wrong[nameof(AddKind)] = "Choose one of the kinds.";
        if (!string.IsNullOrWhiteSpace(AddPlace) && !SlotName.IsValid(AddPlace.Trim()))
            Wrong[nameof(AddPlace)] = "A slot is named by letters and digits, such as A2; leave it empty for the first that is free.";
    }

    private void Check(string field, string? value, int most, bool needed = false)
    {
        if (needed && string.IsNullOrWhiteSpace(value))
            Wrong[field] = "This is needed.";
        else if (value?.Length > most)
            Wrong[field] = $"At most {most} characters, not {value.Length}.";
    }
}
