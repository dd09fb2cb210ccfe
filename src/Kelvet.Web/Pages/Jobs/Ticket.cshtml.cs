using Kelvet.Data;
using Kelvet.Web.Hosting;
using Microsoft.AspNetCore.Mvc;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>The ticket that the customer signs and takes, and the label for the bag.</summary>
public sealed class TicketModel(JobStore store, DiagnosisCache readings, Visitor visitor, CustomerStore customers, Shop shop, Desk desk)
    : JobPageModel(store, readings, visitor)
{
    /// <summary>a4 or letter.</summary>
    [BindProperty(SupportsGet = true)]
    public string Paper { get; set; } = "a4";

    /// <summary>Whose machine it is; null where nobody is kept.</summary>
    public CustomerRow? Customer { get; private set; }

    /// <summary>The machine; null where it is not kept.</summary>
    public MachineRow? Machine { get; private set; }

    /// <summary>What was agreed and left.</summary>
    public DropOff DropOff { get; private set; } = DropOff.Nothing;

    /// <summary>The job's address, for the code on the label.</summary>
    public string Address => $"{Request.Scheme}://{Request.Host}/jobs/{Number}";

    /// <summary>Where the owner finds the state of the job; empty where the shop has not switched that on.</summary>
    public string State { get; private set; } = "";

    /// <summary>Shows both.</summary>
    public async Task OnGetAsync()
    {
        Paper = Paper == "letter" ? "letter" : "a4";
        DropOff = DropOff.Of(Job.Row);
        Customer = Job.Row.CustomerId is { } c ? await customers.GetAsync(c, HttpContext.RequestAborted) : null;
        if ((await shop.RowAsync()).StatePage)
        {
            // A job from before there were codes gets one where its ticket is printed.
            var code =
                Job.Row.StateCode.Length > 0
                    ? Job.Row.StateCode
                    : (await desk.StateCodeAsync(Number, HttpContext.RequestAborted)).Job.Row.StateCode;
            State = $"{Request.Scheme}://{Request.Host}/state/{code}";
        }

        Machine = Job.Row.MachineId is { } m ? await customers.MachineAsync(m, HttpContext.RequestAborted) : null;
    }
}
