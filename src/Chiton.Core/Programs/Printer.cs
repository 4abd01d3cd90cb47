using System.Text;
using Chiton.Core.Quantities;

namespace Chiton.Core.Programs;

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
        void Line(int indent, Sequence<string> comments, string line)
        {
            foreach (var comment in comments) Comment(indent, comment);
            text.Append(' ', indent).Append(line).Append('\n');
        }
        void Comment(int indent, string comment) => text.Append(' ', indent).Append(comment == "" ? "#" : "# " + comment).Append('\n');

        Line(0, program.Comments, "program " + program.Name);
        if (program.Head.Count > 0) text.Append('\n');
        foreach (var node in program.Head) Line(0, node.Comments, Plain(Pieces(node)));
        foreach (var region in program.Regions)
        {
            text.Append('\n');
            Line(0, region.Comments, "region " + region.Name);
            var first = true;
            foreach (var state in region.States)
            {
                if (!first) text.Append('\n');
                first = false;
                Line(2, state.Comments, Plain(Pieces(state)));
                foreach (var line in state.Lines) Line(4, line.Comments, Plain(Pieces(line)));
            }
        }
        if (program.Trailing.Count > 0) text.Append('\n');
        foreach (var comment in program.Trailing) Comment(0, comment);
        return text.ToString();
    }

    /// <summary>Joins pieces to the text they print.</summary>
    public static string Plain(IEnumerable<Piece> pieces) => string.Concat(pieces.Select(p => p.Text));

    /// <summary>The state line.</summary>
    public static IReadOnlyList<Piece> Pieces(StateNode state) =>
        [new("state ", PieceKind.Word), new(state.Name, PieceKind.Name), new((state.Initial ? ", initial" : "") + (state.Final ? ", final" : ""), PieceKind.Word)];

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
            case RuleNode r:
                Word(p, r.IsGoal ? "goal: " : "never: ");
                Word(p, r.Condition switch { ConditionKind.StoppedOver => "stopped over ", ConditionKind.Finished => "finished", _ => "moving after " });
                if (r.Place is not null) p.Add(new(r.Place, PieceKind.Place));
                if (r.Time is not null)
                {
                    if (r.Condition != ConditionKind.MovingAfter) Word(p, " within ");
                    Expression(p, r.Time);
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
                Word(p, a.Moment switch { ActivityMoment.Entry => "on entry: ", ActivityMoment.While => "while here: ", _ => "on exit: " });
                Actions(p, a.Actions);
                break;
            case TransitionNode t:
                Trigger(p, t.Trigger);
                if (t.Guard is not null)
                {
                    Word(p, " if ");
                    Expression(p, t.Guard);
                }
                Word(p, ": ");
                Actions(p, t.Actions);
                if (t.Actions.Count > 0) Word(p, "; ");
                if (t.Target is null) Word(p, "stay");
                else
                {
                    Word(p, "go ");
                    p.Add(new(t.Target, PieceKind.Target));
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
                Word(p, z.Relation switch { ZoneRelation.Is => " is ", ZoneRelation.Becomes => " becomes ", _ => " leaves " });
                p.Add(new(z.Zone, PieceKind.Zone));
                if (z.Readings is null) break;
                Word(p, " for ");
                p.Add(new($"{z.Readings} {(z.Needed == 1 ? "reading" : "readings")}", PieceKind.Number));
                break;
            case ConditionTriggerNode c:
                Word(p, "when ");
                Expression(p, c.Condition);
                break;
            case AfterTriggerNode a:
                Word(p, "after ");
                Expression(p, a.Time);
                break;
        }
    }

    private static void Actions(List<Piece> p, Sequence<ActionNode> actions)
    {
        for (var i = 0; i < actions.Count; i++)
        {
            if (i > 0) Word(p, "; ");
            switch (actions[i])
            {
                case SetNode s:
                    Word(p, "set ");
                    p.Add(new(s.Variable, PieceKind.Variable));
                    Word(p, " to ");
                    Expression(p, s.Value);
                    break;
                case RunNode r:
                    Word(p, "run ");
                    p.Add(new(r.Motor, PieceKind.Device));
                    Word(p, " at ");
                    Expression(p, r.Speed);
                    break;
                case StopNode s:
                    Word(p, "stop ");
                    p.Add(new(s.Motor, PieceKind.Device));
                    if (s.Mode != StopMode.Default) Word(p, s.Mode == StopMode.Brake ? " and brake" : " and coast");
                    break;
                case LampNode l:
                    Word(p, "turn ");
                    p.Add(new(l.Lamp, PieceKind.Device));
                    Word(p, l.On ? " on" : " off");
                    break;
                case ToneNode t:
                    Word(p, "tone ");
                    Expression(p, t.Frequency);
                    Word(p, " for ");
                    Expression(p, t.Time);
                    break;
                case ShowNode s:
                    Word(p, "show ");
                    p.Add(new($"\"{s.Text}\"", PieceKind.Text));
                    break;
            }
        }
    }

    // Binding strength: or 1, and 2, not 3, comparison 4, sum 5, product 6, minus 7, atoms 8.
    private static int Strength(ExprNode node) => node switch
    {
        BinaryNode { Operator: Operator.Or } => 1,
        BinaryNode { Operator: Operator.And } => 2,
        UnaryNode { IsNot: true } => 3,
        BinaryNode { Operator: Operator.Add or Operator.Subtract } => 5,
        BinaryNode { Operator: Operator.Multiply or Operator.Divide } => 6,
        BinaryNode => 4,
        UnaryNode => 7,
        _ => 8,
    };

    private static void Inner(List<Piece> p, ExprNode node, int least)
    {
        var brackets = Strength(node) < least;
        if (brackets) Word(p, "(");
        Expression(p, node);
        if (brackets) Word(p, ")");
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
                Word(p, b.Operator switch
                {
                    Operator.Or => " or ", Operator.And => " and ", Operator.Equal => " = ", Operator.NotEqual => " != ", Operator.Less => " < ",
                    Operator.LessOrEqual => " <= ", Operator.Greater => " > ", Operator.GreaterOrEqual => " >= ", Operator.Add => " + ",
                    Operator.Subtract => " - ", Operator.Multiply => " * ", _ => " / ",
                });
                Inner(p, b.Right, own + 1);
                break;
            case CallNode c:
                Word(p, c.Function + "(");
                for (var i = 0; i < c.Arguments.Count; i++)
                {
                    if (i > 0) Word(p, ", ");
                    Expression(p, c.Arguments[i]);
                }
                Word(p, ")");
                break;
        }
    }

    /// <summary>How an expression reads.</summary>
    public static string Print(ExprNode node)
    {
        var p = new List<Piece>();
        Expression(p, node);
        return Plain(p);
    }
}
