using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Statecharts;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;

namespace Chiton.Core.Programs.Engine;

internal sealed class Constant(double value) : Code
{
    public double Value => value;

    public override double Eval(ScriptMachine m) => value;
}

internal sealed class Variable(int slot) : Code
{
    public int Slot => slot;

    public override double Eval(ScriptMachine m) => m.Vague is { } v ? v.Value(slot, m.Variables[slot]) : m.Variables[slot];
}

internal sealed class Reading(int sensor) : Code
{
    public int Sensor => sensor;

    public override double Eval(ScriptMachine m) => m.Vague is null ? m.LatestReading(sensor) : double.NaN;
}

internal sealed class ZoneOf(int sensor) : Code
{
    public int Sensor => sensor;

    public override double Eval(ScriptMachine m) => m.ZoneHeld(sensor);
}

/// <summary>Unknown before the sensor's first reading.</summary>
internal sealed class InZone(int sensor, int tracker, int zone) : Code
{
    public int Sensor => sensor;

    public int Tracker => tracker;

    public int Zone => zone;

    public override double Eval(ScriptMachine m) =>
        !m.IsKnown(sensor) ? double.NaN
        : m.ZoneHeld(tracker) == zone ? 1
        : 0;
}

internal sealed class CannotTell(int sensor) : Code
{
    public int Sensor => sensor;

    public override double Eval(ScriptMachine m) =>
        m.CannotTell(sensor) ? 1
        : m.IsKnown(sensor) ? 0
        : double.NaN;
}

internal sealed class HearsNothing(int sensor) : Code
{
    public int Sensor => sensor;

    public override double Eval(ScriptMachine m) =>
        !m.IsKnown(sensor) ? double.NaN
        : m.IsSilent(sensor) ? 1
        : 0;
}

/// <summary>A reading beyond a number, seen from the side that it was on before.</summary>
internal sealed class Beyond(int sensor, int mark, bool above, bool orEqual) : Code
{
    public int Sensor => sensor;

    public int Mark => mark;

    public bool Above => above;

    public bool OrEqual => orEqual;

    public override double Eval(ScriptMachine m) =>
        !m.IsKnown(sensor) ? double.NaN
        : m.SaysNothing(sensor) ? 0
        : m.IsBeyond(mark, above, orEqual) ? 1
        : 0;
}

internal sealed class Length(int queue) : Code
{
    public int Queue => queue;

    public override double Eval(ScriptMachine m) => m.QueueLength(queue);
}

internal sealed class Holds(int queue, Code value) : Code
{
    public override IReadOnlyList<Code> Parts => [value];

    public int Queue => queue;

    public Code Value => value;

    public override double Eval(ScriptMachine m)
    {
        var asked = value.Eval(m);
        // Where the value, or one that waits, is not known, it may be among them or not.
        if (m.Vague is { } v && m.QueueLength(queue) > 0 && (double.IsNaN(asked) || m.QueueHolds(queue, double.NaN)))
            return v.Perhaps(this) ? 1 : 0;
        return m.QueueHolds(queue, asked) ? 1 : 0;
    }
}

internal sealed class Measured(int device, bool travel) : Code
{
    public int Device => device;

    public bool IsTravel => travel;

    public override double Eval(ScriptMachine m) =>
        m.Vague is not null ? double.NaN
        : travel ? m.Travel(device)
        : m.Angle(device);
}

internal sealed class InState(string region, string state) : Code
{
    public string Region => region;

    public string State => state;

    // Where the state stands in each part of the program, looked up once: it is asked a hundred times a second.
    private int[]?[]? places;

    public override double Eval(ScriptMachine m) => m.IsIn(places ??= m.PlacesOf(region, state)) ? 1 : 0;
}

internal sealed class Done(int device) : Code
{
    public int Device => device;

    public override double Eval(ScriptMachine m) => m.IsDone(device) ? 1 : 0;
}

internal sealed class GivenUp(int device) : Code
{
    public int Device => device;

    public override double Eval(ScriptMachine m) => m.HasGivenUp(device) ? 1 : 0;
}

internal sealed class AllDone : Code
{
    public override double Eval(ScriptMachine m) => m.AllDone ? 1 : 0;
}

internal sealed class Chance(Code from, Code to) : Code
{
    public override IReadOnlyList<Code> Parts => [from, to];

    public override double Eval(ScriptMachine m)
    {
        if (m.Vague is not null)
            return double.NaN;
        var (a, b) = (from.Eval(m), to.Eval(m));
        return a + (b - a) * m.NextRandom();
    }
}

internal sealed class Ratio(Code a, Code b) : Code
{
    public override IReadOnlyList<Code> Parts => [a, b];

    public override double Eval(ScriptMachine m) => b.Eval(m) is var d && d != 0 ? Math.Abs(a.Eval(m) / d) : 0;
}

