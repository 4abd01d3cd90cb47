using System.Globalization;
using System.Text;
using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Statecharts;

namespace Chiton.Core.Programs.Outside;

/// <summary>Writes programs as C++17: one header that takes no memory, throws nothing and needs no library but cstdint and cmath. All
/// that is known beforehand stands in tables that never change.</summary>
public static class CppCode
{
    private sealed class Words : BoardWords
    {
        public override string Number(double value) =>
            double.IsNaN(value) ? "unknown"
            : double.IsPositiveInfinity(value) ? "HUGE_VAL"
            : double.IsNegativeInfinity(value) ? "-HUGE_VAL"
            : value.ToString("R", CultureInfo.InvariantCulture) is var said && said.AsSpan().IndexOfAny(".E") < 0 ? said + ".0"
            : said;

        public override string Pick(string condition, string yes, string no) => $"({condition} ? {yes} : {no})";

        public override string Let(string name, string value, bool first) => $"{(first ? "double " : "")}{name} = {value};";

        public override string If(string condition) => $"if ({condition}) {{";

        public override string Else => "} else {";

        public override string End => "}";

        public override string Return(string value) => $"return {value};";

        public override string And(IEnumerable<string> conditions) => string.Join(" && ", conditions.Select(c => $"({c})"));

        public override string Or(IEnumerable<string> conditions) => $"({string.Join(" || ", conditions)})";

        public override string Not(string condition) => $"!({condition})";

        public override string Unknown => "unknown";

        public override string Amount(string value) => $"std::fabs({value})";

        public override string CannotTell(int sensor) => string.Create(CultureInfo.InvariantCulture, $"m.cannot_tell_of({sensor})");
    }

    private static readonly Lazy<string> RuntimeText = new(() => BoardTables.Shipped("machine.hpp"));

    /// <summary>How programs are stepped: the same for all of them.</summary>
    public static string Runtime => RuntimeText.Value;

    /// <summary>A program's tables and sentences, to stand after <see cref="Runtime"/>: a struct in the namespace chiton.</summary>
    /// <param name="name">Name of the struct: letters, digits and underscores.</param>
    /// <param name="script">The program, bound to the zones of a copy.</param>
    public static string Program(string name, CompiledScript script) => new Writer(new(script), null).Write(name);

    /// <summary>The same for a program of a board, which knows besides what its sentences tell devices and how zones are read.</summary>
    /// <returns>The code, how many bytes its tables take, and how its state is laid out.</returns>
    internal static (string Text, int Tables, Func<int, BoardLayout> State) Program(BoardProgram program, BoardRig rig)
    {
        var writer = new Writer(new(program.Script), (program, rig));
        var text = writer.Write(program.Code);
        return (text, writer.TableBytes, writer.State!);
    }

    /// <summary>Bytes of the state of a machine, where a pointer has so many.</summary>
    internal static int StateBytes(CompiledScript script, int pointer)
    {
        var writer = new Writer(new(script), null);
        writer.Write("counted");
        return writer.State!(pointer).Size;
    }

    /// <summary>A function that says names by their numbers.</summary>
    internal static string Names(string name, IEnumerable<string> names)
    {
        var all = string.Join(", ", names.DefaultIfEmpty("").Select(Said));
        return $"  static const char *{name}(int i) {{\n    static const char *const all[] = {{{all}}};\n    return all[i];\n  }}\n";
    }

    /// <summary>A text as a literal.</summary>
    internal static string Said(string s)
    {
        var said = new StringBuilder("\"");
        foreach (var b in Encoding.UTF8.GetBytes(s))
            if (b is (byte)'"' or (byte)'\\')
                said.Append('\\').Append((char)b);
            else if (b is < 32 or > 126)
                said.Append('\\').Append(Convert.ToString(b, 8).PadLeft(3, '0'));
            else if (b == (byte)'?')
                said.Append("\\?");
            else
                said.Append((char)b);
        return said.Append('"').ToString();
    }

    /// <summary>A program as one header.</summary>
    /// <param name="name">Name of the struct.</param>
    /// <param name="script">The program, bound to the zones of a copy.</param>
    public static string Write(string name, CompiledScript script) => $"#pragma once\n{Runtime}\n{Program(name, script)}";

    private sealed class Writer(BoardTables tables, (BoardProgram Program, BoardRig Rig)? board)
    {
        private readonly Words words = new();
        private readonly StringBuilder text = new();
        private readonly List<int> pool = [];
        private readonly Dictionary<string, int> pooled = [];
        private readonly StringBuilder expressions = new();
        private readonly List<long> constants = [];
        private readonly Dictionary<string, int> known = [];
        private int count;

