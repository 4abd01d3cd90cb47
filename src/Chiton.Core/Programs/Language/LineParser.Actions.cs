using System.Globalization;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Programs.Language;

internal sealed partial class LineParser
{
    public Sequence<ActionNode> Actions()
    {
        var actions = List(false);
        if (!AtEnd)
            throw Unfit();
        return actions;
    }

    // Actions joined by semicolons; within a repeat of a transition they end where it goes on to its target.
    private Sequence<ActionNode> List(bool repeating)
    {
        var actions = new List<ActionNode> { Chained() };
        while (true)
        {
            var before = at;
            if (!Take(";"))
                break;
            if (repeating && (Peek("go") || Peek("stay")))
            {
                at = before;
                break;
            }
            actions.Add(Chained());
        }
        return actions.ToSequence();
    }

    private ActionNode Chained()
    {
        var start = at;
        var steps = new List<ActionNode> { Conditional() };
        while (true)
        {
            var before = at;
            if (!Take(",") || !Take("then"))
            {
                at = before;
                break;
            }
            steps.Add(Conditional());
        }
        return steps.Count == 1 ? steps[0] : new ThenNode(steps.ToSequence()) { Span = From(start) };
    }

    // “A and B if C, otherwise D”: the condition is about all that stands before it.
    private ActionNode Conditional()
    {
        var start = at;
        var action = Joined();
        if (!Take("if"))
            return action;
        var condition = Expression();
        var before = at;
        ActionNode? otherwise = null;
        if (Take(",") && Take("otherwise"))
            otherwise = Joined();
        else
            at = before;
        return new IfNode(action, condition, otherwise) { Span = From(start) };
    }

    private ActionNode Joined()
    {
        var start = at;
        var parts = new List<ActionNode> { Single() };
        while (Take("and"))
            parts.Add(Single());
        return parts.Count == 1 ? parts[0] : new TogetherNode(parts.ToSequence()) { Span = From(start) };
    }

    private ActionNode Single()
    {
        if (++depth > 50)
            throw Unfit("This line is nested too deeply.");
        links = 0;
        var start = at;
        ActionNode made;
        if (Take("("))
        {
            var inner = List(false);
            Need(")");
            made = inner.Count == 1 ? inner[0] : new GroupNode(inner);
        }
        else
            made = Action();
        depth--;
        return made with { Span = From(start) };
    }

    private static readonly ActuatorKind[] Turning = [ActuatorKind.RegulatedMotor, ActuatorKind.PlainMotor, ActuatorKind.Stepper];

    private string[] Motors => [.. rig.Moved(Turning).Concat(rig.Named(Turning)).Distinct()];

    /// <summary>Words that begin an action.</summary>
    internal static readonly string[] Verbs =
    [
        "set",
        "run",
        "stop",
        "turn",
        "tone",
        "show",
        "play",
        "drive",
        "steer",
        "follow",
        "send",
        "zero",
        "teach",
        "step",
        "blink",
        "tell",
        "push",
        "take",
        "do",
        "repeat",
        "wait",
    ];

    // An action begins here, so that “and” before it joins two actions and no conditions.
    private bool ActionHere =>
        Now.Kind == TokenKind.Word && Verbs.Contains(Now.Text) && !own.Variables.Any(v => v.Split(' ')[0] == Now.Text);

