using System.Globalization;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Programs.Language;

internal sealed partial class LineParser
{
    // ---- expressions ----

    private int depth,
        links;

    // Each link stands one deeper in the tree than the one before: an expression, all its brackets together, may not become
    // a tree too deep to be gone through.
    private void Link()
    {
        if (++links > MostLinks)
            throw Unfit($"This expression is too long: at most {MostLinks} signs in it. Use a variable.");
    }

    private const int MostLinks = 300;

    public ExprNode Expression()
    {
        if (++depth > 50)
            throw Unfit("This expression is nested too deeply; use a variable.");
        var node = Or();
        depth--;
        return node;
    }

    private ExprNode Or() => Chain(And, ("or", Operator.Or));

    private ExprNode And()
    {
        var start = at;
        var left = Not();
        while (true)
        {
            var before = at;
            if (!Take("and", "operator"))
                return left;
            // Before a verb “and” joins two actions.
            if (ActionHere)
            {
                at = before;
                return left;
            }
            Link();
            left = new BinaryNode(Operator.And, left, Not()) { Span = From(start) };
        }
    }

    private ExprNode Not()
    {
        var start = at;
        // A declared name wins over the keyword.
        if (own.Variables.Contains("not") || !Take("not"))
            return Comparison();
        if (++depth > 50)
            throw Unfit("This expression is nested too deeply; use a variable.");
        var operand = Not();
        depth--;
        return new UnaryNode(true, operand) { Span = From(start) };
    }

    private ExprNode Comparison()
    {
        var start = at;
        if (worldly && World() is { } asked)
            return asked;
        var left = Sum();
        if (left is VariableNode queue && Take("holds"))
            return new HoldsNode(queue.Name, Sum()) { Span = From(start) };
        foreach (var (text, op) in Comparisons)
            if (Take(text, "operator"))
                return new BinaryNode(op, left, Sum()) { Span = From(start) };
        return left;
    }

    private static readonly (string, Operator)[] Comparisons =
    [
        ("=", Operator.Equal),
        ("!=", Operator.NotEqual),
        ("<=", Operator.LessOrEqual),
        (">=", Operator.GreaterOrEqual),
        ("<", Operator.Less),
        (">", Operator.Greater),
    ];

    private ExprNode Sum() => Chain(Product, ("+", Operator.Add), ("-", Operator.Subtract));

    private ExprNode Product() => Chain(Factor, ("*", Operator.Multiply), ("/", Operator.Divide));

    private ExprNode Chain(Func<ExprNode> operand, params (string Text, Operator Op)[] operators)
    {
        var start = at;
        var left = operand();
        while (true)
        {
            var taken = false;
            foreach (var (text, op) in operators)
                if (Take(text, "operator"))
                {
                    Link();
                    left = new BinaryNode(op, left, operand()) { Span = From(start) };
                    taken = true;
                    break;
                }
            if (!taken)
                return left;
        }
    }

    private static readonly string[] Functions = ["min", "max", "abs", "round"];

    // The longest declared name that stands here and makes sense as a value.
    private ExprNode? Longest()
    {
        var start = at;
        (ExprNode Node, int End)? best = null;
        void Try(ExprNode? node)
        {
            if (node is not null && (best is null || at > best.Value.End))
                best = (node, at);
            at = start;
        }
        Try(TryName("variable", own.Variables) is { } variable ? new VariableNode(variable) : null);
        Try(Sensor());
        Try(TryName("zone", Names.Zones) is { } zone ? new ZoneNode(zone) : null);
        Try(
            TryName("motor", Names.Commanded) is not { } device ? null
            : Take("is done") ? new DoneNode(device)
            : Take("has given up") ? new GivenUpNode(device)
            : null
        );
        Try(
            own.Regions.Count > 0 && TryName("region", own.Regions) is { } region && Take("is in")
                ? new InStateNode(region, Name("state", own.States))
                : null
        );
        if (best is null)
            return null;
        at = best.Value.End;
        return best.Value.Node;
    }

    // “Tag eye is not bed tag”, “Range hears nothing”, or what a sensor reads.
    private ExprNode? Sensor()
    {
        if (TryName("sensor", Names.Sensors) is not { } sensor)
            return null;
        var word = rig.Sensors.First(s => s.Name == sensor);
        if (word.MayHearNothing && Take("hears nothing"))
            return new SilentNode(sensor);
        if (Take("cannot tell"))
            return new CannotTellNode(sensor);
        var not = Take("is not");
        return not || Take("is") ? new ZoneIsNode(sensor, Name("zone", word.Zones.ToArray(), $" on {sensor}"), not)
            : word.Reads is not null ? new ReadingNode(sensor)
            : null;
    }

