using Chiton.Core.Programs.Language;

namespace Chiton.Core.Programs.Engine;

/// <summary>
/// What is kept of a number when all that may ever happen is looked at: on which side of the constants that it is compared
/// with it lies. Even places are the open stretches between them, odd ones the constants themselves.
/// </summary>
internal sealed class Stretches
{
    private readonly double[] cuts,
        stand;

    /// <param name="cuts">The constants, in any order.</param>
    public Stretches(IEnumerable<double> cuts)
    {
        this.cuts = [.. cuts.Where(double.IsFinite).Distinct().Order()];
        var n = this.cuts.Length;
        stand = new double[2 * n + 1];
        for (var i = 0; i < n; i++)
            stand[2 * i + 1] = this.cuts[i];
        for (var i = 1; i < n; i++)
            stand[2 * i] = (this.cuts[i - 1] + this.cuts[i]) / 2;
        if (n == 0)
            return;
        // A tenth beyond, and at least one: far enough for the band of a sensor, near enough to be read.
        var (low, high) = (this.cuts[0], this.cuts[^1]);
        stand[0] = low > 0 ? low - Math.Max(low / 10, Math.Min(1, low / 2)) : low - Math.Max(1, -low / 10);
        stand[^1] = high + Math.Max(1, Math.Abs(high) / 10);
    }

    /// <summary>The constants, in rising order.</summary>
    public IReadOnlyList<double> Constants => cuts;

    /// <summary>How many stretches and constants there are.</summary>
    public int Count => stand.Length;

    /// <summary>The number that stands for a place.</summary>
    public double this[int place] => stand[place];

    /// <summary>True for a place that is one number and no stretch.</summary>
    public static bool IsExact(int place) => (place & 1) == 1;

    /// <summary>The place of a number.</summary>
    public int Of(double value)
    {
        var at = Array.BinarySearch(cuts, value);
        return at >= 0 ? 2 * at + 1 : 2 * ~at;
    }

    /// <summary>The open ends of the stretch that a number stands for; the number itself where it is exact.</summary>
    public (double Low, double High) Around(double value)
    {
        var place = Of(value);
        return IsExact(place)
            ? (value, value)
            : (
                place == 0 ? double.NegativeInfinity : cuts[place / 2 - 1],
                place == 2 * cuts.Length ? double.PositiveInfinity : cuts[place / 2]
            );
    }

    /// <summary>The first and last place that numbers between two ends may lie in; the ends themselves are not among them unless they are
    /// equal.</summary>
    public (int First, int Last) Between(double low, double high)
    {
        if (low == high)
            return (Of(low), Of(low));
        var (a, b) = (double.IsNegativeInfinity(low) ? 0 : Of(low), double.IsPositiveInfinity(high) ? 2 * cuts.Length : Of(high));
        return (IsExact(a) ? a + 1 : a, IsExact(b) ? b - 1 : b);
    }
}

/// <summary>
/// Lets a machine do all that it may do where not everything is known: numbers are kept as <see cref="Stretches"/>, and where
/// a condition may hold or not, both are tried, one after the other. One step is taken again and again until every way
/// through it has been seen.
/// </summary>
internal sealed class Vague
{
    /// <summary>Most ways through one step.</summary>
    public const int MostWays = 64;

    /// <summary>Most values that are kept of a queue.</summary>
    public const int MostQueued = 4;

    private readonly int[] chosen = new int[256],
        of = new int[256];
    private readonly Dictionary<Code, bool> answered = [];
    private int at,
        known,
        ways;
    private int answeredAt = -1,
        version;

    /// <param name="script">The program.</param>
    public Vague(CompiledScript script)
    {
        var cuts = new Cuts(script);
        (Slots, Readings, Travels, Angles, Exact) = (cuts.Slots, cuts.Readings, cuts.Travels, cuts.Angles, cuts.Exact);
    }

    /// <summary>Of each variable what it is kept as; null where its values are kept themselves.</summary>
    public Stretches?[] Slots { get; }

    /// <summary>The same of what each sensor reads; null where its number is compared with nothing.</summary>
    public Stretches?[] Readings { get; }

    /// <summary>The same of ways.</summary>
    public Stretches?[] Travels { get; }

    /// <summary>The same of angles.</summary>
    public Stretches?[] Angles { get; }

    /// <summary>Variables whose values are few: they are kept as they are.</summary>
    public bool[] Exact { get; }

    /// <summary>True when a step had more ways than were tried, or a queue was longer than is kept.</summary>
    public bool Cut { get; set; }

