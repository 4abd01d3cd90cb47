using Chiton.Core.Proving;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Simulation;
using Chiton.Data;
using Chiton.Server.App;

namespace Chiton.Server.Parts;

/// <summary>Runs once.</summary>
/// <param name="Seed">Seed of the run, a whole number from 0.</param>
/// <param name="Copy">Copy number; null for the first.</param>
/// <param name="Revision">Revision number; null for the current one.</param>
/// <param name="DurationS">Longest time, s, up to 600; null for as long as the goals need.</param>
/// <param name="Faults">Disturbances.</param>
/// <param name="RateHz">Samples a second of the signals, 1 to 500; null for 50.</param>
/// <param name="Job">A name by which the run can be stopped.</param>
public sealed record RunRequest(
    double? Seed,
    int? Copy,
    int? Revision,
    double? DurationS,
    IReadOnlyList<Fault>? Faults,
    double? RateHz,
    string? Job = null
);

/// <summary>The line, to draw it.</summary>
public sealed record TrackView(double LengthMm, double VehicleLengthMm, double EyeAheadMm, IReadOnlyList<MarkerOnTrack> Markers);

/// <summary>A marker on the line.</summary>
public sealed record MarkerOnTrack(string Name, string Surface, double AtMm, double LengthMm);

/// <summary>What a run came to, without what is told beside it.</summary>
/// <param name="Seed">Its seed.</param>
/// <param name="Passed">Whether it passed.</param>
/// <param name="EndS">When it ended, s.</param>
/// <param name="Failure">Why it failed; null when it passed.</param>
/// <param name="Say">The whole in a sentence or two.</param>
/// <param name="States">Stretches of time in the states of the first region.</param>
/// <param name="Sensors">What the sensors read.</param>
/// <param name="Outputs">What was commanded, shown and sounded.</param>
/// <param name="Draws">The numbers drawn for it.</param>
public sealed record RunStory(
    long Seed,
    bool Passed,
    double EndS,
    RunFailure? Failure,
    string Say,
    IReadOnlyList<StateStretch> States,
    IReadOnlyList<SensorTrace> Sensors,
    IReadOnlyList<RunOutput> Outputs,
    IReadOnlyList<DrawnNumber> Draws
);

/// <summary>A run, watched.</summary>
/// <param name="Outcome">pass or fail.</param>
/// <param name="Number">The run's number.</param>
/// <param name="Revision">Revision that ran.</param>
/// <param name="Copy">Copy it ran on.</param>
/// <param name="Current">Whether that is still what would run now.</param>
/// <param name="Track">The line.</param>
/// <param name="Report">What it came to.</param>
/// <param name="Events">Every transition, explained.</param>
/// <param name="Signals">Signals at the chosen rate.</param>
public sealed record RunView(
    string Outcome,
    long Number,
    int Revision,
    int Copy,
    bool Current,
    TrackView Track,
    RunStory Report,
    IReadOnlyList<RunEvent> Events,
    RunSignals Signals
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
    }

    /// <summary>Checks a seed.</summary>
    public static long Seed(Require need, double? seed)
    {
        need.That(
            seed is { } s && double.IsFinite(s) && s >= 0 && s <= 9e15 && Math.Floor(s) == s,
            "seed",
            "Must be a whole number from 0 to 9000000000000000."
        );
        return need.Holds ? (long)seed!.Value : 0;
    }

    private static async Task<RunView> Run(string id, RunRequest request, RigStore store, Jobs jobs, CancellationToken cancel)
    {
        var need = new Require();
        var seed = Seed(need, request.Seed);
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
        need.Done();
        var state = await store.Load(id, request.Copy, request.Revision, cancel);
        string[] disturbed =
        [
            .. state
                .Design.Devices.Where(d => d is Sensor { Kind: SensorKind.ReflectedLight } or Actuator { Kind: ActuatorKind.PlainMotor })
                .Select(d => d.Name),
        ];
        for (var i = 0; i < faults.Count; i++)
            need.That(
                faults[i].Kind == FaultKind.FlatBattery || disturbed.Contains(faults[i].Device),
                $"faults[{i}].device",
                $"Must be a sensor or motor of this rig: {string.Join(", ", disturbed)}."
            );
        need.Done();
        var setup = state.Setup();
        var longest = duration ?? Prover.Horizon(setup);
        var report = await jobs.Run(
            WorkKind.Quick,
            request.Job,
            Limits.RunWork,
            stop => RunReport.Watch(setup, seed, longest, rate, faults, stop),
            cancel
        );
        var view = View(state, report, 0, true);
        var number = await store.Runs.KeepRun(state, report, longest, faults, Kept(view), cancel);
        return view with { Number = number };
    }

    // As it is kept and shown again: at 50 samples a second, packed.
    private static byte[] Kept(RunView view)
    {
        var every = Math.Max(1, (int)Math.Round(view.Signals.RateHz / 50));
        double[] Thin(IReadOnlyList<double> all) => [.. all.Where((_, i) => i % every == 0)];
        var s = view.Signals;
        return Documents.PackJson(
            view with
            {
                Signals = new(
                    s.RateHz / every,
                    Thin(s.TimeS),
                    Thin(s.PositionMm),
                    Thin(s.SpeedMmPerS),
                    Thin(s.PowerPercent),
                    Thin(s.BatteryV)
                ),
            }
        );
    }

    private static async Task<LatestRun> Latest(string id, int? copy, RigStore store, CancellationToken cancel)
    {
        var now = await store.Load(id, copy, null, cancel);
        if (await store.Runs.LatestRun(id, now.Copy, cancel) is not { } row)
            return new(null);
        // A run of an earlier version was kept as its seed alone.
        if (row.Report is null)
            return new(null);
        var view = Documents.UnpackJson<RunView>(row.Report);
        return new(view with { Number = row.Id, Current = row.Inputs == now.Inputs });
    }

    // A step of the bench is 2 ms; what is finer than its instruments is not sent.
    private static IReadOnlyList<double> Round(IReadOnlyList<double> values, int digits) => [.. values.Select(v => Math.Round(v, digits))];

    private static RunView View(RigState state, RunReport report, long number, bool current) =>
        new(
            report.Passed ? "pass" : "fail",
            number,
            state.Revision,
            state.Copy,
            current,
            new(
                state.Design.Rail!.LengthMm,
                state.Design.Vehicle!.LengthMm?.Value ?? 120,
                state.Design.Eyes.FirstOrDefault()?.AheadMm.Value ?? 0,
                [.. state.Design.Rail!.Markers.Select(m => new MarkerOnTrack(m.Name, m.Surface, m.AtMm, m.LengthMm.Value))]
            ),
            new(
                report.Seed,
                report.Passed,
                report.EndS,
                report.Failure,
                report.Say,
                report.States,
                [.. report.Sensors.Select(t => t with { TimeS = Round(t.TimeS, 4) })],
                report.Outputs,
                report.Draws
            ),
            report.Events,
            new(
                report.Signals.RateHz,
                Round(report.Signals.TimeS, 3),
                Round(report.Signals.PositionMm, 2),
                Round(report.Signals.SpeedMmPerS, 1),
                Round(report.Signals.PowerPercent, 1),
                Round(report.Signals.BatteryV, 3)
            )
        );
}
