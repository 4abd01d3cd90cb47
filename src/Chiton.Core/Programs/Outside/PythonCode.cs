using System.Globalization;
using System.Text;
using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Statecharts;
using Chiton.Core.Sensing;

namespace Chiton.Core.Programs.Outside;

/// <summary>Writes programs as Python 3: one module that needs no other, kept to what small Pythons on boards know.</summary>
public static class PythonCode
{
    private sealed class Words : BoardWords
    {
        public override string Number(double value) =>
            double.IsNaN(value) ? "NAN"
            : double.IsPositiveInfinity(value) ? "1e999"
            : double.IsNegativeInfinity(value) ? "-1e999"
            : value.ToString("R", CultureInfo.InvariantCulture) is var said && said.AsSpan().IndexOfAny(".E") < 0 ? said + ".0"
            : said;

        public override string Pick(string condition, string yes, string no) => $"({yes} if {condition} else {no})";

        public override string Let(string name, string value, bool first) => $"{name} = {value}";

        public override string If(string condition) => $"if {condition}:";

        public override string Else => "else:";

        public override string End => "";

        public override string Return(string value) => $"return {value}";

        public override string And(IEnumerable<string> conditions) => string.Join(" and ", conditions.Select(c => $"({c})"));

        public override string Or(IEnumerable<string> conditions) => $"({string.Join(" or ", conditions)})";

        public override string Not(string condition) => $"not {condition}";

        public override string Unknown => "NAN";

        public override string Amount(string value) => $"abs({value})";

        public override string CannotTell(int sensor) => string.Create(CultureInfo.InvariantCulture, $"m.cannot_tell[{sensor}]");
    }

    private static readonly Lazy<string> Runtime = new(() =>
    {
        using var stream = typeof(PythonCode).Assembly.GetManifestResourceStream("Chiton.Core.Programs.Outside.machine.py")!;
        using var reader = new StreamReader(stream, Encoding.UTF8);
        return reader.ReadToEnd();
    });

    /// <summary>A program as a module: how it is stepped, its sentences, its tables, and the class to make a machine of.</summary>
    /// <param name="name">Its name.</param>
    /// <param name="script">The program, bound to the zones of a copy.</param>
    public static string Write(string name, CompiledScript script)
    {
        var text = new StringBuilder();
        text.Append(CultureInfo.InvariantCulture, $"# {OneLine(name)}\n\n");
        text.Append(Runtime.Value);
        new Writer(text, new(script)).Program();
        return text.ToString();
    }

    private static string OneLine(string words) => words.ReplaceLineEndings(" ");

    private sealed class Writer(StringBuilder text, BoardTables tables)
    {
        private readonly Words words = new();
        private readonly List<string> functions = [];
        private int expressions;

        private CompiledScript Script => tables.Script;

        private static string I(int n) => n.ToString(CultureInfo.InvariantCulture);

        private static string Truth(bool yes) => yes ? "True" : "False";

        private static string List(IEnumerable<string> items)
        {
            var all = items.ToArray();
            return all.Length == 1 ? $"({all[0]},)" : $"({string.Join(", ", all)})";
        }

        private static string Said(string s)
        {
            var said = new StringBuilder("\"");
            foreach (var c in s)
                said.Append(
                    c switch
                    {
                        '"' => "\\\"",
                        '\\' => "\\\\",
                        < ' ' => $"\\x{(int)c:x2}",
                        _ => c,
                    }
                );
            return said.Append('"').ToString();
        }

        // An expression is a function of its own, written before the tables that name it.
        private string Of(Code? code)
        {
            if (code is null)
                return "None";
            var name = $"e{expressions++}";
            var made = new StringBuilder($"def {name}(m):\n");
            foreach (var (depth, line) in new BoardExpressions(words, tables.Place).Write(code))
                made.Append(new string(' ', 4 * (depth + 1))).Append(line).Append('\n');
            functions.Add(made.ToString());
            return name;
        }

        private string Scale(ZoneScale? scale, int[] zones) =>
            scale is null
                ? "None"
                : $"Scale({List(zones.Select(I))}, {List(scale.Boundaries.Select(b => words.Number(b.Threshold)))}, "
                    + $"{List(scale.Boundaries.Select(b => words.Number(b.Hysteresis)))}, {List(scale.Means.Select(words.Number))})";

