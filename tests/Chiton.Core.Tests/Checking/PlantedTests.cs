using Chiton.Core.Checking;
using Chiton.Core.Motion;
using Chiton.Core.Tests.Programs;

namespace Chiton.Core.Tests.Checking;

/// <summary>For each code machines that have it, the same mended, and near misses that do not; cures that cure and do nothing
/// else.</summary>
public class PlantedTests
{
    /// <summary>Every sensor of a rig with a few readings of each of its zones, well apart.</summary>
    internal static Dictionary<string, SensorCalibration> Calibrations(RigDesign rig) =>
        rig
            .Sensors.Where(s => s.Facts.View is "scalar" or "bands")
            .ToDictionary(
                s => s.Name,
                s => new SensorCalibration(
                    s.Name,
                    s.SamplePeriodMs,
                    1,
                    1,
                    School.EqualRisk,
                    1,
                    [
                        .. s.Zones.Select(
                            (z, i) => new ZoneReadings(z, [.. new[] { 0, 1, -1, 2, 0, -2, 1, 0, -1, 1 }.Select(d => 20.0 + 40 * i + d)])
                        ),
                    ]
                )
            );

    internal static CheckInput Input(RigDesign rig, RigProgram program, IReadOnlyDictionary<string, SensorCalibration>? calibrations = null)
    {
        RigProgram[] running = [.. RigPrograms.Of(rig).Where(p => p.Runs)];
        var known = calibrations ?? Calibrations(rig);
        var explored = Explorer.Of(rig, running, known);
        explored.Run(Explorer.StatesAfterEdit, Explorer.AskedAfterEdit);
        return new(
            rig,
            null,
            new CopyMoves(rig, null, new Dictionary<string, IReadOnlyList<Trial>>(), new Dictionary<string, AcceptedNumber>()),
            known,
            new([], null, ""),
            running,
            program
        )
        {
            Explored = explored,
            ExploredAs = Array.FindIndex(running, p => p.Index == program.Index),
        };
    }

    internal static CheckInput Of(string body, Func<RigDesign, RigDesign>? change = null)
    {
        var rig = Rig;
        if (change is not null)
            rig = change(rig);
        rig = rig with
        {
            Programs = [new("program Bench\n\n" + body, []), new("program Landing\n\nregion Far\n  state Away, initial\n", [])],
        };
        var program = RigPrograms.Of(rig)[0];
        Assert.True(
            program.Parsed.Diagnostics.Count == 0,
            string.Join('\n', program.Parsed.Diagnostics.Select(d => $"{d.Line}: {d.Message}")) + "\n" + body
        );
        return Input(rig, program);
    }

    private static Quantity Mm(double value) => new(value, "mm", Provenance.Measured, "ruler", 0.5, 0, 0, 0);

    private static readonly RigDesign Rig = PatternTests.Rig with
    {
        Sensors =
        [
            .. PatternTests.Rig.Sensors.Select(s =>
                s.Name == "Range"
                    ? s with
                    {
                        BlindMm = Mm(40),
                        ReachMm = Mm(2000),
                        SilentReading = 2550,
                        Bands = [new("close", 40, 120), new("coming", 120, 600), new("open water", 600, 2000)],
                    }
                    : s
            ),
        ],
        Mechanisms =
        [
            .. PatternTests.Rig.Mechanisms.Select(m =>
                m.Name switch
                {
                    "Drive" => m with
                    {
                        TrackWidthMm = Mm(120),
                        WheelDiameterMm = Mm(60),
                        MotorTurnsPerTurn = new(1, "", Provenance.Chosen, ""),
                    },
                    "Mast" => m with
                    {
                        Travel = new(new(0, "motor deg", Provenance.Measured, ""), new(900, "motor deg", Provenance.Measured, "")),
                    },
                    _ => m,
                }
            ),
        ],
    };

    private sealed record Planted(string Code, string Bad, string Mended, string[] Near, Func<RigDesign, RigDesign>? Rig = null);

    private static string InMain(string states, string head = "") => $"{head}region Main\n{states}";

    private static RigDesign NearSilence(RigDesign rig) =>
        rig with
        {
            Sensors = [.. rig.Sensors.Select(s => s.Name == "Range" ? s with { SilenceIs = "close" } : s)],
        };

    private static Func<RigDesign, RigDesign> EdgeEyes(double ahead, double right) =>
        rig =>
            rig with
            {
                Sensors =
                [
                    .. rig.Sensors.Select(s =>
                        s.Name.EndsWith("edge eye", StringComparison.Ordinal)
                            ? s with
                            {
                                Mount = new(Mm(ahead), Mm(s.Name[0] == 'L' ? -right : right), Mm(8)),
                                SpotDiameterMm = Mm(8),
                            }
                            : s
                    ),
                ],
            };

    private static string AtEdge(
        double speed,
        string next = "  state Away\n    on entry: drive back 60 mm at 80 mm/s\n    when all done: go Ahead\n"
    ) =>
        InMain(
            $"  state Ahead, initial\n    while here: drive straight at {speed} mm/s\n    when Left edge eye becomes drop: go Away\n "
                + $"   when Right edge eye "
                + $"becomes drop: go Away\n{next}",
            "never: robot over the edge\n\n"
        );

    private static string Follows(string how) =>
        InMain($"  state Along, initial\n    while here: {how}\n    when Start button is pressed: go Over\n  state Over, final\n");

    private static RigDesign WithLineEye(RigDesign rig) =>
        rig with
        {
            Sensors =
            [
                .. rig.Sensors.Select(s => s.Name == "Line eye" ? s with { Mount = new(Mm(60), Mm(0), Mm(8)), SpotDiameterMm = Mm(8) } : s),
            ],
        };

