using System.Text;
using Chiton.Core.Quantities;

namespace Chiton.Core.Programs.Language;

/// <summary>What a piece of a printed sentence is.</summary>
public enum PieceKind
{
    /// <summary>A word of the language, punctuation or a space.</summary>
    Word,

    /// <summary>A device of the rig.</summary>
    Device,

    /// <summary>A zone of a sensor.</summary>
    Zone,

    /// <summary>A number with its unit.</summary>
    Number,

    /// <summary>A state that is gone to.</summary>
    Target,

    /// <summary>A variable.</summary>
    Variable,

    /// <summary>A place on the line.</summary>
    Place,

    /// <summary>Text in quotes.</summary>
    Text,

    /// <summary>A name being declared.</summary>
    Name,
}

/// <summary>A piece of a printed sentence.</summary>
/// <param name="Text">As printed.</param>
/// <param name="Kind">What it is.</param>
public readonly record struct Piece(string Text, PieceKind Kind);

/// <summary>Writes programs in the canonical form: <c>parse(print(m))</c> gives back m exactly.</summary>
public static class Printer
{
    /// <summary>The whole program as text, ending with a line feed.</summary>
    public static string Print(ProgramNode program)
    {
        var text = new StringBuilder();
        Line(text, 0, program.Comments, "program " + program.Name);
        if (program.Head.Count > 0)
            text.Append('\n');
        foreach (var node in program.Head)
            Line(text, 0, node.Comments, Plain(Pieces(node)));
        foreach (var region in program.Regions)
            Print(text, 0, region);
        foreach (var routine in program.Routines)
        {
            text.Append('\n');
            Line(text, 0, routine.Comments, Plain(Pieces(routine)));
            foreach (var region in routine.Regions)
                if (region.Name == "")
                    Print(text, 2, region.States);
                else
                    Print(text, 2, region);
        }
        if (program.Trailing.Count > 0)
            text.Append('\n');
        foreach (var comment in program.Trailing)
            Comment(text, 0, comment);
        return text.ToString();
    }

    /// <summary>A state with all that stands in it as text, ending with a line feed.</summary>
    /// <param name="state">The state.</param>
    /// <param name="indent">Blanks before its line.</param>
    public static string Print(StateNode state, int indent)
    {
        var text = new StringBuilder();
        Print(text, indent, state);
        return text.ToString();
    }

    private static void Line(StringBuilder text, int indent, Sequence<string> comments, string line)
    {
        foreach (var comment in comments)
            Comment(text, indent, comment);
        text.Append(' ', indent).Append(line).Append('\n');
    }

    private static void Comment(StringBuilder text, int indent, string comment) =>
        text.Append(' ', indent).Append(comment == "" ? "#" : "# " + comment).Append('\n');

    private static void Print(StringBuilder text, int indent, StateNode state)
    {
        Line(text, indent, state.Comments, Plain(Pieces(state)));
        foreach (var line in state.Lines)
            Line(text, indent + 2, line.Comments, Plain(Pieces(line)));
        foreach (var history in state.Histories)
            Line(text, indent + 2, history.Comments, Plain(Pieces(history)));
        foreach (var inner in state.States)
        {
            text.Append('\n');
            Print(text, indent + 2, inner);
        }
        foreach (var region in state.Regions)
            Print(text, indent + 2, region);
    }

    private static void Print(StringBuilder text, int indent, Sequence<StateNode> states)
    {
        for (var i = 0; i < states.Count; i++)
        {
            if (i > 0)
                text.Append('\n');
            Print(text, indent, states[i]);
        }
    }

    private static void Print(StringBuilder text, int indent, RegionNode region)
    {
        text.Append('\n');
        Line(text, indent, region.Comments, "region " + region.Name);
        Print(text, indent + 2, region.States);
    }

    /// <summary>The routine line.</summary>
    public static IReadOnlyList<Piece> Pieces(RoutineNode routine) =>
        [
            new("routine ", PieceKind.Word),
            new(routine.Name, PieceKind.Name),
            new(routine.Parameters.Count > 0 ? $" ({string.Join(", ", routine.Parameters)})" : "", PieceKind.Word),
        ];

