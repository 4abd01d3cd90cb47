using Chiton.Core.Motion;
using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Scxml;
using Chiton.Core.Simulation;

namespace Chiton.Core.Tests.Motion;

/// <summary>How long servos and sounds take: guessed until tried, then as tried.</summary>
public class TimingsTests
{
    private static readonly RigDesign Rig = new(
        "Flap",
        "Farm",
        [],
        [],
        [new("Drain", ActuatorKind.Servo), new("Loose servo", ActuatorKind.Servo), new("Buzzer", ActuatorKind.Sounder)]
    )
    {
        Mechanisms =
        [
            new("Flap", MechanismKind.Lid, ["Drain"])
            {
                Travel = new(new(0, "deg", Provenance.Chosen, ""), new(90, "deg", Provenance.Chosen, "")),
                Positions = ["open", "shut"],
            },
        ],
    };

    private static readonly Dictionary<string, IReadOnlyList<Trial>> NoTrials = [];

    private static AcceptedNumber Number(double s) => new(s, 0.01, 0.01, 5, 0, null, 0, 0);

    private static CopyMoves Copy(params (string Key, double Seconds)[] accepted) =>
        new(Rig, null, NoTrials, accepted.ToDictionary(a => a.Key, a => Number(a.Seconds)));

    // When “all done” holds after the action, s.
    private static double DoneAfter(string action, Timings? timings = null)
    {
        var words = Vocabulary.Of(Rig);
        var parsed = ScriptParser.Parse(
            $"program T\n\nconst slow = 45 deg/s\n\nregion Main\n  state A, initial\n    on entry: {action}\n    "
                + $"when all done: go B\n  state B\n",
            words
        );
        Assert.True(parsed.Diagnostics.Count == 0, string.Join("\n", parsed.Diagnostics));
        var machine = new ScriptMachine(
            timings is null ? ScriptCompiler.Compile(parsed.Program, Rig) : ScriptCompiler.Compile(parsed.Program, words, timings)
        );
        machine.Start();
        while (machine.Configuration[0] != "Main.B" && machine.NextDue < 60_000_000)
            machine.Pass(machine.NextDue);
        Assert.Equal(["Main.B"], machine.Configuration);
        return machine.NowMicros * 1e-6;
    }

    [Fact]
    public void A_guess_holds_until_something_was_tried()
    {
        // 90° at 300 °/s and a twentieth of a second.
        Assert.Equal(0.35, DoneAfter("set Flap to open"), 6);
        Assert.Equal(0.35, DoneAfter("set Drain to 30 deg"), 6);
        Assert.Equal(Timings.UsualSwingS, DoneAfter("set Loose servo to 30 deg"), 6);
        Assert.Equal(Timings.UsualSoundS, DoneAfter("play \"hello\""), 6);
        Assert.Equal(2.5, DoneAfter("play \"hello\" for 2.5 s"), 6);
        var plan = Copy().Plans.Single(p => p.Kind == TrialKind.Swing);
        Assert.Equal(Provenance.Guessed, Copy().InUse(plan)!.Kind);
    }

    [Fact]
    public void What_was_tried_on_the_copy_counts()
    {
        var copy = Copy(("Flap: swing", 0.8), ("Buzzer: sound", 3.2));
        Assert.Equal(Provenance.Measured, copy.InUse(copy.Plans.Single(p => p.Kind == TrialKind.Swing))!.Kind);
        Assert.Equal(0.8, DoneAfter("set Flap to open", copy.Timings), 6);
        Assert.Equal(0.8, DoneAfter("set Drain to 30 deg", copy.Timings), 6);
        Assert.Equal(0.8, DoneAfter("send Flap to open", copy.Timings), 6);
        Assert.Equal(3.2, DoneAfter("play \"hello\"", copy.Timings), 6);
        Assert.Equal(4.0, DoneAfter("play \"hello\", then set Flap to shut", copy.Timings), 6);
    }

    [Fact]
    public void Slower_it_takes_longer_and_never_less_than_it_can()
    {
        var copy = Copy(("Flap: swing", 0.8)).Timings;
        Assert.Equal(2, DoneAfter("set Flap to open at slow", copy), 6);
        Assert.Equal(0.8, DoneAfter("set Flap to open at 300 deg/s", copy), 6);
        Assert.Equal(1.6, DoneAfter("set Flap to open at 50 %", copy), 6);
    }

    [Theory]
    [InlineData(TrialKind.Swing, 90)]
    [InlineData(TrialKind.Swing, 45)]
    [InlineData(TrialKind.Sound, 1)]
    public void The_bench_and_the_fit_agree(TrialKind kind, double asked)
    {
        var plan = Copy().Plans.Single(p => p.Kind == kind);
        var at = Copy().At(plan.Mechanism);
        var noise = new RandomStream(7, 1);
        var trials = Enumerable
            .Range(0, 12)
            .Select(_ =>
            {
                var commanded = TrialPlans.Command(plan, asked, null, at);
                return new Trial(asked, commanded, TrialBench.Try(plan, Rig, null, 5, asked, commanded, ref noise));
            })
            .ToArray();
        var fit = Trials.Fit(plan, trials, asked, at);
        var truth = TrialBench.Truth(plan, plan.Nominal!.Value, 5);
        Assert.Equal(truth, fit.Number!.Value, Math.Max(0.04, 4 * fit.Number.MeanSd));
        Assert.Equal(
            fit.Number.Value * (kind == TrialKind.Swing ? asked / 90 : 1),
            TrialPlans.Expect(plan, asked, fit.Number.Value, at),
            9
        );
    }
}