    private ExprNode Factor()
    {
        var start = at;
        // No name and no word begins with a digit.
        if (Now.Kind == TokenKind.Number)
            return Number(start);
        if (Longest() is { } named)
            return named with { Span = From(start) };
        if (Now.Kind == TokenKind.Text)
            return new TextNode(tokens[at++].Text) { Span = From(start) };
        if (Take("yes", "value"))
            return new TruthNode(true) { Span = From(start) };
        if (Take("no zone", "value"))
            return new ZoneNode(null) { Span = From(start) };
        if (Take("no", "value"))
            return new TruthNode(false) { Span = From(start) };
        if (Take("all done", "condition"))
            return new DoneNode(null) { Span = From(start) };
        if (Take("queue", "value"))
            return new QueueNode { Span = From(start) };
        foreach (
            var (words, kind) in new[]
            {
                ("travel of", PropertyKind.Travel),
                ("angle of", PropertyKind.Angle),
                ("zone of", PropertyKind.Zone),
                ("length of", PropertyKind.Length),
            }
        )
        {
            if (!Take(words, "function"))
                continue;
            string[] of = kind switch
            {
                PropertyKind.Travel => [.. rig.Mechanisms.Where(m => m.Going != Going.Nowhere).Select(m => m.Name)],
                PropertyKind.Angle =>
                [
                    .. rig
                        .Mechanisms.Select(m => m.Name)
                        .Concat(rig.Actuators.Select(x => x.Name))
                        .Where(n =>
                            rig.MotorOf(n)
                                is ActuatorKind.RegulatedMotor
                                    or ActuatorKind.Stepper
                                    or ActuatorKind.Servo
                                    or ActuatorKind.PlainMotor
                        )
                        .Distinct(),
                ],
                PropertyKind.Zone => [.. rig.Sensors.Select(x => x.Name)],
                _ => [.. own.Variables],
            };
            return new PropertyNode(
                kind,
                Name(
                    kind switch
                    {
                        PropertyKind.Travel => "drive",
                        PropertyKind.Angle => "motor",
                        PropertyKind.Zone => "sensor",
                        _ => "queue",
                    },
                    of
                )
            )
            {
                Span = From(start),
            };
        }
        if (Take("random", "function"))
        {
            if (!Take("( between", "operator"))
                return new RandomNode(null, null) { Span = From(start) };
            var low = Sum();
            Need("and");
            var high = Sum();
            Need(")");
            return new RandomNode(low, high) { Span = From(start) };
        }
        if (Take("-", "operator"))
        {
            if (++depth > 50)
                throw Unfit("This expression is nested too deeply; use a variable.");
            var operand = Factor();
            depth--;
            return new UnaryNode(false, operand) { Span = From(start) };
        }
        if (Take("(", "operator"))
        {
            var inner = Expression();
            Need(")");
            return inner;
        }
        foreach (var function in Functions)
        {
            if (!Take(function, "function"))
                continue;
            Need("(");
            var arguments = new List<ExprNode> { Expression() };
            while (Take(","))
                arguments.Add(Expression());
            Need(")");
            var wantedCount = function is "min" or "max" ? 2 : 1;
            if (function is "min" or "max" ? arguments.Count < 2 : arguments.Count != 1)
                throw new LineFault(
                    tokens[start].Start + 1,
                    tokens[start].Length,
                    function,
                    "",
                    $"“{function}” takes {(wantedCount == 2 ? "two numbers or more" : "one number")}.",
                    null
                );
            return new CallNode(function, arguments.ToSequence()) { Span = From(start) };
        }
        Want("1", "number");
        if (Now.Kind != TokenKind.Number)
        {
            if (Now.Kind == TokenKind.Word && own.Variables.Count > 0)
                Name("variable", own.Variables);
            throw Unfit(null, Now.Kind == TokenKind.Word ? Unknown("variable", at, "") : null);
        }
        return Number(start);
    }

    private LiteralNode Number(int start)
    {
        var digits = Now.Text;
        if (digits.Length > 15)
            throw new LineFault(
                Now.Start + 1,
                Now.Length,
                digits,
                "a number of at most 15 digits",
                "This number is too long: at most 15 digits.",
                null
            );
        at++;
        var unit = UnitHere();
        return new LiteralNode(digits, unit) { Span = From(start) };
    }

    private string UnitHere()
    {
        foreach (var unit in Unit.All)
        {
            Want(unit.Text, "unit");
            if (unit.Text.Contains('/'))
            {
                var parts = unit.Text.Replace("/", " / ").Split(' ');
                var fits = at + parts.Length <= tokens.Count;
                for (var i = 0; i < parts.Length && fits; i++)
                    fits = tokens[at + i].Text == parts[i] && tokens[at + i].Kind is TokenKind.Word or TokenKind.Symbol;
                if (fits)
                {
                    at += parts.Length;
                    return unit.Text;
                }
            }
            else if (Now.Kind is TokenKind.Word or TokenKind.Symbol && Take(unit.Text, "unit"))
                return unit.Text;
        }
        return "";
    }
}