    private static string Served(string busy, string more = "") =>
        InMain($"  state Idle, initial\n    when Start button is pressed: go Busy\n  state Busy\n{busy}") + more;

    private static readonly Planted[] All =
    [
        new(
            "late-check",
            Served("    while here: turn Green lamp on\n    after 10 s: go Idle\n"),
            Served(
                "    while here: turn Green lamp on\n    after 10 s: go Idle\n",
                "\nregion Asking\n  state Listening, initial\n    when Start button is pressed: turn Red lamp on; stay\n"
            ),
            [
                // Soon over, it listens itself, and it never comes back.
                Served("    while here: turn Green lamp on\n    after 1 s: go Idle\n"),
                Served("    while here: turn Green lamp on\n    after 10 s: go Idle\n    when Start button is pressed: go Idle\n"),
                Served("    while here: turn Green lamp on\n    after 10 s: go Over\n  state Over, final\n"),
            ]
        ),
        new(
            "line-lost",
            Follows("follow Line eye at 900 mm/s gain 0.2"),
            Follows("follow Line eye at 80 mm/s gain 0.2"),
            [Follows("follow Line eye at 150 mm/s gain 0.2"), Follows("drive straight at 900 mm/s"), Follows("steer 90 % and 90 %")],
            WithLineEye
        ),
        new(
            "stop-late",
            InMain(
                "  state Ahead, initial\n    while here: drive straight at 450 mm/s\n    when Range < 60 mm: go Over\n  state Over, final\n"
            ),
            InMain(
                "  state Ahead, initial\n    while here: drive straight at 100 mm/s\n    when Range < 60 mm: go Over\n  state Over, final\n"
            ),
            [
                InMain(
                    "  state Ahead, initial\n    while here: drive straight at 450 mm/s\n    when Range < 250 mm: go Over\n  state "
                        + "Over, final\n"
                ),
                InMain(
                    "  state Ahead, initial\n    while here: drive straight at 450 mm/s\n    when Range < 60 mm: go Slow\n  state "
                        + "Slow\n    while here: drive "
                        + "straight at 40 mm/s\n    when Left bumper is pressed: go Over\n  state Over, final\n"
                ),
                InMain(
                    "  state Ahead, initial\n    while here: drive back at 450 mm/s\n    when Range > 60 mm: go Over\n  state Over, final\n"
                ),
            ]
        ),
        new(
            "stop-late",
            AtEdge(250),
            AtEdge(110),
            [
                AtEdge(250, "  state Away\n    while here: drive straight at 40 mm/s\n    when Left bumper is pressed: go Ahead\n"),
                AtEdge(250).Replace("never: robot over the edge\n\n", "", StringComparison.Ordinal),
            ],
            EdgeEyes(40, 70)
        ),
        new("edge-blind", AtEdge(110), AtEdge(110).Replace("straight", "back", StringComparison.Ordinal), [], EdgeEyes(40, 30)),
        new(
            "edge-blind",
            AtEdge(110),
            AtEdge(20),
            [
                // Slower still, a bumper that leads on, and a start that is given by hand.
                AtEdge(12),
                InMain(
                    "  state Ahead, initial\n    while here: drive straight at 110 mm/s\n    when Left bumper is pressed: go Away\n"
                        + "  state Away\n    on entry: drive back 60 mm at 80 mm/s\n    when all done: go Ahead\n"
                ),
                InMain(
                    "  state Rest, initial\n    when Left edge eye becomes drop: go Over\n    when Right edge eye becomes drop: go Over\n"
                        + "  state Over, final\n    on entry: turn Red lamp on\n",
                    "never: robot over the edge\n\n"
                ),
            ],
            EdgeEyes(40, 30)
        ),
        new(
            "runs-on",
            InMain(
                "  state Go, initial\n    on entry: run Trolley at 40 %\n    when Start button is pressed: go Rest\n  state Rest\n   "
                    + " after 1 s: stay\n"
            ),
            InMain(
                "  state Go, initial\n    while here: run Trolley at 40 %\n    when Start button is pressed: go Rest\n  state Rest\n "
                    + "   after 1 s: stay\n"
            ),
            [
                // Stopped on the way, stopped two states later, and stopped where all is over.
                InMain(
                    "  state Go, initial\n    on entry: run Trolley at 40 %\n    when Start button is pressed: stop Trolley; go "
                        + "Rest\n  state Rest\n    "
                        + "after 1 s: stay\n"
                ),
                InMain(
                    "  state Go, initial\n    on entry: run Trolley at 40 %\n    when Start button is pressed: go More\n  state "
                        + "More\n    after 1 s: go "
                        + "Rest\n  state Rest\n    on entry: stop Trolley\n    after 1 s: stay\n"
                ),
                InMain(
                    "  state Go, initial\n    on entry: run Trolley at 40 %\n    when Start button is pressed: go Over\n  state "
                        + "Over, final\n"
                ),
            ]
        ),
        new(
            "already-there",
            InMain(
                "  state Go, initial\n    while here: run Trolley at 40 %\n    when Tag eye becomes bed tag: go Rest\n  state Rest\n "
                    + "   when Tag eye "
                    + "becomes bed tag: go Over\n  state Over, final\n"
            ),
            InMain(
                "  state Go, initial\n    while here: run Trolley at 40 %\n    when Tag eye becomes bed tag: go Rest\n  state Rest\n "
                    + "   when Tag eye "
                    + "is bed tag: go Over\n  state Over, final\n"
            ),
            [
                // Another zone, something that moves there, and another way in.
                InMain(
                    "  state Go, initial\n    while here: run Trolley at 40 %\n    when Tag eye becomes bed tag: go Rest\n  state "
                        + "Rest\n    when Tag eye "
                        + "becomes sleepers: go Over\n  state Over, final\n"
                ),
                InMain(
                    "  state Go, initial\n    while here: run Trolley at 40 %\n    when Tag eye becomes bed tag: go Rest\n  state "
                        + "Rest\n    while here: "
                        + "run Trolley at 40 %\n    when Tag eye becomes bed tag: go Over\n  state Over, final\n"
                ),
                InMain(
                    "  state Go, initial\n    while here: run Trolley at 40 %\n    when Tag eye becomes bed tag: go Rest\n    after "
                        + "9 s: go Rest\n  state "
                        + "Rest\n    when Tag eye becomes bed tag: go Over\n  state Over, final\n"
                ),
            ]
        ),
        new(
            "marker-twice",
            InMain(
                "  state Go, initial\n    while here: drive straight at 100 mm/s\n    when Tag eye is bed tag: set n to n + 1; go "
                    + "Rest\n  state Rest\n    "
                    + "after 1 s if n = 3: go Over\n    after 1 s: go Go\n  state Over, final\n",
                "var n = 0\n"
            ),
            InMain(
                "  state Go, initial\n    while here: drive straight at 100 mm/s\n    when Tag eye becomes bed tag: set n to n + 1; "
                    + "go Rest\n  state "
                    + "Rest\n    after 1 s if n = 3: go Over\n    after 1 s: go Go\n  state Over, final\n",
                "var n = 0\n"
            ),
            [
                // It leaves the marker first, it drives on before it comes back, and it does not come back.
                InMain(
                    "  state Go, initial\n    while here: drive straight at 100 mm/s\n    when Tag eye is bed tag: set n to n + 1; "
                        + "go Off\n  state "
                        + "Off\n    while here: drive straight at 100 mm/s\n    when Tag eye leaves bed tag if n = 3: go Over\n    "
                        + "when Tag eye leaves bed "
                        + "tag: go Go\n  state Over, final\n",
                    "var n = 0\n"
                ),
                InMain(
                    "  state Go, initial\n    while here: drive straight at 100 mm/s\n    when Tag eye is bed tag: set n to n + 1; "
                        + "go Off\n  state "
                        + "Off\n    on entry: drive straight 90 mm at 100 mm/s\n    when all done if n = 3: go Over\n    when all "
                        + "done: go Go\n  state "
                        + "Over, final\n",
                    "var n = 0\n"
                ),
                InMain(
                    "  state Go, initial\n    while here: drive straight at 100 mm/s\n    when Tag eye is bed tag: set n to n + 1; "
                        + "go Over\n  state Over, "
                        + "final\n    on entry: show n\n",
                    "var n = 0\n"
                ),
            ]
        ),
        new(
            "no-word",
            InMain(
                "  state Wait, initial\n    when told \"go\" from Landing: go Roll\n  state Roll\n    while here: run Trolley at 40 "
                    + "%\n    when told "
                    + "\"stop\" from Landing: go Wait\n"
            ),
            InMain(
                "  state Wait, initial\n    when told \"go\" from Landing: go Roll\n  state Roll\n    while here: run Trolley at 40 "
                    + "%\n    when told "
                    + "\"stop\" from Landing: go Wait\n    when not told for 1 s: go Wait\n"
            ),
            [
                InMain(
                    "  state Wait, initial\n    when told \"go\" from Landing: go Roll\n  state Roll\n    while here: run Trolley at "
                        + "40 %\n    when told "
                        + "\"stop\" from Landing: go Wait\n    after 5 s: go Wait\n"
                ),
                InMain(
                    "  state Wait, initial\n    when told \"go\" from Landing: go Roll\n  state Roll\n    while here: turn Green "
                        + "lamp on\n    when told "
                        + "\"stop\" from Landing: go Wait\n"
                ),
                InMain(
                    "  state Wait, initial\n    when told \"go\" from Landing: go Roll\n  state Roll\n    on entry: run Mast motor "
                        + "90 motor deg at 40 "
                        + "%\n    when told \"stop\" from Landing: go Wait\n"
                ),
            ]
        ),
        new(
            "silence",
            InMain(
                "  state Go, initial\n    while here: drive straight at 100 mm/s\n    when Range becomes close: go Over\n  state "
                    + "Over, final\n"
            ),
            InMain(
                "  state Go, initial\n    while here: drive straight at 100 mm/s\n    when Range becomes close: go Over\n    when "
                    + "Range hears nothing: go "
                    + "Over\n  state Over, final\n"
            ),
            [
                InMain(
                    "  state Go, initial\n    while here: drive straight at 100 mm/s\n    when Range becomes close: go Over\n    "
                        + "after 9 s: go Over\n  "
                        + "state Over, final\n"
                ),
                InMain(
                    "  state Go, initial\n    while here: drive straight at 100 mm/s\n    when Left bumper is pressed: go Over\n    "
                        + "when Range becomes "
                        + "close: go Over\n  state Over, final\n"
                ),
                InMain(
                    "  state Go, initial\n    while here: turn Green lamp on\n    when Range becomes close: go Over\n  state Over, final\n"
                ),
            ]
        ),
        new(
            "trap",
            InMain(
                "  state Ahead, initial\n    while here: drive straight at 100 mm/s\n    when Left bumper is pressed: go Back\n  "
                    + "state Back\n    on "
                    + "entry: drive back 80 mm at 80 mm/s\n    when all done: go Ahead\n"
            ),
            InMain(
                "  state Ahead, initial\n    while here: drive straight at 100 mm/s\n    when Left bumper is pressed: go Back\n  "
                    + "state Back\n    on "
                    + "entry: drive back 80 mm at 80 mm/s, then turn robot left 90 robot deg spinning at 30 %\n    when all done: go "
                    + "Ahead\n"
            ),
            [
                // It counts, something else leads out, and both ways are the same.
                InMain(
                    "  state Ahead, initial\n    while here: drive straight at 100 mm/s\n    when Left bumper is pressed: set n to n "
                        + "+ 1; go Back\n  state "
                        + "Back\n    on entry: drive back 80 mm at 80 mm/s\n    when all done if n = 3: go Over\n    when all done: "
                        + "go Ahead\n  state Over, "
                        + "final\n",
                    "var n = 0\n"
                ),
                InMain(
                    "  state Ahead, initial\n    while here: drive straight at 100 mm/s\n    when Left bumper is pressed: go Back\n  "
                        + "  when Start button "
                        + "is pressed: go Over\n  state Back\n    on entry: drive back 80 mm at 80 mm/s\n    when all done: go "
                        + "Ahead\n  state Over, final\n"
                ),
                InMain(
                    "  state Ahead, initial\n    while here: drive straight at 100 mm/s\n    when Left bumper is pressed: go More\n  "
                        + "state More\n    on "
                        + "entry: drive straight 80 mm at 80 mm/s\n    when all done: go Ahead\n"
                ),
            ]
        ),
        new(
            "done-guessed",
            InMain(
                "  state Go, initial\n    on entry: set Arm servo to 90 deg\n    when Arm servo is done: go Over\n  state Over, final\n"
            ),
            InMain(
                "  state Go, initial\n    on entry: set Arm servo to 90 deg\n    when Foot switch is pressed: go Over\n  state Over, "
                    + "final\n"
            ),
            [
                InMain(
                    "  state Go, initial\n    on entry: run Mast motor 90 motor deg at 40 %\n    when Mast motor is done: go Over\n  "
                        + "state Over, final\n"
                ),
                InMain("  state Go, initial\n    on entry: run Trolley for 2 s at 40 %\n    when all done: go Over\n  state Over, final\n"),
                InMain("  state Go, initial\n    on entry: set Arm servo to 90 deg\n    after 2 s: go Over\n  state Over, final\n"),
            ]
        ),
        new(
            "zone-blind",
            InMain("  state Go, initial\n    while here: turn Green lamp on\n    when Range < 35 mm: go Over\n  state Over, final\n"),
            InMain("  state Go, initial\n    while here: turn Green lamp on\n    when Range < 60 mm: go Over\n  state Over, final\n"),
            [
                InMain("  state Go, initial\n    while here: turn Green lamp on\n    when Range > 35 mm: go Over\n  state Over, final\n"),
                InMain(
                    "  state Go, initial\n    while here: turn Green lamp on\n    when Range becomes coming: go Over\n  state Over, final\n"
                ),
                InMain("  state Go, initial\n    while here: turn Green lamp on\n    when Line eye < 35 %: go Over\n  state Over, final\n"),
            ]
        ),
        new(
            "zone-blind",
            InMain("  state Go, initial\n    while here: turn Green lamp on\n    when Range becomes close: go Over\n  state Over, final\n"),
            InMain(
                "  state Go, initial\n    while here: turn Green lamp on\n    when Range becomes coming: go Over\n  state Over, final\n"
            ),
            [],
            NearSilence
        ),
        new(
            "unit-mixed",
            InMain(
                "  state Go, initial\n    on entry: turn robot left 180 robot deg spinning at 30 %, then turn robot right 720 robot "
                    + "deg spinning at 30 %\n    "
                    + "when all done: go Over\n  state Over, final\n"
            ),
            InMain(
                "  state Go, initial\n    on entry: turn robot left 180 robot deg spinning at 30 %, then turn robot right 90 robot "
                    + "deg spinning at 30 %\n    "
                    + "when all done: go Over\n  state Over, final\n"
            ),
            [
                InMain(
                    "  state Go, initial\n    on entry: turn robot left 360 robot deg spinning at 30 %\n    when all done: go Over\n "
                        + " state Over, final\n"
                ),
                InMain(
                    "  state Go, initial\n    on entry: turn robot left 1080 robot deg spinning at 30 %\n    when all done: go "
                        + "Over\n  state Over, final\n"
                ),
                InMain(
                    "  state Go, initial\n    on entry: run Mast motor 720 motor deg at 30 %\n    when all done: go Over\n  state "
                        + "Over, final\n"
                ),
            ]
        ),
        new(
            "springs-back",
            InMain(
                "  state Up, initial\n    while here: run Mast motor at 40 %\n    when Foot switch is pressed: stop Mast motor and "
                    + "coast; go Held\n  state "
                    + "Held\n    after 2 s: go Up\n"
            ),
            InMain(
                "  state Up, initial\n    while here: run Mast motor at 40 %\n    when Foot switch is pressed: stop Mast motor and "
                    + "hold; go Held\n  state "
                    + "Held\n    after 2 s: go Up\n"
            ),
            [
                InMain(
                    "  state Up, initial\n    while here: run Mast motor at 40 %\n    when Foot switch is pressed: stop Mast motor "
                        + "and brake; go Held\n  "
                        + "state Held\n    after 2 s: go Up\n"
                ),
                InMain(
                    "  state Up, initial\n    while here: run Jaw motor at 40 %\n    when Foot switch is pressed: stop Jaw motor and "
                        + "coast; go Held\n  "
                        + "state Held\n    after 2 s: go Up\n"
                ),
                InMain(
                    "  state Up, initial\n    while here: run Mast motor at 40 %\n    when Foot switch is pressed: go Over\n  state "
                        + "Over, final\n    on "
                        + "entry: stop Mast motor and coast\n"
                ),
            ]
        ),
        new(
            "start-assumed",
            InMain(
                "  state Up, initial\n    on entry: run Mast motor 300 motor deg at 40 %\n    when all done: go Over\n  state Over, final\n"
            ),
            InMain(
                "  state Up, initial\n    on entry: send Mast to bottom, then run Mast motor 300 motor deg at 40 %\n    when all "
                    + "done: go Over\n  state Over, "
                    + "final\n"
            ),
            [
                InMain(
                    "  state Down, initial\n    while here: run Mast motor back at 20 %\n    when Mast motor stalls: zero Mast "
                        + "motor; go Up\n  state Up\n    "
                        + "on entry: run Mast motor 300 motor deg at 40 %\n    when all done: go Over\n  state Over, final\n"
                ),
                InMain("  state Up, initial\n    on entry: send Mast to shelf\n    when all done: go Over\n  state Over, final\n"),
                InMain(
                    "  state Up, initial\n    on entry: drive straight 300 mm at 100 mm/s\n    when all done: go Over\n  state Over, "
                        + "final\n"
                ),
            ]
        ),
        new(
            "jam",
            InMain(
                "  state Grip, initial\n    on entry: run Jaws close 300 motor deg at 40 %\n    when Jaws is done: go Over\n  state "
                    + "Over, final\n"
            ),
            InMain(
                "  state Grip, initial\n    on entry: run Jaws close 300 motor deg at 40 % up to 2 s\n    when Jaws is done: go "
                    + "Over\n    when Jaws gives up: "
                    + "go Over\n  state Over, final\n"
            ),
            [
                InMain(
                    "  state Grip, initial\n    on entry: run Jaws close 300 motor deg at 40 %\n    when Jaws is done: go Over\n    "
                        + "when Jaws stalls: go "
                        + "Over\n  state Over, final\n"
                ),
                InMain(
                    "  state Grip, initial\n    on entry: run Jaws close 300 motor deg at 40 %\n    when Jaws is done: go Over\n    "
                        + "after 3 s: go Over\n  "
                        + "state Over, final\n"
                ),
                InMain(
                    "  state Grip, initial\n    on entry: drive straight 90 mm at 100 mm/s\n    when all done: go Over\n  state "
                        + "Over, final\n"
                ),
            ]
        ),
        new(
            "dead-band",
            InMain(
                "  state Go, initial\n    while here: steer by Mast motor and Jaw motor\n    when Foot switch is pressed: go Over\n  "
                    + "state Over, final\n"
            ),
            InMain(
                "  state Go, initial\n    while here: steer by Mast motor and Jaw motor, dead band 12 deg\n    when Foot switch is "
                    + "pressed: go Over\n  "
                    + "state Over, final\n"
            ),
            [
                InMain(
                    "  state Go, initial\n    while here: steer by Mast motor and Jaw motor, dead band 3 deg\n    when Foot switch "
                        + "is pressed: go Over\n  "
                        + "state Over, final\n"
                ),
                InMain(
                    "  state Go, initial\n    while here: steer by Mast motor and Jaw motor, dead band 45 deg\n    when Foot switch "
                        + "is pressed: go Over\n  "
                        + "state Over, final\n"
                ),
                InMain(
                    "  state Go, initial\n    while here: steer 30 % and 30 %\n    when Foot switch is pressed: go Over\n  state "
                        + "Over, final\n"
                ),
            ]
        ),
        new(
            "uneven-branches",
            InMain(
                "  state Go, initial\n    on entry: run Left motor 360 motor deg at 40 % and run Right motor 360 motor deg at 60 %\n "
                    + "   when all done: go "
                    + "Over\n  state Over, final\n"
            ),
            InMain(
                "  state Go, initial\n    on entry: run Left motor 360 motor deg at 40 % and run Right motor 540 motor deg at 60 %\n "
                    + "   when all done: go "
                    + "Over\n  state Over, final\n"
            ),
            [
                InMain(
                    "  state Go, initial\n    on entry: run Left motor 360 motor deg at 40 % and run Right motor 360 motor deg at 43 "
                        + "%\n    when all done: go "
                        + "Over\n  state Over, final\n"
                ),
                InMain(
                    "  state Go, initial\n    on entry: run Left motor 360 motor deg at 40 %, then run Right motor 360 motor deg at "
                        + "60 %\n    when all done: "
                        + "go Over\n  state Over, final\n"
                ),
                InMain(
                    "  state Go, initial\n    on entry: run Left motor 360 motor deg at 40 % and turn Green lamp on\n    when all "
                        + "done: go Over\n  state "
                        + "Over, final\n"
                ),
            ]
        ),
        new(
            "interlock",
            "never: Left is in Open and Right is in Open\n\nregion Left\n  state Shut, initial\n    when Left bumper is pressed: go "
                + "Open\n  state Open\n    after "
                + "5 s: go Shut\n\nregion Right\n  state Shut, initial\n    when Right bumper is pressed: go Open\n  state Open\n    "
                + "after 5 s: go Shut\n",
            "never: Left is in Open and Right is in Open\n\nregion Left\n  state Shut, initial\n    when Left bumper is pressed if "
                + "Right is in Shut: go Open\n  "
                + "state Open\n    after 5 s: go Shut\n\nregion Right\n  state Shut, initial\n    when Right bumper is pressed if "
                + "Left is in Shut: go Open\n  "
                + "state Open\n    after 5 s: go Shut\n",
            [
                "region Left\n  state Shut, initial\n    when Left bumper is pressed: go Open\n  state Open\n    after 5 s: go "
                    + "Shut\n\nregion Right\n  state Shut, "
                    + "initial\n    when Right bumper is pressed: go Open\n  state Open\n    after 5 s: go Shut\n",
                // Only times forbid it: ten seconds from the start are over before twenty from any later press.
                "never: Left is in Open and Right is in Open\n\nregion Left\n  state Open, initial\n    after 10 s: go Shut\n  state "
                    + "Shut\n\nregion Right\n  "
                    + "state Shut, initial\n    when Right bumper is pressed: go Wait\n  state Wait\n    after 20 s: go Open\n  "
                    + "state Open\n    after 5 s: go "
                    + "Shut\n",
                "never: Left is in Open and Right is in Gone\n\nregion Left\n  state Shut, initial\n    when Left bumper is pressed: "
                    + "go Open\n  state Open\n    "
                    + "after 5 s: go Shut\n\nregion Right\n  state Shut, initial\n    when Right bumper is pressed if Left is in "
                    + "Shut and Left is in Open: go Gone\n  "
                    + "state Gone\n    after 5 s: go Shut\n",
            ]
        ),
        new(
            "two-drivers",
            "region A\n  state Rest, initial\n    when Left bumper is pressed: go Run\n  state Run\n    while here: run Trolley at "
                + "40 %\n    after 2 s: go "
                + "Rest\n\nregion B\n  state Rest, initial\n    when Right bumper is pressed: go Run\n  state Run\n    while here: "
                + "run Trolley at 60 %\n    "
                + "after 2 s: go Rest\n",
            "region A\n  state Rest, initial\n    when Left bumper is pressed if B is in Rest: go Run\n  state Run\n    while here: "
                + "run Trolley at 40 %\n    "
                + "after 2 s: go Rest\n\nregion B\n  state Rest, initial\n    when Right bumper is pressed if A is in Rest: go Run\n "
                + " state Run\n    while "
                + "here: run Trolley at 60 %\n    after 2 s: go Rest\n",
            [
                "region A\n  state Rest, initial\n    when Left bumper is pressed: go Run\n  state Run\n    while here: run Trolley "
                    + "at 40 %\n    after 2 s: go "
                    + "Rest\n\nregion B\n  state Rest, initial\n    when Right bumper is pressed: go Run\n  state Run\n    while "
                    + "here: run Second trolley at 60 "
                    + "%\n    after 2 s: go Rest\n",
                InMain(
                    "  state Out, initial\n    while here: run Trolley at 40 %\n    state In, initial\n      when Left bumper is "
                        + "pressed: go Fast\n    state "
                        + "Fast\n      while here: run Trolley at 60 %\n      after 2 s: go In\n"
                ),
                "region A\n  state Rest, initial\n    when Left bumper is pressed: go Run\n  state Run\n    while here: run Trolley "
                    + "at 40 %\n    when Left "
                    + "bumper is released: go Rest\n\nregion B\n  state Rest, initial\n    when Left bumper is released if A is in "
                    + "Rest: go Rest\n",
            ]
        ),
        new(
            "no-way-out",
            InMain("  state Rest, initial\n    when Start button is pressed: go Run\n  state Run\n    while here: run Trolley at 40 %\n"),
            InMain(
                "  state Rest, initial\n    when Start button is pressed: go Run\n  state Run\n    while here: run Trolley at 40 %\n "
                    + "   when Start button is "
                    + "pressed: go Rest\n"
            ),
            [
                InMain("  state Rest, initial\n    when Start button is pressed: go Run\n  state Run, final\n"),
                InMain(
                    "  state All, initial\n    when Foot switch is pressed: go Over\n    state Rest, initial\n      when Start "
                        + "button is pressed: go Run\n    "
                        + "state Run\n      while here: run Trolley at 40 %\n  state Over, final\n"
                ),
                InMain("  state Rest, initial\n    when Start button is pressed: go Run\n  state Run\n    every 1 s: stay\n"),
            ]
        ),
        new(
            "waits-forever",
            InMain("  state Rest, initial\n    when Start button is pressed if n = 4: go Run\n  state Run, final\n", "var n = 0\n"),
            InMain("  state Rest, initial\n    when Start button is pressed if n = 0: go Run\n  state Run, final\n", "var n = 0\n"),
            [
                InMain(
                    "  state Rest, initial\n    when Start button is pressed if n = 4: go Run\n    when Foot switch is pressed: set "
                        + "n to n + 1; stay\n  state "
                        + "Run, final\n",
                    "var n = 0\n"
                ),
                InMain("  state Rest, initial\n    when Start button is held for 2 s: go Run\n  state Run, final\n"),
                InMain("  state Rest, initial\n    when Tag eye leaves bed tag: go Run\n  state Run, final\n"),
            ]
        ),
        new(
            "never-reached",
            InMain(
                "  state Rest, initial\n    always if n > 2: go Lost\n    when Start button is pressed: go Run\n  state Run, final\n "
                    + " state Lost, final\n",
                "var n = 0\n"
            ),
            InMain(
                "  state Rest, initial\n    always if n > 2: go Lost\n    when Start button is pressed: go Run\n    when Foot switch "
                    + "is pressed: set n to n + "
                    + "1; stay\n  state Run, final\n  state Lost, final\n",
                "var n = 0\n"
            ),
            [
                InMain("  state Rest, initial\n    when Start button is tapped twice: go Run\n  state Run, final\n"),
                InMain("  state Rest, initial\n    when Start button is pressed: go Run\n  state Run\n    after 2 s: go Rest\n"),
                InMain(
                    "  state Rest, initial\n    when Range < n: go Run\n    when Range > 90 mm: go Over\n  state Run, final\n  state "
                        + "Over, final\n",
                    "var n = 50 mm\n"
                ),
            ]
        ),
    ];

