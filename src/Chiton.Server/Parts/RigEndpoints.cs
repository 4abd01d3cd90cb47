using Chiton.Core.Checking;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Chiton.Data;
using Chiton.Server.App;
using Chiton.Server.App.Lines;
using Chiton.Server.App.Room;
using Microsoft.AspNetCore.SignalR;

namespace Chiton.Server.Parts;

/// <summary>A copy in a list.</summary>
/// <param name="Number">Its number.</param>
/// <param name="Team">Team that works on it; may be empty.</param>
/// <param name="Kind">Real or a stand-in.</param>
/// <param name="Unit">What the thing on the table, or the stand-in, is called; may be empty.</param>
/// <param name="AsksKind">True until somebody has said what a copy from before is.</param>
public sealed record CopyItem(int Number, string Team, UnitKind Kind, string Unit, bool AsksKind)
{
    internal static CopyItem Of(CopyRow row, IReadOnlyDictionary<long, UnitRow> units) =>
        new(row.Number, row.Team, units[row.UnitId].Kind, units[row.UnitId].Label, row.AsksKind);
}

/// <summary>A copy in the list of rigs, with how often the current revision works on it.</summary>
public sealed record CopyState(int Number, string Team, HeaderRate Rate)
{
    /// <summary>Real or a stand-in, what its unit is called, and whether it is asked about; null in the list of rigs.</summary>
    public CopyItem? Item { get; init; }
}

/// <summary>A real copy beside a stand-in.</summary>
/// <param name="Real">Number of the real copy; null when there is none.</param>
/// <param name="StandIn">Number of the stand-in; null when there is none.</param>
/// <param name="Lines">Number by number.</param>
public sealed record BesideView(int? Real, int? StandIn, IReadOnlyList<BesideLine> Lines);

/// <summary>A rig in a list.</summary>
/// <param name="Id">Address.</param>
/// <param name="Name">Name.</param>
/// <param name="Place">Whose it is.</param>
/// <param name="Revision">Current revision.</param>
/// <param name="Archived">True when it is put away.</param>
/// <param name="Copies">Its copies.</param>
/// <param name="Plates">State of the eight parts, for the first copy.</param>
public sealed record RigItem(
    string Id,
    string Name,
    string Place,
    int Revision,
    bool Archived,
    IReadOnlyList<CopyState> Copies,
    IReadOnlyList<Plate> Plates
);

/// <summary>The success rate that the header shows.</summary>
/// <param name="State">known, counting, faults (the program cannot run) or none (the copy lacks zones).</param>
/// <param name="Runs">Runs counted.</param>
/// <param name="Passes">Runs that passed.</param>
/// <param name="Low">Lower end of the 95 % interval.</param>
/// <param name="High">Upper end.</param>
/// <param name="Say">One short line for people.</param>
/// <param name="Likely">The interval or what to do, in words.</param>
public sealed record HeaderRate(string State, int Runs, int Passes, double Low, double High, string Say, string Likely)
{
    /// <summary>Held against what was before the last change, on the same luck; null where nothing was counted before.</summary>
    public AgainstBefore? Against { get; init; }

    /// <summary>What the ends of the range rest on, guessed or measured; null where nothing is in doubt, or in a list.</summary>
    public string? Rests { get; init; }
}

/// <summary>A proof held against one of an earlier revision, or of the same with other numbers.</summary>
/// <param name="Revision">The earlier revision.</param>
/// <param name="SameRevision">True when readings or trials changed, and not the design.</param>
/// <param name="Rates">What came of it.</param>
public sealed record AgainstBefore(int Revision, bool SameRevision, Core.Proving.PairedRates Rates);

/// <summary>A rig as the shell shows it.</summary>
public sealed record RigView(
    string Id,
    string Name,
    string Place,
    int Revision,
    int Copy,
    string Team,
    IReadOnlyList<CopyItem> Copies,
    UnitKind Kind,
    int? ControllerRevision,
    bool HoldsThis,
    string? Undo,
    string? Redo,
    IReadOnlyList<Plate> Plates,
    HeaderRate Rate,
    IReadOnlyList<string> States,
    IReadOnlyList<string> Devices
);

