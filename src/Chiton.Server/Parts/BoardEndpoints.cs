using System.IO.Compression;
using System.Text;
using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Outside;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Simulation;
using Chiton.Data;
using Chiton.Server.App;
using Chiton.Server.App.Room;

namespace Chiton.Server.Parts;

/// <summary>A file of code for a board.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Bytes">Its size, bytes.</param>
/// <param name="Text">What stands in it.</param>
public sealed record BoardFileView(string Name, int Bytes, string Text);

/// <summary>Programs as code for a board.</summary>
/// <param name="Revision">The revision that they are of.</param>
/// <param name="Name">Name of the rig in the code.</param>
/// <param name="Program">The program; null for all that run.</param>
/// <param name="Programs">How many there are in it.</param>
/// <param name="Files">The files, the one with the programs first.</param>
/// <param name="Names">Names in the code, with what they are.</param>
/// <param name="Numbers">Numbers that are baked in, and where each comes from.</param>
/// <param name="Cannot">What a board cannot know or do by itself.</param>
/// <param name="Sizes">What it takes on a board of 32 bits, counted; null in a language whose interpreter decides.</param>
public sealed record BoardCodeView(
    int Revision,
    string Name,
    string? Program,
    int Programs,
    IReadOnlyList<BoardFileView> Files,
    IReadOnlyList<BoardName> Names,
    IReadOnlyList<BoardNumber> Numbers,
    IReadOnlyList<string> Cannot,
    BoardSizes? Sizes
);

/// <summary>Programs that leave as code for real boards.</summary>
public static class BoardEndpoints
{
    /// <summary>Maps the calls.</summary>
    /// <param name="program">The calls about the program of a rig.</param>
    public static void Map(RouteGroupBuilder program)
    {
        program.MapGet("/board", View).WithName("getBoardCode").ProducesValidationProblem().ProducesProblem(404);
        program
            .MapGet("/board.zip", Files)
            .WithName("getBoardFiles")
            .Produces(200, contentType: "application/zip")
            .ProducesValidationProblem()
            .ProducesProblem(404)
            .ProducesProblem(503);
    }

    private static (BoardCopy Copy, BoardTaken Taken, int? Index) Taken(RigState state, int? program, bool? all, string? language)
    {
        var need = new Require();
        need.That(language is "cpp" or "python", "language", "Must be cpp or python.");
        need.Done();
        int? index = all == true ? null : program ?? state.Design.MainProgram;
        var known = state.Bench;
        var copy = new BoardCopy(
            known.Rig,
            $"copy {state.Copy.ToString(System.Globalization.CultureInfo.InvariantCulture)}",
            known.Moves,
            known.Calibrations,
            known.Positions
        )
        {
            Holds = BoxHolding.Of(state.Revision, state.ToSend).ToString(),
            Revision = $"revision {state.Revision.ToString(System.Globalization.CultureInfo.InvariantCulture)}",
        };
        return (copy, BoardCode.Take(copy, index, language == "cpp" ? BoardLanguage.Cpp : BoardLanguage.Python), index);
    }

    private static string? NameOf(RigState state, int? index) =>
        index is { } i ? RigPrograms.Of(state.Design).FirstOrDefault(p => p.Index == i)?.Name : null;

    private static async Task<BoardCodeView> View(
        string id,
        int? copy,
        int? program,
        bool? all,
        string? language,
        RigStore store,
        CancellationToken cancel
    )
    {
        var state = await store.Load(id, copy, null, cancel);
        var (_, taken, index) = Taken(state, program, all, language);
        return new(
            state.Revision,
            taken.Name,
            NameOf(state, index),
            taken.Names.Count(n => n.Number is null),
            [.. taken.Files.Select(f => new BoardFileView(f.Name, Encoding.UTF8.GetByteCount(f.Text), f.Text))],
            taken.Names,
            taken.Numbers,
            taken.Cannot,
            taken.Sizes
        );
    }

    // The files with a trace of one run of the bench, and with what the engine says the programs do then.
    private static async Task<IResult> Files(
        string id,
        int? copy,
        int? program,
        bool? all,
        string? language,
        RigStore store,
        OwnJobs jobs,
        CancellationToken cancel
    )
    {
        var state = await store.Load(id, copy, null, cancel);
        var (board, taken, index) = Taken(state, program, all, language);
        var files = taken.Files.ToList();
        IReadOnlyList<string> trace;
        try
        {
            var scene = state.Scene(null);
            var plan = state.Plan(scene, await RunInput.Guests(store, state, scene, cancel));
            var alone = NameOf(state, index);
            if (alone is not null && plan.Programs.All(p => p.Name != alone))
                throw new InputProblem("program", $"{alone} is stored and does not run on the bench.");
            trace =
            [
                $"# One run of the bench in the scene {scene.Name}.",
                .. await jobs.Run(WorkKind.Quick, null, Limits.RunWork, stop => BenchTrace.Of(plan, 1, alone, stop), cancel),
            ];
        }
        catch (InputProblem e)
        {
            trace = [.. e.Errors.Values.Select(s => $"# No run of the bench stands here: {s}"), "pass 1000000"];
        }
        files.Add(new("trace.txt", string.Join('\n', trace) + "\n"));
        files.Add(new("expected.txt", string.Join('\n', BoardTrace.Run(board, index, trace)) + "\n"));
        using var packed = new MemoryStream();
        using (var zip = new ZipArchive(packed, ZipArchiveMode.Create, true))
            foreach (var file in files)
            {
                var entry = zip.CreateEntry($"{taken.Name.ToLowerInvariant()}/{file.Name}", CompressionLevel.Optimal);
                // The same programs make the same file, whenever they are taken out.
                entry.LastWriteTime = new DateTimeOffset(1980, 1, 1, 0, 0, 0, TimeSpan.Zero);
                await using var into = await entry.OpenAsync(cancel);
                await into.WriteAsync(Encoding.UTF8.GetBytes(file.Text), cancel);
            }
        return Results.File(packed.ToArray(), "application/zip", $"{id}-{language}.zip");
    }
}