    /// <summary>Each planted machine by its place.</summary>
    public static TheoryData<int, string> Machines => ByPlace(All.Select(p => p.Code));

    /// <summary>Codes with their places.</summary>
    internal static TheoryData<int, string> ByPlace(IEnumerable<string> codes)
    {
        var data = new TheoryData<int, string>();
        foreach (var code in codes)
            data.Add(data.Count, code);
        return data;
    }

    internal static Finding[] Find(CheckInput input) => [.. Catalogue.Find([input]).Where(f => f.Severity != Severity.Holds)];

    internal static string Said(IEnumerable<Finding> found) =>
        string.Join('\n', found.Select(f => $"{f.Severity} {f.Code} {f.Line}: {f.Headline}"));

    [Theory]
    [MemberData(nameof(Machines))]
    public void It_is_named_where_it_is_and_nowhere_else(int at, string code)
    {
        var planted = All[at];
        var bad = Find(Of(planted.Bad, planted.Rig));
        Assert.True(bad.Any(f => f.Code == code), $"not found; found\n{Said(bad)}");
        var mended = Find(Of(planted.Mended, planted.Rig));
        Assert.True(mended.All(f => f.Code != code), $"still there when mended\n{Said(mended)}");
        for (var i = 0; i < planted.Near.Length; i++)
        {
            var near = Find(Of(planted.Near[i], planted.Rig));
            Assert.True(near.All(f => f.Code != code), $"near miss {i} has it\n{Said(near)}\n{planted.Near[i]}");
        }
    }

