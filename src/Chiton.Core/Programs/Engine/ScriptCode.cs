using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Statecharts;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;

namespace Chiton.Core.Programs.Engine;

internal sealed class Constant(double value) : Code
{
    public override double Eval(ScriptMachine m) => value;
}

internal sealed class Variable(int slot) : Code
{
    public override double Eval(ScriptMachine m) => m.Variables[slot];
}

internal sealed class Reading(int sensor) : Code
{
    public override double Eval(ScriptMachine m) => m.LatestReading(sensor);
}

internal sealed class ZoneOf(int sensor) : Code
{
    public override double Eval(ScriptMachine m) => m.ZoneHeld(sensor);
}

internal sealed class InZone(int tracker, int zone) : Code
{
    public override double Eval(ScriptMachine m) => m.ZoneHeld(tracker) == zone ? 1 : 0;
}

internal sealed class Length(int queue) : Code
{
    public override double Eval(ScriptMachine m) => m.QueueLength(queue);
}

internal sealed class Holds(int queue, Code value) : Code
{
    public override double Eval(ScriptMachine m) => m.QueueHolds(queue, value.Eval(m)) ? 1 : 0;
}

internal sealed class Measured(int device, bool travel) : Code
{
    public override double Eval(ScriptMachine m) => travel ? m.Travel(device) : m.Angle(device);
}

internal sealed class InState(string region, string state) : Code
{
    public override double Eval(ScriptMachine m) => m.IsIn(region, state) ? 1 : 0;
}

internal sealed class Done(int device) : Code
{
    public override double Eval(ScriptMachine m) => m.IsDone(device) ? 1 : 0;
}

internal sealed class AllDone : Code
{
    public override double Eval(ScriptMachine m) => m.AllDone ? 1 : 0;
}

internal sealed class Chance(Code from, Code to) : Code
{
    public override double Eval(ScriptMachine m)
    {
        var (a, b) = (from.Eval(m), to.Eval(m));
        return a + (b - a) * m.NextRandom();
    }
}

internal sealed class Ratio(Code a, Code b) : Code
{
    public override double Eval(ScriptMachine m) => b.Eval(m) is var d && d != 0 ? Math.Abs(a.Eval(m) / d) : 0;
}

internal sealed class Blinks(Code on, Code off, Code times) : Code
{
    public override double Eval(ScriptMachine m) => (on.Eval(m) + off.Eval(m)) * times.Eval(m);
}

internal sealed class Unary(bool isNot, Code of) : Code
{
    public override double Eval(ScriptMachine m) =>
        isNot
            ? of.Eval(m) == 0
                ? 1
                : 0
            : -of.Eval(m);
}

internal sealed class Binary(Operator op, Code left, Code right) : Code
{
    public override double Eval(ScriptMachine m)
    {
        var a = left.Eval(m);
        // The right side of “and” and “or” is looked at only where it matters.
        if (op == Operator.And)
            return a != 0 && right.Eval(m) != 0 ? 1 : 0;
        if (op == Operator.Or)
            return a != 0 || right.Eval(m) != 0 ? 1 : 0;
        var b = right.Eval(m);
        return op switch
        {
            Operator.Add => a + b,
            Operator.Subtract => a - b,
            Operator.Multiply => a * b,
            // A quotient by nothing is taken as nothing: a machine in front of a class must not hold a number that is none.
            Operator.Divide => b == 0 ? 0 : a / b,
            Operator.Equal => a == b ? 1 : 0,
            Operator.NotEqual => a != b ? 1 : 0,
            Operator.Less => a < b ? 1 : 0,
            Operator.LessOrEqual => a <= b ? 1 : 0,
            Operator.Greater => a > b ? 1 : 0,
            _ => a >= b ? 1 : 0,
        };
    }
}

internal sealed class Function(string name, Code[] arguments) : Code
{
    public override double Eval(ScriptMachine m)
    {
        var value = arguments[0].Eval(m);
        switch (name)
        {
            case "abs":
                return Math.Abs(value);
            case "round":
                return Math.Round(value, MidpointRounding.AwayFromZero);
        }
        for (var i = 1; i < arguments.Length; i++)
            value = name == "min" ? Math.Min(value, arguments[i].Eval(m)) : Math.Max(value, arguments[i].Eval(m));
        return value;
    }
}
