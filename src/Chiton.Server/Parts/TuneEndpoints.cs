using Chiton.Core.Programs.Language;
using Chiton.Core.Proving;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Simulation;
using Chiton.Data;
using Chiton.Server.App;
using Chiton.Server.App.Room;
using Microsoft.AspNetCore.SignalR;

namespace Chiton.Server.Parts;

/// <summary>A number that is to be tuned.</summary>
/// <param name="Line">Its line in the script, from 1.</param>
/// <param name="Index">Which number of the line, from 0.</param>
/// <param name="From">Lower end of its range, in its unit as written.</param>
/// <param name="To">Upper end.</param>
public sealed record RangeRequest(int? Line, int? Index, double? From, double? To);

/// <summary>Tunes numbers of a program.</summary>
/// <param name="Numbers">One to four numbers with their ranges.</param>
/// <param name="Seed">Seed of the whole.</param>
/// <param name="Copy">Copy number; null for the first.</param>
/// <param name="Program">Which program, by its place; null for the one that runs.</param>
/// <param name="Scene">Name of the scene; null for the first that counts.</param>
/// <param name="Job">A name by which progress is told and it can be stopped.</param>
public sealed record TuneRequest(IReadOnlyList<RangeRequest?>? Numbers, double? Seed, int? Copy, int? Program, string? Scene, string? Job);

/// <summary>The numbers that may be tuned.</summary>
/// <param name="Revision">Revision they stand in.</param>
/// <param name="Program">Which program, by its place.</param>
/// <param name="Numbers">The numbers.</param>
public sealed record TunablesView(int Revision, int Program, IReadOnlyList<Tunable> Numbers);

/// <summary>What tuning found.</summary>
/// <param name="Revision">Revision that was tuned.</param>
/// <param name="Program">Which program, by its place.</param>
/// <param name="Scene">Name of the scene.</param>
/// <param name="Seed">Seed of the whole.</param>
/// <param name="Numbers">The numbers with the ranges that were tried.</param>
/// <param name="Points">What was tried, the best of those that were run again first.</param>
/// <param name="Best">Which of them is better than what stands, and not by luck; −1 where none is.</param>
/// <param name="Good">By number, where it may lie without being clearly worse.</param>
/// <param name="Runs">Runs made in all.</param>
/// <param name="Stopped">True when it was stopped early.</param>
/// <param name="Say">What follows, in words.</param>
public sealed record TuneView(
    int Revision,
    int Program,
    string Scene,
    long Seed,
    IReadOnlyList<TunedRange> Numbers,
    IReadOnlyList<TunedPoint> Points,
    int Best,
    IReadOnlyList<GoodValues> Good,
    int Runs,
    bool Stopped,
    string Say
);

/// <summary>Takes tuned values over into the program.</summary>
/// <param name="BaseRevision">The revision that was tuned.</param>
/// <param name="Numbers">The numbers at their new values.</param>
/// <param name="Source">Where they come from, in words.</param>
/// <param name="Program">Which program, by its place; null for the one that runs.</param>
/// <param name="Copy">Which copy's rate to count.</param>
/// <param name="By">The page that asks.</param>
public sealed record TakeTunedRequest(
    int BaseRevision,
    IReadOnlyList<TunedNumber>? Numbers,
    string? Source,
    int? Program,
    int? Copy,
    string? By
);

