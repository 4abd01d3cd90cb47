namespace Chiton.Core.Tests.Simulation;

/// <summary>
/// Jobs that people give such machines, each with a scene in which it does them and one in which it cannot: a job that always passes
/// shows nothing.
/// </summary>
public class JobsTests
{
    // ---- rails ----

    private const string Shuttle = """
        program Shuttle

        region Main
          state Out, initial
            while here: run Wheels at 45 %
            when Tag eye becomes stop tag for 2 readings: go Waiting

          state Waiting
            on entry: stop Wheels and brake
            after 1 s: go Home

          state Home
            while here: run Wheels at -45 %
            when Tag eye becomes home tag for 2 readings: go Parked

          state Parked, final
            on entry: stop Wheels and brake

        """;

    private static Job Vehicle() =>
        new Job()
            .Rail("Car", "Wheels")
            .Eye("Tag eye", 0, 0, Facing.Down, ("sleepers", 22), ("stop tag", 58), ("home tag", 85))
            .Program(Shuttle);

    [Fact]
    public void A_shuttle_goes_to_one_tag_and_back_to_the_other()
    {
        const string rail =
            "rail 4000 mm of sleepers, end stops\nmarker home of home tag 80 mm at 300 mm\nmarker far of stop tag 80 mm at 2500 mm\n"
            + "ends after 60 s\ngoal: stopped over home within 60 s\n";
        Assert.True(Vehicle().Rate(rail + "start Car at 500 mm give or take 20 mm\n") > 0.9);
        // Put down beyond the tag, it runs against the end of its rail.
        Assert.Equal(0, Vehicle().Rate(rail + "start Car at 2700 mm\n"));
        // The tag fell off in some runs: in those it never turns back.
        Assert.InRange(
            Vehicle().Rate(rail.Replace("at 2500 mm", "at 2500 mm, in 50 of 100 runs") + "start Car at 500 mm\n", 200),
            0.38,
            0.58
        );
    }

    // ---- a robot that bumps ----

    private const string Bump = """
        program Bump

        var turns = 0

        region Main
          state Ahead, initial
            while here: drive straight at 30 %
            when Bumper is pressed: go Back
          state Back
            on entry: drive back 80 mm at 30 %, then turn robot right 90 robot deg spinning at 20 %
            when Drive is done: set turns to turns + 1; go Ahead

        """;

    [Fact]
    public void A_robot_that_bumps_and_turns_comes_round_its_pen()
    {
        Job robot = new Job().Drive().Touch("Bumper", 60).Program(Bump);
        const string pen = "floor 900 by 900 mm, walls round it\nstart Drive at (450, 300) facing 0 robot deg\nends after 40 s\n";
        Assert.True(robot.Rate(pen + "goal: turns >= 4\nnever: moving after 39.5 s at the end\n".Split('\n')[0] + "\n") > 0.9);
        Assert.True(robot.Rate(pen + "goal: Drive turned 1 turns\n") > 0.9);
        // Without walls it meets nothing, and goes on.
        Assert.Equal(0, robot.Rate(pen.Replace(", walls round it", "") + "goal: turns >= 1\n"));
        // Held in the air its wheels turn and nothing is pressed.
        Assert.Equal(0, robot.Rate(pen + "lift the rig at 0.1 s for 39 s\ngoal: turns >= 1\n"));
    }

    // ---- a list of missions ----

    private const string Missions = """
        program Missions

        var next = 1

        region Main
          state Waiting, initial
            on entry: show "mission " + next
            when Start button is tapped twice: set next to next + 1; go Waiting
            when Start button is tapped if next = 1: go First
            when Start button is tapped if next = 2: go Second
            when Start button is held for 1 s: set next to 1; go Waiting

          state First
            on entry: send Arm to out
            when Arm is done: set next to 2; go Waiting

          state Second
            on entry: send Arm to rest
            when Arm is done: set next to 3; go Waiting

        """;

