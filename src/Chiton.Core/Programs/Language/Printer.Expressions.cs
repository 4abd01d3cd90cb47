using System.Text;
using Chiton.Core.Quantities;

namespace Chiton.Core.Programs.Language;

public static partial class Printer
{
    // Amounts are sums: anything that binds more weakly stands in brackets.
    private static void Amount(List<Piece> p, ExprNode node) => Inner(p, node, 5);

    // Binding strength: or 1, and 2, not 3, comparison 4, sum 5, product 6, minus 7, atoms 8.
    private static int Strength(ExprNode node) =>
        node switch
        {
            BinaryNode { Operator: Operator.Or } => 1,
            BinaryNode { Operator: Operator.And } => 2,
            UnaryNode { IsNot: true } => 3,
            BinaryNode { Operator: Operator.Add or Operator.Subtract } => 5,
            BinaryNode { Operator: Operator.Multiply or Operator.Divide } => 6,
            BinaryNode or HoldsNode => 4,
            UnaryNode => 7,
            _ => 8,
        };

    private static void Inner(List<Piece> p, ExprNode node, int least)
    {
        var brackets = Strength(node) < least;
        if (brackets)
            Word(p, "(");
        Expression(p, node);
        if (brackets)
            Word(p, ")");
    }

    private static void World(List<Piece> p, WorldNode w)
    {
        void Place(string? name) => p.Add(new(name ?? "", PieceKind.Place));
        Word(
            p,
            w.Many switch
            {
                HowMany.Every => "every ",
                HowMany.No => "no ",
                HowMany.AtLeast => $"at least {w.Count} ",
                HowMany.AtMost => $"at most {w.Count} ",
                HowMany.Exactly => $"exactly {w.Count} ",
                _ => "",
            }
        );
        if (w.Fact is WorldFact.LevelAbove or WorldFact.LevelBelow)
            Word(p, "level of ");
        if (w.Subject is not null)
            p.Add(new(w.Subject, PieceKind.Device));
        if (w.Subject is not null && w.Fact is not (WorldFact.LevelAbove or WorldFact.LevelBelow))
            Word(p, " ");
        switch (w.Fact)
        {
            case WorldFact.StoppedOver
            or WorldFact.On
            or WorldFact.Off
            or WorldFact.In
            or WorldFact.WhollyOn
            or WorldFact.Touching
            or WorldFact.Through:
                Word(
                    p,
                    w.Fact switch
                    {
                        WorldFact.StoppedOver => "stopped over ",
                        WorldFact.On => "on ",
                        WorldFact.Off => "off ",
                        WorldFact.In => "in ",
                        WorldFact.WhollyOn => "wholly on ",
                        WorldFact.Through => w.Place is null ? "through" : "through ",
                        _ => "touching ",
                    }
                );
                // Who is through has passed whatever it was they asked for.
                if (w.Place is not null)
                    Place(w.Place);
                break;
            case WorldFact.Near:
                Word(p, "within ");
                Amount(p, w.Amount!);
                Word(p, " of ");
                Place(w.Place);
                break;
            case WorldFact.Before:
                Word(p, "before ");
                p.Add(new(w.Place!, PieceKind.Device));
                Word(p, " nearer than ");
                Amount(p, w.Amount!);
                break;
            case WorldFact.OverEdge:
                Word(p, "over the edge");
                break;
            case WorldFact.AtPosition:
                Word(p, "at ");
                Place(w.Place);
                break;
            case WorldFact.PastStop:
                Word(p, $"past its {(w.Place is null ? "" : w.Place + " ")}stop");
                break;
            case WorldFact.Turned:
                Word(p, "turned ");
                Amount(p, w.Amount!);
                break;
            case WorldFact.Lamp:
                Word(p, $"is {w.Text}");
                break;
            case WorldFact.Sounds:
                Word(p, "sounds");
                break;
            case WorldFact.Shows:
                Word(p, "shows ");
                p.Add(new($"\"{w.Text}\"", PieceKind.Text));
                break;
            case WorldFact.LevelAbove or WorldFact.LevelBelow:
                Word(p, w.Fact == WorldFact.LevelAbove ? " above " : " below ");
                Amount(p, w.Amount!);
                break;
            case WorldFact.Crash:
                Word(p, "a crash");
                break;
            case WorldFact.MovingAfter:
                Word(p, "moving after ");
                Amount(p, w.Amount!);
                break;
            default:
                Word(p, "finished");
                break;
        }
    }

