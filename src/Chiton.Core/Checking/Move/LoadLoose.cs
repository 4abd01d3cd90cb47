using Chiton.Core.Motion;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Simulation.Scenes;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Checking;

/// <summary>A load that slides when the robot turns, starts or brakes, or that jaws lift before they hold it.</summary>
internal sealed class LoadLoose : Check
{
    // Friction of wood and plastic where a scene says none.
    private const double UsualFriction = 0.4;

    // A usual start of a drive, mm/s².
    private const double UsualStart = 2500;

    /// <inheritdoc/>
    public override string Code => "load-loose";

    /// <inheritdoc/>
    public override string Title => "A load that comes loose";

    /// <inheritdoc/>
    public override string Says =>
        "A turn, a start or a brake is quicker than friction holds the load where it sits; or jaws lift at a grip from which it slips.";

    /// <inheritdoc/>
    public override string Part => "move";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Risky;

    /// <inheritdoc/>
    public override string? Cannot(CheckInput input) =>
        Loads(input).Any() || input.Places.SelectMany(p => p.Lines).Any(l => l.Number("slip") is not null)
            ? null
            : "In no scene of this rig anything is carried, or slips.";

    private sealed record Load(string Name, Mechanism On, double Mu, bool Usual, double RadiusMm, string Scene);

