namespace Chiton.Core.Tests.Simulation;

/// <summary>More jobs that people give such machines: several vehicles, controllers that talk, water, jaws, weak packs.</summary>
public class MoreJobsTests
{
    // ---- two vehicles on one line ----

    private const string Both = """
        program Both

        region Front
          state Going, initial
            while here: run Front wheels at 50 %
            when Front eye becomes bay tag for 2 readings: go Parked
          state Parked, final
            on entry: stop Front wheels and brake

        region Rear
          state Waiting, initial
            when Front is in Parked: go Going
          state Going
            while here: run Rear wheels at 50 %
            when Rear eye becomes pit tag for 2 readings: go Parked
          state Parked, final
            on entry: stop Rear wheels and brake

        """;

    // Darker than the sleepers: on its way over its edge an eye sees no other tag.
    private static Job Vehicles(string program) =>
        new Job()
            .Rail("Sand car", "Front wheels")
            .Rail("Clay car", "Rear wheels")
            .EyeOn("Sand car", "Front eye", 0, 0, Facing.Down, ("sleepers", 22), ("bay tag", 58), ("pit tag", 4))
            .EyeOn("Clay car", "Rear eye", 0, 0, Facing.Down, ("sleepers", 22), ("bay tag", 58), ("pit tag", 4))
            .Program(program);

    private const string Line =
        "rail 5000 mm of sleepers, end stops\nmarker bay of bay tag 80 mm at 4000 mm\nmarker pit of pit tag 80 mm at 2500 mm\n"
        + "start Sand car at 1200 mm\nstart Clay car at 400 mm\nends after 60 s\n";

    [Fact]
    public void The_second_vehicle_leaves_once_the_first_has_parked_and_each_looks_with_its_own_eye()
    {
        const string asked = "goal: Sand car stopped over bay\ngoal: Clay car stopped over pit\nnever: a crash\n";
        Assert.True(Vehicles(Both).Rate(Line + asked, 40) > 0.9);
        // Each stands over its own tag, not over the other's.
        Assert.Equal(0, Vehicles(Both).Rate(Line + "goal: Clay car stopped over bay\n", 40));
        Assert.Equal(0, Vehicles(Both).Rate(Line + "goal: Sand car stopped over pit\n", 40));
        // Where it does not wait, and the first stands still, they meet.
        var rash = Both.Replace("when Front is in Parked: go Going", "after 0.1 s: go Going");
        Assert.Equal(0, Vehicles(rash).Rate(Line + asked + "unplug Front wheels at 1 s\n", 40));
        Assert.Equal(1, Vehicles(rash).Rate(Line + "goal: a crash\nunplug Front wheels at 1 s\n", 40));
    }

    [Theory]
    [InlineData("set aside", true)]
    [InlineData("set straight", false)]
    public void Points_decide_which_way_a_vehicle_goes(string how, bool aside)
    {
        const string one =
            "program One\n\nregion Main\n  state Going, initial\n    while here: run Front wheels at 40 %\n"
            + "    when Front eye becomes bay tag for 2 readings: go Parked\n"
            + "  state Parked, final\n    on entry: stop Front wheels and brake\n";
        Job car() =>
            new Job().Rail("Sand car", "Front wheels").Eye("Front eye", 0, 0, Facing.Down, ("sleepers", 22), ("bay tag", 58)).Program(one);
        const string line =
            "rail 4000 mm of sleepers, end stops\nmarker far of bay tag 80 mm at 3000 mm\n"
            + "siding shed leaves at 1500 mm, 1200 mm long, end stop\n"
            + "marker inside of bay tag 80 mm at 700 mm of siding shed\nstart Sand car at 600 mm\nends after 40 s\n";
        Assert.InRange(car().Rate(line + $"points shed {how}\ngoal: stopped over inside\n", 40), aside ? 0.9 : 0, aside ? 1 : 0);
        Assert.InRange(car().Rate(line + $"points shed {how}\ngoal: stopped over far\n", 40), aside ? 0 : 0.9, aside ? 0 : 1);
        // Left the wrong way in some runs.
        Assert.InRange(
            car().Rate(line + "points shed set straight\npoints shed set aside, in 30 of 100 runs\ngoal: stopped over inside\n", 200),
            0.19,
            0.41
        );
    }

