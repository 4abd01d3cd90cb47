using Chiton.Core.Motion;

namespace Chiton.Core.Tests.Simulation;

/// <summary>Sticks that a person turns, and what a rig hears of itself.</summary>
public class SticksAndSoundsTests
{
    private static RigDesign Driven(string main) =>
        FloorBench.Rig(main) with
        {
            Actuators =
            [
                .. FloorBench.Rig(main).Actuators,
                new("Ahead stick", ActuatorKind.RegulatedMotor),
                new("Turn stick", ActuatorKind.RegulatedMotor),
            ],
        };

    private const string Steered = "  state Driven, initial\n    while here: steer by Ahead stick and Turn stick\n";
    private const string Floor = "floor 4 m by 4 m\nstart Drive at (2000, 2000) facing 0 robot deg\n";

    [Theory]
    [InlineData(70, -35, 15)]
    [InlineData(60, 60, 15)]
    [InlineData(-45, 20, 15)]
    [InlineData(10, 10, 15)]
    [InlineData(10, 10, 0)]
    [InlineData(120, 30, 0)]
    public void Wheels_turn_as_stick_mix_says_for_where_the_sticks_stand(double forward, double turn, double dead)
    {
        var sum = StickMix.Compute(new(forward, turn, dead)).Result;
        var plan = FloorBench.Plan(
            Driven(dead > 0 ? Steered.Replace("Turn stick", $"Turn stick, dead band {dead} deg") : Steered),
            Floor
                + $"person turns Ahead stick to {forward} motor deg in 0.1 s at 0.5 s, holds 2 s, lets go\n"
                + $"person turns Turn stick to {turn} motor deg in 0.1 s at 0.5 s, holds 2 s, lets go\nends after 6 s\n",
            false
        );
        var bench = new Bench(plan);
        bench.Start(1, 1);
        while (bench.NowMicros < 2_300_000)
            bench.Step(2_300_000);
        double Speed(int mover) => bench.MoverStates[mover].Speed / bench.MoverStates[mover].Full * 100;
        Assert.Equal(sum.LeftPercent, Speed(plan.Drives[0].Left), 1.0);
        Assert.Equal(sum.RightPercent, Speed(plan.Drives[0].Right), 1.0);
        // Let go they spring back, and it stands.
        while (bench.NowMicros < 6_000_000)
            bench.Step(6_000_000);
        Assert.Equal(0, Speed(plan.Drives[0].Left));
        Assert.Equal(0, Speed(plan.Drives[0].Right));
    }

    [Fact]
    public void A_person_steers_from_place_to_place()
    {
        const string scene =
            Floor
            + "place bay 160 by 160 mm at (2600, 2900)\nplace shed 160 by 160 mm at (1500, 2500)\n"
            + "person steers Ahead stick and Turn stick to bay, then shed\ngoal: Drive on bay within 20 s\n";
        Assert.Equal(
            1,
            FloorBench.Rate(FloorBench.Plan(Driven(Steered), scene + "goal: Drive on shed within 40 s\nends after 40 s\n"), 40)
        );
        // In this order: it cannot be at the second so soon.
        Assert.Equal(0, FloorBench.Rate(FloorBench.Plan(Driven(Steered), scene + "goal: Drive on shed within 3 s\nends after 40 s\n"), 40));
        // Read the wrong way round, it never comes there.
        var wrong = Steered.Replace("Ahead stick and Turn stick", "Turn stick and Ahead stick");
        Assert.Equal(0, FloorBench.Rate(FloorBench.Plan(Driven(wrong), scene + "ends after 40 s\n"), 40));
    }

    private const string Hears =
        "  state Quiet, initial\n    when Ear becomes loud: go Heard\n    after 4 s: go Lonely\n\n  state Heard, final\n\n"
        + "  state Lonely, final\n\n"
        + "region Horn\n  state Still, initial\n    after 1 s: go Sounding\n\n  state Sounding, final\n    on entry: {0}\n";

    // Quiet here is louder than what a usual ear calls quiet, and loud is less: only the readings tell.
    private static BenchPlan Ear(string does, string more = "")
    {
        var rig = FloorBench.Rig(string.Format(Hears, does));
        rig = rig with { Sensors = [.. rig.Sensors, new("Ear", SensorKind.Sound, 20, 1, ["quiet", "loud"])] };
        return FloorBench.Plan(
            rig,
            Floor + more + "goal: Main is in Heard\nends after 5 s\n",
            true,
            null,
            [FloorBench.Readings(rig, "Ear", ("quiet", [12], 1.5), ("loud", [34], 2.5))]
        );
    }

    [Fact]
    public void It_hears_its_own_horn_as_loud_as_it_was_recorded_and_a_lamp_not_at_all()
    {
        Assert.Equal(1, FloorBench.Rate(Ear("tone 440 Hz for 1 s"), 60));
        Assert.Equal(0, FloorBench.Rate(Ear("turn Lamp on"), 60));
        Assert.Equal(1, FloorBench.Rate(Ear("turn Lamp on", "Ear reads loud at 2 s for 1 s\n"), 60));
        Assert.Equal(1, FloorBench.Rate(Ear("turn Lamp on", "Ear reads 40 at 2 s for 1 s\n"), 60));
        Assert.Equal(0, FloorBench.Rate(Ear("turn Lamp on", "Ear reads quiet at 2 s for 1 s\n"), 60));
    }
}