    [Theory]
    [MemberData(nameof(Machines))]
    public void Its_cure_takes_it_away_brings_nothing_worse_and_changes_its_lines_alone(int at, string code)
    {
        var planted = All[at];
        var before = Of(planted.Bad, planted.Rig);
        var found = Find(before).Where(f => f.Code == code).ToArray();
        Assert.All(found, f => Assert.True(f.Headline.Length < 90 && f.Say.EndsWith('.'), $"{f.Headline}: {f.Say}"));
        foreach (var finding in found.Where(f => f.Cure is not null))
        {
            var lines = ("program Bench\n\n" + planted.Bad).Split('\n');
            foreach (var edit in finding.Cure!.Edits)
            {
                var old = lines[edit.Line - 1];
                lines[edit.Line - 1] = old[..(old.Length - old.TrimStart().Length)] + edit.Text;
                Assert.NotEqual(old, lines[edit.Line - 1]);
            }
            var cured = Find(Of(string.Join('\n', lines[2..]), planted.Rig));
            Assert.DoesNotContain(cured, f => f.Code == code && f.Owner == finding.Owner && f.Headline == finding.Headline);
            Assert.True(
                cured.Where(f => f.Severity <= finding.Severity).All(f => Find(before).Any(b => b.Code == f.Code && b.Owner == f.Owner)),
                $"it brings something worse\n{Said(cured)}"
            );
        }
    }

