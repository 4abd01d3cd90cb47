using System.Diagnostics;
using System.Threading.Channels;
using Chiton.Core.Programs.Outside;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Server.App.Lines;

/// <summary>What a real thing was told in a trial, and what it counted.</summary>
/// <param name="Told">The orders, as the line says them.</param>
/// <param name="TookS">From the counted order until it was done, s; null where nothing was waited for.</param>
/// <param name="Figure">What it counted, in the motion's unit; null where somebody has to measure.</param>
/// <param name="Say">What happened, in a sentence.</param>
/// <param name="FromBox">True when a stand-in box was told.</param>
public sealed record TrialTold(string Told, double? TookS, double? Figure, string Say, bool FromBox);

/// <summary>Trials and preflight over a line.</summary>
public static class LineTrial
{
    /// <summary>Tells a trial and waits for it.</summary>
    /// <param name="line">The line.</param>
    /// <param name="rig">The rig.</param>
    /// <param name="trial">The trial.</param>
    /// <param name="stop">Stops it, and what moves.</param>
    /// <exception cref="InputProblem">When it cannot be told, the board refuses, or it was stopped.</exception>
    /// <exception cref="LineBroke">When the plug comes out: whether anything moved is for somebody to see.</exception>
    public static async Task<TrialTold> Tell(Line line, RigDesign rig, BoxTrial trial, CancellationToken stop)
    {
        if (trial.Why != "")
            throw new InputProblem("key", trial.Why);
        var ended = Channel.CreateUnbounded<BoxMessage>();
        var own = rig.Mechanisms.FirstOrDefault(m => m.Name == trial.Device)?.Motors.Append(trial.Device).ToHashSet() ?? [trial.Device];
        (double Deg, long Micros)? encoder = null;
        void Came(BoxMessage message)
        {
            switch (message)
            {
                case BoxDone d when own.Contains(d.Name):
                case BoxStalls s when own.Contains(s.Name):
                case BoxGivesUp g when own.Contains(g.Name):
                    ended.Writer.TryWrite(message);
                    break;
                case BoxReading { Values.Count: 1 } r when trial.Encoders.Count > 0 && r.Name == trial.Encoders[0]:
                    encoder = (r.Values[0], r.Micros);
                    break;
            }
        }
        var (box, end) = (line.Look((w, _) => w.Hello?.StandIn == true), line.End);
        using var over = CancellationTokenSource.CreateLinkedTokenSource(stop, end.Token);
        var (moving, said) = (false, "");
        double? took = null;
        (double, long)? before = null,
            after = null;
        IAsyncDisposable? counting = null;
        using var listening = line.Listen(Came);
        try
        {
            if (trial.Counts is BoxCounts.Speed or BoxCounts.Moved)
            {
                counting = await line.Want(trial.Encoders[0], over.Token);
                await Until(() => encoder is not null, over.Token);
            }
            foreach (var step in trial.Steps)
            {
                while (ended.Reader.TryRead(out _)) { }
                var watch = Stopwatch.StartNew();
                if (step.Counted)
                    before = encoder;
                if (step.Do is { } order)
                {
                    if (await line.Say(order, over.Token) is { } no)
                        throw new InputProblem("key", $"The board refuses “{order}”: {no}");
                    moving = order.Verb is not ("stop" or "brake" or "coast" or "hold");
                }
                if (step.Seconds is { } s)
                    await Task.Delay(TimeSpan.FromSeconds(s), over.Token);
                else
                {
                    using var most = CancellationTokenSource.CreateLinkedTokenSource(over.Token);
                    most.CancelAfter(TimeSpan.FromSeconds(BoxTrial.MostS));
                    try
                    {
                        said = await ended.Reader.ReadAsync(most.Token) switch
                        {
                            BoxStalls => $"{trial.Device} stalled.",
                            BoxGivesUp => $"{trial.Device} gave up.",
                            _ => said,
                        };
                        moving = false;
                    }
                    catch (OperationCanceledException) when (!over.IsCancellationRequested)
                    {
                        throw new InputProblem(
                            "key",
                            $"{trial.Device} was told, and did not say that it was done within {BoxTrial.MostS:0} s."
                        );
                    }
                }
                if (step.Counted)
                    (took, after) = (watch.Elapsed.TotalSeconds, encoder);
            }
            var figure = BoxTrial.Figure(trial.Counts, took, before, after);
            return new(
                trial.Told,
                took is { } t ? Math.Round(t, 2) : null,
                figure,
                $"Told it: {trial.Told}. {said}{(said == "" ? "" : " ")}"
                    + (figure is null ? "Measure what it did." : "It was counted; look whether that can be."),
                box
            );
        }
        catch (OperationCanceledException) when (end.Came)
        {
            throw new LineBroke(
                $"{end.Why.TrimEnd('.')} after it was told “{trial.Told}”. What it did is for you to see; nothing was kept."
            );
        }
        catch (OperationCanceledException)
        {
            throw new InputProblem("key", "It was stopped.");
        }
        finally
        {
            if (moving)
                await Quietly(line, new BoxOrder(trial.Device, "stop", null, "", null, "", null, ""));
            if (counting is not null)
                await counting.DisposeAsync();
        }
    }

