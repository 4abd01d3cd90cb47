using System.Text.Json;
using Chiton.Core.Motion;
using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Scxml;
using Chiton.Core.Programs.Statecharts;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Chiton.Data;
using Chiton.Server.App;
using Chiton.Server.App.Room;

namespace Chiton.Server.Parts;

/// <summary>One thing that happens in a walk.</summary>
/// <param name="Name">Name of the event; when left out only time passes.</param>
/// <param name="Data">What it carries: any JSON.</param>
/// <param name="AfterMs">How long after the one before, ms; 0 when left out.</param>
public sealed record WalkStep(string? Name, JsonElement? Data, double? AfterMs);

/// <summary>Asks for a walk through a machine, without any rig's physics.</summary>
/// <param name="Format">script or scxml.</param>
/// <param name="Source">The text of the machine.</param>
/// <param name="RigId">Of a script: the rig whose names it uses.</param>
/// <param name="Rig">The same, as a design.</param>
/// <param name="Events">What happens, in order.</param>
/// <param name="From">Of a script: a state or routine to begin with, alone; the whole program when left out.</param>
/// <param name="Together">Of a rig: all its programs that run, walked together with their messages; the source is left out.</param>
/// <param name="Job">A name by which the walk can be stopped.</param>
/// <param name="Program">Of a rig: the place of the script among its programs, which gives it its values and devices; the first of its
/// name when left out.</param>
public sealed record WalkRequest(
    string? Format,
    string? Source,
    string? RigId,
    RigDesign? Rig,
    IReadOnlyList<WalkStep>? Events,
    string? From = null,
    bool Together = false,
    string? Job = null,
    int? Program = null
);

/// <summary>Walks through machines by hand or by a script.</summary>
public static class WalkEndpoints
{
    /// <summary>Maps the calls.</summary>
    public static void Map(RouteGroupBuilder api) =>
        api.MapPost(
                "/walk",
                async Task<WalkResult> (WalkRequest request, RigStore store, OwnJobs jobs, CancellationToken cancel) =>
                {
                    var need = new Require();
                    need.That(request.Format is "scxml" or "script", "format", "Must be script or scxml.");
                    need.That(request.RigId is null || request.Rig is null, "rig", "Give the rig by its address or as a whole, not both.");
                    need.That(
                        !request.Together || request is { Format: "script" } && (request.RigId is not null || request.Rig is not null),
                        "together",
                        "Only the scripts of a rig are walked together: give rigId or rig."
                    );
                    need.That(request.Together || !string.IsNullOrWhiteSpace(request.Source), "source", "Give the text of the machine.");
                    var given = request.Events ?? [];
                    need.That(given.Count <= ScxmlWalk.MostEvents, "events", $"At most {ScxmlWalk.MostEvents} events.");
                    var events = new List<WalkEvent>();
                    for (var i = 0; i < Math.Min(given.Count, ScxmlWalk.MostEvents); i++)
                    {
                        var e = given[i];
                        if (e is null)
                        {
                            need.That(false, $"events[{i}]", "Give an event.");
                            continue;
                        }
                        var after = need.Number(e.AfterMs ?? 0, $"events[{i}].afterMs", 0, 1e9);
                        need.That(e.Name is null or { Length: > 0 and <= 200 }, $"events[{i}].name", "A name has 1 to 200 characters.");
                        events.Add(new(e.Name, e.Data is { } data ? Plain(data) : null, after));
                    }
                    need.Done();
                    if (request.Rig is { } inline)
                    {
                        request = request with { Rig = Placing.Apart(inline) };
                        RigRules.Check(request.Rig, "rig");
                    }
                    var known = request.RigId is { } id ? await store.Load(id, null, null, cancel) : null;
                    var design = known?.Design ?? request.Rig;
                    var calibrations = known?.Calibrations ?? new Dictionary<string, SensorCalibration>();
                    return await jobs.Run(
                        WorkKind.Quick,
                        request.Job,
                        Limits.WalkWork,
                        stop => Walk(request, design, calibrations, known?.Moves.Timings, events, new(ScriptWalk.MostSteps, stop)),
                        cancel
                    );
                }
            )
            .WithTags("Program")
            .WithName("walk")
            .ProducesValidationProblem()
            .ProducesProblem(404)
            .ProducesProblem(409)
            .ProducesProblem(413)
            .ProducesProblem(503);

    private static WalkResult Walk(
        WalkRequest request,
        RigDesign? design,
        IReadOnlyDictionary<string, SensorCalibration> calibrations,
        Timings? timings,
        IReadOnlyList<WalkEvent> events,
        StepBudget budget
    )
    {
        if (request.Format == "scxml")
            return ScxmlWalk.Run(request.Source!, events, budget);
        if (request.Together)
        {
            var all = WalkOf.Together(design!, calibrations, events, budget, timings);
            return new(all[0].States, [.. all.Skip(1).Select(m => m.States)])
            {
                Moments = all,
                Inside = [.. all.Skip(1).Select(m => m.Inside)],
                Parts = [],
            };
        }
        var words = design is null ? new Vocabulary([], [], []) : Vocabulary.For(design, Place(design, request));
        var parsed = ScriptParser.Parse(request.Source!, words);
        if (parsed.Diagnostics.Count > 0)
            throw new InputProblem("source", string.Join(" ", parsed.Diagnostics.Take(20).Select(d => $"Line {d.Line}: {d.Message}")));
        var program = string.IsNullOrEmpty(request.From) ? parsed.Program : Alone.Of(parsed.Program, request.From);
        var moments = ScriptWalk.Run(
            design is null ? ScriptCompiler.Compile(program, words) : ScriptCompiler.ForWalk(program, design, calibrations, timings),
            events,
            budget
        );
        return new(moments[0].States, [.. moments.Skip(1).Select(m => m.States)])
        {
            Moments = moments,
            Inside = [.. moments.Skip(1).Select(m => m.Inside)],
            Parts = Alone.Parts(parsed.Program),
        };
    }

    // Where the text is placed: its place says which devices it means and which values it has. A text that the rig has
    // under its name runs there; any other knows the rig's names and has no place.
    private static ProgramText? Place(RigDesign design, WalkRequest request)
    {
        if (request.Program is { } index)
            return index >= 0 && index < design.Programs.Count
                ? design.Programs[index]
                : throw new InputProblem("program", $"This rig has {Figures.Count(design.Programs.Count, "program")}, counted from 0.");
        return design.Programs.FirstOrDefault(p => p.Script == request.Source)
            ?? (
                ScriptParser.NameOf(request.Source!) is { } name
                    ? design.Programs.FirstOrDefault(p => ScriptParser.NameOf(p.Script) == name)
                    : null
            );
    }

    // JSON as the values that expressions know.
    private static object? Plain(JsonElement e) =>
        e.ValueKind switch
        {
            JsonValueKind.Number => e.GetDouble(),
            JsonValueKind.String => e.GetString(),
            JsonValueKind.True => true,
            JsonValueKind.False => false,
            JsonValueKind.Array => e.EnumerateArray().Select(Plain).ToList(),
            JsonValueKind.Object => e.EnumerateObject().GroupBy(p => p.Name).ToDictionary(g => g.Key, g => Plain(g.Last().Value)),
            _ => null,
        };
}
