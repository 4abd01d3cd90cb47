namespace Chiton.Core.Tests.Rigs;

public class PowerTests
{
    private static PowerDevice Device(
        string name,
        int count,
        double idle,
        double active,
        double stall,
        double duty,
        string by,
        double minV = 4,
        double maxV = 9
    ) => new(name, count, minV, maxV, idle, active, stall, duty, by);

    [Fact]
    public void A_header_tank_by_hand()
    {
        // Four cells of 1.5 V. Pump from the pack: 5 idle, 200 working, 600 stalled, half the time. Two servos from the
        // controller: 10, 120, 500, a tenth of the time. The controller itself takes 80.
        var r = PowerBudget
            .Compute(
                new(
                    4,
                    1.5,
                    2000,
                    1500,
                    80,
                    400,
                    5,
                    [Device("pump", 1, 5, 200, 600, 0.5, "pack"), Device("servo", 2, 10, 120, 500, 0.1, "controller")]
                )
            )
            .Result;
        Assert.Equal(6, r.PackV);
        Assert.Equal(2 * (0.1 * 120 + 0.9 * 10), r.Supplies.Controller.AverageMA, 9);
        Assert.Equal(2 * 120 + 380, r.Supplies.Controller.PeakMA);
        Assert.Equal(80 + 102.5 + 42, r.Supplies.Pack.AverageMA, 9);
        Assert.Equal(80 + 200 + 240 + 400, r.Supplies.Pack.PeakMA);
        Assert.Equal(2000 / 224.5, r.RuntimeH!.Value, 9);
        Assert.True(r.NeedsCommonGround);
        var issue = Assert.Single(r.Issues);
        Assert.Equal((null, "over-current"), (issue.Device, issue.Kind));
    }

    [Fact]
    public void Voltage_is_judged_against_what_feeds_the_device()
    {
        var r = PowerBudget
            .Compute(
                new(
                    6,
                    1.5,
                    2000,
                    null,
                    0,
                    1000,
                    5,
                    [
                        Device("lamp", 1, 0, 20, 20, 1, "controller", 6, 12),
                        Device("probe", 1, 0, 5, 5, 1, "pack", 3, 5.5),
                        Device("spare", 0, 0, 5, 5, 1, "pack", 3, 5.5),
                    ]
                )
            )
            .Result;
        Assert.Equal([("lamp", "under-voltage"), ("probe", "over-voltage")], r.Issues.Select(i => (i.Device!, i.Kind)));
    }

    [Fact]
    public void Nothing_connected_runs_for_ever()
    {
        var r = PowerBudget.Compute(new(1, 1.2, 1000, null, 0, 0, 5, [])).Result;
        Assert.Null(r.RuntimeH);
        Assert.False(r.NeedsCommonGround);
    }

    [Fact]
    public void Bad_input_names_the_field()
    {
        var p = Assert.Throws<InputProblem>(() =>
            PowerBudget.Compute(new(0, 1.5, 0, null, 0, 100, 5, [new("", 1.5, 5, 3, 0, 1, 1, 2, "mains")]))
        );
        Assert.Equal(
            ["capacityMAh", "cells", "devices[0].count", "devices[0].duty", "devices[0].name", "devices[0].suppliedBy"],
            p.Errors.Keys.Order()
        );
        Assert.Contains(
            "devices[0].minV",
            Assert
                .Throws<InputProblem>(() =>
                    PowerBudget.Compute(new(1, 1.5, 10, null, 0, 100, 5, [Device("x", 1, 0, 1, 1, 1, "pack", 5, 3)]))
                )
                .Errors.Keys
        );
        Assert.Contains(
            "devices",
            Assert.Throws<InputProblem>(() => PowerBudget.Compute(new(1, 1.5, 10, null, 0, 100, 5, null))).Errors.Keys
        );
    }

    [Theory]
    [InlineData(5, 3.3, 2, false, true)]
    [InlineData(3.3, 5, 3, true, true)]
    [InlineData(3.3, 5, 3.5, true, false)]
    [InlineData(3.3, 3.3, 2, true, true)]
    public void Signal_levels(double output, double max, double high, bool safe, bool readable)
    {
        var r = SignalLevel.Compute(new(output, max, high)).Result;
        Assert.Equal((safe, readable), (r.Safe, r.Readable));
        Assert.Equal(safe && readable, r.Advice is null);
    }

    [Fact]
    public void The_advised_divider_brings_the_signal_down_to_what_the_input_stands() =>
        Gen.Select(Gen.Double[3, 24], Gen.Double[1, 5])
            .Sample(
                (output, max) =>
                {
                    if (output <= max || SignalLevel.Compute(new(output, max, 0.5)).Result.Advice is not { } advice)
                        return;
                    var ratio = double.Parse(advice.Split(' ')[4], System.Globalization.CultureInfo.InvariantCulture);
                    Assert.Equal(max, output / (1 + ratio), 0.02 * max);
                }
            );

    [Fact]
    public void A_contradiction_is_named() =>
        Assert.Contains("inputHighMinV", Assert.Throws<InputProblem>(() => SignalLevel.Compute(new(5, 3.3, 4))).Errors.Keys);
}
