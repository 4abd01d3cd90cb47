namespace Chiton.Core.Tests.Proving;

public class TunerTests(ITestOutputHelper output)
{
    private static Tunable Number(string name, double value, bool whole = false) =>
        new(1, 0, "", name, value, whole ? "" : "%", whole, 0, 100);

    // A machine whose rate has its top at known values, lower the farther they are off; one number of the copy is a guess.
    private static FormulaBench Hill(IReadOnlyList<double> at, double[] top, double[] wide, double rate) =>
        new(
            [DrawSpec.Of("braking", FormulaBench.Guess(0, 0.6))],
            (d, _) =>
            {
                var far = 0.0;
                for (var i = 0; i < top.Length; i++)
                    far += Math.Pow((at[i] - top[i]) / wide[i], 2);
                return Math.Clamp(rate * Math.Exp(-far) + 0.3 * d[0], 0, 1);
            }
        );

    [Fact]
    public void A_planted_optimum_of_one_number_is_found()
    {
        TunedRange[] ranges = [new(Number("cruise", 70), 20, 90)];
        int within = 0,
            better = 0,
            near = 0;
        const int times = 20;
        for (var seed = 1; seed <= times; seed++)
        {
            var found = Tuner.Run(ranges, v => Hill(v, [44], [14], 0.95), seed);
            within += found.Good[0].From <= 44 && found.Good[0].To >= 44 ? 1 : 0;
            better += found.Best >= 0 ? 1 : 0;
            near += found.Best >= 0 && Math.Abs(found.Points[found.Best].Values[0] - 44) < 8 ? 1 : 0;
            Assert.Contains(found.Points, p => p.IsNow && p.Fresh && p.Against is null && p.Values[0] == 70);
            Assert.All(found.Points.Where(p => p.Fresh), p => Assert.Equal(400, p.Runs));
        }
        output.WriteLine($"within {within}, better {better}, near {near} of {times}");
        Assert.Equal(times, within);
        Assert.Equal(times, better);
        Assert.InRange(near, 0.9 * times, times);
    }

    [Fact]
    public void A_planted_optimum_of_three_numbers_is_found()
    {
        TunedRange[] ranges = [new(Number("speed", 80), 20, 90), new(Number("readings", 1, true), 1, 9), new(Number("wait", 0.5), 0, 3)];
        double[] top = [50, 4, 1.4];
        var (within, better) = (0, 0);
        const int times = 10;
        for (var seed = 1; seed <= times; seed++)
        {
            var found = Tuner.Run(ranges, v => Hill(v, top, [25, 4, 1.6], 0.95), seed);
            within += Enumerable.Range(0, 3).All(d => found.Good[d].From <= top[d] && found.Good[d].To >= top[d]) ? 1 : 0;
            better += found.Best >= 0 && (double)found.Points[found.Best].Passes / found.Points[found.Best].Runs > 0.75 ? 1 : 0;
            // What counts is tried whole.
            Assert.All(found.Points, p => Assert.Equal(Math.Round(p.Values[1]), p.Values[1]));
        }
        output.WriteLine($"within {within}, better {better} of {times}");
        Assert.InRange(within, 9, times);
        Assert.Equal(times, better);
    }

    [Fact]
    public void Points_called_better_are()
    {
        // All are alike, each with luck of its own: whatever is called better is not.
        TunedRange[] ranges = [new(Number("cruise", 70), 20, 90)];
        var called = 0;
        for (var seed = 1; seed <= 100; seed++)
        {
            var found = Tuner.Run(
                ranges,
                v => new FormulaBench(
                    [DrawSpec.Of("braking", FormulaBench.Guess(0, 0.6))],
                    (d, _) => 0.6 + 0.3 * d[0],
                    (ulong)BitConverter.DoubleToInt64Bits(v[0])
                ),
                seed
            );
            called += found.Points.Count(p => p.Against?.Verdict == Compared.Better);
            Assert.Equal(found.Best >= 0, found.Points.Any(p => p.Against?.Verdict == Compared.Better));
        }
        output.WriteLine($"called better: {called} points over 100 seeds");
        Assert.InRange(called, 0, 5);
    }

    [Fact]
    public void What_grows_to_the_end_sits_at_the_edge()
    {
        TunedRange[] ranges = [new(Number("cruise", 30), 20, 60)];
        var found = Tuner.Run(ranges, v => Hill(v, [75], [30], 0.95), 3);
        Assert.NotEmpty(found.Points[found.Best].AtEdge);
        Assert.Empty(
            Tuner.Run([new(Number("cruise", 30), 20, 90)], v => Hill(v, [50], [20], 0.95), 3) is var middle
                ? middle.Points[middle.Best].AtEdge
                : []
        );
    }

