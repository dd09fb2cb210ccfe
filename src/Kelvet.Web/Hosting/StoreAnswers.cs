using Kelvet.Data;
using Microsoft.AspNetCore.Diagnostics;

namespace Kelvet.Web.Hosting;

/// <summary>
/// What the store cannot do is told in words on every page, never as a failure of the program; and nothing is read or written once
/// the data folder under the program is another.
/// </summary>
public sealed class StoreAnswers(RequestDelegate next, DataFolder folder, ILogger<StoreAnswers> log)
{
    /// <summary>Key of the reason that a page gives for what it answers, among the items of a request.</summary>
    public const string Why = "kelvet-why";

    private readonly string _database = Path.Combine(folder.Path, Database.FileName);

    /// <summary>Carries a request on.</summary>
    public async Task InvokeAsync(HttpContext context)
    {
        // The page that tells of it comes by here again, and asks the store nothing.
        if (context.Features.Get<IStatusCodeReExecuteFeature>() is not null || context.Features.Get<IExceptionHandlerFeature>() is not null)
        {
            await next(context);
            return;
        }

        if (FolderWatch.IsGone(_database))
        {
            Answer(context, StoreTrouble.Gone);
            return;
        }

        try
        {
            await next(context);
        }
        catch (Exception e) when (!context.Response.HasStarted && StoreTroubles.Of(e) is { } trouble)
        {
            Answer(context, trouble);
        }
    }

    private void Answer(HttpContext context, StoreTrouble trouble)
    {
        log.LogWarning("{Method} answered with 503: the store is {Trouble}", context.Request.Method, trouble);
        context.Response.Clear();
        context.Response.StatusCode = StatusCodes.Status503ServiceUnavailable;
        context.Items[Why] = StoreTroubles.Words(trouble);
    }
}
