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
public sealed record RunRequest(double? Seed, int? Copy, int? Revision, double? DurationS, IReadOnlyList<Fault>? Faults, double? RateHz);

/// <summary>The line, to draw it.</summary>
public sealed record TrackView(double LengthMm, double VehicleLengthMm, double EyeAheadMm, IReadOnlyList<MarkerOnTrack> Markers);

/// <summary>A marker on the line.</summary>
public sealed record MarkerOnTrack(string Name, string Surface, double AtMm, double LengthMm);

/// <summary>A run, watched.</summary>
/// <param name="Outcome">pass or fail.</param>
/// <param name="Number">The run's number.</param>
/// <param name="Revision">Revision that ran.</param>
/// <param name="Copy">Copy it ran on.</param>
/// <param name="Current">Whether that is still what would run now.</param>
/// <param name="Track">The line.</param>
/// <param name="Report">What happened.</param>
public sealed record RunView(string Outcome, long Number, int Revision, int Copy, bool Current, TrackView Track, RunReport Report)
{
    /// <summary>Every transition, explained.</summary>
    public IReadOnlyList<RunEvent> Events => Report.Events;

    /// <summary>Signals at the chosen rate.</summary>
    public RunSignals Signals => Report.Signals;
}

/// <summary>The latest run, if there was one.</summary>
public sealed record LatestRun(RunView? Run);

/// <summary>One run, watched.</summary>
public static class SimulateEndpoints
{
    /// <summary>Maps the calls.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var runs = api.MapGroup("/rigs/{id}/runs").WithTags("Simulate");
        runs.MapPost("", Run).WithName("run").ProducesValidationProblem().ProducesProblem(404).RequireRateLimiting(Limits.LongWork);
        runs.MapGet("/latest", Latest).WithName("getLatestRun").ProducesProblem(404);
    }

    /// <summary>Checks a seed.</summary>
    public static long Seed(Require need, double? seed)
    {
        need.That(seed is { } s && double.IsFinite(s) && s >= 0 && s <= 9e15 && Math.Floor(s) == s, "seed", "Must be a whole number from 0 to 9000000000000000.");
        return need.Holds ? (long)seed!.Value : 0;
    }

    private static async Task<RunView> Run(string id, RunRequest request, RigStore store, CancellationToken cancel)
    {
        var need = new Require();
        var seed = Seed(need, request.Seed);
        var rate = need.Number(request.RateHz ?? 50, "rateHz", 1, 500);
        var duration = need.Optional(request.DurationS, "durationS", 0, Prover.MostSeconds, aboveMin: true);
        var faults = request.Faults ?? [];
        need.That(faults.Count <= Limits.MostFaults, "faults", $"At most {Limits.MostFaults} disturbances.");
        for (var i = 0; i < Math.Min(faults.Count, Limits.MostFaults); i++)
        {
            need.Number(faults[i].FromS, $"faults[{i}].fromS", 0, Prover.MostSeconds);
            need.Optional(faults[i].ToS, $"faults[{i}].toS", faults[i].FromS, Prover.MostSeconds);
        }
        need.Done();
        var state = await store.Load(id, request.Copy, request.Revision, null, cancel);
        for (var i = 0; i < faults.Count; i++)
            need.That(faults[i].Kind == FaultKind.FlatBattery || state.Design.Find(faults[i].Device ?? "") is Sensor { Kind: SensorKind.ReflectedLight } or Actuator { Kind: ActuatorKind.PlainMotor }, $"faults[{i}].device",
                $"Must be a sensor or motor of this rig: {string.Join(", ", state.Design.Devices.Where(d => d is Sensor { Kind: SensorKind.ReflectedLight } or Actuator { Kind: ActuatorKind.PlainMotor }).Select(d => d.Name))}.");
        need.Done();
        var setup = state.Setup();
        var longest = duration ?? Prover.Horizon(setup);
        var report = await Task.Run(() => RunReport.Watch(setup, seed, longest, rate, faults), cancel);
        var number = await store.KeepRun(state, report, longest, faults, cancel);
        return View(state, report, number, true);
    }

    private static async Task<LatestRun> Latest(string id, int? copy, RigStore store, CancellationToken cancel)
    {
        var now = await store.Load(id, copy, null, null, cancel);
        if (await store.LatestRun(id, now.Copy, cancel) is not { } row) return new(null);
        var calibrations = row.Calibrations == "" ? [] : row.Calibrations.Split(',').Select(long.Parse).ToArray();
        var then = await store.Load(id, now.Copy, row.Revision, calibrations, cancel);
        // The same inputs give the same run bit for bit, so its signals need not be stored.
        var setup = then.Setup();
        var report = await Task.Run(() => RunReport.Watch(setup, row.Seed, row.DurationS, 50, Documents.Read<List<Fault>>(row.Faults)), cancel);
        return new(View(then, report, row.Id, then.Inputs == now.Inputs));
    }

    private static RunView View(RigState state, RunReport report, long number, bool current) => new(
        report.Passed ? "pass" : "fail", number, state.Revision, state.Copy, current,
        new(state.Design.Rail!.LengthMm, state.Design.Vehicle!.LengthMm?.Value ?? 120, state.Design.Eyes.FirstOrDefault()?.AheadMm.Value ?? 0,
            [.. state.Design.Rail!.Markers.Select(m => new MarkerOnTrack(m.Name, m.Surface, m.AtMm, m.LengthMm.Value))]), report);
}