    // ---- two controllers that talk ----

    private const string Caller = """
        program Caller

        region Main
          state Idle, initial
            when Start button is pressed: tell Opener "open"; go Asked
          state Asked
            when told "is open": go Done
            after 3 s: tell Opener "open"; go Asked
          state Done, final

        """;

    private const string Opener = """
        program Opener

        region Main
          state Shut, initial
            when told "open": go Opening
          state Opening
            on entry: send Arm to out
            when Arm is done: tell Caller "is open"; go Open
          state Open
            when told "open": tell Caller "is open"; stay

        """;

    private static Job Talk(string caller = Caller) =>
        new Job()
            .Button("Start button")
            .Part("Arm", MechanismKind.Lid, ActuatorKind.Servo, 0, 120, ("rest", 5), ("out", 100))
            .ProgramOn("Box", caller)
            .ProgramOn("Gate box", Opener);

    [Fact]
    public void Who_asks_again_is_heard_although_messages_are_lost()
    {
        const string scene = "start Arm at rest\nperson taps Start button at 1 s\nends after 40 s\ngoal: Main is in Done\n";
        var asked = scene.Replace("Caller in Done", "Main is in Done");
        Assert.Equal(1, Talk().Rate(asked));
        Assert.Equal(1, Talk().Rate(asked + "messages are lost 40 of 100\n"));
        // Who asks only once is heard as often as both messages come through: 0.6 times 0.6.
        var once = Caller.Replace("    after 3 s: tell Opener \"open\"; go Asked\n", "");
        Assert.InRange(Talk(once).Rate(asked + "messages are lost 40 of 100\n", 400), 0.29, 0.43);
        Assert.Equal(0, Talk().Rate(asked + "messages are lost 1 of 1\n"));
    }

    // ---- water that is kept between two probes ----

    private const string Keep = """
        program Keep

        region Main
          state Full, initial
            while here: set Flap to shut
            when Low probe is dry for 3 readings: go Filling
          state Filling
            while here: set Flap to open
            when High probe is wet for 3 readings: go Full

        """;

    private static Job Basin() =>
        new Job()
            .Part("Flap", MechanismKind.Lid, ActuatorKind.Servo, 0, 90, ("shut", 2), ("open", 80))
            .With(new Sensor("Low probe", SensorKind.Probe, 100, 1, ["dry", "wet"]) { Mount = new() { HeightMm = Job.Mm(40) } })
            .With(new Sensor("High probe", SensorKind.Probe, 100, 1, ["dry", "wet"]) { Mount = new() { HeightMm = Job.Mm(120) } })
            .Reads("Low probe", 10, ("dry", 80), ("wet", 620))
            .Reads("High probe", 10, ("dry", 80), ("wet", 620))
            .Program(Keep);

    [Fact]
    public void A_basin_is_kept_between_its_probes_as_long_as_more_comes_than_goes()
    {
        const string tank =
            "tank basin 2 l high 200 mm, starts at 50 %\nFlap at open lets in 0.2 l/s\nbasin gives 0.06 l/s from 2 s\n"
            + "start Flap at shut\nends after 120 s\n";
        const string asked = "never: level of basin below 25 mm\nnever: level of basin above 140 mm\ngoal: Main is in Filling\n";
        Assert.Equal(1, Basin().Rate(tank + asked, 20));
        // More goes than comes.
        Assert.Equal(0, Basin().Rate(tank + asked + "basin gives 0.3 l/s from 20 s\n", 20));
        // A leak alone empties it no faster than it is filled, but a flap that is held open overflows it.
        Assert.Equal(1, Basin().Rate(tank + asked + "leaks 0.02 l/s\n", 20));
        Assert.Equal(0, Basin().Rate(tank + asked + "person turns Flap to 80 motor deg in 0.2 s at 30 s, holds 60 s\n", 20));
        // A probe that reads dry for ever lets it run over.
        Assert.Equal(0, Basin().Rate(tank + asked + "High probe reads dry\n", 20));
    }