    private static Job Arm(ActuatorKind motor = ActuatorKind.Servo) =>
        new Job().Button("Start button").Part("Arm", MechanismKind.ArmJoint, motor, 0, 120, ("rest", 5), ("out", 100));

    [Theory]
    [InlineData("person taps Start button at 1 s\n", "Arm at out", true)]
    [InlineData("person taps Start button at 1 s\nperson taps Start button at 5 s\n", "Arm at rest", true)]
    [InlineData("person taps Start button at 1 s\nperson taps Start button at 5 s\n", "Arm at out", false)]
    [InlineData("person holds Start button at 1 s for 2 s\n", "Arm at out", false)]
    [InlineData("person taps Start button every 4 s\n", "Arm at rest", true)]
    [InlineData("unplug Start button\nperson taps Start button at 1 s\n", "Arm at out", false)]
    public void One_touch_starts_the_next_mission(string people, string goal, bool passes) =>
        Assert.Equal(
            passes ? 1 : 0,
            Arm().Program(Missions).Rate($"start Arm at rest\n{people}ends after 12 s\ngoal: {goal} at the end\n")
        );

    // ---- a hand before a folding arm ----

    private const string Folding = """
        program Folding

        region Main
          state Resting, initial
            when Reach is near for 3 readings: go Folding
          state Folding
            on entry: send Arm to out, then send Arm to rest
            when Arm is done: go Clear
          state Clear
            when Reach is not near for 1 s: go Resting

        """;

    [Fact]
    public void A_hand_starts_the_fold_and_a_second_one_waits_until_it_is_over()
    {
        var job = Arm().Range("Reach", 61, ("near", 1, 150), ("far", 150, 2000)).Program(Folding);
        // A board behind it is far: before its first reading a sensor has no zone to leave.
        const string start = "start Arm at rest\nboard 700 mm before Reach\nends after 14 s\n";
        // A servo is done by its clock: a slow one is sent back a little before it is there.
        Assert.True(job.Rate(start + "hand 80 mm before Reach at 2 s for 1 s\ngoal: Arm at out within 9 s\n") > 0.9);
        Assert.Equal(0, job.Rate(start + "hand 400 mm before Reach at 2 s for 1 s\ngoal: Arm at out within 9 s\n"));
        Assert.Equal(0, job.Rate(start + "hand 80 mm before Reach at 2 s for 40 ms\ngoal: Arm at out within 9 s\n"));
        // A cat is as good as a hand.
        Assert.True(job.Rate(start + "cat 80 mm before Reach at 2 s for 1 s\ngoal: Arm at out within 9 s\n") > 0.9);
        // As long as it stays there, nothing begins anew.
        Assert.Equal(1, job.Rate(start + "hand 80 mm before Reach at 2 s\ngoal: Main is in Clear at the end\n"));
        Assert.Equal(0, job.Rate(start + "hand 80 mm before Reach at 2 s for 5 s\ngoal: Main is in Clear at the end\n"));
    }

    // ---- moves for a time ----

    [Theory]
    [InlineData("drive straight for 1 s at 30 %", true)]
    [InlineData("turn robot right for 1 s spinning at 20 %", true)]
    [InlineData("steer 30 % and 20 % for 1 s", true)]
    [InlineData("drive straight at 30 %", false)]
    public void A_move_for_a_time_ends_with_it(string move, bool ends)
    {
        var main =
            $"program Timed\n\nregion Main\n  state Going, initial\n    on entry: {move}\n    when Drive is done: go Over\n"
            + "  state Over, final\n";
        const string floor = "floor 9 m by 9 m\nstart Drive at (4500, 4500) facing 0 robot deg\nends after 6 s\n";
        Assert.Equal(ends ? 1 : 0, new Job().Drive().Program(main).Rate(floor + "goal: Main is in Over\nnever: moving after 2.5 s\n"));
        // It did move.
        var (x, y, heading) = FloorBench.End(BenchReport.Watch(new Job().Drive().Program(main).Plan(floor), 1));
        Assert.True(Math.Abs(y - 4500) + Math.Abs(x - 4500) + Math.Abs(heading) > 20);
    }

