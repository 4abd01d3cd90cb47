using Chiton.Core.Motion;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Data.Demo;

/// <summary>One cure of a demo rig.</summary>
/// <param name="Say">What is done, and why.</param>
/// <param name="Finding">Code of the finding that names it; “measure” for a guess that trials replace.</param>
public sealed record Cure(string Say, string Finding)
{
    /// <summary>Text of a program and what stands there instead, wherever it stands: the program's place, what stood, what
    /// stands.</summary>
    public Sequence<(int Program, string Was, string Now)> Lines { get; init; } = [];

    /// <summary>A change of the design.</summary>
    public Func<RigDesign, RigDesign>? Design { get; init; }

    /// <summary>Numbers of the first copy that trials found, by the key of their motion.</summary>
    public Sequence<(string Key, AcceptedNumber Number)> Trials { get; init; } = [];

    /// <summary>The design with it.</summary>
    /// <exception cref="InvalidOperationException">When what it replaces does not stand there.</exception>
    public RigDesign On(RigDesign rig)
    {
        foreach (var (program, was, now) in Lines)
        {
            var text = rig.Programs[program];
            if (!text.Script.Contains(was, StringComparison.Ordinal))
                throw new InvalidOperationException($"“{was}” does not stand in program {program} of {rig.Name}.");
            rig = rig.WithProgram(program, text with { Script = text.Script.Replace(was, now) });
        }
        return Design is null ? rig : Design(rig);
    }
}

/// <summary>
/// What would mend each demo rig besides what it ships with: all cures of a rig together bring <em>as in the shed</em> to 95 or more of
/// 100. Nobody who opens the farm sees them; checks and proofs must find them.
/// </summary>
public static class Cures
{
    /// <summary>The cures of a rig.</summary>
    /// <param name="id">Its address.</param>
    public static IReadOnlyList<Cure> Of(string id) => All[id];

    private static Cure Line(string say, string finding, string was, string now, int program = 0) =>
        new(say, finding) { Lines = [(program, was, now)] };