    // ---- a pack that gets weak, a lead that comes off ----

    private const string Dash =
        "program Dash\n\nregion Main\n  state Go, initial\n    while here: run Drive at 100 %\n    after 2 s: go Over\n"
        + "  state Over, final\n    on entry: stop Drive and brake\n";

    [Fact]
    public void With_a_weak_pack_it_comes_less_far_and_with_one_wheel_it_turns()
    {
        static (double X, double Y, double Heading) End(string more) =>
            FloorBench.End(
                BenchReport.Watch(
                    new Job()
                        .Drive()
                        .Program(Dash)
                        .Plan("floor 9 m by 9 m\nstart Drive at (4500, 2000) facing 0 robot deg\nends after 4 s\n" + more, false),
                    1
                )
            );
        var full = End("");
        Assert.InRange(full.Y, 2500, 3500);
        Assert.True(End("battery at 3 V\n").Y - 2000 < 0.75 * (full.Y - 2000));
        Assert.True(Math.Abs(End("unplug Left wheel at 0.5 s\n").Heading) > 60);
        Assert.Equal(0, End("unplug Left wheel for 4 s\nunplug Right wheel for 4 s\n").Y - 2000, 0.01);
        Assert.Equal(0, End("unplug Drive for 4 s\n").Y - 2000, 0.01);
        // One wheel that is held turns it about itself.
        Assert.True(Math.Abs(End("block Left wheel at 0.5 s for 1 s\n").Heading) > 60);
        // Lifted at once it stays where it is, though its wheels turn.
        Assert.Equal(2000, End("lift the rig for 4 s\n").Y, 0.01);
        // Blocked for a moment only, it comes nearly as far.
        Assert.InRange(End("block Drive at 0.5 s for 0.5 s\n").Y, 2000 + 0.5 * (full.Y - 2000), full.Y - 50);
    }

    // ---- somebody who passes ----

    private const string Gate = """
        program Gate

        region Main
          state Shut, initial
            on entry: send Arm to rest
            when Start button is pressed: go Open
          state Open
            on entry: send Arm to out
            after 4 s: go Shut

        """;

    [Theory]
    [InlineData("passes Arm at out in 1 s", 1)]
    [InlineData("passes Arm at out in 6 s", 0)]
    public void A_gate_lets_through_who_passes_in_time_and_shuts_on_who_does_not(string passes, double rate)
    {
        var job = new Job()
            .Button("Start button")
            .Part("Arm", MechanismKind.Lid, ActuatorKind.Servo, 0, 120, ("rest", 5), ("out", 100))
            .Program(Gate);
        var scene = $"start Arm at rest\nboat asks at Start button at 2 s, again every 5 s, {passes}\nends after 30 s\n";
        Assert.Equal(rate, job.Rate(scene + "goal: every boat through within 20 s\nnever: a crash\n", 40));
        Assert.Equal(1 - rate, job.Rate(scene + "goal: a crash\n", 40));
    }

    // ---- guests ----

    private const string Still =
        "program Still\n\nregion Main\n  state Idle, initial\n    when Start button is pressed: go Off\n  state Off\n"
        + "    while here: drive straight at 30 %\n";

    private static Job Other() => new Job().Drive().Button("Start button").Program(Still);

    private static Job Looks(string program, Sensor? more = null)
    {
        var job = new Job().Drive().Eye("Nose eye", 60, 0, Facing.Ahead, ("dull", 20), ("coat", 70));
        return (more is null ? job : job.With(more)).Program(program).Meets("Barrow", Other());
    }

    private const string Nears =
        "program Nears\n\nregion Main\n  state Coming, initial\n    while here: drive straight at 60 mm/s\n"
        + "    when Nose eye is coat for 3 readings: go Seen\n  state Seen, final\n    on entry: stop Drive and brake\n";
    private const string Meeting =
        "floor 2 m by 2 m\nstart Drive at (500, 1000) facing 90 robot deg\n"
        + "guest Bess is Barrow copy 1, starts at (900, 1000) facing 0 robot deg\nends after 20 s\n";

