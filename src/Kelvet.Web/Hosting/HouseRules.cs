using System.Text.Json;
using System.Text.Json.Serialization;
using Kelvet.Core.Faults;
using Kelvet.Core.Planning;
using Kelvet.Data;

namespace Kelvet.Web.Hosting;

/// <summary>How this shop works: the atlas with what its jobs have taught, its order of work, its preferences.</summary>
/// <param name="Atlas">The atlas that jobs are read with.</param>
/// <param name="Learnt">What the shop's closed jobs have taught, mode by mode.</param>
/// <param name="School">The order of work.</param>
/// <param name="Preferences">Where practitioners differ.</param>
/// <param name="DrainSeconds">How long a machine is drained, seconds.</param>
public sealed record Rules(Atlas Atlas, IReadOnlyList<LearntOdds> Learnt, School School, Preferences Preferences, int DrainSeconds);

/// <summary>The shop's rules, read when first asked for and again after they change.</summary>
public sealed class HouseRules(IServiceScopeFactory scopes) : IDisposable
{
    private static readonly JsonSerializerOptions Json = new() { Converters = { new JsonStringEnumConverter() } };

    private readonly SemaphoreSlim _reading = new(1);
    private Rules? _current;

    public async Task<Rules> CurrentAsync()
    {
        if (_current is { } known) return known;
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

    public void Dispose() => _reading.Dispose();

    /// <summary>Forgets what was read, because it has changed.</summary>
    public void Changed() => _current = null;

    private async Task<Rules> ReadAsync()
    {
        await using var scope = scopes.CreateAsyncScope();
        var row = await scope.ServiceProvider.GetRequiredService<Shop>().RowAsync();
        var proved = await scope.ServiceProvider.GetRequiredService<JobStore>().ProvedAsync(row.LearnFromUtc);
        var learnt = Experience.Of(Atlas.Standard, proved);
        var preferences = PreferencesOf(row);
        var school = School.Standard.FirstOrDefault(s => s.Id == row.School) ?? School.Advisor;
        var signals = await scope.ServiceProvider.GetRequiredService<SignalStore>().LibraryAsync();
        return new Rules(preferences.ApplyTo(Experience.ApplyTo(Atlas.Standard, learnt)) with { Signals = signals }, learnt, school, preferences, row.DrainSeconds);
    }

    /// <summary>The stored preferences; the usual ones when none are stored or they cannot be read.</summary>
    public static Preferences PreferencesOf(ShopRow row)
    {
        try
        {
            return row.PreferencesJson.Length == 0 ? Preferences.Usual : JsonSerializer.Deserialize<Preferences>(row.PreferencesJson, Json) ?? Preferences.Usual;
        }
        catch (JsonException)
        {
            return Preferences.Usual;
        }
    }

    public static string Write(Preferences preferences) => JsonSerializer.Serialize(preferences, Json);
}
