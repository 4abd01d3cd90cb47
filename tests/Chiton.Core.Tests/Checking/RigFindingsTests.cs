using Chiton.Core.Checking;
using Chiton.Core.Motion;

namespace Chiton.Core.Tests.Checking;

public class RigFindingsTests
{
    private const string Script = """
        program Test

        # Tag eye is described in Rig.
        region Main
          state Rolling, initial
            on entry: show "Tag eye"
            while here: run Trolley at 50 %
            when Tag eye becomes bed tag: go Stopping

          state Stopping, final
            on entry: stop Trolley and brake; turn Lamp on

        """;

    private static readonly Wire[] Wires =
    [
        new("Tag eye", "signal", "Deck box", "front 1"),
        new("Trolley", "drive", "Deck box", "back 1"),
        new("Lamp", "light", "Deck box", "front 2"),
    ];

    private static RigDesign Rig => FarmBench.Rig(Script) with { Wires = [.. Wires] };

    private static readonly RigJudgement Good = new([], null, "");

    private static IReadOnlyList<Finding> Find(RigDesign rig, RigJudgement judged) =>
        RigFindings.Find(rig, judged, ScriptParser.Parse(rig.Program.Script, Vocabulary.Of(rig)).Program);

    [Fact]
    public void A_sound_rig_has_no_findings() => Assert.Empty(Find(Rig, Good));

    [Fact]
    public void A_lead_that_goes_nowhere_is_found_at_the_first_line_that_needs_the_device()
    {
        var finding = Assert.Single(Find(Rig with { Wires = [.. Wires.Skip(1)] }, Good));
        Assert.Equal(("wiring-missing", Severity.Stops, "Rolling"), (finding.Code, finding.Severity, finding.Owner));
        // Neither the comment above nor the words that are shown speak of it; the sentence that waits for it does.
        Assert.Contains("when Tag eye", Script.Split('\n')[finding.Line - 1]);
        Assert.Equal(3, finding.LineOfOwner);
    }

    [Fact]
    public void A_device_that_the_program_never_names_is_no_business_of_the_program()
    {
        var rig = Rig with { Actuators = [.. Rig.Actuators, new("Horn", ActuatorKind.Sounder)] };
        Assert.Contains(rig.WiringFaults(), f => f.Device == "Horn");
        Assert.Empty(Find(rig, Good));
    }

    [Fact]
    public void A_name_within_a_longer_name_is_another_name()
    {
        // Neither "eye" nor "Tag ey" is named where "Tag eye" stands; both are unwired, and would be found if they were.
        foreach (var name in new[] { "eye", "Tag ey" })
        {
            var rig = Rig with { Sensors = [.. Rig.Sensors, Rig.Sensors[0] with { Name = name }] };
            Assert.Contains(rig.WiringFaults(), f => f.Device == name);
            Assert.Empty(Find(rig, Good));
        }
    }

    [Fact]
    public void A_supply_too_high_for_a_motor_stops_and_too_low_is_risky()
    {
        RigPower Power(double min, double max) =>
            new(4, 1.5, 1800, null, 100, 500, 5, [new("Trolley", 1, min, max, 0, 100, 300, 0.5, "pack")]);
        Assert.Equal(Severity.Stops, Assert.Single(Find(Rig with { Power = Power(2, 4.5) }, Good)).Severity);
        Assert.Equal(
            ("power-short", Severity.Risky),
            Assert.Single(Find(Rig with { Power = Power(7, 12) }, Good)) is var f ? (f.Code, f.Severity) : default
        );
        Assert.Empty(Find(Rig with { Power = Power(4, 9) }, Good));
    }

    [Fact]
    public void A_sensor_that_cannot_tell_and_one_that_is_stale_are_found_where_they_are_used()
    {
        RigJudgement Of(Grade? grade, string? stale) =>
            new(
                [new("Tag eye", grade, "Cannot tell these apart.", [new("in the mechanics", "Use another sensor.")], stale)],
                "Tag eye",
                ""
            );
        var unusable = Assert.Single(Find(Rig, Of(Grade.Unusable, null)));
        Assert.Equal("zone-weak", unusable.Code);
        Assert.EndsWith("Use another sensor.", unusable.Say);
        Assert.Equal("calibration-stale", Assert.Single(Find(Rig, Of(Grade.Solid, "20 days old."))).Code);
        Assert.Empty(Find(Rig, Of(null, null)));
    }

