using Chiton.Core.Motion;
using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;

namespace Chiton.Core.Simulation;

/// <summary>What can be made to go wrong in a run.</summary>
public enum FaultKind
{
    /// <summary>A lead is out: a sensor gives nothing, a motor gets nothing.</summary>
    Unplugged,

    /// <summary>The pack gives a third less.</summary>
    FlatBattery,
}

/// <summary>A disturbance of a run.</summary>
/// <param name="Kind">What goes wrong.</param>
/// <param name="Device">Which device; null for the battery.</param>
/// <param name="FromS">When it begins, s.</param>
/// <param name="ToS">When it ends, s; null for the rest of the run.</param>
public sealed record Fault(FaultKind Kind, string? Device, double FromS, double? ToS);

/// <summary>A number that is drawn once a run.</summary>
/// <param name="Name">What it is, in words.</param>
/// <param name="Number">Its value and spread.</param>
public sealed record Drawn(string Name, Quantity Number);

/// <summary>What a goal or never asks of a run.</summary>
/// <param name="Text">The line as written.</param>
/// <param name="IsGoal">True for a goal, false for a never.</param>
/// <param name="Kind">What it speaks of.</param>
/// <param name="Marker">Index of the marker, −1 when none.</param>
/// <param name="LimitMicros">Time limit in µs; <see cref="long.MaxValue"/> when none.</param>
public sealed record RunRule(string Text, bool IsGoal, ConditionKind Kind, int Marker, long LimitMicros);

/// <summary>
/// Everything one run of a rail vehicle needs, bound to one copy and one program. Made once; shared by any number of
/// runs on any number of threads.
/// </summary>
public sealed class RailSetup
{
    internal const int FullSpeed = 0,
        LeastPower = 1,
        Lag = 2,
        Accel = 3,
        Brake = 4,
        CoastTime = 5,
        Delay = 6,
        Battery = 7,
        Nominal = 8,
        PackOhm = 9,
        Stall = 10,
        Controller = 11,
        Capacity = 12,
        Tremble = 13,
        StartAt = 14;

    private RailSetup(CompiledScript program, RigDesign rig, RailMotion motion)
    {
        Program = program;
        directions = rig.Vehicle!.Directions.ToArray();
        Rig = rig;
        Motion = motion;
    }

    private readonly NamedDirection[] directions;

    /// <summary>The program that runs.</summary>
    public CompiledScript Program { get; }

    /// <summary>The rig.</summary>
    public RigDesign Rig { get; }

    /// <summary>The line it runs on.</summary>
    public Rail Rail => Rig.Rail!;

    /// <summary>The vehicle.</summary>
    public Mechanism Vehicle => Rig.Vehicle!;

    /// <summary>How the copy moves.</summary>
    public RailMotion Motion { get; }

    /// <summary>Every number that is drawn once a run, in the order drawn.</summary>
    public IReadOnlyList<Drawn> Draws { get; private init; } = [];

    /// <summary>Goals and nevers in document order.</summary>
    public IReadOnlyList<RunRule> Rules { get; private init; } = [];

    internal int MotorIndex { get; private init; }
    internal Eye[] Eyes { get; private init; } = [];
    internal int FirstMarker { get; private init; }
    internal int FirstSurface { get; private init; }

    /// <summary>Surface index of each marker; the ground is surface 0.</summary>
    internal int[] MarkerSurface { get; private init; } = [];

    internal readonly record struct Eye(
        int Sensor,
        long PeriodMicros,
        double Resolution,
        int SpotDraw,
        int AheadDraw,
        int FirstSurfaceDraw
    );