/// <summary>Better values of the numbers of a program.</summary>
public static class TuneEndpoints
{
    /// <summary>Maps the calls.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var tune = api.MapGroup("/rigs/{id}/tune").WithTags("Prove");
        tune.MapGet("", Numbers).WithName("getTunables").ProducesProblem(404);
        tune.MapPost("", Tune).WithName("tune").ProducesValidationProblem().ProducesProblem(404).ProducesProblem(409).ProducesProblem(503);
        tune.MapPost("/take", Take).WithName("takeTuned").ProducesValidationProblem().ProducesProblem(404).ProducesProblem(409);
    }

    // The program that is meant, read; it has no faults.
    private static (int Index, ProgramText Text, ProgramNode Program) Meant(RigState state, int? program)
    {
        var index = program ?? state.Design.MainProgram;
        if (index < 0 || index >= state.Design.Programs.Count)
            throw new InputProblem("program", $"Must be from 0 to {state.Design.Programs.Count - 1}.");
        var text = state.Design.ProgramAt(index);
        var read = ScriptParser.Parse(text.Script, Vocabulary.For(state.Design, text));
        return read.Diagnostics.Count == 0
            ? (index, text, read.Program)
            : throw new InputProblem("program", "The program has faults. Mend them in Program first.");
    }

    private static async Task<TunablesView> Numbers(string id, int? copy, int? program, RigStore store, CancellationToken cancel)
    {
        var state = await store.Load(id, copy, null, cancel);
        if (program is null && state.Parsed.Diagnostics.Count > 0)
            return new(state.Revision, state.Design.MainProgram, []);
        var (index, _, read) = Meant(state, program);
        return new(state.Revision, index, Tunables.Of(read));
    }

    /// <summary>The design with numbers of a program at other values, and the lines that are other then.</summary>
    /// <param name="state">What stands.</param>
    /// <param name="program">Which program; null for the one that runs.</param>
    /// <param name="numbers">The numbers.</param>
    internal static (RigDesign Rig, IReadOnlyList<string> Lines) With(RigState state, int? program, IReadOnlyList<TunedNumber> numbers)
    {
        var (index, text, read) = Meant(state, program);
        var script = Tunables.With(text.Script, read, numbers);
        var (now, was) = (script.Split('\n'), text.Script.Split('\n'));
        return (
            state.Design.WithProgram(index, text with { Script = script }),
            [.. now.Where((line, i) => line != was[i]).Select(line => line.Trim())]
        );
    }

    private static async Task<TuneView> Tune(
        string id,
        TuneRequest request,
        RigStore store,
        OwnJobs jobs,
        IHubContext<BenchHub, IBenchPage> hub,
        CancellationToken cancel
    )
    {
        var need = new Require();
        var seed = RunInput.Seed(need, request.Seed);
        var asked = request.Numbers ?? [];
        need.That(
            asked.Count is >= 1 and <= Tuner.MostNumbers,
            "numbers",
            $"Choose from 1 to {Tuner.MostNumbers} numbers: with more, too many runs would be needed to tell which matters."
        );
        need.Done();
        var state = await store.Load(id, request.Copy, null, cancel);
        var (index, text, read) = Meant(state, request.Program);
        var known = Tunables.Of(read);
        var ranges = new List<TunedRange>();
        for (var i = 0; i < asked.Count; i++)
        {
            var number = known.FirstOrDefault(k => k.Line == asked[i]?.Line && k.Index == asked[i]?.Index);
            need.That(number is not null, $"numbers[{i}].line", "There is no number there that can be tuned.");
            var from = need.Number(asked[i]?.From, $"numbers[{i}].from", -1e6, 1e6);
            var to = need.Number(asked[i]?.To, $"numbers[{i}].to", -1e6, 1e6);
            need.That(!(to <= from), $"numbers[{i}].to", "Must be more than where the range begins: what does not vary cannot be tuned.");
            if (number is not null)
                need.That(!ranges.Any(r => r.Number == number), $"numbers[{i}].line", "This number is chosen already.");
            if (need.Holds)
                ranges.Add(new(number!, number!.Whole ? Math.Ceiling(from) : from, number.Whole ? Math.Floor(to) : to));
        }
        need.Done();
        var scene = state.Scene(request.Scene);
        var guests = await RunInput.Guests(store, state, scene, cancel);
        if (state.Plan(scene, guests).Unproved is { } nothing)
            throw new InputProblem("scene", nothing);
        string? refused = null;
        IProvable? Bench(IReadOnlyList<double> values)
        {
            TunedNumber[] at = [.. ranges.Select((r, d) => new TunedNumber(r.Number.Line, r.Number.Index, values[d]))];
            try
            {
                var rig = state.Design.WithProgram(index, text with { Script = Tunables.With(text.Script, read, at) });
                return new PlanProved(BenchPlan.Build(state.Bench with { Rig = rig }, scene, guests));
            }
            catch (InputProblem p)
            {
                refused = p.Errors.Values.First();
                return null;
            }
        }
        var tell = ProveEndpoints.Teller(id, request.Job, Tuner.About(ranges.Count), hub);
        var found = await jobs.Run(
            WorkKind.Long,
            request.Job,
            null,
            stop =>
            {
                tell.Restart();
                return Tuner.Run(ranges, Bench, seed, (n, _) => tell.Tell(n, 0), 0, stop, TaskScheduler.Current);
            },
            cancel,
            true
        );
        cancel.ThrowIfCancellationRequested();
        if (found.Points.Count == 0)
            throw new InputProblem("numbers", refused ?? "It was stopped before anything was tried.");
        return new(
            state.Revision,
            index,
            scene.Name,
            seed,
            ranges,
            found.Points,
            found.Best,
            found.Good,
            found.Runs,
            found.Stopped,
            TuneWords.Say(found, ranges)
        );
    }

    private static async Task<Edited> Take(
        string id,
        TakeTunedRequest request,
        RigStore store,
        Announcer announce,
        CancellationToken cancel
    )
    {
        var need = new Require();
        var numbers = request.Numbers ?? [];
        need.That(numbers.Count is >= 1 and <= Tuner.MostNumbers, "numbers", $"Give from 1 to {Tuner.MostNumbers} numbers.");
        for (var i = 0; i < numbers.Count; i++)
            need.Number(numbers[i]?.Value, $"numbers[{i}].value", -1e6, 1e6);
        need.That(request.Source is { Length: > 0 and <= 200 }, "source", "Say where the values come from, in up to 200 characters.");
        need.Done();
        var state = await store.Load(id, request.Copy, null, cancel);
        if (state.Revision != request.BaseRevision)
            throw new StaleEdit(state.Revision, "another revision");
        var (index, text, read) = Meant(state, request.Program);
        var script = Tunables.With(text.Script, read, numbers);
        if (ScriptParser.Parse(script, Vocabulary.For(state.Design, text)).Diagnostics is [{ } fault, ..])
            throw new InputProblem("numbers", $"Line {fault.Line}: {fault.Message}");
        var what = $"took {(numbers.Count == 1 ? "a tuned number" : $"{numbers.Count} tuned numbers")} over";
        var revision = await store.Designs.SaveProgram(
            id,
            request.BaseRevision,
            index,
            script,
            program => Tunables.Marks(program, numbers, request.Source!),
            what,
            cancel
        );
        await announce.Changed(id, state.Copy, revision, what, request.By);
        return new(revision, what);
    }
}