    [Fact]
    public void A_part_that_runs_for_a_time_stops_after_it()
    {
        const string main =
            "program Timed\n\nregion Main\n  state Going, initial\n    on entry: run Arm out for 0.4 s at 10 %\n"
            + "    when Arm is done: go Over\n  state Over, final\n";
        var arm = Arm(ActuatorKind.RegulatedMotor).Program(main);
        Assert.Equal(1, arm.Rate("ends after 4 s\ngoal: Main is in Over\nnever: Arm past its stop\n"));
        var at = BenchReport.Watch(arm.Plan("ends after 4 s\n", false), 1).Bodies.First(b => b.Name == "Arm").X[^1]!.Value;
        // A tenth of 900 motor deg a second for 0.4 s.
        Assert.InRange(at, 25, 45);
    }

    // ---- a jam ----

    private const string Closing = """
        program Closing

        region Main
          state Closing, initial
            on entry: run Arm out 90 motor deg at 30 % up to 3 s
            when Arm is done: go Shut
            when Arm stalls: go Jammed
            when Arm gives up: go Late
          state Shut, final
          state Jammed, final
            on entry: stop Arm and coast
          state Late, final

        """;

    [Theory]
    [InlineData("", "Shut")]
    [InlineData("block Arm\n", "Jammed")]
    [InlineData("block Arm at 0.1 s for 5 s\n", "Jammed")]
    [InlineData("unplug Arm motor\n", "Late")]
    [InlineData("start Arm at 60 motor deg\n", "Jammed")]
    [InlineData("unplug Arm motor at 0.1 s for 0.3 s\n", "Shut")]
    public void A_move_that_is_blocked_stalls_and_one_without_a_lead_gives_up(string what, string state) =>
        Assert.Equal(
            1,
            Arm(ActuatorKind.RegulatedMotor).Program(Closing).Rate($"{what}ends after 8 s\ngoal: Main is in {state} at the end\n")
        );

    // ---- by hand, and back to where it was ----

    private const string Override = """
        program Override

        region Main
          state Work, initial
            history Again: go Left
            state Left, initial
              while here: send Arm to rest
              after 2 s: go Right
            state Right
              while here: send Arm to out
              after 2 s: go Left
            when Start button is pressed: go Held

          state Held
            on entry: stop Arm and hold
            when Start button is released: go Again

        """;

    [Fact]
    public void A_button_takes_over_and_let_go_it_goes_on_where_it_was()
    {
        var job = Arm().Program(Override.Replace("state Work, initial\n    history", "state Work, initial\n    history"));
        const string start = "start Arm at rest\nends after 12 s\n";
        Assert.Equal(1, job.Rate(start + "person presses Start button at 3 s for 4 s\ngoal: Main is in Held for 3.5 s\n"));
        // Pressed while it was in Right, it is there again right after.
        Assert.Equal(
            1,
            job.Rate(
                start
                    + "person presses Start button at 3 s for 4 s\nends after 7.6 s\n".Replace("ends after 7.6 s\n", "")
                    + "goal: Main is in Right for 1.5 s\n"
            )
        );
        Assert.Equal(0, job.Rate(start + "person presses Start button at 1 s\nperson lets go of Start button at 11 s\ngoal: Arm at out\n"));
    }

    // ---- light in a room ----

    private const string Lantern = """
        program Lantern

        region Main
          state Dark, initial
            while here: turn Lamp off
            when Sky eye is dim for 1 s: go Lit
          state Lit
            while here: turn Lamp on
            when Sky eye is bright for 1 s: go Dark

        """;

