using Chiton.Core.Checking;
using Chiton.Core.Motion;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Chiton.Core.Simulation;
using Chiton.Core.Simulation.Scenes;

namespace Chiton.Data;

/// <summary>What is known of the positions of a mechanism on a copy.</summary>
/// <param name="Version">Version, from 1.</param>
/// <param name="Angles">Angles found, by position: of a servo deg, of others motor deg.</param>
public sealed record FoundPositions(int Version, IReadOnlyDictionary<string, IReadOnlyList<double>> Angles)
{
    /// <summary>Angles found of a position; empty when it was never found.</summary>
    public IReadOnlyList<double> Of(string position) => Angles.GetValueOrDefault(position) ?? [];
}

/// <summary>A rig as it stands, with one of its copies.</summary>
public sealed record RigState(
    string Id,
    int Revision,
    string Hash,
    RigDesign Design,
    int Copy,
    string Team,
    UnitRow Unit,
    RailMotion? Motion,
    IReadOnlyDictionary<string, SensorCalibration> Calibrations,
    IReadOnlyDictionary<string, CalibrationRow> CalibrationRows
)
{
    /// <summary>Revision on its controller; null when none was sent yet, or another rig's was.</summary>
    public int? ControllerRevision => Unit.HeldRig == Id ? Unit.HeldRevision : null;

    /// <summary>SHA-256 of the programs and numbers that its controller would be sent now: what does not go there is no reason to
    /// send.</summary>
    public string ToSend =>
        Documents.Hash(
            string.Join(
                '\n',
                [
                    .. Design.Programs.Select(p => $"{p.RunsOn} {p.OnHost} {p.Stored} {p.Script} {string.Join(';', p.Values)}"),
                    .. Design.Wires.Select(w => $"{w}"),
                    .. Calibrations.OrderBy(c => c.Key, StringComparer.Ordinal).Select(c => $"{c.Key} {CalibrationRows[c.Key].Version}"),
                    .. MotionVersions.OrderBy(m => m.Key, StringComparer.Ordinal).Select(m => $"{m.Key} {m.Value}"),
                ]
            )
        );

    /// <summary>True when its controller holds what would be sent now. Where only a revision is known to have been sent, that one
    /// counts.</summary>
    public bool HoldsThis => Unit.HeldRig == Id && (Unit.HeldHash == "" ? Unit.HeldRevision == Revision : Unit.HeldHash == ToSend);

    /// <summary>True until somebody has said whether this copy, made before that was told apart, is real or a stand-in.</summary>
    public bool AsksKind { get; init; }

    /// <summary>Whose hidden numbers a stand-in has: address of a rig and number of its copy; its own where it was not handed
    /// out.</summary>
    public (string Rig, string Copy) Hidden { get; init; } = (Id, Copy.ToString(System.Globalization.CultureInfo.InvariantCulture));

    /// <summary>The team that the rig belongs to; null for the desk's.</summary>
    public long? Owner { get; init; }

    /// <summary>Refuses what belongs to the simulated controller on a copy that is on a table.</summary>
    /// <param name="what">What was to be done, as “recorded”.</param>
    /// <exception cref="InputProblem">When this copy is real.</exception>
    public void StandInOnly(string what)
    {
        if (Unit.Kind == UnitKind.Real)
            throw new InputProblem(
                "copy",
                AsksKind
                    ? $"Nothing is {what} from the simulated controller on copy {Copy} until it is said "
                        + "whether it is on a table or a stand-in. "
                        + "Say so under Copies."
                    : $"Copy {Copy} is on a table: nothing is {what} from the simulated controller there. "
                        + "Type or paste what was measured, or "
                        + "take a stand-in."
            );
    }

    /// <summary>The design as it is kept for all who ask.</summary>
    public required KnownDesign Known { get; init; }

    /// <summary>The running program, parsed.</summary>
    public ParseResult Parsed => Known.Parsed;

    /// <summary>SHA-256 of everything a run's outcome depends on but its seed.</summary>
    public required string Inputs { get; init; }

    /// <summary>The same for runs in a scene that does not count, so that they are never taken for those that do.</summary>
    /// <param name="scene">Name of the scene; null for the one that counts.</param>
    public string InputsIn(string? scene) => Known.InputsIn(Inputs, scene);

    /// <summary>The same for two states of which everything is the same that checks and plates speak of; ages count by the day.</summary>
    public required string Stamp { get; init; }

    private static readonly System.Collections.Concurrent.ConcurrentDictionary<string, Lazy<Report>> Reports = new();

    /// <summary>What the checks say; worked out once for a state.</summary>
    public Report Report()
    {
        if (Reports.Count > 500)
            Reports.Clear();
        var deeper = Exploring.Of(Stamp);
        var tried = Trying.Of(Stamp);
        return Reports
            .GetOrAdd(
                $"{Stamp} {deeper?.Version} {tried?.Version} {Sent}",
                _ => new(() => deeper is { Version: > 0 } ? deeper.Look(e => Work(e, tried)) : Work(null, tried))
            )
            .Value;
    }

    private Report Work(Explorer? explored, Trying? tried) =>
        Core.Checking.Report.Of(
            Design,
            Motion,
            Moves,
            Calibrations,
            Ages,
            Known.Programs,
            explored,
            SceneNotes,
            new()
            {
                Scenes = [.. Scenes.Where(s => s.Diagnostics.Count == 0).Select(s => s.Scene)],
                Ran = tried?.Ran,
                Cures = tried?.Cures,
                Sent = Sent,
            }
        );

    // What its controller was sent last; null where nothing ever was.
    private SentNote? Sent =>
        Unit.HeldRig is null || Unit.HeldRevision is null ? null : new(HoldsThis, ControllerRevision, Revision, Unit.Kind == UnitKind.Real);

    // What hinders a scene, or does not count in it, before anything runs. One that cannot be read says so in Simulate.
    private IReadOnlyList<SceneNote> SceneNotes
    {
        get
        {
            var notes = new List<SceneNote>();
            foreach (var scene in Scenes)
            {
                var counts = ReferenceEquals(scene, Counting);
                if (scene.Diagnostics.Count > 0)
                {
                    notes.Add(new(scene.Scene.Name, counts, SceneNote.Unlooked, "it has faults."));
                    continue;
                }
                IReadOnlyList<SceneFinding> found;
                try
                {
                    found = Plan(scene.Scene).Findings;
                }
                catch (SceneProblem hindered)
                {
                    found = hindered.Findings;
                }
                catch (InputProblem hindered)
                {
                    // What else keeps it from running is told where it is: here it is only not looked at.
                    notes.Add(new(scene.Scene.Name, counts, SceneNote.Unlooked, hindered.Message));
                    continue;
                }
                notes.AddRange(found.Select(f => new SceneNote(scene.Scene.Name, counts, f.Code, f.Say)));
            }
            return notes;
        }
    }

    /// <summary>Goes on exploring in the background; null when a program that runs cannot be read, or none does.</summary>
    /// <param name="done">Called once it has come to its end or was stopped.</param>
    public Exploring? ExploreDeeper(Func<Task> done) =>
        Core.Checking.Report.Explorable(Known.Programs) is { } programs
            ? Exploring.Deeper(Stamp, () => Explorer.Of(Design, programs, Calibrations), done)
            : null;

    /// <summary>Findings that were set aside on this copy, by their keys.</summary>
    public IReadOnlyDictionary<string, SilenceRow> Silences { get; init; } = new Dictionary<string, SilenceRow>();

    /// <summary>Why a finding was set aside; null where it was not, or where its figures are others since.</summary>
    public string? Silenced(Finding finding) =>
        Silences.GetValueOrDefault(finding.Key) is { } row && row.Said == finding.Said ? row.Reason : null;

    /// <summary>What the checks say and nobody set aside, each thing once: what follows from another is not told beside it; null where
    /// nothing could be looked at.</summary>
    public IReadOnlyList<Finding>? Open =>
        Report().Findings is { } all ? [.. all.Where(f => f.Because is null && Silenced(f) is null)] : null;

    /// <summary>What is known of this copy, for the bench.</summary>
    public BenchCopy Bench => new(Design, Moves, Calibrations, Positions.ToDictionary(p => p.Key, p => p.Value.Angles));

    /// <summary>The scenes of the design as read: its own, or the one that stands for them.</summary>
    public IReadOnlyList<SceneResult> Scenes => Known.Scenes;

    /// <summary>The scene that the header and Prove count: the first that says so, else the first.</summary>
    public SceneResult Counting => Scenes.FirstOrDefault(s => s.Scene.Counts) ?? Scenes[0];

    /// <summary>The scene that is meant: by its name, or the first that counts, or the first.</summary>
    /// <param name="name">Its name; null where none is named.</param>
    /// <exception cref="InputProblem">When there is none of that name, or it has faults.</exception>
    public SceneNode Scene(string? name)
    {
        var found = name is null
            ? Counting
            : Scenes.FirstOrDefault(s => s.Scene.Name == name)
                ?? throw new InputProblem("scene", $"There is no scene “{name}” on this rig.");
        return found.Diagnostics.Count == 0
            ? found.Scene
            : throw new InputProblem(
                "scene",
                $"The scene {found.Scene.Name} has {Figures.Count(found.Diagnostics.Count, "fault")}: line {found.Diagnostics[0].Line}: "
                    + $"{found.Diagnostics[0].Message}"
            );
    }

    /// <summary>What runs: this copy in a scene, with the programs that run on it.</summary>
    /// <param name="scene">The scene; null for the one that is meant where none is named.</param>
    /// <param name="guests">Finds other rigs; null where there are none.</param>
    /// <param name="plays">True for one that is played with.</param>
    /// <exception cref="InputProblem">When a program has faults or the copy lacks something.</exception>
    public BenchPlan Plan(SceneNode? scene = null, GuestFinder? guests = null, bool plays = false) =>
        Parsed.Diagnostics.Count > 0
            ? throw new InputProblem(
                "program",
                $"The program has {Figures.Count(Parsed.Diagnostics.Count, "fault")}: line {Parsed.Diagnostics[0].Line}: "
                    + $"{Parsed.Diagnostics[0].Message}"
            )
            : BenchPlan.Build(Bench, scene ?? Scene(null), guests, null, plays);

    /// <summary>Every number that this copy has of its own, for holding copies against each other.</summary>
    public CopyNumbers Numbers()
    {
        var reads = Calibrations
            .Values.Where(c => Design.Sensors.FirstOrDefault(s => s.Name == c.Sensor)?.Facts.View is "scalar" or "bands")
            .SelectMany(c => c.Zones.Select(z => ($"{c.Sensor}, {z.Zone}", c.Reads(z.Zone))))
            .Where(r => r.Item2 is not null)
            .Select(r => (r.Item1, r.Item2!));
        var moves = Moves
            .Plans.Where(p => Motion is null || p.Mechanism != Design.Vehicle?.Name)
            .Select(p => ($"{p.Mechanism}, {p.Number}", Moves.Measured(p)))
            .Where(a => a.Item2 is not null)
            .Select(a => (a.Item1, a.Item2!));
        return new(Copy, [.. reads, .. Motion?.Named ?? [], .. moves]) { Kind = Unit.Kind };
    }

    /// <summary>What is known of when and how a sensor's calibration was taken.</summary>
    public required IReadOnlyDictionary<string, CalibrationAge> Ages { get; init; }

    /// <summary>How this copy moves, as far as its trials tell.</summary>
    public required CopyMoves Moves { get; init; }

    /// <summary>How the copy was said to move when it was delivered, before any trial; null where nothing was said.</summary>
    public RailMotion? Delivered { get; init; }

    /// <summary>Versions of what is known of motions, by the key of the motion.</summary>
    public required IReadOnlyDictionary<string, int> MotionVersions { get; init; }

    /// <summary>Positions found by hand, by mechanism.</summary>
    public required IReadOnlyDictionary<string, FoundPositions> Positions { get; init; }
}

/// <summary>What undo and redo would do.</summary>
public sealed record UndoState(string? Undo, string? Redo);
