using System.Collections.Immutable;
using System.Text.Json.Nodes;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Text;
using static Kelvet.Core.Jobs.ValueForms;

namespace Kelvet.Core.Jobs;

/// <summary>
/// The one table of the job format: every field of a unit, a step and the intake, with its form. Reader, writer, JSON
/// Schema and the tables in docs/formats.md all come from it.
/// </summary>
internal static class JobFields
{
    /// <summary>A unit.</summary>
    public static UnionForm<Unit> Unit => UnitFields.Unit;

    /// <summary>What was seen and heard of a start.</summary>
    public static ObjectForm<Signs> Signs => SignFields.Signs;

    /// <summary>A step.</summary>
    public static UnionForm<Entry> Step => StepFields.Step;

    private static readonly Form<ImmutableSortedDictionary<Place, UnitId>> FittedForm = new(
        ReadFitted,
        v => new JsonObject(v.Select(p => KeyValuePair.Create(MachineFormat.Write(p.Key), (JsonNode?)p.Value.Value))),
        () =>
            new JsonObject
            {
                ["type"] = "object",
                ["maxProperties"] = Parts.Most,
                ["propertyNames"] = new JsonObject { ["pattern"] = $"^({MachineFormat.PlacePattern})$" },
                ["additionalProperties"] = Forms.Ref("id"),
            },
        "place → unit id"
    );

    private static ImmutableSortedDictionary<Place, UnitId> ReadFitted(DataPart part)
    {
        var fitted = ImmutableSortedDictionary.CreateBuilder<Place, UnitId>();
        foreach (var (key, value) in part.Fields())
        {
            if (!MachineFormat.TryRead(key, out Place place))
                throw value.Wrong($"\"{key}\" is not a place, such as supply, memory.A2 or card.1");
            if (fitted.ContainsKey(place))
                throw value.Wrong($"\"{key}\" is given twice");
            if (fitted.Count == Parts.Most)
                throw part.Wrong($"there are more than {Parts.Most} places, the most");
            fitted[place] = UnitForm.Read(value);
        }

        return fitted.ToImmutable();
    }

    private static Form<Parts> PartsForm { get; } =
        new(
            part =>
            {
                var parts = Parts.None;
                foreach (var unit in part.Items())
                    parts = Forms.Guarded(unit, () => parts.With(Unit.Read(unit)));
                return parts;
            },
            v => new JsonArray([.. v.All.Select(u => (JsonNode)Unit.Write(u))]),
            () =>
                new JsonObject
                {
                    ["type"] = "array",
                    ["maxItems"] = Parts.Most,
                    ["items"] = Forms.Ref("unit"),
                },
            $"up to {Parts.Most} units"
        );

    private static readonly Field<Intake, string> Title = Needed("title", Forms.Text(120, 1), (Intake i) => i.Title);
    private static readonly Field<Intake, string> Customer = May("customer", Forms.Text(120), (Intake i) => i.Customer, "");
    private static readonly Field<Intake, string> Symptom = May("symptom", Forms.Text(Entry.LongestNote), (Intake i) => i.Symptom, "");
    private static readonly Field<Intake, StageRange?> Reported = MayValue(
        "reported",
        RangeForm,
        (Intake i) => i.Reported,
        "how far the customer says it got"
    );
    private static readonly Field<Intake, Times?> ReportedTimes = MayValue(
        "reported-times",
        TimesForm,
        (Intake i) => i.ReportedTimes,
        "how often, as the customer says: `2/5`; `1/2` for \"sometimes\""
    );
    private static readonly Field<Intake, BootStage?> Goal = MayValue(
        "goal",
        Forms.Choice<BootStage>(),
        (Intake i) => i.Goal,
        "the stage that a start must reach to be past the complaint; where it is not given, it follows from `reported`"
    );
    private static readonly Field<Complaint, Ending?> Then = MayValue(
        "then",
        Forms.Choice<Ending>(),
        (Complaint c) => c.Then,
        "what it does when it ends"
    );
    private static readonly Field<Complaint, Artefacts?> SpoiltPicture = MayValue(
        "picture",
        Forms.Choice<Artefacts>(),
        (Complaint c) => c.Picture,
        "since when it shows stripes or blocks"
    );
    private static readonly Field<Complaint, StartKind?> When = MayValue(
        "when",
        Forms.Choice<StartKind>(),
        (Complaint c) => c.When,
        "the kind of start or use in which it happens"
    );
    private static readonly Field<Complaint, double?> AfterMinutes = MayValue(
        "minutes",
        Forms.Number(0, 1440),
        (Complaint c) => c.Minutes,
        "after how many minutes"
    );
    private static readonly Field<Complaint, string> Since = May(
        "since",
        Forms.Text(Jobs.Complaint.LongestSince),
        (Complaint c) => c.Since,
        "",
        "since when"
    );
    private static readonly ObjectForm<Complaint> ComplaintForm = new(
        [Then, SpoiltPicture, When, AfterMinutes, Since],
        v => new Complaint
        {
            Then = v.Of(Then),
            Picture = v.Of(SpoiltPicture),
            When = v.Of(When),
            Minutes = v.Of(AfterMinutes),
            Since = v.Of(Since),
        }
    );
    private static readonly Field<Intake, Complaint> Complaint = May(
        "complaint",
        ComplaintForm.AsForm("what else the complaint says: `then`, `picture`, `when`, `minutes`, `since`"),
        (Intake i) => i.Complaint,
        Jobs.Complaint.None
    );
    private static readonly Field<Intake, ImmutableArray<string>> Contexts = MayList(
        "contexts",
        Forms.List(Forms.Id, Jobs.Intake.MostContexts, "ids from the atlas, such as `new-build`, `power-event`, `smell`"),
        (Intake i) => i.Contexts
    );
    private static readonly Field<Intake, Parts> Units = Needed(
        "units",
        PartsForm,
        (Intake i) => i.Parts,
        "every part, fitted or beside the bench"
    );
    private static readonly Field<Intake, ImmutableSortedDictionary<Place, UnitId>> Fitted = Needed(
        "fitted",
        FittedForm,
        (Intake i) => i.Received.At,
        "the machine as received"
    );
    private static readonly Field<Intake, StartMethod> Start = May(
        "start",
        Forms.Choice<StartMethod>(),
        (Intake i) => i.Received.Start,
        StartMethod.HeaderPins,
        "`header-pins` when left out"
    ) with
    {
        Always = true,
    };
    private static readonly Field<Intake, OutputRef?> Display = MayValue(
        "display",
        OutputForm,
        (Intake i) => i.Received.Display,
        "where the monitor is plugged in: `board/HDMI`, `card.1/DP 1`"
    );

    /// <summary>What was written down when the machine came in.</summary>
    public static readonly ObjectForm<Intake> Intake = new(
        [Title, Customer, Symptom, Reported, ReportedTimes, Goal, Complaint, Contexts, Units, Fitted, Start, Display],
        v => new Intake
        {
            Title = v.Of(Title),
            Customer = v.Of(Customer),
            Symptom = v.Of(Symptom),
            Reported = v.Of(Reported),
            ReportedTimes = v.Of(ReportedTimes),
            Goal = v.Of(Goal),
            Complaint = v.Of(Complaint),
            Contexts = v.Of(Contexts),
            Parts = v.Of(Units),
            Received = new Configuration(v.Of(Fitted), v.Of(Start), v.Of(Display)),
        },
        "format",
        "version",
        "steps"
    );
}
