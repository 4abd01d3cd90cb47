using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Simulation;
using Chiton.Data;
using Chiton.Server.App.Lines;

namespace Chiton.Server.Parts;

/// <summary>A line of the checklist.</summary>
public sealed record CheckItem(string Key, string Say, bool Done);

/// <summary>A fault that the simulated controller can be given.</summary>
public sealed record PlantableFault(BenchFaultKind Kind, string? Device, string? Other, string Say);

/// <summary>Preflight as it stands.</summary>
/// <param name="Checklist">What to look at before anything moves.</param>
/// <param name="Devices">Every device with what is known of it and what to do next.</param>
/// <param name="Faults">Faults that the observations prove.</param>
/// <param name="Pack">What the pack gave when it was last measured, in words; null before that.</param>
/// <param name="Last">What was seen last, in words; null before anything was tried.</param>
/// <param name="Planted">How many faults the simulated controller was given.</param>
/// <param name="Shown">Those faults in words, once they were asked for; null while they are hidden.</param>
/// <param name="CanPlant">Faults it can be given.</param>
/// <param name="Ready">True when everything is ticked, and every device, of which there is one at least, was seen to work.</param>
public sealed record PreflightView(
    IReadOnlyList<CheckItem> Checklist,
    IReadOnlyList<DeviceCheck> Devices,
    IReadOnlyList<PreflightFault> Faults,
    string? Pack,
    string? Last,
    int Planted,
    IReadOnlyList<string>? Shown,
    IReadOnlyList<PlantableFault> CanPlant,
    bool Ready
);

/// <summary>Ticks a line of the checklist.</summary>
public sealed record CheckRequest(int? Copy, string? Key, bool Done);

/// <summary>Says what was seen on the table.</summary>
public sealed record SeenRequest(int? Copy, SeenEntry? Seen);

/// <summary>What was seen of a device on the table, or of its pack.</summary>
/// <param name="Device">The device that was meant; empty for the pack.</param>
/// <param name="Action">What was done.</param>
/// <param name="Moved">Devices that moved, shone or sounded; of a sensor itself when its reading changed.</param>
/// <param name="Way">Which way the first of them moved.</param>
/// <param name="Weak">True when it moved weakly.</param>
/// <param name="Controller">Of a search the controller of the port that answered; null when none did.</param>
/// <param name="Port">That port.</param>
/// <param name="RestV">Of the pack: volts at rest.</param>
/// <param name="LoadV">Of the pack: volts with everything on.</param>
public sealed record SeenEntry(
    string? Device,
    PreflightAction Action,
    IReadOnlyList<string>? Moved,
    SeenWay? Way,
    bool? Weak,
    string? Controller,
    string? Port,
    double? RestV,
    double? LoadV
)
{
    internal Seen Seen =>
        new(Device ?? "", Action, (Moved ?? []).ToSequence(), Way ?? SeenWay.Nothing, Weak == true, Controller, Port, RestV, LoadV);
}

/// <summary>Tries something on the simulated controller.</summary>
public sealed record TryRequest(int? Copy, string? Device, PreflightAction Action);

/// <summary>Gives the simulated controller a fault; without a kind a random one, hidden.</summary>
public sealed record PlantRequest(int? Copy, BenchFaultKind? Kind, string? Device, string? Other);

/// <summary>Records that a motor is mounted the other way round.</summary>
public sealed record ReversedRequest(int BaseRevision, string? Device, bool Reversed, int? Copy, string? By);

/// <summary>Preflight: is it the motor, the wrong socket, or the sensor?</summary>
public static class PreflightEndpoints
{
    /// <summary>Most observations kept; the oldest go first.</summary>
    private const int MostSeen = 600;

