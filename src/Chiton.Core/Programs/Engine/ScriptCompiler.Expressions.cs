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
        private Code Expr(ExprNode node, TransitionNode? within)
        {
            switch (node)
            {
                case LiteralNode l:
                    return new Constant(l.BaseValue);
                case TruthNode t:
                    return new Constant(t.Yes ? 1 : 0);
                case TextNode t:
                    return new Constant(Text(t.Text));
                case ZoneNode z:
                    return new Constant(z.Zone is null ? -1 : Array.IndexOf(zones, z.Zone));
                case VariableNode v:
                    return new Variable(
                        parameters.TryGetValue(v.Name, out var p) ? p
                        : slots.TryGetValue(v.Name, out var slot) ? slot
                        : throw new InputProblem("program", $"“{v.Name}” is a queue and has no value of its own.")
                    );
                case ReadingNode r:
                    var looked = Array.IndexOf(sensors, r.Sensor);
                    numbers[looked] = true;
                    return new Reading(looked);
                case PropertyNode p1:
                    return p1.Kind switch
                    {
                        PropertyKind.Zone => new ZoneOf(Array.IndexOf(sensors, p1.Of)),
                        PropertyKind.Length => new Length(queueSlots[p1.Of]),
                        PropertyKind.Travel => Looked(devices[p1.Of], true),
                        _ => Looked(devices[p1.Of], false),
                    };
                case InStateNode s:
                    return new InState(s.Region, s.State);
                case ZoneIsNode z:
                    var seen = Array.IndexOf(sensors, z.Sensor);
                    Code isIn = new InZone(seen, Tracker(seen, 1), Array.IndexOf(zones, z.Zone));
                    return z.Not ? new Unary(true, isIn) : isIn;
                case CannotTellNode c1:
                    var taught = Array.IndexOf(sensors, c1.Sensor);
                    numbers[taught] = true;
                    return new CannotTell(taught);
                case SilentNode s1:
                    var silent = Array.IndexOf(sensors, s1.Sensor);
                    numbers[silent] = true;
                    return new HearsNothing(silent);
                case DoneNode { Device: { } device }:
                    return new Done(devices[device]);
                case GivenUpNode g:
                    return new GivenUp(devices[g.Device]);
                case DoneNode:
                    return new AllDone();
                case HoldsNode h:
                    return new Holds(queueSlots[h.Queue], Expr(h.Value, within));
                case RandomNode r:
                    return new Chance(
                        r.From is null ? new Constant(0) : Expr(r.From, within),
                        r.To is null ? new Constant(1) : Expr(r.To, within)
                    );
                case UnaryNode u:
                    return new Unary(u.IsNot, Expr(u.Operand, within));
                case BinaryNode { Operator: >= Operator.Equal and <= Operator.GreaterOrEqual } c0:
                    return new Comparison(
                        c0.Operator,
                        Expr(c0.Left, within),
                        Expr(c0.Right, within),
                        // Whether there is a zone at all can be asked before the first reading.
                        c0.Left
                            is ZoneNode { Zone: null }
                        || c0.Right is ZoneNode { Zone: null }
                            ? []
                            : [.. Sensors(c0).Distinct().Select(s => Array.IndexOf(sensors, s))],
                        [.. Readings(c0).Distinct().Select(s => Array.IndexOf(sensors, s))]
                    );
                case BinaryNode b:
                    return new Binary(b.Operator, Expr(b.Left, within), Expr(b.Right, within));
                case CallNode c:
                    return new Function(c.Function, [.. c.Arguments.Select(a => Expr(a, within))]);
                default:
                    throw new InvalidOperationException($"No table form for {node.GetType().Name}.");
            }
        }
    }
}
