using Chiton.Core.Motion;
using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Chiton.Core.Simulation.Bodies;

namespace Chiton.Core.Simulation;

public sealed partial class BenchPlan
{
    private sealed partial class Builder
    {
        /// <summary>A program of one of the rigs, read but not yet compiled: the scene may still ask something of it.</summary>
        private sealed record Running(int Rig, RigProgram Program, Vocabulary Words)
        {
            public List<ExprNode> Asked { get; } = [];
            public int Rules => Program.Parsed.Program.Head.OfType<RuleNode>().Count();
        }

        private readonly List<Running> running = [];

        private void Programs()
        {
            for (var r = 0; r < rigs.Count; r++)
            {
                var rig = rigs[r].Copy.Rig;
                foreach (var p in RigPrograms.Of(rig).Where(p => p.Runs))
                {
                    if (p.Parsed.Diagnostics.Count > 0)
                        throw new InputProblem(
                            "program",
                            $"The program {In(r, p.Name)} has {Figures.Count(p.Parsed.Diagnostics.Count, "fault")}: line "
                                + $"{p.Parsed.Diagnostics[0].Line}: {p.Parsed.Diagnostics[0].Message}"
                        );
                    running.Add(new(r, p, Vocabulary.For(rig, rig.ProgramAt(p.Index))));
                }
            }
            if (running.Count == 0)
                throw new InputProblem("program", "No program runs on this rig. Put one on its controller first.");
        }

        // Once everything that is asked of them is known.
        private void Compiled()
        {
            var made = new List<NetworkProgram>();
            foreach (var run in running)
            {
                var copy = rigs[run.Rig].Copy;
                made.Add(
                    new(
                        In(run.Rig, run.Program.Name),
                        ScriptCompiler.ForCopy(
                            run.Program.Parsed.Program,
                            run.Words,
                            copy.Rig,
                            copy.Moves.Timings,
                            copy.Calibrations,
                            run.Asked
                        ),
                        run.Program.OnHost
                    )
                );
            }
            plan.Programs = made;
            plan.RigOf = [.. running.Select(r => r.Rig)];
            var delay = rigs[0].Copy.Rig.MessageDelay;
            plan.MessageMicros = (long)((delay?.Value ?? 0) * 1000);
            for (var p = 0; p < made.Count; p++)
                Bind(p, made[p].Script);
        }

        private void Bind(int p, CompiledScript script)
        {
            var r = running[p].Rig;
            var own = running[p].Program.Parsed.Program.OwnNames;
            string Outside(string name) => In(r, own.FirstOrDefault(o => o.Name == name)?.Outside ?? name);
            foreach (var s in senses)
            {
                if (s.In.Length == 0)
                    (s.In, s.ZoneIn) = ([.. Enumerable.Repeat(-1, running.Count)], new int[running.Count][]);
                s.ZoneIn[p] = [];
            }
            for (var i = 0; i < script.Rig.Sensors.Count; i++)
            {
                var name = Outside(script.Rig.Sensors[i].Name);
                if (senses.FirstOrDefault(s => s.Name == name) is not { } sense)
                    continue;
                sense.In[p] = i;
                sense.ZoneIn[p] = [.. sense.Zones.Select(z => script.ZoneIndex(z))];
            }
            Target Of(string device)
            {
                var name = Outside(device);
                if (drives.FindIndex(d => d.Name == name || d.Rig == r && d.Names.Any(n => In(r, n) == name)) is >= 0 and var drive)
                    return new(TargetKind.Drive, drive);
                if (vehicles.FindIndex(v => v.Name == name || movers[v.Mover].Motor == name) is >= 0 and var vehicle)
                    return new(TargetKind.Vehicle, vehicle);
                if (axes.FindIndex(a => a.Name == name || movers[a.Mover].Motor == name) is >= 0 and var axis)
                    return new(TargetKind.Axis, axis);
                return outputs.FindIndex(o => o.Name == name) is >= 0 and var output
                    ? new(TargetKind.Output, output)
                    : new(TargetKind.Nothing, -1);
            }
            plan.Targets = [.. plan.Targets, [.. script.DeviceNames.Select(Of)]];
            var program = running[p].Program.Parsed.Program;
            plan.Orders =
            [
                .. plan.Orders,
                [
                    .. script.Units.Select(u =>
                        u.Activities.Select(a =>
                                a.Node is null || a.Kind is DoKind.Then or DoKind.Together or DoKind.If or DoKind.Repeat
                                    ? default
                                    : Meaning(p, a, script, program)
                            )
                            .ToArray()
                    ),
                ],
            ];
            plan.AsksTurns = [.. plan.AsksTurns, script.Measures];
        }

