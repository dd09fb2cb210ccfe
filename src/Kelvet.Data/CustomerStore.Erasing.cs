using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using Kelvet.Core.Jobs;
using Kelvet.Data.Copies;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;

namespace Kelvet.Data;

/// <content>Erasing a customer: nothing personal is left, and what the jobs taught stays.</content>
public sealed partial class CustomerStore
{
    /// <summary>Fields of the job format that hold free words.</summary>
    private static readonly HashSet<string> FreeWords =
    [
        "title",
        "symptom",
        "customer",
        "note",
        "reason",
        "live",
        "since",
        "name",
        "serial",
    ];

    private const string NoUpdate =
        "CREATE TRIGGER Steps_NoUpdate BEFORE UPDATE ON Steps BEGIN SELECT RAISE(ABORT, 'the log is append-only'); END;";

    /// <summary>
    /// Erases a customer. Their row goes; in their jobs every mention of name, phone and e-mail becomes "[erased]"; the file is
    /// rewritten so that no freed page keeps it; the same is done to the log files. Lines, parts and results stay.
    /// </summary>
    /// <param name="id">The customer.</param>
    /// <param name="folder">The data folder: log files lie below it.</param>
    /// <param name="copies">Whether copies of the database that were made before are deleted as well; they still hold it.</param>
    /// <param name="cancel">Stops the work.</param>
    /// <returns>False where there is no such customer.</returns>
    public async Task<bool> EraseAsync(int id, string folder, bool copies, CancellationToken cancel = default)
    {
        if (await GetAsync(id, cancel) is not { } row)
            return false;
        var mentions = Mentions(row, w => w);
        db.ChangeTracker.Clear();
        await using (var writing = await db.WriteAsync(cancel))
        {
            // The log is never changed by anything else; here it is only blotted out.
            await db.Database.ExecuteSqlRawAsync("DROP TRIGGER Steps_NoUpdate;", cancel);
            foreach (var job in await db.Jobs.Where(j => j.CustomerId == id).ToListAsync(cancel))
                await BlotAsync(job, mentions, cancel);
            foreach (var machine in await db.Machines.Where(m => m.CustomerId == id).ToListAsync(cancel))
            {
                machine.CustomerId = null;
                machine.Name = Blotted(machine.Name, mentions);
                machine.Mark = Blotted(machine.Mark, mentions);
                machine.IntakeJson = BlottedJson(machine.IntakeJson, mentions);
            }

            db.Customers.Remove(await db.Customers.FirstAsync(c => c.Id == id, cancel));
            await db.SaveChangesAsync(cancel);
            await db.Database.ExecuteSqlRawAsync(NoUpdate, cancel);
            await writing.CommitAsync(cancel);
        }

        cache.Forget();
        // Freed pages and the write-ahead log still hold the old bytes until the file is written anew.
        using (await db.AloneAsync(cancel))
        {
            await db.Database.ExecuteSqlRawAsync("PRAGMA wal_checkpoint(TRUNCATE);", cancel);
            await db.Database.ExecuteSqlRawAsync("VACUUM;", cancel);
            await db.Database.ExecuteSqlRawAsync("PRAGMA wal_checkpoint(TRUNCATE);", cancel);
        }

        BlotLogs(Path.Combine(folder, "logs"), Mentions(row, w => Encoding.Latin1.GetString(Encoding.UTF8.GetBytes(w))));
        if (copies)
        {
            var second = await db.Shops.AsNoTracking().OrderBy(s => s.Id).Select(s => s.CopyFolder).FirstOrDefaultAsync(cancel) ?? "";
            foreach (var copy in new CopyRoom(folder, "", clock).All(second))
                File.Delete(copy.Path);
            foreach (var replaced in Directory.EnumerateDirectories(folder, $"{Restoring.Replaced}*"))
                Directory.Delete(replaced, recursive: true);
        }

        log.LogInformation("A customer was erased, with {Copies}", copies ? "the copies made before" : "copies made before left");
        return true;
    }