    /// <summary>The line of a history.</summary>
    public static IReadOnlyList<Piece> Pieces(HistoryNode history) =>
        [
            new(history.Deep ? "deep history " : "history ", PieceKind.Word),
            new(history.Name, PieceKind.Name),
            new(": go ", PieceKind.Word),
            new(history.Target, PieceKind.Target),
        ];

    /// <summary>Joins pieces to the text they print.</summary>
    public static string Plain(IEnumerable<Piece> pieces) => string.Concat(pieces.Select(p => p.Text));

    /// <summary>The state line.</summary>
    public static IReadOnlyList<Piece> Pieces(StateNode state) =>
        [
            new("state ", PieceKind.Word),
            new(state.Name, PieceKind.Name),
            new((state.Initial ? ", initial" : "") + (state.Final ? ", final" : ""), PieceKind.Word),
        ];

    /// <summary>A head line.</summary>
    public static IReadOnlyList<Piece> Pieces(HeadNode node)
    {
        var p = new List<Piece>();
        switch (node)
        {
            case VarNode v:
                Word(p, "var ");
                p.Add(new(v.Name, PieceKind.Name));
                Word(p, " = ");
                Expression(p, v.Value);
                break;
            case ConstNode c:
                Word(p, "const ");
                p.Add(new(c.Name, PieceKind.Name));
                Word(p, " = ");
                Expression(p, c.Value);
                break;
            case RuleNode r:
                Word(p, r.IsGoal ? "goal: " : "never: ");
                if (r.Subject is not null)
                    p.Add(new(r.Subject, PieceKind.Device));
                if (r.Holds is not null)
                    Expression(p, r.Holds);
                Word(
                    p,
                    r.Condition switch
                    {
                        ConditionKind.StoppedOver => "stopped over ",
                        ConditionKind.Finished => "finished",
                        ConditionKind.MovingAfter => "moving after ",
                        ConditionKind.OverEdge => "robot over the edge",
                        ConditionKind.PastStop => $" past its {(r.Place is null ? "" : r.Place + " ")}stop",
                        ConditionKind.LoadOn => " on ",
                        _ => "",
                    }
                );
                if (r.Place is not null && r.Condition != ConditionKind.PastStop)
                    p.Add(new(r.Place, PieceKind.Place));
                if (r.Time is not null)
                {
                    if (r.Condition != ConditionKind.MovingAfter)
                        Word(p, " within ");
                    Amount(p, r.Time);
                }
                break;
            case BrokenHeadNode b:
                Word(p, b.Raw);
                break;
        }
        return p;
    }

    /// <summary>A line of a state.</summary>
    public static IReadOnlyList<Piece> Pieces(LineNode node)
    {
        var p = new List<Piece>();
        switch (node)
        {
            case ActivityNode a:
                Word(
                    p,
                    a.Moment switch
                    {
                        ActivityMoment.Entry => "on entry: ",
                        ActivityMoment.While => "while here: ",
                        _ => "on exit: ",
                    }
                );
                Actions(p, a.Actions, true);
                break;
            case TransitionNode t:
                Trigger(p, t.Trigger);
                if (t.Guard is not null)
                {
                    Word(p, " if ");
                    Expression(p, t.Guard);
                }
                Word(p, ": ");
                Actions(p, t.Actions, true);
                if (t.Actions.Count > 0)
                    Word(p, "; ");
                if (t.Target is null)
                    Word(p, "stay");
                else
                {
                    Word(p, "go ");
                    p.Add(new(t.Target, PieceKind.Target));
                    if (t.Inside)
                        Word(p, " inside");
                }
                break;
            case BrokenLineNode b:
                Word(p, b.Raw);
                break;
        }
        return p;
    }

    private static void Word(List<Piece> p, string text) => p.Add(new(text, PieceKind.Word));

