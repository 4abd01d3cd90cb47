using System.Globalization;
using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Language;

namespace Chiton.Core.Programs.Outside;

/// <summary>How a language for boards writes what an expression is made of.</summary>
internal abstract class BoardWords
{
    /// <summary>A number to the last digit, so that it is the same there as here.</summary>
    public abstract string Number(double value);

    /// <summary>A value that is one of two.</summary>
    public abstract string Pick(string condition, string yes, string no);

    /// <summary>Sets a name of its own to a value.</summary>
    public abstract string Let(string name, string value, bool first);

    /// <summary>Begins what is done only where something holds.</summary>
    public abstract string If(string condition);

    /// <summary>Begins what is done otherwise.</summary>
    public abstract string Else { get; }

    /// <summary>Ends what was begun; empty where the margin says so.</summary>
    public abstract string End { get; }

    /// <summary>The last line of an expression.</summary>
    public abstract string Return(string value);

    /// <summary>Joins conditions that must all hold.</summary>
    public abstract string And(IEnumerable<string> conditions);

    /// <summary>Joins conditions of which one must hold.</summary>
    public abstract string Or(IEnumerable<string> conditions);

    /// <summary>Turns a condition round.</summary>
    public abstract string Not(string condition);

    /// <summary>The value that nobody knows.</summary>
    public abstract string Unknown { get; }

    /// <summary>The amount of a number.</summary>
    public abstract string Amount(string value);

    /// <summary>True while what a sensor was taught cannot be told apart.</summary>
    public abstract string CannotTell(int sensor);
}

/// <summary>
/// Writes expressions of a compiled program as code: line by line, in the order in which the engine works them out, and what the engine
/// does not look at is not looked at there either. A chance that is taken or not would change all that come after.
/// </summary>
/// <param name="words">The language.</param>
/// <param name="place">Finds the number of a state that is asked for.</param>
internal sealed class BoardExpressions(BoardWords words, Func<InState, int> place)
{
    private readonly List<string> lines = [];
    private int names;
    private int depth;

    /// <summary>The lines of an expression's function, each with its margin in steps.</summary>
    public IReadOnlyList<(int Depth, string Line)> Write(Code code)
    {
        lines.Clear();
        (names, depth) = (0, 0);
        Say(words.Return(Value(code)));
        return [.. lines.Select(l => (l.TakeWhile(c => c == '\t').Count(), l.TrimStart('\t')))];
    }

    private void Say(string line)
    {
        if (line != "")
            lines.Add(new string('\t', depth) + line);
    }

    private string Name() => string.Create(CultureInfo.InvariantCulture, $"t{names++}");

    private string Let(string value)
    {
        var name = Name();
        Say(words.Let(name, value, true));
        return name;
    }

    private static string Is(string a, string op, string b) => $"{a} {op} {b}";

    private static string Nobody(string value) => $"{value} != {value}";

    private string Holds(string value) => words.Or([$"{value} < 0", $"{value} > 0"]);

    private string Truth(string condition) => words.Pick(condition, words.Number(1), words.Number(0));

    private static string I(int n) => n.ToString(CultureInfo.InvariantCulture);