        public void Program()
        {
            var s = Script;
            var sensors = Enumerable.Range(0, s.Sensors.Length).ToArray();
            var made = new StringBuilder();
            void Line(string name, string value) => made.Append(CultureInfo.InvariantCulture, $"    {name} = {value}\n");
            var units = s.Units.Select((u, i) => Unit(u, i)).ToArray();
            Line("sensors", List(s.Sensors.Select(Said)));
            Line("zones", List(s.Zones.Select(Said)));
            Line("devices", List(s.Devices.Select(Said)));
            Line("texts", List(s.Texts.Select(Said)));
            Line("programs", List(s.Programs.Select(Said)));
            Line("variables", List(s.Variables.Select(Said)));
            Line("queues", List(s.Queues.Select(Said)));
            Line("up", I(s.ZoneIndex("up")));
            Line("down", I(s.ZoneIndex("down")));
            Line("is_switch", List(s.IsSwitch.Select(Truth)));
            Line("may_hear_nothing", List(sensors.Select(i => Truth(s.Rig.Sensors[i].MayHearNothing))));
            Line("silent_reading", List(sensors.Select(i => words.Number(s.Rig.Sensors[i].SilentReading ?? double.NaN))));
            Line("blind_below", List(sensors.Select(i => words.Number(s.Rig.Sensors[i].BlindBelow))));
            Line("silence_zone", List(sensors.Select(i => I(s.SilenceZone.Length > i ? s.SilenceZone[i] : -1))));
            Line("numbers", List(sensors.Select(i => Truth(s.Numbers[i]))));
            Line("trackers", List(s.Trackers.Select(t => $"({I(t.Sensor)}, {I(t.Needed)})")));
            Line(
                "trackers_of",
                List(sensors.Select(i => List(Enumerable.Range(0, s.Trackers.Length).Where(t => s.Trackers[t].Sensor == i).Select(I))))
            );
            Line(
                "marks",
                List(s.Marks.Select(m => $"({I(m.Sensor)}, {words.Number(m.Value)}, {I(m.Needed)}, {words.Number(tables.OwnBand(m))})"))
            );
            Line("scales", List(sensors.Select(i => Scale(s.ScaleOf(i), s.ScaleOf(i) is null ? [] : s.ScaleZones[i]))));
            Line("zone_of", List(sensors.Select(_ => "None")));
            Line("moves", List(s.Moves.Select(Truth)));
            Line("initial", List(s.Initial.Select(v => $"({I(v.Slot)}, {Of(v.Value)})")));
            Line("units", List(units));
            Line("places", List(tables.Places.Select(p => List(p.Nodes.Select(n => n is null ? "None" : List(n.Select(I)))))));
            foreach (var function in functions)
                text.Append("\n\n").Append(function);
            foreach (var table in unitTables)
                text.Append("\n\n").Append(table);
            text.Append("\n\nclass Tables:\n").Append(made);
        }

        private readonly List<string> unitTables = [];

