using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Programs.Language;

public static partial class Analysis
{
    private const string ThreeDegrees = " Degrees of the motor, of the wheel and of the robot are three different things.";

    private sealed partial class Checker
    {
        private static IEnumerable<ActionNode> Leaves(ActionNode action) => action.Inner.Any() ? action.Inner.SelectMany(Leaves) : [action];

        // Something that never ends by itself.
        private static bool Endless(ActionNode a) =>
            a
                is RunNode { Amount: null, UpTo: null, Time: null }
                    or DriveNode { Distance: null, Time: null }
                    or TurnRobotNode { Angle: null, Time: null }
                    or SteerNode { Distance: null, Time: null }
                    or SteerByNode
                    or FollowNode
                    or BlinkNode { Times: null }
                    or BeepNode { Times: null };

        private void Lasting(ActionNode action)
        {
            // A condition is judged anew all the while, so that what it does must go on as well.
            if (action is IfNode or TogetherNode or GroupNode)
            {
                foreach (var part in action.Inner)
                    Lasting(part);
                return;
            }
            if (action is SetNode or StopNode or StopAllNode or PushNode or TakeNode or ZeroNode or TeachNode or TellNode)
                Say(
                    action.Span,
                    "while here",
                    "“while here” is for something that goes on: run, turn on, tone, show. Put this in “on entry”."
                );
        }

        // A program commands only what hangs on its own controller.
        private void Reach(ActionNode action)
        {
            string? name = action switch
            {
                RunNode r => r.Motor,
                StopNode s => s.Motor,
                LampNode l => l.Lamp,
                SendNode s => s.Device,
                ZeroNode z => z.Device,
                SetServoNode s => s.Device,
                StepNode s => s.Device,
                BlinkNode b => b.Lamp,
                DriveNode or TurnRobotNode or SteerNode or SteerByNode or FollowNode => rig
                    .Mechanisms.FirstOrDefault(m => m.Going == Going.Steered)
                    ?.Name,
                _ => null,
            };
            if (name is not null && rig.Elsewhere.TryGetValue(name, out var other))
                Say(
                    action.Span,
                    name,
                    $"{name} hangs on {other}, and this program runs on {rig.Here}: it cannot command it. "
                        + $"Tell the program on {other} to do "
                        + $"it, run this one on a host, or wire {name} to {rig.Here}."
                );
        }

