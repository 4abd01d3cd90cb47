using Chiton.Core.Checking;
using Chiton.Core.Motion;
using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Patterns;
using Chiton.Core.Proving;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Chiton.Core.Simulation;
using Chiton.Core.Simulation.Scenes;
using Chiton.Data.Demo;

namespace Chiton.Server.Tests.Checking;

/// <summary>A program in which one sentence was changed as people get it wrong.</summary>
/// <param name="Kind">What was done.</param>
/// <param name="Program">Which program.</param>
/// <param name="State">The state whose sentence it was.</param>
/// <param name="Line">Its line before.</param>
/// <param name="Script">The program with it.</param>
public sealed record Mutant(string Kind, int Program, string State, int Line, string Script);

/// <summary>Sound machines, and what becomes of them where one sentence is changed.</summary>
public static class Mutants
{
    /// <summary>Every way in which one sentence of a program can be got wrong: a guard turned round, a zone swapped, a way out missing,
    /// a stop
    /// left out, a count that counts twice, a limit too short.</summary>
    public static IEnumerable<Mutant> Of(RigDesign rig, RigProgram program)
    {
        var node = program.Parsed.Program;
        foreach (var state in node.AllStates)
        foreach (var line in state.Lines)
        {
            Mutant Made(string kind, LineNode? other) =>
                new(kind, program.Index, state.Name, line.Span.Line, Print(node, state, line, other));
            switch (line)
            {
                case TransitionNode t:
                    if (t.Guard is { } guard)
                        yield return Made("guard turned round", t with { Guard = new UnaryNode(true, guard) });
                    foreach (var trigger in Swapped(rig, t.Trigger))
                        yield return Made("zone swapped", t with { Trigger = trigger });
                    yield return Made("way out missing", null);
                    if (t.Trigger is AfterTriggerNode { Time: LiteralNode time })
                        yield return Made(
                            "limit too short",
                            t with
                            {
                                Trigger = new AfterTriggerNode(
                                    new LiteralNode(Figures.Show(0.3 * double.Parse(time.Digits), 3), time.Unit)
                                ),
                            }
                        );
                    foreach (var actions in Changed(t.Actions))
                        yield return Made(actions.Kind, t with { Actions = actions.Actions });
                    break;
                case ActivityNode a:
                    foreach (var actions in Changed(a.Actions))
                        yield return Made(actions.Kind, actions.Actions.Count == 0 ? null : a with { Actions = actions.Actions });
                    break;
            }
        }
    }

    private static string Print(ProgramNode program, StateNode state, LineNode line, LineNode? other)
    {
        StateNode In(StateNode s) =>
            s with
            {
                Lines = ReferenceEquals(s, state)
                    ? s
                        .Lines.Where(l => other is not null || !ReferenceEquals(l, line))
                        .Select(l => ReferenceEquals(l, line) ? other! : l)
                        .ToSequence()
                    : s.Lines,
                States = s.States.Select(In).ToSequence(),
                Regions = s.Regions.Select(Region).ToSequence(),
            };
        RegionNode Region(RegionNode r) => r with { States = r.States.Select(In).ToSequence() };
        return Printer.Print(
            program with
            {
                Regions = program.Regions.Select(Region).ToSequence(),
                Routines = program.Routines.Select(r => r with { Regions = r.Regions.Select(Region).ToSequence() }).ToSequence(),
            }
        );
    }

    private static IEnumerable<TriggerNode> Swapped(RigDesign rig, TriggerNode trigger)
    {
        if (trigger is not ZoneTriggerNode z || rig.Sensors.FirstOrDefault(s => s.Name == z.Sensor) is not { } sensor)
            yield break;
        foreach (var zone in sensor.Zones.Where(n => n != z.Zone))
            yield return z with
            {
                Zone = zone,
            };
    }

    private static IEnumerable<(string Kind, Sequence<ActionNode> Actions)> Changed(Sequence<ActionNode> actions)
    {
        for (var i = 0; i < actions.Count; i++)
            switch (actions[i])
            {
                case StopNode:
                    yield return ("stop left out", actions.Where((_, k) => k != i).ToSequence());
                    break;
                case SetNode
                {
                    Value: BinaryNode { Operator: Operator.Add, Left: VariableNode v, Right: LiteralNode { Digits: "1" } one } sum
                } set when v.Name == set.Variable:
                    yield return ("counts twice", actions.With(i, set with { Value = sum with { Right = one with { Digits = "2" } } }));
                    break;
            }
    }

