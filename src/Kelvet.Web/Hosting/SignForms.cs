using System.Globalization;
using Kelvet.Core.Observed;
using Microsoft.AspNetCore.Mvc.ModelBinding;
using Microsoft.AspNetCore.Mvc.Rendering;
using Microsoft.AspNetCore.Razor.TagHelpers;

namespace Kelvet.Web.Hosting;

/// <summary>Reads signs from a form: a field for each row of <see cref="SignKinds"/>.</summary>
public sealed class SignsBinder : IModelBinder
{
    /// <inheritdoc/>
    public Task BindModelAsync(ModelBindingContext bindingContext)
    {
        var signs = Signs.None;
        var any = false;
        foreach (var kind in SignKinds.All)
        {
            var name = $"{bindingContext.ModelName}.{kind.Field}";
            if (bindingContext.ValueProvider.GetValue(name).FirstValue is not { } typed)
                continue;
            any = true;
            bindingContext.ModelState.SetModelValue(name, typed, typed);
            try
            {
                signs = kind.Read(signs, typed);
            }
            catch (ArgumentException e)
            {
                bindingContext.ModelState.TryAddModelException(name, e);
            }
        }

        // What was not on the form at all is told from what was left empty.
        bindingContext.Result = ModelBindingResult.Success(any ? signs : null);
        return Task.CompletedTask;
    }
}

/// <summary>Gives signs their binder.</summary>
public sealed class SignsBinders : IModelBinderProvider
{
    /// <inheritdoc/>
    public IModelBinder? GetBinder(ModelBinderProviderContext context) =>
        context.Metadata.ModelType == typeof(Signs) ? new SignsBinder() : null;
}

/// <summary>The field of a sign, as its row has it: what was noted or typed stands in it.</summary>
[HtmlTargetElement("sign-field", TagStructure = TagStructure.WithoutEndTag)]
public sealed class SignFieldTagHelper : TagHelper
{
    /// <summary>The row.</summary>
    public SignKind Kind { get; set; } = null!;

    /// <summary>What stands before the row's name in the name of the field: "signs.".</summary>
    public string Before { get; set; } = "signs.";

    /// <summary>What was noted.</summary>
    public Signs Signs { get; set; } = Signs.None;

    /// <inheritdoc/>
    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        var name = Before + Kind.Field;
        var typed = Typed.Next(context, name) ?? Kind.Typed(Signs);
        output.TagMode = TagMode.StartTagAndEndTag;
        output.Attributes.SetAttribute("name", name);
        if (Kind.Answers.IsEmpty)
        {
            Input(output, typed);
            return;
        }

        output.TagName = "select";
        // A row whose usual answer is an answer needs none for "not noted".
        if (Kind.NotNoted.Length > 0)
            Option("", Kind.NotNoted);
        foreach (var answer in Kind.Answers)
            Option(answer.Value, answer.Words);

        void Option(string value, string words)
        {
            var option = new TagBuilder("option");
            option.Attributes["value"] = value;
            if (value.Length > 0 && value == typed)
                option.Attributes["selected"] = "selected";
            option.InnerHtml.Append(words);
            output.Content.AppendHtml(option);
        }
    }

    private void Input(TagHelperOutput output, string typed)
    {
        output.TagName = "input";
        output.TagMode = TagMode.StartTagOnly;
        if (typed.Length > 0)
            output.Attributes.SetAttribute("value", typed);
        if (Kind.Range is { } range)
        {
            output.Attributes.SetAttribute("type", "number");
            output.Attributes.SetAttribute("min", Number(range.Least));
            output.Attributes.SetAttribute("max", Number(range.Most));
            output.Attributes.SetAttribute("step", Number(range.Step));
            return;
        }

        output.Attributes.SetAttribute("maxlength", Kind.Longest);
        output.Attributes.SetAttribute("autocomplete", "off");
        if (Kind.Hint.Length > 0)
            output.Attributes.SetAttribute("placeholder", Kind.Hint);
    }

    private static string Number(double value) => value.ToString("0.##", CultureInfo.InvariantCulture);
}
