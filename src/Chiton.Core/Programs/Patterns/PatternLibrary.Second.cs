using Chiton.Core.Programs.Language;

namespace Chiton.Core.Programs.Patterns;

public static partial class PatternLibrary
{
    private static IEnumerable<Pattern> Second()
    {
        yield return new(
            "bump",
            9,
            "Bump, back off, turn",
            "A robot that meets something with a bumper backs off, turns and goes on.",
            "Always turning the same way can lead it round in a corner for ever; turning by the bumper needs two of them.",
            "Bumping",
            [
                Drive(),
                Button("left", "the left bumper", 0, "left|bumper"),
                new Hole("right", "the right bumper", HoleKind.Button)
                {
                    Pick = 1,
                    Default = "right",
                    Only = "side=bumper",
                    Not = "left",
                },
                Percent("speed", "speed", 40),
                Number("off", "backs off", 80, "mm", 1, 2000),
                Number("angle", "turns", 60, "robot deg", 1, 180),
            ],
            [
                new(
                    "side",
                    "Which way it turns",
                    "With one bumper there is nothing to choose by.",
                    new("same", "always the same way", "one bumper is enough"),
                    new("bumper", "away from the bumper that was hit", "with two bumpers, gets out of corners")
                ),
                Turning,
            ],
            f =>
            {
                string Back(string side) =>
                    $"""
                          state {f.N($"Away to the {side}")}
                            on entry: drive back {f["off"]} mm at {f["speed"]} %, then turn robot {side} {f["angle"]} robot deg {(
                            f.Is("turn", "pivoting") ? "pivoting" : "spinning"
                        )} at {f["speed"]} %
                            when all done: go {f.N("Driving")}

                        """;
                return new(
                    "",
                    $"""
                    region {f.N("Bumping")}
                      state {f.N("Driving")}, initial
                        while here: drive straight at {f["speed"]} %
                        when {f["left"]} is pressed: go {f.N("Away to the right")}
                        {f.If("side", "bumper", $"when {f["right"]} is pressed: go {f.N("Away to the left")}")}

                    {Back("right")}{f.If("side", "bumper", Back("left"))}
                    """
                );
            }
        );

        yield return new(
            "beeper",
            10,
            "Back away with beeper and lamp",
            "A vehicle backs away while a lamp and a beeper go in step, then turns.",
            "Three activities with times of their own drift apart: one beat and one number of beats make them end together.",
            "Backing",
            [
                Drive(),
                Lamp("lamp", "the lamp"),
                new Hole("start", "what starts it", HoleKind.Any),
                Zone("begin", "when it is in this zone", "start", -1, "down|near|close"),
                Row("start"),
                Number("beat", "one beat", 0.5, "s", 0.4, 5),
                Number("beats", "beats", 4, "", 1, 100),
                Percent("speed", "backs at", 25),
                Number("angle", "turns", 90, "robot deg", 1, 360),
            ],
            [Turning],
            f =>
                new(
                    $"const {f.N("beat")} = {f["beat"]} s\nconst {f.N("beats")} = {f["beats"]}",
                    $"""
                    region {f.N("Backing")}
                      state {f.N("Standing")}, initial
                        when {f["start.when"]}: go {f.N("Backing away")}

                      # One beat for all three: they end together.
                      state {f.N("Backing away")}
                        on entry: drive back for {f.N("beat")} * {f.N("beats")} at {f["speed"]} % and blink {f["lamp"]} {f.N(
                        "beat"
                    )} / 2 on {f.N("beat")} / 2 off {f.N("beats")} times
                        every {f.N("beat")}: tone 600 Hz for {f.N("beat")} / 2; stay
                        after {f.N("beat")} * {f.N("beats")}: go {f.N("Turning")}

                      state {f.N("Turning")}
                        on entry: turn robot right {f["angle"]} robot deg {(f.Is("turn", "pivoting") ? "pivoting" : "spinning")} at {f[
                        "speed"
                    ]} %
                        when all done: go {f.N("Standing")}

                    """
                )
        );

        yield return new(
            "edge-guard",
            11,
            "Edge guard",
            "A robot works on a table and never falls: two eyes look down before the wheels.",
            "Back and the same turn again can lead from edge to edge for ever; after two edges in a row it turns further.",
            "Guarding",
            [
                Drive(),
                Eye("left", "the left eye", "left"),
                new Hole("right", "the right eye", HoleKind.Eye)
                {
                    Pick = 1,
                    Default = "right",
                    Not = "left",
                },
                Zone("drop", "the zone past the edge", "left", 0, "drop|edge|nothing"),
                Number("speed", "speed", 120, "mm/s", 10, 1000),
                Number("off", "backs off", 60, "mm", 1, 1000),
                Number("angle", "turns", 100, "robot deg", 10, 180),
                Number("push", "pushes on by", 15, "mm", 0, 200, "push=yes"),
                Percent("turnpower", "turns at", 30),
            ],
            [
                new(
                    "push",
                    "What it does with what it pushes",
                    "A robot that only cleans has nothing to push.",
                    new("no", "backs at once", "safest"),
                    new("yes", "pushes on a little first", "the thing falls, the robot must not")
                ),
                Turning,
            ],
            f =>
                new(
                    $"var {f.N("edges")} = 0",
                    $"""
                    region {f.N("Guarding")}
                      state {f.N("Working")}, initial
                        while here: drive straight at {f["speed"]} mm/s
                        when {f["left"]} becomes {f["drop"]}: go {f.N("At the edge")}
                        when {f["right"]} becomes {f["drop"]}: go {f.N("At the edge")}
                        # It got some way without an edge: not caught between two.
                        after 3 s: set {f.N("edges")} to 0; stay

                      state {f.N("At the edge")}
                        on entry: set {f.N("edges")} to {f.N("edges")} + 1; {f.If(
                        "push",
                        "yes",
                        $"drive straight {f["push"]} mm at {f["speed"]} mm/s, then "
                    )}drive back {f["off"]} mm at {f["speed"]} mm/s
                        when all done if {f.N("edges")} > 2: go {f.N("Out of the trap")}
                        when all done: go {f.N("Turning")}

                      state {f.N("Turning")}
                        on entry: turn robot right {f["angle"]} robot deg {(f.Is("turn", "pivoting") ? "pivoting" : "spinning")} at {f[
                        "turnpower"
                    ]} %
                        when all done: go {f.N("Working")}
                        when {f["left"]} becomes {f["drop"]}: go {f.N("At the edge")}
                        when {f["right"]} becomes {f["drop"]}: go {f.N("At the edge")}

                      state {f.N("Out of the trap")}
                        on entry: set {f.N("edges")} to 0; turn robot right {f[
                        "angle"
                    ]} robot deg + random (between 20 robot deg and 70 robot deg) {(
                        f.Is("turn", "pivoting") ? "pivoting" : "spinning"
                    )} at {f["turnpower"]} %
                        when all done: go {f.N("Working")}

                    """
                )
        );

        yield return new(
            "line",
            12,
            "Follow a line and count crossings",
            "A robot keeps to the edge of a painted line and counts the lines across it.",
            "A crossing looks like being too far on the line: only one that lasts counts, and it must be behind before the next.",
            "Line",
            [
                Drive(),
                Eye("eye", "the line eye", "line"),
                Zone("line", "the zone on the line", "eye", 0, "line"),
                new Hole("ground", "the zone beside it", HoleKind.Zone)
                {
                    Of = "eye",
                    Pick = -1,
                    Only = "how=two",
                },
                new Hole("bare", "the zone beside it", HoleKind.Zone)
                {
                    Of = "eye",
                    Pick = -1,
                    Only = "how=three",
                },
                new Hole("edge", "the zone between", HoleKind.Zone)
                {
                    Of = "eye",
                    Pick = 1,
                    Default = "edge",
                    Only = "how=three",
                },
                Number("speed", "speed", 150, "mm/s", 10, 1000, "how=proportional"),
                Number("gain", "gain", 0.25, "", 0.01, 20, "how=proportional"),
                Percent("fast", "outer wheel", 35, "how=two"),
                Percent("slow", "inner wheel", 12, "how=two"),
                Percent("fast3", "outer wheel", 35, "how=three"),
                Percent("slow3", "inner wheel", 12, "how=three"),
                Number("long", "a crossing lasts", 300, "ms", 10, 5000),
                Number("over", "drives over it", 60, "mm", 1, 1000),
                Number("count", "crossings", 4, "", 1, 1000),
            ],
            [
                new(
                    "how",
                    "How it follows",
                    "A reading that changes gradually says how far off it is: the smoothest.",
                    new("proportional", "proportional", "when the reading changes gradually"),
                    new("two", "two levels", "when the eye only tells line from ground"),
                    new("three", "three bands", "less weaving than two, no gain to find")
                ),
            ],
            f =>
            {
                var (fast, slow) = f.Is("how", "two") ? (f["fast"], f["slow"]) : (f["fast3"], f["slow3"]);
                var cross =
                    $"when {f["eye"]} is {f["line"]} for {f["long"]} ms: set {f.N("crossings")} to {f.N("crossings")} + 1; go "
                    + $"{f.N("Crossing")}";
                // Of two or three levels being on the line is a state: how long it lasts is its own time.
                var stays = $"after {f["long"]} ms: set {f.N("crossings")} to {f.N("crossings")} + 1; go {f.N("Crossing")}";
                var follow =
                    f.Is("how", "proportional")
                        ? $"""
                              state {f.N("Following")}, initial
                                while here: follow {f["eye"]} at {f["speed"]} mm/s gain {f["gain"]} to the right edge of {f["line"]}
                                when {f.N("crossings")} >= {f["count"]}: go {f.N("There")}
                                {cross}

                            """
                    : f.Is("how", "two")
                        ? $"""
                              state {f.N("Following")}, initial
                                when {f.N("crossings")} >= {f["count"]}: go {f.N("There")}

                                state {f.N("Off the line")}, initial
                                  while here: steer {slow} % and {fast} %
                                  when {f["eye"]} is {f["line"]}: go {f.N("On the line")}

                                state {f.N("On the line")}
                                  while here: steer {fast} % and {slow} %
                                  when {f["eye"]} is {f["ground"]}: go {f.N("Off the line")}
                                  {stays}

                            """
                    : $"""
                          state {f.N("Following")}, initial
                            when {f.N("crossings")} >= {f["count"]}: go {f.N("There")}

                            state {f.N("Along the edge")}, initial
                              while here: steer {fast} % and {fast} %
                              when {f["eye"]} is {f["line"]}: go {f.N("Too far on")}
                              when {f["eye"]} is {f["bare"]}: go {f.N("Too far off")}

                            state {f.N("Too far off")}
                              while here: steer {slow} % and {fast} %
                              when {f["eye"]} is {f["edge"]}: go {f.N("Along the edge")}
                              when {f["eye"]} is {f["line"]}: go {f.N("Too far on")}

                            state {f.N("Too far on")}
                              while here: steer {fast} % and {slow} %
                              when {f["eye"]} is {f["edge"]}: go {f.N("Along the edge")}
                              when {f["eye"]} is {f["bare"]}: go {f.N("Too far off")}
                              {stays}

                        """;
                return new(
                    $"var {f.N("crossings")} = 0",
                    $"""
                    region {f.N("Line")}
                    {follow}  # Over it before it looks for the line again, so that it counts once.
                      state {f.N("Crossing")}
                        on entry: drive straight {f["over"]} mm at {over(f)}
                        when all done: go {f.N("Following")}

                      state {f.N("There")}, final
                        on entry: stop {f["drive"]} and brake

                    """
                );
                static string over(PatternFill f) =>
                    f.Is("how", "proportional") ? $"{f["speed"]} mm/s"
                    : f.Is("how", "two") ? $"{f["fast"]} %"
                    : $"{f["fast3"]} %";
            }
        );

        yield return new(
            "turn-list",
            13,
            "Turn list",
            "At each touch or wall the robot takes the next turn of a list.",
            "A list that is used up leaves it standing: what was taken goes back to the end.",
            "Touring",
            [
                Drive(),
                new Hole("touch", "the bumper or button", HoleKind.Button) { Default = "bumper", Only = "meets=touch" },
                new Hole("range", "the range sensor", HoleKind.Range) { Only = "meets=wall" },
                new Hole("near", "the zone at the wall", HoleKind.Zone)
                {
                    Of = "range",
                    Default = "close|near|at",
                    Only = "meets=wall",
                },
                new Hole("n", "readings in a row", HoleKind.Readings) { Of = "range", Only = "meets=wall" },
                Percent("speed", "speed", 35),
                new Hole("list", "turns to the right, minus to the left", HoleKind.Numbers)
                {
                    Default = "90, 45, 135",
                    Unit = "robot deg",
                    Min = -360,
                    Max = 360,
                },
                Number("off", "backs off", 60, "mm", 1, 2000, "away=back"),
            ],
            [
                new(
                    "meets",
                    "What makes it turn",
                    "A bumper is sure; a hand can press it too.",
                    new("touch", "a touch, by a wall or by hand", "needs one switch"),
                    new("wall", "a wall that comes near", "nothing is hit")
                ),
                new(
                    "away",
                    "What it does first",
                    "Close to a wall a turn would scrape along it.",
                    new("back", "backs off", "where it has touched something"),
                    new("turn", "turns where it stands", "with room enough, or by hand")
                ),
                Turning,
            ],
            f =>
            {
                var way = f.Is("turn", "pivoting") ? "pivoting" : "spinning";
                var next = f.N("next turn");
                var meets = f.Is("meets", "touch") ? $"{f["touch"]} is pressed" : $"{f["range"]} becomes {f["near"]}{f.For("n")}";
                var first = f.If("away", "back", $"drive back {f["off"]} mm at {f["speed"]} %, then ");
                var right = $"turn robot right {next} {way} at {f["speed"]} %";
                var left = $"turn robot left 0 robot deg - {next} {way} at {f["speed"]} %";
                return new(
                    $"var {f.N("turns")} = queue\nvar {next} = 0 robot deg",
                    $"""
                    region {f.N("Touring")}
                      state {f.N("Writing the list")}, initial
                        on entry: {string.Join("; ", f["list"].Split(", ").Select(t => $"push {t} robot deg onto {f.N("turns")}"))}
                        always: go {f.N("Driving")}

                      state {f.N("Driving")}
                        while here: drive straight at {f["speed"]} %
                        when {meets}: take from {f.N("turns")} into {next}; push {next} onto {f.N(
                        "turns"
                    )}; go {f.N("Turning")}

                      # Minus is to the left.
                      state {f.N("Turning")}
                        on entry: {first}({right} if {next} > 0 robot deg, otherwise {left})
                        when all done: go {f.N("Driving")}

                    """
                );
            }
        );

        yield return new(
            "missions",
            14,
            "Mission list",
            "One button starts the next mission, held it repeats the last one, touched twice it skips one.",
            "A double touch begins with a single one: it must wait a moment before it starts.",
            "Missions",
            [
                Button("button", "the button"),
                Say("first", "shown in the first mission", "Mission 1"),
                Say("second", "in the second", "Mission 2"),
                Say("third", "in the third", "Mission 3"),
                Number("time", "a mission takes at most", 10, "s", 1, 600),
            ],
            [
                new(
                    "list",
                    "How missions are kept",
                    "One list can repeat and skip, and nobody looks for the next program.",
                    new("one", "one list in one program", "can repeat and skip"),
                    new("own", "a list that begins anew after the last", "for training, round and round")
                ),
            ],
            f =>
                new(
                    $"var {f.N("mission")} = 0",
                    $"""
                    region {f.N("Missions")}
                      state {f.N("Ready")}, initial
                        when {f["button"]} is tapped: go {f.N("Touched")}
                        when {f["button"]} is held for 1 s: go {f.N("Choosing")}

                      # A second touch may follow: wait for it.
                      state {f.N("Touched")}
                        when {f["button"]} is tapped: set {f.N("mission")} to {f.N("mission")} + 1; go {f.N("Ready")}
                        after 0.6 s: set {f.N("mission")} to {f.N("mission")} + 1; go {f.N("Choosing")}

                      state {f.N("Choosing")}
                        {f.If("list", "own", $"always if {f.N("mission")} > 3: set {f.N("mission")} to 1; go {f.N("Mission one")}")}
                        always if {f.N("mission")} <= 1: go {f.N("Mission one")}
                        always if {f.N("mission")} = 2: go {f.N("Mission two")}
                        always if {f.N("mission")} = 3: go {f.N("Mission three")}
                        {f.If("list", "one", $"always: go {f.N("All missions done")}")}

                      state {f.N("Mission one")}
                        on entry: show "{f["first"]}"
                        when {f["button"]} is pressed: go {f.N("Ready")}
                        after {f["time"]} s: go {f.N("Ready")}

                      state {f.N("Mission two")}
                        on entry: show "{f["second"]}"
                        when {f["button"]} is pressed: go {f.N("Ready")}
                        after {f["time"]} s: go {f.N("Ready")}

                      state {f.N("Mission three")}
                        on entry: show "{f["third"]}"
                        when {f["button"]} is pressed: go {f.N("Ready")}
                        after {f["time"]} s: go {f.N("Ready")}

                    {f.If("list", "one", $"""
                          state {f.N("All missions done")}
                            on entry: tone 880 Hz for 0.5 s
                            when {f["button"]} is held for 1 s: set {f.N("mission")} to 3; go {f.N("Choosing")}
                        """)}

                    """
                )
        );

        yield return new(
            "requests",
            15,
            "Request queue",
            "Stations ask, an office queues, a vehicle serves them in order and is paid by the way it went.",
            "A request that comes while it serves another is lost unless a queue keeps it.",
            "Office",
            [
                Other("station", "the station that asks"),
                Motor("motor", "the vehicle's motor"),
                Eye("eye", "its eye"),
                Zone("tag", "the station tag's zone", "eye", -1),
                Row("eye"),
                Percent("speed", "speed", 40),
                Number("price", "price of one tag's way", 2, "", 0, 1000),
                Number("limit", "gives up after", 30, "s", 1, 600),
            ],
            [],
            f =>
                new(
                    $"var {f.N("orders")} = queue\nvar {f.N("asking")} = 0\nvar {f.N("berth")} = 0\nvar {f.N("passed")} = 0\nvar "
                        + $"{f.N("owed")} = 0",
                    $"""
                    region {f.N("Office")}
                      state {f.N("Listening")}, initial
                        when told "ask" from {f["station"]} into {f.N("asking")}: push {f.N("asking")} onto {f.N("orders")}; stay

                    region {f.N("Vehicle")}
                      state {f.N("At the office")}, initial
                        on entry: stop {f["motor"]} and brake
                        when length of {f.N("orders")} > 0: take from {f.N("orders")} into {f.N("berth")}; set {f.N(
                        "passed"
                    )} to 0; go {f.N("Under way")}

                      state {f.N("Under way")}
                        while here: run {f["motor"]} forward at {f["speed"]} %
                        when {f["eye"]} becomes {f["tag"]}{f.For("n")}: set {f.N("passed")} to {f.N("passed")} + 1; stay
                        when {f.N("passed")} >= {f.N("berth")}: go {f.N("Delivering")}
                        after {f["limit"]} s: go {f.N("Lost")}

                      state {f.N("Delivering")}
                        on entry: stop {f["motor"]} and brake; set {f.N("owed")} to {f.N("owed")} + {f.N("passed")} * {f["price"]}; tell {f[
                        "station"
                    ]} "served" with {f.N("owed")}
                        after 2 s: go {f.N("Coming back")}

                      state {f.N("Coming back")}
                        while here: run {f["motor"]} back at {f["speed"]} %
                        when {f["eye"]} becomes {f["tag"]}{f.For("n")}: set {f.N("passed")} to {f.N("passed")} - 1; stay
                        when {f.N("passed")} <= 0: go {f.N("At the office")}
                        after {f["limit"]} s: go {f.N("Lost")}

                      state {f.N("Lost")}
                        on entry: stop {f["motor"]} and brake; tell {f["station"]} "sorry"
                        after 2 s: go {f.N("At the office")}

                    """
                )
        );

        yield return new(
            "remote",
            16,
            "Remote control",
            "A robot is driven from another controller by one stick or two.",
            "When the sender falls silent the last command goes on for ever: silence must stop it.",
            "Driving",
            [
                Drive(),
                Other("sender", "the sender's program"),
                Number("dead", "dead band", 5, "%", 0, 50),
                Number("silent", "silence that stops it", 500, "ms", 50, 10000),
                new Hole("jaws", "the jaws", HoleKind.Mover) { Default = "jaw|grip", Only = "jaws=with" },
                new Hole("shut", "the way they close", HoleKind.Direction)
                {
                    Of = "jaws",
                    Pick = -1,
                    Default = "close|shut",
                    Only = "jaws=with",
                },
                new Hole("open", "the way they open", HoleKind.Direction)
                {
                    Of = "jaws",
                    Default = "open",
                    Only = "jaws=with",
                },
                Percent("grip", "jaws at", 25, "jaws=with"),
                Number("step", "one step", 10, "motor deg", 1, 360, "jaws=with&buttons=steps"),
            ],
            [
                new(
                    "jaws",
                    "What it carries",
                    "What was told of jaws that are not there would be lost.",
                    new("with", "jaws that the sender opens and closes", "two buttons of the sender"),
                    new("without", "nothing but itself", "driving alone")
                ),
                new(
                    "sticks",
                    "How it is steered",
                    "One stick leaves the other hand free for the jaws.",
                    new("one", "one stick, mixed for both wheels", "easier to learn"),
                    new("two", "a stick for each wheel", "finer turns")
                ),
                new(
                    "buttons",
                    "What a jaw button does",
                    "An end stop and a release end the move by themselves.",
                    new("held", "moves while it is held", "natural, with an end stop"),
                    new("steps", "one small step a press", "exact, and slow")
                ),
            ],
            f =>
            {
                var one = f.Is("sticks", "one");
                var (a, b) = one ? (f.N("ahead"), f.N("aside")) : (f.N("left wheel"), f.N("right wheel"));
                var jaws = f.Is("jaws", "without")
                    ? ""
                    : $"""

                        region {f.N("Jaws")}
                          state {f.N("Still")}, initial
                            on entry: stop {f["jaws"]} and hold
                            when told "close" from {f["sender"]}: go {f.N("Closing")}
                            when told "open" from {f["sender"]}: go {f.N("Opening")}

                          state {f.N("Closing")}
                            {f.If(
                            "buttons",
                            "held",
                            $"while here: run {f["jaws"]} {f["shut"]} at {f["grip"]} %",
                            $"on entry: run {f["jaws"]} {f["shut"]} {f["step"]} motor deg at {f["grip"]} % up to 1 s"
                        )}
                            {f.If(
                            "buttons",
                            "held",
                            $"when told \"let go\" from {f["sender"]}: go {f.N("Still")}",
                            $"when {f["jaws"]} is done: go {f.N("Still")}"
                        )}
                            when {f["jaws"]} stalls: go {f.N("Still")}
                            when not told for {f["silent"]} ms: go {f.N("Still")}

                          state {f.N("Opening")}
                            {f.If(
                            "buttons",
                            "held",
                            $"while here: run {f["jaws"]} {f["open"]} at {f["grip"]} %",
                            $"on entry: run {f["jaws"]} {f["open"]} {f["step"]} motor deg at {f["grip"]} % up to 1 s"
                        )}
                            {f.If(
                            "buttons",
                            "held",
                            $"when told \"let go\" from {f["sender"]}: go {f.N("Still")}",
                            $"when {f["jaws"]} is done: go {f.N("Still")}"
                        )}
                            when {f["jaws"]} stalls: go {f.N("Still")}
                            when not told for {f["silent"]} ms: go {f.N("Still")}
                        """;
                return new(
                    $"var {a} = 0 %\nvar {b} = 0 %\nvar {f.N("stick one")} = 0 %\nvar {f.N("stick two")} = 0 %\nvar {f.N("zero one")} "
                        + $"= 0 %\nvar {f.N("zero two")} = 0 %",
                    $"""
                    region {f.N("Driving")}
                      state {f.N("Silent")}, initial
                        on entry: stop {f["drive"]} and brake
                        when told "stick" from {f["sender"]}: go {f.N("Driven")}

                      state {f.N("Driven")}
                        on entry: set {a} to 0 %; set {b} to 0 %
                        while here: steer {(one ? $"{a} + {b} and {a} - {b}" : $"{a} and {b}")}
                        # Inside the dead band a stick counts as let go.
                        when told "stick" from {f["sender"]} into {f.N("stick one")}, {f.N("stick two")} if abs({f.N("stick one")} - {f.N(
                        "zero one"
                    )}) < {f["dead"]} % and abs({f.N("stick two")} - {f.N("zero two")}) < {f[
                        "dead"
                    ]} %: set {a} to 0 %; set {b} to 0 %; stay
                        when told "stick" from {f["sender"]} into {f.N("stick one")}, {f.N("stick two")}: set {a} to {f.N(
                        "stick one"
                    )} - {f.N("zero one")}; set {b} to {f.N("stick two")} - {f.N("zero two")}; stay
                        when told "zero" from {f["sender"]}: set {f.N("zero one")} to {f.N("stick one")}; set {f.N("zero two")} to {f.N(
                        "stick two"
                    )}; stay
                        when not told for {f["silent"]} ms: go {f.N("Silent")}
                    {jaws}
                    """
                );
            }
        );
    }

