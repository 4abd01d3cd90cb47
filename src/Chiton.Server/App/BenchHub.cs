using System.Collections.Concurrent;
using System.Runtime.CompilerServices;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Chiton.Core.Simulation;
using Chiton.Core.Simulation.Scenes;
using Chiton.Data;
using Chiton.Server.App.Room;
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

    /// <summary>The bench was tried for the checks of a rig's copy.</summary>
    Task Tried(string rig, int copy);

    /// <summary>The line of a rig's copy was joined, broke, or says something new.</summary>
    Task Line(string rig, int copy);

    /// <summary>Something of the room changed that this page may know of.</summary>
    Task Room();
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
public sealed class BenchHub(RigStore store, Plays plays, Caller caller, Presence presence, Lines.Lines lines) : Hub<IBenchPage>
{
    /// <summary>Begins to hear of a rig; of one that is not there nothing is ever heard.</summary>
    public async Task Follow(string rig)
    {
        if (caller.Team is { } team && await store.Owner(rig, Context.ConnectionAborted) != team)
            throw new NotYours();
        await Groups.AddToGroupAsync(Context.ConnectionId, "rig:" + rig);
    }

    /// <summary>Begins to hear of the room: the desk of all that goes on in it, others of what is theirs.</summary>
    public async Task FollowRoom()
    {
        foreach (var group in Presence.Groups(caller))
            await Groups.AddToGroupAsync(Context.ConnectionId, group);
    }

    /// <summary>Says in which part this page is, for the board.</summary>
    public void At(string part) => presence.At(caller, part);

    /// <summary>Live readings of a sensor on the simulated controller, five a second, while it is held over something.</summary>
    /// <param name="rig">Address of the rig.</param>
    /// <param name="copy">Copy number.</param>
    /// <param name="sensor">Sensor name.</param>
    /// <param name="over">What it is held over.</param>
    /// <param name="amount">How far, how hard or how deep; null where that means nothing.</param>
    /// <param name="cancel">Ends it.</param>
    public async Task<IAsyncEnumerable<LiveReading>> Live(
        string rig,
        int copy,
        string sensor,
        string over,
        double? amount,
        CancellationToken cancel
    )
    {
        var state = await store.Load(rig, copy, null, cancel);
        if (state.Design.Sensors.FirstOrDefault(s => s.Name == sensor) is not { } device)
            return AsyncEnumerable.Empty<LiveReading>();
        // What is on a table has a live value only over its line.
        if (state.Unit.Kind == UnitKind.Real)
            return lines.Of(rig, state.Copy) is { IsJoined: true } line
                ? OverLine(
                    ZoneReader.Of(device, state.Calibrations.GetValueOrDefault(sensor)),
                    device,
                    line,
                    presence.Stream(caller),
                    cancel
                )
                : AsyncEnumerable.Empty<LiveReading>();
        var (things, recording) = await store.Copies.Bench(state, device, false, cancel);
        if (!things.TryGetValue(over, out var thing))
            return AsyncEnumerable.Empty<LiveReading>();
        return Readings(
            ZoneReader.Of(device, state.Calibrations.GetValueOrDefault(sensor)),
            device,
            new(device, thing, amount is { } a && double.IsFinite(a) ? a : 0, BenchCare.AsItIs, new((ulong)recording, 9)),
            presence.Stream(caller),
            cancel
        );
    }

