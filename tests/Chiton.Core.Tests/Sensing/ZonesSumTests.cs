namespace Chiton.Core.Tests.Sensing;

public class ZonesSumTests
{
    private static readonly ReadingList[] Mast =
    [
        new("notch", [58, 61, 55, 63, 60, 57, 59, 62, 56, 60]),
        new("groove", [5, 6, 4, 7, 5, 6, 5, 4, 6, 5]),
        new("mast paint", [21, 23, 22, 24, 20, 22, 23, 21, 25, 22]),
    ];

    [Fact]
    public void Zones_are_sorted_and_each_two_neighbours_have_their_threshold()
    {
        var r = ZonesSum.Compute(new(Mast, 1, 10)).Result;
        Assert.Equal(["groove", "mast paint", "notch"], r.Zones.Select(z => z.Name));
        Assert.Equal([("groove", "mast paint"), ("mast paint", "notch")], r.Boundaries.Select(b => (b.Lower, b.Upper)));
        Assert.Equal(35.7275, r.Boundaries[1].Threshold, 4);
        Assert.Equal(ThresholdSum.Compute(new([Mast[1], Mast[2]], 1, 10)).Result.Threshold, r.Boundaries[0].Threshold, 12);
    }

    [Fact]
    public void The_verdict_is_that_of_the_worst_pair()
    {
        var answer = ZonesSum.Compute(new([.. Mast, new("weed", [23, 26, 24, 28, 25, 22, 27, 24, 26, 23])], 1, 10));
        Assert.Equal(Grade.Unusable, answer.Verdict!.Grade);
        Assert.StartsWith("mast paint against weed", answer.Verdict.Say);
    }

    [Fact]
    public void Bad_zones_are_named()
    {
        var p = Assert.Throws<InputProblem>(() =>
            ZonesSum.Compute(new([Mast[0], Mast[0], new("", [1]), new("x", [1, 2, double.NaN])], 1, 10))
        );
        Assert.Equal(["zones[1].name", "zones[2].name", "zones[2].readings", "zones[3].readings[2]"], p.Errors.Keys.Order());
        Assert.Contains("zones", Assert.Throws<InputProblem>(() => ZonesSum.Compute(new([Mast[0]], 1, 10))).Errors.Keys);
    }
}
