using Chiton.Core.Programs.Outside;
using Chiton.Core.Quantities;
using Chiton.Core.Simulation;
using Chiton.Data;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace Chiton.Box;

/// <summary>Where a stand-in box has its rig from: a data folder, also one that a Chiton has open, or the demo.</summary>
public static class BoxSource
{
    /// <summary>Reads a copy of a rig and makes a box of it.</summary>
    /// <param name="folder">The data folder; null for the demo as it ships.</param>
    /// <param name="rig">Address of the rig.</param>
    /// <param name="copy">Copy number; null for the first.</param>
    /// <param name="seed">Same seed, same hidden numbers.</param>
    /// <param name="cancel">Gives up.</param>
    /// <exception cref="BoxTrouble">When there is no such rig or copy, or the folder cannot be read.</exception>
    public static async Task<BoxMake> Make(string? folder, string rig, int? copy, long seed, CancellationToken cancel)
    {
        // The file is copied as it is at this moment: nothing of what a Chiton has open is touched.
        var own = Directory.CreateTempSubdirectory("chiton-box.");
        try
        {
            var file = Path.Combine(own.FullName, "chiton.db");
            if (folder is null)
                using (var made = DataFolder.Open(own.FullName))
                    await DataSetup.Prepare(made, TimeProvider.System, true, _ => { }, cancel);
            else
                CopyOf(Path.Combine(folder, "chiton.db"), file);
            await using var db = new ChitonDb(
                new DbContextOptionsBuilder<ChitonDb>().UseSqlite($"Data Source={file};Pooling=False").Options
            );
            var store = new RigStore(db, TimeProvider.System);
            var rigs = await store.Ids(cancel);
            if (!rigs.Contains(rig))
                throw new BoxTrouble($"There is no rig “{rig}”. There are {Figures.List(rigs.Order())}.");
            var state = await store.Load(rig, copy, null, cancel);
            var things = new Dictionary<string, IReadOnlyDictionary<string, BenchThing>>();
            foreach (var sensor in state.Design.Sensors)
                things[sensor.Name] = (await store.Copies.Bench(state, sensor, false, cancel)).Things;
            return Of(state, things, seed);
        }
        catch (Exception e) when (e is NotStored or FolderTrouble or SqliteException)
        {
            throw new BoxTrouble(e.Message, e);
        }
        finally
        {
            own.Delete(true);
        }
    }

    private static void CopyOf(string from, string to)
    {
        if (!File.Exists(from))
            throw new BoxTrouble(
                $"There is no data in {Path.GetDirectoryName(from)}. Start Chiton first, or say which folder: --data FOLDER."
            );
        using var source = new SqliteConnection($"Data Source={from};Mode=ReadOnly;Pooling=False");
        using var target = new SqliteConnection($"Data Source={to};Pooling=False");
        source.Open();
        target.Open();
        source.BackupDatabase(target);
    }

    private static BoxMake Of(RigState state, IReadOnlyDictionary<string, IReadOnlyDictionary<string, BenchThing>> things, long seed)
    {
        var known = state.Bench;
        var board = new BoardCopy(known.Rig, "", known.Moves, known.Calibrations, known.Positions);
        return new(
            state.Design,
            state.Moves,
            state.Delivered,
            things,
            BoxHolding.Of(state.Revision, state.ToSend),
            SampleBench.Seed("box", state.Id, state.Copy.ToString(System.Globalization.CultureInfo.InvariantCulture)) ^ (ulong)seed
        )
        {
            Run = number => BoxPlay.Of(board, state.Plan(), number, seed),
        };
    }
}

/// <summary>A box cannot be started; the message says why and what to do.</summary>
public sealed class BoxTrouble(string say, Exception? inner = null) : Exception(say, inner);
