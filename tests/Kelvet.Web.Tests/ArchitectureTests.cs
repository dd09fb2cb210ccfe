using ArchUnitNET.Domain;
using ArchUnitNET.Loader;
using ArchUnitNET.xUnit;
using static ArchUnitNET.Fluent.ArchRuleDefinition;

namespace Kelvet.Web.Tests;

/// <summary>The arrows between the projects point one way: Web to Data and Devices to Core, and Core to nothing.</summary>
public partial class ArchitectureTests
{
    private static readonly System.Reflection.Assembly Core = typeof(Core.Faults.Atlas).Assembly;
    private static readonly System.Reflection.Assembly Data = typeof(Data.KelvetDb).Assembly;
    private static readonly System.Reflection.Assembly Devices = typeof(Devices.CodeReader).Assembly;
    private static readonly System.Reflection.Assembly Web = typeof(Starting.Server).Assembly;
    private static readonly Architecture All = new ArchLoader().LoadAssemblies(Core, Data, Devices, Web).Build();

    [Fact]
    public void Core_depends_on_neither_data_nor_web() =>
        Types()
            .That()
            .ResideInAssembly(Core)
            .Should()
            .NotDependOnAny(Types().That().ResideInAssembly(Data).Or().ResideInAssembly(Devices).Or().ResideInAssembly(Web))
            .Check(All);

    /// <summary>From the ground up: each floor knows only what is below it. Words stands beside them and is known by none.</summary>
    private static readonly string[] Floors =
    [
        "Text",
        "Supplies",
        "Machines",
        "Listings",
        "Observed",
        "Hearing",
        "Tables",
        "Faults",
        "Jobs",
        "Evidence",
        "Diagnosis",
        "Proving",
        "Planning",
        "Worksheets",
        "Learning",
        "Training",
        "Words",
        "Records",
        "Billing",
        "Stock",
    ];

    [Fact]
    public void The_floors_of_the_core_know_only_what_is_below_them()
    {
        var known = Core.GetTypes()
            .Select(t => t.Namespace)
            .OfType<string>()
            .Where(n => n.StartsWith("Kelvet.Core.", StringComparison.Ordinal))
            .Select(n => n["Kelvet.Core.".Length..])
            .Distinct()
            .Order();
        Assert.Equal(Floors.Order(), known);
        for (var floor = 0; floor < Floors.Length - 1; floor++)
        {
            var above = Floors
                .Skip(floor + 1)
                .Aggregate(
                    Types().That().ResideInNamespace("Kelvet.Core.Nowhere"),
                    (types, name) => types.Or().ResideInNamespace($"Kelvet.Core.{name}")
                );
            Types().That().ResideInNamespace($"Kelvet.Core.{Floors[floor]}").Should().NotDependOnAny(above).Check(All);
        }

        ArchUnitNET.Fluent.Slices.SliceRuleDefinition.Slices().Matching("Kelvet.Core.(*)").Should().BeFreeOfCycles().Check(All);
    }

    /// <summary>The same for the web application: words, drawings, what is shown, what serves the pages, demo, pages, start.</summary>
    private static readonly string[] WebFloors = ["Wording", "Drawing", "Shown", "Hosting", "Demo", "Pages", "Starting"];

    [Fact]
    public void The_floors_of_the_web_application_know_only_what_is_below_them()
    {
        const string web = "Kelvet.Web.";
        static bool IsIn(string? name, string floor) =>
            name == web + floor || name?.StartsWith($"{web}{floor}.", StringComparison.Ordinal) == true;
        var known = Web.GetTypes().Select(t => t.Namespace).Where(n => n?.StartsWith(web, StringComparison.Ordinal) == true).Distinct();
        Assert.All(known, n => Assert.Contains(WebFloors, f => IsIn(n, f)));
        var upward =
            from type in All.Types
            let floor = Array.FindIndex(WebFloors, f => IsIn(type.Namespace?.FullName, f))
            where floor >= 0
            from dependency in type.Dependencies
            let other = Array.FindIndex(WebFloors, f => IsIn(dependency.Target.Namespace?.FullName, f))
            where other > floor
            select $"{type.FullName} knows {dependency.Target.FullName}";
        Assert.Empty(upward.Distinct());
    }

