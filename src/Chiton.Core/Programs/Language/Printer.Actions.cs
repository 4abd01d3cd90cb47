using System.Text;
using Chiton.Core.Quantities;

namespace Chiton.Core.Programs.Language;

public static partial class Printer
{
    // A repeat takes the rest of the line, so anywhere but at its end it stands in brackets.
    private static void Actions(List<Piece> p, Sequence<ActionNode> actions, bool tail)
    {
        for (var i = 0; i < actions.Count; i++)
        {
            if (i > 0)
                Word(p, "; ");
            Action(p, actions[i], 0, tail && i == actions.Count - 1);
        }
    }

    // How strongly an action binds: a list 0, then 1, if 2, and 3, a single one 4.
    private static void Action(List<Piece> p, ActionNode action, int least, bool tail)
    {
        var own = action switch
        {
            GroupNode => -1,
            ThenNode => 1,
            IfNode => 2,
            TogetherNode => 3,
            RepeatNode or RepeatUntilNode when !tail => -1,
            _ => 4,
        };
        if (own < least)
        {
            Word(p, "(");
            Action(p, action, -1, true);
            Word(p, ")");
            return;
        }
        switch (action)
        {
            case GroupNode g:
                Actions(p, g.Actions, tail);
                break;
            case ThenNode t:
                for (var i = 0; i < t.Steps.Count; i++)
                {
                    if (i > 0)
                        Word(p, ", then ");
                    Action(p, t.Steps[i], 2, tail && i == t.Steps.Count - 1);
                }
                break;
            case TogetherNode t:
                for (var i = 0; i < t.Parts.Count; i++)
                {
                    if (i > 0)
                        Word(p, " and ");
                    // After the value of a set “and” would read as part of it.
                    Action(p, t.Parts[i], t.Parts[i] is SetNode && i < t.Parts.Count - 1 ? 5 : 4, tail && i == t.Parts.Count - 1);
                }
                break;
            case IfNode c:
                Action(p, c.Action, 3, false);
                Word(p, " if ");
                Expression(p, c.Condition);
                if (c.Otherwise is null)
                    break;
                Word(p, ", otherwise ");
                Action(p, c.Otherwise, 3, tail);
                break;
            case WaitNode w:
                Word(p, "wait ");
                Amount(p, w.Time);
                break;
            case RepeatUntilNode r:
                Word(p, "repeat until ");
                Expression(p, r.Until);
                Word(p, ": ");
                Actions(p, r.Actions, tail);
                break;
            case RepeatNode r:
                Word(p, "repeat ");
                Amount(p, r.Times);
                Word(p, " times: ");
                Actions(p, r.Actions, tail);
                break;
            case SetNode s:
                Word(p, "set ");
                p.Add(new(s.Variable, PieceKind.Variable));
                Word(p, " to ");
                Expression(p, s.Value);
                break;
            case RunNode r:
                Word(p, "run ");
                p.Add(new(r.Motor, PieceKind.Device));
                if (r.Direction is "forward" or "back")
                    Word(p, " " + r.Direction);
                else if (r.Direction is not null)
                {
                    Word(p, " ");
                    p.Add(new(r.Direction, PieceKind.Place));
                }
                if (r.Time is not null)
                {
                    Word(p, " for ");
                    Amount(p, r.Time);
                }
                else if (r.Amount is not null)
                {
                    Word(p, " ");
                    Amount(p, r.Amount);
                }
                Word(p, " at ");
                Amount(p, r.Speed);
                if (r.UpTo is null)
                    break;
                Word(p, " up to ");
                Amount(p, r.UpTo);
                break;
            case StopNode s:
                Word(p, "stop ");
                p.Add(new(s.Motor, PieceKind.Device));
                Word(
                    p,
                    s.Mode switch
                    {
                        StopMode.Brake => " and brake",
                        StopMode.Coast => " and coast",
                        StopMode.Hold => " and hold",
                        _ => "",
                    }
                );
                break;
            case StopAllNode:
                Word(p, "stop everything");
                break;
            case LampNode l:
                Word(p, "turn ");
                p.Add(new(l.Lamp, PieceKind.Device));
                Word(
                    p,
                    l.Colour is { } colour ? " " + colour
                        : l.On ? " on"
                        : " off"
                );
                break;
            case EyeLampNode l:
                Word(p, "turn lamp of ");
                p.Add(new(l.Sensor, PieceKind.Device));
                Word(p, l.On ? " on" : " off");
                break;
            case BlinkNode b:
                Word(p, "blink ");
                p.Add(new(b.Lamp, PieceKind.Device));
                Word(p, " ");
                Amount(p, b.On);
                Word(p, " on ");
                Amount(p, b.Off);
                Word(p, " off");
                if (b.Times is null)
                    break;
                Word(p, " ");
                Amount(p, b.Times);
                Word(p, " times");
                break;
            case ToneNode t:
                Word(p, "tone ");
                Amount(p, t.Frequency);
                Word(p, " for ");
                Amount(p, t.Time);
                break;
            case BeepNode b:
                Word(p, "tone ");
                Amount(p, b.Frequency);
                Word(p, " ");
                Amount(p, b.On);
                Word(p, " on ");
                Amount(p, b.Off);
                Word(p, " off");
                if (b.Times is null)
                    break;
                Word(p, " ");
                Amount(p, b.Times);
                Word(p, " times");
                break;
            case PlayNode s:
                Word(p, "play ");
                p.Add(new($"\"{s.Text}\"", PieceKind.Text));
                if (s.Time is null)
                    break;
                Word(p, " for ");
                Amount(p, s.Time);
                break;
            case ShowNode s:
                Word(p, "show ");
                p.Add(new($"\"{s.Text}\"", PieceKind.Text));
                break;
            case ShowValueNode s:
                Word(p, "show ");
                Amount(p, s.Value);
                break;
            case DriveNode d:
                Word(p, d.Back ? "drive back" : "drive straight");
                if (d.Time is not null)
                {
                    Word(p, " for ");
                    Amount(p, d.Time);
                }
                else if (d.Distance is not null)
                {
                    Word(p, " ");
                    Amount(p, d.Distance);
                }
                Word(p, " at ");
                Amount(p, d.Speed);
                break;
            case TurnRobotNode t:
                Word(p, $"turn robot {(t.Left ? "left" : "right")}");
                if (t.Time is not null)
                {
                    Word(p, " for ");
                    Amount(p, t.Time);
                }
                else if (t.Angle is not null)
                {
                    Word(p, " ");
                    Amount(p, t.Angle);
                }
                Word(
                    p,
                    t.Pivoting switch
                    {
                        true => " pivoting at ",
                        false => " spinning at ",
                        _ => " at ",
                    }
                );
                Amount(p, t.Speed);
                break;
            case SteerNode s:
                Word(p, "steer ");
                Amount(p, s.Left);
                Word(p, " and ");
                Amount(p, s.Right);
                if (s.Time is not null)
                {
                    Word(p, " for ");
                    Amount(p, s.Time);
                }
                else if (s.Distance is not null)
                {
                    Word(p, " ");
                    Amount(p, s.Distance);
                }
                break;
            case SteerByNode s:
                Word(p, "steer by ");
                p.Add(new(s.Ahead, PieceKind.Device));
                Word(p, " and ");
                p.Add(new(s.Turn, PieceKind.Device));
                if (s.DeadBand is null)
                    break;
                Word(p, ", dead band ");
                Amount(p, s.DeadBand);
                break;
            case FollowNode f:
                Word(p, "follow ");
                p.Add(new(f.Eye, PieceKind.Device));
                Word(p, " at ");
                Amount(p, f.Speed);
                Word(p, " gain ");
                Amount(p, f.Gain);
                if (f.Zone is null)
                    break;
                Word(p, $" to the {(f.LeftEdge == true ? "left" : "right")} edge of ");
                p.Add(new(f.Zone, PieceKind.Zone));
                break;
            case SendNode s:
                Word(p, "send ");
                p.Add(new(s.Device, PieceKind.Device));
                Word(p, s.Position is null ? " home" : " to ");
                if (s.Position is null)
                    break;
                p.Add(new(s.Position, PieceKind.Place));
                if (s.Speed is not null)
                {
                    Word(p, " at ");
                    Amount(p, s.Speed);
                }
                Word(
                    p,
                    s.Way switch
                    {
                        TurnWay.Shortest => " by the shortest way",
                        TurnWay.Clockwise => " clockwise",
                        TurnWay.CounterClockwise => " counter-clockwise",
                        _ => "",
                    }
                );
                break;
            case TeachNode t:
                Word(p, "teach ");
                p.Add(new(t.Sensor, PieceKind.Device));
                Word(p, " ");
                p.Add(new(t.Zone, PieceKind.Zone));
                if (t.Time is null)
                    break;
                Word(p, " for ");
                Amount(p, t.Time);
                break;
            case ZeroNode z:
                Word(p, "zero ");
                p.Add(new(z.Device, PieceKind.Device));
                break;
            case SetServoNode s:
                Word(p, "set ");
                p.Add(new(s.Device, PieceKind.Device));
                Word(p, " to ");
                if (s.Position is not null)
                    p.Add(new(s.Position, PieceKind.Place));
                else
                    Amount(p, s.Angle!);
                if (s.Speed is null)
                    break;
                Word(p, " at ");
                Amount(p, s.Speed);
                break;
            case StepNode s:
                Word(p, "step ");
                p.Add(new(s.Device, PieceKind.Device));
                Word(p, " ");
                Amount(p, s.Count);
                Word(p, " at ");
                Amount(p, s.Rate);
                break;
            case TellNode t:
                Word(p, "tell ");
                p.Add(new(t.Program, PieceKind.Device));
                Word(p, " ");
                p.Add(new($"\"{t.Text}\"", PieceKind.Text));
                for (var i = 0; i < t.With.Count; i++)
                {
                    Word(p, i == 0 ? " with " : ", ");
                    Amount(p, t.With[i]);
                }
                break;
            case PushNode q:
                Word(p, "push ");
                Amount(p, q.Value);
                Word(p, " onto ");
                p.Add(new(q.Queue, PieceKind.Variable));
                break;
            case TakeNode q:
                Word(p, "take from ");
                p.Add(new(q.Queue, PieceKind.Variable));
                Word(p, " into ");
                p.Add(new(q.Variable, PieceKind.Variable));
                break;
            case DoNode d:
                Word(p, "do ");
                p.Add(new(d.Routine, PieceKind.Device));
                if (d.Arguments.Count == 0)
                    break;
                Word(p, " (");
                for (var i = 0; i < d.Arguments.Count; i++)
                {
                    if (i > 0)
                        Word(p, ", ");
                    Expression(p, d.Arguments[i]);
                }
                Word(p, ")");
                break;
        }
    }
}
