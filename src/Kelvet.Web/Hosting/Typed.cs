using Microsoft.AspNetCore.Mvc.Rendering;
using Microsoft.AspNetCore.Mvc.ViewFeatures;
using Microsoft.AspNetCore.Razor.TagHelpers;
using Microsoft.Extensions.Primitives;

namespace Kelvet.Web.Hosting;

/// <summary>What was typed into a form that was refused, for the fields that are drawn again.</summary>
internal static class Typed
{
    /// <summary>Key of the form that was refused, among what tag helpers hand to those inside them.</summary>
    public const string Key = "kelvet-typed";

    /// <summary>Key of the field whose options are drawn.</summary>
    public const string Select = "kelvet-typed-select";

    /// <summary>Key that a page sets among the items of a request when it refuses what was sent.</summary>
    public const string Refused = "kelvet-refused";

    /// <summary>What was typed into a field of the form around it; null where the form was not refused.</summary>
    public static StringValues? Into(TagHelperContext context, string? name) =>
        name is { Length: > 0 } && context.Items.TryGetValue(Key, out var form) && form is IFormCollection sent
            ? sent[name]
            : (StringValues?)null;
}

/// <summary>A form that was refused is drawn with what was typed.</summary>
[HtmlTargetElement("form", Attributes = "[method=post]")]
public sealed class TypedFormTagHelper : TagHelper
{
    /// <summary>Before everything inside it.</summary>
    public override int Order => -2000;

    /// <summary>The handler that the form is sent to.</summary>
    [HtmlAttributeName("asp-page-handler")]
    public string? PageHandler { get; set; }

    /// <summary>The page.</summary>
    [ViewContext, HtmlAttributeNotBound]
    public ViewContext ViewContext { get; set; } = null!;

    /// <inheritdoc/>
    public override void Init(TagHelperContext context)
    {
        var http = ViewContext.HttpContext;
        if (
            http.Items.ContainsKey(Typed.Refused)
            && http.Request.HasFormContentType
            && string.Equals(http.Request.Query["handler"].ToString(), PageHandler ?? "", StringComparison.OrdinalIgnoreCase)
        )
            context.Items[Typed.Key] = http.Request.Form;
    }
}

/// <summary>A field of a form that was refused shows what was typed.</summary>
[HtmlTargetElement("input", Attributes = "name", TagStructure = TagStructure.WithoutEndTag)]
public sealed class TypedInputTagHelper : TagHelper
{
    private static readonly string[] Not = ["hidden", "file", "password", "submit", "button"];

    /// <summary>After what gives the field its value.</summary>
    public override int Order => 2000;

    /// <inheritdoc/>
    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        var type = output.Attributes["type"]?.Value?.ToString() ?? "text";
        if (Not.Contains(type) || Typed.Into(context, output.Attributes["name"]?.Value?.ToString()) is not { } typed)
            return;
        if (type is "checkbox" or "radio")
        {
            output.Attributes.RemoveAll("checked");
            if (typed.Contains(output.Attributes["value"]?.Value?.ToString() ?? "on"))
                output.Attributes.SetAttribute("checked", "checked");
        }
        else if (typed.Count == 1)
        {
            output.Attributes.SetAttribute("value", typed.ToString());
        }
    }
}

/// <summary>A text of a form that was refused shows what was typed.</summary>
[HtmlTargetElement("textarea", Attributes = "name")]
public sealed class TypedTextTagHelper : TagHelper
{
    /// <inheritdoc/>
    public override int Order => 2000;

    /// <inheritdoc/>
    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        if (Typed.Into(context, output.Attributes["name"]?.Value?.ToString()) is { Count: 1 } typed)
            output.Content.SetContent("\n" + typed);
    }
}

/// <summary>A list of a form that was refused shows what was chosen.</summary>
[HtmlTargetElement("select", Attributes = "name")]
public sealed class TypedSelectTagHelper : TagHelper
{
    /// <inheritdoc/>
    public override int Order => -2000;

    /// <summary>Name of the field.</summary>
    public string Name { get; set; } = "";

    /// <inheritdoc/>
    public override void Init(TagHelperContext context) => context.Items[Typed.Select] = Name;

    /// <inheritdoc/>
    public override void Process(TagHelperContext context, TagHelperOutput output) => output.Attributes.SetAttribute("name", Name);
}

/// <summary>An answer of a list of a form that was refused.</summary>
[HtmlTargetElement("option", Attributes = "value")]
public sealed class TypedOptionTagHelper : TagHelper
{
    /// <inheritdoc/>
    public override int Order => 2000;

    /// <inheritdoc/>
    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        if (Typed.Into(context, context.Items.TryGetValue(Typed.Select, out var name) ? name as string : null) is not { Count: > 0 } typed)
            return;
        output.Attributes.RemoveAll("selected");
        if (typed.Contains(output.Attributes["value"]?.Value?.ToString() ?? ""))
            output.Attributes.SetAttribute("selected", "selected");
    }
}
