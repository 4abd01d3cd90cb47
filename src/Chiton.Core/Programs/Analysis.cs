using Chiton.Core.Quantities;

namespace Chiton.Core.Programs;

/// <summary>What a parsed program must satisfy before it can run: names said once, one initial state, units that fit.</summary>
public static class Analysis
{
    /// <summary>Every fault found.</summary>
    public static IEnumerable<Diagnostic> Check(ProgramNode program, Vocabulary rig)
    {
        var found = new List<Diagnostic>();
        var types = Types(program, found);
        var names = new Dictionary<string, string>();
        foreach (var name in rig.Sensors.Select(s => s.Name).Concat(rig.Actuators.Select(a => a.Name))) names[name] = "a device of the rig";

        foreach (var node in program.Head)
        {
            switch (node)
            {
                case VarNode v:
                    if (!names.TryAdd(v.Name, "a variable")) found.Add(Fault(v.Span, v.Name, $"“{v.Name}” is already the name of {names[v.Name]}."));
                    break;
                case RuleNode { Time: { } time }:
                    Expect(time, Dimension.Time, "a time", types, found);
                    break;
            }
        }
        if (program.Regions.Count == 0 || program.Regions.All(r => r.States.Count == 0))
            found.Add(Fault(program.Span, "no state", "A program needs at least one state. Begin with “state Start, initial”."));
        foreach (var region in program.Regions)
        {
            var states = new HashSet<string>();
            foreach (var state in region.States)
            {
                if (!states.Add(state.Name)) found.Add(Fault(state.Span, state.Name, $"There are two states called “{state.Name}”."));
                CheckState(state, types, found);
            }
            var initial = region.States.Where(s => s.Initial).ToArray();
            if (region.States.Count > 0 && initial.Length == 0)
                found.Add(Fault(region.States[0].Span, region.States[0].Name, $"No state is initial, so {region.Name} does not know where to begin. Write “state {region.States[0].Name}, initial”."));
            foreach (var extra in initial.Skip(1))
                found.Add(Fault(extra.Span, extra.Name, $"Only one state can be initial; “{initial[0].Name}” already is."));
        }
        return found;
    }

    private static void CheckState(StateNode state, Dictionary<string, Type> types, List<Diagnostic> found)
    {
        if (state.Final && state.Lines.FirstOrDefault(l => l is TransitionNode or ActivityNode { Moment: ActivityMoment.While }) is { } line)
            found.Add(Fault(line.Span, state.Name, $"“{state.Name}” is final: nothing follows it, so it can only have “on entry” lines."));
        foreach (var node in state.Lines)
        {
            switch (node)
            {
                case ActivityNode a:
                    foreach (var action in a.Actions)
                    {
                        CheckAction(action, types, found);
                        if (a.Moment == ActivityMoment.While && action is SetNode or StopNode)
                            found.Add(Fault(action.Span, "while here", "“while here” is for something that goes on: run, turn on, tone, show. Put this in “on entry”."));
                    }
                    break;
                case TransitionNode t:
                    if (t.Trigger is AfterTriggerNode after) Expect(after.Time, Dimension.Time, "a time", types, found);
                    if (t.Trigger is ConditionTriggerNode c) ExpectTruth(c.Condition, types, found);
                    if (t.Guard is not null) ExpectTruth(t.Guard, types, found);
                    foreach (var action in t.Actions) CheckAction(action, types, found);
                    break;
            }
        }
    }

    private static void CheckAction(ActionNode action, Dictionary<string, Type> types, List<Diagnostic> found)
    {
        switch (action)
        {
            case SetNode s:
                var wanted = types.GetValueOrDefault(s.Variable);
                var given = TypeOf(s.Value, types, found);
                if (given.Known && wanted.Known && !wanted.Fits(given))
                    found.Add(Fault(s.Value.Span, Printer.Print(s.Value), $"“{s.Variable}” holds {wanted.Say}, but this is {given.Say}."));
                break;
            case RunNode r:
                Expect(r.Speed, Dimension.Percent, "power in %", types, found,
                    type => type.Dimension is Dimension.Speed or Dimension.MotorAngle or Dimension.Angle or Dimension.AngularSpeed
                        ? $"{r.Motor} is a plain motor and takes power in % only: it cannot measure speed or angle."
                        : null);
                if (TypeOf(r.Speed, types, []).Dimension == Dimension.Percent && Constant(r.Speed) is { } power && Math.Abs(power) > 100)
                    found.Add(Fault(r.Speed.Span, Printer.Print(r.Speed), "Power goes from -100 % to 100 %."));
                break;
            case ToneNode t:
                Expect(t.Frequency, Dimension.Frequency, "a frequency in Hz", types, found);
                Expect(t.Time, Dimension.Time, "a time", types, found);
                break;
        }
    }

    private readonly record struct Type(bool Known, bool Truth, Dimension Dimension)
    {
        public static Type Number(Dimension d) => new(true, false, d);
        public static readonly Type YesNo = new(true, true, Dimension.None);
        public bool Fits(Type other) => Truth == other.Truth && Dimension == other.Dimension;
        public string Say => Truth ? "yes or no" : Unit.Say(Dimension);
    }

    private static Dictionary<string, Type> Types(ProgramNode program, List<Diagnostic> found)
    {
        var types = new Dictionary<string, Type>();
        foreach (var v in program.Head.OfType<VarNode>())
        {
            var type = TypeOf(v.Value, types, found);
            if (!types.TryAdd(v.Name, type)) continue;
            foreach (var later in Variables(v.Value).Where(n => !types.ContainsKey(n.Name) || n.Name == v.Name))
                found.Add(Fault(later.Span, later.Name, $"“{later.Name}” has no value yet here. Move its line above this one."));
        }
        return types;
    }