    private static async IAsyncEnumerable<LiveReading> Readings(
        ZoneReader zones,
        Sensor device,
        SimulatedSensor held,
        IDisposable stream,
        [EnumeratorCancellation] CancellationToken cancel
    )
    {
        using var holding = stream;
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

    // The latest of what came, five a second, until the plug comes out or the board is started anew.
    private static async IAsyncEnumerable<LiveReading> OverLine(
        ZoneReader zones,
        Sensor device,
        Lines.Line line,
        IDisposable stream,
        [EnumeratorCancellation] CancellationToken cancel
    )
    {
        using var holding = stream;
        IReadOnlyList<double>? latest = null;
        using var listening = line.Listen(m =>
        {
            if (m is Core.Programs.Outside.BoxReading r && r.Name == device.Name)
                latest = Lines.LineRecording.Numbers(device, r) ?? latest;
        });
        IAsyncDisposable wanting;
        var end = line.End;
        try
        {
            wanting = await line.Want(device.Name, cancel);
        }
        catch (Exception e) when (e is InputProblem or Lines.LineBroke)
        {
            // The page of the line says why.
            yield break;
        }
        await using var wanted = wanting;
        var (width, before) = (device.Facts.Width, (IReadOnlyList<double>?)null);
        while (!cancel.IsCancellationRequested && !end.Came)
        {
            var now = latest;
            if (now is not null && !ReferenceEquals(now, before))
            {
                before = now;
                double[] reading = now.Count == width ? [.. now] : [.. Enumerable.Repeat(double.NaN, width)];
                double? first = double.IsNaN(reading[0]) ? null : reading[0];
                yield return new(
                    first,
                    zones.Zone(reading),
                    width == 3 && first is not null ? reading : null,
                    device.Kind == SensorKind.ColourName && first is { } word ? SenseJudge.ColourWords[(int)word] : null
                );
            }
            await Task.Delay(200, cancel);
        }
    }

    // ---- playing ----

    // A refusal is an answer, in words; what was not expected is an error.
    private static string? Words(Exception e) =>
        e switch
        {
            InputProblem p => string.Join(' ', p.Errors.Values),
            TooBusy or NotStored or NotYours or TooMany => e.Message,
            _ => null,
        };

    /// <summary>Puts a rig on the bench and lets it run in real time, thirty moments a second, until its scene is over.</summary>
    /// <param name="rig">Address of the rig.</param>
    /// <param name="copy">Copy number.</param>
    /// <param name="scene">Name of the scene; null for the one that counts.</param>
    /// <param name="seed">Seed of the run.</param>
    /// <param name="cancel">Ends it.</param>
    public async IAsyncEnumerable<PlayFrame> Play(
        string rig,
        int copy,
        string? scene,
        double seed,
        [EnumeratorCancellation] CancellationToken cancel
    )
    {
        var page = Context.ConnectionId;
        Play? play = null;
        IDisposable? stream = null;
        ScenePlan? place = null;
        string? refused = null;
        try
        {
            stream = presence.Stream(caller);
            var need = new Require();
            var luck = RunInput.Seed(need, seed);
            need.Done();
            var state = await store.Load(rig, copy, null, cancel);
            var where = state.Scene(scene);
            play = new(state.Plan(where, await RunInput.Guests(store, state, where, cancel), true), luck);
            place = ScenePlan.Of(play.Scene, state.Design, state.Positions.ToDictionary(p => p.Key, p => p.Value.Angles));
            plays.Begin(page, play);
        }
        catch (Exception e) when (Words(e) is { } words)
        {
            refused = words;
        }
        using var playing = stream;
        if (play is null || refused is not null)
        {
            yield return new(null, null, null, 0, refused);
            yield break;
        }
        yield return new(place, play.About(), null, 1, null);
        var last = System.Diagnostics.Stopwatch.GetTimestamp();
        var due = last;
        var frameTicks = System.Diagnostics.Stopwatch.Frequency / 30;
        while (plays.Is(page, play))
        {
            var now = System.Diagnostics.Stopwatch.GetTimestamp();
            var frame = play.Frame(System.Diagnostics.Stopwatch.GetElapsedTime(last, now), cancel);
            last = now;
            if (frame is not null)
                yield return frame;
            // What was done stays known, to be kept; the page hears no more of it.
            if (frame?.Moment?.Ended == true)
                yield break;
            // By the clock, so that frames do not come late by what they cost; what was missed is not made up for.
            now = System.Diagnostics.Stopwatch.GetTimestamp();
            if (due <= now)
                due = Math.Max(due + frameTicks, now);
            await play.Wait(System.Diagnostics.Stopwatch.GetElapsedTime(now, due), cancel);
        }
    }

    private string? With(Action<Play> what)
    {
        try
        {
            what(plays.Of(Context.ConnectionId));
            return null;
        }
        catch (InputProblem e)
        {
            return Words(e);
        }
    }

    /// <summary>Begins to do something to the playing bench, or leaves off; says why where that is refused.</summary>
    public string? Do(int hand, bool begins, double? amount) => With(p => p.Do(hand, begins, amount));

    /// <summary>Sets how fast it goes, 0 to let it stand; says why where that is refused.</summary>
    public string? Pace(double pace) => With(p => p.Go(pace));

    /// <summary>Goes to the next transition; says why where that is refused.</summary>
    public string? StepOn() => With(p => p.StepOn());

    /// <summary>The scene with what was done, to be kept under a name; null where nothing plays.</summary>
    public string? Kept(string name)
    {
        string? text = null;
        With(p => text = p.Kept(name));
        return text;
    }

    /// <summary>Takes the rig off the bench.</summary>
    public void PutAway() => plays.End(Context.ConnectionId);

    /// <inheritdoc/>
    public override async Task OnConnectedAsync()
    {
        if (!presence.Come(Context, caller))
        {
            Context.Abort();
            return;
        }
        await base.OnConnectedAsync();
    }

    /// <inheritdoc/>
    public override Task OnDisconnectedAsync(Exception? exception)
    {
        presence.Go(Context.ConnectionId);
        plays.End(Context.ConnectionId);
        return base.OnDisconnectedAsync(exception);
    }
}
