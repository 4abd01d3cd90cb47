using Chiton.Core.Programs.Language;

namespace Chiton.Core.Programs.Patterns;

/// <summary>The patterns, each a machine fragment that is filled from a rig.</summary>
public static partial class PatternLibrary
{
    // To a named position, or so far from where it stands.
    private static string Lifts(PatternFill f, string position, string way) =>
        f.Is("how", "positions")
            ? $"send {f["lift"]} to {f[position]}"
            : $"run {f["winch"]} {f[way]} {f["far"]} motor deg at {f["lifts"]} % up to {f["limit"]} s";

    private static Hole Eye(string id, string label, string words = "") => new(id, label, HoleKind.Eye) { Default = words };

    private static Hole Range(string id, string label, string words = "") => new(id, label, HoleKind.Range) { Default = words };

    private static Hole Zone(string id, string label, string of, int pick, string words = "") =>
        new(id, label, HoleKind.Zone)
        {
            Of = of,
            Pick = pick,
            Default = words,
        };

    private static Hole Row(string of, string id = "n") => new(id, "readings in a row", HoleKind.Readings) { Of = of };

    private static Hole Motor(string id, string label, string words = "") => new(id, label, HoleKind.Motor) { Default = words };

    private static Hole Drive(string id = "drive") => new(id, "the drive", HoleKind.Drive);

    private static Hole Button(string id, string label, int pick = 0, string words = "") =>
        new(id, label, HoleKind.Button) { Pick = pick, Default = words };

    private static Hole Lamp(string id, string label, int pick = 0, string words = "") =>
        new(id, label, HoleKind.Lamp) { Pick = pick, Default = words };

    private static Hole Mover(string id, string label, int pick = 0, string words = "") =>
        new(id, label, HoleKind.Mover) { Pick = pick, Default = words };

    private static Hole Position(string id, string label, string of, int pick, string words = "") =>
        new(id, label, HoleKind.Position)
        {
            Of = of,
            Pick = pick,
            Default = words,
        };

    private static Hole Way(string id, string label, string of, int pick, string words = "") =>
        new(id, label, HoleKind.Direction)
        {
            Of = of,
            Pick = pick,
            Default = words,
        };

    private static Hole Other(string id, string label, string? only = null) => new(id, label, HoleKind.Program) { Only = only };

    private static Hole Say(string id, string label, string text) => new(id, label, HoleKind.Text) { Default = text };

    private static Hole Number(string id, string label, double value, string unit, double min, double max, string? only = null) =>
        new(id, label, HoleKind.Number)
        {
            Default = value.ToString(System.Globalization.CultureInfo.InvariantCulture),
            Unit = unit,
            Min = min,
            Max = max,
            Only = only,
        };

    private static Hole Percent(string id, string label, double value, string? only = null) =>
        Number(id, label, value, "%", 1, 100, only) with
        {
            IsPower = true,
        };

    private static readonly PatternChoice Clearing = new(
        "leave",
        "How it leaves the marker",
        "An event knows when the marker is really behind; a time only hopes so.",
        new("event", "when the eye sees the ground again", "sure at any speed and battery"),
        new("time", "after a time", "where the ground next to the marker is not to be trusted")
    );

    private static readonly PatternChoice Turning = new(
        "turn",
        "How it turns",
        "Spinning needs no room beside the robot.",
        new("spinning", "spin on the spot", "needs the least room"),
        new("pivoting", "pivot about one wheel", "steadier with a load, and slower")
    );

    /// <summary>All patterns by number.</summary>
    public static IReadOnlyList<Pattern> All { get; } = [.. First(), .. Second(), .. Third()];