    /// <summary>Counts what nobody knows how long it takes.</summary>
    public int Unknowns { get; set; }

    /// <summary>A new step, of which all ways are to be tried.</summary>
    public void Begin() => (at, known, ways, version) = (0, 0, 0, version + 1);

    /// <summary>True while another way through the step is left; the step is taken from its start again.</summary>
    public bool Another()
    {
        while (known > 0 && chosen[known - 1] + 1 >= of[known - 1])
            known--;
        if (known == 0)
            return false;
        if (++ways >= MostWays)
        {
            Cut = true;
            return false;
        }
        chosen[known - 1]++;
        (at, version) = (0, version + 1);
        return true;
    }

    /// <summary>One of several ways.</summary>
    public int Choose(int n)
    {
        if (n <= 1)
            return 0;
        if (at == known)
        {
            if (known == chosen.Length)
            {
                Cut = true;
                return 0;
            }
            (chosen[known], of[known]) = (0, n);
            known++;
        }
        return chosen[at++];
    }

    /// <summary>A condition of which nobody knows whether it holds: the same answer for as long as no number changed.</summary>
    public bool Perhaps(Code condition)
    {
        if (answeredAt != version)
        {
            answered.Clear();
            answeredAt = version;
        }
        if (answered.TryGetValue(condition, out var said))
            return said;
        return answered[condition] = Choose(2) == 1;
    }

    /// <summary>What a variable holds once a value was put into it: the number that stands for it.</summary>
    /// <param name="m">The machine.</param>
    /// <param name="slot">The variable.</param>
    /// <param name="code">Where the value comes from; null when it is given.</param>
    /// <param name="value">The value; NaN when nobody knows it.</param>
    public double Put(ScriptMachine m, int slot, Code? code, double value)
    {
        version++;
        if (Slots[slot] is not { } kept)
            return Exact[slot] ? value : double.NaN;
        if (!double.IsNaN(value))
            return kept[kept.Of(value)];
        var (low, high) = code is null ? (double.NegativeInfinity, double.PositiveInfinity) : Ends(m, code);
        var (first, last) = kept.Between(low, high);
        return kept[first + Choose(last - first + 1)];
    }

    // Between which ends a value lies: of sums of what is known and what is kept as a stretch.
    private (double Low, double High) Ends(ScriptMachine m, Code code)
    {
        switch (code)
        {
            case Variable v when Slots[v.Slot] is { } kept && !double.IsNaN(m.Variables[v.Slot]):
                return kept.Around(m.Variables[v.Slot]);
            case Binary { Operator: Operator.Add or Operator.Subtract } b:
                var (x, y) = (Ends(m, b.Left), Ends(m, b.Right));
                return b.Operator == Operator.Add ? (x.Low + y.Low, x.High + y.High) : (x.Low - y.High, x.High - y.Low);
            default:
                var value = code.Eval(m);
                return double.IsNaN(value) ? (double.NegativeInfinity, double.PositiveInfinity) : (value, value);
        }
    }

    /// <summary>Whether a comparison holds: what is kept tells, else both are tried.</summary>
    public bool Compare(ScriptMachine m, Code comparison, Operator op, Code left, Code right)
    {
        var (a, b) = (Ends(m, left, comparison), Ends(m, right, comparison));
        // With open stretches only what lies apart, or beside, can be told.
        if (a.Low == a.High && b.Low == b.High)
            return op switch
            {
                Operator.Equal => a.Low == b.Low,
                Operator.NotEqual => a.Low != b.Low,
                Operator.Less => a.Low < b.Low,
                Operator.LessOrEqual => a.Low <= b.Low,
                Operator.Greater => a.Low > b.Low,
                _ => a.Low >= b.Low,
            };
        if (a.High <= b.Low)
            return op is Operator.Less or Operator.LessOrEqual or Operator.NotEqual;
        if (a.Low >= b.High)
            return op is Operator.Greater or Operator.GreaterOrEqual or Operator.NotEqual;
        return Perhaps(comparison);
    }

    private (double Low, double High) Ends(ScriptMachine m, Code code, Code _) =>
        code switch
        {
            Reading r when Readings[r.Sensor] is { } kept && m.LatestReading(r.Sensor) is var now && !double.IsNaN(now) => kept.Around(now),
            Measured d when (d.IsTravel ? Travels : Angles)[d.Device] is { } kept => kept.Around(
                d.IsTravel ? m.Travel(d.Device) : m.Angle(d.Device)
            ),
            _ => Ends(m, code),
        };

