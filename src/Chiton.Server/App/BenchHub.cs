using System.Collections.Concurrent;
using System.Runtime.CompilerServices;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Chiton.Core.Simulation;
using Chiton.Data;
using Microsoft.AspNetCore.SignalR;

namespace Chiton.Server.App;

/// <summary>What the server tells pages that are open.</summary>
public interface IBenchPage
{
    /// <summary>A job went on.</summary>
    Task Progress(JobProgress progress);

    /// <summary>A rig was changed by anyone.</summary>
    Task Changed(RigChange change);

    /// <summary>The success rate of a rig's copy is known.</summary>
    Task Rate(string rig, int copy);
}

/// <summary>How far a job is.</summary>
/// <param name="Job">The job's name, given by the page that began it.</param>
/// <param name="Done">Runs or readings done.</param>
/// <param name="Total">Of how many.</param>
/// <param name="Passed">Runs that passed so far; 0 for recordings.</param>
/// <param name="RemainingS">Seconds left, estimated; null while unknown.</param>
/// <param name="Readings">Readings taken since the last message, for recordings.</param>
public sealed record JobProgress(string Job, int Done, int Total, int Passed, double? RemainingS, IReadOnlyList<double>? Readings);

/// <summary>A rig was changed.</summary>
/// <param name="Rig">Address of the rig.</param>
/// <param name="Revision">Its current revision.</param>
/// <param name="What">What changed, in words.</param>
/// <param name="By">The page that did it, so that it need not be told twice.</param>
public sealed record RigChange(string Rig, int Revision, string What, string? By);

/// <summary>A live reading.</summary>
/// <param name="Reading">The reading; null when it hears nothing or gives nothing.</param>
/// <param name="Zone">The zone it lies in; null when in none.</param>
/// <param name="All">Red, green and blue for a sensor of colour; null for others.</param>
/// <param name="Word">What it says, for a sensor that names colours; null for others.</param>
public sealed record LiveReading(double? Reading, string? Zone, double[]? All = null, string? Word = null);

/// <summary>Progress, changes and live readings.</summary>
public sealed class BenchHub(RigStore store) : Hub<IBenchPage>
{
    /// <summary>Begins to hear of a rig.</summary>
    public Task Follow(string rig) => Groups.AddToGroupAsync(Context.ConnectionId, "rig:" + rig);

    /// <summary>Live readings of a sensor on the simulated controller, five a second, while it is held over something.</summary>
    /// <param name="rig">Address of the rig.</param>
    /// <param name="copy">Copy number.</param>
    /// <param name="sensor">Sensor name.</param>
    /// <param name="over">What it is held over.</param>
    /// <param name="amount">How far, how hard or how deep; null where that means nothing.</param>
    /// <param name="cancel">Ends it.</param>
    public async IAsyncEnumerable<LiveReading> Live(
        string rig,
        int copy,
        string sensor,
        string over,
        double? amount,
        [EnumeratorCancellation] CancellationToken cancel
    )
    {
        var state = await store.Load(rig, copy, null, cancel);
        // What is on a table has no live value here.
        if (state.Unit.Kind == UnitKind.Real)
            yield break;
        if (state.Design.Sensors.FirstOrDefault(s => s.Name == sensor) is not { } device)
            yield break;
        var (things, recording) = await store.Copies.Bench(state, device, false, cancel);
        if (!things.TryGetValue(over, out var thing))
            yield break;
        var zones = ZoneReader.Of(device, state.Calibrations.GetValueOrDefault(sensor));
        var held = new SimulatedSensor(
            device,
            thing,
            amount is { } a && double.IsFinite(a) ? a : 0,
            BenchCare.AsItIs,
            new((ulong)recording, 9)
        );
        while (!cancel.IsCancellationRequested)
        {
            var reading = new double[held.Width];
            held.Read(reading);
            double? first = double.IsNaN(reading[0]) ? null : reading[0];
            yield return new(
                first,
                zones.Zone(reading),
                held.Width == 3 ? reading : null,
                device.Kind == SensorKind.ColourName && first is { } word ? SenseJudge.ColourWords[(int)word] : null
            );
            await Task.Delay(200, cancel);
        }
    }
}
