using Chiton.Core.Motion;
using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Scxml;
using Chiton.Core.Programs.Statecharts;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;

namespace Chiton.Core.Programs.Engine;

/// <summary>Walks through the programs of a rig.</summary>
public static class WalkOf
{
    /// <summary>Most steps of a walk that was kept.</summary>
    public const long MostStoredSteps = 500_000;

    /// <summary>All programs that run, walked together.</summary>
    /// <param name="rig">The rig.</param>
    /// <param name="calibrations">What is known of its sensors, by name: readings reach their zones.</param>
    /// <param name="events">What happens, in order.</param>
    /// <param name="budget">How much may be done; null for as much as a walk may.</param>
    /// <param name="timings">How long the copy's servos and sounds take; null as the design guesses.</param>
    /// <exception cref="InputProblem">When a program has faults, or an event means nothing.</exception>
    public static IReadOnlyList<WalkMoment> Together(
        RigDesign rig,
        IReadOnlyDictionary<string, SensorCalibration> calibrations,
        IReadOnlyList<WalkEvent> events,
        StepBudget? budget = null,
        Timings? timings = null
    )
    {
        var running = RigPrograms.Of(rig).Where(p => p.Runs).ToArray();
        if (running.Length == 0)
            throw new InputProblem("rig", "No program of this rig runs: all are stored.");
        foreach (var p in running)
            if (p.Parsed.Diagnostics.Count > 0)
                throw new InputProblem("source", $"{p.Name}, line {p.Parsed.Diagnostics[0].Line}: {p.Parsed.Diagnostics[0].Message}");
        return ScriptWalk.Together(
            [
                .. running.Select(p => new NetworkProgram(
                    p.Name,
                    ScriptCompiler.ForWalk(p.Parsed.Program, rig, calibrations, timings),
                    p.OnHost
                )),
            ],
            (long)Math.Round((rig.MessageDelay?.Value ?? 0) * 1000),
            events,
            budget
        );
    }

    // A kept walk ends where it ends whatever was measured since.
    private static readonly Dictionary<string, SensorCalibration> Nothing = [];

    /// <summary>A walk that was kept, taken again with the programs as they are now.</summary>
    /// <exception cref="InputProblem">When its program is gone or has faults, or an event means nothing any more.</exception>
    public static IReadOnlyList<WalkMoment> Stored(RigDesign rig, StoredWalk walk, StepBudget? budget = null)
    {
        // A rig keeps many walks, and all of them are taken again when they are looked at.
        budget ??= new(MostStoredSteps);
        WalkEvent[] events = [.. walk.Steps.Select(s => new WalkEvent(s.Event, null, s.AfterMs))];
        if (walk.Program is null)
            return Together(rig, Nothing, events, budget);
        var program =
            RigPrograms.Of(rig).FirstOrDefault(p => p.Name == walk.Program)
            ?? throw new InputProblem("source", $"The program {walk.Program} of this walk is gone.");
        if (program.Parsed.Diagnostics.Count > 0)
            throw new InputProblem(
                "source",
                $"{program.Name}, line {program.Parsed.Diagnostics[0].Line}: {program.Parsed.Diagnostics[0].Message}"
            );
        return ScriptWalk.Run(
            ScriptCompiler.ForWalk(walk.From is null ? program.Parsed.Program : Alone.Of(program.Parsed.Program, walk.From), rig, Nothing),
            events,
            budget
        );
    }
}