        /// <summary>Bytes of all tables.</summary>
        public int TableBytes { get; private set; }

        /// <summary>How the state of a machine is laid out, by the size of a pointer; known once it is written.</summary>
        public Func<int, BoardLayout>? State { get; private set; }

        private static string I(long n) => n.ToString(CultureInfo.InvariantCulture);

        // Whole numbers in as few bytes as hold them all; of nothing one that nobody looks at, and no room for what is all alike.
        private void Row(string name, IEnumerable<int> values)
        {
            var all = values.ToArray();
            if (all.All(v => v == all[0]))
                text.Append(CultureInfo.InvariantCulture, $"  static constexpr Same<{(all.Length == 0 ? 0 : all[0])}> {name}{{}};\n");
            else
            {
                TableBytes += all.Length * Bytes(all);
                text.Append(CultureInfo.InvariantCulture, $"  static constexpr {Kind(all)} {name}[] = {{{string.Join(", ", all)}}};\n");
            }
        }

        private static int Bytes(IEnumerable<int> values) => values.All(v => v is >= -128 and <= 127) ? 1 : 2;

        private static string Kind(IEnumerable<int> values) => values.All(v => v is >= -128 and <= 127) ? "int8_t" : "int16_t";

        // Which of few kinds there are, a bit each.
        private void Mask(string name, IEnumerable<int> kinds) =>
            text.Append(
                CultureInfo.InvariantCulture,
                $"  static constexpr uint32_t {name} = {kinds.Aggregate(0u, (m, k) => m | 1u << k)};\n"
            );

        // What the numbers of the tables stand for.
        private void Numbered(string what, IEnumerable<string?> sentences)
        {
            foreach (var (i, sentence) in sentences.Index())
                if (sentence is not null)
                    text.Append(CultureInfo.InvariantCulture, $"  // {what} {i}: {sentence}\n");
        }

        private void Yes(string name, IEnumerable<bool> values) => Row(name, values.Select(v => v ? 1 : 0));

        private void Numbers(string name, IEnumerable<double> values)
        {
            var all = values.ToArray();
            TableBytes += 8 * all.Length;
            text.Append(
                CultureInfo.InvariantCulture,
                $"  static constexpr double {name}[] = {{{string.Join(", ", all.Length == 0 ? ["0.0"] : all.Select(words.Number))}}};\n"
            );
        }

        private void One(string name, int value) =>
            text.Append(CultureInfo.InvariantCulture, $"  static constexpr int {name} = {value};\n");

        // Lists lie one after the other, and those that are alike only once.
        private (int At, int Count) Pool(IEnumerable<int> items)
        {
            var all = items.ToArray();
            if (all.Length > 255)
                throw new Quantities.InputProblem("program", "A list of more than 255 is too long for a board.");
            if (all.Length == 0)
                return default;
            var key = string.Join(' ', all);
            if (!pooled.TryGetValue(key, out var at))
            {
                pooled[key] = at = pool.Count;
                pool.AddRange(all);
            }
            return (at, all.Length);
        }

        private void Lists(string name, IEnumerable<(int At, int Count)> lists)
        {
            var all = lists.ToArray();
            if (all.All(l => l.Count == 0))
            {
                text.Append(CultureInfo.InvariantCulture, $"  static constexpr NoLists {name}{{}};\n");
                return;
            }
            var kind = all.All(l => l.At <= 255) ? "uint8_t" : "uint16_t";
            TableBytes += all.Length * (kind == "uint8_t" ? 2 : 3);
            text.Append(
                CultureInfo.InvariantCulture,
                $"  static constexpr Lists<{kind}, {all.Length}> {name} = {{{{{string.Join(", ", all.Select(l => l.At))}}}, "
            );
            text.Append(CultureInfo.InvariantCulture, $"{{{string.Join(", ", all.Select(l => l.Count))}}}}};\n");
        }

