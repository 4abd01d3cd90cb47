namespace Chiton.Core.Tests.Proving;

/// <summary>Whether the range of a copy is true: held against copies whose rate is known.</summary>
public class HiddenCopiesTests(ITestOutputHelper output)
{
    private static readonly Func<int, int, HiddenCopies.Hidden>[] Benches =
    [
        HiddenCopies.Noticing,
        HiddenCopies.Stopping,
        HiddenCopies.Turning,
    ];

    private sealed record Held(int Below, int Above, int Copies, double Width, int Inner, int InnerHeld, int Next10, int Next20);

    // Of a range that ends at 0 or at 1 nothing can lie outside: that more is held is a fault only where both ends are inside.
    private static Held Hold(int readings, int copies, int runs, Func<int, int, HiddenCopies.Hidden> make)
    {
        int below = 0,
            above = 0,
            inner = 0,
            innerHeld = 0,
            next10 = 0,
            next20 = 0;
        var width = 0.0;
        for (var copy = 0; copy < copies; copy++)
        {
            var hidden = make(readings, 1000 * readings + copy);
            var done = ManyRuns.Run(hidden.Bench, new(copy, RunLayout.Kinds.Copies, runs), threads: 1);
            var counts = RunsDone.Merged(done.ByCopy());
            var range = CopyRange.Of(counts);
            var (low, high) = range.Whole;
            width += high - low;
            below += hidden.Rate < low ? 1 : 0;
            above += hidden.Rate > high ? 1 : 0;
            if (low >= 0.05 && high <= 0.95)
            {
                inner++;
                innerHeld += hidden.Rate >= low && hidden.Rate <= high ? 1 : 0;
            }
            var luck = new RandomStream((ulong)copy, 77);
            int Passes(int n) => Enumerable.Range(0, n).Count(_ => luck.Uniform() < hidden.Rate);
            next10 += range.Next(10) is var a && Passes(10) is var x && x >= a.Low && x <= a.High ? 1 : 0;
            next20 += range.Next(20) is var b && Passes(20) is var y && y >= b.Low && y <= b.High ? 1 : 0;
        }
        return new(below, above, copies, width / copies, inner, innerHeld, next10, next20);
    }

    [Theory]
    [InlineData(3)]
    [InlineData(5)]
    [InlineData(10)]
    [InlineData(40)]
    public void The_range_holds_the_true_rate(int readings)
    {
        var all = Benches.Select(make => Hold(readings, 300, 200, make)).ToArray();
        foreach (var (held, make) in all.Zip(Benches))
        {
            output.WriteLine($"{make.Method.Name}, {readings} readings: {held}");
            var each = readings == 3 ? 0.17 : 0.08;
            Assert.InRange(held.Below, 0, each * held.Copies);
            Assert.InRange(held.Above, 0, each * held.Copies);
            Assert.InRange(held.Below + held.Above, 0, (readings == 3 ? 0.20 : 0.16) * held.Copies);
            Assert.InRange(held.Next10, 0.85 * held.Copies, held.Copies);
            Assert.InRange(held.Next20, 0.85 * held.Copies, held.Copies);
        }
        // Wider than need be is a fault too.
        Assert.InRange(all.Sum(h => h.InnerHeld), 0, 0.97 * all.Sum(h => h.Inner));
    }

    [Fact]
    public void More_readings_make_it_narrower()
    {
        var widths = new[] { 3, 5, 10, 40 }.Select(n => Hold(n, 60, 200, HiddenCopies.Noticing).Width).ToArray();
        Assert.Equal(widths.OrderDescending(), widths);
        Assert.True(widths[0] > 1.5 * widths[3], string.Join(" ", widths));
    }

    [Fact]
    public void With_nothing_in_doubt_it_is_the_Wilson_interval()
    {
        var bench = new FormulaBench([new("start", "mm", Provenance.Chosen, "", 0, 0, 1, -9, 9)], (_, _) => 0.8);
        var done = ManyRuns.Run(bench, new(4, RunLayout.Kinds.Copies, 200));
        Assert.False(Prover.Doubted(bench));
        var (low, high) = SuccessRate.Wilson(done.Passes, 200, 0.9);
        Assert.Equal(new RateRange(low, high), Prover.RangeOf(bench, done));
    }

    [Fact]
    public void At_best_values_nothing_is_drawn_of_what_is_not_known()
    {
        var luck = new RandomStream(5, 5);
        var known = FormulaBench.Read(50, 4, 5, ref luck);
        var bench = new FormulaBench([DrawSpec.Of("marker", known), DrawSpec.Of("braking", FormulaBench.Guess(850, 400))], (_, _) => 0.5);
        var best = ManyRuns.Run(bench, new(1, RunLayout.Kinds.Best, 50));
        Assert.All(best.Values[0], v => Assert.Equal((float)known.Value, v));
        Assert.All(best.Values[1], v => Assert.Equal(850, v));
        Assert.All(best.Values[2], v => Assert.Equal(1, v));
        var made = ManyRuns.Run(bench, new(1, RunLayout.Kinds.Copies, 50));
        for (var i = 0; i < 50; i += 2)
            Assert.Equal(made.Values[0][i], made.Values[0][i + 1]);
        Assert.Equal(25, made.Values[0].Distinct().Count());
    }
}
