using System.Collections.Concurrent;
using System.Collections.Immutable;
using System.Reflection;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using System.Text.Json.Serialization;
using Kelvet.Core.Faults;
using Kelvet.Core.Learning;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;
using Kelvet.Core.Tables;
using Kelvet.Data;

namespace Kelvet.Web.Hosting;

/// <summary>How this shop works: the atlas with what its jobs have taught, its order of work, its preferences.</summary>
/// <param name="Atlas">The atlas that jobs are read with.</param>
/// <param name="Learnt">What the shop's closed jobs have taught, mode by mode.</param>
/// <param name="School">The order of work.</param>
/// <param name="Preferences">Where practitioners differ.</param>
/// <param name="DrainSeconds">How long a machine is drained, seconds.</param>
/// <param name="Set">What the figures come from, to be kept with lines and closings.</param>
/// <param name="Unreadable">What is stored and could not be read, in words.</param>
public sealed record Rules(
    Atlas Atlas,
    IReadOnlyList<LearntOdds> Learnt,
    School School,
    Preferences Preferences,
    int DrainSeconds,
    RuleSet Set,
    ImmutableArray<string> Unreadable
)
{
    /// <summary>What closed jobs have taught of models of parts, the most seen first.</summary>
    public ImmutableArray<ModelRate> Models { get; init; } = [];

    /// <summary>What they have taught of the model of a part; null where it was seen too seldom.</summary>
    public ModelRate? ModelOf(Unit unit) =>
        UnitModel.Of(unit) is { } model && Models.FirstOrDefault(m => m.Model == model) is { Tally.Seen: >= ModelRate.LeastSeen } rate
            ? rate
            : null;

    /// <summary>How long a machine is drained.</summary>
    public TimeSpan Drain => TimeSpan.FromSeconds(DrainSeconds);

    /// <summary>What holds for every job, whatever was learnt: program, atlas, order of work, preferences, tables of signals.</summary>
    public string House { get; } = string.Join('|', HouseRules.Program, Set.Atlas, School.Id, Set.Preferences, TablesOf(Atlas));

    /// <summary>What the tables hold, whatever version they say that they are of.</summary>
    private static string TablesOf(Atlas atlas) =>
        Convert.ToHexStringLower(
            SHA256.HashData(Encoding.UTF8.GetBytes(string.Concat(atlas.Signals.Tables.Select(t => SignalTableFile.Write(t)))))
        );
}

/// <summary>The shop's rules, read when first asked for and again after they change.</summary>
public sealed class HouseRules(IServiceScopeFactory scopes) : IDisposable
{
    private static readonly JsonSerializerOptions Json = new() { Converters = { new JsonStringEnumConverter() } };

    /// <summary>
    /// Version of this program as its build gives it, and the hash of what its rules, atlas and tables were built from: the id that
    /// the compiler makes of the whole content of the core (a deterministic build gives the same one for the same content).
    /// </summary>
    public static string Program { get; } =
        $"{typeof(HouseRules).Assembly.GetCustomAttribute<AssemblyInformationalVersionAttribute>()?.InformationalVersion.Split('+')[0]} "
        + $"{typeof(Atlas).Assembly.ManifestModule.ModuleVersionId:N}"[..13];

    private readonly SemaphoreSlim _reading = new(1);
    private readonly ConcurrentDictionary<string, Rules> _earlier = new();
    private Rules? _current;
    private SignalLibrary? _signals;
    private ImmutableArray<string> _unreadableSignals = [];

    /// <summary>The rules that hold now.</summary>
    public async Task<Rules> CurrentAsync()
    {
        if (_current is { } known)
            return known;
        await _reading.WaitAsync();
        try
        {
            return _current ??= await ReadAsync();
        }
        finally
        {
            _reading.Release();
        }
    }

    /// <summary>
    /// The rules that an open job is read by: those that hold now, with the odds as they were learnt when its last line was
    /// written. So a job that is closed somewhere in the shop changes no figure of another.
    /// </summary>
    public async Task<Rules> ForAsync(StoredJob job)
    {
        var now = await CurrentAsync();
        var then = job.Bench.Entries.LastOrDefault(e => e.Rules.Length > 0)?.Rules;
        if (then is null || then == now.Set.Id)
            return now;
        if (_earlier.TryGetValue(then, out var known))
            return known;
        await using var scope = scopes.CreateAsyncScope();
        if (await scope.ServiceProvider.GetRequiredService<Shop>().OddsOfAsync(then) is not { } odds)
            return now;
        var atlas = now.Preferences.ApplyTo(Experience.ApplyTo(Atlas.Standard, odds)) with { Signals = now.Atlas.Signals };
        var same = atlas.Modes.SequenceEqual(now.Atlas.Modes) && SameModels(atlas.Models, now.Atlas.Models);
        var earlier = same ? now : now with { Atlas = atlas };
        return ReferenceEquals(now, _current) ? _earlier.GetOrAdd(then, earlier) : earlier;
    }