        private string Unit(ScriptUnit u, int index)
        {
            var made = new StringBuilder($"class Unit{index}:\n");
            void Line(string name, IEnumerable<string> items) => made.Append(CultureInfo.InvariantCulture, $"    {name} = {List(items)}\n");
            void One(string name, string value) => made.Append(CultureInfo.InvariantCulture, $"    {name} = {value}\n");
            var c = u.Chart;
            var nodes = Enumerable.Range(0, c.Count).ToArray();
            var transitions = Enumerable.Range(0, c.TransitionCount).ToArray();
            var atomic = System.Numerics.BigInteger.Zero;
            foreach (var n in nodes)
                if (c.Kind[n] is NodeKind.Atomic or NodeKind.Final)
                    atomic |= System.Numerics.BigInteger.One << n;
            Line("kind", nodes.Select(n => I((int)c.Kind[n])));
            Line("parent", nodes.Select(n => I(c.Parent[n])));
            Line("end", nodes.Select(n => I(c.End[n])));
            Line("default", nodes.Select(n => I(c.Default[n])));
            Line("children", nodes.Select(n => List(BoardTables.Children(c, n).Select(I))));
            Line("histories", nodes.Select(n => List(BoardTables.Histories(c, n).Select(I))));
            Line("own", nodes.Select(n => List(BoardTables.Own(c, n).Select(I))));
            Line("above", nodes.Select(n => Truth(c.EventlessAbove[n])));
            Line("has", nodes.Select(n => Truth(c.HasTransitions[n])));
            One("atomic", atomic.ToString(CultureInfo.InvariantCulture));
            Line("paths", u.Nodes.Select(n => Said(n.Path)));
            Line("entry", u.Nodes.Select(n => List(n.Entry.Select(I))));
            Line("whiles", u.Nodes.Select(n => List(n.While.Select(I))));
            Line("exits", u.Nodes.Select(n => List(n.Exit.Select(I))));
            Line("arriving", u.Nodes.Select(n => List(n.Arriving.Select(I))));
            Line("source", transitions.Select(t => I(c.Source[t])));
            Line("targets", transitions.Select(t => List(c.Targets[t].Select(I))));
            Line("inside", transitions.Select(t => Truth(c.Internal[t])));
            Line("level", transitions.Select(t => Truth(c.Level[t])));
            Line("fixed", transitions.Select(t => I(c.FixedDomain[t])));
            One("first_step", I(Script.FirstStep[index]));
            Line("t_said", u.Transitions.Select(t => Truth(t.Node is not null)));
            Line("t_kind", u.Transitions.Select(t => I((int)t.Kind)));
            Line("t_sensor", u.Transitions.Select(t => I(t.Sensor)));
            Line("t_zone", u.Transitions.Select(t => I(t.Zone)));
            Line("t_needed", u.Transitions.Select(t => I(t.Needed)));
            Line("t_press", u.Transitions.Select(t => I((int)t.Press)));
            Line("t_device", u.Transitions.Select(t => I(t.Device)));
            Line("t_text", u.Transitions.Select(t => I(t.Text)));
            Line("t_from", u.Transitions.Select(t => I(t.From)));
            Line("t_into", u.Transitions.Select(t => List(t.Into.Select(I))));
            Line("t_roots", u.Transitions.Select(t => List(t.Roots.Select(I))));
            Line("t_counts", u.Transitions.Select(t => Truth(t.Counts)));
            Line("t_watches", u.Transitions.Select(t => Truth(t.Watches)));
            Line("t_cond", u.Transitions.Select(t => Of(t.Condition)));
            Line("t_time", u.Transitions.Select(t => Of(t.Time)));
            Line("t_hold", u.Transitions.Select(t => Of(t.HoldFor)));
            Line("t_guard", u.Transitions.Select(t => Of(t.Guard)));
            Line("a_kind", u.Activities.Select(a => I((int)a.Kind)));
            Line("a_parent", u.Activities.Select(a => I(a.Parent)));
            Line("a_children", u.Activities.Select(a => List(a.Children.Select(I))));
            Line("a_slot", u.Activities.Select(a => I(a.Slot)));
            Line("a_other", u.Activities.Select(a => I(a.Other)));
            Line("a_device", u.Activities.Select(a => I(a.Device)));
            Line("a_unit", u.Activities.Select(a => I(a.Unit)));
            Line("a_finite", u.Activities.Select(a => Truth(a.Finite)));
            Line("a_judged", u.Activities.Select(a => Truth(a.Judged)));
            Line("a_limited", u.Activities.Select(a => Truth(a.Limited)));
            Line("a_stops", u.Activities.Select(a => Truth(BoardTables.Stops(a))));
            Line("a_value", u.Activities.Select(a => Of(a.Value)));
            Line("a_second", u.Activities.Select(a => Of(a.Second)));
            Line("a_lasts", u.Activities.Select(a => Of(a.Lasts)));
            Line("a_args", u.Activities.Select(a => List(a.Args.Select(Of))));
            Line("parameters", u.Parameters.Select(I));
            unitTables.Add(made.ToString());
            return $"Unit{index}";
        }
    }
}