    private static void Trigger(List<Piece> p, TriggerNode trigger)
    {
        switch (trigger)
        {
            case ZoneTriggerNode z:
                Word(p, "when ");
                p.Add(new(z.Sensor, PieceKind.Device));
                Word(
                    p,
                    z.Relation switch
                    {
                        ZoneRelation.Is => " is ",
                        ZoneRelation.Becomes => " becomes ",
                        _ => " leaves ",
                    }
                );
                p.Add(new(z.Zone, PieceKind.Zone));
                For(p, z.Readings, z.For);
                break;
            case ConditionTriggerNode c:
                Word(p, "when ");
                Expression(p, c.Condition);
                For(p, c.Readings, c.For);
                break;
            case PressTriggerNode b:
                Word(p, "when ");
                p.Add(new(b.Sensor, PieceKind.Device));
                Word(
                    p,
                    b.Kind switch
                    {
                        PressKind.Pressed => " is pressed",
                        PressKind.Released => " is released",
                        PressKind.Tapped => " is tapped",
                        PressKind.TappedTwice => " is tapped twice",
                        _ => " is held for ",
                    }
                );
                if (b.Time is not null)
                    Amount(p, b.Time);
                break;
            case StallTriggerNode s:
                Word(p, "when ");
                p.Add(new(s.Device, PieceKind.Device));
                Word(p, " stalls");
                break;
            case ToldTriggerNode t:
                Word(p, "when told ");
                p.Add(new($"\"{t.Text}\"", PieceKind.Text));
                if (t.From is not null)
                {
                    Word(p, " from ");
                    p.Add(new(t.From, PieceKind.Device));
                }
                for (var i = 0; i < t.Into.Count; i++)
                {
                    Word(p, i == 0 ? " into " : ", ");
                    p.Add(new(t.Into[i], PieceKind.Variable));
                }
                break;
            case SilenceTriggerNode n:
                Word(p, "when not told for ");
                Amount(p, n.Time);
                break;
            case EveryTriggerNode e:
                Word(p, "every ");
                Amount(p, e.Time);
                break;
            case AlwaysTriggerNode:
                Word(p, "always");
                break;
            case AfterTriggerNode a:
                Word(p, "after ");
                Amount(p, a.Time);
                break;
        }
    }

    private static void For(List<Piece> p, string? readings, ExprNode? time)
    {
        if (readings is not null)
        {
            Word(p, " for ");
            p.Add(new($"{readings} {(readings.TrimStart('0') == "1" ? "reading" : "readings")}", PieceKind.Number));
        }
        else if (time is not null)
        {
            Word(p, " for ");
            Inner(p, time, 5);
        }
    }

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

    // How strongly an action binds: a list 0, then 1, and 2, a single one 3.
    private static void Action(List<Piece> p, ActionNode action, int least, bool tail)
    {
        var own = action switch
        {
            GroupNode => -1,
            ThenNode => 1,
            TogetherNode => 2,
            RepeatNode when !tail => -1,
            _ => 3,
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
                    Action(p, t.Parts[i], t.Parts[i] is SetNode && i < t.Parts.Count - 1 ? 4 : 3, tail && i == t.Parts.Count - 1);
                }
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
                if (r.Amount is not null)
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
            case PlayNode s:
                Word(p, "play ");
                p.Add(new($"\"{s.Text}\"", PieceKind.Text));
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
                Word(p, $"turn robot {(t.Left ? "left" : "right")} ");
                Amount(p, t.Angle);
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
                Inner(p, u.Operand, u.IsNot ? 3 : 7);
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

    /// <summary>An action alone.</summary>
    public static IReadOnlyList<Piece> Sentence(ActionNode action)
    {
        var p = new List<Piece>();
        Action(p, action, 0, true);
        return p;
    }

    /// <summary>How an expression reads.</summary>
    public static string Print(ExprNode node)
    {
        var p = new List<Piece>();
        Expression(p, node);
        return Plain(p);
    }
}
