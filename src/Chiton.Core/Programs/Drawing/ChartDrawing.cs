using System.Text;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;

namespace Chiton.Core.Programs.Drawing;

/// <summary>A box of the chart.</summary>
/// <param name="Id">Its path: Region.State, nested ones with dots.</param>
/// <param name="Parent">The box it stands in; null for the outermost.</param>
/// <param name="Name">What it is called.</param>
/// <param name="Kind">program, routine, region, state, final or history.</param>
/// <param name="Initial">True when what it stands in begins with it.</param>
/// <param name="Says">What it does on entry, while here and on exit, a sentence each.</param>
/// <param name="Line">Line of the script; 0 when it has none.</param>
public sealed record ChartBox(string Id, string? Parent, string Name, string Kind, bool Initial, IReadOnlyList<string> Says, int Line);

/// <summary>An arrow of the chart.</summary>
/// <param name="From">The box it leaves.</param>
/// <param name="To">Where it goes; the same box for a sentence that stays.</param>
/// <param name="Label">What sets it off, and what it does.</param>
/// <param name="Line">Line of the script.</param>
/// <param name="Stays">True when it goes nowhere.</param>
public sealed record ChartArrow(string From, string To, string Label, int Line, bool Stays);

/// <summary>A program as boxes and arrows, to be laid out; nobody draws it by hand.</summary>
/// <param name="Boxes">Boxes, each after the one it stands in.</param>
/// <param name="Arrows">Arrows in document order.</param>
public sealed record ChartDrawing(IReadOnlyList<ChartBox> Boxes, IReadOnlyList<ChartArrow> Arrows)
{
    /// <summary>Makes the drawing of a program.</summary>
    public static ChartDrawing Of(ProgramNode program)
    {
        var boxes = new List<ChartBox>();
        var arrows = new List<ChartArrow>();
        // Where the states of a name stand, by region: looked up once, however many sentences go there.
        var named = new Dictionary<string, Dictionary<string, List<string[]>>>();
        foreach (var region in program.Regions)
            Region(region, null, program.Regions.Count > 1 ? region.Name : region.Name);
        foreach (var routine in program.Routines)
        {
            var name = $"routine {routine.Name}";
            boxes.Add(new(name, null, Printer.Plain(Printer.Pieces(routine)), "routine", false, [], routine.Span.Line));
            foreach (var region in routine.Regions)
                if (region.Name == "")
                    States(region.States, name, region, name);
                else
                    Region(region, name, $"{name}.{region.Name}");
        }
        // Two of one name in one place cannot be told apart by it; what goes there goes to the first, as in the machine.
        var taken = new HashSet<string>();
        return new([.. boxes.Where(b => taken.Add(b.Id))], arrows);

        void Region(RegionNode region, string? parent, string id)
        {
            boxes.Add(new(id, parent, region.Name, "region", false, [], region.Span.Line));
            States(region.States, id, region, id);
        }
        void States(Sequence<StateNode> states, string parent, RegionNode top, string topId)
        {
            foreach (var state in states)
                State(state, parent, top, topId);
        }
        void State(StateNode state, string parent, RegionNode top, string topId)
        {
            var id = $"{parent}.{state.Name}";
            boxes.Add(
                new(
                    id,
                    parent,
                    state.Name,
                    state.Final ? "final" : "state",
                    state.Initial,
                    [.. state.Lines.OfType<ActivityNode>().Select(a => Printer.Plain(Printer.Pieces(a)))],
                    state.Span.Line
                )
            );
            foreach (var history in state.Histories)
            {
                boxes.Add(new($"{id}.{history.Name}", id, history.Name, "history", false, [], history.Span.Line));
                arrows.Add(
                    new(
                        $"{id}.{history.Name}",
                        Find(history.Target, state, id, top, topId),
                        history.Deep ? "deep" : "",
                        history.Span.Line,
                        false
                    )
                );
            }
            foreach (var t in state.Lines.OfType<TransitionNode>())
            {
                var text = Printer.Plain(Printer.Pieces(t));
                // The target is where the arrow ends; it need not be said again.
                var label = t.Target is null
                    ? (
                        text.EndsWith("; stay", StringComparison.Ordinal) ? text[..^6]
                        : text.EndsWith(": stay", StringComparison.Ordinal) ? text[..^6]
                        : text
                    )
                    : text[..text.LastIndexOf(t.Actions.Count > 0 ? "; go " : ": go ", StringComparison.Ordinal)];
                arrows.Add(new(id, t.Target is null ? id : Find(t.Target, state, id, top, topId), label, t.Span.Line, t.Target is null));
            }
            States(state.States, id, top, topId);
            foreach (var region in state.Regions)
            {
                boxes.Add(new($"{id}.{region.Name}", id, region.Name, "region", false, [], region.Span.Line));
                States(region.States, $"{id}.{region.Name}", top, topId);
            }
        }
        // The state of that name nearest to the one that goes there.
        string Find(string name, StateNode from, string fromId, RegionNode top, string topId)
        {
            if (!named.TryGetValue(topId, out var there))
            {
                named[topId] = there = [];
                foreach (var s in top.States)
                    In(s, topId);
            }
            void Note(string id, string called)
            {
                if (!there.TryGetValue(called, out var list))
                    there[called] = list = [];
                list.Add(id.Split('.'));
            }
            void In(StateNode s, string parent)
            {
                var id = $"{parent}.{s.Name}";
                Note(id, s.Name);
                foreach (var h in s.Histories)
                    Note($"{id}.{h.Name}", h.Name);
                foreach (var inner in s.States)
                    In(inner, id);
                foreach (var region in s.Regions)
                foreach (var inner in region.States)
                    In(inner, $"{id}.{region.Name}");
            }
            if (!there.TryGetValue(name, out var all))
                return fromId;
            if (all.Count == 1)
                return string.Join('.', all[0]);
            var own = fromId.Split('.');
            return string.Join(
                '.',
                all.MaxBy(parts =>
                {
                    var common = 0;
                    while (common < parts.Length && common < own.Length && parts[common] == own[common])
                        common++;
                    return common;
                })!
            );
        }
    }