    private static readonly Dictionary<string, Cure[]> All = new()
    {
        ["seed-trolley"] =
        [
            Line("Slower, so that it comes to rest over the tag.", "marker-rest", "var cruise = 60 %", "var cruise = 55 %"),
            Line(
                "One wrong reading does not end a tag.",
                "marker-twice",
                "when Tag eye becomes sleepers: go Rolling",
                "when Tag eye becomes sleepers for 4 readings: go Rolling"
            ),
        ],
        ["rack-hoist"] =
        [
            new("Slower, so that a notch gives more readings.", "marker-missed")
            {
                Lines = [(0, "run Mast up at 35 %", "run Mast up at 25 %"), (0, "after 7 s: go Stuck", "after 10 s: go Stuck")],
            },
            Line("Its zones lie close together: more readings in a row.", "zone-weak", "becomes notch for 3", "becomes notch for 7"),
            Line(
                "What held the mast up is gone after a while: it tries again by itself.",
                "goal-missed",
                "when Order knob is held for 2 s: go Lowering",
                "when Order knob is held for 2 s: go Lowering\n    after 4 s: go Lowering"
            ),
        ],
        ["shell-sorter"] =
        [
            new("A pink scallop is taken for a hand, and no sentence waits for a hand.", "zone-lookalike")
            {
                Design = rig =>
                    rig with
                    {
                        Sensors = rig
                            .Sensors.Select(s =>
                                s.Name == "Shell eye" ? s with { Zones = s.Zones.Where(z => z != "hand").ToSequence() } : s
                            )
                            .ToSequence(),
                    },
            },
            new("The first reading alone decides at the start, and may be wrong: the eye is given a moment.", "goal-missed")
            {
                Lines =
                [
                    (
                        0,
                        "  state Waiting, initial\n",
                        "  state Starting, initial\n    while here: run Belt on at 40 %\n    after 0.3 s: go Waiting\n\n  state Waiting\n"
                    ),
                ],
            },
            new("A dark mussel is much like the belt; a white shell and a pink scallop are not.", "zone-weak")
            {
                Lines =
                [
                    (0, "dark mussel for 3 readings", "dark mussel for 4 readings"),
                    (0, "white shell for 3 readings", "white shell for 2 readings"),
                    (0, "pink scallop for 3 readings", "pink scallop for 2 readings"),
                ],
            },
            new("The arm moved for the next shell before this one was past it: quicker, and it stays until then.", "late-check")
            {
                Lines =
                [
                    (
                        0,
                        """
                          state Carrying
                            while here: run Belt on at 40 %
                            when Belt gate is released: set sorted to sorted + 1; go Waiting
                        """.ReplaceLineEndings("\n"),
                        """
                          state Passing
                            while here: run Belt on at 80 %
                            when Jam bumper is pressed: go Clearing
                            after 0.7 s: go Waiting

                          state Carrying
                            while here: run Belt on at 80 %
                            when Belt gate is released: set sorted to sorted + 1; go Passing
                        """.ReplaceLineEndings("\n")
                    ),
                ],
            },
            new("A shell that was freed still has to pass the arm.", "late-check")
            {
                Lines =
                [
                    (0, "run Belt back 180 motor deg at 30 % up to 2 s", "run Belt back 120 motor deg at 60 % up to 2 s"),
                    (
                        0,
                        "    when Belt is done: go Waiting\n",
                        """
                            when Belt is done: go Trying again

                          state Trying again
                            while here: run Belt on at 80 %
                            when Jam bumper is pressed: go Clearing
                            after 0.4 s: go Waiting

                        """.ReplaceLineEndings("\n")
                    ),
                ],
            },
        ],
        ["buoy-picker"] =
        [
            Line(
                "It holds before it grips: it goes on closing a quarter of a second.",
                "load-loose",
                "becomes held for 3 readings: go Lifting",
                "becomes held for 25 readings: go Lifting"
            ),
        ],
        ["header-tank"] =
        [
            Line("A probe that is wet already never becomes wet.", "already-there", "High probe becomes wet", "High probe is wet"),
            new("Water comes back by itself: it tries again, and the alarm goes on until somebody taps.", "no-way-out")
            {
                Lines =
                [
                    (
                        0,
                        "    when Silence button is held for 2 s: go Filling\n",
                        "    when Silence button is held for 2 s: go Filling\n    after 4 s: go Filling\n"
                    ),
                    (
                        0,
                        "    when Silence button is tapped: go Silenced\n    when Water is in Filling: go Quiet\n",
                        "    when Silence button is tapped: go Silenced\n"
                    ),
                ],
            },
            Line("Filling against use takes longer.", "goal-too-short", "after 15 s: go Dry", "after 20 s: go Dry"),
        ],
        ["berthing-lights"] =
        [
            new("Two of five readings are lost, and each breaks the row: two in a row come in time.", "react-late")
            {
                Lines = [(0, "becomes close for 3 readings", "becomes close for 2 readings")],
            },
        ],
        ["deck-scrubber"] =
        [
            new("Five lanes as wide as its blade reaches, done before the bollard is near enough to turn into.", "turn-clearance")
            {
                Lines =
                [
                    (
                        0,
                        "    always if rightward: go Turning right\n",
                        "    always if lanes = 4: go All clean\n    always if rightward: go Turning right\n"
                    ),
                    (
                        0,
                        "turn robot right 90 robot deg spinning at 30 %, then drive straight 90 mm",
                        "turn robot right 90 robot deg spinning at 30 %, then drive straight 107 mm"
                    ),
                    (
                        0,
                        "turn robot left 90 robot deg spinning at 30 %, then drive straight 90 mm",
                        "turn robot left 90 robot deg spinning at 30 %, then drive straight 107 mm"
                    ),
                ],
            },
            Line(
                "Slower, so that it stands before its front is over the edge, however it brakes.",
                "edge-blind",
                "drive straight at 120 mm/s",
                "drive straight at 90 mm/s"
            ),
            Line("A bumper that is down already is never pressed.", "already-there", "Bumper is pressed", "Bumper is down"),
            new("Its track width is a guess, and every turn hangs on it.", "measure")
            {
                Design = rig =>
                    rig with
                    {
                        Mechanisms = rig
                            .Mechanisms.Select(m =>
                                m.Name == "Drive"
                                    ? m with
                                    {
                                        TrackWidthMm = new(118, "mm", Provenance.Measured, "closed square both ways round", 0.9, 0, 0, 1),
                                    }
                                    : m
                            )
                            .ToSequence(),
                    },
            },
            new("How far it veers is a guess, and every lane hangs on it.", "measure")
            {
                Trials = [("Drive: veer", new(0.2, 0.15, 0.35, 5, 1000, null, 0, 0))],
            },
        ],
        ["buoy-line-rover"] =
        [
            new("Slower, and turned less for each part of a reading: it weaves less.", "line-lost")
            {
                Lines =
                [
                    (0, "follow Line eye at 120 mm/s gain 0.25", "follow Line eye at 90 mm/s gain 0.2"),
                    (0, "drive straight 60 mm at 120 mm/s", "drive straight 60 mm at 90 mm/s"),
                ],
            },
            Line(
                "The eye may stand on the line already: only what comes after counts, and for longer.",
                "marker-twice",
                "when Line eye is line for 150 ms",
                "when Line eye becomes line for 200 ms"
            ),
        ],
        ["lock-keeper"] =
        [
            new("A press while it is busy is lost: it is remembered.", "late-check")
            {
                Lines =
                [
                    (
                        0,
                        "region Main\n",
                        """
                        # Asked for and not yet let through.
                        var boats = 0
                        var barges = 0

                        region Asking
                          state Listening, initial
                            when Boat button is pressed: set boats to 1; stay
                            when Keeper button is pressed: set barges to 1; stay

                        region Main

                        """.ReplaceLineEndings("\n")
                    ),
                    (
                        0,
                        "when Boat button is pressed: tell Sea side \"open\"; go Sea open",
                        "when boats > 0: set boats to 0; tell Sea side \"open\"; go Sea open"
                    ),
                    (
                        0,
                        "when Keeper button is pressed: tell Creek side \"open\"; go Creek open",
                        "when barges > 0: set barges to 0; tell Creek side \"open\"; go Creek open"
                    ),
                ],
            },
            new("A lost message stops it for good: each is told again until it is answered.", "waits-forever")
            {
                Lines =
                [
                    .. from side in new[] { "Sea", "Creek" }
                    from change in new (int, string, string)[]
                    {
                        (0, $"  state {side} open\n", $"  state {side} open\n    every 1 s: tell {side} side \"open\"; stay\n"),
                        (
                            0,
                            $"    on entry: tell {side} side \"shut\"\n",
                            $"    on entry: tell {side} side \"shut\"\n    every 1 s: tell {side} side \"shut\"; stay\n"
                        ),
                    }
                    select change,
                    .. from gate in new[] { 1, 2 }
                    from change in new (int, string, string)[]
                    {
                        (
                            gate,
                            "  state Shut, initial\n",
                            "  state Shut, initial\n    when told \"shut\" from Keeper: tell Keeper \"is shut\"; stay\n"
                        ),
                        (gate, "  state Open\n", "  state Open\n    when told \"open\" from Keeper: tell Keeper \"is open\"; stay\n"),
                    }
                    select change,
                ],
            },
        ],
    };
}
