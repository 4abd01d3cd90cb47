using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Scxml;

namespace Chiton.Core.Tests.Sensing;

/// <summary>The band about a number that a program compares readings with.</summary>
public class TypedBandTests
{
    private static readonly Sensor Scale = new("Scale", SensorKind.Force, 100, 0.01, ["empty", "full"]);
    private static readonly RigDesign Rig = new("Tub", "Farm", [], [Scale], []);

    // SD within the zones: 0.1 about 2 and about 8, however far apart the zones are.
    private static SensorCalibration Of(params ZoneReadings[] zones) => SenseWords.Unread(Scale) with { Zones = zones };

    private static readonly ZoneReadings Empty = new("empty", [1.9, 2.0, 2.1]);

    [Fact]
    public void One_zone_alone_gives_twice_its_noise()
    {
        Assert.Equal(0.2, TypedBand.Of(Scale, Of(Empty))(5), 9);
        // Zones are pooled, each about its own mean: √((0.02 + 0.08) / 4) · 2.
        Assert.Equal(2 * Math.Sqrt(0.1 / 4), TypedBand.Of(Scale, Of(Empty, new("full", [7.8, 8.0, 8.2])))(5), 9);
    }

    [Fact]
    public void Too_few_say_nothing_and_what_never_varies_has_the_resolution()
    {
        Assert.Equal(0, TypedBand.Of(Scale, Of(new ZoneReadings("empty", [2, 2.1])))(5));
        Assert.Equal(2 * 0.01 / Math.Sqrt(12), TypedBand.Of(Scale, Of(new ZoneReadings("empty", [2, 2, 2])))(5), 9);
    }

    [Fact]
    public void Bands_give_that_of_the_nearest_boundary()
    {
        var range = new Sensor("Range", SensorKind.Distance, 50, 1, ["near", "mid", "far"])
        {
            Bands = [new("near", 0, 100), new("mid", 100, 300), new("far", 300, 1000)],
        };
        var read = SenseWords.Unread(range) with { Zones = [new("near", [48, 50, 52]), new("mid", [195, 200, 205])] };
        var boundaries = SenseJudge.Judged(range, read).Boundaries;
        Assert.True(boundaries[0].HysteresisMm > 0);
        var near = TypedBand.Of(range, read);
        Assert.Equal(boundaries[0].HysteresisMm, near(120));
        Assert.Equal(boundaries[1].HysteresisMm, near(280));
    }

    [Fact]
    public void A_walk_crosses_a_typed_number_only_beyond_the_noise()
    {
        var parsed = ScriptParser.Parse(
            "program T\n\nregion Main\n  state A, initial\n    when Scale > 5 N: go B\n\n  state B\n    when Scale < 5 N: go A\n",
            Vocabulary.Of(Rig)
        );
        Assert.Empty(parsed.Diagnostics);
        var made = ScriptCompiler.ForWalk(parsed.Program, Rig, new Dictionary<string, SensorCalibration> { ["Scale"] = Of(Empty) });
        string[] events = ["Scale reads 4", "Scale reads 5.1", "Scale reads 5.3", "Scale reads 4.9", "Scale reads 4.7"];
        var walk = ScriptWalk.Run(made, [.. events.Select(e => new WalkEvent(e, null, 0))]);
        Assert.Equal("A A B B A", string.Join(' ', walk.Skip(1).Select(m => m.States[0][5..])));
    }
}