        private Order Meaning(int p, ScriptActivity a, CompiledScript script, ProgramNode program)
        {
            var target = a.Device >= 0 ? plan.Targets[p][a.Device] : new Target(TargetKind.Nothing, -1);
            var r = running[p].Rig;
            switch (a.Node)
            {
                case RunNode run:
                    return Run(r, target, run, program);
                case DriveNode d when target.Kind == TargetKind.Drive:
                {
                    var drive = drives[target.Index];
                    return new(OrderKind.Straight)
                    {
                        Sign = d.Back ? -1 : 1,
                        Scale = Speed(drive, d.Speed, program, drive.TrackKnown),
                        HasAmount = d.Distance is not null,
                        Way = d.Distance is null ? 0 : Way(drive, d.Distance, program),
                        Percent = Measures.Of(d.Speed, program) is Dimension.Percent or Dimension.None,
                    };
                }
                case TurnRobotNode t when target.Kind == TargetKind.Drive:
                {
                    var drive = drives[target.Index];
                    var pivoting = t.Pivoting == true;
                    var track = pivoting ? drive.PivotKnown : drive.TrackKnown;
                    return new(OrderKind.Turn)
                    {
                        Left = t.Left,
                        Pivoting = pivoting,
                        Scale = Speed(drive, t.Speed, program, pivoting ? 2 * track : track),
                        HasAmount = t.Angle is not null,
                        Way =
                            t.Angle is null ? 0
                            : Measures.Of(t.Angle, program) is Dimension.RobotAngle or Dimension.Angle
                                ? Math.PI / 180 * track * (pivoting ? 1 : 0.5)
                            : Way(drive, t.Angle, program),
                        Percent = Measures.Of(t.Speed, program) is Dimension.Percent or Dimension.None,
                    };
                }
                case SteerNode s when target.Kind == TargetKind.Drive:
                {
                    var drive = drives[target.Index];
                    return new(OrderKind.Steer)
                    {
                        Scale = Speed(drive, s.Left, program, drive.TrackKnown),
                        HasAmount = s.Distance is not null,
                        Way =
                            s.Distance is null || Analysis.Constant(s.Distance) is not { } far ? 0 : far * Way(drive, s.Distance, program),
                        Percent = Measures.Of(s.Left, program) is Dimension.Percent or Dimension.None,
                    };
                }
                case SteerByNode when target.Kind == TargetKind.Drive:
                    return new(OrderKind.Steer) { Scale = drives[target.Index].TopKnown / 100, Percent = true };
                case FollowNode f when target.Kind == TargetKind.Drive:
                    return Follow(r, drives[target.Index], f, program);
                case SendNode { Position: null } home when target.Kind == TargetKind.Axis:
                {
                    var axis = axes[target.Index];
                    return new(OrderKind.Home) { Scale = home.Speed is null ? axis.UsualSpeed * 0.67 : Rate(axis, home.Speed, program) };
                }
                case SendNode send when target.Kind == TargetKind.Axis:
                {
                    var axis = axes[target.Index];
                    return new(OrderKind.Place)
                    {
                        Place = Position(axis, send.Position!, p),
                        Scale = send.Speed is null ? axis.UsualSpeed : Rate(axis, send.Speed, program),
                        Text =
                            send.Way == Core.Programs.Language.TurnWay.Shortest ? "shortest"
                            : send.Way == Core.Programs.Language.TurnWay.Clockwise ? "clockwise"
                            : send.Way == Core.Programs.Language.TurnWay.CounterClockwise ? "counter"
                            : "",
                    };
                }
                case SetServoNode set when target.Kind == TargetKind.Axis:
                {
                    var axis = axes[target.Index];
                    return new(OrderKind.Place)
                    {
                        Place = set.Position is null ? double.NaN : Position(axis, set.Position, p),
                        Scale = set.Speed is null
                            ? movers[axis.Mover].Kind == ActuatorKind.Servo
                                ? 1e6
                                : axis.UsualSpeed
                            : Rate(axis, set.Speed, program),
                        Text = "",
                    };
                }
                case StepNode when target.Kind == TargetKind.Axis:
                {
                    var axis = axes[target.Index];
                    var per =
                        rigs[r].Copy.Rig.Actuators.FirstOrDefault(x => In(r, x.Name) == movers[axis.Mover].Motor)?.StepsPerTurn ?? 200;
                    return new(OrderKind.Step) { Way = 360 / per, Scale = 360 / per };
                }
                case StopNode stop:
                    return new(OrderKind.Stop)
                    {
                        Stop = stop.Mode,
                        Wheel = target.Kind == TargetKind.Drive ? WheelOf(r, drives[target.Index], stop.Motor) : 0,
                    };
                case StopAllNode:
                    return new(OrderKind.Stop);
                case LampNode lamp:
                    return new(lamp.On ? OrderKind.On : OrderKind.Off) { Text = lamp.Colour ?? "" };
                case EyeLampNode lamp:
                    return new(lamp.On ? OrderKind.On : OrderKind.Off) { Text = "" };
                case BlinkNode:
                    return new(OrderKind.Blink);
                case ToneNode or BeepNode or PlayNode:
                    return new(OrderKind.Sound) { Text = a.Node is PlayNode play ? play.Text : "" };
                case ShowNode show:
                    return new(OrderKind.Show) { Text = show.Text };
                case ShowValueNode:
                    return new(OrderKind.Show);
                default:
                    return default;
            }
        }