internal sealed class Blinks(Code on, Code off, Code times) : Code
{
    public override IReadOnlyList<Code> Parts => [on, off, times];

    public override double Eval(ScriptMachine m) => (on.Eval(m) + off.Eval(m)) * times.Eval(m);
}

/// <summary>“Not” keeps what is unknown.</summary>
internal sealed class Unary(bool isNot, Code of) : Code
{
    public override IReadOnlyList<Code> Parts => [of];

    public bool IsNot => isNot;

    public Code Of => of;

    public override double Eval(ScriptMachine m)
    {
        var value = of.Eval(m);
        return !isNot ? -value
            : double.IsNaN(value) ? double.NaN
            : value == 0 ? 1
            : 0;
    }
}

/// <summary>Unknown while one of its sensors was never read; false while one of those it takes a number from hears nothing.</summary>
internal sealed class Comparison(Operator op, Code left, Code right, int[] asked, int[] read) : Code
{
    public override IReadOnlyList<Code> Parts => [left, right];

    public Operator Operator => op;

    public Code Left => left;

    public Code Right => right;

    public IReadOnlyList<int> Asked => asked;

    public IReadOnlyList<int> Read => read;

    public override double Eval(ScriptMachine m)
    {
        foreach (var sensor in asked)
            if (!m.IsKnown(sensor))
                return double.NaN;
        foreach (var sensor in read)
            if (m.SaysNothing(sensor))
                return 0;
        if (m.Vague is { } v)
            return v.Compare(m, this, op, left, right) ? 1 : 0;
        var (a, b) = (left.Eval(m), right.Eval(m));
        var holds = op switch
        {
            Operator.Equal => a == b,
            Operator.NotEqual => a != b,
            Operator.Less => a < b,
            Operator.LessOrEqual => a <= b,
            Operator.Greater => a > b,
            _ => a >= b,
        };
        return holds ? 1 : 0;
    }
}

/// <summary>Three-valued where it joins conditions: what is unknown stays so unless the other side decides.</summary>
internal sealed class Binary(Operator op, Code left, Code right) : Code
{
    public override IReadOnlyList<Code> Parts => [left, right];

    public Operator Operator => op;

    public Code Left => left;

    public Code Right => right;

    public override double Eval(ScriptMachine m)
    {
        var a = left.Eval(m);
        switch (op)
        {
            // The right side of “and” and “or” is looked at only where it matters.
            case Operator.And:
                if (a == 0)
                    return 0;
                var also = right.Eval(m);
                return also == 0 ? 0
                    : double.IsNaN(a) || double.IsNaN(also) ? double.NaN
                    : 1;
            case Operator.Or:
                if (Holds(a))
                    return 1;
                var instead = right.Eval(m);
                return Holds(instead) ? 1
                    : double.IsNaN(a) || double.IsNaN(instead) ? double.NaN
                    : 0;
        }
        var b = right.Eval(m);
        return op switch
        {
            Operator.Add => a + b,
            Operator.Subtract => a - b,
            Operator.Multiply => a * b,
            // A quotient by nothing is taken as nothing: a machine in front of a class must not hold a number that is none.
            _ => b == 0 ? 0 : a / b,
        };
    }
}

internal sealed class Function(string name, Code[] arguments) : Code
{
    public override IReadOnlyList<Code> Parts => arguments;

    public string Name => name;

    public Code[] Arguments => arguments;

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

/// <summary>
/// What a wheel is told by two sticks, % of power: the sum of both for the left wheel, the difference for the right one, a
/// quarter turn of a stick being all of it. Within the dead band a stick counts as let go.
/// </summary>
internal sealed class Stick(Code ahead, Code turn, Code? deadBand, int side) : Code
{
    public override IReadOnlyList<Code> Parts => deadBand is null ? [ahead, turn] : [ahead, turn, deadBand];

    public Code Ahead => ahead;

    public Code Turn => turn;

    public Code? DeadBand => deadBand;

    public int Side => side;

    private const double FullDeg = 90;

    public override double Eval(ScriptMachine m)
    {
        var dead = deadBand?.Eval(m) ?? 0;
        double f = Share(ahead.Eval(m), dead),
            t = Share(turn.Eval(m), dead);
        // Source: the sum stick-mix. Beyond full power both wheels are scaled down, so that the curve stays what it was.
        return 100 * (f + side * t) / Math.Max(1, Math.Abs(f) + Math.Abs(t));
    }

    // From 0 at the end of the dead band to 1 at a quarter turn.
    private static double Share(double angle, double dead) =>
        double.IsNaN(angle) || Math.Abs(angle) <= dead || dead >= FullDeg
            ? 0
            : Math.Sign(angle) * Math.Min(1, (Math.Abs(angle) - dead) / (FullDeg - dead));
}
