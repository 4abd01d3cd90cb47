using Chiton.Core.Checking;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Data;
using Chiton.Server.App;
using Chiton.Server.App.Room;

namespace Chiton.Server.Parts;

/// <summary>A finding, as it is shown.</summary>
/// <param name="Key">What it is and whose; the same after other lines were changed.</param>
/// <param name="Code">Code of the catalogue.</param>
/// <param name="Title">What that code is about.</param>
/// <param name="Severity">How bad it is.</param>
/// <param name="Part">The part in whose margin it stands.</param>
/// <param name="Program">Which of the rig's programs it speaks of.</param>
/// <param name="State">State it stands in; empty for the head.</param>
/// <param name="Line">Line of the script; 0 when it speaks of the whole.</param>
/// <param name="LineOfState">Which line of its state, from 1; 0 for the state itself or the head.</param>
/// <param name="Device">The device it speaks of; null where it speaks of none.</param>
/// <param name="Headline">What will happen, in a short sentence.</param>
/// <param name="Say">Why, with the figures.</param>
/// <param name="Cure">What would help; null where no button can.</param>
/// <param name="Silenced">Why it was set aside; null where it was not.</param>
/// <param name="Before">Why it was set aside before its figures changed; null where it was not.</param>
/// <param name="Walk">The events of a walk that leads there; null where none is known.</param>
/// <param name="Because">Key of the finding that it follows from; null where it stands by itself.</param>
/// <param name="Tried">What the bench says of it; null where it cannot tell, or was not asked yet.</param>
/// <param name="NotTried">True where the bench can be asked and was not yet.</param>
/// <param name="CureTried">What the cure comes to in the bench; null while it was not tried.</param>
/// <param name="Run">A run that shows it; null where none is known.</param>
/// <param name="Sum">Name of the sum that it rests on; null where it rests on none.</param>
/// <param name="Steps">What was worked out, step by step.</param>
public sealed record FindingView(
    string Key,
    string Code,
    string Title,
    Severity Severity,
    string Part,
    int Program,
    string State,
    int Line,
    int LineOfState,
    string? Device,
    string Headline,
    string Say,
    Cure? Cure,
    string? Silenced,
    string? Before,
    IReadOnlyList<StoredStep>? Walk,
    string? Because,
    string? Tried,
    bool NotTried,
    string? CureTried,
    FindingRun? Run,
    string? Sum,
    IReadOnlyList<Step> Steps
);

/// <summary>A copy of a rig, as a column of the table by code.</summary>
/// <param name="Rig">Address of the rig.</param>
/// <param name="Name">Its name.</param>
/// <param name="Copy">Number of the copy.</param>
/// <param name="Unlooked">Why nothing could be looked at; null where it could.</param>
public sealed record FindingsOf(string Rig, string Name, int Copy, string? Unlooked);

/// <summary>What a copy has of one code.</summary>
/// <param name="Count">How many were found that nobody set aside.</param>
/// <param name="Severity">How bad the worst of them is; “holds” where none was found.</param>
/// <param name="Headline">What the worst of them says; empty where none was found.</param>
public sealed record FindingsCell(int Count, Severity Severity, string Headline);

/// <summary>A row of the table by code.</summary>
/// <param name="Code">The code.</param>
/// <param name="Title">What it is about.</param>
/// <param name="Cells">Copy by copy, in the order of the columns.</param>
public sealed record FindingsRow(string Code, string Title, IReadOnlyList<FindingsCell> Cells);

/// <summary>Which rigs and copies have what.</summary>
/// <param name="Columns">The copies.</param>
/// <param name="Rows">Code by code, the worst first; codes of which nothing was found are left out.</param>
public sealed record FindingsTable(IReadOnlyList<FindingsOf> Columns, IReadOnlyList<FindingsRow> Rows);