    [Fact]
    public void Asking_a_plain_motor_for_degrees_is_told_because_it_fails_unseen()
    {
        var rig = Rig with { Programs = [new(Script.Replace("run Trolley at 50 %", "run Trolley 90 motor deg at 50 %"), [])] };
        Assert.Contains(Find(rig, Good), f => f.Code == "plain-motor" && f.Say.Contains("does not know its angle"));
    }

    [Theory]
    [InlineData("run Trolley at 50 %, then run Trolley 90 motor deg at 50 %", true)]
    [InlineData("run Test trolley 90 motor deg at 50 %", true)]
    [InlineData("run Trolley quarter at 50 %", true)]
    [InlineData("repeat 2 times: run Trolley 90 motor deg at 50 %", true)]
    [InlineData("show \"run Trolley 90 motor deg at 50 %\"", false)]
    [InlineData("run Trolley at 50 %", false)]
    public void Degrees_of_a_plain_motor_are_found_however_they_are_written(string action, bool found)
    {
        var script = Script
            .Replace("while here: run Trolley at 50 %", $"on entry: {action}")
            .Replace("region Main", "const quarter = 90 motor deg\n\nregion Main");
        Assert.Equal(found, Find(Rig with { Programs = [new(script, [])] }, Good).Any(f => f.Code == "plain-motor"));
    }

    [Fact]
    public void A_lead_is_missed_where_only_the_mechanism_is_named()
    {
        var rig = Rig with
        {
            Programs = [new(Script.Replace("Trolley", "Test trolley"), [])],
            Wires = [.. Wires.Where(w => w.Device != "Trolley")],
        };
        Assert.Equal(
            ("wiring-missing", "Rolling"),
            Find(rig, Good).Where(f => f.Headline.Contains("Trolley")).Select(f => (f.Code, f.Owner)).Single()
        );
    }

    [Fact]
    public void A_program_that_commands_what_hangs_on_another_controller_is_told()
    {
        var two = Rig with
        {
            Controllers = [.. Rig.Controllers, ControllerTemplates.Make("six sockets", "Second box")],
            Wires = [.. Wires.Where(w => w.Device != "Lamp"), new("Lamp", "light", "Second box", "front 2")],
        };
        var said = RigPrograms.Of(two)[0].Parsed.Diagnostics;
        Assert.NotEmpty(said);
        Assert.All(said, d => Assert.Contains("Lamp hangs on Second box, and this program runs on", d.Message));
        Assert.Contains("run this one on a host, or wire Lamp to", said[0].Message);
        // A host commands any; and on the box where it hangs the same text is right.
        Assert.Empty(RigPrograms.Of(two with { Programs = [two.Program with { OnHost = true }] })[0].Parsed.Diagnostics);
        Assert.All(
            RigPrograms.Of(two with { Programs = [two.Program with { RunsOn = "Second box" }] })[0].Parsed.Diagnostics,
            d => Assert.Contains("Trolley hangs on", d.Message)
        );
    }
}

public class SenseFillTests
{
    private static RigDesign Drive => RigTemplates.Make("two-wheel drive", "Rover");

    private static double Value(FilledSum sum, string field) => Assert.Single(sum.Fields.Single(f => f.Field == field).Values);