    [Fact]
    public void What_reasons_cuts_no_text()
    {
        // Steps, acts and cures are typed; text is written and read by the formats, the readers of data files, and for the codes a
        // technician types.
        var core = AppContext.BaseDirectory[..AppContext.BaseDirectory.IndexOf("/tests/", StringComparison.Ordinal)] + "/src/Kelvet.Core";
        string[] readers =
        [
            "Schools.cs",
            "Procedures.cs",
            "SignalEvidence.cs",
            "JobFormat.cs",
            "Walk.cs",
            "WalkReader.cs",
            "WorldReader.cs",
        ];
        var cutting = Floors
            .SkipWhile(f => f != "Jobs")
            .SelectMany(floor => Directory.EnumerateFiles(Path.Combine(core, floor), "*.cs"))
            .Where(file => !readers.Contains(Path.GetFileName(file)))
            .SelectMany(file =>
                File.ReadLines(file).Where(l => CutsText().IsMatch(l)).Select(l => $"{Path.GetFileName(file)}: {l.Trim()}")
            );
        Assert.Empty(cutting);
    }

    [System.Text.RegularExpressions.GeneratedRegex(@"\.(Split\(['""]|StartsWith\(|EndsWith\(|Substring\()")]
    private static partial System.Text.RegularExpressions.Regex CutsText();

    [Fact]
    public void Lines_stay_within_140_columns_and_methods_within_70_lines_or_say_why()
    {
        var root = AppContext.BaseDirectory[..AppContext.BaseDirectory.IndexOf("/tests/", StringComparison.Ordinal)];
        var files = new[] { "src", "tests" }
            .SelectMany(folder => Directory.EnumerateFiles(Path.Combine(root, folder), "*.cs", SearchOption.AllDirectories))
            .Where(f => !f.Contains("/obj/", StringComparison.Ordinal) && !f.Contains("/Migrations/", StringComparison.Ordinal))
            .ToArray();
        Assert.True(files.Length > 150);
        Assert.Empty(files.SelectMany(f => File.ReadLines(f).Where(l => l.Length > 140).Select(l => $"{Path.GetFileName(f)}: {l.Trim()}")));
        Assert.Empty(files.SelectMany(Long));
    }

    [System.Text.RegularExpressions.GeneratedRegex(@"^ +(public|private|internal|protected|static)\b(?!.* (class|record|struct) )[^=]*\)$")]
    private static partial System.Text.RegularExpressions.Regex Member();

    private static IEnumerable<string> Long(string file)
    {
        var lines = File.ReadAllLines(file);
        for (var i = 1; i < lines.Length; i++)
        {
            // A body opens on a line of its own, under a member's first line or the closing of its parameters.
            if (!(lines[i] is "    {" or "        {") || !(lines[i - 1] is "    )" || Member().IsMatch(lines[i - 1])))
                continue;
            var end = Array.IndexOf(lines, lines[i].Replace('{', '}'), i);
            if (end - i - 1 > 70 && !lines[i + 1].TrimStart().StartsWith("// Long:", StringComparison.Ordinal))
                yield return $"{Path.GetFileName(file)}: {lines[i - 1].Trim()} has {end - i - 1} lines";
        }
    }

    [Fact]
    public void Data_does_not_depend_on_web() =>
        Types().That().ResideInAssembly(Data).Should().NotDependOnAny(Types().That().ResideInAssembly(Web)).Check(All);

    [Fact]
    public void Devices_depend_on_neither_data_nor_web() =>
        Types()
            .That()
            .ResideInAssembly(Devices)
            .Should()
            .NotDependOnAny(Types().That().ResideInAssembly(Data).Or().ResideInAssembly(Web))
            .Check(All);

    [Fact]
    public void Core_references_no_database_interface_or_web_assembly()
    {
        var referenced = Core.GetReferencedAssemblies().Select(a => a.Name!).ToArray();
        Assert.DoesNotContain(
            referenced,
            n =>
                n.StartsWith("Microsoft.EntityFrameworkCore", StringComparison.Ordinal)
                || n.StartsWith("Microsoft.AspNetCore", StringComparison.Ordinal)
                || n.StartsWith("Microsoft.Data", StringComparison.Ordinal)
                || n == "System.Net.Http"
        );
    }

    [Fact]
    public void Core_reads_neither_clock_nor_chance_nor_files()
    {
        // Looked for in the assembly's member references, so that a call anywhere is found.
        using var module = Mono.Cecil.ModuleDefinition.ReadModule(Core.Location);
        var calls = module.GetMemberReferences().Select(m => $"{m.DeclaringType.FullName}.{m.Name}").ToArray();
        Assert.DoesNotContain(
            calls,
            c =>
                c
                    is "System.DateTime.get_Now"
                        or "System.DateTime.get_UtcNow"
                        or "System.DateTimeOffset.get_UtcNow"
                        or "System.DateTimeOffset.get_Now"
                        or "System.Guid.NewGuid"
                        or "System.Random.get_Shared"
                || c.StartsWith("System.IO.File.", StringComparison.Ordinal)
                || c.StartsWith("System.Console.", StringComparison.Ordinal)
        );
        Assert.Contains(calls, c => c.StartsWith("System.Math.", StringComparison.Ordinal));
    }
}