    // A simple name or number, so that it can be said twice without being worked out twice.
    private string Value(Code code)
    {
        switch (code)
        {
            case Constant c:
                return words.Number(c.Value);
            case Variable v:
                return Let($"m.var[{I(v.Slot)}]");
            case Reading r:
                return Let($"m.readings[{I(r.Sensor)}]");
            case ZoneOf z:
                return Let($"m.held[{I(z.Sensor)}]");
            case InZone z:
                return Let(
                    words.Pick(words.Not($"m.known[{I(z.Sensor)}]"), words.Unknown, Truth($"m.held[{I(z.Tracker)}] == {I(z.Zone)}"))
                );
            case CannotTell c:
                return Let(
                    words.Pick(
                        words.CannotTell(c.Sensor),
                        words.Number(1),
                        words.Pick($"m.known[{I(c.Sensor)}]", words.Number(0), words.Unknown)
                    )
                );
            case HearsNothing h:
                return Let(words.Pick(words.Not($"m.known[{I(h.Sensor)}]"), words.Unknown, Truth($"m.silent_now[{I(h.Sensor)}]")));
            case Beyond b:
                return Let(
                    words.Pick(
                        words.Not($"m.known[{I(b.Sensor)}]"),
                        words.Unknown,
                        words.Pick(
                            $"m.blind[{I(b.Sensor)}]",
                            words.Number(0),
                            Truth($"m.is_beyond({I(b.Mark)}, {I(b.Above ? 1 : 0)}, {I(b.OrEqual ? 1 : 0)})")
                        )
                    )
                );
            case Length l:
                return Let($"m.queue_length({I(l.Queue)})");
            case Holds h:
                var asked = Value(h.Value);
                return Let(Truth($"m.holds_in({I(h.Queue)}, {asked})"));
            case Measured x:
                return Let($"m.{(x.IsTravel ? "travel" : "angle")}[{I(x.Device)}]");
            case InState s:
                return Let(Truth($"m.is_in({I(place(s))})"));
            case Done d:
                return Let(Truth($"m.done[{I(d.Device)}]"));
            case GivenUp g:
                return Let(Truth($"m.given_up[{I(g.Device)}]"));
            case AllDone:
                return Let(Truth("m.all_done()"));
            case Chance c:
                var (from, to) = (Value(c.Parts[0]), Value(c.Parts[1]));
                var share = Let("m.chance()");
                return Let($"{from} + ({to} - {from}) * {share}");
            case Ratio r:
                return Ratio(r);
            case Blinks b:
                var (on, off, times) = (Value(b.Parts[0]), Value(b.Parts[1]), Value(b.Parts[2]));
                return Let($"({on} + {off}) * {times}");
            case Unary u:
                var of = Value(u.Of);
                return u.IsNot ? Let(words.Pick(Nobody(of), words.Unknown, Truth(Is(of, "==", words.Number(0))))) : Let($"-({of})");
            case Comparison c:
                return Comparison(c);
            case Binary { Operator: Operator.And or Operator.Or } b:
                return Joined(b);
            case Binary b:
                var (left, right) = (Value(b.Left), Value(b.Right));
                return Let(
                    b.Operator switch
                    {
                        Operator.Add => $"{left} + {right}",
                        Operator.Subtract => $"{left} - {right}",
                        Operator.Multiply => $"{left} * {right}",
                        _ => words.Pick(Is(right, "==", words.Number(0)), words.Number(0), $"{left} / {right}"),
                    }
                );
            case Function f:
                return Function(f);
            case Stick s:
                var dead = s.DeadBand is null ? words.Number(0) : Value(s.DeadBand);
                var ahead = Let($"stick_share({Value(s.Ahead)}, {dead})");
                var turn = Let($"stick_share({Value(s.Turn)}, {dead})");
                var sum = s.Side > 0 ? $"{ahead} + {turn}" : $"{ahead} - {turn}";
                var most = Let($"{words.Amount(ahead)} + {words.Amount(turn)}");
                return Let($"{words.Number(100)} * ({sum}) / {words.Pick($"{most} > 1", most, words.Number(1))}");
            default:
                throw new InvalidOperationException($"No code for {code.GetType().Name}.");
        }
    }

    private string Ratio(Ratio r)
    {
        // The engine looks at what is divided only where there is something to divide by.
        var by = Value(r.Parts[1]);
        var name = Name();
        Say(words.Let(name, words.Number(0), true));
        Say(words.If(Is(by, "!=", words.Number(0))));
        depth++;
        var what = Value(r.Parts[0]);
        Say(words.Let(name, words.Amount($"{what} / {by}"), false));
        depth--;
        Say(words.End);
        return name;
    }

    private string Comparison(Comparison c)
    {
        string Compare()
        {
            var (a, b) = (Value(c.Left), Value(c.Right));
            var op = c.Operator switch
            {
                Operator.Equal => "==",
                Operator.NotEqual => "!=",
                Operator.Less => "<",
                Operator.LessOrEqual => "<=",
                Operator.Greater => ">",
                _ => ">=",
            };
            return Truth(Is(a, op, b));
        }
        if (c.Asked.Count + c.Read.Count == 0)
            return Let(Compare());
        var name = Name();
        Say(words.Let(name, words.Unknown, true));
        if (c.Asked.Count > 0)
        {
            Say(words.If(words.And(c.Asked.Select(s => $"m.known[{I(s)}]"))));
            depth++;
        }
        Say(words.Let(name, words.Number(0), false));
        if (c.Read.Count > 0)
        {
            Say(words.If(words.Not(words.Or(c.Read.Select(s => $"m.blind[{I(s)}]")))));
            depth++;
        }
        Say(words.Let(name, Compare(), false));
        if (c.Read.Count > 0)
        {
            depth--;
            Say(words.End);
        }
        if (c.Asked.Count > 0)
        {
            depth--;
            Say(words.End);
        }
        return name;
    }

    private string Joined(Binary b)
    {
        var isAnd = b.Operator == Operator.And;
        var a = Value(b.Left);
        var name = Name();
        Say(words.Let(name, words.Number(isAnd ? 0 : 1), true));
        Say(words.If(isAnd ? Is(a, "!=", words.Number(0)) : words.Not(Holds(a))));
        depth++;
        var also = Value(b.Right);
        var unknown = words.Or([Nobody(a), Nobody(also)]);
        Say(
            words.Let(
                name,
                isAnd
                    ? words.Pick(Is(also, "==", words.Number(0)), words.Number(0), words.Pick(unknown, words.Unknown, words.Number(1)))
                    : words.Pick(Holds(also), words.Number(1), words.Pick(unknown, words.Unknown, words.Number(0))),
                false
            )
        );
        depth--;
        Say(words.End);
        return name;
    }

    private string Function(Function f)
    {
        var value = Value(f.Arguments[0]);
        switch (f.Name)
        {
            case "abs":
                return Let(words.Amount(value));
            case "round":
                return Let($"away({value})");
        }
        for (var i = 1; i < f.Arguments.Length; i++)
            value = Let($"{(f.Name == "min" ? "least" : "most")}({value}, {Value(f.Arguments[i])})");
        return value;
    }
}