/// <summary>What an edit led to.</summary>
/// <param name="Revision">The current revision.</param>
/// <param name="What">What was done, in words; null when nothing was.</param>
public sealed record Edited(int Revision, string? What);

/// <summary>Which copy a call speaks of, and which page calls.</summary>
public sealed record CopyRequest(int? Copy, string? By);

/// <summary>A revision in a list.</summary>
public sealed record RevisionItem(int Number, DateTime TimeUtc, string What);

/// <summary>Runs one lead to a port, or takes it off.</summary>
/// <param name="BaseRevision">The revision that was looked at.</param>
/// <param name="Device">Device name.</param>
/// <param name="Lead">Lead name.</param>
/// <param name="Controller">Controller; null to take the lead off.</param>
/// <param name="Port">Port; null to take the lead off.</param>
/// <param name="Copy">Copy number.</param>
/// <param name="By">The page that asks.</param>
/// <param name="Via">What stands between; nothing when left out.</param>
/// <param name="Colour">Colour of the wire; the usual one when left out.</param>
public sealed record WireRequest(
    int BaseRevision,
    string? Device,
    string? Lead,
    string? Controller,
    string? Port,
    int? Copy,
    string? By,
    Between? Via = null,
    string? Colour = null
);

/// <summary>Lets Chiton assign.</summary>
/// <param name="BaseRevision">The revision that was looked at; null for the current one.</param>
/// <param name="Keep">True to leave wires that are faultless as they are.</param>
/// <param name="Copy">Copy number.</param>
/// <param name="By">The page that asks.</param>
public sealed record AssignRequest(int? BaseRevision, bool? Keep, int? Copy, string? By);

/// <summary>A device with its place, as "controller, port".</summary>
public sealed record AssignedDevice(string Device, string Lead, string Port);

/// <summary>What the assignment did.</summary>
public sealed record AssignView(int Revision, IReadOnlyList<AssignedDevice> Assigned, IReadOnlyList<Unplaced> Unassigned);

/// <summary>What feeds the rig, and whether it suffices.</summary>
/// <param name="Revision">The current revision.</param>
/// <param name="Input">The numbers, as the sum power-budget takes them; every device of the rig has a row.</param>
/// <param name="Sum">The sum; null while a number is missing.</param>
/// <param name="Missing">Which numbers are missing, in words; empty when none is.</param>
public sealed record PowerView(int Revision, PowerBudgetInput Input, Answer<PowerBudgetResult>? Sum, IReadOnlyList<string> Missing);

/// <summary>Says anew what feeds the rig.</summary>
public sealed record PowerRequest(int BaseRevision, PowerBudgetInput? Input, int? Copy, string? By);

/// <summary>The copies held against each other.</summary>
/// <param name="Copies">Copies with how often the current revision works on each.</param>
/// <param name="Lines">Every number over all copies.</param>
/// <param name="Say">Who deviates and in what; empty when nobody does.</param>
public sealed record CopiesView(IReadOnlyList<CopyState> Copies, IReadOnlyList<CopyLine> Lines, IReadOnlyList<string> Say);

/// <summary>Adds a copy, or names its team and its unit.</summary>
/// <param name="Team">Team that works on it; may be empty.</param>
/// <param name="By">The page that asks.</param>
/// <param name="Kind">Of a new copy: real or a stand-in; a stand-in when left out.</param>
/// <param name="Unit">What the unit is called; as it is when left out.</param>
public sealed record TeamRequest(string? Team, string? By, UnitKind? Kind = null, string? Unit = null);

/// <summary>Says what a copy from before is.</summary>
/// <param name="Kind">real, standIn or split.</param>
/// <param name="By">The page that asks.</param>
public sealed record KindRequest(string? Kind, string? By);

/// <summary>What became of it.</summary>
/// <param name="Copy">The copy.</param>
/// <param name="StandIn">Number of the stand-in that was split off; null when none was.</param>
public sealed record KindSaid(int Copy, int? StandIn);

