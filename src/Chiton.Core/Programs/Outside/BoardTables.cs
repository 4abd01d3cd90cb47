using System.Text;
using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Statecharts;

namespace Chiton.Core.Programs.Outside;

/// <summary>Places of states that sentences ask for: in each part of the program the nodes of that name, or none.</summary>
/// <param name="Region">The region.</param>
/// <param name="State">The state.</param>
/// <param name="Nodes">By part of the program its nodes; null where it does not know the state.</param>
internal sealed record BoardPlace(string Region, string State, IReadOnlyList<int[]?> Nodes);

/// <summary>A compiled program as what is written for a board.</summary>
internal sealed class BoardTables
{
    private readonly List<BoardPlace> places = [];

    /// <summary>Of a program that is bound to the zones of a copy.</summary>
    /// <param name="script">The program.</param>
    public BoardTables(CompiledScript script) => Script = script;

    /// <summary>The program.</summary>
    public CompiledScript Script { get; }

    /// <summary>Places that were asked for.</summary>
    public IReadOnlyList<BoardPlace> Places => places;

    /// <summary>The number of a place, given as it is first asked for.</summary>
    public int Place(InState asked)
    {
        var at = places.FindIndex(p => p.Region == asked.Region && p.State == asked.State);
        if (at >= 0)
            return at;
        places.Add(new(asked.Region, asked.State, [.. Script.Units.Select(u => u.Places.GetValueOrDefault((asked.Region, asked.State)))]));
        return places.Count - 1;
    }

    /// <summary>Half the band about a number that readings are compared with, where no zones of the sensor tell it.</summary>
    public double OwnBand(ScriptMark mark) => Script.BandOf(mark.Sensor, mark.Value, null);

    /// <summary>True for a move that is stopped when its time is over: what goes a way has come to rest by itself.</summary>
    public static bool Stops(ScriptActivity x) =>
        x.Lasts is not null && (x.Second is null && x.Node is RunNode or DriveNode or TurnRobotNode || x.Node is SteerNode);

    /// <summary>True for a node that has a transition without an event above it, or of its own.</summary>
    public static IEnumerable<int> Children(Chart chart, int node) =>
        chart.ChildList.Skip(chart.FirstChild[node]).Take(chart.FirstChild[node + 1] - chart.FirstChild[node]);

    /// <summary>How many states of a node are active at once at most, those counted that have none within.</summary>
    public static int MostActive(Chart chart, int node) =>
        chart.Kind[node] switch
        {
            NodeKind.Atomic or NodeKind.Final => 1,
            NodeKind.Parallel => Children(chart, node).Sum(k => MostActive(chart, k)),
            NodeKind.Compound => Children(chart, node).Select(k => MostActive(chart, k)).DefaultIfEmpty(1).Max(),
            _ => 0,
        };

    /// <summary>How many activities of a part of the program wait to be begun at once at most.</summary>
    public static int MostWork(ScriptUnit unit)
    {
        int Of(int a)
        {
            var children = unit.Activities[a].Children;
            var most = 1;
            for (var i = 0; i < children.Length; i++)
                most = Math.Max(most, Of(children[i]) + (unit.Activities[a].Kind == DoKind.Together ? children.Length - 1 - i : 0));
            return most;
        }
        return Enumerable.Range(0, unit.Activities.Length).Where(a => unit.Activities[a].Parent < 0).Select(Of).DefaultIfEmpty(1).Max();
    }

    /// <summary>
    /// Bytes of stack that a program takes at most: what a step takes, and what each sentence, state and routine takes that stands in
    /// another. Counted generously from what the host's compiler makes of the demo programs at <c>-Os -m32</c>.
    /// </summary>
    public static int DeepestStack(CompiledScript script)
    {
        int Nested(ScriptUnit u, int a) => 1 + u.Activities[a].Children.Select(c => Nested(u, c)).DefaultIfEmpty(0).Max();
        int Within(Chart chart, int node) => 1 + Children(chart, node).Select(c => Within(chart, c)).DefaultIfEmpty(0).Max();
        var sentences = script
            .Units.SelectMany(u => Enumerable.Range(0, u.Activities.Length).Select(a => Nested(u, a)))
            .DefaultIfEmpty(1)
            .Max();
        return 700 + 120 * sentences + 160 * script.Units.Max(u => Within(u.Chart, 0)) + 400 * (script.Units.Length - 1);
    }

    /// <summary>Histories of a node.</summary>
    public static IEnumerable<int> Histories(Chart chart, int node) =>
        chart.HistoryList.Skip(chart.FirstHistory[node]).Take(chart.FirstHistory[node + 1] - chart.FirstHistory[node]);

    /// <summary>Transitions of a node that can be taken by themselves, in document order.</summary>
    public static IEnumerable<int> Own(Chart chart, int node) =>
        chart.TransitionList.Skip(chart.FirstTransition[node]).Take(chart.FirstTransition[node + 1] - chart.FirstTransition[node]);

    /// <summary>Code that ships with the application and is the same for all programs.</summary>
    /// <param name="name">Name of the file.</param>
    public static string Shipped(string name)
    {
        using var stream = typeof(BoardTables).Assembly.GetManifestResourceStream($"Chiton.Core.Programs.Outside.{name}")!;
        using var reader = new StreamReader(stream, Encoding.UTF8);
        return reader.ReadToEnd();
    }

    /// <summary>Words as one line that may stand in a comment of either language.</summary>
    public static string Comment(string words) =>
        string.Concat(
                words
                    .ReplaceLineEndings(" ")
                    .Select(c =>
                        char.IsControl(c) ? ' '
                        : c == '\\' ? '/'
                        : c
                    )
            )
            .Replace("??", "? ?")
            .Trim();

    /// <summary>The sentence that a transition came from; null for where a state begins.</summary>
    public static string? Sentence(ScriptTransition t) => t.Node is null ? null : Comment(Printer.Plain(Printer.Pieces(t.Node)));

    /// <summary>The sentence that an activity came from; null for one that stands in another.</summary>
    public static string? Sentence(ScriptActivity a)
    {
        if (a.Node is null)
            return null;
        return Comment(Printer.Plain(Printer.Sentence(a.Node)));
    }
}