        private void Action(ActionNode action)
        {
            if (rig.Elsewhere.Count > 0)
                Reach(action);
            switch (action)
            {
                case ThenNode t:
                    foreach (var step in t.Steps)
                        Action(step);
                    foreach (var step in t.Steps.Take(t.Steps.Count - 1))
                        if (Leaves(step).FirstOrDefault(Endless) is { } endless)
                            Say(
                                endless.Span,
                                "then",
                                $"“{Printer.Plain(Printer.Sentence(endless))}” never ends by itself, so what follows never begins. "
                                    + "Say how far or how long."
                            );
                    break;
                case TogetherNode t:
                    foreach (var part in t.Parts)
                        Action(part);
                    break;
                case GroupNode g:
                    foreach (var part in g.Actions)
                        Action(part);
                    break;
                case IfNode i:
                    ExpectTruth(i.Condition);
                    foreach (var part in i.Inner)
                        Action(part);
                    break;
                case WaitNode w:
                    Expect(w.Time, Dimension.Time, "a time");
                    break;
                case RepeatUntilNode r:
                    ExpectTruth(r.Until);
                    foreach (var part in r.Actions)
                        Action(part);
                    if (r.Actions.SelectMany(Leaves).FirstOrDefault(Endless) is { } forever)
                        Say(
                            forever.Span,
                            "repeat",
                            $"“{Printer.Plain(Printer.Sentence(forever))}” never ends by itself, so it is never repeated. Say how far "
                                + "or how long."
                        );
                    break;
                case RepeatNode r:
                    Expect(r.Times, Dimension.None, "a count");
                    if (Analysis.Constant(r.Times) is { } count && (count < 0 || count != Math.Floor(count)))
                        Say(r.Times.Span, Printer.Print(r.Times), "Repeat a whole number of times.");
                    foreach (var part in r.Actions)
                        Action(part);
                    if (r.Actions.SelectMany(Leaves).FirstOrDefault(Endless) is { } going)
                        Say(
                            going.Span,
                            "repeat",
                            $"“{Printer.Plain(Printer.Sentence(going))}” never ends by itself, so it is never repeated. Say how far "
                                + "or how long."
                        );
                    break;
                case SetNode s:
                    Set(s);
                    break;
                case RunNode r:
                    Run(r);
                    break;
                case ToneNode t:
                    Expect(t.Frequency, Dimension.Frequency, "a frequency in Hz");
                    Expect(t.Time, Dimension.Time, "a time");
                    break;
                case BlinkNode b:
                    Expect(b.On, Dimension.Time, "a time");
                    Expect(b.Off, Dimension.Time, "a time");
                    if (b.Times is not null)
                        Expect(b.Times, Dimension.None, "a count");
                    break;
                case BeepNode b:
                    Expect(b.Frequency, Dimension.Frequency, "a frequency in Hz");
                    Expect(b.On, Dimension.Time, "a time");
                    Expect(b.Off, Dimension.Time, "a time");
                    if (b.Times is not null)
                        Expect(b.Times, Dimension.None, "a count");
                    break;
                case PlayNode { Time: { } lasts }:
                    Expect(lasts, Dimension.Time, "a time");
                    break;
                case ShowValueNode s:
                    // Texts and values in a row are shown one after the other.
                    foreach (var part in Shown(s.Value))
                        TypeOf(part);
                    break;
                case DriveNode d:
                    Drive(d.Span, "drive");
                    if (d.Distance is not null)
                        ExpectWay(d.Distance);
                    if (d.Time is not null)
                        Expect(d.Time, Dimension.Time, "a time");
                    DriveSpeed(d.Speed);
                    break;
                case TurnRobotNode t:
                    Drive(t.Span, "turn robot");
                    if (t.Angle is not null)
                        ExpectAngle(t.Angle, Dimension.RobotAngle, "robot degrees");
                    if (t.Time is not null)
                        Expect(t.Time, Dimension.Time, "a time");
                    // A turn may also be said in how fast the robot turns.
                    if (TypeOf(t.Speed) is not { Known: true, IsNumber: true, Dimension: Dimension.AngularSpeed })
                        DriveSpeed(t.Speed);
                    break;
                case SteerNode s:
                    Drive(s.Span, "steer");
                    DriveSpeed(s.Left);
                    DriveSpeed(s.Right);
                    if (s.Time is not null)
                        Expect(s.Time, Dimension.Time, "a time");
                    if (s.Distance is not null)
                        ExpectWay(s.Distance);
                    break;
                case SteerByNode s:
                    Drive(s.Span, "steer");
                    if (s.DeadBand is { } dead && TypeOf(dead) is { Known: true } band && !(band.IsNumber && IsAngle(band.Dimension)))
                        Say(dead.Span, Printer.Print(dead), $"A dead band is an angle in deg; this is {band.Say}.");
                    break;
                case FollowNode f:
                    Drive(f.Span, "follow");
                    DriveSpeed(f.Speed);
                    Expect(f.Gain, Dimension.None, "a plain number");
                    break;
                case SendNode s:
                    if (rig.MotorOf(s.Device) == ActuatorKind.PlainMotor)
                        Say(
                            s.Span,
                            s.Device,
                            $"{s.Device} has a plain motor, which cannot measure where it is: it cannot be sent anywhere. Run it "
                                + "until a sensor says stop."
                        );
                    else if (s.Position is null && rig.Mechanisms.FirstOrDefault(m => m.Name == s.Device) is { HasHome: false })
                        Say(
                            s.Span,
                            s.Device,
                            $"{s.Device} has no sensor at an end, so nothing tells where its home is. "
                                + "Say in Rig which end a sensor tells, or run "
                                + "it slowly against its stop up to a time."
                        );
                    if (s.Speed is not null)
                        MotorSpeed(s.Speed);
                    break;
                case SetServoNode { Position: not null, Speed: { } pace }:
                    MotorSpeed(pace);
                    break;
                case SetServoNode { Angle: { } angle }:
                    var turned = TypeOf(angle);
                    if (
                        turned.Known
                        && !(turned.IsNumber && (turned.Dimension == Dimension.Angle || turned.Dimension == Dimension.MotorAngle))
                    )
                        Say(angle.Span, Printer.Print(angle), $"A servo is set to an angle in deg; this is {turned.Say}.");
                    else if (Analysis.Constant(angle) is { } at && at is < 0 or > 180)
                        Say(angle.Span, Printer.Print(angle), "A servo goes from 0 to 180 deg.");
                    if (action is SetServoNode { Speed: { } fast })
                        MotorSpeed(fast);
                    break;
                case StepNode s:
                    Expect(s.Count, Dimension.None, "a count of steps");
                    Expect(s.Rate, Dimension.Frequency, "a rate in Hz");
                    break;
                case TellNode t:
                    foreach (var value in t.With)
                        if (TypeOf(value).Kind == Kind.Queue)
                            Say(value.Span, Printer.Print(value), "A whole queue cannot be told; tell its values one by one.");
                    break;
                case PushNode q:
                    Queue(q.Queue, q.Span);
                    if (TypeOf(q.Value).Kind == Kind.Queue)
                        Say(q.Value.Span, Printer.Print(q.Value), "A queue cannot be put into a queue.");
                    break;
                case TakeNode q:
                    Queue(q.Queue, q.Span);
                    Changeable(q.Variable, q.Span);
                    break;
                case DoNode d:
                    if (
                        program.Routines.FirstOrDefault(r => r.Name == d.Routine) is { } routine
                        && routine.Parameters.Count != d.Arguments.Count
                    )
                        Say(
                            d.Span,
                            d.Routine,
                            $"“{d.Routine}” takes "
                                + $"{(routine.Parameters.Count == 0 ? "nothing" : string.Join(" and ", routine.Parameters))}; "
                                + $"here {(d.Arguments.Count == 1 ? "is one value" : $"are {d.Arguments.Count} values")}."
                        );
                    foreach (var argument in d.Arguments)
                        TypeOf(argument);
                    break;
                case TeachNode t:
                    if (t.Time is { } looking)
                        Expect(looking, Dimension.Time, "a time");
                    if (rig.Sensors.FirstOrDefault(e => e.Name == t.Sensor) is { Teachable: false })
                        Say(
                            t.Span,
                            t.Sensor,
                            $"{t.Sensor} cannot be taught while it runs: only a sensor whose zones are told apart by a threshold between "
                                + "two numbers can."
                        );
                    break;
                case ZeroNode z:
                    if (rig.MotorOf(z.Device) == ActuatorKind.PlainMotor)
                        Say(z.Span, z.Device, $"{z.Device} is a plain motor and knows no angle that could be 0.");
                    break;
                case StopNode { Mode: StopMode.Hold } h:
                    if (rig.MotorOf(h.Motor) == ActuatorKind.PlainMotor)
                        Say(
                            h.Span,
                            h.Motor,
                            $"{h.Motor} is a plain motor and cannot hold its place: brake it, or stop it against something."
                        );
                    break;
            }
        }