        private double Position(AxisSpec axis, string position, int p) =>
            axis.Positions.TryGetValue(position, out var at)
                ? at
                : throw new InputProblem(
                    "copy",
                    $"{running[p].Program.Name} sends {axis.Name} to {position}, which was never found on this copy: "
                        + "move it there by hand in Sense and record its angle."
                );

        private int WheelOf(int r, DriveSpec drive, string name) =>
            movers[drive.Left].Motor == In(r, name) ? drive.Left + 1
            : movers[drive.Right].Motor == In(r, name) ? drive.Right + 1
            : 0;

        private Order Run(int r, Target target, RunNode run, ProgramNode program)
        {
            var rig = rigs[r].Copy.Rig;
            var mechanism = rig.Mechanisms.FirstOrDefault(m => m.Name == run.Motor || m.Motors.Contains(run.Motor));
            var sign =
                run.Direction is null or "forward" ? 1
                : mechanism?.Directions.FirstOrDefault(d => d.Name == run.Direction) is { } named
                    ? named.Forward ? 1
                        : -1
                : -1;
            var percent = Measures.Of(run.Speed, program) is Dimension.Percent or Dimension.None;
            if (target.Kind == TargetKind.Drive)
            {
                var drive = drives[target.Index];
                return new(run.Amount is null ? OrderKind.Speed : OrderKind.Amount)
                {
                    Sign = sign,
                    Scale = Speed(drive, run.Speed, program, drive.TrackKnown),
                    HasAmount = run.Amount is not null,
                    Way = run.Amount is null ? 0 : Way(drive, run.Amount, program),
                    Wheel = WheelOf(r, drive, run.Motor),
                    Percent = percent,
                };
            }
            var mover =
                target.Kind == TargetKind.Vehicle ? vehicles[target.Index].Mover
                : target.Kind == TargetKind.Axis ? axes[target.Index].Mover
                : -1;
            if (mover < 0)
                return default;
            var spec = movers[mover];
            var full = draws[spec.Full].Usual;
            var plain = spec.Kind == ActuatorKind.PlainMotor;
            var way = 0.0;
            if (run.Amount is { } amount)
                way = Measures.Of(amount, program) switch
                {
                    Dimension.MotorAngle or Dimension.Angle or Dimension.None => target.Kind == TargetKind.Vehicle
                        ? 1 / spec.DegPerUnit
                        : 1,
                    Dimension.WheelAngle => 1 / spec.PartDegPerUnit,
                    Dimension.Length => target.Kind == TargetKind.Vehicle ? 1
                    : axes[target.Index].MmPerUnit > 0 ? 1 / axes[target.Index].MmPerUnit
                    : 1,
                    Dimension.RobotAngle => 1 / spec.PartDegPerUnit,
                    _ => 1,
                };
            return new(
                run.Amount is not null ? OrderKind.Amount
                : plain ? OrderKind.Power
                : OrderKind.Speed
            )
            {
                Sign = sign,
                Scale =
                    plain && percent ? 1
                    : percent ? full / 100
                    : Measures.Of(run.Speed, program) == Dimension.Speed
                        ? target.Kind == TargetKind.Vehicle ? 1
                            : 1 / Math.Max(1e-6, axes[target.Index].MmPerUnit)
                    : target.Kind == TargetKind.Vehicle ? 1 / spec.DegPerUnit
                    : 1,
                HasAmount = run.Amount is not null,
                Way = way,
                Percent = percent,
            };
        }

