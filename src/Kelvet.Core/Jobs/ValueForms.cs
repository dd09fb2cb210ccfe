using System.Collections.Immutable;
using System.Globalization;
using System.Text.Json.Nodes;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Text;

namespace Kelvet.Core.Jobs;

/// <summary>Forms of single values of the job format, and how a field is asked for.</summary>
internal static class ValueForms
{
    internal static readonly Form<UnitId> UnitForm = Forms.Id.As(v => new UnitId(v), v => v.Value);
    internal static readonly Form<string> SlotForm = new(p => p.Text(20), v => v, () => Forms.Ref("slot"), "a name as printed");

    internal static readonly Form<Guid> StepId = new(
        p => Guid.TryParse(p.Text(), out var id) && id != Guid.Empty ? id : throw p.Wrong($"\"{p.Text()}\" is not a step id (a UUID)"),
        v => v.ToString(),
        () => new JsonObject { ["type"] = "string", ["format"] = "uuid" },
        "a UUID"
    );

    internal static readonly Form<StageRange> RangeForm = Forms.Written<StageRange>(
        t => ObservedFormat.TryRead(t, out var range) ? (range, "") : (default, "a stage 0 to 8 or a range such as 4-5"),
        v => ObservedFormat.Write(v),
        () => Forms.Ref("range"),
        "a range"
    );

    internal static readonly Form<OutputRef> OutputForm = Forms.Written<OutputRef>(
        t => MachineFormat.TryRead(t, out OutputRef output) ? (output, "") : (default, "an output, such as board/HDMI or card.1/DP"),
        v => MachineFormat.Write(v),
        () => Forms.Ref("output"),
        "an output"
    );

    internal static readonly Form<ImmutableArray<Change>> ChangesForm = Forms.List(
        Forms.Written<Change>(
            t => MachineFormat.TryRead(t, out var change, out var expected) ? (change, "") : (null, $"a change: expected {expected}"),
            v => MachineFormat.Write(v),
            () => Forms.Ref("change"),
            "a change"
        ),
        100,
        "a list of changes"
    );

    internal static readonly Form<Times> TimesForm = Forms.Written<Times>(
        t => TimesFormat.TryRead(t, out var times) ? (times, "") : (default, "how often it failed of how many starts, such as 2/5"),
        v => TimesFormat.Write(v),
        () => new JsonObject { ["type"] = "string", ["pattern"] = "^[0-9]{1,4}/[0-9]{1,4}$" },
        "`k/n`"
    );

    internal static readonly Form<DateTimeOffset> TimeForm = new(
        p =>
            DateTimeOffset.TryParse(p.Text(), CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal, out var at)
                ? at.ToUniversalTime()
                : throw p.Wrong($"\"{p.Text()}\" is not a time, such as 2026-03-01T09:30:00Z"),
        v => v.ToUniversalTime().ToString("yyyy-MM-dd'T'HH:mm:ss.fff'Z'", CultureInfo.InvariantCulture),
        () => new JsonObject { ["type"] = "string", ["format"] = "date-time" },
        "ISO 8601"
    );

    internal static readonly Form<DateOnly> DateForm = new(
        p =>
            DateOnly.TryParseExact(p.Text(), "yyyy-MM-dd", CultureInfo.InvariantCulture, DateTimeStyles.None, out var day)
                ? day
                : throw p.Wrong($"\"{p.Text()}\" is not a date, such as 2026-03-01"),
        v => v.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture),
        () => new JsonObject { ["type"] = "string", ["format"] = "date" },
        "ISO 8601"
    );

    internal static readonly Form<StallSignal> StallForm = new(
        ReadStall,
        WriteStall,
        StallSchema,
        "one of `power`, `cpu`, `memory`, `video`, `boot`, `none`, or a map of these to likelihoods from 0 to 1"
    );

    internal static StallSignal ReadStall(DataPart part)
    {
        if (part.IsScalar)
            return part.Choice<StallDomain>();
        var likelihoods = part.EnumMap<StallDomain, double>(v => v.Number(0, 1), complete: false);
        return Forms.Guarded(part, () => new StallSignal(Enum.GetValues<StallDomain>().Select(d => likelihoods.GetValueOrDefault(d))));
    }

    internal static JsonNode WriteStall(StallSignal stall) =>
        stall.IsPlain
            ? Dashed.Of(stall.Pointed)
            : new JsonObject(
                Enum.GetValues<StallDomain>().Select(d => KeyValuePair.Create(Dashed.Of(d), (JsonNode?)stall.Likelihoods[(int)d]))
            );

    internal static JsonObject StallSchema() =>
        new()
        {
            ["oneOf"] = new JsonArray(
                Forms.Choice<StallDomain>().Schema(),
                new JsonObject
                {
                    ["type"] = "object",
                    ["additionalProperties"] = false,
                    ["properties"] = new JsonObject(
                        Dashed.All<StallDomain>().Select(d => KeyValuePair.Create(d, (JsonNode?)Forms.Number(0, 1).Schema()))
                    ),
                }
            ),
        };

    /// <summary>Fields that every object of a type has.</summary>
    internal static Field<T, TValue> Needed<T, TValue>(string key, Form<TValue> form, Func<T, TValue> get, string about = "") =>
        new(key, form, get, about, null);

    internal static Field<T, TValue> May<T, TValue>(
        string key,
        Form<TValue> form,
        Func<T, TValue> get,
        TValue otherwise,
        string about = ""
    ) => new(key, form, get, about, () => otherwise);

    internal static Field<T, ImmutableArray<TValue>> MayList<T, TValue>(
        string key,
        Form<ImmutableArray<TValue>> form,
        Func<T, ImmutableArray<TValue>> get,
        string about = ""
    ) => new(key, form, get, about, () => []);

    internal static Field<T, TValue?> MayValue<T, TValue>(string key, Form<TValue> form, Func<T, TValue?> get, string about = "")
        where TValue : struct =>
        new(key, new Form<TValue?>(p => form.Read(p), v => form.Write(v!.Value), form.Schema, form.Words), get, about, () => null);
}