    private static bool SameModels(ImmutableDictionary<UnitModel, double> a, ImmutableDictionary<UnitModel, double> b) =>
        a.Count == b.Count && a.All(m => b.TryGetValue(m.Key, out var factor) && factor.Equals(m.Value));

    /// <inheritdoc/>
    public void Dispose() => _reading.Dispose();

    /// <summary>The shop's ways, tables or readers have changed: everything is read again.</summary>
    public void Changed()
    {
        (_current, _signals) = (null, null);
        _earlier.Clear();
    }

    /// <summary>A job was closed or reopened: what was learnt has changed, and nothing else.</summary>
    public void Learnt()
    {
        // Jobs whose last line was written until now go on being read as they were.
        if (_current is { } until)
            _earlier.TryAdd(until.Set.Id, until);
        _current = null;
    }

    private async Task<Rules> ReadAsync()
    {
        await using var scope = scopes.CreateAsyncScope();
        var shop = scope.ServiceProvider.GetRequiredService<Shop>();
        var row = await shop.RowAsync();
        var unreadable = ImmutableArray.CreateBuilder<string>();
        var learnt = Experience.Of(
            Atlas.Standard,
            await WholeAsync(shop.TallyAsync, "What closed jobs have taught", ImmutableDictionary<string, Tally>.Empty, unreadable)
        );
        var preferences = PreferencesOf(row, out var why);
        if (why is not null)
            unreadable.Add($"How the shop works cannot be read ({why}); the usual ways hold until they are kept again.");
        var school = School.Standard.FirstOrDefault(s => s.Id == row.School);
        if (school is null)
            unreadable.Add($"There is no order of work \"{row.School}\" any more; whatever tells most per minute is followed.");
        if (_signals is null)
        {
            var store = scope.ServiceProvider.GetRequiredService<SignalStore>();
            var (library, broken) = await WholeAsync(store.LibraryAsync, "The shop's own tables", (SignalLibrary.Standard, []), unreadable);
            (_signals, _unreadableSignals) = (
                library,
                [.. broken.Select(t => $"The shop's table \"{t.Id}\" cannot be read and is not used: {t.Why}")]
            );
        }

        unreadable.AddRange(_unreadableSignals);
        var (_, left) = await WholeAsync(shop.WholeShelfAsync, "The shelf", ([], []), unreadable);
        unreadable.AddRange(left.Select(u => $"A part of the shelf cannot be read and is left out: {u.Why}"));
        var models = ModelRates.Of(
            await WholeAsync(
                shop.ModelsAsync,
                "What closed jobs have taught of models",
                ImmutableDictionary<UnitModel, ModelTally>.Empty,
                unreadable
            )
        );
        var odds = learnt.ToDictionary(l => l.Mode.Id, l => l.Odds, StringComparer.Ordinal);
        // Factors of models stand beside the odds of modes: a rule set is one list of figures.
        foreach (var (model, factor) in ModelRates.Factors(models))
            odds[model.ToString()] = factor;
        return new Rules(
            preferences.ApplyTo(Experience.ApplyTo(Atlas.Standard, odds)) with
            {
                Signals = _signals,
            },
            learnt,
            school ?? School.Advisor,
            preferences,
            row.DrainSeconds,
            new RuleSet(Atlas.Standard.Version, Program, odds.ToImmutableSortedDictionary(StringComparer.Ordinal), row.PreferencesJson),
            unreadable.ToImmutable()
        )
        {
            Models = models,
        };
    }

    /// <summary>Something that the jobs can do without where it is damaged on the disk; that is said.</summary>
    private static async Task<T> WholeAsync<T>(Func<Task<T>> read, string what, T otherwise, ImmutableArray<string>.Builder unreadable)
    {
        try
        {
            return await read();
        }
        catch (Exception e) when (StoreTroubles.Of(e) == StoreTrouble.Damaged)
        {
            unreadable.Add($"{what} cannot be read: it is damaged on the disk. A copy can be put back.");
            return otherwise;
        }
    }

    /// <summary>The stored preferences; the usual ones when none are stored or they cannot be read.</summary>
    /// <param name="row">The shop.</param>
    /// <param name="why">Why they cannot be read; null when they can.</param>
    public static Preferences PreferencesOf(ShopRow row, out string? why)
    {
        why = null;
        try
        {
            return row.PreferencesJson.Length == 0
                ? Preferences.Usual
                : JsonSerializer.Deserialize<Preferences>(row.PreferencesJson, Json) ?? Preferences.Usual;
        }
        catch (JsonException e)
        {
            why = e.Message;
            return Preferences.Usual;
        }
    }

    /// <summary>Preferences as they are stored.</summary>
    public static string Write(Preferences preferences) => JsonSerializer.Serialize(preferences, Json);
}
