using Chiton.Core.Programs.Language;

namespace Chiton.Core.Programs.Engine;

public sealed partial class ScriptMachine
{
    // ---- for people ----

    /// <summary>Active atomic states as Region.State, in document order; those of running routines after the program's own.</summary>
    public IReadOnlyList<string> Configuration => [.. units[0].Configuration];

    /// <summary>Routines that run, with their active states.</summary>
    public IReadOnlyList<(string Routine, IReadOnlyList<string> States)> Routines =>
        [.. units.Skip(1).Where(u => u.Active).Select(u => (u.Unit.Name, (IReadOnlyList<string>)[.. u.Configuration]))];

    /// <summary>Values of the variables as people read them.</summary>
    public IReadOnlyList<(string Name, string Value)> Values =>
        [
            .. script
                .Program.Head.OfType<VarNode>()
                .Select(v =>
                    (
                        v.Name,
                        v.Value is QueueNode
                            ? QueueText(Array.IndexOf(script.Queues, v.Name))
                            : Text(v.Value, Variables[Array.IndexOf(script.Variables, v.Name)])
                    )
                ),
        ];

    /// <summary>Value of one variable as people read it; null when there is none of that name.</summary>
    public string? ValueOf(string name)
    {
        foreach (var (n, value) in Values)
            if (n == name)
                return value;
        return null;
    }

    private string QueueText(int queue) =>
        queueCounts[queue] == 0
            ? "empty"
            : string.Join(", ", queues[queue].Take(queueCounts[queue]).Select(v => Quantities.Figures.Show(v)));

    /// <summary>A value as its kind reads.</summary>
    internal string Text(ExprNode like, double value) =>
        like switch
        {
            TruthNode or DoneNode or GivenUpNode or InStateNode or ZoneIsNode or SilentNode or CannotTellNode => value != 0 ? "yes" : "no",
            TextNode => value >= 0 && value < script.Texts.Length ? $"“{script.Texts[(int)value]}”" : "“”",
            ZoneNode or PropertyNode { Kind: PropertyKind.Zone } => value >= 0 && value < script.Zones.Length
                ? script.Zones[(int)value]
                : "no zone",
            LiteralNode { Unit: not "" } l => $"{Quantities.Figures.Show(value / (Quantities.Unit.Find(l.Unit)?.Factor ?? 1), 5)} {l.Unit}",
            _ => double.IsNaN(value) ? "nothing read yet" : Quantities.Figures.Show(value, 5),
        };

    /// <summary>Transitions of active states, outermost part first, with whether they could go now and what they wait for.</summary>
    public IReadOnlyList<(int Unit, int Transition, TransitionNode Node, bool GuardHolds)> Waiting =>
        [.. units.Where(u => u.Active).SelectMany(u => u.Waiting)];

    /// <summary>The sentence of a transition.</summary>
    public TransitionNode Transition(int unit, int transition) => script.Units[unit].Transitions[transition].Node!;

    /// <summary>Name of the state whose sentence a transition is.</summary>
    public string StateOf(int unit, int transition) => script.Steps[script.FirstStep[unit] + transition].From;

    /// <summary>The sentence of a command; null for a stop because a state was left.</summary>
    public ActionNode? Sentence(ScriptCommand c) => c.Activity < 0 ? null : script.Units[c.Unit].Activities[c.Activity].Node;
}