    /// <summary>The drawing in the DOT language of Graphviz.</summary>
    public string ToDot(string name)
    {
        var text = new StringBuilder();
        text.Append("digraph \"").Append(Quote(name)).Append("\" {\n  compound=true; rankdir=TB; node [shape=box, style=rounded];\n");
        void Box(ChartBox box, int depth)
        {
            var pad = new string(' ', 2 * depth);
            var inner = Boxes.Where(b => b.Parent == box.Id).ToArray();
            if (inner.Length == 0)
            {
                var label = string.Join("\\n", box.Says.Prepend(box.Name).Select(Quote));
                text.Append(
                    $"{pad}\"{Quote(box.Id)}\" "
                        + $"[label=\"{label}\""
                        + $"{(box.Kind == "final" ? ", peripheries=2" : box.Kind == "history" ? ", shape=circle" : "")}];\n"
                );
            }
            else
            {
                text.Append(
                    $"{pad}subgraph \"cluster {Quote(box.Id)}\" {{\n{pad}  label=\"{Quote(box.Name)}\"; "
                        + $"style=\"rounded{(box.Kind == "region" ? ",dashed" : "")}\";\n"
                );
                foreach (var b in inner)
                    Box(b, depth + 1);
                var first = inner.FirstOrDefault(b => b.Initial);
                if (first is not null)
                    text.Append(
                        $"{pad}  \"{Quote(box.Id)} begins\" [shape=point]; \"{Quote(box.Id)} begins\" -> "
                            + $"\"{Quote(Leaf(first))}\"{Ends(null, first)};\n"
                    );
                text.Append($"{pad}}}\n");
            }
        }
        foreach (var box in Boxes.Where(b => b.Parent is null))
            Box(box, 1);
        foreach (var arrow in Arrows)
        {
            var (from, to) = (Boxes.First(b => b.Id == arrow.From), Boxes.First(b => b.Id == arrow.To));
            text.Append($"  \"{Quote(Leaf(from))}\" -> \"{Quote(Leaf(to))}\"{Ends(from, to, arrow.Label, arrow.Stays)};\n");
        }
        return text.Append("}\n").ToString();
    }

    // Arrows of a box with boxes in it are tied to one of those and cut off at its edge.
    private string Leaf(ChartBox box) =>
        Boxes.FirstOrDefault(b => b.Parent == box.Id && b.Kind != "history") is { } inner ? Leaf(inner) : box.Id;

    private string Ends(ChartBox? from, ChartBox to, string? label = null, bool dashed = false)
    {
        var parts = new List<string>();
        if (label is not null)
            parts.Add($"label=\"{Quote(label)}\"");
        if (dashed)
            parts.Add("style=dashed");
        if (from is not null && Boxes.Any(b => b.Parent == from.Id))
            parts.Add($"ltail=\"cluster {Quote(from.Id)}\"");
        if (Boxes.Any(b => b.Parent == to.Id))
            parts.Add($"lhead=\"cluster {Quote(to.Id)}\"");
        return parts.Count == 0 ? "" : $" [{string.Join(", ", parts)}]";
    }

    private static string Quote(string s) =>
        s.Replace("\\", "\\\\", StringComparison.Ordinal).Replace("\"", "\\\"", StringComparison.Ordinal);

    /// <summary>The drawing as a Mermaid state diagram.</summary>
    public string ToMermaid()
    {
        var text = new StringBuilder("stateDiagram-v2\n");
        var ids = Boxes.Select((b, i) => (b.Id, Short: $"s{i}")).ToDictionary(x => x.Id, x => x.Short);
        // Colons and quotes end things there.
        static string Clean(string s) =>
            s.Replace(":", " ꞉", StringComparison.Ordinal)
                .Replace("\"", "'", StringComparison.Ordinal)
                .Replace(";", ",", StringComparison.Ordinal);
        void Box(ChartBox box, int depth)
        {
            var pad = new string(' ', 2 * depth);
            var inner = Boxes.Where(b => b.Parent == box.Id).ToArray();
            text.Append($"{pad}state \"{Clean(box.Name)}{(box.Kind == "history" ? " (history)" : "")}\" as {ids[box.Id]}\n");
            foreach (var say in box.Says)
                text.Append($"{pad}{ids[box.Id]} : {Clean(say)}\n");
            if (inner.Length > 0)
            {
                text.Append($"{pad}state {ids[box.Id]} {{\n");
                var regions = inner.Where(b => b.Kind == "region").ToArray();
                for (var i = 0; i < inner.Length; i++)
                {
                    if (inner[i].Kind == "region" && i > 0 && regions.Length > 1)
                        text.Append($"{pad}  --\n");
                    if (inner[i].Initial)
                        text.Append($"{pad}  [*] --> {ids[inner[i].Id]}\n");
                    Box(inner[i], depth + 1);
                }
                text.Append($"{pad}}}\n");
            }
            if (box.Kind == "final")
                text.Append($"{pad}{ids[box.Id]} --> [*]\n");
        }
        foreach (var box in Boxes.Where(b => b.Parent is null))
            Box(box, 1);
        foreach (var arrow in Arrows)
            text.Append($"  {ids[arrow.From]} --> {ids[arrow.To]}{(arrow.Label == "" ? "" : $" : {Clean(arrow.Label)}")}\n");
        return text.ToString();
    }
}
