using System.Globalization;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Data.Demo;

/// <summary>The programs of the demo rigs, by rig. The Seed trolley has its own; the first of several is the one that runs.</summary>
internal static class Scripts
{
    public static string[] Of(string rig) => All.GetValueOrDefault(rig) ?? [$"program {rig.Replace('-', ' ')}\n"];

    // Back, a quarter turn, a lane aside, and a quarter turn again: one sentence, too long for a line of code.
    private static string Aside(string way) =>
        $"drive back 60 mm at 80 mm/s, then turn robot {way} 90 robot deg spinning at 30 %, "
        + $"then drive straight 90 mm at 80 mm/s, then turn robot {way} 90 robot deg spinning at 30 %";

    private static readonly Dictionary<string, string[]> All = new()
    {
        ["Rack hoist"] =
        [
            """
                program Rack hoist

                # Notches passed on the way up, and the one that was ordered.
                var notches = 0
                var wanted = 2
                goal: Main is in Delivered within 40 s
                never: Mast past its top stop

                region Main
                  # Whatever happened before: down to the foot switch, and count from there.
                  state Lowering, initial
                    while here: run Mast down at 20 %
                    when Foot switch is down: go Resting
                    when Mast stalls: go Stuck
                    after 9 s: go Stuck

                  state Resting
                    on entry: stop Mast and hold; zero Mast; set notches to 0
                    when Order knob is tapped: go Rising

                  state Rising
                    while here: run Mast up at 35 %
                    when Shelf eye becomes notch for 3 readings: set notches to notches + 1; stay
                    when notches = wanted: go Docking
                    when Mast stalls: go Stuck
                    after 7 s: go Stuck

                  state Docking
                    on entry: stop Mast and hold, then run Tongue out 310 motor deg at 30 % up to 3 s
                    when Tongue is done: go Delivered
                    when Tongue stalls: go Stuck

                  state Delivered
                    on entry: send Tongue to in
                    when Tongue is done: go Lowering
                    after 4 s: go Stuck

                  state Stuck
                    on entry: stop everything
                    when Order knob is held for 2 s: go Lowering

                region Beacon
                  state Dark, initial
                    when Main is in Rising: go Lit

                  state Lit
                    while here: blink Lamp 0.5 s on 0.5 s off
                    when Main is in Resting: go Dark

                """,
        ],
        ["Shell sorter"] =
        [
            """
                program Shell sorter

                var sorted = 0

                region Sorting
                  state Waiting, initial
                    while here: run Belt on at 40 %
                    when Shell eye is white shell for 3 readings: set Diverter arm to left bin; go Carrying
                    when Shell eye is pink scallop for 3 readings: set Diverter arm to middle bin; go Carrying
                    when Shell eye is dark mussel for 3 readings: set Diverter arm to right bin; go Carrying
                    when Jam bumper is pressed: go Clearing

                  state Carrying
                    while here: run Belt on at 40 %
                    when Belt gate is released: set sorted to sorted + 1; go Waiting
                    when Jam bumper is pressed: go Clearing
                    after 6 s: go Clearing

                  state Clearing
                    on entry: tone 440 Hz for 0.5 s; run Belt back 180 motor deg at 30 % up to 2 s
                    when Belt is done: go Waiting

                region Light
                  state Dark, initial
                    when Sorting is in Clearing: go Lit

                  state Lit
                    while here: blink Beacon 0.5 s on 0.5 s off
                    when Sorting is in Waiting: go Dark

                """,
        ],
        ["Buoy picker"] =
        [
            """
                program Buoy picker

                never: Jaws past its stop

                region Main
                  state Homing, initial
                    while here: run Boom to water at 20 %
                    when Swing end is down: go Resting
                    after 5 s: go Resting

                  state Resting
                    on entry: stop Boom and hold; zero Boom
                    when Reach is at the buoy for 3 readings: go Lowering

                  state Lowering
                    on entry: send Jaws to open, then send Winch to down
                    when Winch is done: go Gripping
                    when Winch stalls: go Letting go

                  # A close that the buoy blocks never ends by itself.
                  state Gripping
                    while here: run Jaws close at 25 %
                    when Grip force becomes crushing: go Letting go
                    when Grip force becomes held for 3 readings: go Lifting
                    when Jaws stalls: go Lifting
                    after 1.2 s: go Letting go

                  state Lifting
                    on entry: stop Jaws and hold, then send Winch to up
                    when Winch is done: go Swinging

                  state Swinging
                    on entry: send Boom to over deck
                    when Boom is done: go Letting go
                    when Boom stalls: go Letting go

                  state Letting go
                    on entry: send Jaws to open
                    when Jaws is done: go Homing
                    after 3 s: go Homing

                """,
        ],
        ["Header tank"] =
        [
            """
                program Header tank

                goal: Water is in Full
                never: level of basin above 190 mm
                never: level of basin below 10 mm for more than 10 s

                region Water
                  state Filling, initial
                    on entry: set Drain flap to shut
                    while here: run Pump at 80 %
                    when High probe becomes wet for 3 readings: go Full
                    after 15 s: go Dry

                  state Full
                    when Low probe becomes dry for 3 readings: go Filling
                    after 20 s if zone of High probe = wet: go Overfull

                  state Overfull
                    on entry: set Drain flap to open
                    when High probe becomes dry for 3 readings: go Filling

                  # The pump has run long enough to fill it twice: there is no water.
                  state Dry
                    when Silence button is held for 2 s: go Filling

                region Warning
                  state Quiet, initial
                    when Water is in Dry or Water is in Overfull: go Sounding

                  state Sounding
                    while here: blink Warning lamp 0.5 s on 0.5 s off
                    every 1 s: tone 700 Hz for 0.4 s; stay
                    when Silence button is tapped: go Silenced
                    when Water is in Filling: go Quiet

                  state Silenced
                    while here: turn Warning lamp on
                    when Water is in Filling: go Quiet

                """,
        ],
        ["Berthing lights"] =
        [
            """
                program Berthing lights

                goal: Fog horn sounds at most once for each boat
                never: boat before Berth range nearer than 240 mm and not (Red lamp is on) for more than 0.6 s

                region Main
                  state Nothing near, initial
                    while here: turn Green lamp on
                    when Berth range becomes coming for 3 readings: go Coming
                    when Berth range becomes close for 3 readings: tone 300 Hz for 0.6 s; go Close

                  state Coming
                    while here: turn Amber lamp on
                    when Berth range becomes close for 3 readings: tone 300 Hz for 0.6 s; go Close
                    when Berth range becomes open water for 5 readings: go Nothing near

                  state Close
                    while here: turn Red lamp on
                    when Berth range becomes touching for 2 readings: go Berthed
                    when Berth range becomes coming for 3 readings: go Coming

                  state Berthed
                    while here: blink Red lamp 0.5 s on 0.5 s off
                    when Berth range becomes close for 5 readings: go Close

                """,
        ],
        ["Deck scrubber"] =
        [
            $"""
                program Deck scrubber

                var lanes = 0
                # Which way the next lane lies.
                var rightward = yes
                goal: at least 9 crumbs off the deck
                never: robot over the edge

                region Main
                  state Sweeping, initial
                    while here: drive straight at 120 mm/s
                    when Left edge eye becomes drop: go Turning
                    when Right edge eye becomes drop: go Turning
                    when Bumper is pressed: go Turning

                  state Turning
                    always if rightward: go Turning right
                    always: go Turning left

                  # Back, a quarter turn, a lane aside, and a quarter turn again.
                  state Turning right
                    on entry: {Aside("right")}
                    when all done: set lanes to lanes + 1; set rightward to no; go Between

                  state Turning left
                    on entry: {Aside("left")}
                    when all done: set lanes to lanes + 1; set rightward to yes; go Between

                  state Between
                    always if lanes = 6: go All clean
                    always: go Sweeping

                  state All clean, final
                    on entry: stop Drive and brake

                region Brush
                  state Brushing, initial
                    while here: run Scrubbing brush at 60 %
                    when Main is in All clean: go Still

                  state Still, final

                """,
        ],
        ["Buoy-line rover"] =
        [
            """
                program Buoy line rover

                var crossings = 0

                region Main
                  state Ready, initial
                    when Start button is tapped: go Following

                  state Following
                    while here: follow Line eye at 120 mm/s gain 0.25 to the right edge of line
                    when crossings = 4: go Home
                    when Line eye is line for 150 ms: set crossings to crossings + 1; tone 600 Hz for 0.2 s; go Crossing
                    when Start button is tapped: go Ready

                  state Crossing
                    on entry: drive straight 60 mm at 120 mm/s
                    when all done: go Following

                  state Home, final
                    on entry: stop Drive and brake; tone 880 Hz for 0.5 s

                """,
        ],
        ["Lock keeper"] =
        [
            """
                program Keeper

                region Main
                  state Idle, initial
                    while here: turn Signal on
                    when Boat button is pressed: tell Sea side "open"; go Sea open
                    when Keeper button is pressed: tell Creek side "open"; go Creek open

                  state Sea open
                    when told "is open" from Sea side: go Sea passing
                    after 8 s: go Sea shutting

                  state Sea passing
                    after 10 s: go Sea shutting

                  state Sea shutting
                    on entry: tell Sea side "shut"
                    when told "is shut" from Sea side: go Idle

                  state Creek open
                    when told "is open" from Creek side: go Creek passing
                    after 8 s: go Creek shutting

                  state Creek passing
                    after 10 s: go Creek shutting

                  state Creek shutting
                    on entry: tell Creek side "shut"
                    when told "is shut" from Creek side: go Idle

                """,
            Gate("Sea"),
            Gate("Creek"),
            Host,
        ],
    };