    [Fact]
    public void A_zone_of_which_nothing_is_known_is_told_once_and_not_where_a_band_or_the_program_says_what_it_is()
    {
        const string body =
            "region Main\n  state Go, initial\n    when Tag eye becomes bed tag: go Rest\n  state Rest\n    when Tag eye becomes bed "
            + "tag: go Go\n    when "
            + "Range becomes close: go Go\n";
        var input = Of(body);
        var read = Calibrations(input.Rig);
        CheckInput With(string zone, int readings) =>
            input with
            {
                Calibrations = read.ToDictionary(
                    c => c.Key,
                    c =>
                        c.Key != "Tag eye"
                            ? c.Value
                            : c.Value with
                            {
                                Zones =
                                [
                                    .. c.Value.Zones.Select(z =>
                                        z.Zone == zone ? new ZoneReadings(z.Zone, [.. Enumerable.Repeat(60.0, readings)]) : z
                                    ),
                                ],
                            }
                ),
            };
        Finding[] Found(CheckInput of) => [.. Find(of).Where(f => f.Code == "zone-bandless")];
        Assert.Empty(Found(input));
        Assert.Empty(Found(With("bed tag", 3)));
        Assert.Contains("only 2 readings", Assert.Single(Found(With("bed tag", 2))).Say, StringComparison.Ordinal);
        Assert.Contains("has no readings", Assert.Single(Found(With("bed tag", 0))).Say, StringComparison.Ordinal);
        // A zone that nothing asks for, and one that a band tells.
        Assert.Empty(Found(With("siding tag", 0)));
        Assert.Empty(Found(input with { Calibrations = read.Where(c => c.Key != "Range").ToDictionary() }));
        var taught = Of(
            body.Replace("state Go, initial\n", "state Go, initial\n    on entry: teach Tag eye bed tag\n", StringComparison.Ordinal)
        );
        Assert.Empty(Found(taught with { Calibrations = read.Where(c => c.Key != "Tag eye").ToDictionary() }));
    }