    [Fact]
    public void A_lantern_is_lit_while_the_room_is_dark_and_a_shadow_that_passes_changes_nothing()
    {
        Job lantern() =>
            new Job()
                .Motor("Lamp", ActuatorKind.Lamp)
                .With(new Sensor("Sky eye", SensorKind.AmbientLight, 50, 1, ["dim", "bright"]) { Mount = new(Job.Mm(0)) })
                .Reads("Sky eye", 1, ("dim", 20), ("bright", 60))
                .Program(Lantern);
        const string evening = "light falls by 38 % on Sky eye from 5 s for 20 s\nends after 40 s\n";
        Assert.Equal(1, lantern().Rate(evening + "goal: Lamp is on within 8 s\n"));
        Assert.Equal(1, lantern().Rate(evening + "goal: Lamp is on for 15 s\ngoal: Lamp is off at the end\n"));
        Assert.Equal(0, lantern().Rate("light falls by 38 % on Sky eye at 5 s for 0.6 s\nends after 20 s\ngoal: Lamp is on\n"));
        Assert.Equal(0, lantern().Rate("light falls by 5 % on Sky eye at 5 s for 9 s\nends after 20 s\ngoal: Lamp is on\n"));
        Assert.Equal(1, lantern().Rate("Sky eye reads dim at 5 s for 3 s\nends after 20 s\ngoal: Lamp is on\n"));
    }

    // ---- pieces through a gate ----

    private const string Count = """
        program Count

        var pieces = 0

        region Main
          state Running, initial
            while here: run Belt out at 30 %
            when Gate is pressed: set pieces to pieces + 1; stay
            when pieces = 5: go Full
          state Full, final
            on entry: stop Belt and brake

        """;

    [Fact]
    public void A_gate_counts_the_pieces_that_come_along_a_belt()
    {
        Job belt() =>
            new Job()
                .Part("Belt", MechanismKind.Crank, ActuatorKind.RegulatedMotor, 0, 1e6)
                .With(new Sensor("Gate", SensorKind.LightGate, 10, 1, ["up", "down"]) { Mount = new(Job.Mm(150)), On = "Belt" })
                .Program(Count);
        const string scene = "belt Belt 400 mm\nends after 60 s\n";
        Assert.Equal(1, belt().Rate(scene + "a nut 20 mm every 3 s give or take 0.2 s\ngoal: Main is in Full\n", 20));
        Assert.Equal(0, belt().Rate(scene + "a nut 20 mm every 3 s\ngoal: Main is in Full within 9 s\n", 20));
        Assert.Equal(
            0,
            belt().Rate(scene + "a nut 20 mm every 3 s\nreadings of Gate are lost 1 of 1\nunplug Gate\ngoal: Main is in Full\n", 20)
        );
        // Pieces that touch are one for the gate: put on every 0.2 s they lie on each other.
        Assert.Equal(0, belt().Rate(scene + "a nut 60 mm every 0.2 s\ngoal: Main is in Full\n", 20));
    }

    // ---- teaching at the start ----

    private const string Taught = """
        program Taught

        region Main
          state Light, initial
            when Start button is tapped: teach Line eye sand for 0.5 s; go Dark
          state Dark
            when Start button is tapped: teach Line eye line for 0.5 s; go Ready
          state Ready
            when Start button is tapped: go Rolling
          state Rolling
            while here: drive straight at 20 %
            when Line eye is line for 2 readings: go There
          state There, final
            on entry: stop Drive and brake

        """;

