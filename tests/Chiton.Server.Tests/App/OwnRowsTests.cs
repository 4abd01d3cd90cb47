using System.IO.Compression;
using Chiton.Data;

namespace Chiton.Server.Tests.App;

/// <summary>A database in which trials and positions lay among the readings keeps all of it, and its undo and redo, when they get rows of
/// their own.</summary>
public sealed class OwnRowsTests : IDisposable
{
    private readonly string folder = Directory.CreateTempSubdirectory("chiton-rows-").FullName;
    private readonly Bench bench;

    public OwnRowsTests()
    {
        using (
            var packed = new GZipStream(
                File.OpenRead(Path.Combine(AppContext.BaseDirectory, "Data", "before-own-rows.db.gz")),
                CompressionMode.Decompress
            )
        )
        using (var file = File.Create(Path.Combine(folder, "chiton.db")))
            packed.CopyTo(file);
        bench = new(folder);
    }

    public void Dispose() => bench.Dispose();

    private async Task<(double[] Measured, bool Accepted, int Version)> Straight(string mechanism)
    {
        var motion = (await bench.Get("/api/rigs/deck-scrubber/move?copy=1"))
            .GetProperty("mechanisms")
            .EnumerateArray()
            .SelectMany(m => m.GetProperty("motions").EnumerateArray())
            .Single(m => m.GetProperty("plan").GetProperty("key").GetString() == $"{mechanism}: straight");
        return (
            [.. motion.GetProperty("trials").EnumerateArray().Select(t => t.GetProperty("measured").GetDouble())],
            motion.GetProperty("accepted").GetBoolean(),
            motion.GetProperty("version").GetInt32()
        );
    }

    private async Task<string?> Step(string rig, string way) =>
        (await bench.Post($"/api/rigs/{rig}/{way}", new { copy = 1 })).GetProperty("what").GetString();

    [Fact]
    public async Task Trials_and_accepted_numbers_are_all_there_and_undo_goes_back_through_them()
    {
        var now = await Straight("Wheels");
        Assert.Equal([391, 394, 392.5, 393], now.Measured);
        Assert.True(now.Accepted);
        Assert.Equal("renamed Drive Wheels", await Step("deck-scrubber", "undo"));
        Assert.Equal(new double[] { 391, 394, 392.5, 393 }, (await Straight("Drive")).Measured);
        Assert.StartsWith("took the effective wheel diameter", await Step("deck-scrubber", "undo"));
        Assert.False((await Straight("Drive")).Accepted);
        Assert.StartsWith("left out trial 4", await Step("deck-scrubber", "undo"));
        Assert.Equal(new double[] { 391, 394, 392.5, 430, 393 }, (await Straight("Drive")).Measured);
        for (var left = 4; left >= 0; left--)
        {
            Assert.StartsWith("tried: Drive straight", await Step("deck-scrubber", "undo"));
            Assert.Equal(left, (await Straight("Drive")).Measured.Length);
        }
        Assert.Null(await Step("deck-scrubber", "undo"));
        for (var made = 1; made <= 5; made++)
            Assert.StartsWith("tried: Drive straight", await Step("deck-scrubber", "redo"));
        Assert.Equal(new double[] { 391, 394, 392.5, 430, 393 }, (await Straight("Drive")).Measured);
        await Step("deck-scrubber", "redo");
        await Step("deck-scrubber", "redo");
        var again = await Straight("Drive");
        Assert.Equal([391, 394, 392.5, 393], again.Measured);
        Assert.True(again.Accepted);
        Assert.Equal("renamed Drive Wheels", await Step("deck-scrubber", "redo"));
        Assert.Equal(4, (await Straight("Wheels")).Measured.Length);
    }

    [Fact]
    public async Task A_trial_after_one_was_left_out_keeps_where_it_came_from()
    {
        await using var db = new ChitonDb(Options());
        // All five were typed; the one on the bench was undone, and is there all the same.
        Assert.Equal(
            [
                Core.Sensing.ReadingOrigin.Pasted,
                Core.Sensing.ReadingOrigin.Pasted,
                Core.Sensing.ReadingOrigin.Pasted,
                Core.Sensing.ReadingOrigin.Pasted,
                Core.Sensing.ReadingOrigin.Pasted,
                Core.Sensing.ReadingOrigin.Recorded,
            ],
            db.Trials.Where(t => t.RigId == "deck-scrubber" && t.Motion == "Drive: straight")
                .OrderBy(t => t.Id)
                .Select(t => t.Origin)
                .ToArray()
        );
        Assert.Single(db.Accepted.Where(a => a.RigId == "deck-scrubber" && a.Motion == "Drive: straight"));
        Assert.Empty(db.Recordings.Where(r => r.Sensor.Contains(": ") || r.Sensor == "Jaws"));
        Assert.Empty(db.Calibrations.Where(c => c.Sensor.Contains(": ") || c.Sensor == "Jaws"));
    }