    [Theory]
    [InlineData("stay", Severity.Risky)]
    [InlineData("go Run", Severity.Advice)]
    public void A_second_sentence_that_can_never_win_is_a_risk_unless_it_says_the_same(string second, Severity severity)
    {
        var body = "  state Rest, initial\n    when Start button is pressed: go Run\n    when Start button is pressed: " + second;
        var found = Find(Of(InMain(body + "\n  state Run, final\n")));
        Assert.Equal(severity, found.Single(f => f.Code == "same-trigger").Severity);
    }

    [Fact]
    public void What_follows_from_something_stands_under_it_and_makes_it_as_bad()
    {
        // A sentence that is never taken, and two states that are never entered because of it.
        var found = Find(
            Of(
                InMain(
                    "  state Rest, initial\n    when Start button is pressed: go Run\n    always if n > 2: go Lost\n  state Run, "
                        + "final\n  state Lost\n    "
                        + "after 1 s: go More\n  state More, final\n",
                    "var n = 0\n"
                )
            )
        );
        var cause = found.Single(f => f.Code == "waits-forever");
        Assert.Equal((Severity.Risky, null), (cause.Severity, cause.Because));
        Assert.Equal(
            [("Lost", cause.Key), ("More", cause.Key)],
            found.Where(f => f.Code == "never-reached").Select(f => (f.Owner, f.Because!)).Order()
        );
        // Two that lead to each other and that nothing leads to: neither stands under itself.
        var round = Find(
            Of(
                InMain(
                    "  state Rest, initial\n    after 1 s: stay\n  state Lost\n    after 1 s: go More\n  state More\n    after 1 "
                        + "s: go Lost\n"
                )
            )
        );
        Assert.Equal(["Lost", "More"], round.Where(f => f.Code == "never-reached").Select(f => f.Owner).Order());
        Assert.Contains(round, f => f.Code == "never-reached" && f.Because is null);
        // A state that no sentence leads to follows from nothing.
        Assert.Null(
            Find(Of(InMain("  state Rest, initial\n    after 1 s: stay\n  state Lost, final\n")))
                .Single(f => f.Code == "never-reached")
                .Because
        );
    }

