using System.Collections.Concurrent;
using Chiton.Core.Checking;
using Chiton.Core.Programs.Language;
using Chiton.Core.Proving;
using Chiton.Core.Quantities;
using Chiton.Core.Simulation;
using Chiton.Core.Simulation.Scenes;

namespace Chiton.Data;

/// <summary>
/// What runs of the bench showed of a state, for the checks: every scene a few times, then what cures come to, then every scene often
/// enough that a risk which never shows is one no more. Kept while the server runs; another state is another one.
/// </summary>
public sealed class Trying
{
    private const int Most = 60;
    private static readonly ConcurrentDictionary<string, Trying> All = new();

    private readonly Dictionary<string, Tries.Cover> covers = [];
    private readonly Dictionary<string, SceneRuns> ran = [];
    private readonly Dictionary<string, CureRuns> cures = [];
    private readonly Lock gate = new();

    private Trying(string stamp) => Stamp = stamp;

    /// <summary>What state it is of.</summary>
    public string Stamp { get; }

    /// <summary>Counts up when there is something new to say.</summary>
    public int Version { get; private set; }

    /// <summary>True once everything was run as often as it is going to be.</summary>
    public bool Settled { get; private set; }

    /// <summary>True while it goes on.</summary>
    public bool Running { get; private set; }

    /// <summary>What it does now, in words; null while it rests.</summary>
    public string? Now { get; private set; }

    /// <summary>Runs made of those that are to be made.</summary>
    public (int Done, int Of) Progress { get; private set; }

    /// <summary>The one of a state; null where none was begun.</summary>
    public static Trying? Of(string stamp) => All.GetValueOrDefault(stamp);

    /// <summary>The one of a state, begun where there is none.</summary>
    public static Trying Begin(string stamp)
    {
        if (All.Count > Most)
            All.Clear();
        return All.GetOrAdd(stamp, s => new(s));
    }

    /// <summary>What it found so far, scene by scene; null before anything.</summary>
    public IReadOnlyList<SceneRuns>? Ran
    {
        get
        {
            lock (gate)
                return ran.Count == 0 ? null : [.. ran.Values];
        }
    }

    /// <summary>What cures came to so far, by the keys of their findings.</summary>
    public IReadOnlyDictionary<string, CureRuns> Cures
    {
        get
        {
            lock (gate)
                return new Dictionary<string, CureRuns>(cures);
        }
    }

    /// <summary>Goes on with it, on the thread that asks.</summary>
    /// <param name="state">The state.</param>
    /// <param name="guests">Other rigs of its scenes, by the scene's name.</param>
    /// <param name="told">Called when there is something new to say.</param>
    /// <param name="stop">Stops it; what it found so far stays.</param>
    public void Go(RigState state, IReadOnlyDictionary<string, GuestFinder?> guests, Action told, CancellationToken stop)
    {
        Running = true;
        try
        {
            SceneNode[] scenes = [.. state.Scenes.Where(s => s.Diagnostics.Count == 0).Select(s => s.Scene)];
            RigProgram[] running = [.. state.Known.Programs.Where(p => p.Runs)];
            if (scenes.Length == 0 || running.Length == 0 || running.Any(p => p.Parsed.Diagnostics.Count > 0))
            {
                Settled = true;
                return;
            }
            Progress = (0, scenes.Length * SceneRuns.Settles);
            foreach (var scene in scenes)
                Run(state, scene, running, guests.GetValueOrDefault(scene.Name), SceneRuns.First, stop);
            Say(told);
            if (TryCures(state, running, guests, stop))
                Say(told);
            foreach (var scene in scenes)
                Run(state, scene, running, guests.GetValueOrDefault(scene.Name), SceneRuns.Settles, stop);
            Settled = true;
            Say(told);
        }
        catch (OperationCanceledException)
        {
            // What was found so far stays, and is gone on with when somebody asks again.
        }
        finally
        {
            (Running, Now) = (false, null);
            Version++;
        }
    }

    private void Say(Action told)
    {
        Version++;
        told();
    }

    private void Run(RigState state, SceneNode scene, RigProgram[] running, GuestFinder? guests, int runs, CancellationToken stop)
    {
        stop.ThrowIfCancellationRequested();
        var counts = state.Known.Counting.Contains(scene.Name);
        Now = scene.Name;
        var before = Progress.Done;
        SceneRuns found;
        try
        {
            var cover = covers.GetValueOrDefault(scene.Name);
            var done = cover?.Done?.Results.Count ?? 0;
            if (done >= runs)
                return;
            var plan = BenchPlan.Build(state.Bench, scene, guests);
            (found, cover) = Tries.Scene(
                plan,
                running,
                counts,
                runs,
                n => Progress = (before + n - done, Progress.Of),
                1,
                stop,
                null,
                cover
            );
            // What was stopped in the middle is begun anew: what it did is counted run by run.
            if (stop.IsCancellationRequested)
            {
                covers.Remove(scene.Name);
                stop.ThrowIfCancellationRequested();
            }
            covers[scene.Name] = cover;
        }
        catch (InputProblem hindered)
        {
            found = new(scene.Name, counts, false, 0, 0, [], []) { Cannot = hindered.Message };
        }
        lock (gate)
            ran[scene.Name] = found;
    }

    // Every cure of what is above advice: does it cure, does nothing worse come, and do more runs pass?
    private bool TryCures(RigState state, RigProgram[] running, IReadOnlyDictionary<string, GuestFinder?> guests, CancellationToken stop)
    {
        var counting = covers.Keys.FirstOrDefault(k => state.Known.Counting.Contains(k) && ran[k] is { Asks: true, Runs: > 0 });
        if (counting is null || state.Report().Findings is not { } findings)
            return false;
        var any = false;
        foreach (var finding in findings.Where(f => f.Cure is not null && f.Severity <= Severity.Risky))
        {
            stop.ThrowIfCancellationRequested();
            if (cures.ContainsKey(finding.Key))
                continue;
            Now = finding.Cure!.Label;
            var text = state.Design.ProgramAt(finding.Program);
            var design = state.Design.WithProgram(finding.Program, text with { Script = finding.Cure.On(text.Script) });
            var report = Report.Of(
                design,
                state.Motion,
                state.Moves,
                state.Calibrations,
                state.Ages,
                RigPrograms.Of(design),
                null,
                null,
                new() { Scenes = [.. state.Scenes.Where(s => s.Diagnostics.Count == 0).Select(s => s.Scene)] }
            );
            var stays =
                report.Findings is not { } after
                || after.Any(f => f.Code == finding.Code && f.Owner == finding.Owner && f.Headline == finding.Headline)
                || after.Any(f => f.Severity < finding.Severity && findings.All(b => b.Code != f.Code));
            CureRuns? came = null;
            try
            {
                var scene = state.Scene(counting);
                var plan = BenchPlan.Build(state.Bench with { Rig = design }, scene, guests.GetValueOrDefault(counting));
                came = Tries.Cured(plan, covers[counting].Done!, SceneRuns.First, 1, stop);
            }
            catch (InputProblem)
            {
                // It makes what cannot be run: that is no cure.
                stays = true;
            }
            if (came is null && !stays)
                continue;
            lock (gate)
                cures[finding.Key] = (came ?? new(0, 0, 0, true)) with { Worse = stays || came!.Worse };
            any = true;
        }
        return any;
    }
}
