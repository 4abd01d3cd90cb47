using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Programs.Language;

public static partial class Analysis
{
    private sealed partial class Checker
    {
        private void Expect(ExprNode node, Dimension dimension, string what, Func<Type, string?>? better = null)
        {
            var type = TypeOf(node);
            if (!type.Known || type.IsNumber && type.Dimension == dimension)
            {
                if (type.Known && dimension == Dimension.Time && Analysis.Constant(node) is { } t && t < 0)
                    Say(node.Span, Printer.Print(node), "A time cannot be negative.");
                return;
            }
            Say(node.Span, Printer.Print(node), better?.Invoke(type) ?? $"This must be {what}; it is {type.Say}.");
        }

        private void ExpectTruth(ExprNode node)
        {
            var type = TypeOf(node);
            if (type.Known && type.Kind != Kind.Truth)
                Say(node.Span, Printer.Print(node), $"A condition must be true or false, such as “beds = 3”; this is {type.Say}.");
        }

        private void World(WorldNode w)
        {
            if (w.Amount is null)
                return;
            if (w.Fact == WorldFact.MovingAfter)
                Expect(w.Amount, Dimension.Time, "a time");
            else if (w.Fact == WorldFact.Turned)
            {
                if (TypeOf(w.Amount) is { Known: true, Dimension: not (Dimension.WheelAngle or Dimension.MotorAngle or Dimension.Angle) })
                    Say(w.Amount.Span, Printer.Print(w.Amount), "Say how far in wheel turns, wheel deg or motor deg.");
            }
            else
                Expect(w.Amount, Dimension.Length, "a length");
        }

        // A fault is told once, however often a type is asked for.
        private readonly HashSet<ExprNode> looked = new(ReferenceEqualityComparer.Instance);

        private Type TypeOf(ExprNode node)
        {
            var first = looked.Add(node);
            void Once(Span span, string text, string message)
            {
                if (first)
                    Say(span, text, message);
            }
            switch (node)
            {
                case LiteralNode l:
                    return Type.Number(Unit.Find(l.Unit)?.Dimension ?? Dimension.None);
                case VariableNode v:
                    if (types.TryGetValue(v.Name, out var known))
                        return known;
                    if (inside?.Parameters.Contains(v.Name) != true && program.Routines.Any(r => r.Parameters.Contains(v.Name)))
                        Once(v.Span, v.Name, $"“{v.Name}” is a parameter of a routine and means nothing outside it.");
                    return default;
                case TextNode:
                    return new(Kind.Text);
                case TruthNode or DoneNode or GivenUpNode or InStateNode or ZoneIsNode or SilentNode or CannotTellNode:
                    if (
                        node is InStateNode s
                        && program
                            .Regions.Concat(program.Routines.SelectMany(r => r.Regions))
                            .SelectMany(r => r.AllStates.SelectMany(x => x.Regions).Prepend(r))
                            .Where(r => r.Name == s.Region)
                            .All(r => r.AllStates.All(x => x.Name != s.State))
                    )
                        Once(s.Span, s.State, $"“{s.State}” does not stand in {s.Region}.");
                    return Type.Truth;
                case WorldNode w:
                    World(w);
                    return Type.Truth;
                case ZoneNode:
                    return new(Kind.Zone);
                case QueueNode:
                    return new(Kind.Queue);
                case ReadingNode r:
                    return Type.Number(rig.Sensors.FirstOrDefault(x => x.Name == r.Sensor)?.Reads ?? Dimension.None);
                case PropertyNode p:
                    if (p.Kind == PropertyKind.Length && types.TryGetValue(p.Of, out var queue) && queue.Known && queue.Kind != Kind.Queue)
                        Once(p.Span, p.Of, $"“{p.Of}” is no queue; it holds {queue.Say}.");
                    if (p.Kind == PropertyKind.Angle && rig.MotorOf(p.Of) == ActuatorKind.PlainMotor)
                        Once(p.Span, p.Of, $"{p.Of} is a plain motor and cannot measure its angle.");
                    return p.Kind switch
                    {
                        PropertyKind.Travel => Type.Number(Dimension.Length),
                        PropertyKind.Angle => Type.Number(rig.MotorOf(p.Of) == ActuatorKind.Servo ? Dimension.Angle : Dimension.MotorAngle),
                        PropertyKind.Zone => new(Kind.Zone),
                        _ => Type.Number(Dimension.None),
                    };
                case HoldsNode h:
                    if (types.TryGetValue(h.Queue, out var held) && held.Known && held.Kind != Kind.Queue)
                        Once(h.Span, h.Queue, $"“{h.Queue}” is no queue; it holds {held.Say}.");
                    TypeOf(h.Value);
                    return Type.Truth;
                case RandomNode r:
                    if (r.From is null || r.To is null)
                        return Type.Number(Dimension.None);
                    var (low, high) = (TypeOf(r.From), TypeOf(r.To));
                    if (low.Known && high.Known && (!low.IsNumber || !low.Fits(high)))
                        Once(
                            r.Span,
                            Printer.Print(r),
                            $"A random number lies between two numbers of one kind; these are {low.Say} and {high.Say}."
                        );
                    return low;
                case UnaryNode u:
                    var inner = TypeOf(u.Operand);
                    if (inner.Known && (inner.Kind == Kind.Truth) != u.IsNot)
                        Once(
                            u.Span,
                            Printer.Print(u),
                            u.IsNot
                                ? "“not” turns a yes into a no; this is " + inner.Say + "."
                                : $"A minus sign needs a number; this is {inner.Say}."
                        );
                    return u.IsNot ? Type.Truth : inner;
                case CallNode c:
                    var one = TypeOf(c.Arguments[0]);
                    foreach (var argument in c.Arguments)
                    {
                        var type = ReferenceEquals(argument, c.Arguments[0]) ? one : TypeOf(argument);
                        if (type.Known && (!type.IsNumber || one.Known && !one.Fits(type)))
                            Once(
                                argument.Span,
                                Printer.Print(argument),
                                $"“{c.Function}” needs numbers of one kind; " + $"this is {type.Say}."
                            );
                    }
                    return one;
                case BinaryNode b:
                    return Binary(b, Once);
                default:
                    return default;
            }
        }

