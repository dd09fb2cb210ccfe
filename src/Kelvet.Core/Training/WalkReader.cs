using System.Collections.Immutable;
using System.Text.Json;
using System.Text.Json.Nodes;
using Kelvet.Core.Faults;
using Kelvet.Core.Jobs;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Planning;
using Kelvet.Core.Text;

namespace Kelvet.Core.Training;

/// <summary>Reads walk files. Every complaint names the line.</summary>
public static class WalkReader
{
    /// <summary>Reads a walk.</summary>
    /// <param name="yaml">Its text.</param>
    /// <param name="file">Its name, for messages.</param>
    /// <param name="open">Gives the text of the job file that it names.</param>
    /// <param name="atlas">The atlas.</param>
    /// <exception cref="DataFileException">It is wrong; the message names the line.</exception>
    public static Walk Read(string yaml, string file, Func<string, string> open, Atlas atlas)
    {
        var root = YamlPart.Root(yaml, file);
        root.Only("name", "today", "job", "intake", "truth", "looks", "must", "never");
        var job = JobOf(root, open);
        var truth = root.Get("truth").Items().Select(r => Rule(r, job)).ToImmutableArray();
        if (truth.IsEmpty || truth[^1] is not { When.IsEmpty: true, EveryTh: 1 })
            throw root.Get("truth").Wrong("the last rule must hold always: no \"when\", no \"every\"");
        return new Walk(
            root.Get("name").Text(),
            job,
            truth,
            root.Find("looks") is { } looks ? [.. looks.Items().Select(l => Look(l, job, atlas))] : [],
            [
                .. root.Find("must")?.Items().Select(d => Demand(d, never: false, atlas)) ?? [],
                .. root.Find("never")?.Items().Select(d => Demand(d, never: true, atlas)) ?? [],
            ],
            root.Get("today").Text() switch
            {
                "passes" => true,
                "fails" => false,
                _ => throw root.Get("today").Wrong("expected passes or fails"),
            }
        );
    }

    private static readonly JsonDocumentOptions Lenient = new() { CommentHandling = JsonCommentHandling.Skip, AllowTrailingCommas = true };

    /// <summary>The job file that a walk names, without its steps, with what the walk says of the intake put over it.</summary>
    private static BenchJob JobOf(DataPart root, Func<string, string> open)
    {
        var part = root.Get("job");
        try
        {
            var job = JsonNode.Parse(open(part.Text()), documentOptions: Lenient)!.AsObject();
            job.Remove("steps");
            if (root.Find("intake") is { } intake)
            {
                foreach (var (key, value) in JsonNode.Parse(intake.Text(20_000), documentOptions: Lenient)!.AsObject().ToArray())
                {
                    if (job[key] is JsonArray list && value is JsonArray more)
                    {
                        foreach (var item in more)
                            list.Add(item?.DeepClone());
                    }
                    else if (job[key] is JsonObject map && value is JsonObject over)
                    {
                        foreach (var (name, inner) in over)
                            map[name] = inner?.DeepClone();
                    }
                    else
                    {
                        job[key] = value?.DeepClone();
                    }
                }
            }

            return JobFormat.Read(job.ToJsonString());
        }
        catch (Exception e) when (e is JsonException or DataFileException or IOException)
        {
            throw part.Wrong(e.Message.TrimEnd('.'));
        }
    }

    private static WalkRule Rule(DataPart part, BenchJob job)
    {
        part.Only("when", "sees", "every", "lights", "signs");
        if (!ObservedFormat.TryRead(part.Get("sees").Text(), out var seen))
            throw part.Get("sees").Wrong("expected a stage, 0 to 8, or a range such as 4-5");
        return new WalkRule(
            Conditions(part, job),
            seen,
            part.Find("every")?.Whole(1, 20) ?? 1,
            part.Find("lights")?.Choice<StallDomain>(),
            part.Find("signs") is { } signs ? SignsOf(signs) : Signs.None
        );
    }

