using System.Globalization;
using Chiton.Core.Motion;
using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Patterns;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Chiton.Core.Simulation;
using Chiton.Core.Simulation.Scenes;
using Chiton.Data;
using Chiton.Server.App.Room;

namespace Chiton.Server.Parts;

/// <summary>Whether a rig may be called so.</summary>
/// <param name="Name">The name asked about.</param>
/// <param name="Free">True when no rig is called so.</param>
/// <param name="Instead">A name like it that is free.</param>
public sealed record FreeName(string Name, bool Free, string Instead);

/// <summary>A template in a list.</summary>
public sealed record TemplateItem(string Template, string About);

/// <summary>A controller template with what it makes.</summary>
public sealed record ControllerTemplate(string Template, string About, Controller Controller);

/// <summary>A kind of sensor, with what is usual for it.</summary>
public sealed record SensorKindItem(
    SensorKind Kind,
    string Words,
    string Unit,
    string View,
    double SamplePeriodMs,
    double Resolution,
    IReadOnlyList<string> Zones
);

/// <summary>A kind of actuator or mechanism.</summary>
public sealed record KindItem(string Kind, string Words);

/// <summary>What rigs can be made of.</summary>
public sealed record TemplatesView(
    IReadOnlyList<TemplateItem> Rigs,
    IReadOnlyList<ControllerTemplate> Controllers,
    IReadOnlyList<SensorKindItem> Sensors,
    IReadOnlyList<KindItem> Actuators,
    IReadOnlyList<KindItem> Mechanisms
);

/// <summary>Makes a rig: from a file in the published format, or from a template.</summary>
/// <param name="Format">"chiton-rig", for a file.</param>
/// <param name="Version">Version of the file.</param>
/// <param name="Design">The design, for a file.</param>
/// <param name="Copies">Its copies, for a file; without any it gets one.</param>
/// <param name="Log">What happened on the table; null for nothing.</param>
/// <param name="Routines">Routines for the workshop's library, for a file; those it has already stay as they are.</param>
/// <param name="Template">Name of a template, instead of a file.</param>
/// <param name="Name">What the rig is called; for a file instead of the name in it.</param>
/// <param name="Place">Whose rig it is.</param>
public sealed record NewRig(
    string? Format,
    int? Version,
    RigDesign? Design,
    IReadOnlyList<FileCopy>? Copies,
    string? Template,
    string? Name,
    string? Place,
    IReadOnlyList<KeptRoutine>? Routines = null,
    FileLog? Log = null
);

/// <summary>The rig that was made.</summary>
public sealed record RigMade(string Id, string Name, int Revision);

/// <summary>A copy of a whole rig under another name.</summary>
public sealed record DuplicateRequest(string? Name);

/// <summary>Puts a rig away or takes it back out.</summary>
public sealed record ArchiveRequest(bool Archived);

/// <summary>A design as it stands, with what follows from it.</summary>
/// <param name="Revision">The current revision.</param>
/// <param name="Design">The design.</param>
/// <param name="Notes">What the body and the mechanisms make of it.</param>
/// <param name="Positions">Positions found by hand on this copy.</param>
/// <param name="Cautions">What to beware of with a rig like this.</param>
public sealed record DesignView(
    int Revision,
    RigDesign Design,
    IReadOnlyList<BodyNote> Notes,
    IReadOnlyList<PositionView> Positions,
    IReadOnlyList<string> Cautions
);

/// <summary>Writes the design anew.</summary>
public sealed record DesignRequest(int BaseRevision, RigDesign? Design, int? Copy, string? By);

/// <summary>Gives something another name everywhere.</summary>
/// <param name="BaseRevision">The revision that was looked at.</param>
/// <param name="What">device, mechanism, zone or position.</param>
/// <param name="Of">Of a zone the sensor, of a position the mechanism.</param>
/// <param name="From">The name now.</param>
/// <param name="To">The new name.</param>
/// <param name="Copy">Copy number.</param>
/// <param name="By">The page that asks.</param>
public sealed record RenameRequest(int BaseRevision, Renamed What, string? Of, string? From, string? To, int? Copy, string? By);

