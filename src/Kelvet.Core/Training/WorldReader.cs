using System.Collections.Immutable;
using Kelvet.Core.Faults;
using Kelvet.Core.Machines;
using Kelvet.Core.Observed;
using Kelvet.Core.Text;

namespace Kelvet.Core.Training;

/// <summary>Reads world files. Every complaint names the line.</summary>
public static class WorldReader
{
    /// <summary>Reads a world file.</summary>
    /// <param name="yaml">Its text.</param>
    /// <param name="file">Its name, for messages.</param>
    /// <param name="atlas">The atlas that it differs from.</param>
    /// <exception cref="DataFileException">It is not one; the message names the line.</exception>
    public static WorldSetting Read(string yaml, string file, Atlas atlas)
    {
        // Long: one field after another.
        var root = YamlPart.Root(yaml, file);
        root.Only(
            "name",
            "without",
            "without-cures",
            "only",
            "patch",
            "faults",
            "same-each-time",
            "now-and-then",
            "any-rate",
            "rate",
            "acts",
            "only-at-home",
            "on-no-list",
            "relapses",
            "complaint",
            "circumstances",
            "answers",
            "technician",
            "spares",
            "bad-spares",
            "lights-true",
            "beeps",
            "signs",
            "slips",
            "hands",
            "small",
            "off"
        );
        double Share(string field, double otherwise) => root.Find(field)?.Number(0, 1) ?? otherwise;
        var cures = root.Find("without-cures")?.Items().Select(i => i.Choice<Cure>()).ToArray() ?? [];
        ImmutableArray<string> without =
        [
            .. Modes(root.Find("without"), atlas),
            .. atlas
                .Modes.Where(m => cures.Contains(m.Cure) && !m.Id.StartsWith(FaultMode.Unlisted, StringComparison.Ordinal))
                .Select(m => m.Id),
        ];
        return new WorldSetting(root.Get("name").Text())
        {
            Without = without,
            Only = root.Find("only") is { } only ? Modes(only, atlas) : without,
            Patched = root.Find("patch") is { } patch ? PatchedBy(patch, atlas) : ImmutableDictionary<string, FaultMode>.Empty,
            Number = root.Find("faults") is { } number ? NumberOf(number) : [],
            Behaviour =
                root.Find("same-each-time") is null && root.Find("now-and-then") is null
                    ? null
                    : new Behaviour(
                        Share("same-each-time", atlas.Behaviour.SameEachTime),
                        Share("now-and-then", atlas.Behaviour.NowAndThen)
                    ),
            Rate =
                root.Find("rate") is { } rate ? RateOf(rate)
                : root.FlagOr("any-rate", false) ? AnyRate
                : null,
            EveryRate = root.Find("rate") is not null,
            Acts =
                root.Find("acts")?.EnumMap<StartKind, double>(v => v.Number(0, 1), complete: false)
                ?? ImmutableDictionary<StartKind, double>.Empty,
            OnlyAtHome = Share("only-at-home", 0),
            OnNoList = Share("on-no-list", 0),
            Relapses = Share("relapses", 0),
            Complaint = root.Find("complaint") is { } complaint ? ComplaintOf(complaint) : ComplaintSetting.NoPicture,
            Circumstances = root.Find("circumstances") is { } told ? [.. told.Items().Select(i => Context(i, atlas))] : [],
            Answers = root.Find("answers") is { } answers ? AnswersOf(answers) : new AnswerSetting(0, 0),
            Technician = root.Find("technician") is { } technician ? TechnicianOf(technician) : TechnicianSetting.Good,
            Spares =
                root.Find("spares") is { } spares ? SparesOf(spares)
                : root.Find("bad-spares") is { } bad ? SpareSetting.Usual with { Bad = bad.Number(0, 1) }
                : SpareSetting.Usual,
            LightsTrue = Share("lights-true", 0.85),
            Beeps = Share("beeps", 0),
            Signs = root.FlagOr("signs", false),
            Slips = root.Find("slips")?.Number(0.0001, 0.5),
            Hands = root.Find("hands")?.Number(0, 20) ?? 1,
            Small = root.Find("small") is { } small ? [.. small.Items().Select(i => i.Choice<UnitKind>())] : [],
            Off = root.Find("off")?.Number(1, 10) ?? 1,
        };
    }