        // What is shown: the parts that “+” joins once a text is among them.
        private static IEnumerable<ExprNode> Shown(ExprNode node) =>
            node is BinaryNode { Operator: Operator.Add } b && HasText(b) ? Shown(b.Left).Append(b.Right) : [node];

        private static bool HasText(ExprNode node) =>
            node is TextNode || node is BinaryNode { Operator: Operator.Add } b && (HasText(b.Left) || HasText(b.Right));

        private void MotorSpeed(ExprNode speed)
        {
            var type = TypeOf(speed);
            if (type.Known && !(type.IsNumber && type.Dimension is Dimension.Percent or Dimension.AngularSpeed))
                Say(speed.Span, Printer.Print(speed), $"A motor goes at a speed in % or deg/s; this is {type.Say}.");
            else if (type.Known)
                Power(speed, type);
        }

        // A way of a drive: a length, or turns or degrees of its wheels or motors.
        private void ExpectWay(ExprNode way)
        {
            var type = TypeOf(way);
            if (type.Known && !(type.IsNumber && type.Dimension is Dimension.Length or Dimension.WheelAngle or Dimension.MotorAngle))
                Say(
                    way.Span,
                    Printer.Print(way),
                    $"How far it drives is a length, wheel turns, wheel deg or motor deg; this is {type.Say}."
                );
        }

        private void Changeable(string variable, Span span)
        {
            if (constants.Contains(variable))
                Say(span, variable, $"“{variable}” is a constant and cannot be changed. Write var instead of const.");
            else if (inside is { } routine && !types.ContainsKey(variable) && routine.Parameters.Contains(variable))
                Say(span, variable, $"“{variable}” is a parameter: it is given by who calls the routine.");
        }

        private void Set(SetNode s)
        {
            Changeable(s.Variable, s.Span);
            var wanted = types.GetValueOrDefault(s.Variable);
            var given = TypeOf(s.Value);
            if (given.Known && wanted.Known && !wanted.Fits(given))
                Say(s.Value.Span, Printer.Print(s.Value), $"“{s.Variable}” holds {wanted.Say}, but this is {given.Say}.");
            if (given.Kind == Kind.Queue && s.Value is not QueueNode)
                Say(s.Value.Span, Printer.Print(s.Value), "A queue cannot be copied; push onto it and take from it.");
        }