/// <summary>Finds a position by hand: the part is moved there and its angle read, or a servo is set to an angle.</summary>
/// <param name="Copy">Copy number.</param>
/// <param name="Mechanism">Mechanism name.</param>
/// <param name="Position">Position name; null only to read the angle.</param>
/// <param name="HandPercent">Where the hand holds it, 0 to 100 % of its travel.</param>
/// <param name="AngleDeg">For a servo: the angle it is set to; on a real copy the angle that was read, of any motor.</param>
/// <param name="Who">Who does it.</param>
/// <param name="By">The page that asks.</param>
public sealed record PositionRequest(
    int? Copy,
    string? Mechanism,
    string? Position,
    double? HandPercent,
    double? AngleDeg,
    string? Who,
    string? By
);

/// <summary>The angle read.</summary>
public sealed record PositionRead(double Angle, string Unit, int? Version);

/// <summary>Describing rigs: made, copied, put away, taken out and in as files, changed and renamed.</summary>
public static class DesignEndpoints
{
    /// <summary>Maps the calls.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var rigs = api.MapGroup("/rigs").WithTags("Rig");
        rigs.MapGet("/templates", TemplatesView () => Templates).WithName("getTemplates");
        rigs.MapGet("/schema", () => Results.Json(RigSchema.Of, Documents.Options)).WithName("getRigSchema").ExcludeFromDescription();
        rigs.MapGet(
                "/name",
                async Task<FreeName> (string? name, RigStore store, CancellationToken cancel) =>
                {
                    var asked = Name(name, "name");
                    var free = RigNames.Free(asked, (await store.List(cancel)).Select(r => r.Design.Design.Name));
                    return new(asked, free == asked, free);
                }
            )
            .WithName("freeName")
            .ProducesValidationProblem();
        rigs.MapPost("", Create).WithName("createRig").ProducesValidationProblem().ProducesProblem(413);
        rigs.MapGet("/{id}/export", Export).WithName("exportRig").Produces<RigFile>().ProducesProblem(404);
        rigs.MapPost(
                "/{id}/duplicate",
                async Task<RigMade> (string id, DuplicateRequest request, RigStore store, CancellationToken cancel) =>
                {
                    var file = await store.Files.Export(id, cancel);
                    return await Keep(
                        file with
                        {
                            Design = file.Design! with { Name = Name(request.Name, "name") },
                        },
                        $"copied from {file.Design!.Name}",
                        store,
                        cancel
                    );
                }
            )
            .WithName("duplicateRig")
            .ProducesValidationProblem()
            .ProducesProblem(404);
        rigs.MapPut(
                "/{id}/archived",
                async Task<ArchiveRequest> (string id, ArchiveRequest request, RigStore store, CancellationToken cancel) =>
                {
                    await store.Designs.Archive(id, request.Archived, cancel);
                    return request;
                }
            )
            .WithName("archiveRig")
            .ProducesProblem(404);
        rigs.MapGet(
                "/{id}/design",
                async Task<DesignView> (string id, int? copy, RigStore store, CancellationToken cancel) =>
                {
                    var state = await store.Load(id, copy, null, cancel);
                    return new(
                        state.Revision,
                        state.Design,
                        Body.Notes(state.Design),
                        [
                            .. state.Design.Mechanisms.SelectMany(m =>
                                m.Positions.Select(p =>
                                    PositionView.Of(
                                        state.Design,
                                        m,
                                        p,
                                        state.Positions.GetValueOrDefault(m.Name)?.Of(p) ?? [],
                                        Units.Where(state.Unit.Kind)
                                    )
                                )
                            ),
                        ],
                        Body.Cautions(state.Design)
                    );
                }
            )
            .WithName("getDesign")
            .ProducesProblem(404);
        rigs.MapPut("/{id}/design", Save).WithName("saveDesign").ProducesValidationProblem().ProducesProblem(404).ProducesProblem(409);
        rigs.MapPost("/{id}/rename", Rename).WithName("rename").ProducesValidationProblem().ProducesProblem(404).ProducesProblem(409);
        rigs.MapPost("/{id}/positions", Find).WithName("findPosition").ProducesValidationProblem().ProducesProblem(404);
    }

    private static TemplatesView Templates { get; } =
        new(
            [.. RigTemplates.All.Select(t => new TemplateItem(t.Template, t.About))],
            [.. ControllerTemplates.All.Select(t => new ControllerTemplate(t.Template, t.About, t.Make(t.Template)))],
            [
                .. Enum.GetValues<SensorKind>()
                    .Select(k =>
                        SensorFacts.Of(k) is var f
                            ? new SensorKindItem(
                                k,
                                f.Words,
                                f.Unit,
                                f.View,
                                f.SamplePeriodMs,
                                f.Resolution,
                                f.View == "switch" ? ["up", "down"] : []
                            )
                            : null!
                    ),
            ],
            [
                .. Enum.GetValues<ActuatorKind>()
                    .Select(k => new KindItem(System.Text.Json.JsonNamingPolicy.CamelCase.ConvertName(k.ToString()), Actuator.Words(k))),
            ],
            [
                .. Enum.GetValues<MechanismKind>()
                    .Select(k => new KindItem(
                        System.Text.Json.JsonNamingPolicy.CamelCase.ConvertName(k.ToString()),
                        MechanismFacts.Of(k).Words
                    )),
            ]
        );

    private static string Name(string? name, string field)
    {
        var trimmed = name?.Trim() ?? "";
        return trimmed.Length is > 0 and <= 60 ? trimmed : throw new InputProblem(field, "Give the rig a name of at most 60 characters.");
    }

    private static async Task<RigMade> Create(
        NewRig request,
        Caller caller,
        ClassStore classes,
        RigStore store,
        RoomTeller tell,
        CancellationToken cancel
    )
    {
        // What a team brings it describes here; files come in at the desk.
        if (caller.Team is { } team)
        {
            if (request.Design is not null)
                throw new NotYours();
            var own = await classes.Own(() => MadeOf(request, store, cancel), m => m.Id, team, cancel);
            await tell.Team(team);
            return own;
        }
        return await MadeOf(request, store, cancel);
    }

    private static async Task<RigMade> MadeOf(NewRig request, RigStore store, CancellationToken cancel)
    {
        if (request.Design is null)
        {
            if (request.Template is null)
                throw new InputProblem("design", "Give a design, or the name of a template.");
            var design = RigTemplates.Make(request.Template, Name(request.Name, "name")) with { Place = request.Place?.Trim() ?? "" };
            return await Keep(
                new(RigFile.FormatName, RigFile.CurrentVersion, design, null),
                $"made from “{request.Template}”",
                store,
                cancel
            );
        }
        var need = new Require();
        need.That(request.Format is null or RigFile.FormatName, "format", $"Must be “{RigFile.FormatName}”.");
        need.That(
            request.Version is null or >= 1 and <= RigFile.CurrentVersion,
            "version",
            $"This program reads versions 1 to {RigFile.CurrentVersion}."
        );
        need.Done();
        var named = request.Name is null ? request.Design : request.Design with { Name = Name(request.Name, "name") };
        return await Keep(
            new(RigFile.FormatName, RigFile.CurrentVersion, named, request.Copies, request.Routines) { Log = request.Log },
            "taken in from a file",
            store,
            cancel
        );
    }

    private static async Task<RigMade> Keep(RigFile file, string what, RigStore store, CancellationToken cancel)
    {
        var good = Checked(file);
        var id = await store.Files.Add(good, what, cancel);
        return new(id, good.Design!.Name, 1 + (file.Log?.Earlier?.Count ?? 0));
    }

    /// <summary>A rig in a file that is what this program could have written, as it is kept.</summary>
    /// <exception cref="InputProblem">When it is not, naming the field.</exception>
    internal static RigFile Checked(RigFile file)
    {
        file = file with { Design = Placing.Apart(file.Design!) };
        RigRules.Check(file.Design, "design");
        var design = WithProgram(file.Design);
        IReadOnlyList<FileCopy> copies = file.Copies is { Count: > 0 } given
            ? [.. given.Select(c => c?.Today(design)!)]
            : [new(1, "", null, null)];
        RigFileRules.Check(design, copies);
        PatternEndpoints.Check(file.Routines ?? []);
        if (file.Log is { } log)
        {
            RigFileRules.Check(log, copies);
            file = file with
            {
                Log = log with
                {
                    Earlier = [.. (log.Earlier ?? []).Select(e => e with { Design = WithProgram(Placing.Apart(e.Design!)) })],
                },
            };
        }
        return file with { Design = design, Copies = copies };
    }

    // Every rig has a program, if only an empty one.
    private static RigDesign WithProgram(RigDesign given)
    {
        var design = given with { Name = given.Name.Trim(), Place = given.Place?.Trim() ?? "" };
        return design.Programs.Count > 0
            ? design
            : design with
            {
                Programs =
                [
                    new($"program {(RigNames.IsName(design.Name) ? design.Name : "New")}\n", []) { Meaning = ProgramText.MeaningNow },
                ],
            };
    }

    private static async Task<IResult> Export(string id, RigStore store, CancellationToken cancel)
    {
        var file = await store.Files.Export(id, cancel);
        return Results.File(System.Text.Encoding.UTF8.GetBytes(Documents.Write(file)), "application/json", $"{id}.rig.json");
    }

    private static async Task<Edited> Save(string id, DesignRequest request, RigStore store, Announcer announce, CancellationToken cancel)
    {
        var state = await store.Load(id, request.Copy, null, cancel);
        var design = request.Design ?? throw new InputProblem("design", "Give the design.");
        // Programs are edited in Program, which keeps the kinds of their numbers; here they only follow their controllers.
        design = RigPrograms.Follow(state.Design, design) with
        {
            Name = design.Name?.Trim() ?? "",
            Place = design.Place?.Trim() ?? "",
            Walks = state.Design.Walks,
            Scenes = state.Design.Scenes,
            MessageDelay = state.Design.MessageDelay,
        };
        (design, var names) = RigPrograms.FollowNames(state.Design, design);
        RigRules.Check(design, "design");
        design = SceneEdits.FollowRail(state.Design, design);
        var what = RigEdits.Say(state.Design, design);
        var revision = await store.Designs.SaveDesign(id, request.BaseRevision, design, what, cancel, names);
        await announce.Changed(id, state.Copy, revision, what, request.By);
        return new(revision, what);
    }

    private static async Task<Edited> Rename(string id, RenameRequest request, RigStore store, Announcer announce, CancellationToken cancel)
    {
        var state = await store.Load(id, request.Copy, null, cancel);
        var (from, to) = (request.From?.Trim() ?? "", request.To?.Trim() ?? "");
        var design = SceneEdits.Renamed(Renames.InRig(state.Design, request.What, request.Of, from, to), from, to);
        RigRules.Check(design, "design");
        var what = $"renamed {from} {to}";
        var zone = request.What is Renamed.Zone or Renamed.Position;
        var revision = await store.Designs.Rename(
            id,
            request.BaseRevision,
            design,
            zone ? request.Of! : from,
            zone ? request.Of! : to,
            zone ? from : null,
            zone ? to : null,
            what,
            cancel
        );
        await announce.Changed(id, state.Copy, revision, what, request.By);
        return new(revision, what);
    }

    private static async Task<PositionRead> Find(
        string id,
        PositionRequest request,
        RigStore store,
        Announcer announce,
        CancellationToken cancel
    )
    {
        var state = await store.Load(id, request.Copy, null, cancel);
        var mechanism =
            state.Design.Mechanisms.FirstOrDefault(m => m.Name == request.Mechanism)
            ?? throw new InputProblem("mechanism", $"There is no mechanism “{request.Mechanism}”.");
        var motor = state.Design.Actuators.FirstOrDefault(a => a.Name == mechanism.Motor);
        var need = new Require();
        need.That(
            request.Position is null || mechanism.Positions.Contains(request.Position),
            "position",
            $"{mechanism.Name} has no position “{request.Position}”."
        );
        need.That((request.Who?.Length ?? 0) <= 80, "who", "At most 80 characters.");
        need.Done();
        var servo = motor?.Kind == ActuatorKind.Servo;
        var real = state.Unit.Kind == UnitKind.Real;
        if (real && request.AngleDeg is null)
            state.StandInOnly("read");
        var luck = SampleBench.Seed(id, mechanism.Name, state.Copy.ToString(CultureInfo.InvariantCulture), Guid.NewGuid().ToString());
        var angle = real
            ? PositionBench.Typed(mechanism, motor, request.AngleDeg)
            : PositionBench.Angle(mechanism, motor, request.AngleDeg, request.HandPercent, luck);
        var unit = PositionView.UnitOf(servo);
        if (request.Position is null)
            return new(angle, unit, null);
        var version = await store.Motions.AddPosition(
            id,
            state.Copy,
            mechanism.Name,
            request.Position,
            angle,
            real ? ReadingOrigin.Pasted : ReadingOrigin.Recorded,
            request.Who?.Trim() ?? "",
            servo ? "servo set by hand" : "moved by hand",
            cancel
        );
        await announce.Changed(id, state.Copy, state.Revision, $"found {request.Position} of {mechanism.Name}", request.By);
        return new(angle, unit, version);
    }
}