    [Fact]
    public void What_is_not_ruled_out_or_not_looked_at_is_no_nothing()
    {
        static Looked Looked(CheckInput input, string code) => Catalogue.Looked([input], Find(input), null).Single(l => l.Code == code);
        // Only times forbid it: the engine cannot be taken there, and exploration cannot rule it out.
        const string timed =
            "never: Left is in Open and Right is in Open\n\nregion Left\n  state Open, initial\n    after 10 s: go Shut\n  state Shut\n\n"
            + "region Right\n  state Shut, initial\n    when Right bumper is pressed: go Wait\n  state Wait\n    after 20 s: go Open\n"
            + "  state Open\n    after 5 s: go Shut\n";
        var open = Looked(Of(timed), "interlock");
        Assert.Equal(LookedState.NotYet, open.State);
        Assert.StartsWith("Not ruled out", open.Why);
        // One never that can be looked at does not speak for another that cannot.
        var mixed = Looked(
            Of("never: robot over the edge\nnever: Main is in Lost\n\n" + InMain("  state Rest, initial\n  state Lost\n")),
            "interlock"
        );
        Assert.Contains("Prove counts it", mixed.Why, StringComparison.Ordinal);
        // A number that is waited for exactly may be read exactly.
        var exact = Of(InMain("  state Rest, initial\n    when Line eye = 40 %: go Over\n  state Over, final\n"));
        Assert.DoesNotContain(Find(exact), f => f.Code is "waits-forever" or "never-reached");
        // A scene that could not be looked at is none without findings.
        var plain = Of(InMain("  state Rest, initial\n    after 1 s: stay\n"));
        Assert.Equal(LookedState.Nothing, Looked(plain with { Scenes = [] }, "surface-unknown").State);
        Assert.Equal(LookedState.NotYet, Looked(plain with { Scenes = null }, "surface-unknown").State);
        Assert.Equal(
            LookedState.NotYet,
            Looked(plain with { Scenes = [new("Shed", true, SceneNote.Unlooked, "it has faults.")] }, "surface-unknown").State
        );
    }