    /// <summary>The value of a variable in a sum; NaN when it is kept as a stretch only.</summary>
    public double Value(int slot, double kept) =>
        Slots[slot] is { } of && !double.IsNaN(kept) && !Stretches.IsExact(of.Of(kept)) ? double.NaN : kept;

    // Which constants numbers are compared with.
    private sealed class Cuts
    {
        // A variable that counts is kept number by number as far as that.
        private const int MostNumbers = 200;

        private readonly CompiledScript script;
        private readonly List<double>[] slots,
            readings,
            travels,
            angles;
        private readonly bool[] asked;
        private readonly List<(int Slot, Code? Value)> puts = [];

        public Stretches?[] Slots { get; }
        public Stretches?[] Readings { get; }
        public Stretches?[] Travels { get; }
        public Stretches?[] Angles { get; }
        public bool[] Exact { get; }

        public Cuts(CompiledScript script)
        {
            this.script = script;
            static List<double>[] Lists(int n) => [.. Enumerable.Range(0, n).Select(_ => new List<double>())];
            (slots, readings, travels, angles, asked) = (
                Lists(script.Variables.Length),
                Lists(script.Sensors.Length),
                Lists(script.Devices.Length),
                Lists(script.Devices.Length),
                new bool[script.Variables.Length]
            );
            foreach (var unit in script.Units)
            {
                foreach (var t in unit.Transitions)
                {
                    Truth(t.Condition);
                    Truth(t.Guard);
                    See(t.Time, false);
                    See(t.HoldFor, false);
                    foreach (var into in t.Into)
                        if (into >= 0)
                            puts.Add((into, null));
                }
                foreach (var a in unit.Activities)
                {
                    if (a.Kind == DoKind.If)
                        Truth(a.Value);
                    else
                        See(a.Value, a.Kind is DoKind.Repeat or DoKind.Push);
                    if (a.Kind == DoKind.Repeat)
                        Truth(a.Second);
                    See(a.Lasts, false);
                    foreach (var arg in a.Args)
                        See(arg, true);
                    if (a is { Kind: DoKind.Set, Slot: >= 0 })
                        puts.Add((a.Slot, a.Value));
                    if (a.Kind == DoKind.Take)
                        puts.Add((a.Other, null));
                    if (a.Kind == DoKind.Routine)
                        for (var i = 0; i < a.Args.Length; i++)
                            puts.Add((script.Units[a.Unit].Parameters[i], a.Args[i]));
                }
            }
            foreach (var rule in script.Rules)
                Truth(rule);
            foreach (var mark in script.Marks)
                readings[mark.Sensor].Add(mark.Value);
            var n = script.Variables.Length;
            (Slots, Exact) = (new Stretches?[n], new bool[n]);
            // What comes from another variable may be whatever that may be: until nothing more changes.
            for (var s = 0; s < n; s++)
                Exact[s] = true;
            for (var changed = true; changed; )
            {
                changed = false;
                foreach (var (slot, value) in puts)
                    if (Exact[slot] && !Few(value))
                        (Exact[slot], changed) = (false, true);
            }
            for (var s = 0; s < n; s++)
                if (!Exact[s])
                    Slots[s] = Numbers(s);
            Readings = [.. readings.Select(r => r.Count == 0 ? null : new Stretches(r))];
            Travels = [.. travels.Select(r => r.Count == 0 ? null : new Stretches(r))];
            Angles = [.. angles.Select(r => r.Count == 0 ? null : new Stretches(r))];
        }

        // True for what can only be one of few values, that are known when it is worked out.
        private bool Few(Code? value) =>
            value switch
            {
                Constant
                or ZoneOf
                or InZone
                or InState
                or Done
                or GivenUp
                or AllDone
                or CannotTell
                or HearsNothing
                or Beyond
                or Comparison => true,
                Variable v => Exact[v.Slot],
                Unary u => Few(u.Of),
                Binary { Operator: Operator.And or Operator.Or } => true,
                _ => false,
            };

