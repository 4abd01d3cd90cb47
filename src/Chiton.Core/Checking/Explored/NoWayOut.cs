using Chiton.Core.Programs.Language;

namespace Chiton.Core.Checking;

/// <summary>States that are never left and are not final.</summary>
internal sealed class NoWayOut : ExploredCheck
{
    /// <inheritdoc/>
    public override string Code => "no-way-out";

    /// <inheritdoc/>
    public override string Title => "A state without a way out";

    /// <inheritdoc/>
    public override string Says =>
        "Whatever happens, a state is never left, and it is not final: what it runs goes on until somebody pulls the plug. Where nothing "
        + "runs on it is only good to know.";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Risky;

    /// <inheritdoc/>
    public override string Example =>
        "region Main\n  state Standing, initial\n    when Tag eye becomes sleepers: go Rolling\n\n"
        + "  state Rolling\n    while here: run Trolley at 40 %\n";

    /// <inheritdoc/>
    public override string Mended =>
        "region Main\n  state Standing, initial\n    when Tag eye becomes sleepers: go Rolling\n\n"
        + "  state Rolling\n    while here: run Trolley at 40 %\n    when Tag eye becomes bed tag: go Over\n\n  state Over, final\n";

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        if (!Settled(input))
            yield break;
        foreach (var (explored, runsOn) in input.Explored!.NeverLeft(input.ExploredAs))
        {
            if (Read(input, explored) is not { } state)
                continue;
            // A region of one state has nowhere to go, and a state that waits for what never comes is told by its sentences.
            var alone = Neighbours(input.Node, state) <= 1;
            if (alone && !runsOn || Ways(input.Node, state).Any())
                continue;
            yield return At(
                state,
                runsOn && !alone ? Severity.Risky : Severity.Advice,
                runsOn ? $"{state.Name} runs on for ever" : $"{state.Name} is where it ends",
                runsOn
                    ? $"No sentence leads on from {state.Name}, and what it runs never stops by itself. Say when it is over."
                    : $"No sentence leads on from {state.Name}. If the program is over there, call the state final: then a run ends "
                        + $"when it "
                        + "is done."
            );
        }
    }

    private static IEnumerable<TransitionNode> Ways(ProgramNode program, StateNode state) =>
        program
            .AllStates.Where(s => ReferenceEquals(s, state) || s.WithInner.Any(i => ReferenceEquals(i, state)))
            .SelectMany(s => s.Lines)
            .OfType<TransitionNode>();

    private static int Neighbours(ProgramNode program, StateNode state) =>
        program
            .Regions.Concat(program.Routines.SelectMany(r => r.Regions))
            .Select(r => r.States)
            .Concat(program.AllStates.Select(s => s.States))
            .Concat(program.AllStates.SelectMany(s => s.Regions).Select(r => r.States))
            .Where(list => list.Any(s => ReferenceEquals(s, state)))
            .Select(list => list.Count)
            .FirstOrDefault();
}
