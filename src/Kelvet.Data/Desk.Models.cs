using System.Text.Json;
using Kelvet.Core.Learning;
using Kelvet.Core.Machines;

namespace Kelvet.Data;

/// <content>What closed jobs teach of models of parts.</content>
public sealed partial class Desk
{
    /// <summary>A closing whose faults were proved teaches which models were here, and which of them failed.</summary>
    private async Task TeachModelsAsync(StoredJob job, Closing closing, CancellationToken cancel)
    {
        if (closing.ProvedModes.Count == 0)
            return;
        var taught = ModelRates.Contribution(job.Bench.Intake.Parts, closing.Broken).ToDictionary(t => t.Key.ToString(), t => t.Value);
        job.Row.TaughtModels = taught.Count == 0 ? "" : JsonSerializer.Serialize(taught);
        await CountModelsAsync(taught, (a, b) => a + b, cancel);
    }

    private static Dictionary<string, ModelTally> ReadModels(JobRow row) =>
        JsonSerializer.Deserialize<Dictionary<string, ModelTally>>(row.TaughtModels) ?? [];

    private async Task CountModelsAsync(
        Dictionary<string, ModelTally> taught,
        Func<ModelTally, ModelTally, ModelTally> count,
        CancellationToken cancel
    )
    {
        foreach (var (model, tally) in taught)
        {
            if (UnitModel.Read(model) is null)
                continue;
            var row = await db.ModelTallies.FindAsync([model], cancel);
            if (row is null)
                db.ModelTallies.Add(row = new ModelTallyRow { Model = model });
            var now = count(new ModelTally(row.Failed, row.Seen), tally);
            (row.Failed, row.Seen) = (now.Failed, now.Seen);
        }
    }
}