    /// <summary>A machine that is sound: a rig of the farm as mended, on its first copy, in the scene that counts.</summary>
    public sealed record Sound(string Id, BenchCopy Copy, RailMotion? Motion);

    /// <summary>A rig of the farm as mended.</summary>
    public static Sound Mended(string id)
    {
        var rig = Farm.All(DateTime.UnixEpoch).First(r => r.Id == id);
        var design = rig.Design;
        var accepted = new Dictionary<string, AcceptedNumber>();
        foreach (var cure in Cures.Of(id))
        {
            design = cure.On(design);
            foreach (var (key, number) in cure.Trials)
                accepted[key] = number;
        }
        return new(id, DemoBench.Copy(rig, 1, design, accepted), rig.Copies.First(c => c.Number == 1).Motion);
    }

    /// <summary>What the checks say of a machine, with so many runs of the scene that counts; null where it cannot be read or
    /// run.</summary>
    public static (IReadOnlyList<Finding> Findings, SceneRuns Ran)? Look(Sound sound, RigDesign design, int runs)
    {
        var programs = RigPrograms.Of(design);
        RigProgram[] running = [.. programs.Where(p => p.Runs)];
        if (running.Any(p => p.Parsed.Diagnostics.Count > 0))
            return null;
        var scenes = SceneStarts.Read(design);
        var copy = sound.Copy with { Rig = design };
        SceneRuns ran;
        try
        {
            ran = Tries.Scene(BenchPlan.Build(copy, scenes[0]), running, true, runs).Found;
        }
        catch (InputProblem)
        {
            return null;
        }
        var report = Report.Of(
            design,
            sound.Motion,
            copy.Moves,
            copy.Calibrations,
            new Dictionary<string, CalibrationAge>(),
            programs,
            null,
            null,
            new() { Scenes = scenes, Ran = [ran] }
        );
        return report.Findings is { } found ? ([.. found.Where(f => f.Severity != Severity.Holds)], ran) : null;
    }

    /// <summary>True for a finding in the changed state, at the line that was changed or beside it, or in a state that one sentence leads
    /// to or from there.</summary>
    /// <param name="program">The changed program.</param>
    /// <param name="mutant">What was changed.</param>
    /// <param name="finding">What was found.</param>
    /// <param name="sound">What is found in the sound machine: that names nothing.</param>
    public static bool Names(ProgramNode program, Mutant mutant, Finding finding, IReadOnlyList<Finding> sound)
    {
        if (
            finding.Program != mutant.Program
            || sound.Any(f =>
                (f.Code, f.Program, f.Owner) == (finding.Code, finding.Program, finding.Owner) && f.Severity <= finding.Severity
            )
        )
            return false;
        if (finding.Owner == mutant.State || finding.Device == mutant.State || Math.Abs(finding.Line - mutant.Line) <= 1)
            return true;
        var beside = program
            .AllStates.SelectMany(s =>
                s.Lines.OfType<TransitionNode>().Where(t => t.Target is not null).Select(t => (From: s.Name, To: t.Target!))
            )
            .Where(t => t.From == mutant.State || t.To == mutant.State)
            .SelectMany(t => new[] { t.From, t.To })
            .ToHashSet();
        return beside.Contains(finding.Owner);
    }
}

/// <summary>Sound machines made by chance from patterns.</summary>
public static class Made
{
    // How many runs a made machine is tried in, and how many of them may fail.
    private const int Runs = 200,
        Fails = 2;