    /// <summary>Binds a rig, a copy's knowledge and a program.</summary>
    /// <param name="rig">The design.</param>
    /// <param name="motion">How this copy moves.</param>
    /// <param name="calibrations">This copy's calibrations by sensor name.</param>
    /// <param name="program">A program without diagnostics.</param>
    /// <param name="timings">How long the copy's sounds take; null as the design guesses.</param>
    /// <exception cref="InputProblem">When the copy lacks zones that the program needs.</exception>
    public static RailSetup Build(
        RigDesign rig,
        RailMotion motion,
        IReadOnlyDictionary<string, SensorCalibration> calibrations,
        ProgramNode program,
        Timings? timings = null
    )
    {
        if (rig.Rail is not { } rail || rig.Vehicle is not { } vehicle)
            throw new InputProblem(
                "rig",
                "Only a vehicle on a rail can be simulated so far. What you describe and measure here is kept for when this rig can."
            );
        var words = Vocabulary.Of(rig);
        var scales = new Dictionary<string, ZoneScale>();
        foreach (var (sensor, calibration) in calibrations)
            if (calibration.Scale() is { } scale)
                scales[sensor] = scale;
        if (Unmoved(program, rig).FirstOrDefault() is { What: not null } beyond)
            throw new InputProblem(
                "program",
                $"Line {beyond.Line} uses {beyond.What}. The bench has a rail and its vehicle so far; what else a rig moves, measures "
                    + "or is told is checked and kept, and can be walked through."
            );
        var compiled = ScriptCompiler.Compile(program, rig, scales, timings, calibrations);

        var draws = motion.Named.Select(n => new Drawn(n.Name, n.Number)).ToList();
        var at =
            rig.Starts.Count > 0
                ? rig.Starts[0].AtMm
                : throw new InputProblem("rig", "Say in Rig where the vehicle is put down before a run.");
        // Every run is put down by hand anew: that is the placement's own spread, not how well its mean is known.
        draws.Add(
            new(
                "start placement",
                at with
                {
                    Kind = Provenance.Measured,
                    MeanSd = Math.Sqrt(at.BetweenRunsSd * at.BetweenRunsSd + at.MoveSd * at.MoveSd),
                    Min = double.MinValue,
                }
            )
        );
        var surfaces = new[] { rail.Ground }.Concat(rail.Markers.Select(m => m.Surface)).Distinct().ToList();
        var eyes = new List<Eye>();
        foreach (var eye in rig.Eyes)
        {
            var spot = draws.Count;
            draws.Add(new($"spot of {eye.Name}", eye.Spot));
            draws.Add(new($"{eye.Name} ahead", eye.AheadMm with { Min = double.MinValue }));
            var firstSurface = draws.Count;
            foreach (var surface in surfaces)
            {
                var known =
                    calibrations.GetValueOrDefault(eye.Name)?.Reads(surface)
                    ?? rail.Surfaces.FirstOrDefault(s => s.Name == surface)?.Reads
                    ?? throw new InputProblem(
                        "copy",
                        $"Nothing is known of how {eye.Name} sees “{surface}” on this copy. Take at least 3 readings of it in Sense."
                    );
                draws.Add(new($"{eye.Name} over {surface}", known));
            }
            eyes.Add(
                new(
                    words.Sensors.ToList().FindIndex(s => s.Name == eye.Name),
                    (long)Math.Round(eye.SamplePeriodMs * 1000),
                    eye.Resolution,
                    spot,
                    spot + 1,
                    firstSurface
                )
            );
        }
        var firstMarker = draws.Count;
        foreach (var marker in rail.Markers)
            draws.Add(new($"length of {marker.Name}", marker.LengthMm));

        return new(compiled, rig, motion)
        {
            Draws = draws,
            Eyes = [.. eyes],
            FirstMarker = firstMarker,
            FirstSurface = eyes.Count > 0 ? eyes[0].FirstSurfaceDraw : 0,
            MarkerSurface = [.. rail.Markers.Select(m => surfaces.IndexOf(m.Surface))],
            MotorIndex = vehicle.Motor is { } motor ? compiled.DeviceIndex(motor) : -1,
            Rules =
            [
                .. program
                    .Head.OfType<RuleNode>()
                    .Select(r => new RunRule(
                        Printer.Plain(Printer.Pieces(r)),
                        r.IsGoal,
                        r.Condition,
                        r.Place is null ? -1 : rail.Markers.ToList().FindIndex(m => m.Name == r.Place),
                        r.Time is null ? long.MaxValue : (long)Math.Round(RuleTime(r.Time, program) * 1e6)
                    )),
            ],
        };
    }

    /// <summary>Whether a named direction of the vehicle is its motor's own: 1 or −1.</summary>
    internal int SignOf(string? direction)
    {
        if (direction is null or "forward")
            return 1;
        // By hand rather than by query: this stands in the run's loop, which makes nothing anew.
        foreach (var named in directions)
            if (named.Name == direction)
                return named.Forward ? 1 : -1;
        return -1;
    }

    /// <summary>What a program asks of the world that a rail and its vehicle cannot show, with its line.</summary>
    public static IEnumerable<(int Line, string What)> Unmoved(ProgramNode program, RigDesign rig)
    {
        foreach (var r in program.Head.OfType<RuleNode>())
            if (r.Condition is ConditionKind.PastStop or ConditionKind.OverEdge or ConditionKind.LoadOn)
                yield return (r.Span.Line, "a goal or never of this kind");
        bool Own(string name) => rig.Vehicle is { } v && (v.Name == name || v.Motors.Contains(name));
        foreach (var state in program.AllStates)
        foreach (var line in state.Lines)
        foreach (
            var action in Flat(
                line switch
                {
                    ActivityNode a => a.Actions,
                    TransitionNode t => t.Actions,
                    _ => [],
                }
            )
        )
            if (
                action is DriveNode or TurnRobotNode or SteerNode or SteerByNode or FollowNode
                || action is RunNode run
                    && (!Own(run.Motor) || run.Amount is not null || run.Speed is LiteralNode { Unit: not ("%" or "") })
                || action is SendNode { Device: var sent } && Vocabulary.Of(rig).MotorOf(sent) != ActuatorKind.Servo
                || action is StopNode { Mode: StopMode.Hold }
            )
                yield return (line.Span.Line, $"“{Printer.Plain(Printer.Sentence(action))}”");
    }

    private static IEnumerable<ActionNode> Flat(IEnumerable<ActionNode> actions) =>
        actions.SelectMany(a => a.Inner.Any() ? Flat(a.Inner) : [a]);

    // A limit may be written with variables; it means their values at the start.
    private static double RuleTime(ExprNode time, ProgramNode program)
    {
        if (Analysis.Constant(time) is { } constant)
            return constant;
        var values = new Dictionary<string, ExprNode>();
        foreach (var v in program.Head.OfType<VarNode>())
            values[v.Name] = Replace(v.Value, values);
        return Analysis.Constant(Replace(time, values))
            ?? throw new InputProblem("program", $"The time “{Printer.Print(time)}” is too complicated for a goal; write it as a number.");
    }

    private static ExprNode Replace(ExprNode node, Dictionary<string, ExprNode> values) =>
        node switch
        {
            VariableNode v when values.TryGetValue(v.Name, out var value) => value,
            BinaryNode b => b with { Left = Replace(b.Left, values), Right = Replace(b.Right, values) },
            UnaryNode u => u with { Operand = Replace(u.Operand, values) },
            _ => node,
        };
}