    [Fact]
    public void A_guest_is_seen_by_light_only_where_the_scene_gives_its_surface()
    {
        Assert.Equal(1, Looks(Nears).Rate(Meeting + "surface Bess is coat on Nose eye\ngoal: Main is in Seen\nnever: a crash\n", 20));
        Assert.Equal(0, Looks(Nears).Rate(Meeting + "goal: Main is in Seen\n", 20));
        Assert.Equal(1, Looks(Nears).Rate(Meeting + "goal: a crash\n", 20));
    }

    [Fact]
    public void A_person_presses_a_button_of_a_guest_and_it_drives_away()
    {
        var away = Meeting.Replace("facing 0 robot deg\nends", "facing 90 robot deg\nends") + "surface Bess is coat on Nose eye\n";
        Assert.Equal(1, Looks(Nears).Rate(away + "goal: Main is in Seen\n", 20));
        Assert.Equal(0, Looks(Nears).Rate(away + "person taps Bess's Start button at 0.5 s\ngoal: Main is in Seen\n", 20));
    }

    [Theory]
    // Its left side is 60 mm from its axle, its back as far, and its corner is met at a slant.
    [InlineData(0, 70)]
    [InlineData(90, 60)]
    [InlineData(270, 60)]
    public void A_range_sensor_sees_a_guest_by_its_outline(double facing, double near)
    {
        const string stop = "program Stop\n\nregion Main\n  state Idle, initial\n    when Range < 2000 mm: go Told\n  state Told, final\n";
        var job = new Job().Drive().Range("Range", 60, ("near", 1, 300), ("far", 300, 2000)).Program(stop).Meets("Barrow", Other());
        var run = BenchReport.Watch(
            job.Plan(
                "floor 2 m by 2 m\nstart Drive at (500, 1000) facing 90 robot deg\n"
                    + $"guest Bess is Barrow copy 1, starts at (1000, 1000) facing {facing} robot deg\n"
                    + "ends after 1 s\ngoal: finished for 1 s\n",
                false
            ),
            1
        );
        Assert.Equal(500 - 60 - near, run.Sensors.First(s => s.Sensor == "Range").Readings.OfType<double>().Average(), 6.0);
    }

    [Fact]
    public void A_vehicle_keeps_its_distance_from_the_one_before_it_on_the_line()
    {
        const string keep =
            "program Keep\n\nregion Main\n  state Going, initial\n    while here: run Rear wheels at 50 %\n"
            + "    when Range < 250 mm: go Near\n  state Near, final\n    on entry: stop Rear wheels and brake\n";
        Job cars(string program) =>
            new Job()
                .Rail("Sand car", "Front wheels")
                .Rail("Clay car", "Rear wheels")
                .With(
                    new Sensor("Range", SensorKind.Distance, 30, 1, ["near", "far"])
                    {
                        Principle = RangePrinciple.Optical,
                        Mount = new(Job.Mm(0), Job.Mm(0), Job.Mm(40), Facing.Ahead),
                        BeamHalfAngleDeg = FloorBench.Sure(3, "°"),
                        BlindMm = Job.Mm(0),
                        ReachMm = Job.Mm(2000),
                        SilentReading = 0,
                        On = "Clay car",
                        Bands = [new Band("near", 1, 250), new Band("far", 250, 2000)],
                    }
                )
                .Program(program);
        const string line = "rail 5000 mm of sleepers, {0}\nstart Sand car at 3000 mm\nstart Clay car at 600 mm\nends after 40 s\n";
        var open = string.Format(line, "end stops");
        Assert.Equal(1, cars(keep).Rate(open + "goal: Main is in Near for 2 s\nnever: a crash\n", 20));
        Assert.Equal(0, cars(keep).Rate(open + "Range hears nothing\nnever: a crash\ngoal: Main is in Near\n", 20));
        // Backwards round a closed line it would look away from it.
        Assert.Equal(1, cars(keep).Rate(string.Format(line, "closed") + "goal: Main is in Near for 2 s\nnever: a crash\n", 20));
    }
}