    /// <summary>Every variable an expression reads.</summary>
    public static IEnumerable<VariableNode> Variables(ExprNode node) => node switch
    {
        VariableNode v => [v],
        BinaryNode b => Variables(b.Left).Concat(Variables(b.Right)),
        UnaryNode u => Variables(u.Operand),
        CallNode c => c.Arguments.SelectMany(Variables),
        _ => [],
    };

    /// <summary>The value of an expression without variables, in base units; null when it has any.</summary>
    public static double? Constant(ExprNode node) => node switch
    {
        LiteralNode l => l.BaseValue,
        UnaryNode { IsNot: false } u => -Constant(u.Operand),
        BinaryNode { Operator: Operator.Add } b => Constant(b.Left) + Constant(b.Right),
        BinaryNode { Operator: Operator.Subtract } b => Constant(b.Left) - Constant(b.Right),
        BinaryNode { Operator: Operator.Multiply } b => Constant(b.Left) * Constant(b.Right),
        BinaryNode { Operator: Operator.Divide } b => Constant(b.Left) / Constant(b.Right),
        _ => null,
    };

    private static Type TypeOf(ExprNode node, Dictionary<string, Type> types, List<Diagnostic> found)
    {
        switch (node)
        {
            case LiteralNode l:
                return Type.Number(Unit.Find(l.Unit)?.Dimension ?? Dimension.None);
            case VariableNode v:
                return types.GetValueOrDefault(v.Name);
            case UnaryNode u:
                var inner = TypeOf(u.Operand, types, found);
                if (inner.Known && inner.Truth != u.IsNot)
                    found.Add(Fault(u.Span, Printer.Print(u), u.IsNot ? "“not” turns a yes into a no; this is " + inner.Say + "." : "A minus sign needs a number; this is yes or no."));
                return u.IsNot ? Type.YesNo : inner;
            case CallNode c:
                var first = TypeOf(c.Arguments[0], types, found);
                foreach (var argument in c.Arguments)
                {
                    var type = argument == c.Arguments[0] ? first : TypeOf(argument, types, found);
                    if (type.Known && (type.Truth || (first.Known && !first.Fits(type))))
                        found.Add(Fault(argument.Span, Printer.Print(argument), $"“{c.Function}” needs numbers of one kind; this is {type.Say}."));
                }
                return first;
            case BinaryNode b:
                var left = TypeOf(b.Left, types, found);
                var right = TypeOf(b.Right, types, found);
                if (!left.Known || !right.Known) return b.Operator < Operator.Add ? Type.YesNo : default;
                var text = Printer.Print(b);
                switch (b.Operator)
                {
                    case Operator.And or Operator.Or:
                        if (!left.Truth || !right.Truth) found.Add(Fault(b.Span, text, $"“{(b.Operator == Operator.And ? "and" : "or")}” joins two conditions; {(left.Truth ? "the right side is " + right.Say : "the left side is " + left.Say)}."));
                        return Type.YesNo;
                    case Operator.Add or Operator.Subtract:
                        if (!left.Truth && !right.Truth && left.Dimension == right.Dimension) return left;
                        found.Add(Fault(b.Span, text, $"Cannot {(b.Operator == Operator.Add ? "add" : "take away")} {right.Say} {(b.Operator == Operator.Add ? "to" : "from")} {left.Say}."));
                        return default;
                    case Operator.Multiply:
                        if (left.Truth || right.Truth || (left.Dimension != Dimension.None && right.Dimension != Dimension.None))
                        {
                            found.Add(Fault(b.Span, text, $"Cannot multiply {left.Say} by {right.Say}: one of them must be a plain number."));
                            return default;
                        }
                        return left.Dimension == Dimension.None ? right : left;
                    case Operator.Divide:
                        if (Constant(b.Right) == 0) found.Add(Fault(b.Right.Span, text, "Dividing by zero gives no number."));
                        if (left.Truth || right.Truth || (right.Dimension != Dimension.None && right.Dimension != left.Dimension))
                        {
                            found.Add(Fault(b.Span, text, $"Cannot divide {left.Say} by {right.Say}."));
                            return default;
                        }
                        return right.Dimension == Dimension.None ? left : Type.Number(Dimension.None);
                    default:
                        if (!left.Fits(right)) found.Add(Fault(b.Span, text, $"Cannot compare {left.Say} with {right.Say}."));
                        else if (left.Truth && b.Operator is not (Operator.Equal or Operator.NotEqual)) found.Add(Fault(b.Span, text, "Yes and no have no order; compare them with = or !=."));
                        return Type.YesNo;
                }
            default:
                return default;
        }
    }

    private static void Expect(ExprNode node, Dimension dimension, string what, Dictionary<string, Type> types, List<Diagnostic> found, Func<Type, string?>? better = null)
    {
        var type = TypeOf(node, types, found);
        if (!type.Known || (!type.Truth && type.Dimension == dimension))
        {
            if (type.Known && dimension == Dimension.Time && Constant(node) is { } t && t < 0)
                found.Add(Fault(node.Span, Printer.Print(node), "A time cannot be negative."));
            return;
        }
        found.Add(Fault(node.Span, Printer.Print(node), better?.Invoke(type) ?? $"This must be {what}; it is {type.Say}."));
    }

    private static void ExpectTruth(ExprNode node, Dictionary<string, Type> types, List<Diagnostic> found)
    {
        var type = TypeOf(node, types, found);
        if (type.Known && !type.Truth)
            found.Add(Fault(node.Span, Printer.Print(node), $"A condition must be true or false, such as “beds = 3”; this is {type.Say}."));
    }

    private static Diagnostic Fault(Span span, string text, string message) =>
        new(Math.Max(1, span.Line), Math.Max(1, span.Column), Math.Max(1, span.Length), text, "", message, null);
}
