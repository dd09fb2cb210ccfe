using Kelvet.Core.Billing;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>What stands at the head of every paper: the shop, the job, the machine, and its owner where it is to them.</summary>
/// <param name="Page">The page.</param>
/// <param name="ToOwner">Whether it is to the owner: a seller's desk does not read who that is.</param>
/// <param name="Terms">The head as it stood when a paper was issued; null for the shop's of now.</param>
public sealed record PaperHead(JobPageModel Page, bool ToOwner = true, BillingTerms? Terms = null);
