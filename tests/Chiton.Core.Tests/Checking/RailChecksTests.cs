using Chiton.Core.Checking;

namespace Chiton.Core.Tests.Checking;

public class RailChecksTests
{
    private static IReadOnlyList<Finding> Find(
        string script,
        Chiton.Core.Motion.RailMotion? motion = null,
        Dictionary<string, SensorCalibration>? calibrations = null
    ) => RailChecks.Find(FarmBench.Rig(), motion ?? FarmBench.Motion(), calibrations ?? FarmBench.Calibrations(), FarmBench.Parse(script));

    private static string Cured(string script, Cure cure)
    {
        var lines = script.Split('\n');
        foreach (var edit in cure.Edits)
            lines[edit.Line - 1] = edit.Text;
        return string.Join('\n', lines);
    }

    [Fact]
    public void Too_fast_for_its_tag_is_cured_by_its_own_button()
    {
        var script = FarmBench.StopAtSecond.Replace("50 %", "80 %");
        var finding = Find(script).Single(f => f.Code == "marker-rest");
        Assert.Equal(Severity.Risky, finding.Severity);
        Assert.Equal("Rolling", finding.Owner);
        // How it was worked out ends with what it says.
        var rig = FarmBench.Rig();
        var (low, high) = RailChecks.RestRange(FarmBench.Motion(), rig.Rail!.Markers[0], rig.Eyes.First(), 1, false, 80);
        Assert.Equal("marker-pass", finding.Sum!.Sum);
        Assert.Equal((low, high), (finding.Sum.Steps[^2].Value!.Value, finding.Sum.Steps[^1].Value!.Value));
        Assert.Contains($"{Figures.Show(high, 2)} mm past the leading edge", finding.Say, StringComparison.Ordinal);
        var after = Find(Cured(script, finding.Cure!)).Single(f => f.Code == "marker-rest");
        Assert.Equal(Severity.Holds, after.Severity);
    }

    [Fact]
    public void The_cure_is_the_fastest_power_that_holds()
    {
        var finding = Find(FarmBench.StopAtSecond.Replace("50 %", "80 %")).Single(f => f.Code == "marker-rest");
        var power = double.Parse(finding.Cure!.Label.Split(' ')[1]);
        var rig = FarmBench.Rig();
        var (_, high) = RailChecks.RestRange(FarmBench.Motion(), rig.Rail!.Markers[0], rig.Eyes.First(), 1, false, power);
        var (_, higher) = RailChecks.RestRange(FarmBench.Motion(), rig.Rail!.Markers[0], rig.Eyes.First(), 1, false, power + 1);
        Assert.True(high <= 56 && higher > 56, $"{high} {higher}");
    }

    [Fact]
    public void Where_it_is_said_to_rest_is_where_simulation_rests()
    {
        var rig = FarmBench.Rig();
        var (low, high) = RailChecks.RestRange(FarmBench.Motion(2000, 120, 8), rig.Rail!.Markers[1], rig.Eyes.First(), 1, false, 50);
        var setup = FarmBench.Setup(FarmBench.StopAtSecond, FarmBench.Motion(2000, 120, 8));
        var run = new Bench(setup);
        var inside = Enumerable
            .Range(0, 400)
            .Count(i =>
            {
                run.Go(RandomStream.SeedOfRun(9, i));
                var rest = run.Spot(0) - 1600;
                return rest >= low && rest <= high;
            });
        Assert.True(inside >= 380, $"{inside} of 400 rest within {low:0.0} to {high:0.0} mm");
    }

    [Fact]
    public void A_line_that_takes_too_few_readings_is_named_with_its_cure()
    {
        double[] wobbly = [.. Enumerable.Repeat<double[]>([44, 47, 50, 52, 54, 55, 57, 59, 61, 63, 66], 3).SelectMany(r => r)];
        var script = FarmBench.StopAtSecond.Replace(
            "when Tag eye becomes bed tag: set beds to beds + 1; stay",
            "when Tag eye becomes sleepers: set beds to beds + 1; stay"
        );
        var calibrations = FarmBench.Calibrations(null, wobbly);
        calibrations["Tag eye"] = calibrations["Tag eye"] with { School = School.Midpoint };
        var finding = Find(script, null, calibrations).Single(f => f.Code == "zone-weak");
        Assert.Equal("One bed tag can be counted twice", finding.Headline);
        Assert.Equal("threshold", finding.Sum!.Sum);
        Assert.NotEmpty(finding.Sum.Steps);
        Assert.Equal(9, finding.Line);
        var cured = Cured(script, finding.Cure!);
        Assert.Contains($"for {finding.Cure!.Label.Split(' ')[1]} readings", cured);
        Assert.DoesNotContain(Find(cured, null, calibrations), f => f.Code == "zone-weak");
        // So ragged and so few that no number in a row can be promised: no button pretends that one would do.
        double[] ragged = [33, 41, 45, 50, 52, 55, 57, 60, 63, 68, 71, 47, 53, 58, 62, 66];
        calibrations = FarmBench.Calibrations(null, ragged);
        calibrations["Tag eye"] = calibrations["Tag eye"] with { School = School.Midpoint };
        var hopeless = Find(script, null, calibrations).Single(f => f.Code == "zone-weak");
        Assert.Null(hopeless.Cure);
        Assert.Contains("no number in a row can be trusted", hopeless.Say);
    }

    [Fact]
    public void A_tag_that_passes_between_readings_is_missed()
    {
        var finding = Find(FarmBench.StopAtSecond.Replace("becomes bed tag:", "becomes bed tag for 20 readings:"))
            .Single(f => f.Code == "marker-missed");
        Assert.Equal(Severity.Stops, finding.Severity);
        Assert.Contains("It needs 20", finding.Say);
    }

    [Fact]
    public void Guesses_are_named()
    {
        var motion = FarmBench.Motion() with { CoastTimeConstantMs = new(400, "ms", Provenance.Guessed, "typed in", 0, 0, 300) };
        Assert.Contains("coasting (400 ms)", Find(FarmBench.StopAtSecond, motion).Single(f => f.Code == "guess-used").Say);
        Assert.DoesNotContain(Find(FarmBench.StopAtSecond), f => f.Code == "guess-used");
    }
}