    /// <summary>A machine of one to three patterns on a rig of the farm, with the numbers of its copy, that is asked to come to
    /// a state that
    /// it comes to in every run; null where the patterns do not fit, or runs fail.</summary>
    /// <param name="sound">The rig as mended.</param>
    /// <param name="luck">Decides.</param>
    public static RigDesign? Of(Mutants.Sound sound, ref RandomStream luck)
    {
        var rig = sound.Copy.Rig;
        var readings = PatternFigures.ReadingsNeeded(rig, sound.Copy.Calibrations);
        var figures = PatternFigures.For(rig, sound.Copy.Moves, sound.Copy.Calibrations, readings);
        var script = $"program {rig.Program.Script.Split('\n')[0]["program ".Length..]}\n";
        var name = script["program ".Length..].Trim();
        var leasts = PatternFigures.LeastPowers(rig, sound.Copy.Moves);
        // What two patterns drive at once is one machine no more.
        var (used, moved) = (new HashSet<string>(), new HashSet<string>());
        var wanted = 1 + (int)(3 * luck.Uniform());
        for (int tried = 0, put = 0; put < wanted; tried++)
        {
            if (tried == 30)
                return null;
            var pattern = PatternLibrary.All[(int)(luck.Uniform() * PatternLibrary.All.Count)];
            var fitted = PatternFitting.Fit(pattern, rig, name, readings, figures, leasts);
            // A sensor with fewer zones than a pattern wants tells the same twice.
            var alike = fitted
                .Holes.Where(h => h.Hole.Kind == HoleKind.Zone)
                .GroupBy(h => (fitted.Holes.FirstOrDefault(o => o.Hole.Id == h.Hole.Of)?.Value, h.Value))
                .Any(g => g.Count() > 1);
            if (alike || fitted.Holes.Any(h => h.Missing is not null) || used.Contains(pattern.Id))
                continue;
            var made = PatternFitting.Insert(
                pattern,
                rig,
                script,
                fitted.Holes.ToDictionary(h => h.Hole.Id, h => h.Value),
                new Dictionary<string, string>(),
                null
            );
            if (made.Diagnostics.Count > 0)
                continue;
            var walk = new ProgramWalk(ScriptParser.Parse(made.Script, Vocabulary.Of(rig)).Program, rig);
            var before = ScriptParser.Parse(script, Vocabulary.Of(rig)).Program.Regions.Select(r => r.Name).ToHashSet();
            var own = walk
                .Program.Regions.Where(r => !before.Contains(r.Name))
                .SelectMany(r => r.AllStates.Select(n => n.Span.Line))
                .ToHashSet();
            string[] moves = [.. walk.Commands.Where(c => own.Contains(c.At.State.Span.Line)).SelectMany(c => walk.Moved(c.Action))];
            if (moves.Any(moved.Contains))
                continue;
            moved.UnionWith(moves);
            used.Add(pattern.Id);
            (script, put) = (made.Script, put + 1);
        }
        var alone = rig with { Programs = [new(script, []) { Meaning = ProgramText.MeaningNow }] };
        // Its scene without what speaks of the states of another program.
        var lines = SceneStarts
            .Of(rig)[0]
            .Text.Split('\n')
            .Where(l => !l.StartsWith("goal:", StringComparison.Ordinal) && !l.StartsWith("never:", StringComparison.Ordinal))
            .ToList();
        for (var i = 0; i < 20 && SceneParser.Parse(string.Join('\n', lines), alone).Diagnostics is { Count: > 0 } wrong; i++)
            lines.RemoveAt(wrong[0].Line - 1);
        RigDesign With(params string[] more) =>
            alone with
            {
                Scenes = [SceneStarts.Made(string.Join('\n', lines) + string.Join('\n', more) + "\n", alone)],
            };
        // What it comes to in every run is what it is for.
        if (Mutants.Look(sound, With("goal: finished within 600 s"), 40) is not { Ran: { Programs: [var did] } })
            return null;
        var program = RigPrograms.Of(alone)[0].Parsed.Program;
        var (region, state) = program
            .Regions.SelectMany(r => r.AllStates.Where(s => !s.Initial).Select(s => (r, s)))
            .LastOrDefault(x => did.Entered.GetValueOrDefault(x.s.Span.Line).Runs == 40);
        if (state is null)
            return null;
        var asked = With($"goal: {region.Name} is in {state.Name} within 60 s");
        return Mutants.Look(sound, asked, Runs) is { } look && look.Ran.Passes >= Runs - Fails && look.Ran.Asks ? asked : null;
    }
}