    private async Task BlotAsync(JobRow job, Regex mentions, CancellationToken cancel)
    {
        await db.Cards.Where(c => c.JobId == job.Id).ExecuteDeleteAsync(cancel);
        (job.CustomerId, job.Customer) = (null, "");
        job.Title = Blotted(job.Title, mentions);
        job.IntakeJson = BlottedJson(job.IntakeJson, mentions);
        job.ClosingWords = Blotted(job.ClosingWords, mentions);
        job.ClosedFigures = mentions.Replace(job.ClosedFigures, Erased);
        job.WaitsFor = Blotted(job.WaitsFor, mentions);
        job.WaitsFrom = Blotted(job.WaitsFrom, mentions);
        job.DropOffJson = "";
        job.StateCode = "";
        await db
            .Offers.Where(o => o.JobNumber == job.Number && o.Who != "")
            .ExecuteUpdateAsync(o => o.SetProperty(x => x.Who, Erased), cancel);
        foreach (var order in await db.Orders.Where(o => o.JobNumber == job.Number).ToListAsync(cancel))
        {
            (order.Needs, order.Why) = (Blotted(order.Needs, mentions), Blotted(order.Why, mentions));
            (order.Wrong, order.Supplier) = (Blotted(order.Wrong, mentions), Blotted(order.Supplier, mentions));
        }

        var machine = job.MachineId is { } m ? await db.Machines.AsNoTracking().FirstOrDefaultAsync(r => r.Id == m, cancel) : null;
        job.Search = Blotted(SearchOf(job, JobFormat.ReadIntake(job.IntakeJson), null, machine), mentions);
        foreach (var step in await db.Steps.Where(s => s.JobId == job.Id).ToListAsync(cancel))
            step.Body = BlottedJson(step.Body, mentions);
        foreach (var capture in await db.Captures.Where(c => c.JobId == job.Id).ToListAsync(cancel))
            capture.Source = Blotted(capture.Source, mentions);
    }

    /// <summary>A pattern of everything that tells who they are: the whole name, each part of it, phone in any spacing, e-mail.</summary>
    /// <param name="row">The customer.</param>
    /// <param name="form">How a word stands in what is searched.</param>
    private static Regex Mentions(CustomerRow row, Func<string, string> form)
    {
        var words = new List<string>();
        if (row.Name.Length > 0)
            words.Add(Regex.Escape(form(row.Name)));
        words.AddRange(
            row.Name.Split([' ', ',', '.'], StringSplitOptions.RemoveEmptyEntries).Where(w => w.Length > 2).Select(Regex.Escape)
        );
        if (row.Email.Length > 0)
            words.Add(Regex.Escape(form(row.Email)));
        var digits = NoDigit().Replace(row.Phone, "");
        if (digits.Length >= 5)
            words.Add(string.Join(@"[\s()/.\-]*", digits.ToCharArray()));
        return new Regex(
            words.Count == 0 ? "(?!)" : $@"(?<![\p{{L}}\p{{N}}])({string.Join('|', words)})(?![\p{{L}}\p{{N}}])",
            RegexOptions.IgnoreCase | RegexOptions.CultureInvariant,
            TimeSpan.FromSeconds(2)
        );
    }

    private static string Blotted(string text, Regex mentions) => mentions.Replace(text, Erased);

    private static string BlottedJson(string json, Regex mentions)
    {
        if (json.Length == 0 || JsonNode.Parse(json) is not { } root)
            return json;
        Walk(root, false);
        return root.ToJsonString(Compact);

        void Walk(JsonNode node, bool isTold)
        {
            switch (node)
            {
                case JsonObject fields:
                    foreach (var (key, value) in fields.ToArray())
                    {
                        if (value is JsonValue text && FreeWords.Contains(key) && text.TryGetValue<string>(out var said))
                            fields[key] = key == "customer" ? "" : Blotted(said, mentions);
                        else if (value is not null)
                            Walk(value, isTold);
                    }

                    break;
                case JsonArray items:
                    foreach (var item in items.OfType<JsonNode>())
                        Walk(item, isTold);
                    break;
                default:
                    break;
            }
        }
    }

    private static readonly JsonSerializerOptions Compact = new()
    {
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    /// <summary>Blots log files out in place, byte for byte, so that the one that is being written goes on where it was.</summary>
    private static void BlotLogs(string folder, Regex mentions)
    {
        if (!Directory.Exists(folder))
            return;
        foreach (var path in Directory.EnumerateFiles(folder, "*.log"))
        {
            using var file = new FileStream(path, FileMode.Open, FileAccess.ReadWrite, FileShare.ReadWrite | FileShare.Delete);
            var bytes = new byte[file.Length];
            file.ReadExactly(bytes);
            // Latin 1 keeps every byte where it is; what is not ASCII is looked for by its bytes.
            var text = Encoding.Latin1.GetString(bytes);
            foreach (Match mention in mentions.Matches(text))
            {
                file.Position = mention.Index;
                file.Write(Encoding.ASCII.GetBytes(new string('*', mention.Length)));
            }
        }
    }
}
