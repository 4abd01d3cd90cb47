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

    private static readonly Lazy<string> Runtime = new(() => BoardTables.Shipped("machine.py"));

    /// <summary>How programs are stepped: the same for all of them.</summary>
    internal static string Machine => Runtime.Value;

    /// <summary>A program of a board, to stand after <see cref="Machine"/>: its sentences and its tables.</summary>
    internal static string Program(BoardProgram program, BoardRig rig)
    {
        var text = new StringBuilder();
        new Writer(text, new(program.Script), program.Code, (program, rig)).Program();
        return text.ToString();
    }

    /// <summary>A program as a module: how it is stepped, its sentences, its tables, and the class to make a machine of.</summary>
    /// <param name="name">Its name.</param>
    /// <param name="script">The program, bound to the zones of a copy.</param>
    public static string Write(string name, CompiledScript script)
    {
        var text = new StringBuilder();
        text.Append(CultureInfo.InvariantCulture, $"# {BoardTables.Comment(name)}\n\n");
        text.Append(Runtime.Value);
        new Writer(text, new(script), "Program", null).Program();
        return text.ToString();
    }

    internal static string List(IEnumerable<string> items)
    {
        var all = items.ToArray();
        return all.Length == 1 ? $"({all[0]},)" : $"({string.Join(", ", all)})";
    }

    internal static string Said(string s)
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

    private sealed class Writer(StringBuilder text, BoardTables tables, string code, (BoardProgram Program, BoardRig Rig)? board)
    {
        private readonly Words words = new();
        private readonly List<string> functions = [];
        private int expressions;

        private CompiledScript Script => tables.Script;

        private static string I(int n) => n.ToString(CultureInfo.InvariantCulture);

        private static string Truth(bool yes) => yes ? "True" : "False";

        // An expression is a function of its own, written before the tables that name it.
        private string Of(Code? asked, string? said = null)
        {
            if (asked is null)
                return "None";
            var name = $"{code}_e{expressions++}";
            var made = new StringBuilder($"{(said is null ? "" : $"# {said}\n")}def {name}(m):\n");
            foreach (var (depth, line) in new BoardExpressions(words, tables.Place).Write(asked))
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
            var readers = board?.Program.Readers ?? new BoardReader?[s.Sensors.Length];
            Line("reader", List(readers.Select(r => I(r?.Kind ?? 0))));
            if (board is var (program, rig))
                Board(program, rig, Line);
            Line("moves", List(s.Moves.Select(Truth)));
            Line("initial", List(s.Initial.Select(v => $"({I(v.Slot)}, {Of(v.Value, BoardTables.Comment(s.Variables[v.Slot]))})")));
            Line("units", List(units));
            Line("places", List(tables.Places.Select(p => List(p.Nodes.Select(n => n is null ? "None" : List(n.Select(I)))))));
            foreach (var function in functions)
                text.Append("\n\n").Append(function);
            foreach (var table in unitTables)
                text.Append("\n\n").Append(table);
            text.Append(CultureInfo.InvariantCulture, $"\n\nclass {code}:\n{made}");
            Zones(readers);
        }

        // What stands between a program and the board.
        private void Board(BoardProgram program, BoardRig rig, Action<string, string> line)
        {
            string Given(double? value) => value is not { } v ? "None" : words.Number(v);
            var orders = Script.Units.Select(u =>
                List(
                    u.Activities.Select(a =>
                        program.Orders.Of(a) is not { } o
                            ? "None"
                            : $"({Said(BoardOrders.Verbs[(int)o.Verb])}, {I(o.Sign)}, {Said(BoardOrders.Units[o.Unit])}, "
                                + $"{Said(BoardOrders.Units[o.AmountUnit])}, {Given(o.Value)}, {Given(o.Amount)}, {Said(o.Words)})"
                    )
                )
            );
            line("orders", List(orders));
            line("own_sensor", List(rig.Sensors.Select((_, s) => I(Array.IndexOf(program.SensorOut, s)))));
            line("out_device", List(program.DeviceOut.Select(I)));
            line("own_device", List(rig.Devices.Select((_, d) => I(Array.IndexOf(program.DeviceOut, d)))));
            line("out_text", List(program.TextOut.Select(I)));
            line("own_text", List(rig.Texts.Select((_, t) => I(Array.IndexOf(program.TextOut, t)))));
            line("out_program", List(program.ProgramOut.Select(I)));
            line("own_program", List(rig.Names.Select((_, n) => I(Array.IndexOf(program.ProgramOut, n)))));
            line("measures_device", List(program.Script.Measures.Select(Truth)));
        }

        // Zones that no threshold on one number tells: of bands, of colours and of colour words.
        private void Zones(BoardReader?[] readers)
        {
            var s = Script;
            text.Append("\n    @staticmethod\n    def zone_of(sensor, r):\n");
            foreach (var (i, reader) in readers.Index())
            {
                if (reader is not null)
                    text.Append(CultureInfo.InvariantCulture, $"        if sensor == {i}:\n");
                switch (reader)
                {
                    case BoardBands { Bands: var b, Silent: var silent }:
                        var nothing = silent is { } answer ? $" or r[0] == {words.Number(answer)}" : "";
                        text.Append(
                            CultureInfo.InvariantCulture,
                            $"            if r[0] != r[0]{nothing} or r[0] < {words.Number(b.BlindMm)}:\n                return -1\n"
                        );
                        text.Append(
                            CultureInfo.InvariantCulture,
                            $"            return band_of(r[0], {List(b.Boundaries.Select(x => words.Number(x.ThresholdMm)))}, {List(
                                b.Bands.Select(x => $"({words.Number(x.FromMm)}, {words.Number(x.ToMm)}, {I(s.ZoneIndex(x.Zone))})")
                            )})\n"
                        );
                        break;
                    case BoardColours { Colours: var c }:
                        var means = List(c.Coefficients.Select(x => $"({List(x.Mean.Select(words.Number))}, {I(s.ZoneIndex(x.Name))})"));
                        text.Append(
                            CultureInfo.InvariantCulture,
                            $"            return nearest(r, {means}, {List(c.InverseCovariance.SelectMany(x => x).Select(words.Number))}, "
                                + $"{words.Number(c.RejectSquared())})\n"
                        );
                        break;
                    case BoardWordZones w:
                        var zones = List(w.Zones(s).Select(I));
                        text.Append(CultureInfo.InvariantCulture, $"            k = round(r[0])\n");
                        text.Append(
                            CultureInfo.InvariantCulture,
                            $"            return {zones}[k] if 0 <= k < {Sensing.SenseJudge.ColourWords.Count} else -1\n"
                        );
                        break;
                }
            }
            text.Append("        return -1\n");
        }

        private readonly List<string> unitTables = [];

        private string Unit(ScriptUnit u, int index)
        {
            var made = new StringBuilder($"class {code}_Unit{index}:\n");
            void Line(string name, IEnumerable<string> items) => made.Append(CultureInfo.InvariantCulture, $"    {name} = {List(items)}\n");
            void Numbered(string what, IEnumerable<string?> sentences)
            {
                foreach (var (i, sentence) in sentences.Index())
                    if (sentence is not null)
                        made.Append(CultureInfo.InvariantCulture, $"    # {what} {i}: {sentence}\n");
            }
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
            Numbered("transition", u.Transitions.Select(BoardTables.Sentence));
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
            Line("t_cond", u.Transitions.Select(t => Of(t.Condition, BoardTables.Sentence(t))));
            Line("t_time", u.Transitions.Select(t => Of(t.Time, BoardTables.Sentence(t))));
            Line("t_hold", u.Transitions.Select(t => Of(t.HoldFor, BoardTables.Sentence(t))));
            Line("t_guard", u.Transitions.Select(t => Of(t.Guard, BoardTables.Sentence(t))));
            Numbered("activity", u.Activities.Select(BoardTables.Sentence));
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
            Line("a_value", u.Activities.Select(a => Of(a.Value, BoardTables.Sentence(a))));
            Line("a_second", u.Activities.Select(a => Of(a.Second, BoardTables.Sentence(a))));
            Line("a_lasts", u.Activities.Select(a => Of(a.Lasts, BoardTables.Sentence(a))));
            Line("a_args", u.Activities.Select(a => List(a.Args.Select(x => Of(x, BoardTables.Sentence(a))))));
            Line("parameters", u.Parameters.Select(I));
            unitTables.Add(made.ToString());
            return $"{code}_Unit{index}";
        }
    }
}