        // A variable that counts by fixed steps from known numbers is kept number by number, as far as it matters.
        private Stretches? Numbers(int slot)
        {
            if (slots[slot].Count == 0 && !asked[slot])
                return null;
            var cuts = new SortedSet<double>(slots[slot]);
            var steps = new List<double>();
            var begins = new List<double>();
            foreach (var (of, code) in script.Initial)
                if (of == slot)
                {
                    if (Known(code) is not { } first)
                        return new(cuts);
                    begins.Add(first);
                }
            foreach (var (of, value) in puts)
            {
                if (of != slot)
                    continue;
                if (value is not null && Known(value) is { } fixedTo)
                    begins.Add(fixedTo);
                else if (
                    value is Binary { Operator: Operator.Add or Operator.Subtract } b
                    && (
                        b.Left is Variable own && own.Slot == slot && Known(b.Right) is { } by
                            ? b.Operator == Operator.Add
                                ? by
                                : -by
                            : b.Operator == Operator.Add && b.Right is Variable self && self.Slot == slot
                                ? Known(b.Left)
                                : null
                    )
                        is { } step
                )
                    steps.Add(step);
                else
                    // Also something that nobody knows: the constants alone are kept.
                    return new(cuts);
            }
            var most = steps.Count == 0 ? 0 : steps.Max(Math.Abs);
            double[] known = [.. cuts, .. begins];
            if (known.Length == 0)
                return null;
            var (low, high) = (known.Min() - most, known.Max() + most);
            if (asked[slot])
                (low, high) = (low - 16 * most, high + 16 * most);
            var seen = new HashSet<double>(begins);
            var open = new Queue<double>(seen);
            while (open.Count > 0 && seen.Count < MostNumbers)
            {
                var now = open.Dequeue();
                foreach (var by in steps)
                    if (now + by is var then && then >= low && then <= high && seen.Add(then))
                        open.Enqueue(then);
            }
            cuts.UnionWith(seen);
            return new(cuts);
        }

        private double? Known(Code code) =>
            code switch
            {
                Constant c => c.Value,
                Variable v when Exact[v.Slot] && puts.All(p => p.Slot != v.Slot) => script
                    .Initial.Where(i => i.Slot == v.Slot)
                    .Select(i => Known(i.Value))
                    .FirstOrDefault(),
                Unary { IsNot: false } u => -Known(u.Of),
                Binary { Operator: Operator.Add } b => Known(b.Left) + Known(b.Right),
                Binary { Operator: Operator.Subtract } b => Known(b.Left) - Known(b.Right),
                Binary { Operator: Operator.Multiply } b => Known(b.Left) * Known(b.Right),
                _ => null,
            };

        // Where an expression is asked whether it holds.
        private void Truth(Code? code)
        {
            switch (code)
            {
                case Variable v:
                    slots[v.Slot].AddRange([0, 1]);
                    return;
                case Unary { IsNot: true } u:
                    Truth(u.Of);
                    return;
                case Binary { Operator: Operator.And or Operator.Or } b:
                    Truth(b.Left);
                    Truth(b.Right);
                    return;
                default:
                    See(code, false);
                    return;
            }
        }

        private void See(Code? code, bool itself)
        {
            switch (code)
            {
                case null:
                    return;
                case Variable v:
                    asked[v.Slot] |= itself;
                    return;
                case Comparison c:
                    Compared(c.Left, c.Right);
                    Compared(c.Right, c.Left);
                    return;
                case Unary u:
                    See(u.Of, itself);
                    return;
                case Binary { Operator: Operator.And or Operator.Or } b:
                    Truth(b.Left);
                    Truth(b.Right);
                    return;
                case Binary b:
                    See(b.Left, itself);
                    See(b.Right, itself);
                    return;
                case Function f:
                    foreach (var a in f.Arguments)
                        See(a, itself);
                    return;
                case Holds h:
                    See(h.Value, true);
                    return;
            }
        }

        private void Compared(Code one, Code other)
        {
            if (Fixed(other) is { } value)
                switch (one)
                {
                    case Variable v:
                        slots[v.Slot].Add(value);
                        return;
                    case Reading r:
                        readings[r.Sensor].Add(value);
                        return;
                    case Measured d:
                        (d.IsTravel ? travels : angles)[d.Device].Add(value);
                        return;
                }
            See(one, true);
        }

        // A number that never changes: constants of the head too.
        private double? Fixed(Code code) =>
            code switch
            {
                Constant c => c.Value,
                Variable v => script
                    .Initial.Where(i => i.Slot == v.Slot && script.IsConstant(v.Slot))
                    .Select(i => Fixed(i.Value))
                    .FirstOrDefault(),
                Unary { IsNot: false } u => -Fixed(u.Of),
                Binary { Operator: Operator.Add } b => Fixed(b.Left) + Fixed(b.Right),
                Binary { Operator: Operator.Subtract } b => Fixed(b.Left) - Fixed(b.Right),
                Binary { Operator: Operator.Multiply } b => Fixed(b.Left) * Fixed(b.Right),
                _ => null,
            };
    }
}