    private static async Task Quietly(Line line, BoxMessage message)
    {
        try
        {
            await line.Say(message, CancellationToken.None);
        }
        catch (LineBroke)
        {
            // It cannot be told any more.
        }
    }

    private static async Task Until(Func<bool> there, CancellationToken stop)
    {
        for (var i = 0; i < 40 && !there(); i++)
            await Task.Delay(25, stop);
    }

    /// <summary>Does for preflight what can be done from here, and looks at what the board can tell.</summary>
    /// <param name="line">The line.</param>
    /// <param name="rig">The rig.</param>
    /// <param name="device">The device; empty for the pack.</param>
    /// <param name="action">What to do.</param>
    /// <param name="stop">Stops it.</param>
    /// <returns>What was seen; null where somebody has to look.</returns>
    /// <exception cref="InputProblem">When there is no such device, or the board refuses.</exception>
    /// <exception cref="LineBroke">When the plug comes out.</exception>
    public static async Task<Seen?> Try(Line line, RigDesign rig, string device, PreflightAction action, CancellationToken stop)
    {
        var end = line.End;
        using var over = CancellationTokenSource.CreateLinkedTokenSource(stop, end.Token);
        try
        {
            return await TryUntil(line, rig, device, action, over.Token);
        }
        catch (Exception e) when (end.Came && e is OperationCanceledException or InputProblem)
        {
            throw new LineBroke($"{end.Why} What it did is for you to see.");
        }
    }

    private static async Task<Seen?> TryUntil(Line line, RigDesign rig, string device, PreflightAction action, CancellationToken stop)
    {
        if (action == PreflightAction.Battery)
        {
            var rest = await Volts(line, stop);
            string[] motors = [.. rig.Actuators.Where(a => a.Turns).Select(a => a.Name)];
            try
            {
                foreach (var motor in motors)
                    await line.Say(new BoxOrder(motor, "run", 30, "%", null, "", null, ""), stop);
                await Task.Delay(500, stop);
                return new("", action, RestV: rest, LoadV: Math.Min(rest, await Volts(line, stop)));
            }
            finally
            {
                foreach (var motor in motors)
                    await Quietly(line, new BoxOrder(motor, "stop", null, "", null, "", null, ""));
            }
        }
        switch (rig.Find(device))
        {
            case null:
                throw new InputProblem("device", $"There is no device “{device}”.");
            case Sensor sensor when action == PreflightAction.Read:
            {
                var made = await LineRecording.Make(line, sensor, 5, 100_000, _ => Task.CompletedTask, stop);
                if (made.Broke != "")
                    throw new LineBroke(made.Broke);
                var still = made.Times.Count(t => t - made.Times[0] < ReadingChange.StillS * 1e6);
                return ReadingChange.Found(sensor, made.Readings, still)
                    ? new(device, action, [device], SeenWay.Forward)
                    : new(device, action);
            }
            case Actuator a when action == PreflightAction.Move:
            {
                var order =
                    a.Turns ? new BoxOrder(a.Name, "run", 30, "%", null, "", 1, "")
                    : a.Kind == ActuatorKind.Lamp ? new BoxOrder(a.Name, "on", null, "", null, "", 1, "")
                    : a.Kind == ActuatorKind.Sounder ? new BoxOrder(a.Name, "beep", 880, "Hz", null, "", null, "")
                    : new BoxOrder(a.Name, "show", null, "", null, "", null, "hello");
                if (await line.Say(order, stop) is { } no)
                    throw new InputProblem("device", $"The board refuses “{order}”: {no}");
                await Task.Delay(1000, stop);
                if (a.Kind == ActuatorKind.Lamp)
                    await Quietly(line, new BoxOrder(a.Name, "off", null, "", null, "", null, ""));
                return null;
            }
            default:
                throw new InputProblem("action", "Over the line a sensor is read, and an actuator moved. Ports are tried by hand.");
        }
    }

    private static async Task<double> Volts(Line line, CancellationToken stop)
    {
        double? volts = null;
        using (line.Listen(m => volts = (m as BoxBattery)?.Volts ?? volts))
            if (await line.Say(new BoxAsk("battery"), stop) is { } no)
                throw new InputProblem("device", $"The board does not know what its pack gives: {no}");
        return volts is > 0 and var v
            ? v
            : throw new InputProblem("device", "The board did not say what its pack gives. Measure it, and type it.");
    }
}