    // Range hangs on a box of its own, everything else where the program runs.
    private static RigDesign FarRange(RigDesign rig) =>
        rig with
        {
            Controllers = [.. rig.Controllers, ControllerTemplates.Make("six sockets", "Far box")],
            Wires = [new("Range", "signal", "Far box", "front 1"), new("Tag eye", "signal", "Box", "front 1")],
        };

    [Theory]
    // Waited for, asked in a guard, within a sum, in what is done, in a round, and from a routine.
    [InlineData("    when Range becomes close: go Over\n", 5)]
    [InlineData("    after 2 s if Range is close: go Over\n", 5)]
    [InlineData("    when abs(Range - 60 mm) < 5 mm: go Over\n", 5)]
    [InlineData("    after 2 s: go Over\n    when Start button is pressed: show Range; stay\n", 6)]
    [InlineData("    on entry: turn Green lamp on if Range is close\n    after 2 s: go Over\n", 5)]
    [InlineData("    on entry: repeat until Range is close: (turn Green lamp on; wait 1 s)\n    after 2 s: go Over\n", 5)]
    public void What_another_controller_reads_is_told_wherever_it_is_asked_for(string lines, int line)
    {
        static Finding[] Wrong(string body, Func<RigDesign, RigDesign> rig) =>
            [.. Find(Of(body, rig)).Where(f => f.Code == "wrong-controller")];
        var body = InMain($"  state Wait, initial\n{lines}  state Over, final\n");
        var found = Assert.Single(Wrong(body, FarRange));
        Assert.Equal((line, "Range", "Range is not on Box"), (found.Line, found.Device, found.Headline));
        // On its own box, without wires, and what hangs here.
        Assert.Empty(Wrong(body, rig => FarRange(rig) with { Wires = [new("Range", "signal", "Box", "front 2")] }));
        Assert.Empty(Wrong(body, rig => FarRange(rig) with { Wires = [] }));
        Assert.Empty(Wrong(InMain("  state Wait, initial\n    when Tag eye becomes bed tag: go Over\n  state Over, final\n"), FarRange));
    }
}
