using Chiton.Core.Motion;
using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Statecharts;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;

namespace Chiton.Core.Programs.Engine;

public static partial class ScriptCompiler
{
    private sealed partial class Builder
    {
        private int Activity(ActionNode action, List<ScriptActivity> into)
        {
            int Add(ScriptActivity made)
            {
                foreach (var child in made.Children)
                    into[child].Parent = into.Count;
                into.Add(made);
                return into.Count - 1;
            }
            int[] Inner(Sequence<ActionNode> list) => [.. list.Select(a => Activity(a, into))];
            int Drive() => rig.Mechanisms.Where(m => m.Going == Going.Steered).Select(m => devices[m.Name]).DefaultIfEmpty(-1).First();
            int Move(int device, bool finite, Code? value, Code? second = null, Code? lasts = null, bool limited = false) =>
                Add(
                    new()
                    {
                        Kind = DoKind.Move,
                        Device = device,
                        Finite = finite,
                        Value = value,
                        Second = second,
                        Lasts = lasts,
                        Limited = limited,
                        Node = action,
                    }
                );
            switch (action)
            {
                case ThenNode t:
                    return Add(
                        new()
                        {
                            Kind = DoKind.Then,
                            Children = Inner(t.Steps),
                            Node = t,
                        }
                    );
                case TogetherNode t:
                    return Add(
                        new()
                        {
                            Kind = DoKind.Together,
                            Children = Inner(t.Parts),
                            Node = t,
                        }
                    );
                case GroupNode g:
                    return Add(
                        new()
                        {
                            Kind = DoKind.Together,
                            Children = Inner(g.Actions),
                            Node = g,
                        }
                    );
                case IfNode i:
                    return Add(
                        new()
                        {
                            Kind = DoKind.If,
                            Value = Expr(i.Condition, null),
                            Children = Inner(i.Inner.ToSequence()),
                            Node = i,
                        }
                    );
                case WaitNode w:
                    return Move(-1, true, null, lasts: Expr(w.Time, null));
                case RepeatUntilNode r:
                    return Add(
                        new()
                        {
                            Kind = DoKind.Repeat,
                            Children = [Add(new() { Kind = DoKind.Together, Children = Inner(r.Actions) })],
                            Second = Expr(r.Until, null),
                            Node = r,
                        }
                    );
                case RepeatNode r:
                    return Add(
                        new()
                        {
                            Kind = DoKind.Repeat,
                            Children = [Add(new() { Kind = DoKind.Together, Children = Inner(r.Actions) })],
                            Value = Expr(r.Times, null),
                            Node = r,
                        }
                    );
                case SetNode s when queueSlots.TryGetValue(s.Variable, out var emptied):
                    return Add(
                        new()
                        {
                            Kind = DoKind.Set,
                            Slot = ~emptied,
                            Node = s,
                        }
                    );
                case SetNode s:
                    return Add(
                        new()
                        {
                            Kind = DoKind.Set,
                            Slot = slots[s.Variable],
                            Value = Expr(s.Value, null),
                            Node = s,
                        }
                    );
                case PushNode q:
                    return Add(
                        new()
                        {
                            Kind = DoKind.Push,
                            Slot = queueSlots[q.Queue],
                            Value = Expr(q.Value, null),
                            Node = q,
                        }
                    );
                case TakeNode q:
                    return Add(
                        new()
                        {
                            Kind = DoKind.Take,
                            Slot = queueSlots[q.Queue],
                            Other = slots[q.Variable],
                            Node = q,
                        }
                    );
                case TellNode t:
                    return Add(
                        new()
                        {
                            Kind = DoKind.Tell,
                            Slot = programs.IndexOf(t.Program),
                            Other = Text(t.Text),
                            Args = [.. t.With.Select(w => Expr(w, null))],
                            Node = t,
                        }
                    );
                case TeachNode t:
                {
                    var eye = Array.IndexOf(sensors, t.Sensor);
                    int Teach(bool looks, int zone) =>
                        Add(
                            new()
                            {
                                Kind = DoKind.Teach,
                                Slot = eye,
                                Other = zone,
                                Finite = looks,
                                Node = t.Time is null ? t : null,
                            }
                        );
                    var zone = Array.IndexOf(zones, t.Zone);
                    // It needs every reading of the sensor, and for a time it looks, waits and then knows.
                    numbers[eye] = true;
                    return t.Time is null
                        ? Teach(false, zone)
                        : Add(
                            new()
                            {
                                Kind = DoKind.Then,
                                Children = [Teach(true, -1), Move(-1, true, null, lasts: Expr(t.Time, null)), Teach(true, zone)],
                                Node = t,
                            }
                        );
                }
                case ZeroNode z:
                    return Add(
                        new()
                        {
                            Kind = DoKind.Zero,
                            Device = devices[z.Device],
                            Node = z,
                        }
                    );
                case ShowNode s:
                    return Add(
                        new()
                        {
                            Kind = DoKind.Show,
                            Other = Text(s.Text),
                            Node = s,
                        }
                    );
                case ShowValueNode s:
                    return Add(
                        new()
                        {
                            Kind = DoKind.Show,
                            Value = Expr(s.Value, null),
                            Node = s,
                        }
                    );
                case LampNode l:
                    return Add(
                        new()
                        {
                            Kind = l.On ? DoKind.LampOn : DoKind.LampOff,
                            Device = devices[l.Lamp],
                            Node = l,
                        }
                    );
                case EyeLampNode l:
                    return Add(
                        new()
                        {
                            Kind = l.On ? DoKind.LampOn : DoKind.LampOff,
                            Device = Known($"lamp of {l.Sensor}"),
                            Node = l,
                        }
                    );
                case StopNode s:
                    return Add(
                        new()
                        {
                            Kind = DoKind.Stop,
                            Device = devices[s.Motor],
                            Node = s,
                        }
                    );
                case StopAllNode:
                    return Add(new() { Kind = DoKind.StopAll, Node = action });
                case RunNode r:
                    return Move(
                        devices[r.Motor],
                        r.Amount is not null || r.UpTo is not null || r.Time is not null,
                        Expr(r.Speed, null),
                        r.Amount is null ? null : Expr(r.Amount, null),
                            // Of a time and a limit the shorter one ends it.
                            r.Time
                                is { } time
                            && r.UpTo is { } most
                                ? new Function("min", [Expr(time, null), Expr(most, null)])
                            : (r.Time ?? r.UpTo) is { } either ? Expr(either, null)
                            : null,
                        limited: r.UpTo is not null && (r.Time is null || Analysis.Constant(r.Time) > Analysis.Constant(r.UpTo))
                    );
                case DriveNode d:
                    return Move(
                        Drive(),
                        d.Distance is not null || d.Time is not null,
                        Expr(d.Speed, null),
                        d.Distance is null ? null : Expr(d.Distance, null),
                        d.Time is null ? null : Expr(d.Time, null)
                    );
                case TurnRobotNode t:
                    return Move(
                        Drive(),
                        t.Angle is not null || t.Time is not null,
                        Expr(t.Speed, null),
                        t.Angle is null ? null : Expr(t.Angle, null),
                        t.Time is null ? null : Expr(t.Time, null)
                    );
                case SteerNode s:
                    return Move(
                        Drive(),
                        s.Time is not null || s.Distance is not null,
                        Expr(s.Left, null),
                        Expr(s.Right, null),
                        s.Time is null ? null : Expr(s.Time, null)
                    );
                case SteerByNode s:
                    return Move(
                        Drive(),
                        false,
                        new Stick(Angle(s.Ahead), Angle(s.Turn), s.DeadBand is null ? null : Expr(s.DeadBand, null), 1),
                        new Stick(Angle(s.Ahead), Angle(s.Turn), s.DeadBand is null ? null : Expr(s.DeadBand, null), -1)
                    );
                case FollowNode f:
                    return Move(Drive(), false, Expr(f.Speed, null), Expr(f.Gain, null));
                // Nobody hears a servo arrive: its done is a time.
                case SendNode s:
                    return Move(
                        devices[s.Device],
                        true,
                        null,
                        lasts: rig.MotorOf(s.Device) == ActuatorKind.Servo ? Swing(s.Device, s.Speed) : null
                    );
                case SetServoNode s:
                    return Move(devices[s.Device], true, s.Angle is null ? null : Expr(s.Angle, null), lasts: Swing(s.Device, s.Speed));
                case StepNode s:
                    return Move(
                        devices[s.Device],
                        true,
                        Expr(s.Count, null),
                        Expr(s.Rate, null),
                        new Ratio(Expr(s.Count, null), Expr(s.Rate, null))
                    );
                case BlinkNode b:
                    return Move(
                        devices[b.Lamp],
                        b.Times is not null,
                        Expr(b.On, null),
                        Expr(b.Off, null),
                        b.Times is null ? null : new Blinks(Expr(b.On, null), Expr(b.Off, null), Expr(b.Times, null))
                    );
                case ToneNode t:
                    return Move(Sounder(), true, Expr(t.Frequency, null), null, Expr(t.Time, null));
                case BeepNode b:
                    return Move(
                        Sounder(),
                        b.Times is not null,
                        Expr(b.Frequency, null),
                        null,
                        b.Times is null ? null : new Blinks(Expr(b.On, null), Expr(b.Off, null), Expr(b.Times, null))
                    );
                case PlayNode p:
                    return Move(
                        Sounder(),
                        true,
                        null,
                        null,
                        p.Time is null ? new Constant(timings.SoundS(rig.Named(ActuatorKind.Sounder).FirstOrDefault())) : Expr(p.Time, null)
                    );
                case DoNode d:
                    return Add(
                        new()
                        {
                            Kind = DoKind.Routine,
                            Finite = true,
                            Args = [.. d.Arguments.Select(a => Expr(a, null))],
                            Unit = Call(d),
                            Node = d,
                        }
                    );
                default:
                    throw new InvalidOperationException($"No table form for {action.GetType().Name}.");
            }
        }

