using Kelvet.Core.Jobs;
using Kelvet.Core.Text;
using Kelvet.Data;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Kelvet.Web.Hosting;

/// <summary>
/// A page with forms. What cannot be read is refused before a handler sees it, with the field named and what was typed
/// kept; nothing unreadable is ever taken for a value.
/// </summary>
public abstract class FormPage : PageModel
{
    /// <summary>What is wrong with what was sent; null when nothing is.</summary>
    public string? Problem { get; set; }

    /// <summary>Field of the form that it is about; empty when it is about none.</summary>
    public string ProblemField { get; protected set; } = "";

    /// <summary>Reads what the page shows.</summary>
    protected abstract Task ShowAsync();

    /// <summary>Shows the page with what is wrong.</summary>
    public async Task<IActionResult> RefusedAsync(string why, string field = "")
    {
        HttpContext.Items[Typed.Refused] = true;
        await ShowAsync();
        (Problem, ProblemField) = (why, field);
        return Page();
    }
}

/// <summary>Refuses forms with a field that cannot be read.</summary>
public sealed class ReadableForms : IAsyncPageFilter
{
    /// <inheritdoc/>
    public Task OnPageHandlerSelectionAsync(PageHandlerSelectedContext context) => Task.CompletedTask;

    /// <inheritdoc/>
    public async Task OnPageHandlerExecutionAsync(PageHandlerExecutingContext context, PageHandlerExecutionDelegate next)
    {
        if (
            context.HandlerMethod is null
            && !HttpMethods.IsGet(context.HttpContext.Request.Method)
            && !HttpMethods.IsHead(context.HttpContext.Request.Method)
        )
        {
            context.Result = new StatusCodeResult(StatusCodes.Status405MethodNotAllowed);
            return;
        }

        // A page that is a job's finds its job first, whatever was sent.
        if (context.HandlerInstance is IFindsItself found && await found.FindAsync(context.HttpContext.RequestAborted) is { } none)
        {
            context.Result = none;
            return;
        }

        if (
            !HttpMethods.IsGet(context.HttpContext.Request.Method)
            && context.HandlerInstance is FormPage page and not ITellsFields
            && context.ModelState.FirstOrDefault(s => s.Value!.Errors.Count > 0) is { Value: not null } wrong
        )
        {
            // What a value's own constructor refuses is told in its words.
            if (Refused(wrong.Value!.Errors[0].Exception) is { } own)
            {
                context.Result = await page.RefusedAsync($"{Named(wrong.Key)}: {own}. Nothing was recorded.", wrong.Key);
                return;
            }

            var typed = wrong.Value!.AttemptedValue ?? "";
            context.Result = await page.RefusedAsync(
                $"{Named(wrong.Key)}: \"{(typed.Length > 60 ? typed[..60] + "…" : typed)}\" cannot be read here. Nothing was recorded.",
                wrong.Key
            );
            return;
        }

        var done = await next();
        if (done is not { Exception: { } failed, ExceptionHandled: false } || context.HandlerInstance is not FormPage form)
            return;
        // What the core refuses, and what the store cannot do, is told on the form, which keeps what was typed.
        var why =
            failed is EntryRefusedException ? failed.Message
            : StoreTroubles.Of(failed) is { } trouble ? StoreTroubles.Words(trouble)
            : null;
        if (why is null)
            return;
        done.Result = await form.RefusedAsync(why);
        done.ExceptionHandled = true;
    }

    private static string? Refused(Exception? e) =>
        e is ArgumentException a ? Forms.Plainly(a)
        : e?.InnerException is { } inner ? Refused(inner)
        : null;

    private static string Named(string key)
    {
        var last = key[(key.LastIndexOf('.') + 1)..];
        return last.Length == 0 ? "The form" : char.ToUpperInvariant(last[0]) + last[1..];
    }
}

/// <summary>A page that has to find what it is about before anything else.</summary>
public interface IFindsItself
{
    /// <summary>Finds it.</summary>
    /// <returns>What to answer when there is none; null when there is.</returns>
    Task<IActionResult?> FindAsync(CancellationToken cancel);
}

/// <summary>A page that tells of each unreadable field beside it.</summary>
public interface ITellsFields;