/// <summary>Rigs, copies and revisions.</summary>
public static class RigEndpoints
{
    /// <summary>Maps the calls.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var rigs = api.MapGroup("/rigs").WithTags("Rig");
        rigs.MapGet("", List).WithName("listRigs");
        rigs.MapGet("/{id}", View).WithName("getRig").ProducesProblem(404);
        rigs.MapGet(
                "/{id}/revisions",
                async Task<IReadOnlyList<RevisionItem>> (string id, RigStore store, CancellationToken cancel) =>
                    [.. (await store.Designs.Revisions(id, 200, cancel)).Select(r => new RevisionItem(r.Number, r.TimeUtc, r.What))]
            )
            .WithName("listRevisions");
        rigs.MapGet(
                "/{id}/ports",
                async Task<PortMap> (string id, RigStore store, CancellationToken cancel) =>
                {
                    var state = await store.Load(id, null, null, cancel);
                    return PortMap.Of(state.Design, state.Revision);
                }
            )
            .WithName("getPorts")
            .ProducesProblem(404);
        rigs.MapGet(
                "/{id}/wiring",
                async Task<WiringTable> (string id, RigStore store, CancellationToken cancel) =>
                    WiringTable.Of((await store.Load(id, null, null, cancel)).Design)
            )
            .WithName("getWiring")
            .ProducesProblem(404);
        rigs.MapPut("/{id}/ports", RunLead).WithName("runLead").ProducesValidationProblem().ProducesProblem(404).ProducesProblem(409);
        rigs.MapPost("/{id}/ports/assign", Assign).WithName("assignPorts").ProducesProblem(404).ProducesProblem(409);
        rigs.MapGet(
                "/{id}/power",
                async Task<PowerView> (string id, RigStore store, CancellationToken cancel) =>
                    Power(await store.Load(id, null, null, cancel))
            )
            .WithName("getPower")
            .ProducesProblem(404);
        rigs.MapPut("/{id}/power", SavePower).WithName("savePower").ProducesValidationProblem().ProducesProblem(404).ProducesProblem(409);
        rigs.MapGet("/{id}/copies", Copies).WithName("getCopies").ProducesProblem(404);
        rigs.MapPost(
                "/{id}/copies",
                async Task<CopyItem> (string id, TeamRequest request, RigStore store, Announcer announce, CancellationToken cancel) =>
                {
                    var team = Team(request);
                    var (kind, unit) = (request.Kind ?? UnitKind.StandIn, Unit(request) ?? "");
                    var number = await store.Copies.AddCopy(id, team, kind, unit, cancel);
                    var state = await store.Load(id, number, null, cancel);
                    await announce.Changed(id, number, state.Revision, $"added copy {number}, {Units.Word(kind)}", request.By);
                    return new(number, team, kind, unit, false);
                }
            )
            .WithName("addCopy")
            .ProducesValidationProblem()
            .ProducesProblem(404);
        rigs.MapPut(
                "/{id}/copies/{copy:int}",
                async Task<CopyItem> (
                    string id,
                    int copy,
                    TeamRequest request,
                    RigStore store,
                    Announcer announce,
                    CancellationToken cancel
                ) =>
                {
                    var team = Team(request);
                    await store.Copies.NameTeam(id, copy, team, Unit(request), cancel);
                    var state = await store.Load(id, copy, null, cancel);
                    await announce.Changed(
                        id,
                        copy,
                        state.Revision,
                        $"copy {copy} is worked on by {(team == "" ? "nobody" : team)}",
                        request.By
                    );
                    return new(copy, team, state.Unit.Kind, state.Unit.Label, state.AsksKind);
                }
            )
            .WithName("nameTeam")
            .ProducesValidationProblem()
            .ProducesProblem(404);
        rigs.MapPost("/{id}/copies/{copy:int}/kind", SayKind).WithName("sayKind").ProducesValidationProblem().ProducesProblem(404);
        rigs.MapGet("/{id}/copies/beside", Beside).WithName("getBeside").ProducesValidationProblem().ProducesProblem(404);
        rigs.MapPost(
                "/{id}/undo",
                (string id, CopyRequest request, RigStore store, Announcer announce, CancellationToken cancel) =>
                    Step(id, request, false, store, announce, cancel)
            )
            .WithName("undo")
            .ProducesProblem(404);
        rigs.MapPost(
                "/{id}/redo",
                (string id, CopyRequest request, RigStore store, Announcer announce, CancellationToken cancel) =>
                    Step(id, request, true, store, announce, cancel)
            )
            .WithName("redo")
            .ProducesProblem(404);
        rigs.MapPost(
                "/{id}/send",
                async Task<Edited> (string id, CopyRequest request, RigStore store, Announcer announce, CancellationToken cancel) =>
                {
                    var state = await store.Load(id, request.Copy, null, cancel);
                    var revision = await store.Copies.Send(state, cancel);
                    await announce.Changed(id, state.Copy, revision, $"sent revision {revision} to copy {state.Copy}", request.By);
                    return new(revision, $"sent revision {revision}");
                }
            )
            .WithName("send")
            .ProducesProblem(404);
    }

    private static async Task<KindSaid> SayKind(
        string id,
        int copy,
        KindRequest request,
        RigStore store,
        Announcer announce,
        CancellationToken cancel
    )
    {
        UnitKind? kind = request.Kind switch
        {
            "real" => UnitKind.Real,
            "standIn" => UnitKind.StandIn,
            "split" => null,
            _ => throw new InputProblem("kind", "Must be real, standIn or split."),
        };
        var standIn = await store.Copies.SayKind(id, copy, kind, cancel);
        var state = await store.Load(id, copy, null, cancel);
        await announce.Changed(
            id,
            copy,
            state.Revision,
            standIn is null ? $"copy {copy} is {Units.Word(state.Unit.Kind)}" : $"copy {copy} is real; copy {standIn} is its stand-in",
            request.By
        );
        return new(copy, standIn);
    }

    // A real copy and a stand-in, number by number; the first of each when they are not named.
    private static async Task<BesideView> Beside(string id, int? real, int? standIn, RigStore store, CancellationToken cancel)
    {
        var copies = await store.Copies.Copies(id, cancel);
        if (copies.Count == 0)
            throw new NotStored($"There is no rig “{id}”.");
        var units = await store.Copies.UnitsOf(id, cancel);
        int? Pick(int? wanted, UnitKind kind, string field)
        {
            if (wanted is not { } number)
                return copies.FirstOrDefault(c => units[c.UnitId].Kind == kind && !c.AsksKind)?.Number;
            var row = copies.FirstOrDefault(c => c.Number == number) ?? throw new NotStored($"{id} has no copy {number}.");
            return units[row.UnitId].Kind == kind
                ? number
                : throw new InputProblem(field, $"Copy {number} is {Units.Word(units[row.UnitId].Kind)}.");
        }
        var (a, b) = (Pick(real, UnitKind.Real, "real"), Pick(standIn, UnitKind.StandIn, "standIn"));
        if (a is not { } table || b is not { } bench)
            return new(a, b, []);
        return new(
            a,
            b,
            CopyTable.Beside((await store.Load(id, table, null, cancel)).Numbers(), (await store.Load(id, bench, null, cancel)).Numbers())
        );
    }

    private static string? Unit(TeamRequest request)
    {
        var unit = request.Unit?.Trim();
        return (unit?.Length ?? 0) <= 40 ? unit : throw new InputProblem("unit", "At most 40 characters.");
    }

    private static string Team(TeamRequest request)
    {
        var team = request.Team?.Trim() ?? "";
        return team.Length <= 40 ? team : throw new InputProblem("team", "At most 40 characters.");
    }

    private static async Task<CopiesView> Copies(string id, RigStore store, RateKeeper keeper, CancellationToken cancel)
    {
        var states = new List<CopyState>();
        var numbers = new List<CopyNumbers>();
        var units = await store.Copies.UnitsOf(id, cancel);
        foreach (var copy in await store.Copies.Copies(id, cancel))
        {
            var state = await store.Load(id, copy.Number, null, cancel);
            var rate = await Rates.Of(state, store, cancel);
            if (rate.State == "counting")
                keeper.Ask(id, copy.Number);
            states.Add(new(copy.Number, copy.Team, rate) { Item = CopyItem.Of(copy, units) });
            numbers.Add(state.Numbers());
        }
        if (states.Count == 0)
            throw new NotStored($"There is no rig “{id}”.");
        var lines = CopyTable.Compare(numbers);
        return new(states, lines, [.. lines.Select(l => l.Say).OfType<string>()]);
    }

    private static PowerView Power(RigState state)
    {
        var input = PowerFill.Of(state.Design);
        try
        {
            return new(state.Revision, input, PowerBudget.Compute(input), []);
        }
        catch (InputProblem p)
        {
            return new(state.Revision, input, null, [.. p.Errors.Select(e => $"{PowerFill.Words(input, e.Key)}: {e.Value}")]);
        }
    }

    private static async Task<Edited> SavePower(
        string id,
        PowerRequest request,
        RigStore store,
        Announcer announce,
        CancellationToken cancel
    )
    {
        var state = await store.Load(id, request.Copy, null, cancel);
        var i = request.Input ?? throw new InputProblem("input", "Give the numbers.");
        RigPower kept;
        try
        {
            kept = PowerFill.Kept(state.Design, i);
        }
        catch (InputProblem p)
        {
            // In the words of the page: nobody there knows its fields by their codes.
            throw new InputProblem(p.Errors.ToDictionary(e => e.Key, e => $"{PowerFill.Words(i, e.Key)}: {e.Value}"));
        }
        var revision = await store.Designs.SavePower(id, request.BaseRevision, kept, cancel);
        await announce.Changed(id, state.Copy, revision, "changed what feeds the rig", request.By);
        return new(revision, "changed what feeds the rig");
    }

    private static async Task<Edited> RunLead(string id, WireRequest request, RigStore store, Announcer announce, CancellationToken cancel)
    {
        var state = await store.Load(id, request.Copy, null, cancel);
        var plug = state.Design.Plugs.FirstOrDefault(p => p.Name == request.Device);
        var controller = state.Design.Controllers.FirstOrDefault(c => c.Name == request.Controller);
        var need = new Require();
        need.That(plug is not null, "device", $"There is no device “{request.Device}”.");
        need.That(
            plug is null || plug.Leads.Any(l => l.Name == request.Lead),
            "lead",
            $"{request.Device} has " + $"no lead “{request.Lead}”."
        );
        need.That(
            request.Controller is null || controller is not null,
            "controller",
            $"There is no " + $"controller “{request.Controller}”."
        );
        need.That(
            request.Controller is null || controller is null || controller.Ports.Any(p => p.Name == request.Port),
            "port",
            $"{request.Controller} has no port “{request.Port}”."
        );
        need.That((request.Colour?.Length ?? 0) <= 20, "colour", "At most 20 characters.");
        need.Done();
        var rest = state.Design.Wires.Where(w => w.Device != request.Device || w.Lead != request.Lead);
        Wire[] wires = controller is null
            ? [.. rest]
            :
            [
                .. rest,
                new Wire(request.Device!, request.Lead!, controller.Name, request.Port!)
                {
                    Via = request.Via ?? Between.Nothing,
                    Colour = request.Colour,
                },
            ];
        var what = controller is null ? $"took {request.Device} off" : $"ran {request.Device} to {request.Port} of {controller.Name}";
        var revision = await store.Designs.SaveWires(id, request.BaseRevision, wires, what, cancel);
        await announce.Changed(id, state.Copy, revision, what, request.By);
        return new(revision, what);
    }

    private static async Task<AssignView> Assign(
        string id,
        AssignRequest request,
        RigStore store,
        Announcer announce,
        CancellationToken cancel
    )
    {
        var state = await store.Load(id, request.Copy, null, cancel);
        var rig = state.Design;
        var faulty = rig.WiringFaults().Select(f => f.Device).ToHashSet();
        Wire[] kept = request.Keep == true ? [.. rig.Wires.Where(w => !faulty.Contains(w.Device))] : [];
        var plan = PortAssignment.Assign(rig.Controllers.ToArray(), rig.Plugs, kept, rig.Links.ToArray());
        var revision = await store.Designs.SaveWires(
            id,
            request.BaseRevision ?? state.Revision,
            plan.Wires,
            $"assigned {Figures.Count(plan.Wires.Count, "lead")} to ports",
            cancel
        );
        await announce.Changed(id, state.Copy, revision, "assigned the ports", request.By);
        return new(revision, [.. plan.Wires.Select(w => new AssignedDevice(w.Device, w.Lead, $"{w.Controller}, {w.Port}"))], plan.Unplaced);
    }

    private static async Task<Edited> Step(
        string id,
        CopyRequest request,
        bool redo,
        RigStore store,
        Announcer announce,
        CancellationToken cancel
    )
    {
        var done = await store.History.Undo(id, redo, cancel);
        var state = await store.Load(id, request.Copy, null, cancel);
        if (done is null)
            return new(state.Revision, null);
        await announce.Changed(id, state.Copy, state.Revision, $"{(redo ? "redid" : "undid")}: {done.Value.What}", request.By);
        return new(state.Revision, done.Value.What);
    }

    private static async Task<IReadOnlyList<RigItem>> List(RigStore store, RateKeeper keeper, TimeProvider clock, CancellationToken cancel)
    {
        var items = new List<RigItem>();
        foreach (var (rig, known, copies) in await store.List(cancel))
        {
            var states = new List<CopyState>();
            foreach (var copy in copies)
            {
                var rate = Rates.Listed(known, rig.HeadRevision, copy);
                if (rate.State == "counting")
                    keeper.Ask(rig.Id, copy.Number);
                states.Add(new(copy.Number, copy.Team, rate));
            }
            var first = copies[0];
            // Ages are told by the day: what a list says of them may be an hour behind.
            var key =
                $"{first.Stamp} {clock.GetUtcNow():yyyyMMddHH} {first.Run} {first.Proved} {first.Gauge} {copies.Count} "
                + $"{await store.Log.Stamp(rig.Id, first.Number, cancel)} in a list";
            if (!Said.TryGetValue(key, out var plates))
                plates = Keep(
                    key,
                    await Worked(
                        store,
                        await store.Load(rig.Id, first.Number, null, cancel),
                        first.Run,
                        first.Proved,
                        first.Gauge is { } gauge ? (gauge.Runs, gauge.Passes) : null,
                        [],
                        copies.Count,
                        cancel
                    )
                );
            items.Add(new(rig.Id, known.Design.Name, known.Design.Place, rig.HeadRevision, rig.Archived, states, plates));
        }
        return items;
    }

    private static async Task<RigView> View(string id, int? copy, RigStore store, RateKeeper keeper, Trier trier, CancellationToken cancel)
    {
        var state = await store.Load(id, copy, null, cancel);
        var copies = await store.Copies.Copies(id, cancel);
        var units = await store.Copies.UnitsOf(id, cancel);
        var undo = await store.History.UndoState(id, cancel);
        var best = await store.Runs.Gauge(state, cancel);
        var rate = await Rates.Of(state, store, cancel);
        if (rate.State == "counting")
            keeper.Ask(id, state.Copy);
        else if (rate.State == "known" && Trying.Of(state.Stamp) is not { Settled: true })
            trier.Ask(id, state.Copy);
        var run = await store.Runs.LatestRun(id, state.Copy, cancel);
        var proof = await store.Runs.LatestProof(id, state.Copy, cancel);
        return new(
            id,
            state.Design.Name,
            state.Design.Place,
            state.Revision,
            state.Copy,
            state.Team,
            [.. copies.Select(c => CopyItem.Of(c, units))],
            state.Unit.Kind,
            state.ControllerRevision,
            state.HoldsThis,
            undo.Undo,
            undo.Redo,
            await PlatesOf(
                store,
                state,
                run,
                proof,
                best,
                copies.Count > 1 ? await Deviations(id, state, store, cancel) : [],
                copies.Count,
                cancel
            ),
            rate,
            [.. state.Parsed.Program.Regions.SelectMany(r => r.States).Select(s => s.Name)],
            [.. state.Design.Devices.Select(d => d.Name)]
        );
    }

    // What the plates speak of is the same until something of it changes, but for ages, which are told by the day.
    private static readonly System.Collections.Concurrent.ConcurrentDictionary<string, IReadOnlyList<Plate>> Said = new();

    /// <summary>Forgets what plates said: something they speak of has changed that is no part of a machine.</summary>
    internal static void Forget() => Said.Clear();

    private static IReadOnlyList<Plate> Keep(string key, IReadOnlyList<Plate> plates)
    {
        if (Said.Count > 2000)
            Said.Clear();
        return Said[key] = plates;
    }

    private static async Task<IReadOnlyList<Plate>> PlatesOf(
        RigStore store,
        RigState state,
        RunRow? run,
        ProofRow? proof,
        ProofRow? best,
        IReadOnlyList<string> deviations,
        int copies,
        CancellationToken cancel
    )
    {
        var key =
            $"{state.Stamp} {Trying.Of(state.Stamp)?.Version} {run?.Passed} {run?.EndS} {proof is null} {best?.Runs} {best?.Passes} "
            + $"{string.Join('|', deviations)} {copies} {await store.Log.Stamp(state.Id, state.Copy, cancel)} "
            + string.Join('|', state.Silences.Values.Select(s => $"{s.Finding} {s.Said}"));
        return Said.TryGetValue(key, out var known)
            ? known
            : Keep(
                key,
                await Worked(
                    store,
                    state,
                    run is null ? null : (run.Passed, run.EndS),
                    proof is not null,
                    best is null ? null : (best.Runs, best.Passes),
                    deviations,
                    copies,
                    cancel
                )
            );
    }

    private static async Task<IReadOnlyList<Plate>> Worked(
        RigStore store,
        RigState state,
        (bool Passed, double EndS)? run,
        bool proved,
        (int Runs, int Passes)? best,
        IReadOnlyList<string> deviations,
        int copies,
        CancellationToken cancel
    )
    {
        var readable = !Rates.Empty(state.Parsed) && state.Parsed.Diagnostics.Count == 0;
        return Plates.Of(
            new(
                state.Design,
                state.Report().Judgement,
                state.Moves,
                state.Motion,
                state.Parsed,
                readable ? state.Open : null,
                deviations,
                readable ? await Rates.Hindrance(state, store, cancel) : null,
                run,
                best,
                proved,
                copies
            )
            {
                Looked = readable ? state.Report().Looked : null,
                Logged = await LogEndpoints.Tally(state, store, cancel),
            }
        );
    }

    // In what a copy deviates from the others; worked out once for what is known of all of them.
    private static async Task<IReadOnlyList<string>> Deviations(string id, RigState state, RigStore store, CancellationToken cancel)
    {
        var key = await store.Copies.Stamp(id, cancel);
        if (!Deviating.TryGetValue(key, out var all))
        {
            if (Deviating.Count > 200)
                Deviating.Clear();
            Deviating[key] = all = CopyTable.Compare(await Numbers(id, store, cancel));
        }
        return [.. all.Where(l => l.Say is not null && l.Cells.Any(c => c.Copy == state.Copy && c.Deviates)).Select(l => l.Say!)];
    }

    private static readonly System.Collections.Concurrent.ConcurrentDictionary<string, IReadOnlyList<CopyLine>> Deviating = new();

    private static async Task<IReadOnlyList<CopyNumbers>> Numbers(string id, RigStore store, CancellationToken cancel)
    {
        var numbers = new List<CopyNumbers>();
        foreach (var copy in await store.Copies.Copies(id, cancel))
            numbers.Add((await store.Load(id, copy.Number, null, cancel)).Numbers());
        return numbers;
    }
}

/// <summary>Tells open pages of a change and asks for the new rate.</summary>
public sealed class Announcer(IHubContext<BenchHub, IBenchPage> hub, RateKeeper keeper, Trier trier, RoomTeller room, Lines lines)
{
    /// <summary>A rig was changed.</summary>
    public async Task Changed(string rig, int copy, int revision, string what, string? by)
    {
        keeper.Ask(rig, copy);
        trier.Changed(rig);
        room.Board();
        lines.Changed(rig);
        await hub.Clients.Group("rig:" + rig).Changed(new(rig, revision, what, by));
    }
}