    [Fact]
    public void The_front_weighs_rate_against_time()
    {
        var found = Tuner.Run([new(Number("cruise", 50), 20, 90)], v => Hill(v, [50], [20], 0.9), 5);
        var front = found.Points.Where(p => p.OnFront).ToArray();
        Assert.NotEmpty(front);
        Assert.All(
            front,
            p =>
                Assert.DoesNotContain(
                    found.Points.Where(o => o.Fresh),
                    o => (double)o.Passes / o.Runs > (double)p.Passes / p.Runs && o.CycleS <= p.CycleS && o.Score >= p.Score
                )
        );
    }

    [Fact]
    public void It_can_be_stopped()
    {
        using var stop = new CancellationTokenSource();
        var found = Tuner.Run(
            [new(Number("cruise", 70), 20, 90)],
            v => Hill(v, [44], [14], 0.95),
            1,
            (done, all) =>
            {
                if (done > all / 3)
                    stop.Cancel();
            },
            cancel: stop.Token
        );
        Assert.True(found.Stopped);
        Assert.Equal(-1, found.Best);
        Assert.NotEmpty(found.Points);
    }

    [Fact]
    public void Values_that_cannot_be_run_are_left_out()
    {
        var found = Tuner.Run([new(Number("cruise", 70), 20, 90)], v => v[0] < 50 ? null : Hill(v, [60], [14], 0.95), 1);
        Assert.All(found.Points, p => Assert.InRange(p.Values[0], 50, 90));
    }

    [Fact]
    public void Sobol_points_fill_the_cube()
    {
        // The first seven of the first two dimensions, from the paper's own figures.
        double[][] known =
        [
            [0.5, 0.5],
            [0.75, 0.25],
            [0.25, 0.75],
            [0.375, 0.375],
            [0.875, 0.875],
            [0.625, 0.125],
            [0.125, 0.625],
        ];
        Assert.Equal(known, Sobol.Points(7, 2));
        var points = Sobol.Points(63, 4);
        for (var d = 0; d < 4; d++)
            Assert.Equal(63, points.Select(p => (int)(64 * p[d])).Distinct().Count());
    }

    [Fact]
    public void Numbers_of_a_program_are_found_and_put_in()
    {
        const string script = """
            program T

            var cruise = 60 %
            goal: stopped over bed 3 within 40 s

            region Main
              state Rolling, initial
                while here: run Trolley at cruise
                when Tag eye becomes bed tag for 4 readings: go Waiting

              state Waiting
                on entry: stop Trolley and brake
                after 1.5 s: go Rolling

            """;
        var rig = FarmBench.Rig(script);
        var program = ScriptParser.Parse(script, Vocabulary.For(rig, rig.Program)).Program;
        var found = Tunables.Of(program);
        Assert.Equal(
            [("60", "%"), ("4", ""), ("1.5", "s")],
            found.Select(t =>
                ($"{t.Value.ToString(System.Globalization.CultureInfo.InvariantCulture)}", t.Unit is "readings" ? "" : t.Unit)
            )
        );
        Assert.Equal([false, true, false], found.Select(t => t.Whole));
        var changed = Tunables.With(script, program, [.. found.Select(t => new TunedNumber(t.Line, t.Index, t.Whole ? 6 : 2 * t.Value))]);
        Assert.Equal(script.Replace("60 %", "120 %").Replace("4 readings", "6 readings").Replace("1.5 s", "3 s"), changed);
        Assert.Equal(["", "Rolling", "Waiting"], found.Select(t => t.Owner));
        Assert.Throws<InputProblem>(() => Tunables.With(script, program, [new(4, 0, 1)]));
        Assert.Throws<InputProblem>(() => Tunables.With(script, program, [new(3, 1, 1)]));
    }

    [Theory]
    [InlineData(61.23456, false, 61.2)]
    [InlineData(0.012345, false, 0.0123)]
    [InlineData(3.6, true, 4)]
    [InlineData(0, false, 0)]
    [InlineData(1234.5, false, 1234)]
    public void Tried_values_are_written_short(double value, bool whole, double written) =>
        Assert.Equal(written, Tunables.Rounded(Number("x", 1, whole), value));
}