    [Fact]
    public void An_eye_that_is_taught_at_the_start_does_its_work_in_another_light()
    {
        Job robot() =>
            new Job().Drive().Button("Start button").Eye("Line eye", 50, 0, Facing.Down, ("line", 20), ("sand", 60)).Program(Taught);
        const string scene =
            "floor 1200 by 900 mm of sand\nstrip stripe of line 40 mm wide from (0, 700) to (1200, 700)\n"
            + "start Drive at (300, 300) facing 0 robot deg\nlight rises by 30 % on Line eye\n"
            + "person taps Start button at 1 s\nperson puts Drive at (600, 650) facing 0 robot deg at 2 s\n"
            + "person taps Start button at 3 s\n"
            + "person puts Drive at (900, 300) facing 0 robot deg at 4 s\nperson taps Start button at 5 s\nends after 20 s\n";
        const string stands = "goal: Drive within 80 mm of stripe and Main is in There within 20 s\n";
        Assert.Equal(1, robot().Rate(scene + stands));
        // Never taught, in that light the stripe reads as the sand once did, and it drives on.
        var plain = Taught.Replace("teach Line eye sand for 0.5 s; ", "").Replace("teach Line eye line for 0.5 s; ", "");
        Assert.Equal(
            0,
            new Job()
                .Drive()
                .Button("Start button")
                .Eye("Line eye", 50, 0, Facing.Down, ("line", 20), ("sand", 60))
                .Program(plain)
                .Rate(scene + stands)
        );
    }

    // ---- stations that ask ----

    private const string Desk = """
        program Desk

        var asked = queue
        var now = 0

        region Main
          state Idle, initial
            when length of asked > 0: take from asked into now; go Serving
          state Serving
            on entry: send Arm to out, then wait 1 s, then send Arm to rest
            when Arm is done: go Idle

        region Ears
          state Listening, initial
            when Start button is pressed: push 1 onto asked; stay
            when Bell is pressed: push 2 onto asked; stay

        """;

    [Fact]
    public void Who_asks_while_it_is_busy_is_served_next()
    {
        var desk = Arm().Button("Bell").Program(Desk);
        const string both = "start Arm at rest\nperson taps Start button at 1 s\nperson taps Bell at 1.5 s\nends after 20 s\n";
        Assert.Equal(1, desk.Rate(both + "goal: now = 2 and Main is in Idle\n"));
        Assert.Equal(0, desk.Rate(both + "goal: now = 2 within 2 s\n"));
        Assert.Equal(0, desk.Rate(both.Replace("person taps Bell at 1.5 s\n", "") + "goal: now = 2\n"));
    }

    // ---- a robot that follows ----

    private const string Follows = """
        program Follows

        region Main
          state On line, initial
            while here: steer 22 % and 10 %
            when Line eye is sand for 2 readings: go Off line
            when Bumper is pressed: go Over
          state Off line
            while here: steer 10 % and 22 %
            when Line eye is line for 2 readings: go On line
            when Bumper is pressed: go Over
          state Over, final
            on entry: stop Drive and brake

        """;

    [Fact]
    public void Two_levels_follow_a_line_round_a_wide_bend_and_lose_it_in_a_tight_one()
    {
        Job robot() =>
            new Job().Drive().Touch("Bumper", 60).Eye("Line eye", 60, 0, Facing.Down, ("line", 15), ("sand", 65)).Program(Follows);
        static string Track(int round) =>
            "floor 1600 by 1400 mm of sand\n"
            + $"strip track of line 50 mm wide from (400, 200) to (400, 1000) to (1200, 1000), round {round} mm\n"
            + "thing post round 60 mm at (1230, 1000), fixed\n"
            + "start Drive at (385, 240) facing 0 robot deg give or take 3 mm and 1 robot deg\n"
            + "ends after 60 s\ngoal: Drive touching track at the end\ngoal: Main is in Over\n";
        Assert.True(robot().Rate(Track(350), 40) > 0.9);
        // It swings back and finds it again, but in a corner it is off the line for a while.
        const string never = "never: not (Drive touching track) for more than 0.6 s\n";
        Assert.True(robot().Rate(Track(350) + never, 40) > 0.9);
        Assert.True(robot().Rate(Track(5) + never, 40) < 0.2);
        // In the shade of a wall the line and the sand are darker by more than their threshold allows.
        Assert.True(robot().Rate(Track(350) + "shade 400 by 300 mm at (400, 700): Line eye falls by 45 %\n", 40) < 0.5);
    }
}