    private Microsoft.EntityFrameworkCore.DbContextOptions<ChitonDb> Options() =>
        Microsoft
            .EntityFrameworkCore.SqliteDbContextOptionsBuilderExtensions.UseSqlite(
                new Microsoft.EntityFrameworkCore.DbContextOptionsBuilder<ChitonDb>(),
                $"Data Source={Path.Combine(folder, "chiton.db")};Pooling=False"
            )
            .Options;

    private async Task<Dictionary<string, int>> Jaws() =>
        (await bench.Get("/api/rigs/buoy-picker/design?copy=1"))
            .GetProperty("positions")
            .EnumerateArray()
            .Where(p => p.GetProperty("mechanism").GetString() == "Jaws")
            .ToDictionary(p => p.GetProperty("position").GetString()!, p => p.GetProperty("count").GetInt32());

    [Fact]
    public async Task Positions_are_all_there_and_undo_goes_back_through_them()
    {
        Assert.Equal(new() { ["wide"] = 5, ["closed"] = 3 }, await Jaws());
        Assert.Equal("renamed open wide", await Step("buoy-picker", "undo"));
        Assert.Equal(new() { ["open"] = 5, ["closed"] = 3 }, await Jaws());
        await Step("buoy-picker", "undo");
        await Step("buoy-picker", "undo");
        Assert.Equal(new() { ["open"] = 3, ["closed"] = 3 }, await Jaws());
        Assert.Null(await Step("buoy-picker", "undo"));
        for (var i = 0; i < 3; i++)
            await Step("buoy-picker", "redo");
        Assert.Equal(new() { ["wide"] = 5, ["closed"] = 3 }, await Jaws());
        // It came with the demo, which marked all its rows alike: it is asked what it is, and until then counts as real.
        var copy = (await bench.Get("/api/rigs/buoy-picker")).GetProperty("copies")[0];
        Assert.Equal(("real", true), (copy.GetProperty("kind").GetString(), copy.GetProperty("asksKind").GetBoolean()));
        await bench.Post("/api/rigs/buoy-picker/copies/1/kind", new { kind = "standIn" });
        await bench.Post(
            "/api/rigs/buoy-picker/positions",
            new
            {
                copy = 1,
                mechanism = "Jaws",
                position = "wide",
                handPercent = 30,
            }
        );
        Assert.Equal(6, (await Jaws())["wide"]);
    }

    [Fact]
    public async Task A_zone_called_trials_is_a_zone_like_any_other()
    {
        await bench.Post(
            Bench.Rig + "/readings",
            new
            {
                copy = 1,
                sensor = "Tag eye",
                zone = "trials",
                text = "71\n72\n73\n74",
            }
        );
        var zones = (await bench.Get(Bench.Rig + "/sense?copy=1&sensor=Tag%20eye"))
            .GetProperty("zones")
            .EnumerateArray()
            .ToDictionary(z => z.GetProperty("zone").GetString()!, z => z.GetProperty("readings").GetArrayLength());
        Assert.Equal(40, zones["bed tag"]);
        Assert.Equal(4, zones["trials"]);
    }

    [Fact]
    public async Task A_file_of_version_2_is_read_with_its_trials_and_positions_and_written_in_todays_form()
    {
        var file = (await bench.Get("/api/rigs/deck-scrubber/export")).Deserialize<RigFile>(Documents.Options)!;
        Assert.Equal(3, file.Version);
        var motion = Assert.Single(file.Copies![0].Motions!);
        Assert.Equal(("Wheels: straight", 4, true), (motion.Motion, motion.Trials!.Count, motion.Accepted is not null));
        var copy = file.Copies[0] with
        {
            Motions = null,
            Calibrations =
            [
                .. file.Copies[0].Calibrations!,
                new(
                    "Wheels: straight",
                    Core.Sensing.School.EqualRisk,
                    1,
                    1,
                    [new("trials", [400, 700, 391, 400, 700, 394]), new("accepted", motion.Accepted!.Packed)]
                ),
            ],
        };
        var made = await bench.Post("/api/rigs", file with { Version = 2, Copies = [copy] });
        var back = (await bench.Get($"/api/rigs/{made.GetProperty("id").GetString()}/export")).Deserialize<RigFile>(Documents.Options)!;
        var read = Assert.Single(back.Copies![0].Motions!);
        Assert.Equal([391, 394], read.Trials!.Select(t => t.Measured));
        Assert.Equal(motion.Accepted, read.Accepted);
    }
}
