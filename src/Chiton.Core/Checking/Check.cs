using Chiton.Core.Motion;
using Chiton.Core.Programs.Language;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Chiton.Core.Simulation.Scenes;

namespace Chiton.Core.Checking;

/// <summary>What a check looks at: one program that runs, on one copy of its rig, beside the others that run.</summary>
/// <param name="Rig">The design.</param>
/// <param name="Motion">How the rail vehicle of the copy moves; null for other rigs.</param>
/// <param name="Moves">How the copy moves, as far as its trials tell.</param>
/// <param name="Calibrations">The copy's calibrations by sensor name.</param>
/// <param name="Judged">How its sensors hold.</param>
/// <param name="Programs">Every program that runs and can be read.</param>
/// <param name="Program">The one that is looked at.</param>
public sealed record CheckInput(
    RigDesign Rig,
    RailMotion? Motion,
    CopyMoves Moves,
    IReadOnlyDictionary<string, SensorCalibration> Calibrations,
    RigJudgement Judged,
    IReadOnlyList<RigProgram> Programs,
    RigProgram Program
)
{
    /// <summary>True when another program runs too and cannot be read.</summary>
    public bool SomeUnread { get; init; }

    /// <summary>All that may happen to the programs together, as far as it was gone through; null where it was not.</summary>
    public Explorer? Explored { get; init; }

    /// <summary>Which of the explored programs this one is.</summary>
    public int ExploredAs { get; init; }

    /// <summary>What is known of the rig's scenes on this copy; null where they were not looked at.</summary>
    public IReadOnlyList<SceneNote>? Scenes { get; init; }

    private readonly Lazy<ProgramWalk> walk = new(() => new(Program.Parsed.Program, Rig));

    /// <summary>The program, read once for all checks.</summary>
    public ProgramWalk Walk => walk.Value;

    // What speaks of the whole rig is told once, with its first program.
    private readonly Lazy<IReadOnlyList<Finding>> ofRig = new(() =>
        [
            .. RigFindings
                .Find(Rig, Judged, Program.Parsed.Program)
                .Where(f => f.Line > 0 || Programs is [] || Programs[0].Index == Program.Index),
        ]
    );

    private readonly Lazy<IReadOnlyList<Finding>> ofRail = new(() =>
        Motion is null ? [] : RailChecks.Find(Rig, Motion, Calibrations, Program.Parsed.Program)
    );

    /// <summary>What the rig does to the program, looked at once for all codes.</summary>
    internal IReadOnlyList<Finding> OfRig => ofRig.Value;

    /// <summary>What a rail vehicle does with its markers, looked at once for all codes.</summary>
    internal IReadOnlyList<Finding> OfRail => ofRail.Value;

    private readonly Lazy<IReadOnlyList<SceneNode>> places = new(() => SceneStarts.Read(Rig));

    /// <summary>The scenes of the rig that can be read, as written; the one that stands for them where it has none.</summary>
    public IReadOnlyList<SceneNode> Places => ScenesRead ?? places.Value;

    /// <summary>True for a scene that the header and Prove count: those that say so, else the first.</summary>
    public bool CountsIn(SceneNode scene) => Places.Any(p => p.Counts) ? scene.Counts : ReferenceEquals(scene, Places[0]);

    /// <summary>The same, where they were read already.</summary>
    public IReadOnlyList<SceneNode>? ScenesRead { get; init; }

    /// <summary>What runs of the bench showed, scene by scene; null while they were not made.</summary>
    public IReadOnlyList<SceneRuns>? Ran { get; init; }

    /// <summary>What is known of what the controllers hold of this copy; null where nothing was ever sent.</summary>
    public SentNote? Sent { get; init; }

    /// <summary>The program as written.</summary>
    public ProgramNode Node => Program.Parsed.Program;
}

/// <summary>One thing that is looked for: a row of the catalogue. Each stands in a file of its own.</summary>
public abstract class Check
{
    /// <summary>Its code, as findings carry it.</summary>
    public abstract string Code { get; }

    /// <summary>What it is about, in a few words.</summary>
    public abstract string Title { get; }

    /// <summary>What it finds and what comes of it, in a sentence or two.</summary>
    public abstract string Says { get; }

    /// <summary>The part in whose margin it stands: rig, sense, move or program.</summary>
    public virtual string Part => "program";

    /// <summary>How bad it is at its worst.</summary>
    public abstract Severity Worst { get; }

    /// <summary>A program of the Seed trolley's rig that has it, for the description; null where a rig is needed that has it.</summary>
    public virtual string? Example => null;

    /// <summary>The same program mended.</summary>
    public virtual string? Mended => null;

    /// <summary>Why it cannot be looked for; null where it can.</summary>
    public virtual string? Cannot(CheckInput input) => null;

    /// <summary>Why it was not looked for to the end, so that what was not found may be there all the same; null where it was.</summary>
    public virtual string? Unsettled(CheckInput input) => null;

    /// <summary>Everything found, in document order.</summary>
    public abstract IEnumerable<Finding> Find(CheckInput input);

    /// <summary>A finding at a line of a state.</summary>
    protected Finding At(WalkedLine at, Severity severity, string headline, string say, string? device = null, Cure? cure = null) =>
        new(Code, severity, at.State.Name, at.Number, at.OfOwner, headline, say, cure) { Device = device };

    /// <summary>A finding at a state itself.</summary>
    protected Finding At(StateNode state, Severity severity, string headline, string say) =>
        new(Code, severity, state.Name, state.Span.Line, 0, headline, say, null);

    /// <summary>A finding in the head, or at anything else that has a line and no state.</summary>
    protected Finding At(int line, Severity severity, string headline, string say) => new(Code, severity, "", line, 0, headline, say, null);
}