    private static IEnumerable<Pattern> First()
    {
        yield return new(
            "marker-stop",
            1,
            "Stop at a marker, wait, go on",
            "A vehicle serves each marker it comes to, such as beds along a rail.",
            "Going on while still over the marker counts it a second time: it must be off it first.",
            "Serving",
            [
                Motor("motor", "the motor"),
                Eye("eye", "the eye"),
                Zone("marker", "the marker's zone", "eye", -1),
                Zone("ground", "the ground's zone", "eye", 0),
                Row("eye"),
                Percent("speed", "speed", 40),
                Number("wait", "waits", 2, "s", 0.1, 600),
                Number("clear", "is clear after", 1, "s", 0.1, 60, "leave=time"),
                Number("limit", "gives up after", 20, "s", 1, 600),
            ],
            [Clearing],
            f =>
                new(
                    $"var {f.N("stops")} = 0",
                    $"""
                    region {f.N("Serving")}
                      state {f.N("Rolling")}, initial
                        while here: run {f["motor"]} at {f["speed"]} %
                        when {f["eye"]} becomes {f["marker"]}{f.For("n")}: set {f.N("stops")} to {f.N("stops")} + 1; go {f.N("Standing")}
                        after {f["limit"]} s: go {f.N("Lost")}

                      state {f.N("Standing")}
                        on entry: stop {f["motor"]} and brake
                        after {f["wait"]} s: go {f.N("Leaving")}

                      # Off the marker first, so that it does not count twice.
                      state {f.N("Leaving")}
                        while here: run {f["motor"]} at {f["speed"]} %
                        {f.If(
                        "leave",
                        "event",
                        $"when {f["eye"]} is {f["ground"]}{f.For("n")}: go {f.N("Rolling")}",
                        $"after {f["clear"]} s: go {f.N("Rolling")}"
                    )}
                        after {f["limit"]} s: go {f.N("Lost")}

                      state {f.N("Lost")}, final
                        on entry: stop {f["motor"]} and brake; show "No marker found"

                    """
                )
        );

        yield return new(
            "shuttle",
            2,
            "Shuttle between two markers",
            "A vehicle goes to and fro on a line, slows for a siding and parks clear of the junction.",
            "Right after reversing it still stands on the end marker: only a marker that it newly comes to may count.",
            "Shuttle",
            [
                Motor("motor", "the motor"),
                Eye("eye", "the eye"),
                Zone("end", "the end marker's zone", "eye", -1),
                Zone("siding", "the siding's zone", "eye", 1),
                Row("eye"),
                Percent("fast", "fast", 60),
                Percent("slow", "slow past the siding", 30),
                Number("trips", "trips", 3, "", 1, 1000),
                Number("clear", "drives clear of the junction for", 1.5, "s", 0.1, 60),
                Number("limit", "gives up after", 30, "s", 1, 600),
            ],
            [],
            f =>
                new(
                    $"var {f.N("trips")} = 0",
                    $"""
                    region {f.N("Shuttle")}
                      state {f.N("Out")}, initial
                        while here: run {f["motor"]} forward at {f["fast"]} %
                        when {f["eye"]} becomes {f["siding"]}{f.For("n")}: go {f.N("Past the siding")}
                        when {f["eye"]} becomes {f["end"]}{f.For("n")}: go {f.N("Back")}
                        after {f["limit"]} s: go {f.N("Lost")}

                      state {f.N("Past the siding")}
                        while here: run {f["motor"]} forward at {f["slow"]} %
                        when {f["eye"]} becomes {f["end"]}{f.For("n")}: go {f.N("Back")}
                        after {f["limit"]} s: go {f.N("Lost")}

                      state {f.N("Back")}
                        while here: run {f["motor"]} back at {f["fast"]} %
                        when {f["eye"]} becomes {f["end"]}{f.For("n")}: set {f.N("trips")} to {f.N("trips")} + 1; go {f.N("Home")}
                        after {f["limit"]} s: go {f.N("Lost")}

                      state {f.N("Home")}
                        always if {f.N("trips")} >= {f["trips"]}: go {f.N("Parking")}
                        always: go {f.N("Out")}

                      # On past the marker, so that the junction is free.
                      state {f.N("Parking")}
                        while here: run {f["motor"]} back at {f["slow"]} %
                        after {f["clear"]} s: go {f.N("Parked")}

                      state {f.N("Parked")}, final
                        on entry: stop {f["motor"]} and brake

                      state {f.N("Lost")}, final
                        on entry: stop {f["motor"]} and brake; show "No marker found"

                    """
                )
        );

        yield return new(
            "one-line",
            3,
            "Two vehicles, one line",
            "The second vehicle leaves only when the first has parked.",
            "“The first has left” is not “the first has parked”: only a message or a state that says parked may let the second go.",
            "First",
            [
                Motor("motor", "the first vehicle's motor"),
                Eye("eye", "its eye"),
                Zone("parked", "the zone where it is parked", "eye", -1),
                Row("eye"),
                Percent("speed", "speed", 40),
                Button("start", "the start button"),
                new Hole("second", "the second vehicle's motor", HoleKind.Motor)
                {
                    Pick = 1,
                    Only = "link=regions",
                    Not = "first",
                },
                Other("other", "the second vehicle's program", "link=messages"),
                Number("limit", "gives up after", 20, "s", 1, 600),
            ],
            [
                new(
                    "link",
                    "How the second knows",
                    "Regions of one program see each other at once.",
                    new("regions", "both in this program", "where one controller drives both"),
                    new("messages", "a message to its program", "where each vehicle has a controller of its own")
                ),
            ],
            f =>
                new(
                    "",
                    $"""
            region {f.N("First")}
              state {f.N("Ready")}, initial
                when {f["start"]} is pressed: go {f.N("Under way")}

              state {f.N("Under way")}
                while here: run {f["motor"]} at {f["speed"]} %
                when {f["eye"]} becomes {f["parked"]}{f.For("n")}: {f.If(
                  "link", "messages", $"tell {f["other"]} \"line is free\"; "
                )}go {f.N("Parked")}
                after {f["limit"]} s: go {f.N("Stuck")}

              state {f.N("Parked")}
                on entry: stop {f["motor"]} and brake
                {f.If(
                  "link",
                  "messages",
                  $"when told \"I have parked\" from {f["other"]}: go {f.N("Ready")}",
                  $"when {f.N("Second")} is in {f.N("Served")}: go {f.N("Ready")}"
                )}

              # The line is not free while it stands on it.
              state {f.N("Stuck")}
                on entry: stop {f["motor"]} and brake
                when {f["start"]} is pressed: go {f.N("Under way")}

            {f.If("link", "regions", $"""
            region {f.N("Second")}
              state {f.N("Waiting")}, initial
                when {f.N("First")} is in {f.N("Parked")}: go {f.N("Leaving")}

              state {f.N("Leaving")}
                while here: run {f["second"]} at {f["speed"]} %
                after {f["limit"]} s: go {f.N("Served")}

              state {f.N("Served")}
                on entry: stop {f["second"]} and brake
                when {f.N("First")} is in {f.N("Ready")}: go {f.N("Waiting")}

            """)}
            """
                )
        );

        yield return new(
            "seek",
            4,
            "Seek, approach, grip, carry away",
            "A robot looks round for something, drives up to it, grips it, turns away and lets go.",
            "A close that the object blocks never ends by itself: it needs a stall or a time as a way out.",
            "Seeking",
            [
                Drive(),
                Range("range", "the range sensor"),
                Zone("seen", "the zone in which it is seen", "range", 1, "near|coming|at"),
                Zone("close", "the zone in which to grip", "range", 0, "close|touching"),
                Row("range"),
                Mover("jaws", "the jaws", 0, "jaw|grip|clamp"),
                Way("shut", "the way they close", "jaws", -1, "close|shut"),
                Position("open", "where they are open", "jaws", 0, "open"),
                Percent("look", "looks round at", 15),
                Number("face", "turns on by", 8, "robot deg", 0, 90),
                Percent("slow", "approaches at", 20),
                Percent("grip", "grips at", 25),
                Number("limit", "gives up after", 6, "s", 0.5, 120),
            ],
            [Turning],
            f =>
                new(
                    "",
                    $"""
                    region {f.N("Seeking")}
                      state {f.N("Looking round")}, initial
                        while here: steer {f["look"]} % and -{f["look"]} %
                        when {f["range"]} becomes {f["seen"]}{f.For("n")}: go {f.N("Facing")}

                      # It is noticed with the edge of the beam: on a little, to look straight at it.
                      state {f.N("Facing")}
                        on entry: stop {f["drive"]} and brake, then turn robot right {f["face"]} robot deg {(
                        f.Is("turn", "pivoting") ? "pivoting" : "spinning"
                    )} at {f["look"]} %
                        when all done: go {f.N("Approaching")}

                      state {f.N("Approaching")}
                        while here: drive straight at {f["slow"]} %
                        when {f["range"]} becomes {f["close"]}{f.For("n")}: go {f.N("Gripping")}
                        after {f["limit"]} s: go {f.N("Looking round")}

                      state {f.N("Gripping")}
                        on entry: stop {f["drive"]} and brake
                        while here: run {f["jaws"]} {f["shut"]} at {f["grip"]} %
                        when {f["jaws"]} stalls: go {f.N("Turning away")}
                        after 1.5 s: go {f.N("Turning away")}

                      state {f.N("Turning away")}
                        on entry: stop {f["jaws"]} and hold, then turn robot right 180 robot deg {(
                        f.Is("turn", "pivoting") ? "pivoting" : "spinning"
                    )} at {f["look"]} %
                        when all done: go {f.N("Letting go")}

                      state {f.N("Letting go")}
                        on entry: send {f["jaws"]} to {f["open"]}
                        when {f["jaws"]} is done: go {f.N("Looking round")}
                        after 3 s: go {f.N("Looking round")}

                    """
                )
        );

        yield return new(
            "lift-carry",
            5,
            "Lift and carry",
            "A fork drives under a load, lifts it, turns, sets it down and backs off.",
            "A quick turn or start throws the load off: what is lifted moves slowly.",
            "Carrying",
            [
                Drive(),
                Range("range", "the range sensor"),
                Zone("at", "the zone in which it is at the load", "range", 0, "close|at|touching"),
                Row("range"),
                new Hole("lift", "the lift", HoleKind.Mover) { Default = "lift|mast|winch|fork", Only = "how=positions" },
                new Hole("up", "where it is up", HoleKind.Position)
                {
                    Of = "lift",
                    Pick = -1,
                    Default = "up|shelf|top",
                    Only = "how=positions",
                },
                new Hole("down", "where it is down", HoleKind.Position)
                {
                    Of = "lift",
                    Default = "down|bottom",
                    Only = "how=positions",
                },
                new Hole("winch", "the lift", HoleKind.Motor) { Default = "lift|mast|winch|fork", Only = "how=degrees" },
                new Hole("rises", "the way up", HoleKind.Direction)
                {
                    Of = "winch",
                    Default = "up|out|forward",
                    Only = "how=degrees",
                },
                new Hole("sinks", "the way down", HoleKind.Direction)
                {
                    Of = "winch",
                    Pick = -1,
                    Default = "down|in|back",
                    Only = "how=degrees",
                },
                Number("far", "lifts by", 360, "motor deg", 1, 100000, "how=degrees"),
                Percent("lifts", "lifts at", 25, "how=degrees"),
                Percent("slow", "approaches at", 20),
                Percent("carry", "carries at", 12),
                Number("angle", "turns", 90, "robot deg", 1, 360),
                Number("off", "backs off", 120, "mm", 1, 5000),
                Number("limit", "gives up after", 10, "s", 1, 120),
            ],
            [
                new(
                    "how",
                    "How the lift knows where it is",
                    "A position is found by hand once and holds wherever the lift begins.",
                    new("positions", "by named positions", "where they were recorded"),
                    new("degrees", "by motor degrees from where it stands", "where no position has a name; it must begin at the bottom")
                ),
                Turning,
            ],
            f =>
                new(
                    "",
                    $"""
                    region {f.N("Carrying")}
                      state {f.N("Approaching")}, initial
                        while here: drive straight at {f["slow"]} %
                        when {f["range"]} becomes {f["at"]}{f.For("n")}: go {f.N("Announcing")}
                        after {f["limit"]} s: go {f.N("Nothing there")}

                      # People see and hear that something will move.
                      state {f.N("Announcing")}
                        on entry: stop {f["drive"]} and brake; tone 600 Hz for 0.5 s
                        after 0.7 s: go {f.N("Lifting")}

                      state {f.N("Lifting")}
                        on entry: {Lifts(f, "up", "rises")}
                        when {f[f.Is("how", "positions") ? "lift" : "winch"]} is done: go {f.N("Turning")}
                        when {f[f.Is("how", "positions") ? "lift" : "winch"]} stalls: go {f.N("Lowering")}

                      state {f.N("Turning")}
                        on entry: turn robot right {f["angle"]} robot deg {(f.Is("turn", "pivoting") ? "pivoting" : "spinning")} at {f[
                        "carry"
                    ]} %
                        when all done: go {f.N("Lowering")}

                      state {f.N("Lowering")}
                        on entry: {Lifts(f, "down", "sinks")}
                        when {f[f.Is("how", "positions") ? "lift" : "winch"]} is done: go {f.N("Backing off")}
                        when {f[f.Is("how", "positions") ? "lift" : "winch"]} stalls: go {f.N("Backing off")}
                        after {f["limit"]} s: go {f.N("Backing off")}

                      state {f.N("Backing off")}
                        on entry: drive back {f["off"]} mm at {f["slow"]} %
                        when all done: go {f.N("Carried")}

                      state {f.N("Carried")}, final

                      state {f.N("Nothing there")}, final
                        on entry: stop {f["drive"]} and brake; show "No load found"

                    """
                )
        );

        yield return new(
            "home-count",
            6,
            "Home, then count out",
            "A joint that does not know where it is: it is driven against a sensor, and counted from there.",
            "Without homing every count begins from an unknown place, and the error never goes away.",
            "Homing",
            [
                Motor("motor", "the joint"),
                Button("home", "the home switch"),
                Way("in", "the way home", "motor", -1, "down|in|shut|close|back"),
                Way("out", "the other way", "motor", 0, "up|out|open|forward"),
                Percent("slow", "homes at", 20),
                Percent("speed", "goes out at", 30),
                Number("amount", "goes out", 200, "motor deg", 1, 100000),
                Number("hold", "holds for", 1, "s", 0.1, 600),
                Number("rounds", "rounds", 3, "", 1, 1000),
                Number("limit", "gives up after", 6, "s", 0.5, 120),
            ],
            [],
            f =>
                new(
                    $"var {f.N("rounds")} = 0",
                    $"""
                    region {f.N("Homing")}
                      state {f.N("Going home")}, initial
                        while here: run {f["motor"]} {f["in"]} at {f["slow"]} %
                        when {f["home"]} is down: go {f.N("At home")}
                        when {f["motor"]} stalls: go {f.N("Stuck")}
                        after {f["limit"]} s: go {f.N("Stuck")}

                      state {f.N("At home")}
                        on entry: stop {f["motor"]} and hold; zero {f["motor"]}
                        after {f["hold"]} s if {f.N("rounds")} < {f["rounds"]}: go {f.N("Going out")}
                        when {f.N("rounds")} >= {f["rounds"]}: go {f.N("Over")}

                      state {f.N("Going out")}
                        on entry: run {f["motor"]} {f["out"]} {f["amount"]} motor deg at {f["speed"]} % up to {f["limit"]} s
                        when {f["motor"]} is done: go {f.N("Out")}
                        when {f["motor"]} stalls: go {f.N("Stuck")}

                      state {f.N("Out")}
                        on entry: stop {f["motor"]} and hold; set {f.N("rounds")} to {f.N("rounds")} + 1
                        after {f["hold"]} s: go {f.N("Going home")}

                      state {f.N("Over")}, final

                      state {f.N("Stuck")}, final
                        on entry: stop {f["motor"]}; show "Stuck"

                    """
                )
        );

        yield return new(
            "bands",
            7,
            "Answer by distance",
            "Far away nothing happens, nearer one thing, near another; only one at a time.",
            "Nothing heard is often read as 0 and must not count as near; a hand needs time to withdraw.",
            "Answering",
            [
                Range("range", "the range sensor"),
                Zone("far", "the far zone", "range", -1),
                Zone("middle", "the middle zone", "range", 1),
                Zone("near", "the near zone", "range", 0),
                Row("range"),
                new Hole("one", "what answers in the middle", HoleKind.Doer),
                new Hole("two", "what answers near", HoleKind.Doer) { Pick = 1, Not = "one" },
                Percent("power", "motors at", 30),
                Number("wait", "time for the hand to withdraw", 1, "s", 0, 60),
            ],
            [],
            f =>
                new(
                    "",
                    $"""
                    region {f.N("Answering")}
                      state {f.N("Nothing there")}, initial
                        {(
                        f["one.off"] + f["two.off"] == ""
                            ? ""
                            : $"on entry: {string.Join("; ", new[] { f["one.off"], f["two.off"] }.Where(o => o != ""))}"
                    )}
                        when {f["range"]} is {f["near"]}{f.For("n")}: go {f.N("Near")}
                        when {f["range"]} is {f["middle"]}{f.For("n")}: go {f.N("Coming")}

                      state {f.N("Coming")}
                        while here: {f["one.on"]}
                        when {f["range"]} is {f["near"]}{f.For("n")}: go {f.N("Near")}
                        when {f["range"]} is {f["far"]}{f.For("n")}: go {f.N("Nothing there")}

                      state {f.N("Near")}
                        on entry: tone 500 Hz for 0.3 s
                        while here: {f["two.on"]}
                        when {f["range"]} is {f["middle"]}{f.For("n")}: go {f.N("Withdrawing")}
                        when {f["range"]} is {f["far"]}{f.For("n")}: go {f.N("Withdrawing")}

                      # Nothing new while the hand draws back.
                      state {f.N("Withdrawing")}
                        after {f["wait"]} s: go {f.N("Nothing there")}

                    """
                )
        );

        yield return new(
            "hysteresis",
            8,
            "Threshold with hysteresis",
            "A valve, pump or alarm follows a level: on at one zone, off at another, never to and fro between.",
            "With one threshold for both it chatters; and an alarm that is only started never stops.",
            "Level",
            [
                Eye("probe", "the sensor", "low|probe|level|soil"),
                Zone("on", "on in this zone", "probe", 0),
                Zone("off", "off in this zone", "probe", -1),
                Row("probe"),
                Motor("pump", "the pump or valve motor"),
                Percent("power", "power", 60),
                Number("most", "alarm after", 60, "s", 1, 3600),
                Button("quiet", "the button that silences", -1),
            ],
            [],
            f =>
                new(
                    "",
                    $"""
                    region {f.N("Level")}
                      state {f.N("Off")}, initial
                        when {f["probe"]} is {f["on"]}{f.For("n")}: go {f.N("On")}

                      state {f.N("On")}
                        while here: run {f["pump"]} at {f["power"]} %
                        when {f["probe"]} is {f["off"]}{f.For("n")}: go {f.N("Off")}
                        after {f["most"]} s: go {f.N("Alarm")}

                      # The alarm ends with its cause, or when somebody has heard it.
                      state {f.N("Alarm")}
                        every 1 s: tone 700 Hz for 0.4 s; stay
                        when {f["probe"]} is {f["off"]}{f.For("n")}: go {f.N("Off")}
                        when {f["quiet"]} is pressed: go {f.N("On")}

                    """
                )
        );
    }
}