    /// <summary>Maps the calls.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var flight = api.MapGroup("/rigs/{id}/preflight").WithTags("Preflight");
        flight
            .MapGet(
                "",
                async Task<PreflightView> (string id, int? copy, RigStore store, Lines lines, CancellationToken cancel) =>
                {
                    var state = await store.Load(id, copy, null, cancel);
                    return View(state, lines.Of(id, state.Copy), await store.Copies.Preflight(id, state.Copy, cancel));
                }
            )
            .WithName("getPreflight")
            .ProducesProblem(404);
        flight
            .MapPost(
                "/check",
                (string id, CheckRequest request, RigStore store, Lines lines, CancellationToken cancel) =>
                    Change(
                        id,
                        request.Copy,
                        store,
                        lines,
                        (_, now) =>
                        {
                            if (Core.Rigs.Preflight.Checklist.All(c => c.Key != request.Key))
                                throw new InputProblem(
                                    "key",
                                    $"Must be one of {string.Join(", ", Core.Rigs.Preflight.Checklist.Select(c => c.Key))}."
                                );
                            var rest = (now.Checked ?? []).Where(k => k != request.Key);
                            return now with { Checked = request.Done ? [.. rest, request.Key!] : [.. rest] };
                        },
                        cancel
                    )
            )
            .WithName("checkPreflight")
            .ProducesValidationProblem()
            .ProducesProblem(404);
        flight
            .MapPost(
                "/try",
                async Task<PreflightView> (string id, TryRequest request, RigStore store, Lines lines, CancellationToken cancel) =>
                {
                    if (lines.Of(id, (await store.Load(id, request.Copy, null, cancel)).Copy) is not null)
                        return await TryOverLine(id, request, store, lines, cancel);
                    return await Change(
                        id,
                        request.Copy,
                        store,
                        lines,
                        (rig, now) =>
                        {
                            var before = (now.Seen ?? []).Count(s => s.Device == (request.Device ?? "") && s.Action == request.Action);
                            var seen = new PreflightBench(rig, now.Planted ?? []).Try(request.Device ?? "", request.Action, before);
                            return now with { Seen = [.. (now.Seen ?? []).TakeLast(MostSeen), seen] };
                        },
                        cancel,
                        standIn: "tried"
                    );
                }
            )
            .WithName("tryPreflight")
            .ProducesValidationProblem()
            .ProducesProblem(404);
        flight
            .MapPost(
                "/seen",
                (string id, SeenRequest request, RigStore store, Lines lines, CancellationToken cancel) =>
                    Change(
                        id,
                        request.Copy,
                        store,
                        lines,
                        (rig, now) =>
                            now with
                            {
                                Seen = [.. (now.Seen ?? []).TakeLast(MostSeen), Core.Rigs.Preflight.ByHand(rig, request.Seen?.Seen)],
                            },
                        cancel
                    )
            )
            .WithName("seenPreflight")
            .ProducesValidationProblem()
            .ProducesProblem(404);
        flight
            .MapPost(
                "/plant",
                (string id, PlantRequest request, RigStore store, Lines lines, CancellationToken cancel) =>
                    Change(
                        id,
                        request.Copy,
                        store,
                        lines,
                        (rig, now) =>
                        {
                            var possible = PreflightBench.Possible(rig);
                            var fault = request.Kind is { } kind
                                ? possible.FirstOrDefault(p =>
                                    p.Kind == kind
                                    && (
                                        request.Device is null
                                        || p.Device == request.Device
                                        || p.Kind == BenchFaultKind.SwappedLeads && p.Other == request.Device
                                    )
                                    && (request.Other is null || p.Other == request.Other || p.Device == request.Other)
                                ) ?? throw new InputProblem("kind", "This rig cannot be given that fault.")
                                : possible[Random.Shared.Next(possible.Count)];
                            // A new exercise begins with nothing seen; the ticks of the checklist stay.
                            return now with { Planted = [fault], Seen = [], Shown = false };
                        },
                        cancel,
                        standIn: "planted"
                    )
            )
            .WithName("plantFault")
            .ProducesValidationProblem()
            .ProducesProblem(404);
        flight
            .MapPost(
                "/show",
                (string id, CopyRequest request, RigStore store, Lines lines, CancellationToken cancel) =>
                    Change(id, request.Copy, store, lines, (_, now) => now with { Shown = true }, cancel)
            )
            .WithName("showFaults")
            .ProducesProblem(404);
        flight
            .MapPost(
                "/start",
                (string id, CopyRequest request, RigStore store, Lines lines, CancellationToken cancel) =>
                    Change(id, request.Copy, store, lines, (_, _) => new(), cancel)
            )
            .WithName("startPreflight")
            .ProducesProblem(404);
        flight
            .MapPost(
                "/reversed",
                async Task<Edited> (string id, ReversedRequest request, RigStore store, Announcer announce, CancellationToken cancel) =>
                {
                    var state = await store.Load(id, request.Copy, null, cancel);
                    if (state.Design.Actuators.FirstOrDefault(a => a.Name == request.Device) is not { Turns: true } motor)
                        throw new InputProblem("device", $"There is no motor “{request.Device}”.");
                    var design = state.Design with
                    {
                        Actuators = state
                            .Design.Actuators.Select(a => a == motor ? a with { Reversed = request.Reversed } : a)
                            .ToSequence(),
                    };
                    var what = request.Reversed ? $"{motor.Name} is mounted the other way round" : $"{motor.Name} is mounted the usual way";
                    var revision = await store.Designs.SaveDesign(id, request.BaseRevision, design, what, cancel);
                    // What was seen of it before no longer counts: it now turns the other way.
                    await store.Copies.SavePreflight(
                        id,
                        state.Copy,
                        now => now with { Seen = [.. (now.Seen ?? []).Where(s => s.Device != motor.Name)] },
                        cancel
                    );
                    await announce.Changed(id, state.Copy, revision, what, request.By);
                    return new(revision, what);
                }
            )
            .WithName("recordReversed")
            .ProducesValidationProblem()
            .ProducesProblem(404)
            .ProducesProblem(409);
    }

    private static async Task<PreflightView> Change(
        string id,
        int? copy,
        RigStore store,
        Lines lines,
        Func<RigDesign, PreflightState, PreflightState> change,
        CancellationToken cancel,
        string? standIn = null
    )
    {
        var state = await store.Load(id, copy, null, cancel);
        if (standIn is not null)
            state.StandInOnly(standIn);
        return View(
            state,
            lines.Of(id, state.Copy),
            await store.Copies.SavePreflight(id, state.Copy, now => change(state.Design, now), cancel)
        );
    }

    // What the real thing can do by itself is done over its line; what only eyes see is asked afterwards.
    private static async Task<PreflightView> TryOverLine(
        string id,
        TryRequest request,
        RigStore store,
        Lines lines,
        CancellationToken cancel
    )
    {
        var state = await store.Load(id, request.Copy, null, cancel);
        Seen? seen;
        try
        {
            seen = await LineTrial.Try(lines.Joined(state), state.Design, request.Device ?? "", request.Action, cancel);
        }
        catch (LineBroke e)
        {
            throw new InputProblem("copy", e.Message);
        }
        return await Change(
            id,
            state.Copy,
            store,
            lines,
            (_, now) => seen is null ? now : now with { Seen = [.. (now.Seen ?? []).TakeLast(MostSeen), seen] },
            cancel
        );
    }

    private static PreflightView View(RigState state, Line? line, PreflightState now)
    {
        // A controller that answers on its line and says its name need not be ticked by hand.
        var name = line is { IsJoined: true } ? line.Look((w, _) => w.Hello?.Name) : null;
        var rig = state.Design;
        // Devices that are gone since were seen, but say nothing any more.
        Seen[] seen = [.. (now.Seen ?? []).Where(s => s.Device == "" || rig.Find(s.Device) is not null)];
        var judged = Core.Rigs.Preflight.Judge(rig, seen);
        CheckItem[] list =
        [
            .. Core.Rigs.Preflight.Checklist.Select(c =>
                c.Key == "link" && name is not null
                    ? new CheckItem(c.Key, $"{c.Say} It does, on its line: {name}.", true)
                    : new CheckItem(c.Key, c.Say, now.Checked?.Contains(c.Key) == true)
            ),
        ];
        return new(
            list,
            judged.Devices,
            judged.Faults,
            judged.Battery is { } pack ? PreflightBench.Say(rig, pack) : null,
            seen.Length == 0 ? null : PreflightBench.Say(rig, seen[^1]),
            now.Planted?.Count ?? 0,
            now.Shown ? [.. (now.Planted ?? []).Select(Say)] : null,
            [
                .. (state.Unit.Kind == UnitKind.Real ? [] : PreflightBench.Possible(rig)).Select(f => new PlantableFault(
                    f.Kind,
                    f.Device,
                    f.Other,
                    Say(f)
                )),
            ],
            // A rig without devices has shown nothing.
            judged.Devices.Count > 0
                && judged.Faults.Count == 0
                && judged.Battery is not null
                && list.All(c => c.Done)
                && judged.Devices.All(d => d.State == "works")
        );
    }

    private static string Say(BenchFault fault) =>
        fault.Kind switch
        {
            BenchFaultKind.SwappedLeads => $"The leads of {fault.Device} and {fault.Other} are swapped.",
            BenchFaultKind.DeadSensor => $"{fault.Device} is dead.",
            BenchFaultKind.WrongSocket => $"{fault.Device} is plugged in at {fault.Other}.",
            BenchFaultKind.ReversedMotor => $"{fault.Device} is mounted the other way round.",
            BenchFaultKind.LooseLead => $"The lead of {fault.Device} is loose.",
            _ => "The pack is flat.",
        };
}
