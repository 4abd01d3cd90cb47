using Chiton.Core.Proving;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Simulation;
using Chiton.Core.Simulation.Scenes;
using Chiton.Data;
using Chiton.Server.App;
using Chiton.Server.App.Room;

namespace Chiton.Server.Parts;

/// <summary>A number that is held in a run, whatever was drawn.</summary>
/// <param name="Name">Its name among those drawn.</param>
/// <param name="Value">The value, in its own unit.</param>
public sealed record HeldNumber(string? Name, double? Value);

/// <summary>Runs once.</summary>
/// <param name="Seed">Seed of the run, a whole number from 0.</param>
/// <param name="Copy">Copy number; null for the first.</param>
/// <param name="Revision">Revision number; null for the current one.</param>
/// <param name="DurationS">Longest time, s, up to 600; null as the scene says.</param>
/// <param name="Faults">Disturbances beside those of the scene.</param>
/// <param name="RateHz">Samples a second of what moves, 1 to 500; null for 50.</param>
/// <param name="Job">A name by which the run can be stopped.</param>
/// <param name="Scene">Name of the scene; null for the one that counts.</param>
/// <param name="Held">Numbers that are held at a value: what if they were so.</param>
/// <param name="CopySeed">Seed of the made-up copy, as a proof names it; null for one of the run's own, −1 for best values.</param>
/// <param name="Numbers">Numbers of the program at other values, to try them.</param>
/// <param name="Program">Which program those are of, by its place; null for the one that runs.</param>
public sealed record RunRequest(
    double? Seed,
    int? Copy,
    int? Revision,
    double? DurationS,
    IReadOnlyList<Fault>? Faults,
    double? RateHz,
    string? Job = null,
    string? Scene = null,
    IReadOnlyList<HeldNumber>? Held = null,
    double? CopySeed = null,
    IReadOnlyList<TunedNumber>? Numbers = null,
    int? Program = null
);

/// <summary>Signals of a watched run, sampled at one rate.</summary>
/// <param name="RateHz">Samples a second.</param>
/// <param name="TimeS">Times, s.</param>
/// <param name="Bodies">What moves, sample by sample; what comes along a belt has samples from when it came.</param>
/// <param name="BatteryV">Battery under load, V.</param>
public sealed record RunSignals(
    double RateHz,
    IReadOnlyList<double> TimeS,
    IReadOnlyList<BenchBody> Bodies,
    IReadOnlyList<double> BatteryV
);

/// <summary>What a run came to, without what is told beside it.</summary>
/// <param name="Seed">Its seed.</param>
/// <param name="Passed">Whether it passed.</param>
/// <param name="DecidedS">When that was decided, s.</param>
/// <param name="EndS">When it ended, s.</param>
/// <param name="Failure">Why it failed; null when it passed.</param>
/// <param name="Say">The whole in a sentence or two.</param>
/// <param name="States">States of each region over time.</param>
/// <param name="Sensors">What the sensors read.</param>
/// <param name="Outputs">What was commanded, shown and sounded.</param>
/// <param name="Happenings">Lines of the scene at work.</param>
/// <param name="Messages">What programs told each other.</param>
/// <param name="Notes">What happened to bodies.</param>
/// <param name="Draws">The numbers drawn for it.</param>
/// <param name="Rules">Goals and nevers, and why one cannot be judged.</param>
public sealed record RunStory(
    long Seed,
    bool Passed,
    double DecidedS,
    double EndS,
    BenchFailure? Failure,
    string Say,
    IReadOnlyList<BenchStates> States,
    IReadOnlyList<SensorTrace> Sensors,
    IReadOnlyList<RunOutput> Outputs,
    IReadOnlyList<BenchHappening> Happenings,
    IReadOnlyList<BenchMessage> Messages,
    IReadOnlyList<BenchNote> Notes,
    IReadOnlyList<DrawnNumber> Draws,
    IReadOnlyList<BenchAsked> Rules
);

/// <summary>A run, watched.</summary>
/// <param name="Outcome">pass or fail.</param>
/// <param name="Score">Points, where the scene gives any.</param>
/// <param name="Number">The run's number.</param>
/// <param name="Revision">Revision that ran.</param>
/// <param name="Copy">Copy it ran on.</param>
/// <param name="Current">Whether that is still what would run now.</param>
/// <param name="Scene">The scene it ran in.</param>
/// <param name="Plan">Its place, to draw it.</param>
/// <param name="Report">What it came to.</param>
/// <param name="Events">Every transition, explained.</param>
/// <param name="Signals">What moves, at the chosen rate.</param>
/// <param name="Held">Numbers that were held.</param>
/// <param name="CopySeed">Seed of the made-up copy; null for one of the run's own.</param>
/// <param name="Tried">Lines of the program that were other than they stand, for a try; null for a run of what stands.</param>
public sealed record RunView(
    string Outcome,
    double Score,
    long Number,
    int Revision,
    int Copy,
    bool Current,
    string Scene,
    ScenePlan Plan,
    RunStory Report,
    IReadOnlyList<BenchEvent> Events,
    RunSignals Signals,
    IReadOnlyList<HeldNumber> Held,
    long? CopySeed = null,
    IReadOnlyList<string>? Tried = null
);