        private int Of(Code? code, string? said = null)
        {
            if (code is null)
                return -1;
            if (code is Constant c)
            {
                var bits = BitConverter.DoubleToInt64Bits(c.Value);
                var at = constants.IndexOf(bits);
                if (at < 0)
                {
                    at = constants.Count;
                    constants.Add(bits);
                }
                return -2 - at;
            }
            var body = string.Concat(
                new BoardExpressions(words, tables.Place).Write(code).Select(l => new string(' ', 6 + 2 * l.Depth) + l.Line + "\n")
            );
            // What is worked out alike is worked out in one place.
            if (known.TryGetValue(body, out var number))
                return number;
            known[body] = count;
            expressions.Append(CultureInfo.InvariantCulture, $"    case {count}: {{{(said is null ? "" : "  // " + said)}\n{body}    }}\n");
            return count++;
        }

        // Slots for those of which something is kept, in their order; −1 for the others.
        private static int[] Slots(IEnumerable<bool> has)
        {
            var n = 0;
            return [.. has.Select(h => h ? n++ : -1)];
        }

        // Places for what transitions keep while their state is active: states of which only one can be active share them.
        private static (int[] Slots, int Count) Shared(IReadOnlyList<ScriptUnit> units, Func<ScriptTransition, bool> has)
        {
            var slots = new List<int>();
            var first = 0;
            foreach (var u in units)
            {
                var own = new int[u.Transitions.Length];
                Array.Fill(own, -1);
                first = Place(u.Chart, 0, first);
                slots.AddRange(own);

                int Place(Chart chart, int node, int from)
                {
                    foreach (var t in BoardTables.Own(chart, node).Where(t => has(u.Transitions[t])))
                        own[t] = from++;
                    var most = from;
                    foreach (var child in BoardTables.Children(chart, node))
                    {
                        most = Math.Max(most, Place(chart, child, from));
                        // Regions are active together, states of a region one at a time.
                        if (chart.Kind[node] == NodeKind.Parallel)
                            from = most;
                    }
                    return most;
                }
            }
            return ([.. slots], first);
        }

        public string Write(string name)
        {
            var s = tables.Script;
            var units = s.Units;
            int[] n0 = [.. Sums(units.Select(u => u.Nodes.Length))],
                t0 = [.. Sums(units.Select(u => u.Transitions.Length))],
                a0 = [.. Sums(units.Select(u => u.Activities.Length))];
            (ScriptUnit Unit, int Of)[] each = [.. units.Select((u, i) => (u, i))];
            var nodes = each.SelectMany(e => Enumerable.Range(0, e.Unit.Nodes.Length).Select(n => (e.Unit, e.Of, Node: n))).ToArray();
            var transitions = each.SelectMany(e => e.Unit.Transitions.Select((t, i) => (e.Unit, e.Of, Index: i, T: t))).ToArray();
            var activities = each.SelectMany(e => e.Unit.Activities.Select((a, i) => (e.Unit, e.Of, Index: i, A: a))).ToArray();
            int N(int unit, int node) => node < 0 ? -1 : n0[unit] + node;
            int T(int unit, int t) => t < 0 ? -1 : t0[unit] + t;
            int A(int unit, int a) => a < 0 ? -1 : a0[unit] + a;
            static bool IsHistory(NodeKind kind) => kind is NodeKind.ShallowHistory or NodeKind.DeepHistory;

            var histories = Slots(nodes.Select(x => IsHistory(x.Unit.Chart.Kind[x.Node])));
            // A tap that nobody waits for is one more thing that happens: it is of account only where something is drawn then.
            var draws = s.AllCodes.OfType<Chance>().Any();
            var taps = Slots(
                nodes.Select(x =>
                    draws
                    || x.Unit.Nodes[x.Node]
                        .Transitions.Any(t =>
                            x.Unit.Transitions[t]
                                is { Kind: FireKind.Press, Press: Language.PressKind.Tapped or Language.PressKind.TappedTwice }
                        )
                )
            );
            var (timers, timersCount) = Shared(
                units,
                t =>
                    t.Kind is FireKind.After or FireKind.Silence or FireKind.Every
                    || t.HoldFor is not null
                    || t is { Kind: FireKind.Press, Press: Language.PressKind.Held }
            );
            var (holds, holdsCount) = Shared(units, t => t.HoldFor is not null && t.IsLevel);
            var (counts, countsCount) = Shared(units, t => t.Counts);
            var (edges, edgesCount) = Shared(units, t => t.Kind is FireKind.Edge or FireKind.Leave);
            var watchesCount = Shared(units, t => t.Watches).Count;
            // A device does one thing that ends at a time; what waits has a place of its own.
            var timed = activities.Select(x => x.A is { Kind: DoKind.Move, Finite: true, Lasts: not null }).ToArray();
            var places = new Dictionary<int, int>();
            int[] endings =
            [
                .. activities.Select(
                    (x, i) =>
                        !timed[i] ? -1
                        : places.TryGetValue(x.A.Device < 0 ? -1 - i : x.A.Device, out var at) ? at
                        : places[x.A.Device < 0 ? -1 - i : x.A.Device] = places.Count
                ),
            ];
            var nexts = Slots(activities.Select(x => x.A.Kind is DoKind.Then or DoKind.If or DoKind.Repeat));
            var taught = s.Sensors.Select((_, i) => activities.Any(x => x.A.Kind == DoKind.Teach && x.A.Slot == i)).ToArray();
            var teaches = Slots(taught);
            var zones = s.Sensors.Select((_, i) => s.ScaleOf(i)?.Names.Count ?? 0).DefaultIfEmpty(0).Max();

            text.Append(CultureInfo.InvariantCulture, $"namespace chiton {{\n\nstruct {name} {{\n");
            One("nodes", nodes.Length);
            One("transitions", transitions.Length);
            One("activities", activities.Length);
            One("units", units.Length);
            One("sensors", s.Sensors.Length);
            One("devices", s.Devices.Length);
            One("variables", s.Variables.Length);
            One("queues", s.Queues.Length);
            One("trackers", s.Trackers.Length);
            One("marks", s.Marks.Length);
            One("initials", s.Initial.Length);
            One("histories", histories.Count(h => h >= 0));
            One("taps", taps.Count(x => x >= 0));
            One("timers_count", timersCount);
            One("holds_count", holdsCount);
            One("endings", places.Count);
            One("watches", watchesCount);
            One("counts", countsCount);
            One("edges", edgesCount);
            One("nexts", nexts.Count(x => x >= 0));
            One("lasts", activities.Count(x => x.A is { Kind: DoKind.Move, Finite: false }));
            One("most_work", 8 + 3 * units.Sum(BoardTables.MostWork));
            One("lastings", activities.Count(x => x.A is { Kind: DoKind.Move, Finite: false } || x.A is { Kind: DoKind.If, Judged: true }));
            One("taughts", taught.Count(x => x));
            // What is taught may be a zone that was never measured.
            One("most_zones", taught.Any(x => x) ? Math.Max(zones, s.Zones.Length) : 0);
            var mostValues = Math.Min(16, transitions.Select(x => x.T.Into.Length).DefaultIfEmpty(0).Max());
            One("most_values", mostValues);
            One("most_told", activities.Where(x => x.A.Kind == DoKind.Tell).Select(x => x.A.Args.Length).DefaultIfEmpty(0).Max());
            One("most_enabled", Math.Max(1, units.Max(u => BoardTables.MostActive(u.Chart, 0))));
            var isFree = transitions.Any(x => x.Unit.Chart.Targets[x.Index].Length > 0 && x.Unit.Chart.FixedDomain[x.Index] < 0);
            text.Append(CultureInfo.InvariantCulture, $"  static constexpr bool free_domains = {(isFree ? "true" : "false")};\n");
            One("up", s.ZoneIndex("up"));
            One("down_zone", s.ZoneIndex("down"));
            var measures = s.AllCodes.Any(c => c is Measured) || activities.Any(x => x.A.Kind == DoKind.Zero);
            text.Append(CultureInfo.InvariantCulture, $"  static constexpr bool measures = {(measures ? "true" : "false")};\n");

            Mask("n_kinds", nodes.Select(x => (int)x.Unit.Chart.Kind[x.Node]));
            Mask("t_kinds", transitions.Select(x => (int)x.T.Kind));
            Mask("a_kinds", activities.Select(x => (int)x.A.Kind));

            Numbered("node", nodes.Select(x => x.Unit.Nodes[x.Node].Path == "" ? null : BoardTables.Comment(x.Unit.Nodes[x.Node].Path)));
            Row("n_first", n0);
            Row("t_first", t0);
            Row("a_first", a0);
            Row("kind", nodes.Select(x => (int)x.Unit.Chart.Kind[x.Node]));
            Row("parent", nodes.Select(x => N(x.Of, x.Unit.Chart.Parent[x.Node])));
            Row("end", nodes.Select(x => n0[x.Of] + x.Unit.Chart.End[x.Node]));
            Row("deflt", nodes.Select(x => T(x.Of, x.Unit.Chart.Default[x.Node])));
            Row("n_in", nodes.Select(x => x.Of));
            Row("n_tap", taps);
            Row("history", histories);
            Lists(
                "own",
                nodes.Select(x =>
                {
                    int[] own = [.. BoardTables.Own(x.Unit.Chart, x.Node)];
                    return own.Length == 0 ? default
                        : own[^1] - own[0] == own.Length - 1 ? (t0[x.Of] + own[0], own.Length)
                        : throw new InvalidOperationException("Transitions of a state stand side by side.");
                })
            );
            Lists("entry", nodes.Select(x => Pool(x.Unit.Nodes[x.Node].Entry.Select(a => A(x.Of, a)))));
            Lists("whiles", nodes.Select(x => Pool(x.Unit.Nodes[x.Node].While.Select(a => A(x.Of, a)))));
            Lists("exits", nodes.Select(x => Pool(x.Unit.Nodes[x.Node].Exit.Select(a => A(x.Of, a)))));
            Lists("arriving", nodes.Select(x => Pool(x.Unit.Nodes[x.Node].Arriving.Select(t => T(x.Of, t)))));
            Numbered("transition", transitions.Select(x => BoardTables.Sentence(x.T)));
            Row("t_in", transitions.Select(x => x.Of));
            Row("source", transitions.Select(x => N(x.Of, x.Unit.Chart.Source[x.Index])));
            Lists("targets", transitions.Select(x => Pool(x.Unit.Chart.Targets[x.Index].Select(n => N(x.Of, n)))));
            Row(
                "t_flags",
                transitions.Select(x =>
                    (x.T.Node is not null ? 1 : 0)
                    + (x.T.Watches ? 2 : 0)
                    + (x.Unit.Chart.Internal[x.Index] ? 4 : 0)
                    + (x.Unit.Chart.Level[x.Index] ? 8 : 0)
                )
            );
            Row("fixed", transitions.Select(x => N(x.Of, x.Unit.Chart.FixedDomain[x.Index])));
            Row("t_kind", transitions.Select(x => (int)x.T.Kind));
            Row("t_sensor", transitions.Select(x => x.T.Sensor));
            Row("t_zone", transitions.Select(x => x.T.Zone));
            Row("t_needed", transitions.Select(x => x.T.Needed));
            Row("t_press", transitions.Select(x => (int)x.T.Press));
            Row("t_device", transitions.Select(x => x.T.Device));
            Row("t_text", transitions.Select(x => x.T.Text));
            Row("t_from", transitions.Select(x => x.T.From));
            Lists("t_into", transitions.Select(x => Pool(x.T.Into)));
            Lists("t_roots", transitions.Select(x => Pool(x.T.Roots.Select(a => A(x.Of, a)))));
            Row("t_cond", transitions.Select(x => Of(x.T.Condition, BoardTables.Sentence(x.T))));
            Row("t_time", transitions.Select(x => Of(x.T.Time, BoardTables.Sentence(x.T))));
            Row("t_hold", transitions.Select(x => Of(x.T.HoldFor, BoardTables.Sentence(x.T))));
            Row("t_guard", transitions.Select(x => Of(x.T.Guard, BoardTables.Sentence(x.T))));
            Row("t_timer", timers);
            Row("t_since", holds);
            Row("t_count", counts);
            Row("t_edge", edges);
            Numbered("activity", activities.Select(x => BoardTables.Sentence(x.A)));
            Row("a_in", activities.Select(x => x.Of));
            Row("a_kind", activities.Select(x => (int)x.A.Kind));
            Row("a_parent", activities.Select(x => A(x.Of, x.A.Parent)));
            Lists("a_children", activities.Select(x => Pool(x.A.Children.Select(a => A(x.Of, a)))));
            // Groups keep there how far they have come.
            Row("a_slot", activities.Select((x, i) => nexts[i] >= 0 ? nexts[i] : x.A.Slot));
            Row("a_other", activities.Select(x => x.A.Other));
            Row("a_device", activities.Select(x => x.A.Device));
            Row("a_unit", activities.Select(x => x.A.Unit));
            Row(
                "a_flags",
                activities.Select(x =>
                    (x.A.Finite ? 1 : 0) + (x.A.Judged ? 2 : 0) + (x.A.Limited ? 4 : 0) + (BoardTables.Stops(x.A) ? 8 : 0)
                )
            );
            Row("a_value", activities.Select(x => Of(x.A.Value, BoardTables.Sentence(x.A))));
            Row("a_second", activities.Select(x => Of(x.A.Second, BoardTables.Sentence(x.A))));
            Row("a_lasts", activities.Select(x => Of(x.A.Lasts, BoardTables.Sentence(x.A))));
            Lists("a_args", activities.Select(x => Pool(x.A.Args.Select(a => Of(a, BoardTables.Sentence(x.A))))));
            Row("a_end", endings);
            Lists("parameters", units.Select(u => Pool(u.Parameters)));
            Yes("is_switch", s.IsSwitch);
            Yes("may_hear_nothing", s.Sensors.Select((_, i) => s.Rig.Sensors[i].MayHearNothing));
            Numbers("silent_reading", s.Sensors.Select((_, i) => s.Rig.Sensors[i].SilentReading ?? double.NaN));
            Numbers("blind_below", s.Sensors.Select((_, i) => s.Rig.Sensors[i].BlindBelow));
            Row("silence_zone", s.Sensors.Select((_, i) => s.SilenceZone.Length > i ? s.SilenceZone[i] : -1));
            Yes("numbers", s.Numbers);
            Row("teach_slot", teaches);
            Row("tracker_sensor", s.Trackers.Select(t => t.Sensor));
            Row("tracker_needed", s.Trackers.Select(t => t.Needed));
            Row("mark_sensor", s.Marks.Select(m => m.Sensor));
            Numbers("mark_value", s.Marks.Select(m => m.Value));
            Row("mark_needed", s.Marks.Select(m => m.Needed));
            Numbers("mark_band", s.Marks.Select(tables.OwnBand));
            Yes("moves", s.Moves);
            Row("initial_slot", s.Initial.Select(v => v.Slot));
            Row("initial_value", s.Initial.Select(v => Of(v.Value, BoardTables.Comment(s.Variables[v.Slot]))));
            Scales();
            Zones();
            if (board is var (program, rig))
                Board(program, rig, activities.Select(x => (x.A, x.Of)));
            Lists("place", tables.Places.SelectMany(p => p.Nodes.Select((n, u) => Pool(n is null ? [] : n.Select(x => N(u, x))))));
            TableBytes += pool.Count * Bytes(pool);
            int Small(int most) =>
                most < 120 ? 1
                : most < 32_000 ? 2
                : 4;
            var (nodeBytes, stepBytes, actBytes) = (Small(nodes.Length), Small(transitions.Length), Small(activities.Length));
            var (sensorsN, devicesN, nodesN, stepsN, actsN, unitsN) = (
                s.Sensors.Length,
                s.Devices.Length,
                nodes.Length,
                transitions.Length,
                activities.Length,
                units.Length
            );
            var (h, tapsCount, taughtCount) = (histories.Count(x => x >= 0), taps.Count(x => x >= 0), taught.Count(x => x));
            var hasLasts = activities.Any(x => x.A is { Kind: DoKind.Move, Finite: false });
            var lastings = activities.Count(x => x.A is { Kind: DoKind.Move, Finite: false } || x.A is { Kind: DoKind.If, Judged: true });
            var z = taughtCount > 0 ? Math.Max(zones, s.Zones.Length) : 0;
            State = pointer =>
            {
                var taughtOne = new BoardLayout()
                    .Add(8)
                    .Add(4)
                    .Add(1, 4)
                    .Add(1)
                    .Add(1, z + 1)
                    .Add(8, z + 1)
                    .Add(1, z + 1)
                    .Add(1)
                    .Add(8, 3 * (z + 1));
                var work = new BoardLayout().Add(actBytes).Add(nodeBytes);
                var few = new BoardLayout().One(stepBytes, watchesCount).Add(stepBytes);
                return new BoardLayout()
                    .Add(pointer)
                    .Add(8)
                    .One(8, s.Variables.Length)
                    .Add(8, sensorsN + 1)
                    .Room(8, measures ? devicesN : 0)
                    .Room(8, measures ? devicesN : 0)
                    .Add(8)
                    .One(8, timersCount)
                    .Room(8, holdsCount)
                    .One(8, places.Count)
                    .Room(8, hasLasts ? devicesN : 0)
                    .Room(8, hasLasts ? devicesN : 0)
                    .Room(8, holdsCount > 0 ? sensorsN : 0)
                    .Room(8, tapsCount > 0 ? sensorsN : 0)
                    .Room(8, tapsCount > 0 ? sensorsN : 0)
                    .Room(taughtOne.Size, taughtCount, 8)
                    .Room(800, s.Queues.Length, 8)
                    .Room(8, mostValues)
                    .Add(4)
                    .Room(4, tapsCount)
                    .Room(4, nexts.Count(x => x >= 0))
                    .Room(4, tapsCount > 0 ? sensorsN : 0)
                    .Add(4, 2)
                    .Room(2, countsCount)
                    .Room(4, edgesCount, 2)
                    .Add(2)
                    .One(2, s.Marks.Length)
                    .Add(4, Math.Max(1, s.Trackers.Length), 2)
                    .Add(2, 7)
                    .One(1, s.Trackers.Length)
                    .Add(1, 4 * Math.Max(1, sensorsN) + 3 * Math.Max(1, devicesN) + 2 + 3 * Math.Max(1, unitsN) + 4 * Math.Max(1, nodesN))
                    .Add(1, h == 0 ? 1 : (nodesN * h + 7) / 8)
                    .Add(1, h == 0 ? 1 : (h + 7) / 8)
                    .One(stepBytes, h > 0 ? nodesN : 0)
                    .Add(actBytes, unitsN)
                    .One(stepBytes, timersCount)
                    .One(actBytes, places.Count)
                    .Add(few)
                    .Add(1, 2 * Math.Max(1, stepsN))
                    .Add(1, 2 * Math.Max(1, edgesCount))
                    .One(1, actsN)
                    .One(nodeBytes, actsN)
                    .One(actBytes, lastings)
                    .One(1, sensorsN)
                    .One(1, s.Marks.Length)
                    .One(actBytes, devicesN)
                    .One(1, s.Queues.Length)
                    .Add(1, 6)
                    .Add(work, 8 + 3 * units.Sum(BoardTables.MostWork));
            };
            text.Append(
                CultureInfo.InvariantCulture,
                $"  static constexpr {Kind(pool)} pool[] = {{{string.Join(", ", pool.Count == 0 ? [0] : pool)}}};\n"
            );
            Numbers("constants", constants.Select(BitConverter.Int64BitsToDouble));
            text.Append("\n  template <class M> static double expression(int e, M &m) {\n    (void)m;\n    switch (e) {\n");
            text.Append(expressions).Append("    }\n    return 0;\n  }\n};\n\n}  // namespace chiton\n");
            return text.ToString();
        }

        private static IEnumerable<int> Sums(IEnumerable<int> sizes)
        {
            var sum = 0;
            yield return 0;
            foreach (var size in sizes)
                yield return sum += size;
        }

        private void Names(string name, IEnumerable<string> names) => text.Append(CppCode.Names(name, names));

        // What stands between a program and the board.
        private void Board(BoardProgram program, BoardRig rig, IEnumerable<(ScriptActivity A, int Unit)> activities)
        {
            var orders = activities.Select(x => program.Orders.Of(x.A)).ToArray();
            var numbers = new List<double>();
            int At(double? value)
            {
                if (value is not { } v)
                    return -1;
                if (double.IsNaN(v))
                    return -2;
                if (!numbers.Contains(v))
                    numbers.Add(v);
                return numbers.IndexOf(v);
            }
            var kept = orders.OfType<BoardOrder>().Distinct().ToList();
            Row("a_order", orders.Select(o => o is null ? -1 : kept.IndexOf(o)));
            text.Append(CultureInfo.InvariantCulture, $"  static constexpr OrderRow orders[] = {{\n");
            foreach (var o in kept.DefaultIfEmpty(new(BoardVerb.Stop)))
                text.Append(
                    CultureInfo.InvariantCulture,
                    $"      {{{(int)o.Verb}, {o.Sign}, {o.Unit}, {o.AmountUnit}, {At(o.Value)}, {At(o.Amount)}, {Said(o.Words)}}},\n"
                );
            text.Append("  };\n");
            TableBytes += kept.Sum(o => 12 + Encoding.UTF8.GetByteCount(o.Words) + 1);
            Numbers("order_numbers", numbers);
            Row("own_sensor", rig.Sensors.Select((_, s) => Array.IndexOf(program.SensorOut, s)));
            Row("out_device", program.DeviceOut);
            Row("own_device", rig.Devices.Select((_, d) => Array.IndexOf(program.DeviceOut, d)));
            Row("out_text", program.TextOut);
            Row("own_text", rig.Texts.Select((_, t) => Array.IndexOf(program.TextOut, t)));
            Row("out_program", program.ProgramOut);
            Row("own_program", rig.Names.Select((_, n) => Array.IndexOf(program.ProgramOut, n)));
            Yes("measures_device", program.Script.Measures);
            One("zones", program.Script.Zones.Length);
            Names("zone_name", program.Script.Zones);
            Names("path", program.Script.Units[0].Nodes.Select(n => n.Path));
        }

        // Zones that no threshold on one number tells: of bands, of colours and of colour words.
        private void Zones()
        {
            var s = tables.Script;
            var readers = board?.Program.Readers ?? new BoardReader?[s.Sensors.Length];
            Row("reader", readers.Select(r => r?.Kind ?? 0));
            text.Append(
                CultureInfo.InvariantCulture,
                $"  static constexpr bool bands = {(readers.Any(r => r is BoardBands) ? "true" : "false")};\n"
            );
            var cases = new StringBuilder();
            foreach (var (i, reader) in readers.Index())
            {
                switch (reader)
                {
                    case BoardBands { Bands: var b, Silent: var silent }:
                        Numbers($"edges{i}", b.Boundaries.Select(x => x.ThresholdMm));
                        Numbers($"from{i}", b.Bands.Select(x => x.FromMm));
                        Numbers($"to{i}", b.Bands.Select(x => x.ToMm));
                        Row($"band_zones{i}", b.Bands.Select(x => s.ZoneIndex(x.Zone)));
                        var nothing = silent is { } answer ? $" || r[0] == {words.Number(answer)}" : "";
                        cases.Append(CultureInfo.InvariantCulture, $"    case {i}: {{\n      if (nobody(r[0]){nothing}");
                        cases.Append(CultureInfo.InvariantCulture, $" || r[0] < {words.Number(b.BlindMm)}) return -1;\n");
                        cases.Append("      int z = 0;\n");
                        cases.Append(
                            CultureInfo.InvariantCulture,
                            $"      while (z < {b.Boundaries.Count} && r[0] > edges{i}[z]) z++;\n"
                                + $"      return r[0] >= from{i}[z] && r[0] <= to{i}[z] ? band_zones{i}[z] : -1;\n    }}\n"
                        );
                        break;
                    case BoardColours { Colours: var c }:
                        Numbers($"colours{i}", c.Coefficients.SelectMany(x => x.Mean));
                        Numbers($"inverse{i}", c.InverseCovariance.SelectMany(x => x));
                        Row($"colour_zones{i}", c.Coefficients.Select(x => s.ZoneIndex(x.Name)));
                        cases.Append(
                            CultureInfo.InvariantCulture,
                            $"    case {i}: {{\n      const int k = nearest(r, colours{i}, {c.Coefficients.Count}, inverse{i}, "
                                + $"{words.Number(c.RejectSquared())});\n      return k < 0 ? -1 : colour_zones{i}[k];\n    }}\n"
                        );
                        break;
                    case BoardWordZones w:
                        Row($"word_zones{i}", w.Zones(s));
                        cases.Append(
                            CultureInfo.InvariantCulture,
                            $"    case {i}: {{\n      const double k = even(r[0]);\n"
                                + $"      return k >= 0 && k < {SenseWordCount} ? word_zones{i}[int(k)] : -1;\n    }}\n"
                        );
                        break;
                }
            }
            text.Append("  static int zone_of(int sensor, const double *r) {\n    (void)r;\n    switch (sensor) {\n");
            text.Append(cases).Append("    }\n    return -1;\n  }\n");
        }

        private static int SenseWordCount => Sensing.SenseJudge.ColourWords.Count;

        private void Scales()
        {
            var s = tables.Script;
            var cases = new StringBuilder();
            for (var i = 0; i < s.Sensors.Length; i++)
            {
                if (s.ScaleOf(i) is not { } scale)
                    continue;
                Row($"zones{I(i)}", s.ScaleZones[i]);
                Numbers($"thresholds{I(i)}", scale.Boundaries.Select(b => b.Threshold));
                Numbers($"bands{I(i)}", scale.Boundaries.Select(b => b.Hysteresis));
                Numbers($"means{I(i)}", scale.Means);
                cases.Append(
                    CultureInfo.InvariantCulture,
                    $"    case {i}:\n      s = {{zones{i}, thresholds{i}, bands{i}, means{i}, {scale.Names.Count}}};\n      return true;\n"
                );
            }
            text.Append("  static bool scale(int sensor, Scale &s) {\n    (void)s;\n    switch (sensor) {\n");
            text.Append(cases).Append("    }\n    return false;\n  }\n");
        }
    }
}