    private static void Expression(List<Piece> p, ExprNode node)
    {
        switch (node)
        {
            case LiteralNode l:
                p.Add(new(l.Unit == "" ? l.Digits : $"{l.Digits} {l.Unit}", PieceKind.Number));
                break;
            case VariableNode v:
                p.Add(new(v.Name, PieceKind.Variable));
                break;
            case UnaryNode u:
                Word(p, u.IsNot ? "not " : "-");
                // Words about the world need brackets, so that nobody asks what the “not” is about.
                Inner(
                    p,
                    u.Operand,
                    u.Operand is WorldNode ? 9
                        : u.IsNot ? 3
                        : 7
                );
                break;
            case BinaryNode b:
                var own = Strength(b);
                // Chains lean left; a comparison takes sums on both sides.
                Inner(p, b.Left, own == 4 ? 5 : own);
                Word(
                    p,
                    b.Operator switch
                    {
                        Operator.Or => " or ",
                        Operator.And => " and ",
                        Operator.Equal => " = ",
                        Operator.NotEqual => " != ",
                        Operator.Less => " < ",
                        Operator.LessOrEqual => " <= ",
                        Operator.Greater => " > ",
                        Operator.GreaterOrEqual => " >= ",
                        Operator.Add => " + ",
                        Operator.Subtract => " - ",
                        Operator.Multiply => " * ",
                        _ => " / ",
                    }
                );
                Inner(p, b.Right, own + 1);
                break;
            case TextNode t:
                p.Add(new($"\"{t.Text}\"", PieceKind.Text));
                break;
            case TruthNode t:
                Word(p, t.Yes ? "yes" : "no");
                break;
            case ZoneNode z:
                if (z.Zone is null)
                    Word(p, "no zone");
                else
                    p.Add(new(z.Zone, PieceKind.Zone));
                break;
            case QueueNode:
                Word(p, "queue");
                break;
            case ReadingNode r:
                p.Add(new(r.Sensor, PieceKind.Device));
                break;
            case PropertyNode q:
                Word(
                    p,
                    q.Kind switch
                    {
                        PropertyKind.Travel => "travel of ",
                        PropertyKind.Angle => "angle of ",
                        PropertyKind.Zone => "zone of ",
                        _ => "length of ",
                    }
                );
                p.Add(new(q.Of, q.Kind == PropertyKind.Length ? PieceKind.Variable : PieceKind.Device));
                break;
            case InStateNode s:
                p.Add(new(s.Region, PieceKind.Name));
                Word(p, " is in ");
                p.Add(new(s.State, PieceKind.Target));
                break;
            case DoneNode d:
                if (d.Device is null)
                    Word(p, "all done");
                else
                {
                    p.Add(new(d.Device, PieceKind.Device));
                    Word(p, " is done");
                }
                break;
            case GivenUpNode g:
                p.Add(new(g.Device, PieceKind.Device));
                Word(p, " has given up");
                break;
            case ZoneIsNode z:
                p.Add(new(z.Sensor, PieceKind.Device));
                Word(p, z.Not ? " is not " : " is ");
                p.Add(new(z.Zone, PieceKind.Zone));
                break;
            case CannotTellNode c:
                p.Add(new(c.Sensor, PieceKind.Device));
                Word(p, " cannot tell");
                break;
            case WorldNode w:
                World(p, w);
                break;
            case SilentNode s:
                p.Add(new(s.Sensor, PieceKind.Device));
                Word(p, " hears nothing");
                break;
            case HoldsNode h:
                p.Add(new(h.Queue, PieceKind.Variable));
                Word(p, " holds ");
                Inner(p, h.Value, 5);
                break;
            case RandomNode r:
                Word(p, "random");
                if (r.From is null || r.To is null)
                    break;
                Word(p, " (between ");
                Inner(p, r.From, 5);
                Word(p, " and ");
                Inner(p, r.To, 5);
                Word(p, ")");
                break;
            case CallNode c:
                Word(p, c.Function + "(");
                for (var i = 0; i < c.Arguments.Count; i++)
                {
                    if (i > 0)
                        Word(p, ", ");
                    Expression(p, c.Arguments[i]);
                }
                Word(p, ")");
                break;
        }
    }
}