    // What rides on something of a robot that drives.
    private static IEnumerable<Load> Loads(CheckInput input)
    {
        if (input.Rig.Mechanisms.All(m => m.Facts.Going != Going.Steered))
            yield break;
        foreach (var scene in input.Places)
        foreach (var line in scene.Lines)
        {
            var (on, seat) = line.Key switch
            {
                "load" => (line.Name("mech"), line.Value("seat") ?? 0),
                "thing round" or "thing box" => (line.Name("carrier"), line.Point("seat")?.Y ?? 0),
                _ => (null, 0.0),
            };
            if (on is null || Places.Mechanism(input, on) is not { } m)
                continue;
            var mu = line.Number("mu")?.In("") ?? UsualFriction;
            // From the turning axis to where it sits: the tip of the fork less what is left before it, or ahead on the body.
            var radius = m.TipAheadMm is { Value: > 0 } tip ? Math.Max(20, tip.Value - seat) : Math.Max(60, Math.Abs(seat));
            yield return new(line.Name("name")!, m, mu, line.Number("mu") is null, radius, scene.Name);
        }
    }

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        foreach (var finding in Sliding(input).Concat(Slipping(input)))
            yield return finding;
    }

    private IEnumerable<Finding> Sliding(CheckInput input)
    {
        if (input.Rig.Mechanisms.FirstOrDefault(m => m.Facts.Going == Going.Steered) is not { } drive)
            yield break;
        // The loosest one tells for all.
        if (Loads(input).OrderBy(l => l.Mu / l.RadiusMm).FirstOrDefault() is not { } load)
            yield break;
        // Source: the sum load-seat; friction holds against v²/r and against speeding up and braking.
        var answer = LoadSeat.Compute(new(10, 0, 2, load.RadiusMm - 1, load.Mu));
        var sum = answer.Result;
        var holds = 1000 * sum.MaxAccelMPerS2;
        var most = sum.MaxTurnRateDegPerS;
        var stands =
            $"{load.Name} sits on {load.On.Name} (“{load.Scene}”), friction {Show(load.Mu)} "
            + $"{(load.Usual ? "(a guess: usual)" : "(chosen)")} "
            + $"holds it up to {Show(holds / 1000, 3)} m/s²";
        var brake = input.Moves.InUse(drive.Name, TrialKind.Brake) ?? new(900, "mm/s²", Provenance.Guessed, "a usual value");
        var told = false;
        foreach (var command in input.Walk.Commands)
        {
            switch (command.Action)
            {
                case TurnRobotNode turn when Paces.TurningRobot(input, drive, turn) is { } rate && rate.Value > most:
                    yield return At(
                        command.At,
                        Severity.Risky,
                        $"{load.Name} slides off while it turns",
                        $"{stands}, {Show(load.RadiusMm, 3)} mm from the turning axis: up to {Show(most, 3)} deg/s. It turns at "
                            + $"{Show(rate.Value, 3)} "
                            + $"deg/s ({rate.From}). Turn slower, or grip it.",
                        load.On.Name,
                        Slower(command, turn, most / rate.Value)
                    ) with
                    {
                        Sum = Evidence.Of("load-seat", answer),
                    };
                    break;
                case DriveNode or SteerNode when !told && Math.Max(brake.Value, UsualStart) > holds:
                    told = true;
                    var stops = brake.Value > holds;
                    yield return At(
                        command.At,
                        Severity.Risky,
                        $"{load.Name} slides when it {(stops ? "brakes" : "starts")}",
                        $"{stands}. It "
                            + (
                                stops
                                    ? $"brakes with {Show(brake.Value / 1000, 3)} m/s² "
                                        + $"({brake.Kind.ToString().ToLowerInvariant()}: {brake.Source}). "
                                    : $"starts with about {Show(UsualStart / 1000, 2)} m/s² (a guess: usual). "
                            )
                            + "Start and stop gently, or grip it.",
                        load.On.Name
                    );
                    break;
            }
        }
    }

    private static Cure? Slower(WalkedCommand command, TurnRobotNode turn, double share)
    {
        if (turn.Speed is not LiteralNode written || Math.Floor(0.8 * share * written.BaseValue) is not (>= 5 and var value))
            return null;
        var mended = turn with { Speed = new LiteralNode(Show(value), written.Unit) };
        return new(
            $"Use {Show(value)} {written.Unit}",
            [new(command.At.Number, command.With(mended), command.NumberIndex(mended), "four fifths of what friction holds")]
        );
    }

    // Jaws that are told to stop at a force from which a thing slips.
    private IEnumerable<Finding> Slipping(CheckInput input)
    {
        var slips = input
            .Places.SelectMany(s => s.Lines.Where(l => l.Number("slip") is not null).Select(l => (Line: l, Scene: s.Name)))
            .OrderByDescending(s => input.Places.Any(p => p.Name == s.Scene && input.CountsIn(p)))
            .ThenByDescending(s => s.Line.Value("slip"))
            .ToArray();
        if (slips.Length == 0)
            yield break;
        var (thing, scene) = slips[0];
        var least = thing.Value("slip")!.Value;
        var sd = thing.Number("slip")!.GiveOrTake?.In("N") ?? 0;
        foreach (var (sentence, at) in input.Walk.Transitions)
        foreach (var waited in Waited.Of(input, sentence))
        {
            if (
                waited.Sensor is not { Kind: SensorKind.Force } force
                || Places.Target(input.Node, at.State, sentence) is not { } next
                || !Lifts(input, next, sentence, force.On)
                || Begins(input, waited) is not { } begins
                || begins >= least + 2 * sd
            )
                continue;
            var ms = waited.Readings * force.SamplePeriodMs;
            // Jaws go on closing while readings are counted: whether that is enough, the bench tells.
            var shows = (input.Ran ?? []).Any(r =>
                r.Counts
                && r.Failures.Where(f => f.Common?.StartsWith($"what holds {thing.Name("name")}", StringComparison.Ordinal) == true)
                    .Sum(f => f.Count)
                    > 0.05 * r.Runs
            );
            yield return At(
                at,
                shows ? Severity.Risky : Severity.Advice,
                $"{thing.Name("name")} may slip",
                $"{waited.Say} begins at {Show(begins, 3)} N (measured, zones of {force.Name}), and {thing.Name("name")} slips "
                    + $"below {Show(least)} N"
                    + $"{(sd > 0 ? $" give or take {Show(sd)} N" : "")} (“{scene}”). After {Count(waited.Readings, "reading")}, "
                    + $"{Show(ms)} ms, it is lifted: "
                    + "ask for more readings in a row, so that the jaws press on meanwhile, or for a firmer zone.",
                force.Name
            ) with
            {
                ByFigures = shows ? Severity.Advice : null,
            };
        }
    }

    private static bool Lifts(CheckInput input, StateNode next, TransitionNode sentence, string? jaws) =>
        Places
            .Does(input, next)
            .Concat(input.Walk.Commands.Where(c => ReferenceEquals(c.At.Line, sentence)))
            .Any(c =>
                c.Action is DriveNode or TurnRobotNode
                || c.Action switch
                {
                    SendNode s => s.Device,
                    RunNode r => r.Motor,
                    _ => null,
                }
                    is { } name
                    && Places.Mechanism(input, name) is { Facts.Grips: false } m
                    && (jaws is null || !ProgramWalk.Means(m, jaws))
            );

    // The least force that counts as what is waited for, N.
    private static double? Begins(CheckInput input, Waited waited)
    {
        if (waited.Zone is null)
            return waited.Low > 0 ? waited.Low : null;
        if (input.Calibrations.GetValueOrDefault(waited.Sensor.Name)?.Scale() is not { } scale)
            return null;
        var at = scale.Names.ToList().IndexOf(waited.Zone);
        return at > 0 ? scale.Boundaries[at - 1].Threshold : null;
    }
}