    private static Signs SignsOf(DataPart part)
    {
        var signs = Signs.None;
        foreach (var (key, value) in part.Fields())
        {
            var kind = SignKinds.All.FirstOrDefault(k => k.Key == key) ?? throw value.Wrong($"there is no sign \"{key}\"");
            try
            {
                signs = kind.Read(signs, value.Text());
            }
            catch (ArgumentException e)
            {
                throw value.Wrong(Forms.Plainly(e));
            }
        }

        return signs;
    }

    private static ImmutableArray<WalkCondition> Conditions(DataPart part, BenchJob job) =>
        part.Find("when") is { } when ? [.. when.Items().Select(c => Condition(c, job))] : [];

    /// <summary>A condition in words: "out stick-1", "stick-1 in memory.A2", "cleared", "reseated card", "done clean stick-1",
    /// "chosen profile-off", "start load", "shown board/HDMI"; each with "not" before it where it must not hold.</summary>
    private static WalkCondition Condition(DataPart part, BenchJob job)
    {
        var words = part.Text().Split(' ');
        var negated = words[0] == "not";
        if (negated)
            words = words[1..];
        Func<Situation, StartKind?, bool> holds = words switch
        {
            ["cleared"] => (s, _) => s.Board is { } board && s.CmosCleared(board.Id),
            ["out", var unit] when Unit(unit) is var id => (s, _) => !s.Now.Has(id),
            ["reseated", var unit] when Unit(unit) is var id => (s, _) => s.Refitted(id),
            ["done", var remedy, var unit] when Dashed.TryRead<Remedy>(remedy, out var r) && Unit(unit) is var id => (s, _) =>
                s.Mended(id, r),
            ["chosen", var option] when Dashed.TryRead<MachineOption>(option, out var o) => (s, _) => s.IsChosen(o),
            ["start", var kind] when Dashed.TryRead<StartKind>(kind, out var k) => (_, now) => (now ?? StartKind.Warm) == k,
            ["shown", var output] when MachineFormat.TryRead(output, out OutputRef o) => (s, _) => s.Now.Display.Equals(o),
            [var unit, "in", var place] when MachineFormat.TryRead(place, out Place p) && Unit(unit) is var id => (s, _) => s.Now[p] == id,
            ["filled", var place] when MachineFormat.TryRead(place, out Place p) => (s, _) => s.Now[p] is not null,
            _ => throw part.Wrong($"\"{part.Text()}\" is no condition"),
        };
        return new WalkCondition(negated ? (s, k) => !holds(s, k) : holds);

        UnitId Unit(string id) =>
            UnitId.IsValid(id) && job.Now.Parts.Has(new UnitId(id)) ? new UnitId(id) : throw part.Wrong($"there is no unit {id}");
    }

    private static WalkLook Look(DataPart part, BenchJob job, Atlas atlas)
    {
        part.Only("look", "unit", "when", "what");
        var id = part.Get("look").Text();
        return atlas.Check(id) is null
            ? throw part.Get("look").Wrong($"there is no look \"{id}\"")
            : new WalkLook(id, part.Find("unit")?.Text(), Conditions(part, job), part.TextOr("what", ""));
    }

    private static WalkDemand Demand(DataPart part, bool never, Atlas atlas)
    {
        part.Only("say", "by", "before", "act", "look", "start", "get", "out", "end");
        return new WalkDemand(
            part.Get("say").Text(200),
            Step(part, atlas),
            never ? null : part.Get("by").Whole(1, 40),
            part.Find("before") is { } before ? Step(before, atlas) : null
        );
    }

    private static WalkStep Step(DataPart part, Atlas atlas)
    {
        var look = part.Find("look");
        return look is not null && atlas.Check(look.Text()) is null
            ? throw look.Wrong($"there is no look \"{look.Text()}\"")
            : new WalkStep(
                part.Find("act")?.Text(),
                look?.Text(),
                part.Find("start")?.Choice<StartKind>(),
                part.Find("get")?.Choice<UnitKind>(),
                part.Find("out")?.Text(),
                part.Find("end")?.Choice<AdviceKind>()
            );
    }
}
