using Kelvet.Core.Hearing;
using Kelvet.Core.Observed;
using Kelvet.Core.Text;
using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages;

/// <summary>Beeps, lights and codes read for a job or for none, by form: the page's script does the same as one taps.</summary>
public sealed class ListenModel(JobStore store, DiagnosisCache readings) : FormPage
{
    /// <summary>The job whose machine the answers are for; null for any machine.</summary>
    [BindProperty(SupportsGet = true)]
    public int? Job { get; set; }

    /// <inheritdoc/>
    protected override Task ShowAsync() => Task.CompletedTask;

    public IReadOnlyList<Told> Answers { get; private set; } = [];

    public async Task<IActionResult> OnPostAsync(IFormFile? sound, string? beeps, string? lights, string? code)
    {
        var machine = await Listening.MachineAsync(Job, store, readings, HttpContext.RequestAborted);
        var answers = new List<Told>();
        try
        {
            if (sound is { Length: > 0 })
            {
                using var memory = new MemoryStream();
                await sound.CopyToAsync(memory, HttpContext.RequestAborted);
                answers.Add(Listening.TellHeard(Recording.OfWav(memory.ToArray()).Listen(), machine));
            }
        }
        catch (DataFileException e)
        {
            Problem = e.Message;
        }

        foreach (var (kind, text) in new[] { (SignalKind.Beeps, beeps), (SignalKind.Lights, lights), (SignalKind.Post, code) })
        {
            if (string.IsNullOrWhiteSpace(text))
                continue;
            if (SignalText.Typed(kind, text) is not { } signal)
                Problem = $"\"{text}\" cannot be read; expected {SignalText.Expected(kind)}.";
            else
                answers.Add(Listening.TellWritten(kind, text, signal, machine));
        }

        Answers = answers;
        return Page();
    }
}
