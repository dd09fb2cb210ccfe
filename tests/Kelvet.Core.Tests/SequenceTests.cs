using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Kelvet.Core.Faults;
using Kelvet.Core.Machines;
using Kelvet.Core.Planning;

namespace Kelvet.Core.Tests;

[Trait("suite", "rules")]
public class SequenceTests
{
    /// <summary>Kadane and Simon (1977): probability over cost is optimal for one fault and independent looks.</summary>
    [Property(MaxTest = 100)]
    public Property Probability_over_cost_is_as_good_as_the_best_permutation() =>
        Prop.ForAll(
            Gen.Choose(0, 1_000_000).ToArbitrary(),
            seed =>
            {
                var random = new System.Random(seed);
                var n = random.Next(2, 7);
                double[] raw = [.. Enumerable.Range(0, n).Select(_ => random.NextDouble() + 0.01)];
                var looks = raw.Select((p, i) => new Look<int>(i, p / (raw.Sum() * 1.1), new Minutes(0.5 + (random.NextDouble() * 20))))
                    .ToArray();
                var best = Permutations(looks).Min(order => Sequence.Expected(order).Value);
                Assert.Equal(best, Sequence.Expected(Sequence.Best(looks)).Value, 1e-9);
            }
        );

    [Fact]
    public void The_checks_before_power_drop_what_has_been_dealt_with()
    {
        var before = Sequence.Checks(Bench.Office(card: true).Diagnosis);
        Assert.Contains(before, l => l.What.Key == "stick-1/stick-unseated");
        Assert.Contains(before, l => l.What.Mode.Id == "card-aux-unplugged");
        Assert.All(before, l => Assert.True(l.What.Mode.Cure is Cure.Reseat or Cure.Set or Cure.Rewire or Cure.Repaste or Cure.Clean));
        var after = Sequence.Checks(Bench.Office(card: true).Trial("4", Bench.Reseat("stick-1")).Diagnosis);
        Assert.DoesNotContain(after, l => l.What.Key == "stick-1/stick-unseated");
    }

    private static IEnumerable<T[]> Permutations<T>(T[] items) =>
        items.Length <= 1
            ? [items]
            : items.SelectMany((head, i) => Permutations([.. items[..i], .. items[(i + 1)..]]).Select(tail => (T[])[head, .. tail]));
}
