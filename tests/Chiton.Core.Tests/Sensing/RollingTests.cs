using Chiton.Core.Checking;
using Chiton.Core.Motion;
using Chiton.Core.Programs.Language;

namespace Chiton.Core.Tests.Sensing;

/// <summary>Readings that are taken while rolling are judged rolling, by one number that trials find.</summary>
public class RollingTests
{
    private static double[] Normal(int count, double mean, double sd, ulong seed)
    {
        var luck = new RandomStream(seed, 1);
        return [.. Enumerable.Range(0, count).Select(_ => mean + sd * luck.Normal())];
    }

    [Theory]
    [InlineData(20, 250)]
    [InlineData(45, 120)]
    [InlineData(0, 250)]
    public void Readings_at_rest_and_rolling_find_the_hidden_tremble(double tremble, double speed)
    {
        // The reference is what was put in: s_roll² = s_rest² + (tremble · mean · v)².
        var shake = tremble / 100 * 47 * speed / 1000;
        var found = Enumerable
            .Range(1, 60)
            .Select(i =>
                Trembling
                    .Of(Normal(200, 47, 1.1, (ulong)i), Normal(200, 47, Math.Sqrt(1.21 + shake * shake), (ulong)i + 500), speed)
                    .PercentPerMPerS
            )
            .ToArray();
        if (tremble > 0)
            Assert.Equal(tremble, found.Average(), 0.06 * tremble);
        else
            Assert.InRange(found.Average(), 0, 5);
    }

    [Fact]
    public void Too_few_readings_and_two_surfaces_are_refused_by_name()
    {
        var few = Assert.Throws<InputProblem>(() => Trembling.Of(Normal(4, 40, 1, 1), Normal(40, 40, 1, 2), 200));
        Assert.Contains("10 readings or more at rest; there are 4", few.Errors["atRest"]);
        var other = Assert.Throws<InputProblem>(() => Trembling.Of(Normal(40, 40, 1, 1), Normal(40, 70, 1, 2), 200));
        Assert.Contains("one and the same surface", other.Errors["rolling"]);
        Assert.Contains(
            "how fast",
            Assert.Throws<InputProblem>(() => Trembling.Of(Normal(40, 4, 1, 1), Normal(40, 4, 1, 2), 0)).Errors["asked"]
        );
    }

    private static SensorCalibration Eye(double sd) =>
        new("Eye", 10, 0.1, 1, School.EqualRisk, 1, [new("dull", Normal(200, 30, sd, 5)), new("tag", Normal(200, 70, sd, 6))]);

    private static Quantity Tremble(double percent) => new(percent, "% per m/s", Provenance.Measured, "trials");

    [Fact]
    public void Rolling_takes_more_readings_and_the_promise_holds_in_streams()
    {
        var still = Eye(2);
        var rolling = still.At(new(400, Tremble(60)));
        var (a, b) = (still.Pairs()[0].Sum.Result, rolling.Pairs()[0].Sum.Result);
        Assert.Equal(1, a.ReadingsNeededSafe);
        Assert.True(b.ReadingsNeededSafe > 1);
        Assert.True(rolling.Pairs()[0].Sum.Verdict!.Grade > still.Pairs()[0].Sum.Verdict!.Grade || b.ReadingsNeededSafe == 2);
        // The threshold and the figures of the readings stay what they are.
        Assert.Equal((a.Threshold, a.Hysteresis, a.Lists[1].Sd), (b.Threshold, b.Hysteresis, b.Lists[1].Sd));
        Assert.Equal(a.ReadingsNeededSafe, rolling.Pairs()[0].Still.Result.ReadingsNeededSafe);
        Assert.Same(rolling, still.At(new(400, Tremble(60))));
        // Ten hours over the tag, shaken as said: with so many in a row at most one false switch an hour.
        var luck = new RandomStream(77, 2);
        var (wrong, run) = (0, 0);
        var sd = RailMotion.RollingSd(2, 70, 400, 60);
        for (var i = 0; i < 10 * 360_000; i++)
        {
            run = 70 + sd * luck.Normal() < b.Threshold - b.Hysteresis ? run + 1 : 0;
            if (run == b.ReadingsNeededSafe)
                (wrong, run) = (wrong + 1, 0);
        }
        Assert.InRange(wrong, 0, 10);
    }

