using System.Collections.Immutable;

namespace Kelvet.Core.Words;

/// <summary>What a message to the owner is about.</summary>
public enum MessageKind
{
    /// <summary>Leave is asked to go on.</summary>
    Leave,

    /// <summary>A part is waited for.</summary>
    PartLate,

    /// <summary>It can be fetched.</summary>
    Ready,
}

/// <summary>A message to the owner of a machine, to be copied or sent by the mail program. It has no figure of the reckoning.</summary>
/// <param name="Kind">What it is about.</param>
/// <param name="Title">What it is called where it is chosen.</param>
/// <param name="Subject">Its subject.</param>
/// <param name="Text">Its text.</param>
public sealed record OwnerMessage(MessageKind Kind, string Title, string Subject, string Text)
{
    /// <summary>What messages are made of.</summary>
    /// <param name="Shop">Name of the shop.</param>
    /// <param name="Job">Number of the job.</param>
    /// <param name="Owner">Name of the owner; empty where nobody is told.</param>
    /// <param name="Plain">The job in words for its owner.</param>
    public sealed record Facts(string Shop, int Job, string Owner, PlainReport Plain)
    {
        /// <summary>What is asked for: what would be done, and the most that it comes to; empty where that is not worked out.</summary>
        public string Asked { get; init; } = "";

        /// <summary>What is waited for; empty where no part is.</summary>
        public string WaitsFor { get; init; } = "";

        /// <summary>When that is due; null where nobody said.</summary>
        public DateOnly? Due { get; init; }

        /// <summary>Whether the job is closed.</summary>
        public bool IsClosed { get; init; }

        /// <summary>What it comes to, with its currency; empty where nothing is charged.</summary>
        public string Total { get; init; } = "";
    }

    /// <summary>The messages that a job as it stands may want, the likeliest first.</summary>
    public static ImmutableArray<OwnerMessage> Of(Facts facts)
    {
        var messages = ImmutableArray.CreateBuilder<OwnerMessage>();
        if (facts.IsClosed)
            messages.Add(
                Made(
                    MessageKind.Ready,
                    "It can be fetched",
                    "can be fetched",
                    facts,
                    [.. facts.Plain.Wrong, .. facts.Plain.Done],
                    [
                        facts.Total.Length > 0 ? $"It comes to {facts.Total}." : "",
                        "It can be fetched whenever we are open. Please bring the ticket.",
                        .. facts.Plain.Watch,
                    ]
                )
            );
        if (!facts.IsClosed && facts.WaitsFor.Length > 0)
            messages.Add(
                Made(
                    MessageKind.PartLate,
                    "A part is waited for",
                    "waits for a part",
                    facts,
                    [$"Your computer waits for a part: {facts.WaitsFor}."],
                    [
                        facts.Due is { } day ? $"It is expected on {day:yyyy-MM-dd}." : "When it comes is not known yet.",
                        "We tell you as soon as it is here.",
                    ]
                )
            );
        if (!facts.IsClosed)
            messages.Add(
                Made(
                    MessageKind.Leave,
                    "Leave to go on",
                    "needs your answer",
                    facts,
                    [.. facts.Plain.Wrong, .. facts.Plain.Known],
                    [
                        facts.Asked.Length > 0 ? facts.Asked : "Before we go on we would like your leave.",
                        "May we go on? Please answer yes, no, or with a question.",
                    ]
                )
            );
        return messages.ToImmutable();
    }

    private static OwnerMessage Made(
        MessageKind kind,
        string title,
        string subject,
        Facts facts,
        IEnumerable<string> first,
        IEnumerable<string> then
    ) =>
        new(
            kind,
            title,
            $"Your computer {subject} (job {facts.Job})",
            string.Join(
                "\n\n",
                new[]
                {
                    facts.Owner.Length > 0 ? $"Dear {facts.Owner}," : "Hello,",
                    string.Join(' ', first.Where(s => s.Length > 0)),
                    string.Join(' ', then.Where(s => s.Length > 0)),
                    facts.Shop,
                }.Where(s => s.Length > 0)
            )
        );
}