    private ActionNode Action()
    {
        if (Take("set"))
        {
            var start = at;
            string[] servos = [.. rig.Moved(ActuatorKind.Servo).Concat(rig.Named(ActuatorKind.Servo)).Distinct()];
            var servo = TryName("servo", servos);
            var afterServo = at;
            at = start;
            var variable = TryName("variable", own.Variables);
            // The longer of the two names is meant.
            if (servo is not null && (variable is null || servo.Length > variable.Length))
            {
                at = afterServo;
                Need("to");
                string[] positions = [.. rig.Mechanisms.FirstOrDefault(m => m.Name == servo)?.Positions ?? []];
                var place = TryName("position", positions);
                return new SetServoNode(servo, place is null ? Sum() : null, place) { Speed = Take("at") ? Sum() : null };
            }
            if (variable is null)
            {
                at = start;
                Name(servos.Length > 0 && own.Variables.Count == 0 ? "servo" : "variable", [.. own.Variables, .. servos]);
            }
            Need("to");
            return new SetNode(variable!, Expression());
        }
        if (Take("run"))
        {
            var motor = Name("motor", Motors);
            string[] directions = [.. rig.Mechanisms.FirstOrDefault(m => m.Name == motor)?.Directions ?? [], "forward", "back"];
            var direction = TryName("direction", directions);
            var time = Take("for") ? Sum() : null;
            var amount = time is not null || Peek("at") || AtEnd ? null : Sum();
            Need("at");
            var speed = Sum();
            return new RunNode(motor, speed)
            {
                Direction = direction,
                Amount = amount,
                Time = time,
                UpTo = Take("up to") ? Sum() : null,
            };
        }
        if (Take("stop everything"))
            return new StopAllNode();
        if (Take("stop"))
        {
            var motor = Name("motor", [.. Motors, .. rig.Commanded.Except(Motors)]);
            var mode = StopMode.Default;
            var before = at;
            if (Take("and"))
            {
                if (Take("brake"))
                    mode = StopMode.Brake;
                else if (Take("coast"))
                    mode = StopMode.Coast;
                else if (Take("hold"))
                    mode = StopMode.Hold;
                else if (ActionHere || Peek("("))
                    at = before;
                else
                    throw Unfit();
            }
            return new StopNode(motor, mode);
        }
        if (Take("turn robot"))
        {
            var left = Take("left") || (Take("right") ? false : throw Unfit());
            var time = Take("for") ? Sum() : null;
            var angle = time is not null || Peek("at") || Peek("spinning") || Peek("pivoting") ? null : Sum();
            bool? pivoting =
                Take("spinning") ? false
                : Take("pivoting") ? true
                : null;
            Need("at");
            return new TurnRobotNode(left, angle, pivoting, Sum()) { Time = time };
        }
        if (Take("turn lamp of"))
        {
            var eye = Name("sensor", [.. rig.Sensors.Select(s => s.Name)]);
            return new EyeLampNode(eye, Take("on") || (Take("off") ? false : throw Unfit()));
        }
        if (Take("turn"))
        {
            var lamp = Name("lamp", [.. rig.Named(ActuatorKind.Lamp, ActuatorKind.Display)]);
            foreach (var colour in Words.Colours)
                if (Take(colour, "colour"))
                    return new LampNode(lamp, true) { Colour = colour };
            return new LampNode(lamp, Take("on") || (Take("off") ? false : throw Unfit()));
        }
        if (Take("teach"))
        {
            var eye = Name("sensor", [.. rig.Sensors.Select(s => s.Name)]);
            var shown = Name("zone", rig.Sensors.First(s => s.Name == eye).Zones.ToArray(), $" on {eye}");
            return new TeachNode(eye, shown, Take("for") ? Sum() : null);
        }
        if (Take("wait"))
            return new WaitNode(Sum());
        if (Take("tone"))
        {
            var frequency = Sum();
            if (Take("for"))
                return new ToneNode(frequency, Sum());
            var on = Sum();
            Need("on");
            var off = Sum();
            Need("off");
            return new BeepNode(frequency, on, off, Times());
        }
        if (Take("show"))
        {
            Want("\"…\"", "text");
            if (Now.Kind == TokenKind.Text && !(tokens[at + 1].Kind == TokenKind.Symbol && tokens[at + 1].Text == "+"))
                return new ShowNode(tokens[at++].Text);
            return new ShowValueNode(Sum());
        }
        if (Take("play"))
            return new PlayNode(Text()) { Time = Take("for") ? Sum() : null };
        if (Take("drive"))
        {
            var back = Take("back") || (Take("straight") ? false : throw Unfit());
            ExprNode? time = Take("for") ? Sum() : null;
            var distance = time is null && !Peek("at") ? Sum() : null;
            Need("at");
            return new DriveNode(back, distance, time, Sum());
        }
        if (Take("steer"))
        {
            if (Take("by"))
            {
                string[] sticks = [.. Sticks];
                var ahead = Name("stick", sticks);
                Need("and");
                var turn = Name("stick", sticks);
                var before = at;
                if (Take(",") && Take("dead band"))
                    return new SteerByNode(ahead, turn, Sum());
                at = before;
                return new SteerByNode(ahead, turn, null);
            }
            var left = Sum();
            Need("and");
            var right = Sum();
            if (Take("for"))
                return new SteerNode(left, right) { Time = Sum() };
            return new SteerNode(left, right) { Distance = Now.Kind == TokenKind.Number ? Sum() : null };
        }
        if (Take("follow"))
        {
            var eye = Name("sensor", [.. rig.Sensors.Where(s => s.Reads is not null).Select(s => s.Name)]);
            Need("at");
            var speed = Sum();
            Need("gain");
            var node = new FollowNode(eye, speed, Sum());
            if (!Take("to the"))
                return node;
            var left = Take("left") || (Take("right") ? false : throw Unfit());
            Need("edge of");
            return node with { LeftEdge = left, Zone = Name("zone", rig.Sensors.First(s => s.Name == eye).Zones.ToArray(), $" on {eye}") };
        }
        if (Take("send"))
        {
            var device = Name("mechanism", [.. rig.Mechanisms.Select(m => m.Name)]);
            if (Take("home"))
                return new SendNode(device, null, TurnWay.Default);
            Need("to");
            var position = Name("position", rig.Mechanisms.First(m => m.Name == device).Positions.ToArray(), $" of {device}");
            var speed = Take("at") ? Sum() : null;
            return new SendNode(
                device,
                position,
                Take("by the shortest way") ? TurnWay.Shortest
                    : Take("clockwise") ? TurnWay.Clockwise
                    : Take("counter - clockwise") ? TurnWay.CounterClockwise
                    : TurnWay.Default
            )
            {
                Speed = speed,
            };
        }
        if (Take("zero"))
            return new ZeroNode(Name("motor", Motors));
        if (Take("step"))
        {
            var device = Name("stepper", [.. rig.Moved(ActuatorKind.Stepper).Concat(rig.Named(ActuatorKind.Stepper)).Distinct()]);
            var count = Sum();
            Need("at");
            return new StepNode(device, count, Sum());
        }
        if (Take("blink"))
        {
            var lamp = Name("lamp", [.. rig.Named(ActuatorKind.Lamp)]);
            var on = Sum();
            Need("on");
            var off = Sum();
            Need("off");
            return new BlinkNode(lamp, on, off, Times());
        }
        if (Take("tell"))
        {
            var program = Name("program", [.. rig.Programs]);
            var text = Text();
            var with = new List<ExprNode>();
            if (Take("with"))
            {
                with.Add(Sum());
                while (!Peek(", then") && Take(","))
                    with.Add(Sum());
            }
            return new TellNode(program, text, with.ToSequence());
        }
        if (Take("push"))
        {
            var value = Sum();
            Need("onto");
            return new PushNode(value, Name("queue", own.Variables));
        }
        if (Take("take from"))
        {
            var queue = Name("queue", own.Variables);
            Need("into");
            return new TakeNode(queue, Name("variable", own.Variables));
        }
        if (Take("do"))
        {
            var routine = Name("routine", own.Routines);
            var arguments = new List<ExprNode>();
            if (Take("("))
            {
                if (!Take(")"))
                {
                    do arguments.Add(Expression());
                    while (Take(","));
                    Need(")");
                }
            }
            return new DoNode(routine, arguments.ToSequence());
        }
        if (Take("repeat until"))
        {
            var until = Expression();
            Need(":");
            return new RepeatUntilNode(until, List(true));
        }
        if (Take("repeat"))
        {
            var times = Sum();
            Need("times :");
            return new RepeatNode(times, List(true));
        }
        throw Unfit();
    }

    // “3 times” at the end of what blinks or beeps; null where nothing is said.
    private ExprNode? Times()
    {
        Want("3", "number");
        var times = Now.Kind is TokenKind.Number or TokenKind.Word && !Peek("and") && !Peek("then") && !Peek("if") ? Sum() : null;
        if (times is not null)
            Need("times");
        return times;
    }

    // What is turned by hand and read as an angle, or a sensor that reads one number.
    private IEnumerable<string> Sticks =>
        rig.Named(ActuatorKind.RegulatedMotor, ActuatorKind.Stepper)
            .Concat(rig.Moved(ActuatorKind.RegulatedMotor))
            .Concat(rig.Sensors.Where(s => s.Reads is not null).Select(s => s.Name))
            .Distinct();
}
