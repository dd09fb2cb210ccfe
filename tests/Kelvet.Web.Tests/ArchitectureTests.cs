using ArchUnitNET.Domain;
using ArchUnitNET.Loader;
using ArchUnitNET.xUnit;
using static ArchUnitNET.Fluent.ArchRuleDefinition;

namespace Kelvet.Web.Tests;

/// <summary>The arrows between the projects point one way: Web to Data and Devices to Core, and Core to nothing.</summary>
public class ArchitectureTests
{
    private static readonly System.Reflection.Assembly Core = typeof(Core.Faults.Atlas).Assembly;
    private static readonly System.Reflection.Assembly Data = typeof(Data.KelvetDb).Assembly;
    private static readonly System.Reflection.Assembly Devices = typeof(Devices.CodeReader).Assembly;
    private static readonly System.Reflection.Assembly Web = typeof(Hosting.Server).Assembly;
    private static readonly Architecture All = new ArchLoader().LoadAssemblies(Core, Data, Devices, Web).Build();

    [Fact]
    public void Core_depends_on_neither_data_nor_web() =>
        Types().That().ResideInAssembly(Core).Should().NotDependOnAny(Types().That().ResideInAssembly(Data).Or().ResideInAssembly(Devices).Or().ResideInAssembly(Web)).Check(All);

    [Fact]
    public void Data_does_not_depend_on_web() =>
        Types().That().ResideInAssembly(Data).Should().NotDependOnAny(Types().That().ResideInAssembly(Web)).Check(All);

    [Fact]
    public void Devices_depend_on_neither_data_nor_web() =>
        Types().That().ResideInAssembly(Devices).Should().NotDependOnAny(Types().That().ResideInAssembly(Data).Or().ResideInAssembly(Web)).Check(All);

    [Fact]
    public void Core_references_no_database_interface_or_web_assembly()
    {
        var referenced = Core.GetReferencedAssemblies().Select(a => a.Name!).ToArray();
        Assert.DoesNotContain(referenced, n => n.StartsWith("Microsoft.EntityFrameworkCore", StringComparison.Ordinal)
            || n.StartsWith("Microsoft.AspNetCore", StringComparison.Ordinal) || n.StartsWith("Microsoft.Data", StringComparison.Ordinal) || n == "System.Net.Http");
    }

    [Fact]
    public void Core_reads_neither_clock_nor_chance_nor_files()
    {
        // Looked for in the assembly's member references, so that a call anywhere is found.
        using var module = Mono.Cecil.ModuleDefinition.ReadModule(Core.Location);
        var calls = module.GetMemberReferences().Select(m => $"{m.DeclaringType.FullName}.{m.Name}").ToArray();
        Assert.DoesNotContain(calls, c => c is "System.DateTime.get_Now" or "System.DateTime.get_UtcNow" or "System.DateTimeOffset.get_UtcNow" or "System.DateTimeOffset.get_Now"
            or "System.Guid.NewGuid" or "System.Random.get_Shared" || c.StartsWith("System.IO.File.", StringComparison.Ordinal) || c.StartsWith("System.Console.", StringComparison.Ordinal));
        Assert.Contains(calls, c => c.StartsWith("System.Math.", StringComparison.Ordinal));
    }
}