        private void Queue(string name, Span span)
        {
            if (types.TryGetValue(name, out var type) && type.Known && type.Kind != Kind.Queue)
                Say(span, name, $"“{name}” is no queue; it holds {type.Say}. Write “var {name} = queue”.");
        }

        private void Drive(Span span, string what)
        {
            if (rig.Mechanisms.All(m => m.Going != Going.Steered))
                Say(span, what, $"“{what}” needs a two-wheel drive, and this rig has none. Describe it in Rig.");
        }

        private void DriveSpeed(ExprNode speed)
        {
            var plain = rig.Mechanisms.FirstOrDefault(m => m.Going == Going.Steered)?.Motor == ActuatorKind.PlainMotor;
            var type = TypeOf(speed);
            if (!type.Known)
                return;
            if (type.IsNumber && (type.Dimension == Dimension.Percent || !plain && type.Dimension == Dimension.Speed))
                Power(speed, type);
            else
                Say(
                    speed.Span,
                    Printer.Print(speed),
                    plain
                        ? $"This drive has plain motors and takes power in % only; this is {type.Say}."
                        : $"A drive goes at a speed in % or mm/s; this is {type.Say}."
                );
        }

        private void Power(ExprNode node, Type type)
        {
            if (type.Dimension == Dimension.Percent && Analysis.Constant(node) is { } power && Math.Abs(power) > 100)
                Say(node.Span, Printer.Print(node), "Power goes from -100 % to 100 %.");
        }

        private void Run(RunNode r)
        {
            var kind = rig.MotorOf(r.Motor);
            var speed = TypeOf(r.Speed);
            if (kind == ActuatorKind.PlainMotor)
            {
                Expect(
                    r.Speed,
                    Dimension.Percent,
                    "power in %",
                    type =>
                        type.IsNumber && (type.Dimension is Dimension.Speed or Dimension.AngularSpeed || IsAngle(type.Dimension))
                            ? $"{r.Motor} is a plain motor and takes power in % only: it cannot measure speed or angle."
                            : null
                );
                if (r.Amount is not null && TypeOf(r.Amount) is { Known: true } far && !(far.IsNumber && far.Dimension == Dimension.Time))
                    Say(
                        r.Amount.Span,
                        Printer.Print(r.Amount),
                        $"{r.Motor} is a plain motor and cannot measure how far it went: say how long with “for”, or stop it by "
                            + "a sensor."
                    );
            }
            else
            {
                if (speed.Known && !(speed.IsNumber && speed.Dimension is Dimension.Percent or Dimension.AngularSpeed or Dimension.Speed))
                    Say(r.Speed.Span, Printer.Print(r.Speed), $"A motor runs at a speed in % or deg/s; this is {speed.Say}.");
                if (r.Amount is not null)
                    ExpectAngle(r.Amount, Dimension.MotorAngle, "motor degrees");
            }
            if (speed.Known)
                Power(r.Speed, speed);
            if (r.UpTo is not null)
                Expect(r.UpTo, Dimension.Time, "a time");
            if (r.Time is not null)
                Expect(r.Time, Dimension.Time, "a time");
        }

        private void ExpectAngle(ExprNode node, Dimension wanted, string words)
        {
            var type = TypeOf(node);
            if (!type.Known)
                return;
            if (!type.IsNumber || !IsAngle(type.Dimension) || type.Dimension != Dimension.Angle && type.Dimension != wanted)
            {
                Say(
                    node.Span,
                    Printer.Print(node),
                    $"This must be {words}; it is " + $"{type.Say}." + $"{(type.IsNumber && IsAngle(type.Dimension) ? ThreeDegrees : "")}"
                );
                return;
            }
            // A constant in bare degrees means one kind only, wherever it is used.
            foreach (var v in Variables(node).Where(v => types.GetValueOrDefault(v.Name).Dimension == Dimension.Angle))
            {
                if (degrees.TryGetValue(v.Name, out var before) && before != wanted)
                    Say(
                        v.Span,
                        v.Name,
                        $"“{v.Name}” is used as {Unit.Say(before)} elsewhere and as {words} here. Give it its kind: motor deg, wheel "
                            + "deg or robot deg."
                    );
                else
                    degrees[v.Name] = wanted;
            }
        }
    }
}