    [Fact]
    public void Sense_Check_and_the_tag_sum_ask_for_the_same_number_of_readings()
    {
        var rig = FarmBench.Rig();
        foreach (var tremble in new double[] { 0, 20, 60, 110 })
        {
            var motion = FarmBench.Motion() with { TremblePercentPerMPerS = Tremble(tremble) };
            var script = FarmBench.StopAtSecond;
            var parsed = ScriptParser.Parse(script, Vocabulary.For(rig, rig.Program));
            Assert.Empty(parsed.Diagnostics);
            var eye = rig.Eyes.First();
            var moves = new CopyMoves(
                rig,
                motion,
                new Dictionary<string, IReadOnlyList<Trial>>(),
                new Dictionary<string, AcceptedNumber>()
            );
            var read = FarmBench.Calibrations()[eye.Name];
            read = read.At(SenseRolling.Of(rig, moves, eye, RailChecks.FastestPower(rig, parsed.Program)));
            Assert.Equal(tremble > 0, read.Rolling is not null);
            var sense = read.Pairs()[0].Sum.Result.ReadingsNeededSafe;
            var brief = MarkerBrief.Of(rig, motion, eye, read, parsed)!;
            Assert.Contains($"gives {Figures.Count(sense ?? 8, "reading")}", brief.Say);
            Assert.Equal(sense is null, brief.Say.Contains("Even so many cannot be promised"));
            // Check has nothing to say at the number of its own way, cures anything below with it, and the greater of both ways is Sense's.
            var pair = read.Pairs()[0];
            Assert.Equal(sense, pair.IntoLower is { } a && pair.IntoUpper is { } b ? Math.Max(a, b) : null);
            void Way(string zone, string at, int line, int? way)
            {
                string With(int n) => script.Replace($"becomes {zone}{at}", $"becomes {zone} for {Figures.Count(n, "reading")}{at}");
                Finding? Weak(int n) =>
                    RailChecks
                        .Find(
                            rig,
                            motion,
                            new Dictionary<string, SensorCalibration> { [eye.Name] = read },
                            ScriptParser.Parse(With(n), Vocabulary.For(rig, rig.Program)).Program
                        )
                        .FirstOrDefault(f => f.Code == "zone-weak" && f.Line == line);
                if (way is { } needed)
                {
                    Assert.Null(Weak(needed));
                    if (needed > 1)
                        Assert.StartsWith($"Use {needed} ", Weak(needed - 1)!.Cure!.Label);
                }
                else
                    Assert.Null(Weak(1)!.Cure);
            }
            Way("bed tag", ":", 9, pair.IntoUpper);
            script = script.Replace("when Tag eye becomes bed tag: set beds", "when Tag eye becomes sleepers: set beds");
            Way("sleepers", ":", 9, pair.IntoLower);
        }
    }

    [Fact]
    public void What_stands_still_is_judged_at_rest()
    {
        var rig = FarmBench.Rig();
        var eye = rig.Eyes.First();
        var nothing = (new Dictionary<string, IReadOnlyList<Trial>>(), new Dictionary<string, AcceptedNumber>());
        var fixedRig = rig with { Mechanisms = [new("Mast", MechanismKind.Lift, rig.Vehicle!.Motors)], Rail = null };
        Assert.Null(SenseRolling.Of(fixedRig, new(fixedRig, null, nothing.Item1, nothing.Item2), eye, null));
        // What steers is assumed to be driven at a usual speed, and the words say so.
        var drive = rig with
        {
            Mechanisms = [new("Drive", MechanismKind.TwoWheelDrive, ["Left", "Right"])],
            Rail = null,
        };
        drive = drive with { Actuators = [new("Left", ActuatorKind.RegulatedMotor), new("Right", ActuatorKind.RegulatedMotor)] };
        var rolling = SenseRolling.Of(drive, new(drive, null, nothing.Item1, nothing.Item2), eye, null)!;
        Assert.Equal((true, MoveNumbers.UsualSpeed), (rolling.UsualSpeed, rolling.SpeedMmPerS));
        Assert.Equal(Provenance.Guessed, rolling.Tremble.Kind);
        var pair = FarmBench.Calibrations()[eye.Name].At(rolling).Pairs()[0];
        Assert.Contains("while it rolls a usual 150 mm/s", SenseWords.Pair(pair, eye, rolling).Say);
        // A vehicle that no program moves yet does not roll either.
        Assert.Null(SenseRolling.Of(rig, new(rig, FarmBench.Motion(), nothing.Item1, nothing.Item2), eye, null));
    }
}
