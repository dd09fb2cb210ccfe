using Kelvet.Data;
using Kelvet.Web.Hosting;

namespace Kelvet.Web.Pages.Jobs;

/// <summary>The whole log, corrections and struck lines included.</summary>
public sealed class LogModel(JobStore store, DiagnosisCache readings, Visitor visitor) : JobPageModel(store, readings, visitor);