/// <summary>How far all that may happen to the programs was gone through.</summary>
/// <param name="Far">How far.</param>
/// <param name="Running">True while it goes deeper.</param>
public sealed record ExplorationView(ExploredFar Far, bool Running);

/// <summary>What runs of a scene came to, for the checks.</summary>
/// <param name="Scene">Its name.</param>
/// <param name="Counts">True where the header counts it.</param>
/// <param name="Runs">Runs made.</param>
/// <param name="Passes">How many passed.</param>
/// <param name="Cannot">Why it could not be run; null where it was.</param>
public sealed record TriedScene(string Scene, bool Counts, int Runs, int Passes, string? Cannot);

/// <summary>How far the bench was tried for the checks.</summary>
/// <param name="Running">True while it runs.</param>
/// <param name="Settled">True once it ran as often as it is going to.</param>
/// <param name="Now">What it does now; null while it rests.</param>
/// <param name="Done">Runs made.</param>
/// <param name="Of">Of how many; 0 before it begins.</param>
/// <param name="Scenes">Scene by scene.</param>
public sealed record TriesView(bool Running, bool Settled, string? Now, int Done, int Of, IReadOnlyList<TriedScene> Scenes);

/// <summary>A run of the bench that shows a finding.</summary>
/// <param name="Scene">Its scene.</param>
/// <param name="Seed">Its seed.</param>
/// <param name="CopySeed">Seed of the made-up copy.</param>
public sealed record FindingRun(string Scene, long Seed, long CopySeed);

/// <summary>Goes deeper.</summary>
/// <param name="Copy">Copy number; null for the first.</param>
public sealed record ExploreRequest(int? Copy);

/// <summary>Sets a finding aside.</summary>
/// <param name="Reason">Why, 3 to 300 characters.</param>
/// <param name="Copy">Copy number; null for the first.</param>
/// <param name="By">The page that asks.</param>
public sealed record SilenceRequest(string? Reason, int? Copy, string? By);

