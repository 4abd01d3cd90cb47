using Chiton.Core.Motion;
using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Language;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;

namespace Chiton.Core.Checking;

/// <summary>A never that can come true.</summary>
/// <param name="Program">Index of its program among those explored.</param>
/// <param name="Rule">The never.</param>
/// <param name="Way">How it comes to it.</param>
public sealed record BrokenNever(int Program, RuleNode Rule, WayThere Way);

/// <summary>Two regions that can command one device at the same time.</summary>
/// <param name="Program">Index of the program among those explored.</param>
/// <param name="Device">The device, by the name that the program has for it.</param>
/// <param name="First">The command that is taken over.</param>
/// <param name="Second">The one that takes it over.</param>
/// <param name="Way">How it comes to it.</param>
public sealed record TwoDrivers(int Program, string Device, ActionNode First, ActionNode Second, WayThere Way);

/// <summary>How far exploration has come.</summary>
/// <param name="States">Different states so far.</param>
/// <param name="Steps">Steps between them that were looked at.</param>
/// <param name="Depth">The most events that lie between the start and a state that was looked at.</param>
/// <param name="Complete">True once every state was looked at and nothing was left out.</param>
/// <param name="Bound">What was left out, or why nothing can be explored; null where nothing was.</param>
/// <param name="MayGoOn">True when going on would find more.</param>
/// <param name="Bytes">Memory that it takes.</param>
public sealed record ExploredFar(long States, long Steps, int Depth, bool Complete, string? Bound, bool MayGoOn, long Bytes)
{
    /// <summary>Nothing yet.</summary>
    public static ExploredFar Nothing { get; } = new(0, 0, 0, false, null, false, 0);

    /// <summary>How far one has come.</summary>
    public static ExploredFar Of(Explorer explorer) =>
        new(
            explorer.States,
            explorer.Steps,
            explorer.Depth,
            explorer.IsComplete,
            explorer.Cannot ?? explorer.Bound,
            explorer.MayGoOn,
            explorer.Bytes
        );
}

public sealed partial class Explorer
{
    /// <summary>The programs that ways are tried on, in the same order: bound to what is known of the copy.</summary>
    internal IReadOnlyList<NetworkProgram> Replays { get; init; } = [];

    /// <summary>Makes ready to explore all programs of a rig that run.</summary>
    /// <param name="rig">The rig.</param>
    /// <param name="programs">Those of its programs that run and can be read.</param>
    /// <param name="calibrations">What is known of the copy's sensors: ways are tried on it.</param>
    /// <param name="timings">How long the copy's servos and sounds take.</param>
    public static Explorer Of(
        RigDesign rig,
        IReadOnlyList<RigProgram> programs,
        IReadOnlyDictionary<string, SensorCalibration> calibrations,
        Timings? timings = null
    )
    {
        var known = timings ?? Timings.Of(rig);
        return new(
            [
                .. programs.Select(p => new NetworkProgram(
                    p.Name,
                    ScriptCompiler.Compile(p.Parsed.Program, Vocabulary.Of(rig), known),
                    p.OnHost
                )),
            ],
            (long)Math.Round((rig.MessageDelay?.Value ?? 0) * 1000)
        )
        {
            Replays =
            [
                .. programs.Select(p => new NetworkProgram(
                    p.Name,
                    ScriptCompiler.ForWalk(p.Parsed.Program, rig, calibrations, known),
                    p.OnHost
                )),
            ],
        };
    }

    /// <summary>The nevers that came true, each with a way to it, shortest first.</summary>
    public IReadOnlyList<BrokenNever> Broken()
    {
        // Trying the ways takes time: once for what was found so far.
        if (broken?.At != set.Count)
            broken = (set.Count, FindBroken());
        return broken.Value.Found;
    }

    private (long At, IReadOnlyList<BrokenNever> Found)? broken;
    private (long At, IReadOnlyList<TwoDrivers> Found)? twice;

    private IReadOnlyList<BrokenNever> FindBroken() =>
        [
            .. hits
                .Keys.Where(k => k.Kind == SoughtKind.Never)
                .Select(k => new BrokenNever(
                    k.Program,
                    programs[k.Program].Script.Program.Head.OfType<RuleNode>().ElementAt(k.What),
                    WayTo(k, Replays)!
                ))
                .OrderBy(b => b.Way.Events.Count),
        ];

    /// <summary>Devices that two regions commanded at the same time, each with a way to it, shortest first.</summary>
    public IReadOnlyList<TwoDrivers> DrivenTwice()
    {
        if (twice?.At != set.Count)
            twice = (set.Count, FindTwice());
        return twice.Value.Found;
    }

    private IReadOnlyList<TwoDrivers> FindTwice() =>
        [
            .. hits
                .Keys.Where(k => k.Kind == SoughtKind.Clash)
                .Select(k =>
                {
                    var clash = programs[k.Program].Clashes[k.What];
                    return new TwoDrivers(
                        k.Program,
                        programs[k.Program].Script.Devices[clash.Device],
                        clash.First,
                        clash.Second,
                        WayTo(k, Replays)!
                    );
                })
                .OrderBy(b => b.Way.Events.Count),
        ];

    /// <summary>States of a program that were never entered.</summary>
    public IEnumerable<StateNode> NeverEntered(int program) => Of(program, (p, n) => !p.Entered[n]);

    /// <summary>States without states in them that were entered and never left, and in which nothing is ever done: where it
    /// rests.</summary>
    /// <remarks>With whether something goes on for ever in them.</remarks>
    public IEnumerable<(StateNode State, bool RunsOn)> NeverLeft(int program)
    {
        var p = programs[program];
        var unit = p.Script.Units[0];
        for (var n = 0; n < unit.Nodes.Length; n++)
            if (
                unit.Nodes[n].State is { Final: false } state
                && unit.Chart.KindOf(n) == Programs.Statecharts.NodeKind.Atomic
                && p.Entered[n]
                && !p.Left[n]
                && !p.Lively[n]
            )
                yield return (state, p.RunsOn[n]);
    }

    private IEnumerable<StateNode> Of(int program, Func<LocalSteps, int, bool> that)
    {
        var p = programs[program];
        for (var n = 0; n < p.Script.Units[0].Nodes.Length; n++)
            if (p.Script.Units[0].Nodes[n].State is { } state && that(p, n))
                yield return state;
    }

    /// <summary>Sentences of states that were entered, none of which was ever taken; those of routines are not told.</summary>
    public IEnumerable<(StateNode State, TransitionNode Sentence)> NeverTaken(int program)
    {
        var p = programs[program];
        var unit = p.Script.Units[0];
        for (var t = 0; t < unit.Transitions.Length; t++)
            if (
                unit.Transitions[t].Node is { } node
                && unit.Chart.SourceOf(t) is var source
                && p.Entered[source]
                && !p.Fired[0][t]
                && unit.Nodes[source].State is { } state
            )
                yield return (state, node);
    }
}