/// <summary>The latest run, if there was one.</summary>
public sealed record LatestRun(RunView? Run);

/// <summary>One run, watched.</summary>
public static class SimulateEndpoints
{
    /// <summary>Maps the calls.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var runs = api.MapGroup("/rigs/{id}/runs").WithTags("Simulate");
        runs.MapPost("", Run).WithName("run").ProducesValidationProblem().ProducesProblem(404).ProducesProblem(409).ProducesProblem(503);
        runs.MapGet("/latest", Latest).WithName("getLatestRun").ProducesProblem(404);
        runs.MapGet("/{number:long}/export", Export)
            .WithName("exportRun")
            .Produces(200, contentType: "text/csv")
            .ProducesValidationProblem()
            .ProducesProblem(404);
    }

    private static async Task<RunView> Run(string id, RunRequest request, RigStore store, OwnJobs jobs, CancellationToken cancel)
    {
        var need = new Require();
        var seed = RunInput.Seed(need, request.Seed);
        var rate = need.Number(request.RateHz ?? 50, "rateHz", 1, 500);
        var duration = need.Optional(request.DurationS, "durationS", 0, Prover.MostSeconds, aboveMin: true);
        var faults = request.Faults ?? [];
        need.That(faults.Count <= Limits.MostFaults, "faults", $"At most {Limits.MostFaults} disturbances.");
        for (var i = 0; i < Math.Min(faults.Count, Limits.MostFaults); i++)
        {
            need.That(faults[i] is not null, $"faults[{i}]", "Give a disturbance.");
            if (faults[i] is null)
                continue;
            need.Number(faults[i].FromS, $"faults[{i}].fromS", 0, Prover.MostSeconds);
            need.Optional(faults[i].ToS, $"faults[{i}].toS", faults[i].FromS, Prover.MostSeconds);
        }
        var held = request.Held ?? [];
        need.That(
            request.CopySeed is not { } made || double.IsFinite(made) && made is >= -1 and <= 9e15 && Math.Floor(made) == made,
            "copySeed",
            "Must be a whole number from 0 to 9000000000000000, or −1 for best values."
        );
        need.That(held.Count <= 50, "held", "At most 50 numbers can be held.");
        need.Done();
        var state = await store.Load(id, request.Copy, request.Revision, cancel);
        string[] disturbed =
        [
            .. state.Design.Sensors.Select(d => d.Name),
            .. state.Design.Actuators.Where(a => a.Turns).Select(a => a.Name),
        ];
        for (var i = 0; i < faults.Count; i++)
            need.That(
                faults[i].Kind == FaultKind.FlatBattery || disturbed.Contains(faults[i].Device),
                $"faults[{i}].device",
                $"Must be a sensor or motor of this rig: {string.Join(", ", disturbed)}."
            );
        need.Done();
        var scene = state.Scene(request.Scene);
        if (faults.Count > 0 || duration is not null)
        {
            var volts = state.Design.Power is { } p ? p.Cells * p.VoltsPerCell : 6;
            scene = SceneParser.Parse(SceneStarts.With(ScenePrinter.Print(scene), faults, duration, volts), state.Design).Scene;
        }
        var guests = await RunInput.Guests(store, state, scene, cancel);
        IReadOnlyList<string>? tried = null;
        BenchPlan plan;
        if (request.Numbers is { Count: > 0 } numbers)
        {
            need.That(
                numbers.Count <= Tuner.MostNumbers && !numbers.Contains(null!),
                "numbers",
                $"Give at most {Tuner.MostNumbers} numbers."
            );
            need.Done();
            (var rig, tried) = TuneEndpoints.With(state, request.Program, numbers);
            plan = BenchPlan.Build(state.Bench with { Rig = rig }, scene, guests);
            // Its run is none of what stands.
            state = state with
            {
                Inputs = Documents.Hash($"{state.Inputs}\n{string.Join('\n', tried)}"),
            };
        }
        else
            plan = state.Plan(scene, guests);
        for (var i = 0; i < held.Count; i++)
        {
            var name = held[i]?.Name;
            need.That(plan.Draws.Any(d => d.Name == name), $"held[{i}].name", "There is no number of that name in this run.");
            need.Number(held[i]?.Value, $"held[{i}].value", -1e9, 1e9);
        }
        need.Done();
        var report = await jobs.Run(
            WorkKind.Quick,
            request.Job,
            Limits.RunWork,
            stop =>
                BenchReport.Watch(plan, seed, rate, stop, (long?)request.CopySeed, held.ToDictionary(h => h.Name!, h => h.Value!.Value)),
            cancel
        );
        var view = new RunView(
            report.Passed ? "pass" : "fail",
            report.Score,
            0,
            state.Revision,
            state.Copy,
            tried is null,
            scene.Name,
            ScenePlan.Of(report.Scene ?? scene, state.Design, state.Positions.ToDictionary(p => p.Key, p => p.Value.Angles)),
            new(
                report.Seed,
                report.Passed,
                report.DecidedS,
                report.EndS,
                report.Failure,
                report.Say,
                report.States,
                report.Sensors,
                report.Outputs,
                report.Happenings,
                report.Messages,
                report.Notes,
                report.Draws,
                report.Rules
            ),
            report.Events,
            new(report.RateHz, report.TimeS, report.Bodies, report.BatteryV),
            held,
            (long?)request.CopySeed,
            tried
        );
        var number = await store.Runs.KeepRun(state, report, plan.EndsS, faults, Documents.PackJson(Kept(view)), cancel);
        return view with { Number = number };
    }

    // As it is kept and shown again: at 50 samples a second.
    private static RunView Kept(RunView view)
    {
        var s = view.Signals;
        var every = Math.Max(1, (int)Math.Round(s.RateHz / 50));
        if (every == 1)
            return view;
        IReadOnlyList<T> Thin<T>(IReadOnlyList<T> all)
        {
            // What came later has samples from then on: those that stay are counted from the end's own grid.
            var first = s.TimeS.Count - all.Count;
            return [.. all.Where((_, i) => (i + first) % every == 0)];
        }
        return view with
        {
            Signals = new(
                s.RateHz / every,
                Thin(s.TimeS),
                [.. s.Bodies.Select(b => b with { X = Thin(b.X), Y = Thin(b.Y), Heading = Thin(b.Heading), Speed = Thin(b.Speed) })],
                Thin(s.BatteryV)
            ),
        };
    }

    private static async Task<LatestRun> Latest(string id, int? copy, RigStore store, CancellationToken cancel)
    {
        var now = await store.Load(id, copy, null, cancel);
        if (await store.Runs.LatestRun(id, now.Copy, cancel) is not { } row)
            return new(null);
        return new(View(row) is { } view ? view with { Number = row.Id, Current = row.Inputs == now.Inputs } : null);
    }

    // What was kept of a run; null where it was kept as its seed alone.
    private static RunView? View(RunRow row)
    {
        if (row.Report is null)
            return null;
        try
        {
            var view = Documents.UnpackJson<RunView>(row.Report);
            return view.Signals?.Bodies is null || view.Plan is null ? null : view;
        }
        catch (System.Text.Json.JsonException)
        {
            // One of a version that drew rails alone.
            return null;
        }
    }

    private static async Task<IResult> Export(string id, long number, string? @as, RigStore store, CancellationToken cancel)
    {
        if (@as is not ("csv" or "events" or "vcd"))
            throw new InputProblem("as", "Must be csv (samples), events (a CSV of what happened) or vcd (value changes).");
        if (await store.Runs.RunOf(id, number, cancel) is not { } row)
            throw new NotStored($"There is no run {number} of this rig.");
        if (View(row) is not { } view)
            throw new NotStored(
                $"Run {number} is kept as its seed alone, {row.Seed}, as the latest {RunStore.KeptRuns} of a copy are "
                    + "kept whole: run it again."
            );
        var r = view.Report;
        var s = view.Signals;
        var record = new RunRecord(
            s.TimeS,
            s.Bodies,
            s.BatteryV,
            view.Events,
            r.States,
            r.Sensors,
            r.Outputs,
            r.Messages,
            r.Happenings,
            r.Notes
        );
        var (text, kind, ending) = @as switch
        {
            "csv" => (RunExport.Samples(record), "text/csv", "csv"),
            "events" => (RunExport.Happened(record), "text/csv", "events.csv"),
            _ => (RunExport.Changes(record), "text/plain", "vcd"),
        };
        // A spreadsheet reads letters beyond ASCII right when the file says that it is UTF-8; a waveform viewer wants none of it.
        var mark = ending == "vcd" ? "" : "\uFEFF";
        return Results.File(System.Text.Encoding.UTF8.GetBytes(mark + text), kind, $"{id}-run-{number}.{ending}");
    }
}
