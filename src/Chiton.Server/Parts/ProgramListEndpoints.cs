using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Scxml;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Data;
using Chiton.Server.App;

namespace Chiton.Server.Parts;

/// <summary>Adds a program to a rig.</summary>
/// <param name="BaseRevision">The revision that was edited.</param>
/// <param name="Name">Its name; when a script is given the script's own.</param>
/// <param name="Script">Its text; left out for an empty one.</param>
/// <param name="RunsOn">The controller it is on; the first when left out.</param>
/// <param name="OnHost">True for a host.</param>
/// <param name="Copy">The copy that is open.</param>
/// <param name="By">The page that asks.</param>
public sealed record AddProgramRequest(int BaseRevision, string? Name, string? Script, string? RunsOn, bool OnHost, int? Copy, string? By);

/// <summary>Says where a program is and whether it runs.</summary>
/// <param name="BaseRevision">The revision that was edited.</param>
/// <param name="RunsOn">The controller it is on; the first when null.</param>
/// <param name="OnHost">True for a host.</param>
/// <param name="Runs">True to let it run; what ran at its place is stored.</param>
/// <param name="Copy">The copy that is open.</param>
/// <param name="By">The page that asks.</param>
/// <param name="Values">The values that this place gives to the text, as typed; left out to keep what it gives.</param>
public sealed record PlaceProgramRequest(
    int BaseRevision,
    string? RunsOn,
    bool OnHost,
    bool Runs,
    int? Copy,
    string? By,
    IReadOnlyList<PlaceValue>? Values = null
);

/// <summary>Says that somebody has read what the sentences of a program mean otherwise now.</summary>
/// <param name="BaseRevision">The revision that was looked at.</param>
/// <param name="Copy">The copy that is open.</param>
/// <param name="By">The page that asks.</param>
public sealed record ReadChangesRequest(int BaseRevision, int? Copy, string? By);

/// <summary>Puts the text of a program in one more place.</summary>
/// <param name="BaseRevision">The revision that was edited.</param>
/// <param name="RunsOn">The controller.</param>
/// <param name="Values">The values that this place gives to the text, as typed.</param>
/// <param name="Copy">The copy that is open.</param>
/// <param name="By">The page that asks.</param>
public sealed record PlaceAlsoRequest(int BaseRevision, string? RunsOn, IReadOnlyList<PlaceValue>? Values, int? Copy, string? By);

/// <summary>Says how long a message takes.</summary>
/// <param name="BaseRevision">The revision that was edited.</param>
/// <param name="Ms">How long, ms; null to say nothing.</param>
/// <param name="Kind">Where the number comes from.</param>
/// <param name="Copy">The copy that is open.</param>
/// <param name="By">The page that asks.</param>
public sealed record MessageDelayRequest(int BaseRevision, double? Ms, Provenance? Kind, int? Copy, string? By);

/// <summary>Keeps a walk as an example for a lesson.</summary>
/// <param name="BaseRevision">The revision that was edited.</param>
/// <param name="Name">What it shows.</param>
/// <param name="Program">Name of the program; null when all are walked together.</param>
/// <param name="From">The state or routine it begins with; null for the whole program.</param>
/// <param name="Note">What to ask or look out for.</param>
/// <param name="Steps">What happens, in order.</param>
/// <param name="Copy">The copy that is open.</param>
/// <param name="By">The page that asks.</param>
public sealed record KeepWalkRequest(
    int BaseRevision,
    string? Name,
    string? Program,
    string? From,
    string? Note,
    IReadOnlyList<StoredStep>? Steps,
    int? Copy,
    string? By
);

/// <summary>A document to be read as a program.</summary>
/// <param name="Source">The SCXML document.</param>
/// <param name="Link">True to hear events that name a device from the device itself.</param>
public sealed record ReadScxmlRequest(string? Source, bool Link = false);