    private static IEnumerable<Pattern> Third()
    {
        yield return new(
            "folding",
            17,
            "Folding sequence",
            "A hand comes near: one arm goes out and back, then the other, then both together, then rest.",
            "Two arms that share a space must not be out at once unless both can be: each waits until the other is back.",
            "Folding",
            [
                Range("range", "what sees the hand"),
                Zone("near", "the zone in which the hand is near", "range", 0),
                Row("range"),
                Mover("one", "the first arm", 0),
                new Hole("two", "the second arm", HoleKind.Mover) { Pick = 1, Not = "one" },
                Position("outone", "the first one out", "one", -1, "out|open|up"),
                Position("inone", "the first one in", "one", 0, "in|shut|down|closed"),
                Position("outtwo", "the second one out", "two", -1, "out|open|up"),
                Position("intwo", "the second one in", "two", 0, "in|shut|down|closed"),
                Number("limit", "gives up after", 15, "s", 1, 120),
            ],
            [],
            f =>
                new(
                    "",
                    $"""
                    region {f.N("Folding")}
                      state {f.N("At rest")}, initial
                        when {f["range"]} becomes {f["near"]}{f.For("n")}: go {f.N("Performing")}

                      state {f.N("Performing")}
                        on entry: send {f["one"]} to {f["outone"]}, then send {f["one"]} to {f["inone"]}, then send {f["two"]} to {f[
                        "outtwo"
                    ]}, then send {f["two"]} to {f["intwo"]}, then send {f["one"]} to {f["outone"]} and send {f["two"]} to {f[
                        "outtwo"
                    ]}, then send {f["one"]} to {f["inone"]} and send {f["two"]} to {f["intwo"]}
                        when all done: go {f.N("At rest")}
                        when {f["one"]} stalls: go {f.N("Folding back")}
                        when {f["two"]} stalls: go {f.N("Folding back")}
                        after {f["limit"]} s: go {f.N("Folding back")}

                      state {f.N("Folding back")}
                        on entry: stop everything, then send {f["one"]} to {f["inone"]} and send {f["two"]} to {f["intwo"]}
                        when all done: go {f.N("At rest")}
                        after {f["limit"]} s: go {f.N("At rest")}

                    """
                )
        );

        yield return new(
            "repeat-until",
            18,
            "Repeat until a sensor says stop",
            "A motion is repeated until something is reached.",
            "When the sensor is looked at only after each round, a shorter signal is lost and it stops up to a round late.",
            "Repeating",
            [
                Motor("motor", "the motor"),
                Eye("eye", "the sensor"),
                Zone("stop", "the zone that says stop", "eye", -1),
                Row("eye"),
                Percent("speed", "speed", 40),
                Number("round", "one round takes", 1, "s", 0.1, 60),
                Number("most", "at most so many rounds", 20, "", 1, 10000),
            ],
            [
                new(
                    "check",
                    "When it looks",
                    "Looking all the time loses nothing.",
                    new("always", "all the time", "stops at once"),
                    new("end", "after each round", "only where a round must not be broken off; it may stop a whole round late")
                ),
            ],
            f =>
                new(
                    $"var {f.N("rounds")} = 0",
                    $"""
                    region {f.N("Repeating")}
                      state {f.N("Out")}, initial
                        while here: run {f["motor"]} forward at {f["speed"]} %
                        {f.If("check", "always", $"when {f["eye"]} is {f["stop"]}{f.For("n")}: go {f.N("Reached")}")}
                        after {f["round"]} s / 2: go {f.N("Back")}

                      state {f.N("Back")}
                        while here: run {f["motor"]} back at {f["speed"]} %
                        {f.If("check", "always", $"when {f["eye"]} is {f["stop"]}{f.For("n")}: go {f.N("Reached")}")}
                        after {f["round"]} s / 2: set {f.N("rounds")} to {f.N("rounds")} + 1; go {f.N("Round over")}

                      state {f.N("Round over")}
                        {f.If("check", "end", $"always if zone of {f["eye"]} = {f["stop"]}: go {f.N("Reached")}")}
                        always if {f.N("rounds")} >= {f["most"]}: go {f.N("Not reached")}
                        always: go {f.N("Out")}

                      state {f.N("Reached")}, final
                        on entry: stop {f["motor"]} and brake

                      state {f.N("Not reached")}, final
                        on entry: stop {f["motor"]} and brake; show "Not reached"

                    """
                )
        );

        yield return new(
            "wander",
            19,
            "Wander and score",
            "A robot wanders about; only when the load is there it acts, and it gets quicker with the score.",
            "Quicker with every point ends where it can no longer stop in time: give the speed a limit.",
            "Wandering",
            [
                Drive(),
                Button("bumper", "the bumper", 0, "bumper"),
                Eye("load", "what sees the load"),
                Zone("there", "the zone with the load there", "load", 0),
                Row("load"),
                Percent("first", "begins at", 20),
                Number("more", "quicker a point by", 5, "%", 1, 100),
                Percent("top", "never above", 50),
            ],
            [Turning],
            f =>
                new(
                    $"var {f.N("score")} = 0\nvar {f.N("pace")} = {f["first"]} %",
                    $"""
                    region {f.N("Wandering")}
                      state {f.N("Driving")}, initial
                        while here: drive straight at {f.N("pace")}
                        when {f["bumper"]} is pressed if zone of {f["load"]} = {f["there"]}: go {f.N("Scoring")}
                        when {f["bumper"]} is pressed: go {f.N("Turning")}

                      state {f.N("Scoring")}
                        on entry: set {f.N("score")} to {f.N("score")} + 1; set {f.N("pace")} to min({f["top"]} %, {f.N("pace")} + {f[
                        "more"
                    ]} %); tone 880 Hz for 0.3 s
                        after 0.5 s: go {f.N("Turning")}

                      state {f.N("Turning")}
                        on entry: drive back 60 mm at {f[
                        "first"
                    ]} %, then turn robot right random (between 60 robot deg and 170 robot deg) {(
                        f.Is("turn", "pivoting") ? "pivoting" : "spinning"
                    )} at {f["first"]} %
                        when all done: go {f.N("Driving")}

                    """
                )
        );

        yield return new(
            "calibrate",
            20,
            "Calibrate at start",
            "The machine measures its own threshold on every run: a touch over light, a touch over dark, then it goes.",
            "Two touches over the same place give a threshold in the noise: it must refuse a difference that is too small.",
            "Calibrating",
            [
                new Hole("eye", "the eye", HoleKind.Eye) { Default = "reflect|line|eye" },
                new Hole("bright", "the light zone", HoleKind.Zone)
                {
                    Of = "eye",
                    Pick = -1,
                    Default = "light|sand|deck|bright",
                    Only = "learns=zones",
                },
                new Hole("dim", "the dark zone", HoleKind.Zone)
                {
                    Of = "eye",
                    Default = "dark|line|drop|tag",
                    Only = "learns=zones",
                },
                Button("button", "the button"),
                Number("least", "least difference", 10, "", 1, 100, "learns=number"),
            ],
            [
                new(
                    "learns",
                    "What it learns",
                    "A number of its own changes nothing else in the program.",
                    new("number", "a threshold of its own", "used by sentences that compare the reading with it"),
                    new("zones", "the zones of the eye", "every sentence with these zones follows, with hysteresis")
                ),
                new(
                    "when",
                    "When it calibrates",
                    "The light of a room changes little within a lesson.",
                    new("session", "at the first start, with a check at each", "quick"),
                    new("start", "at every start", "where the light changes")
                ),
            ],
            f =>
                f.Is("learns", "zones")
                    ? new(
                        "",
                        $"""
                        region {f.N("Calibrating")}
                          state {f.N("Wants light")}, initial
                            on entry: show "Touch over light"
                            when {f["button"]} is pressed: teach {f["eye"]} {f["bright"]}; go {f.N("Wants dark")}

                          state {f.N("Wants dark")}
                            on entry: show "Touch over dark"
                            when {f["button"]} is pressed: teach {f["eye"]} {f["dim"]}; go {f.N("Looking")}

                          state {f.N("Looking")}
                            when {f["eye"]} cannot tell: go {f.N("Too alike")}
                            always: go {f.N("Ready")}

                          state {f.N("Too alike")}
                            on entry: show "Too alike"; tone 300 Hz for 0.5 s
                            after 1 s: go {f.N("Wants light")}

                          state {f.N("Ready")}
                            on entry: show zone of {f["eye"]}
                            when {f["button"]} is held for 2 s: go {f.N("Wants light")}
                            {f.If("when", "start", $"when {f["button"]} is tapped: go {f.N("Wants light")}")}
                            when {f["eye"]} cannot tell: go {f.N("Too alike")}

                        """
                    )
                    : new(
                        $"var {f.N("light")} = 0 %\nvar {f.N("dark")} = 0 %\nvar {f.N("limit")} = 0 %",
                        $"""
                    region {f.N("Calibrating")}
                      state {f.N("Wants light")}, initial
                        on entry: show "Touch over light"
                        when {f["button"]} is pressed: set {f.N("light")} to {f["eye"]}; go {f.N("Wants dark")}

                      state {f.N("Wants dark")}
                        on entry: show "Touch over dark"
                        when {f["button"]} is pressed: set {f.N("dark")} to {f["eye"]}; go {f.N("Looking")}

                      state {f.N("Looking")}
                        always if {f.N("light")} - {f.N("dark")} < {f["least"]} %: go {f.N("Too alike")}
                        always: set {f.N("limit")} to ({f.N("light")} + {f.N("dark")}) / 2; go {f.N("Ready")}

                      state {f.N("Too alike")}
                        on entry: show "Too alike"; tone 300 Hz for 0.5 s
                        after 1 s: go {f.N("Wants light")}

                      state {f.N("Ready")}
                        on entry: show {f.N("limit")}
                        when {f["button"]} is held for 2 s: go {f.N("Wants light")}
                        {f.If(
                        "when",
                        "start",
                        $"when {f["button"]} is tapped: go {f.N("Wants light")}",
                        $"when {f["button"]} is tapped if {f["eye"]} > {f.N("light")} + {f["least"]} %: go {f.N("Wants light")}"
                    )}

                    """
                    )
        );

        yield return new(
            "count-sort",
            21,
            "Count, sort, reject a jam",
            "Pieces come along a belt: counted through a gate or up to the n-th marker, sorted by what they are, a jam rejected.",
            "A piece that stays in the gate is one piece, not many: count when it leaves, and give up when it does not.",
            "Sorting",
            [
                Motor("belt", "the belt or vehicle", "belt"),
                Eye("eye", "the eye", "colour|shell|tag"),
                Zone("one", "one kind", "eye", -1),
                new Hole("two", "the other kind", HoleKind.Zone)
                {
                    Of = "eye",
                    Pick = 1,
                    Only = "what=sort",
                },
                Row("eye"),
                new Hole("arm", "the diverter", HoleKind.Mover) { Only = "what=sort", Default = "divert" },
                new Hole("left", "where the one goes", HoleKind.Position) { Of = "arm", Only = "what=sort" },
                new Hole("right", "where the other goes", HoleKind.Position)
                {
                    Of = "arm",
                    Pick = -1,
                    Only = "what=sort",
                },
                Percent("speed", "speed", 40),
                Number("many", "stops at", 10, "", 1, 100000),
                Number("jam", "a jam after", 6, "s", 0.5, 120),
            ],
            [
                new(
                    "what",
                    "What it does",
                    "A gate needs no knowledge of the pieces.",
                    new("count", "counts what passes", "pieces or markers"),
                    new("sort", "sorts two kinds", "with a diverter")
                ),
            ],
            f =>
                new(
                    $"var {f.N("pieces")} = 0",
                    $"""
                    region {f.N("Sorting")}
                      state {f.N("Waiting")}, initial
                        while here: run {f["belt"]} forward at {f["speed"]} %
                        when {f.N("pieces")} >= {f["many"]}: go {f.N("All there")}
                        when {f["eye"]} is {f["one"]}{f.For("n")}: {f.If("what", "sort", $"send {f["arm"]} to {f["left"]}; ")}go {f.N(
                        "Passing"
                    )}
                        {f.If(
                        "what",
                        "sort",
                        $"when {f["eye"]} is {f["two"]}{f.For("n")}: send {f["arm"]} to {f["right"]}; go {f.N("Passing")}"
                    )}

                      # It counts when it leaves: once, however long it stays.
                      state {f.N("Passing")}
                        while here: run {f["belt"]} forward at {f["speed"]} %
                        when {f["eye"]} leaves {f["one"]}: set {f.N("pieces")} to {f.N("pieces")} + 1; go {f.N("Waiting")}
                        {f.If(
                        "what",
                        "sort",
                        $"when {f["eye"]} leaves {f["two"]}: set {f.N("pieces")} to {f.N("pieces")} + 1; go {f.N("Waiting")}"
                    )}
                        after {f["jam"]} s: go {f.N("Clearing")}

                      state {f.N("Clearing")}
                        on entry: tone 440 Hz for 0.5 s
                        while here: run {f["belt"]} back at {f["speed"]} %
                        after 1 s: go {f.N("Waiting")}

                      state {f.N("All there")}, final
                        on entry: stop {f["belt"]} and brake

                    """
                )
        );

        yield return new(
            "override",
            22,
            "Manual override",
            "A button takes over, and letting go resumes where the machine was.",
            "Without a history point it begins from the start again; and what ran when it was taken over must stop.",
            "Override",
            [
                Motor("motor", "the motor"),
                Button("button", "the button that takes over"),
                Percent("speed", "works at", 40),
                Percent("hand", "by hand at", 20),
                Number("one", "first step takes", 3, "s", 0.1, 600),
                Number("two", "second step takes", 3, "s", 0.1, 600),
            ],
            [
                new(
                    "how",
                    "How it is taken over",
                    "Letting go always ends it.",
                    new("held", "while the button is held", "nobody can forget it"),
                    new("toggle", "one press takes over, the next gives back", "for long work by hand")
                ),
            ],
            f =>
                new(
                    "",
                    $"""
                    region {f.N("Override")}
                      state {f.N("Working")}, initial
                        history {f.N("Where it was")}: go {f.N("First step")}
                        when {f["button"]} is pressed: go {f.N("By hand")}

                        state {f.N("First step")}, initial
                          while here: run {f["motor"]} forward at {f["speed"]} %
                          after {f["one"]} s: go {f.N("Second step")}

                        state {f.N("Second step")}
                          while here: run {f["motor"]} back at {f["speed"]} %
                          after {f["two"]} s: go {f.N("First step")}

                      state {f.N("By hand")}
                        while here: run {f["motor"]} forward at {f["hand"]} %
                        when {f["button"]} is {f.If("how", "held", "released", "pressed")}: go {f.N("Where it was")}

                    """
                )
        );
    }
}
