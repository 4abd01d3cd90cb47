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
public static partial class Printer
{
    /// <summary>The whole program as text, ending with a line feed.</summary>
    public static string Print(ProgramNode program)
    {
        var text = new StringBuilder();
        Line(text, 0, program.Comments, Head(program));
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

    /// <summary>The program line.</summary>
    public static string Head(ProgramNode program) => Plain(HeadPieces(program));

    /// <summary>The pieces of the program line.</summary>
    public static IReadOnlyList<Piece> HeadPieces(ProgramNode program) =>
        [new("program ", PieceKind.Word), new(program.Name, PieceKind.Name), .. Between(program.Parameters)];

    private static IEnumerable<Piece> Between(Sequence<string> parameters) =>
        parameters.Count > 0 ? [new($" ({string.Join(", ", parameters)})", PieceKind.Word)] : [];

    /// <summary>The routine line.</summary>
    public static IReadOnlyList<Piece> Pieces(RoutineNode routine) =>
        [new("routine ", PieceKind.Word), new(routine.Name, PieceKind.Name), .. Between(routine.Parameters)];

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
                        Word(
                            p,
                            r.Clock switch
                            {
                                RuleClock.Before => " before ",
                                RuleClock.For => " for ",
                                RuleClock.MoreThan => " for more than ",
                                _ => " within ",
                            }
                        );
                    Amount(p, r.Time);
                }
                if (r.Clock == RuleClock.AtEnd)
                    Word(p, " at the end");
                if (r.OnceFor is not null)
                {
                    Word(p, " at most once for each ");
                    p.Add(new(r.OnceFor, PieceKind.Place));
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

    /// <summary>What a transition waits for, as its sentence begins; without its guard.</summary>
    public static string Trigger(TransitionNode transition)
    {
        var p = new List<Piece>();
        Trigger(p, transition.Trigger);
        return Plain(p);
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
            case GiveUpTriggerNode g:
                Word(p, "when ");
                p.Add(new(g.Device, PieceKind.Device));
                Word(p, " gives up");
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
                Word(p, "when not told ");
                if (n.Text is not null)
                    p.Add(new($"\"{n.Text}\"", PieceKind.Text));
                Word(p, n.Text is null ? "for " : " for ");
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