/// <summary>A document read as a program: what would be added, and what would be left out.</summary>
/// <param name="Name">Name of the program; another than in the document where the rig has one of that name.</param>
/// <param name="Script">Its sentences.</param>
/// <param name="Left">What the document holds that cannot be said here, by line.</param>
/// <param name="Faults">Sentences that do not fit this rig; they can be mended in the sheet.</param>
/// <param name="Links">Events that name what happens to a device, and what they would become.</param>
public sealed record ReadScxml(
    string Name,
    string Script,
    IReadOnlyList<ScxmlFault> Left,
    IReadOnlyList<Diagnostic> Faults,
    IReadOnlyList<ScxmlLink> Links
);

/// <summary>Adds a document as a program.</summary>
/// <param name="BaseRevision">The revision that was edited.</param>
/// <param name="Source">The SCXML document.</param>
/// <param name="LeaveOut">True when a person has agreed to leave out what cannot be said here.</param>
/// <param name="Copy">The copy that is open.</param>
/// <param name="By">The page that asks.</param>
/// <param name="Link">True when a person has agreed to hear events that name a device from the device itself.</param>
public sealed record AddScxmlRequest(int BaseRevision, string? Source, bool LeaveOut, int? Copy, string? By, bool Link = false);

/// <summary>A kept walk, and whether it still leads where it did.</summary>
/// <param name="Walk">The walk.</param>
/// <param name="Holds">True when it ends where it did when it was kept.</param>
/// <param name="Say">What became of it, in a sentence.</param>
public sealed record KeptWalk(StoredWalk Walk, bool Holds, string Say);