        private Type Binary(BinaryNode b, Action<Span, string, string> once)
        {
            var left = TypeOf(b.Left);
            var right = TypeOf(b.Right);
            // A zone may be compared with the zone of an eye that does not know it.
            if (b.Operator is Operator.Equal or Operator.NotEqual)
                foreach (var (eye, zone) in new[] { (b.Left, b.Right), (b.Right, b.Left) })
                    if (
                        eye is PropertyNode { Kind: PropertyKind.Zone } of
                        && zone is ZoneNode { Zone: { } name }
                        && rig.Sensors.FirstOrDefault(s => s.Name == of.Of) is { } sensor
                        && !sensor.Zones.Contains(name)
                    )
                        once(
                            zone.Span,
                            name,
                            $"No zone “{name}” "
                                + $"on {of.Of}{(NearMiss.Find(name, sensor.Zones) is { } near ? $"; did you mean “{near}”?" : ".")}"
                        );
            if (!left.Known || !right.Known)
                return b.Operator < Operator.Add ? Type.Truth : default;
            var text = Printer.Print(b);
            switch (b.Operator)
            {
                case Operator.And or Operator.Or:
                    if (left.Kind != Kind.Truth || right.Kind != Kind.Truth)
                        once(
                            b.Span,
                            text,
                            $"“{(b.Operator == Operator.And ? "and" : "or")}” joins two conditions; "
                                + $"{(left.Kind == Kind.Truth ? "the right side is " + right.Say : "the left side is " + left.Say)}."
                        );
                    return Type.Truth;
                case Operator.Add or Operator.Subtract:
                    if (left.IsNumber && left.Fits(right))
                        return left.With(right);
                    once(
                        b.Span,
                        text,
                        $"Cannot {(b.Operator == Operator.Add ? "add" : "take away")} {right.Say} "
                            + $"{(b.Operator == Operator.Add ? "to" : "from")} {left.Say}."
                    );
                    return default;
                case Operator.Multiply:
                    if (left.IsNumber && right.IsNumber && (left.Dimension == Dimension.None || right.Dimension == Dimension.None))
                        return left.Dimension == Dimension.None ? right : left;
                    once(b.Span, text, $"Cannot multiply {left.Say} by {right.Say}: one of them must be a plain number.");
                    return default;
                case Operator.Divide:
                    if (Analysis.Constant(b.Right) == 0)
                        once(b.Right.Span, text, "Dividing by zero gives no number.");
                    if (left.IsNumber && right.IsNumber && (right.Dimension == Dimension.None || left.Fits(right)))
                        return right.Dimension == Dimension.None ? left : Type.Number(Dimension.None);
                    once(b.Span, text, $"Cannot divide {left.Say} by {right.Say}.");
                    return default;
                default:
                    if (!left.Fits(right))
                        once(b.Span, text, $"Cannot compare {left.Say} with {right.Say}.");
                    else if (!left.IsNumber && b.Operator is not (Operator.Equal or Operator.NotEqual))
                        once(b.Span, text, $"{Unordered(left.Kind)} have no order; compare them with = or !=.");
                    else if (left.Kind == Kind.Queue)
                        once(b.Span, text, "Queues cannot be compared; ask for their length, or what they hold.");
                    return Type.Truth;
            }
        }

        private static string Unordered(Kind kind) =>
            kind switch
            {
                Kind.Truth => "Yes and no",
                Kind.Text => "Texts",
                Kind.Zone => "Zones",
                _ => "Queues",
            };
    }
}