        // How long a servo takes at most: from end to end, at its own speed, a part of it, or so many degrees a second.
        private Code Swing(string device, ExprNode? speed)
        {
            var whole = timings.SwingS(device);
            if (speed is null)
                return new Constant(whole);
            var asked = Expr(speed, null);
            if (Measures.Of(speed, program) == Dimension.Percent)
                return new Ratio(new Constant(whole * 100), asked);
            var slow = new Ratio(new Constant(timings.Spans.GetValueOrDefault(device, whole * Timings.UsualServoDegPerS)), asked);
            return new Function("max", [new Constant(whole), slow]);
        }

        // What a stick stands at: the angle of a motor that is turned by hand, or what a sensor reads.
        private Code Angle(string stick)
        {
            if (devices.TryGetValue(stick, out var device))
                return Looked(device, false);
            var sensor = Array.IndexOf(sensors, stick);
            numbers[sensor] = true;
            return new Reading(sensor);
        }

        private int Known(string name)
        {
            if (!devices.ContainsKey(name))
                Device(name);
            return devices[name];
        }

        // A rig without a sounder has one in its controller.
        private int Sounder()
        {
            var name = rig.Named(ActuatorKind.Sounder).FirstOrDefault() ?? "controller sound";
            return Known(name);
        }

        // Each call has the routine's states and parameters for itself.
        private int Call(DoNode d)
        {
            var routine = program.Routines.First(r => r.Name == d.Routine);
            if (units.Count > MostCalls)
                throw new InputProblem(
                    "program",
                    $"Routines are called in more than {MostCalls} places, those inside routines counted each time."
                );
            var index = units.Count;
            units.Add(null);
            var outer = parameters;
            parameters = [];
            foreach (var p in routine.Parameters)
            {
                parameters[p] = variables.Count;
                variables.Add($"{routine.Name}: {p}");
            }
            units[index] = Unit(routine.Name, routine.Regions, [.. routine.Parameters.Select(p => parameters[p])]);
            parameters = outer;
            return index;
        }
    }
}