        private Order Follow(int r, DriveSpec drive, FollowNode f, ProgramNode program)
        {
            var sense = senses.FindIndex(s =>
                s.Name
                == In(
                    r,
                    running.First(x => x.Rig == r).Program.Parsed.Program.OwnNames.FirstOrDefault(o => o.Name == f.Eye)?.Outside ?? f.Eye
                )
            );
            var s = sense >= 0 ? senses[sense] : throw new InputProblem("program", $"There is no eye “{f.Eye}” to follow with.");
            (string Zone, double Mean)[] means =
            [
                .. s
                    .Zones.Select(
                        (z, i) =>
                            (
                                z,
                                s.ZoneSurface[i] >= 0 && s.Means[s.ZoneSurface[i]] >= 0
                                    ? draws[s.Means[s.ZoneSurface[i]]].Usual
                                    : double.NaN
                            )
                    )
                    .Where(z => !double.IsNaN(z.Item2))
                    .OrderBy(z => z.Item2),
            ];
            if (means.Length < 2)
                throw new InputProblem(
                    "copy",
                    $"{s.Name} needs readings of two zones on this copy before a line can be followed: record them in Sense."
                );
            var zone = f.Zone is null ? means[0] : means.FirstOrDefault(m => m.Zone == f.Zone);
            if (zone.Zone is null)
                throw new InputProblem("copy", $"{s.Name} has no readings of “{f.Zone}” on this copy yet. Take at least 3 in Sense.");
            var far = Math.Abs(means[0].Mean - zone.Mean) > Math.Abs(means[^1].Mean - zone.Mean) ? means[0].Mean : means[^1].Mean;
            // On the right edge of something dark, a darker reading asks for a turn to the right.
            var side = (zone.Mean < far ? 1 : -1) * (f.LeftEdge == true ? -1 : 1);
            return new(OrderKind.Follow)
            {
                Sense = sense,
                Point = (zone.Mean + far) / 2,
                Side = side,
                Scale = Speed(drive, f.Speed, program, drive.TrackKnown),
                Percent = Measures.Of(f.Speed, program) is Dimension.Percent or Dimension.None,
            };
        }

        // What a speed is multiplied with to be mm/s of a wheel: a share of its top speed, a speed, or a rate of turn.
        private static double Speed(DriveSpec drive, ExprNode speed, ProgramNode program, double track) =>
            Measures.Of(speed, program) switch
            {
                Dimension.Percent or Dimension.None => drive.TopKnown / 100,
                Dimension.AngularSpeed => Math.PI / 180 * track / 2,
                _ => 1,
            };

        private double Way(DriveSpec drive, ExprNode amount, ProgramNode program) =>
            Measures.Of(amount, program) switch
            {
                Dimension.WheelAngle => Math.PI * drive.WheelKnown / 360,
                Dimension.MotorAngle or Dimension.Angle => 1 / movers[drive.Left].DegPerUnit,
                _ => 1,
            };

        private double Rate(AxisSpec axis, ExprNode speed, ProgramNode program) =>
            (Analysis.Constant(speed) ?? 30)
            * (
                Measures.Of(speed, program) is Dimension.Percent or Dimension.None ? draws[movers[axis.Mover].Full].Usual / 100
                : Measures.Of(speed, program) == Dimension.Speed && axis.MmPerUnit > 0 ? 1 / axis.MmPerUnit
                : 1
            );
    }
}
