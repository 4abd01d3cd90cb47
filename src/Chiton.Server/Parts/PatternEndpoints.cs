using Chiton.Core.Programs;
using Chiton.Core.Programs.Patterns;
using Chiton.Core.Quantities;
using Chiton.Core.Sensing;
using Chiton.Data;

namespace Chiton.Server.Parts;

/// <summary>A hole of a pattern with what fits it on this rig.</summary>
/// <param name="Id">Its short name.</param>
/// <param name="Label">What is asked for.</param>
/// <param name="Kind">What fills it.</param>
/// <param name="Of">The hole it belongs to; null when to none.</param>
/// <param name="Unit">Unit of a number.</param>
/// <param name="Only">The school under which it is asked, as “choice=school”; null when always.</param>
/// <param name="Options">What fits.</param>
/// <param name="Value">What is taken to begin with.</param>
/// <param name="Source">Where that comes from.</param>
/// <param name="Missing">What the rig lacks; null when something fits.</param>
public sealed record HoleView(string Id, string Label, HoleKind Kind, string? Of, string Unit, string? Only, IReadOnlyList<HoleOption> Options, string Value, string Source, string? Missing);

/// <summary>A pattern held against this rig.</summary>
/// <param name="Id">Its short name.</param>
/// <param name="Number">Its number in the library.</param>
/// <param name="Name">What it does.</param>
/// <param name="When">When to use it.</param>
/// <param name="Trap">What goes wrong with it.</param>
/// <param name="Choices">Where schools differ, the default first.</param>
/// <param name="Holes">Its holes.</param>
public sealed record PatternView(string Id, int Number, string Name, string When, string Trap, IReadOnlyList<PatternChoice> Choices, IReadOnlyList<HoleView> Holes);

/// <summary>Fills a pattern.</summary>
/// <param name="Program">The program it is for, by its place; the one that runs when left out.</param>
/// <param name="Values">What fills the holes, by their short names.</param>
/// <param name="Schools">The school of each choice; the default where none is given.</param>
/// <param name="Into">A region that takes up its states; left out for a region of its own.</param>
public sealed record FillPatternRequest(int? Program, IReadOnlyDictionary<string, string>? Values, IReadOnlyDictionary<string, string>? Schools, string? Into);

/// <summary>The library of patterns.</summary>
public static class PatternEndpoints
{
    /// <summary>Maps the calls.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var patterns = api.MapGroup("/rigs/{id}/patterns").WithTags("Program");
        patterns.MapGet("", async Task<IReadOnlyList<PatternView>> (string id, int? copy, int? program, RigStore store, CancellationToken cancel) =>
        {
            var state = await store.Load(id, copy, null, null, cancel);
            var (name, readings) = (ProgramEndpoints.Read(state, program).Name, Readings(state));
            return [.. PatternLibrary.All.Select(p => PatternFitting.Fit(p, state.Design, name, readings)).Select(f => new PatternView(f.Pattern.Id, f.Pattern.Number, f.Pattern.Name, f.Pattern.When, f.Pattern.Trap, f.Pattern.Choices,
                [.. f.Holes.Select(h => new HoleView(h.Hole.Id, h.Hole.Label, h.Hole.Kind, h.Hole.Of, h.Hole.Unit, h.Hole.Only, h.Options, h.Value, h.Source, h.Missing))]))];
        }).WithName("listPatterns").ProducesProblem(404);
        patterns.MapPost("/{pattern}", async Task<PatternResult> (string id, string pattern, FillPatternRequest request, RigStore store, CancellationToken cancel) =>
        {
            var state = await store.Load(id, null, null, null, cancel);
            var found = PatternLibrary.All.FirstOrDefault(p => p.Id == pattern) ?? throw new NotStored($"There is no pattern “{pattern}”.");
            var read = ProgramEndpoints.Read(state, request.Program);
            return PatternFitting.Insert(found, state.Design, state.Design.ProgramAt(read.Index).Script, request.Values ?? new Dictionary<string, string>(), request.Schools ?? new Dictionary<string, string>(), string.IsNullOrEmpty(request.Into) ? null : request.Into);
        }).WithName("fillPattern").ProducesValidationProblem().ProducesProblem(404);
    }

    // Readings in a row that each sensor's zones need on this copy.
    private static Dictionary<string, int> Readings(RigState state)
    {
        var needed = new Dictionary<string, int>();
        foreach (var sensor in state.Design.Sensors)
        {
            if (!state.Calibrations.TryGetValue(sensor.Name, out var calibration)) continue;
            if (sensor.Facts.View == "scalar" && calibration.Pairs() is { Count: > 0 } pairs) needed[sensor.Name] = Math.Clamp(pairs.Max(p => p.Sum.Result.ReadingsNeededSafe ?? p.Sum.Result.ReadingsNeeded ?? 5), 1, 20);
            else if (sensor.Facts.View == "bands" && sensor.Bands.Count > 0 && calibration.Zones.Any(z => z.Readings.Count >= 3)) needed[sensor.Name] = Math.Clamp(SenseJudge.Judged(sensor, calibration).Boundaries.Select(b => b.ReadingsNeeded ?? 5).DefaultIfEmpty(1).Max(), 1, 20);
        }
        return needed;
    }
}
