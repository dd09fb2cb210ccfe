namespace Kelvet.Web.Shown;

/// <summary>A page of a job, within the place that it belongs to.</summary>
/// <param name="Name">What it is called wherever it is named.</param>
/// <param name="Path">What follows the job's address; empty for the bench.</param>
public sealed record JobPlacePage(string Name, string Path);

/// <summary>A place of a job: the same key, the same order and the same name on every page of it.</summary>
/// <param name="Key">The key that leads there from anywhere in the job.</param>
/// <param name="Name">What it is called.</param>
/// <param name="What">What is found there, for the page of keys.</param>
/// <param name="Pages">Its pages; the key leads to the first.</param>
public sealed record JobPlace(char Key, string Name, string What, params IReadOnlyList<JobPlacePage> Pages)
{
    /// <summary>The places in their order.</summary>
    public static IReadOnlyList<JobPlace> All { get; } =
    [
        new(
            '.',
            "Card",
            "whose it is, what was told and agreed, what it is worth",
            new("Job card", "card"),
            new("Once-over", "once-over"),
            new("Worth it?", "worth"),
            new("Photos by phone", "capture")
        ),
        new(
            'b',
            "Bench",
            "the machine, what to do next, and recording it",
            new("Bench", ""),
            new("How it is done", "how"),
            new("A part comes in", "part"),
            new("Power", "power"),
            new("Evidence", "unit")
        ),
        new('o', "Steps", "what else could be done, what each would cost and tell", new JobPlacePage("Steps", "steps")),
        new(
            ';',
            "Starts",
            "made to fail, under load, how sure the clean ones make",
            new("How sure", "proof"),
            new("Make it fail", "reproduce"),
            new("Under load", "heat")
        ),
        new(',', "Memory", "sticks and slots: what every pairing showed", new JobPlacePage("Sticks and slots", "memory")),
        new(
            'l',
            "Log",
            "every line, where it can be corrected",
            new("Log", "log"),
            new("What was taken in", "correct"),
            new("Job file", "export")
        ),
        new(
            'r',
            "Papers",
            "reports, return sheets, ticket, estimate, invoice, hand-over",
            new("Papers", "papers"),
            new("Technician's report", "report"),
            new("Customer's report", "customer"),
            new("Return sheet", "return"),
            new("Ticket", "ticket"),
            new("Estimate", "estimate"),
            new("Invoice", "invoice"),
            new("Hand-over sheet", "hand-over")
        ),
        new('d', "Close", "what was found, and what becomes of every part", new JobPlacePage("Close", "close")),
    ];

    /// <summary>The place and page that an address within a job belongs to; the bench where it is none of theirs.</summary>
    /// <param name="path">An address such as "/jobs/1003/heat".</param>
    public static (JobPlace Place, JobPlacePage Page) At(string path)
    {
        var within = path.Trim('/').Split('/').Skip(2).FirstOrDefault() ?? "";
        foreach (var place in All)
        {
            if (place.Pages.FirstOrDefault(p => p.Path == within) is { } page)
                return (place, page);
        }

        return (All[1], All[1].Pages[0]);
    }

    /// <summary>The address of its first page.</summary>
    /// <param name="job">The job's number.</param>
    public string AddressIn(int job) => AddressOf(job, Pages[0]);

    /// <summary>The address of one of its pages.</summary>
    /// <param name="job">The job's number.</param>
    /// <param name="page">The page.</param>
    public static string AddressOf(int job, JobPlacePage page) => page.Path.Length > 0 ? $"/jobs/{job}/{page.Path}" : $"/jobs/{job}";

    /// <summary>Pages of it that can be gone to without more said: those that are about one part or one procedure are not.</summary>
    public IEnumerable<JobPlacePage> ToGoTo => Pages.Where(p => p.Path is not ("how" or "unit" or "return" or "correct" or "export"));
}
