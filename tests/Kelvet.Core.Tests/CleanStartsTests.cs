using Kelvet.Core.Proving;
using MathNet.Numerics;
using MathNet.Numerics.Distributions;
using MathNet.Numerics.Integration;

namespace Kelvet.Core.Tests;

/// <summary>Against MathNet.Numerics: its Beta function, and its Beta density integrated.</summary>
[Trait("suite", "rules")]
public class CleanStartsTests
{
    [Theory]
    [InlineData(1, 1, 5)]
    [InlineData(3, 10, 12)]
    [InlineData(1, 20, 40)]
    [InlineData(7, 9, 3)]
    public void The_chance_of_clean_starts_is_the_ratio_of_Beta_functions_and_the_integral_over_the_Beta_density(
        int failed,
        int starts,
        int clean
    )
    {
        double a = failed + 1,
            b = starts - failed + 1;
        var chance = CleanStarts.ChanceUnrepaired(failed, starts, clean);
        Assert.Equal(SpecialFunctions.Beta(a, b + clean) / SpecialFunctions.Beta(a, b), chance, 1e-9);
        var density = new Beta(a, b);
        Assert.Equal(GaussLegendreRule.Integrate(p => density.Density(p) * Math.Pow(1 - p, clean), 0, 1, 128), chance, 1e-6);
    }

    [Fact]
    public void A_rare_failure_takes_many_more_clean_starts_than_a_frequent_one()
    {
        Assert.InRange(CleanStarts.Needed(5, 5), 1, 5);
        Assert.True(CleanStarts.Needed(1, 10) > 4 * CleanStarts.Needed(5, 10));
        Assert.Equal(0, CleanStarts.Needed(1, 1, 0.5));
        Assert.True(CleanStarts.Needed(3, 10, 0.99) > CleanStarts.Needed(3, 10));
        Assert.Equal(500, CleanStarts.Needed(1, 100_000, 0.999));
        Assert.Throws<ArgumentOutOfRangeException>(() => CleanStarts.Needed(0, 5));
        Assert.Throws<ArgumentOutOfRangeException>(() => CleanStarts.Needed(6, 5));
        Assert.Throws<ArgumentOutOfRangeException>(() => CleanStarts.Needed(1, 5, 1));
    }
}
