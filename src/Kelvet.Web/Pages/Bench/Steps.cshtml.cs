using Kelvet.Data;
using Kelvet.Web.Hosting;
using Kelvet.Web.Pages.Jobs;

namespace Kelvet.Web.Pages.Bench;

/// <summary>Every step that could be taken, those that cannot tell anything included, with the reason.</summary>
public sealed class StepsModel(JobStore store, DiagnosisCache readings, Visitor visitor) : JobPageModel(store, readings, visitor);