    [Fact]
    public void A_range_sensor_that_looks_ahead_gets_the_sums_of_stopping_sweeping_and_echo()
    {
        var sums = SenseFill.For(Drive, Drive.Sensors[0], null, null);
        Assert.Equal(["stop-distance", "sweep", "echo"], sums.Select(s => s.Sum));
        Assert.Equal(35, Value(sums[0], "blindZoneMm"));
        Assert.Equal(12, Value(sums[1], "beamHalfAngleDeg"));
        Assert.All(sums.SelectMany(s => s.Fields).Where(f => f.Source == "a usual value"), f => Assert.Equal(Provenance.Guessed, f.Kind));
        // What is filled in is what the sums take.
        var stop = sums[0];
        var answer = StopDistance.Compute(
            new(
                Value(stop, "approachSpeedMmPerS"),
                Value(stop, "samplePeriodMs"),
                Value(stop, "readingsNeeded"),
                Value(stop, "actuatorDelayMs"),
                Value(stop, "targetGapMm"),
                Value(stop, "sensorDelayMs"),
                Value(stop, "decelMmPerS2"),
                null,
                Value(stop, "noiseSdMm"),
                Value(stop, "blindZoneMm")
            )
        );
        Assert.True(answer.Result.TriggerDistanceMm > 45);
    }

    [Fact]
    public void An_optical_one_has_no_echo_and_one_without_a_drive_does_not_sweep()
    {
        var optical = Drive.Sensors[0] with { Principle = RangePrinciple.Optical };
        Assert.DoesNotContain(SenseFill.For(Drive, optical, null, null), s => s.Sum == "echo");
        Assert.DoesNotContain(SenseFill.For(Drive with { Mechanisms = [] }, optical, null, null), s => s.Sum == "sweep");
    }

    [Fact]
    public void Edge_eyes_on_a_drive_get_edge_guard_with_every_eye_and_half_the_track()
    {
        Sensor Eye(string name, double right) =>
            new(name, SensorKind.ReflectedLight, 10, 1, ["deck", "drop"])
            {
                Mount = new(FarmBench.Sure(55, "mm"), FarmBench.Sure(right, "mm")),
            };
        var rig = Drive with { Sensors = [Eye("Left", -70), Eye("Right", 70)] };
        var guard = SenseFill.For(rig, rig.Sensors[0], null, null)[0];
        Assert.Equal("edge-guard", guard.Sum);
        Assert.Equal([-70, 70], guard.Fields.Single(f => f.List).Values);
        Assert.Equal(60, Value(guard, "halfTrackMm"));
        // A guess halved is a guess still.
        Assert.Equal(Provenance.Guessed, guard.Fields.Single(f => f.Field == "halfTrackMm").Kind);
    }

    [Fact]
    public void What_was_measured_takes_the_place_of_the_guess()
    {
        var range = Drive.Sensors[0] with { Bands = [] };
        var calibration = new SensorCalibration(
            "Range",
            30,
            1,
            1,
            School.EqualRisk,
            1,
            [new("near", [100, 104, 96, 102, 98]), new("far", [400, 404, 396, 402, 398])]
        )
        {
            Unit = "mm",
            High = 4000,
        };
        var sum = SenseFill.For(Drive, range, FarmBench.Motion(), calibration)[0];
        Assert.Equal(30, Value(sum, "actuatorDelayMs"));
        var noise = sum.Fields.Single(f => f.Field == "noiseSdMm");
        Assert.Equal(Provenance.Measured, noise.Kind);
        Assert.Equal(Math.Sqrt(10), noise.Values[0], 6);
        Assert.Equal(Provenance.Calculated, sum.Fields.Single(f => f.Field == "readingsNeeded").Kind);
    }

    [Fact]
    public void A_lid_must_be_noticed_for_in_time_and_its_travel_is_known()
    {
        var rig = Drive with
        {
            Mechanisms =
            [
                .. Drive.Mechanisms,
                new("Lid", MechanismKind.Lid, ["Left wheel"]) { Travel = new(FarmBench.Sure(10, "deg"), FarmBench.Sure(100, "deg")) },
            ],
        };
        var reaction = SenseFill.For(rig, Drive.Sensors[0], null, null).Single(s => s.Sum == "reaction");
        Assert.Equal(90, Value(reaction, "actuatorTravelDeg"));
        Assert.Contains("Lid is there in time", reaction.Title);
    }

    [Fact]
    public void A_touch_sensor_needs_no_geometry() => Assert.Empty(SenseFill.For(Drive, Drive.Sensors[1], null, null));
}