/// <summary>Check: what is wrong or risky before it runs.</summary>
public static class CheckEndpoints
{
    /// <summary>Adds the endpoints.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var findings = api.MapGroup("/rigs/{id}/findings").WithTags("Check");
        findings.MapGet("", Listed).WithName("listFindings").ProducesProblem(404);
        findings.MapGet("/looked", LookedAt).WithName("listLooked").ProducesProblem(404);
        findings.MapPost("/{key}/silence", Silence).WithName("silenceFinding").ProducesValidationProblem().ProducesProblem(404);
        api.MapGet("/findings/table", Table).WithTags("Check").WithName("compareFindings").ProducesValidationProblem();
        var exploration = api.MapGroup("/rigs/{id}/exploration").WithTags("Check");
        exploration.MapGet("", Explored).WithName("getExploration").ProducesProblem(404);
        exploration.MapPost("", Deeper).WithName("exploreDeeper").ProducesValidationProblem().ProducesProblem(404);
        exploration.MapDelete("", StopExploring).WithName("stopExploring").ProducesProblem(404);
        var tries = api.MapGroup("/rigs/{id}/tries").WithTags("Check");
        tries.MapGet("", Tried).WithName("getTries").ProducesProblem(404);
        tries.MapPost("", TryOn).WithName("tryBench").ProducesProblem(404);
        tries.MapDelete("", StopTrying).WithName("stopTries").ProducesProblem(404);
        findings.MapDelete("/{key}/silence", Speak).WithName("showFinding").ProducesProblem(404);
    }

    private static async Task<IReadOnlyList<FindingView>> Listed(
        string id,
        RigStore store,
        CancellationToken cancel,
        int? copy = null,
        int? program = null
    )
    {
        var state = await store.Load(id, copy, null, cancel);
        return [.. (state.Report().Findings ?? []).Where(f => program is null || f.Program == program).Select(f => View(f, state))];
    }

    private static FindingView View(Finding f, RigState state)
    {
        var check = Catalogue.All.First(c => c.Code == f.Code);
        var silenced = state.Silenced(f);
        return new(
            f.Key,
            f.Code,
            check.Title,
            f.Severity,
            check.Part,
            f.Program,
            f.Owner,
            f.Line,
            f.LineOfOwner,
            f.Device,
            f.Headline,
            f.Say,
            f.Cure,
            silenced,
            // What was set aside speaks again once its figures are others.
            silenced is null
                ? state.Silences.GetValueOrDefault(f.Key)?.Reason
                : null,
            f.Walk is null ? null : [.. f.Walk.Select(e => new StoredStep(e.Name, e.AfterMs))],
            f.Because,
            f.Tried,
            f.Tried is null && BenchSays.CanTell(f.Code) && !(Trying.Of(state.Stamp) is { Ran: not null }),
            f.Cure is null ? null : f.CureTried?.Say,
            f.Run is { } run ? new(run.Scene, run.Seed, run.CopySeed) : null,
            f.Sum?.Sum,
            f.Sum?.Steps ?? []
        );
    }

    private static async Task<IReadOnlyList<Looked>> LookedAt(string id, RigStore store, CancellationToken cancel, int? copy = null) =>
        (await store.Load(id, copy, null, cancel)).Report().Looked;

    // More columns than that nobody reads on a page.
    private const int MostColumns = 40;

    private static async Task<FindingsTable> Table(RigStore store, CancellationToken cancel, string? rigs = null)
    {
        string[]? wanted = rigs?.Split(',', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
        var all = await store.List(cancel);
        if (wanted?.FirstOrDefault(w => all.All(r => r.Rig.Id != w)) is { } unknown)
            throw new InputProblem("rigs", $"There is no rig “{unknown}”.");
        var columns = new List<(FindingsOf Of, IReadOnlyList<Finding> Found)>();
        foreach (var (rig, _, copies) in all.Where(r => wanted is null || wanted.Contains(r.Rig.Id)))
        foreach (var copy in copies)
        {
            if (columns.Count == MostColumns)
                break;
            var state = await store.Load(rig.Id, copy.Number, null, cancel);
            var open = state.Open;
            columns.Add(
                (
                    new(rig.Id, state.Design.Name, copy.Number, open is null ? "Its programs cannot be read." : null),
                    [.. (open ?? []).Where(f => f.Severity != Severity.Holds)]
                )
            );
        }
        return new(
            [.. columns.Select(c => c.Of)],
            [
                .. Catalogue
                    .All.Where(check => columns.Any(c => c.Found.Any(f => f.Code == check.Code)))
                    .Select(check => new FindingsRow(
                        check.Code,
                        check.Title,
                        [
                            .. columns.Select(c =>
                                c.Found.Where(f => f.Code == check.Code).OrderBy(f => f.Severity).ToArray() is { Length: > 0 } own
                                    ? new FindingsCell(own.Length, own[0].Severity, own[0].Headline)
                                    : new FindingsCell(0, Severity.Holds, "")
                            ),
                        ]
                    ))
                    .OrderBy(r => r.Cells.Min(c => c.Severity)),
            ]
        );
    }

    private static ExplorationView View(RigState state) =>
        Exploring.Of(state.Stamp) is { } deeper && (deeper.Running || deeper.Version > 0)
            ? new(deeper.Far, deeper.Running)
            : new(state.Report().Explored, false);

    private static async Task<ExplorationView> Explored(string id, RigStore store, CancellationToken cancel, int? copy = null) =>
        View(await store.Load(id, copy, null, cancel));

    private static async Task<ExplorationView> Deeper(
        string id,
        ExploreRequest request,
        RigStore store,
        Announcer announce,
        Caller caller,
        CancellationToken cancel
    )
    {
        var state = await store.Load(id, request.Copy, null, cancel);
        // There is one at a time in the whole server: a team waits for another's, the desk goes first.
        if (caller.Session is not null && Exploring.Going is { } going && going.Stamp != state.Stamp)
            throw new TooMany("Somebody else goes through everything at this moment. Try again once that is over.");
        var exploring =
            state.ExploreDeeper(() =>
            {
                RigEndpoints.Forget();
                return announce.Changed(id, state.Copy, state.Revision, "went through more of what may happen", null);
            }) ?? throw new InputProblem("program", "A program that runs has faults, or none runs: there is nothing to go through.");
        return new(exploring.Far, exploring.Running);
    }

    private static async Task<ExplorationView> StopExploring(string id, RigStore store, CancellationToken cancel, int? copy = null)
    {
        var state = await store.Load(id, copy, null, cancel);
        Exploring.Of(state.Stamp)?.Stop();
        return View(state);
    }

    private static TriesView View(Trying? trying) =>
        new(
            trying?.Running ?? false,
            trying?.Settled ?? false,
            trying?.Now,
            trying?.Progress.Done ?? 0,
            trying?.Progress.Of ?? 0,
            [.. (trying?.Ran ?? []).Select(r => new TriedScene(r.Scene, r.Counts, r.Runs, r.Passes, r.Cannot))]
        );

    // Whoever looks at what was found wants to know what the bench says of it.
    private static async Task<TriesView> Tried(string id, RigStore store, Trier trier, CancellationToken cancel, int? copy = null)
    {
        var state = await store.Load(id, copy, null, cancel);
        var trying = Trying.Of(state.Stamp);
        if (trying is not { Running: true } and not { Settled: true })
            trier.Ask(id, state.Copy);
        return View(trying);
    }

    private static async Task<TriesView> TryOn(string id, ExploreRequest request, RigStore store, Trier trier, CancellationToken cancel)
    {
        var state = await store.Load(id, request.Copy, null, cancel);
        trier.Ask(id, state.Copy, true);
        return View(Trying.Begin(state.Stamp));
    }

    private static async Task<TriesView> StopTrying(string id, RigStore store, Trier trier, CancellationToken cancel, int? copy = null)
    {
        var state = await store.Load(id, copy, null, cancel);
        trier.Stop(id, state.Copy);
        return View(Trying.Of(state.Stamp));
    }

    private static async Task<FindingView> Silence(
        string id,
        string key,
        SilenceRequest request,
        RigStore store,
        Announcer announce,
        CancellationToken cancel
    )
    {
        var reason = request.Reason?.Trim() ?? "";
        if (reason.Length is < 3 or > 300)
            throw new InputProblem("reason", "Say why in 3 to 300 characters: whoever comes after you wants to know.");
        var state = await store.Load(id, request.Copy, null, cancel);
        var finding = Find(state, key);
        if (finding.Severity == Severity.Holds)
            throw new InputProblem("key", "This says that something holds: there is nothing to set aside.");
        await store.Silences.Keep(id, state.Copy, finding.Key, finding.Said, reason, cancel);
        RigEndpoints.Forget();
        await announce.Changed(id, state.Copy, state.Revision, $"set aside “{finding.Headline}”", request.By);
        return View(finding, await store.Load(id, state.Copy, null, cancel));
    }

    private static async Task<FindingView> Speak(
        string id,
        string key,
        RigStore store,
        Announcer announce,
        CancellationToken cancel,
        int? copy = null,
        string? by = null
    )
    {
        var state = await store.Load(id, copy, null, cancel);
        var finding = Find(state, key);
        if (await store.Silences.Drop(id, state.Copy, finding.Key, cancel))
        {
            RigEndpoints.Forget();
            await announce.Changed(id, state.Copy, state.Revision, $"shows “{finding.Headline}” again", by);
        }
        return View(finding, await store.Load(id, state.Copy, null, cancel));
    }

    private static Finding Find(RigState state, string key) =>
        (state.Report().Findings ?? []).FirstOrDefault(f => f.Key == key) ?? throw new NotStored("This finding is settled already.");
}
