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

    /// <summary>Key of what was chosen in the list whose answers are drawn.</summary>
    public const string Select = "kelvet-typed-select";

    /// <summary>Key that a page sets among the items of a request when it refuses what was sent.</summary>
    public const string Refused = "kelvet-refused";

    /// <summary>What was sent under a field's name in the form around it; null where the form was not refused.</summary>
    public static StringValues? Into(TagHelperContext context, string? name) =>
        name is { Length: > 0 } && context.Items.TryGetValue(Key, out var form) && form is Form sent
            ? sent.Sent[name]
            : (StringValues?)null;

    /// <summary>
    /// What was typed into the next field of that name: where a form has a field in each of its rows, each gets its own; null where the
    /// form was not refused, or had fewer of them.
    /// </summary>
    public static string? Next(TagHelperContext context, string? name) =>
        Into(context, name) is { Count: > 0 } values && ((Form)context.Items[Key]).Count(name!) is var n && n < values.Count
            ? values[n] ?? ""
            : null;

    /// <summary>A form that was refused.</summary>
    /// <param name="Sent">What was sent.</param>
    public sealed record Form(IFormCollection Sent)
    {
        private readonly Dictionary<string, int> drawn = [];

        /// <summary>How many fields of a name were drawn before this one.</summary>
        public int Count(string name)
        {
            var before = drawn.GetValueOrDefault(name);
            drawn[name] = before + 1;
            return before;
        }
    }
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
            context.Items[Typed.Key] = new Typed.Form(http.Request.Form);
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
        var name = output.Attributes["name"]?.Value?.ToString();
        if (Not.Contains(type) || Typed.Into(context, name) is not { } sent)
            return;
        if (type is "checkbox" or "radio")
        {
            output.Attributes.RemoveAll("checked");
            if (sent.Contains(output.Attributes["value"]?.Value?.ToString() ?? "on"))
                output.Attributes.SetAttribute("checked", "checked");
        }
        else if (Typed.Next(context, name) is { } typed)
        {
            output.Attributes.SetAttribute("value", typed);
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
        if (Typed.Next(context, output.Attributes["name"]?.Value?.ToString()) is { } typed)
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
    public override void Init(TagHelperContext context)
    {
        if (Typed.Next(context, Name) is { } chosen)
            context.Items[Typed.Select] = chosen;
    }

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
        if (!context.Items.TryGetValue(Typed.Select, out var chosen))
            return;
        output.Attributes.RemoveAll("selected");
        if (chosen is string value && value == (output.Attributes["value"]?.Value?.ToString() ?? ""))
            output.Attributes.SetAttribute("selected", "selected");
    }
}