    /// <summary>Any rate at which a fault may act.</summary>
    private static readonly (double, double) AnyRate = (0.08, 0.92);

    private static ImmutableArray<string> Modes(DataPart? list, Atlas atlas) =>
        list is null ? [] : [.. list.Items().Select(i => Mode(i, i.Text(), atlas).Id)];

    private static FaultMode Mode(DataPart part, string id, Atlas atlas) =>
        atlas.Modes.FirstOrDefault(m => m.Id == id) ?? throw part.Wrong($"there is no mode \"{id}\"");

    private static string Context(DataPart part, Atlas atlas) =>
        atlas.Contexts.Any(c => c.Id == part.Text()) ? part.Text() : throw part.Wrong($"there is no context \"{part.Text()}\"");

    private static ImmutableDictionary<string, FaultMode> PatchedBy(DataPart part, Atlas atlas) =>
        part.Fields()
            .ToImmutableDictionary(f => f.Key, f => AtlasReader.Patched(Mode(f.Value, f.Key, atlas), f.Value), StringComparer.Ordinal);

    private static ImmutableArray<double> NumberOf(DataPart part)
    {
        double[] chances = [.. part.Items().Select(i => i.Number(0, 1))];
        if (chances.Length != 3)
            throw part.Wrong("expected three chances: of one fault, two and three");
        return Math.Abs(chances.Sum() - 1) < 1e-6 ? [.. chances] : throw part.Wrong($"the chances add up to {chances.Sum():0.###}, not 1");
    }

    private static (double, double) RateOf(DataPart part)
    {
        double[] ends = [.. part.Items().Select(i => i.Number(0.01, 1))];
        return ends is [var least, var most] && least <= most ? (least, most) : throw part.Wrong("expected the least rate and the most");
    }

    private static ComplaintSetting ComplaintOf(DataPart part)
    {
        part.Only("when", "goal", "then", "minutes", "shows");
        var goal = part.Find("goal")?.Choice<BootStage>() ?? BootStage.Picture;
        return goal < BootStage.Picture
            ? throw part.Get("goal").Wrong("a machine is to show a picture, to load its system, or to be stable")
            : new ComplaintSetting(
                part.Find("when")?.Choice<StartKind>(),
                goal,
                part.Find("then")?.Choice<Ending>(),
                part.Find("minutes")?.Number(0, 1440)
            )
            {
                Shows = part.Find("shows")?.Choice<Symptom>(),
            };
    }

    private static AnswerSetting AnswersOf(DataPart part)
    {
        part.Only("missing", "false");
        return new AnswerSetting(part.Find("missing")?.Number(0, 1) ?? 0, part.Find("false")?.Number(0, 1) ?? 0);
    }

    private static TechnicianSetting TechnicianOf(DataPart part)
    {
        part.Only("misreads-stage", "misreads-lights", "misreads-beeps", "obeys", "forgets-plug");
        double Chance(string field, double otherwise) => part.Find(field)?.Number(0, 1) ?? otherwise;
        return new TechnicianSetting(
            Chance("misreads-stage", 0),
            Chance("misreads-lights", 0),
            Chance("misreads-beeps", 0),
            Chance("obeys", 1),
            Chance("forgets-plug", 0)
        );
    }

    private static SpareSetting SparesOf(DataPart part)
    {
        part.Only("bad", "few", "die", "unlike");
        double Chance(string field) => part.Find(field)?.Number(0, 1) ?? 0;
        return new SpareSetting(part.Find("bad")?.Number(0, 1), Chance("few"), Chance("die"), Chance("unlike"));
    }
}
