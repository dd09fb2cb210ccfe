using System.Text.RegularExpressions;
using AngleSharp.Dom;
using Kelvet.Core.Words;
using Kelvet.Web.Shown;

namespace Kelvet.Web.Tests;

/// <summary>What stands on the pages and papers of the demo: one spelling for each thing, and no word of the model.</summary>
public class WordsTests
{
    private static readonly string[] s_shop =
    [
        "/",
        "/jobs/new",
        "/jobs/new?counter=true",
        "/shop",
        "/shelf",
        "/customers",
        "/catalogue",
        "/keys",
        "/find?q=a",
        "/copies",
        "/listen",
    ];

    private static IEnumerable<string> Pages() =>
        s_shop.Concat(
            new[] { 1001, 1002, 1003, 1007, 1008, 1009, 1010 }.SelectMany(job =>
                JobPlace.All.SelectMany(p => p.ToGoTo).Select(p => JobPlace.AddressOf(job, p)).Append($"/jobs/{job}/unit/board")
            )
        );

    [Fact]
    public async Task No_page_and_no_paper_says_a_word_of_the_model_outside_the_drawer_of_numbers_or_spells_a_term_otherwise()
    {
        await using var shop = await Workshop.OpenAsync(demo: true);
        var never = new Regex(
            $@"\b({string.Join('|', Terms.OfTheModel.Concat(Terms.Spellings.SelectMany(t => t.Never)).Select(Regex.Escape))})\b",
            RegexOptions.CultureInvariant
        );
        var found = new List<string>();
        var read = 0;
        foreach (var address in Pages())
        {
            var page = await shop.GetAsync(address);
            // What others wrote, and what a maker's table says, is theirs; the numbers have a drawer of their own.
            foreach (var theirs in page.QuerySelectorAll("script, style, .numbers, blockquote, option, textarea, .theirs").ToArray())
                theirs.Remove();
            foreach (var text in page.Body!.Descendants<IText>().Select(t => t.Data.Trim()).Where(t => t.Length > 0))
            {
                read++;
                if (never.Match(text) is { Success: true } word)
                    found.Add($"{address}: {word.Value}: {text[..Math.Min(90, text.Length)]}");
            }
        }

        Assert.True(read > 3000, $"{read} texts were read");
        Assert.Empty(found);
    }
}
