using Kelvet.Data;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;
using Microsoft.AspNetCore.Razor.TagHelpers;
using Microsoft.EntityFrameworkCore;

namespace Kelvet.Web.Hosting;

/// <summary>
/// Gives every form that writes an id of its own. The bench's forms have one already: the id of the line that they record.
/// </summary>
[HtmlTargetElement("form", Attributes = "[method=post]")]
public sealed class OnceTagHelper : TagHelper
{
    /// <summary>Name of the field.</summary>
    public const string Field = "sent";

    /// <inheritdoc/>
    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        if (!output.Attributes.ContainsName("data-live"))
            output.PreContent.AppendHtml($"<input type=\"hidden\" name=\"{Field}\" value=\"{Guid.NewGuid()}\">");
    }
}

/// <summary>
/// Carries a form out once: its id is kept in the transaction in which the first of what it does is kept. The same form again, from
/// a second click or because the answer was lost, leads where the first one led and does nothing.
/// </summary>
public sealed class OnceForms(KelvetDb db) : IAsyncPageFilter
{
    /// <summary>The forms of the bench name the line that they record.</summary>
    private const string Line = "stepId";

    /// <inheritdoc/>
    public Task OnPageHandlerSelectionAsync(PageHandlerSelectedContext context) => Task.CompletedTask;

    /// <inheritdoc/>
    public async Task OnPageHandlerExecutionAsync(PageHandlerExecutingContext context, PageHandlerExecutionDelegate next)
    {
        var request = context.HttpContext.Request;
        if (
            !HttpMethods.IsPost(request.Method)
            || !request.HasFormContentType
            || request.Form.ContainsKey(Line)
            || !Guid.TryParse(request.Form[OnceTagHelper.Field], out var id)
        )
        {
            await next();
            return;
        }

        if (await db.Sents.AsNoTracking().FirstOrDefaultAsync(s => s.Id == id) is { } before)
        {
            context.Result = Again(request, before);
            return;
        }

        db.Sending = id;
        var done = await next();
        if (done.Exception is SentTwiceException)
        {
            db.ChangeTracker.Clear();
            done.ExceptionHandled = true;
            done.Result = Again(request, await db.Sents.AsNoTracking().FirstOrDefaultAsync(s => s.Id == id));
        }
        else if (db.IsSendingKept && done.Result is RedirectResult { Url: { } to })
        {
            db.Sending = null;
            await db.DoneAsync(c => db.Sents.Where(s => s.Id == id).ExecuteUpdateAsync(s => s.SetProperty(r => r.Address, to), c));
        }
    }

    private static RedirectResult Again(HttpRequest request, SentRow? before) =>
        new(
            before is { Address.Length: > 0 } ? before.Address
            : before?.Job is { } job ? $"/jobs/{job}"
            : request.Path
        );
}