    // The same lock commanded from one place: the controllers only pass on what they are told.
    private static string Host =>
        $"""
        program Lock host

        never: Sea is in Open and Creek is in Open

        region Asking
          state Idle, initial
            while here: turn Signal on
            when Boat button is pressed: go Sea turn
            when Keeper button is pressed: go Creek turn

          state Sea turn
            when Sea is in Served: go Idle

          state Creek turn
            when Creek is in Served: go Idle

        {string.Join("\n", new[] { "Sea", "Creek" }.Select(side => $"""
        region {side}
          state Shut, initial
            when Asking is in {side} turn: go Opening

          state Opening
            on entry: send {side} gate to open
            when {side} gate is done: go Open
            when {side} gate stalls: go Shutting

          state Open
            after 10 s: go Shutting

          state Shutting
            on entry: send {side} gate to shut
            when {side} gate shut is down: go Served
            when {side} gate stalls: go Opening

          state Served
            when Asking is in Idle: go Shut

        """))}
        """;

    /// <summary>Where the programs of a rig are: those of the Lock keeper on its three controllers, its host program stored beside
    /// them.</summary>
    public static Sequence<ProgramText> Placed(string rig) =>
        Of(rig)
            .Select(s =>
                new ProgramText(s, []) { Meaning = ProgramText.MeaningNow } is var p && rig != "Lock keeper"
                    ? p
                    : s.Split('\n')[0] switch
                    {
                        "program Keeper" => p with { RunsOn = "Keeper board" },
                        "program Sea side" => p with { RunsOn = "Sea gate box" },
                        "program Creek side" => p with { RunsOn = "Creek gate box" },
                        _ => p with { OnHost = true, Stored = true },
                    }
            )
            .ToSequence();