/// <summary>The programs of a rig as a list, where they run, and the walks kept with them.</summary>
public static class ProgramListEndpoints
{
    /// <summary>Maps the calls.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var programs = api.MapGroup("/rigs/{id}/programs").WithTags("Program");
        programs.MapPost("", Add).WithName("addProgram").ProducesValidationProblem().ProducesProblem(404).ProducesProblem(409);
        programs
            .MapPost(
                "/scxml/read",
                async Task<ReadScxml> (string id, ReadScxmlRequest request, RigStore store, CancellationToken cancel) =>
                    ReadDocument((await store.Load(id, null, null, cancel)).Design, request.Source, request.Link)
            )
            .WithName("readScxml")
            .ProducesValidationProblem()
            .ProducesProblem(404);
        programs.MapPost("/scxml", AddDocument).WithName("addScxml").ProducesValidationProblem().ProducesProblem(404).ProducesProblem(409);
        programs
            .MapPut("/{index:int}", Place)
            .WithName("placeProgram")
            .ProducesValidationProblem()
            .ProducesProblem(404)
            .ProducesProblem(409);
        programs
            .MapPost("/{index:int}/read", Understood)
            .WithName("readChanges")
            .ProducesValidationProblem()
            .ProducesProblem(404)
            .ProducesProblem(409);
        programs
            .MapPost("/{index:int}/places", PlaceAlso)
            .WithName("placeProgramAlso")
            .ProducesValidationProblem()
            .ProducesProblem(404)
            .ProducesProblem(409);
        programs
            .MapDelete("/{index:int}", TakeOut)
            .WithName("takeOutProgram")
            .ProducesValidationProblem()
            .ProducesProblem(404)
            .ProducesProblem(409);
        programs.MapPut("/delay", Delay).WithName("setMessageDelay").ProducesValidationProblem().ProducesProblem(404).ProducesProblem(409);
        var walks = api.MapGroup("/rigs/{id}/walks").WithTags("Program");
        walks
            .MapGet(
                "",
                async Task<IReadOnlyList<KeptWalk>> (string id, RigStore store, CancellationToken cancel) =>
                    Kept((await store.Load(id, null, null, cancel)).Design)
            )
            .WithName("listWalks")
            .ProducesProblem(404);
        walks.MapPost("", Keep).WithName("keepWalk").ProducesValidationProblem().ProducesProblem(404).ProducesProblem(409);
        walks.MapDelete("/{name}", Forget).WithName("forgetWalk").ProducesProblem(404).ProducesProblem(409);
    }

    /// <summary>Changes a design as it was looked at, and tells the others.</summary>
    internal static async Task<Edited> Change(
        string id,
        int baseRevision,
        int? copy,
        string? by,
        RigStore store,
        Announcer announce,
        CancellationToken cancel,
        Func<RigDesign, (RigDesign Next, string What)> edit
    )
    {
        var state = await store.Load(id, copy, null, cancel);
        if (state.Revision != baseRevision)
            throw new StaleEdit(state.Revision, "another revision");
        var (next, what) = edit(state.Design);
        RigRules.Check(next, "");
        var revision = await store.Designs.SaveDesign(id, baseRevision, next, what, cancel);
        await announce.Changed(id, state.Copy, revision, what, by);
        return new(revision, what);
    }

    private static ReadScxml ReadDocument(RigDesign design, string? source, bool link)
    {
        if (string.IsNullOrWhiteSpace(source))
            throw new InputProblem("source", "Give the text of an SCXML document.");
        ScxmlImported read;
        try
        {
            read = ScxmlImport.Read(source, Vocabulary.Of(design));
        }
        catch (ScxmlUnreadable u)
        {
            throw new InputProblem("source", u.Message);
        }
        var name = ScriptParser.NameOf(read.Script) ?? "Imported";
        var (free, n) = (name, 2);
        while (RigPrograms.Of(design).Any(p => p.Name.Equals(free, StringComparison.OrdinalIgnoreCase)))
            free = $"{name} {n++}";
        var words = Vocabulary.Of(design);
        var parsed = ScriptParser.Parse(read.Script, words);
        var links = ScxmlLinks.Find(parsed.Program, words);
        var linked = link && links.Count > 0;
        var program = (linked ? ScxmlLinks.Link(parsed.Program, words) : parsed.Program) with { Name = free };
        var script = free == name && !linked ? read.Script : Printer.Print(program);
        return new(free, script, read.Left, ScriptParser.Parse(script, words).Diagnostics, links);
    }

    private static Task<Edited> AddDocument(
        string id,
        AddScxmlRequest request,
        RigStore store,
        Announcer announce,
        CancellationToken cancel
    ) =>
        Change(
            id,
            request.BaseRevision,
            request.Copy,
            request.By,
            store,
            announce,
            cancel,
            design =>
            {
                var read = ReadDocument(design, request.Source, request.Link);
                if (read.Left.Count > 0 && !request.LeaveOut)
                    throw new InputProblem(
                        "leaveOut",
                        $"{read.Left.Count} {(read.Left.Count == 1 ? "thing" : "things")} in the document cannot be said here. Agree "
                            + $"to leave them out, or change the document. Line {read.Left[0].Line}: {read.Left[0].Say}"
                    );
                var made = new ProgramText(read.Script, []) { Meaning = ProgramText.MeaningNow };
                var taken = design.Programs.Any(p => !p.Stored && (p.OnHost || design.PlaceOf(p) == design.PlaceOf(made)));
                return (
                    design with
                    {
                        Programs = [.. design.Programs, made with { Stored = taken }],
                    },
                    $"brought in the program {read.Name}"
                );
            }
        );

    private static Task<Edited> Add(string id, AddProgramRequest request, RigStore store, Announcer announce, CancellationToken cancel) =>
        Change(
            id,
            request.BaseRevision,
            request.Copy,
            request.By,
            store,
            announce,
            cancel,
            design =>
            {
                var name = request.Script is null ? request.Name?.Trim() ?? "" : ScriptParser.NameOf(request.Script) ?? "";
                if (!ScriptParser.IsName(name))
                    throw new InputProblem("name", "Give the program a name: letters, digits and single spaces, beginning with a letter.");
                if (RigPrograms.Of(design).Any(p => p.Name.Equals(name, StringComparison.OrdinalIgnoreCase)))
                    throw new InputProblem("name", $"There already is a program “{name}”.");
                Where(design, request.RunsOn, request.OnHost);
                var text = request.Script ?? $"program {name}\n";
                var parsed = ScriptParser.Parse(text, Vocabulary.Of(design) with { Programs = [.. Vocabulary.Of(design).Programs, name] });
                var made = new ProgramText(
                    parsed.Diagnostics.Count == 0 ? Printer.Print(parsed.Program) : text.ReplaceLineEndings("\n"),
                    []
                )
                {
                    RunsOn = request.OnHost ? null : request.RunsOn,
                    OnHost = request.OnHost,
                    Meaning = ProgramText.MeaningNow,
                };
                // Where something runs already, the new one is stored beside it.
                var taken = design.Programs.Any(p =>
                    !p.Stored && (request.OnHost || p.OnHost || design.PlaceOf(p) == design.PlaceOf(made))
                );
                return (design with { Programs = [.. design.Programs, made with { Stored = taken }] }, $"added the program {name}");
            }
        );

    private static void Where(RigDesign design, string? runsOn, bool onHost)
    {
        if (onHost || runsOn is null)
            return;
        if (!design.Controllers.Any(c => c.Name == runsOn && c.Role == NodeRole.Controller))
            throw new InputProblem("runsOn", $"There is no controller “{runsOn}”.");
    }

    private static string NameOf(RigDesign design, int index) =>
        index >= 0 && index < design.Programs.Count
            ? ScriptParser.NameOf(design.Programs[index].Script) ?? $"program {index + 1}"
            : throw new NotStored($"The rig has no program {index}.");

    private static Task<Edited> Place(
        string id,
        int index,
        PlaceProgramRequest request,
        RigStore store,
        Announcer announce,
        CancellationToken cancel
    ) =>
        Change(
            id,
            request.BaseRevision,
            request.Copy,
            request.By,
            store,
            announce,
            cancel,
            design =>
            {
                var name = NameOf(design, index);
                Where(design, request.RunsOn, request.OnHost);
                var moved = design with
                {
                    Programs = design.Programs.With(
                        index,
                        design.Programs[index] with
                        {
                            RunsOn = request.OnHost ? null : request.RunsOn,
                            OnHost = request.OnHost,
                            Stored = true,
                            Values = request.Values is { } values ? Given(values) : design.Programs[index].Values,
                        }
                    ),
                };
                var next = request.Runs ? RigPrograms.Run(moved, index) : moved;
                var at = request.OnHost ? "the host" : next.PlaceOf(next.Programs[index]) ?? "the controller";
                return (next, request.Runs ? $"let {name} run on {at}" : $"stored {name} on {at}");
            }
        );

    private static Sequence<GivenValue> Given(IReadOnlyList<PlaceValue> values)
    {
        var need = new Require();
        for (var i = 0; i < values.Count; i++)
            need.That(
                RigNames.IsName(values[i]?.Name) && values[i].Value is { Length: <= GivenValue.MostCharacters },
                $"values[{i}]",
                $"A value has a name and at most {GivenValue.MostCharacters} characters."
            );
        need.Done();
        return values.Where(v => v.Value.Trim() != "").Select(v => GivenValue.Of(v.Name, v.Value)).ToSequence();
    }

    private static Task<Edited> PlaceAlso(
        string id,
        int index,
        PlaceAlsoRequest request,
        RigStore store,
        Announcer announce,
        CancellationToken cancel
    ) =>
        Change(
            id,
            request.BaseRevision,
            request.Copy,
            request.By,
            store,
            announce,
            cancel,
            design =>
                (
                    RigPrograms.PlaceAlso(design, Known(design, index), request.RunsOn, Given(request.Values ?? [])),
                    $"placed {NameOf(design, index)} on {request.RunsOn} too"
                )
        );

    private static Task<Edited> Understood(
        string id,
        int index,
        ReadChangesRequest request,
        RigStore store,
        Announcer announce,
        CancellationToken cancel
    ) =>
        Change(
            id,
            request.BaseRevision,
            request.Copy,
            request.By,
            store,
            announce,
            cancel,
            design =>
            {
                var at = Known(design, index);
                return (
                    design with
                    {
                        Programs = design.Programs.With(at, design.Programs[at] with { Meaning = ProgramText.MeaningNow }),
                    },
                    $"read what is otherwise in {NameOf(design, index)}"
                );
            }
        );

    private static int Known(RigDesign design, int index) =>
        index >= 0 && index < design.Programs.Count ? index : throw new NotStored($"The rig has no program {index}.");

    private static Task<Edited> TakeOut(
        string id,
        int index,
        int baseRevision,
        int? copy,
        string? by,
        RigStore store,
        Announcer announce,
        CancellationToken cancel
    ) =>
        Change(
            id,
            baseRevision,
            copy,
            by,
            store,
            announce,
            cancel,
            design =>
            {
                var name = NameOf(design, index);
                if (design.Programs.Count == 1)
                    throw new InputProblem("program", "A rig keeps at least one program; empty it instead.");
                var next = design with
                {
                    Programs = design.Programs.Where((_, i) => i != index).ToSequence(),
                    Walks = design.Walks.Where(w => w.Program != name).ToSequence(),
                };
                return (next.Programs.All(p => p.Stored) ? RigPrograms.Run(next, 0) : next, $"took out the program {name}");
            }
        );

    private static Task<Edited> Delay(
        string id,
        MessageDelayRequest request,
        RigStore store,
        Announcer announce,
        CancellationToken cancel
    ) =>
        Change(
            id,
            request.BaseRevision,
            request.Copy,
            request.By,
            store,
            announce,
            cancel,
            design =>
                request.Ms is { } ms
                    ? (
                        design with
                        {
                            MessageDelay = new(
                                ms,
                                "ms",
                                request.Kind ?? Provenance.Guessed,
                                request.Kind == Provenance.Measured ? "measured" : "typed in, never tested",
                                0,
                                0,
                                Math.Max(20, ms),
                                0
                            ),
                        },
                        $"a message takes {Figures.Show(ms)} ms"
                    )
                    : (design with { MessageDelay = null }, "left open how long a message takes")
        );

    private static IReadOnlyList<KeptWalk> Kept(RigDesign design) =>
        [
            .. design.Walks.Select(w =>
            {
                try
                {
                    var last = WalkOf.Stored(design, w)[^1];
                    return last.Fault is { } fault ? new KeptWalk(w, false, fault)
                        : last.States.SequenceEqual(w.Ends) ? new(w, true, $"It ends in {string.Join(", ", w.Ends)}.")
                        : new(
                            w,
                            false,
                            $"It used to end in {string.Join(", ", w.Ends)}; with the program as it is now it ends in "
                                + $"{string.Join(", ", last.States)}."
                        );
                }
                catch (InputProblem p)
                {
                    return new KeptWalk(w, false, p.Errors.Values.First());
                }
            }),
        ];

    private static Task<Edited> Keep(string id, KeepWalkRequest request, RigStore store, Announcer announce, CancellationToken cancel) =>
        Change(
            id,
            request.BaseRevision,
            request.Copy,
            request.By,
            store,
            announce,
            cancel,
            design =>
            {
                var name = request.Name?.Trim() ?? "";
                if (name.Length is 0 or > 80)
                    throw new InputProblem("name", "Say what the walk shows, in 1 to 80 characters.");
                if (request.Note is { Length: > 500 })
                    throw new InputProblem("note", "A note has at most 500 characters.");
                if (request.Steps is null or { Count: 0 or > ScxmlWalk.MostEvents } || request.Steps.Any(s => s is null))
                    throw new InputProblem("steps", $"Take at least one step and at most {ScxmlWalk.MostEvents}.");
                var walk = new StoredWalk(name, request.Program, request.Steps.ToSequence(), [])
                {
                    From = string.IsNullOrEmpty(request.From) ? null : request.From,
                    Note = request.Note?.Trim() ?? "",
                };
                walk = walk with { Ends = WalkOf.Stored(design, walk)[^1].States.ToSequence() };
                var at = design.Walks.ToList().FindIndex(w => w.Name == name);
                return (
                    design with
                    {
                        Walks = at >= 0 ? design.Walks.With(at, walk) : [.. design.Walks, walk],
                    },
                    at >= 0 ? $"kept the walk “{name}” anew" : $"kept the walk “{name}”"
                );
            }
        );

    private static Task<Edited> Forget(
        string id,
        string name,
        int baseRevision,
        int? copy,
        string? by,
        RigStore store,
        Announcer announce,
        CancellationToken cancel
    ) =>
        Change(
            id,
            baseRevision,
            copy,
            by,
            store,
            announce,
            cancel,
            design =>
                design.Walks.Any(w => w.Name == name)
                    ? (design with { Walks = design.Walks.Where(w => w.Name != name).ToSequence() }, $"took out the walk “{name}”")
                    : throw new NotStored($"There is no walk “{name}”.")
        );
}
