using Kelvet.Core.Listings;
using Kelvet.Data;

namespace Kelvet.Web.Hosting;

/// <summary>The shop's support list, read once after it was changed.</summary>
public sealed class SupportLists(IServiceScopeFactory scopes)
{
    private SupportList? _current;

    /// <summary>The list.</summary>
    public async Task<SupportList> CurrentAsync()
    {
        if (_current is { } known)
            return known;
        await using var scope = scopes.CreateAsyncScope();
        var csv = (await scope.ServiceProvider.GetRequiredService<Shop>().RowAsync()).SupportCsv;
        return _current = csv.Length == 0 ? SupportList.Empty : SupportList.Read(csv).List;
    }

    /// <summary>Keeps another list in its place.</summary>
    public async Task KeepAsync(SupportList list)
    {
        await using var scope = scopes.CreateAsyncScope();
        await scope.ServiceProvider.GetRequiredService<Shop>().ChangeAsync(row => row.SupportCsv = list.Lines.IsEmpty ? "" : list.Write());
        _current = list;
    }
}