    /// <summary>Walks kept with a rig, from the start of its program to where it ends.</summary>
    public static Sequence<StoredWalk> WalksOf(string rig) => (WalkList.GetValueOrDefault(rig) ?? []).ToSequence();

    // A step is an event, or “+ 1.5” for seconds that pass.
    private static StoredWalk Walk(string name, string? program, string note, string ends, params string[] steps) =>
        new(
            name,
            program,
            steps
                .Select(s =>
                    s[0] == '+' ? new StoredStep(null, double.Parse(s[2..], CultureInfo.InvariantCulture) * 1000) : new StoredStep(s, 0)
                )
                .ToSequence(),
            ends.Split(", ").ToSequence()
        )
        {
            Note = note,
        };

    private static readonly string[] Lane =
    [
        "Left edge eye is drop",
        "Left edge eye is deck",
        "Drive done",
        "Drive done",
        "Drive done",
        "Drive done",
    ];

    private static readonly Dictionary<string, StoredWalk[]> WalkList = new()
    {
        ["Seed trolley"] =
        [
            Walk(
                "To the third bed",
                "Seed trolley",
                "Why does it count one tag only once while it stands over it?",
                "Main.Seeding",
                "Tag eye is bed tag",
                "Tag eye is sleepers",
                "Tag eye is bed tag",
                "Tag eye is sleepers",
                "Tag eye is bed tag",
                "+ 1.5"
            ),
        ],
        ["Rack hoist"] =
        [
            Walk(
                "One tray to the second shelf",
                "Rack hoist",
                "What would happen if the mast met something on the way up?",
                "Main.Resting, Beacon.Dark",
                "Foot switch is down",
                "Order knob tapped",
                "Foot switch is up",
                "Shelf eye is notch",
                "Shelf eye is mast paint",
                "Shelf eye is notch",
                "Tongue done",
                "Tongue done",
                "Shelf eye is mast paint",
                "Foot switch is down"
            ),
            Walk(
                "The mast is held up",
                "Rack hoist",
                "How does it get out of here again?",
                "Main.Resting, Beacon.Dark",
                "Foot switch is down",
                "Order knob tapped",
                "Foot switch is up",
                "Mast stalls",
                "Order knob held for 2 s",
                "Foot switch is down"
            ),
        ],
        ["Shell sorter"] =
        [
            Walk(
                "A white shell and a jam",
                "Shell sorter",
                "Which lamp is on while the belt backs off?",
                "Sorting.Waiting, Light.Dark",
                "Shell eye is white shell",
                "Belt gate pressed",
                "Shell eye is belt",
                "Belt gate released",
                "Jam bumper pressed",
                "Belt done"
            ),
        ],
        ["Buoy picker"] =
        [
            Walk(
                "One buoy brought in",
                "Buoy picker",
                "The jaws never finish closing. What ends the move?",
                "Main.Homing",
                "Swing end is down",
                "Reach is at the buoy",
                "Jaws done",
                "Winch done",
                "Grip force is held",
                "Winch done",
                "Boom done",
                "Swing end is up",
                "Jaws done"
            ),
        ],
        ["Header tank"] =
        [
            Walk(
                "Filled, drained and run dry",
                "Header tank",
                "Why does it not fill again the moment the high probe is dry?",
                "Water.Filling, Warning.Quiet",
                "High probe is wet",
                "Low probe is wet",
                "High probe is dry",
                "Low probe is dry",
                "+ 90",
                "Silence button tapped",
                "Silence button held for 2 s"
            ),
        ],
        ["Berthing lights"] =
        [
            Walk(
                "A boat comes and goes",
                "Berthing lights",
                "Which sentence takes care of a single wrong reading?",
                "Main.Nothing near",
                "Berth range is coming",
                "Berth range is close",
                "Berth range is touching",
                "Berth range is close",
                "Berth range is coming",
                "Berth range is open water"
            ),
        ],
        ["Deck scrubber"] =
        [
            Walk(
                "Six lanes",
                "Deck scrubber",
                "Where would it fall if it turned before backing?",
                "Main.All clean, Brush.Still",
                [.. Enumerable.Repeat(Lane, 6).SelectMany(x => x)]
            ),
        ],
        ["Buoy-line rover"] =
        [
            Walk(
                "Four crossings",
                "Buoy line rover",
                "Why does it drive on a little after each crossing?",
                "Main.Home",
                [
                    "Start button tapped",
                    .. Enumerable
                        .Repeat(new[] { "Line eye is line", "+ 0.3", "Line eye is edge of line", "Drive done" }, 4)
                        .SelectMany(x => x),
                ]
            ),
        ],
        ["Lock keeper"] =
        [
            Walk(
                "A boat from the sea",
                null,
                "What keeps the creek gate shut meanwhile?",
                "Keeper.Main.Idle, Sea side.Main.Shut, Creek side.Main.Shut",
                "Boat button pressed",
                "+ 0.06",
                "Sea gate done",
                "+ 0.06",
                "+ 10",
                "+ 0.06",
                "Sea gate shut is down",
                "+ 0.06"
            ),
            Walk(
                "The same, from the host",
                "Lock host",
                "What is safer here than with three programs, and what is not?",
                "Asking.Idle, Sea.Shut, Creek.Shut",
                "Boat button pressed",
                "Sea gate done",
                "+ 10",
                "Sea gate shut is down"
            ),
        ],
    };

    private static string Gate(string side) =>
        $"""
            program {side} side

            region Main
              state Shut, initial
                when told "open" from Keeper: go Opening

              state Opening
                on entry: send {side} gate to open
                when {side} gate is done: tell Keeper "is open"; go Open
                when {side} gate stalls: go Shutting
                when told "shut" from Keeper: go Shutting

              state Open
                when told "shut" from Keeper: go Shutting

              state Shutting
                on entry: send {side} gate to shut
                when {side} gate shut is down: tell Keeper "is shut"; go Shut
                when {side} gate stalls: go Opening

            """;
}
