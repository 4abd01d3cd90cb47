using Chiton.Core.Motion;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;

namespace Chiton.Core.Checking;

/// <summary>What is known of a rig from its scenes, its runs and its controller, for the checks.</summary>
public sealed record BenchNotes
{
    /// <summary>Its scenes that can be read; null to read them here.</summary>
    public IReadOnlyList<Simulation.Scenes.SceneNode>? Scenes { get; init; }

    /// <summary>What its runs showed; null while none were made.</summary>
    public IReadOnlyList<SceneRuns>? Ran { get; init; }

    /// <summary>What cures come to in the bench, by the keys of their findings; null while none were tried.</summary>
    public IReadOnlyDictionary<string, CureRuns>? Cures { get; init; }

    /// <summary>What its controller holds; null where nothing was sent.</summary>
    public SentNote? Sent { get; init; }
}

/// <summary>What the checks say of a rig with one of its copies.</summary>
/// <param name="Judgement">How its sensors hold.</param>
/// <param name="Findings">What was found in the programs that run, program by program in the order of their lines; null when
/// none of them can be read, so that nothing could be looked at.</param>
/// <param name="Looked">What was looked for, and what came of it.</param>
public sealed record Report(RigJudgement Judgement, IReadOnlyList<Finding>? Findings, IReadOnlyList<Looked> Looked)
{
    /// <summary>How far all that may happen was gone through.</summary>
    public ExploredFar Explored { get; init; } = ExploredFar.Nothing;

    /// <summary>The programs that are looked at together: those that run and can be read; null while one of those that run
    /// cannot.</summary>
    public static IReadOnlyList<RigProgram>? Explorable(IReadOnlyList<RigProgram> programs)
    {
        RigProgram[] running = [.. programs.Where(p => p.Runs)];
        return running.Length > 0 && running.All(p => p.Parsed.Diagnostics.Count == 0) ? running : null;
    }

    /// <summary>Looks at everything.</summary>
    /// <param name="rig">The design.</param>
    /// <param name="motion">How the copy moves; null when nothing is known of it.</param>
    /// <param name="moves">The same of all its mechanisms, as far as trials tell.</param>
    /// <param name="calibrations">The copy's calibrations by sensor name.</param>
    /// <param name="ages">When and how they were taken, by sensor name.</param>
    /// <param name="programs">The rig's programs, read.</param>
    /// <param name="explored">All that may happen to those that run and can be read; null to go through it here, as far as one waits for
    /// after an edit.</param>
    /// <param name="scenes">What is known of the rig's scenes on this copy; null where they were not looked at.</param>
    /// <param name="bench">What else is known from running it; null for nothing.</param>
    public static Report Of(
        RigDesign rig,
        RailMotion? motion,
        CopyMoves moves,
        IReadOnlyDictionary<string, SensorCalibration> calibrations,
        IReadOnlyDictionary<string, CalibrationAge> ages,
        IReadOnlyList<RigProgram> programs,
        Explorer? explored = null,
        IReadOnlyList<SceneNote>? scenes = null,
        BenchNotes? bench = null
    )
    {
        var judgement = SenseJudge.Rig([
            .. rig.Sensors.Select(s =>
                SenseJudge.Judge(s, calibrations.GetValueOrDefault(s.Name), ages.GetValueOrDefault(s.Name) ?? new(null, [], []))
            ),
        ]);
        RigProgram[] running = [.. programs.Where(p => p.Runs)];
        RigProgram[] readable = [.. running.Where(p => p.Parsed.Diagnostics.Count == 0)];
        var faulty = running.Except(readable).FirstOrDefault();
        var unread =
            faulty is not null
                ? $"{faulty.Name} has {Figures.Count(faulty.Parsed.Diagnostics.Count, "fault")}: "
                    + (readable.Length > 0 ? "it was not looked at, the others were." : "only what can be read can be looked at.")
            : running.Length == 0 ? "No program runs."
            : null;
        // A program that cannot be read may tell the others anything: then nothing is certain of what never happens.
        if (explored is null && Explorable(programs) is not null)
        {
            explored = Explorer.Of(rig, readable, calibrations);
            explored.Run(Explorer.StatesAfterEdit, Explorer.AskedAfterEdit);
        }
        // Read once for all programs.
        var read = bench?.Scenes is null && readable.Length > 1 ? Simulation.Scenes.SceneStarts.Read(rig) : null;
        CheckInput[] inputs =
        [
            .. readable.Select(
                (p, i) =>
                    new CheckInput(rig, motion, moves, calibrations, judgement, readable, p)
                    {
                        SomeUnread = faulty is not null,
                        Explored = explored,
                        ExploredAs = i,
                        Scenes = scenes,
                        ScenesRead = bench?.Scenes ?? read,
                        Ran = bench?.Ran,
                        Sent = bench?.Sent,
                    }
            ),
        ];
        var found = readable.Length == 0 ? null : Catalogue.Find(inputs);
        // A cure with which fewer runs pass is none.
        if (bench?.Cures is { } cures)
            found = found is null
                ? null
                :
                [
                    .. found.Select(f =>
                        cures.GetValueOrDefault(f.Key) is not { } tried ? f
                        : tried.Worse ? f with { Cure = null }
                        : f with { CureTried = tried }
                    ),
                ];
        return new(judgement, found, Catalogue.Looked(inputs, found, unread))
        {
            Explored = explored is null ? ExploredFar.Nothing : ExploredFar.Of(explored),
        };
    }
}
