using Chiton.Core.Checking;
using Chiton.Core.Motion;
using Chiton.Core.Simulation.Scenes;
using Chiton.Core.Tests.Programs;

namespace Chiton.Core.Tests.Checking;

/// <summary>Rigs and scenes that have something wrong, the same mended, and near misses: what no program shows by itself.</summary>
public class PlantedRigsTests
{
    private sealed record Machine(string Body, Func<RigDesign, RigDesign> Rig, Func<Dictionary<string, SensorCalibration>>? Reads = null);

    private sealed record Planted(string Code, Severity Severity, Machine Bad, Machine Mended, params Machine[] Near);

    private static Quantity Mm(double value) => new(value, "mm", Provenance.Measured, "ruler", 0.5, 0, 0, 0);

    private static string States(string states, string head = "") => $"{head}region Main\n{states}";

    private static RigDesign With(RigDesign rig, string sensor, Func<Sensor, Sensor> change) =>
        rig with
        {
            Sensors = [.. rig.Sensors.Select(s => s.Name == sensor ? change(s) : s)],
        };

    private static RigDesign In(RigDesign rig, params string[] lines) =>
        rig with
        {
            Scenes = [SceneStarts.Made("scene Yard\n\n" + string.Join('\n', lines) + "\n", rig)],
        };

    // The bench of the patterns, with a drive that is known and a body.
    private static RigDesign Body(RigDesign rig, double ahead = 60, double half = 50, double back = 60) =>
        rig with
        {
            Outline = [new(ahead, -half), new(ahead, half), new(-back, half), new(-back, -half)],
            Mechanisms =
            [
                .. rig.Mechanisms.Select(m =>
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
                            Travel = new(
                                new(0, "motor deg", Provenance.Measured, ""),
                                new(900, "motor deg", Provenance.Measured, ""),
                                HomeEnd.From,
                                "Foot switch"
                            ),
                            TipAheadMm = Mm(140),
                            WheelDiameterMm = Mm(30),
                        },
                        "Diverter" => m with { Travel = new(new(0, "deg", Provenance.Chosen, ""), new(120, "deg", Provenance.Chosen, "")) },
                        _ => m,
                    }
                ),
            ],
        };

    private static RigDesign Ranged(RigDesign rig, double ahead, params Band[] bands) =>
        With(
            Body(rig),
            "Range",
            s =>
                s with
                {
                    Mount = new(Mm(ahead), Mm(0), Mm(60), Facing.Ahead),
                    BeamHalfAngleDeg = new(10, "°", Provenance.Measured, "seen"),
                    BlindMm = Mm(30),
                    ReachMm = Mm(2000),
                    SilentReading = 2550,
                    Zones = [.. bands.Select(b => b.Zone)],
                    Bands = [.. bands],
                }
        );

    private static readonly Band[] Bands = [new("close", 40, 120), new("coming", 120, 600), new("open water", 600, 2000)];

    private static Func<RigDesign, RigDesign> RangedAt(double ahead) => rig => Ranged(rig, ahead, Bands);

    private static Func<RigDesign, RigDesign> Scene(Func<RigDesign, RigDesign> rig, params string[] lines) => r => In(rig(r), lines);

    private static RigDesign Clicks(RigDesign rig, double perTurn, double periodMs, string on = "Mast") =>
        Body(rig) with
        {
            Sensors =
            [
                .. rig.Sensors,
                new("Clicks", SensorKind.ClickEncoder, periodMs, 0, ["up", "down"]) { On = on, ClicksPerTurn = perTurn },
            ],
        };

    private static string Near(string then = "  state Over, final\n", string trigger = "when Range becomes close: go Over") =>
        States($"  state Wait, initial\n    {trigger}\n{then}");

    private static string Ahead(string line, string stop, string then) =>
        States(
            $"  state Ahead, initial\n    while here: {line}\n    {stop}: go There\n  state There\n{then}    when all done: go "
                + $"Over\n  state Over, final\n"
        );

    private static readonly string[] Tray =
    [
        "floor 2 m by 2 m",
        "start Drive at (500, 500) facing 0 robot deg",
        "load tray 80 g on Mast, seat 20 mm from the mast",
    ];

    private static string Turns(string speed) =>
        States(
            $"  state Turn, initial\n    on entry: turn robot right 90 robot deg spinning at {speed}\n    when all done: go "
                + $"Over\n  state Over, final\n"
        );

    private static string Search(string speed, int readings = 2) =>
        States(
            $"  state Search, initial\n    while here: turn robot right at {speed}\n    when Range becomes close for {readings} "
                + $"readings: go Over\n"
                + "  state Over, final\n"
        );

    private static readonly string[] Post =
    [
        "floor 2 m by 2 m",
        "start Drive at (500, 500) facing 0 robot deg",
        "thing post round 40 mm at (700, 700), fixed",
    ];

    private static string Runs(string line, string sentence) =>
        States($"  state Go, initial\n    while here: {line}\n    {sentence}: go Over\n    after 9 s: go Over\n  state Over, final\n");

    private static string Swings(int readings, string zone = "coming") =>
        States(
            $"  state Wait, initial\n    when Range becomes {zone} for {readings} readings: go Swing\n  state Swing\n    on "
                + $"entry: set Diverter to 100 deg\n"
                + "    after 2 s: go Over\n  state Over, final\n"
        );

    private static string Comes(double speed) =>
        $"boat comes before Range from 900 mm to 60 mm at {speed} mm/s at 2 s, stays 5 s, leaves at 100 mm/s";

    // The tag eye over three zones: 20, 60 and 100 % give or take 1.
    private static Func<RigDesign, RigDesign> Painted(string reads) =>
        rig =>
            In(
                Body(rig),
                "floor 2 m by 2 m of sleepers",
                "start Drive at (500, 500) facing 0 robot deg",
                $"surface weed reads {reads} on Tag eye"
            );

    private static string Tag(int readings = 1, string zone = "siding tag") =>
        States($"  state Wait, initial\n    when Tag eye becomes {zone} for {readings} readings: go Over\n  state Over, final\n");

    private static readonly string[] Berth =
    [
        "floor 4 m by 4 m",
        "start Drive at (1000, 1000) facing 0 robot deg give or take 5 mm and 1 robot deg",
        "place berth 60 by 60 mm at (1500, 2200)",
        "goal: Drive on berth",
    ];

    private static string Chain(double first, double second, string between = "") =>
        States(
            $"  state Go, initial\n    on entry: drive straight {first} mm at 150 mm/s, then turn robot right 90 robot deg "
                + $"spinning at 20 %, then drive "
                + $"straight {second} mm at 150 mm/s\n    when all done: go Over\n{between}  state Over, final\n"
        );

    private static readonly Planted[] All =
    [
        new(
            "self-seen",
            Severity.Stops,
            // It sits behind the front, and the front edge is 30 mm before it.
            new(Near(), RangedAt(30)),
            new(Near(), RangedAt(60)),
            new(Near(), rig => With(Ranged(rig, 30, Bands), "Range", s => s with { Mount = s.Mount with { Facing = Facing.Up } })),
            new(Near(), rig => Ranged(rig, 30, Bands) with { Outline = [] }),
            new(Near(trigger: "when Left bumper is pressed: go Over"), RangedAt(30))
        ),
        new(
            "zone-gap",
            Severity.Risky,
            new(
                States(
                    "  state Wait, initial\n    when Range becomes close: go Over\n    when Range becomes coming: stay\n  state "
                        + "Over, final\n"
                ),
                rig => Ranged(rig, 60, new("close", 40, 120), new("coming", 200, 600))
            ),
            new(
                States(
                    "  state Wait, initial\n    when Range becomes close: go Over\n    when Range becomes coming: stay\n  state "
                        + "Over, final\n"
                ),
                rig => Ranged(rig, 60, new("close", 40, 200), new("coming", 200, 600))
            ),
            // Overlapped, not used, and a gap between two that nothing asks for.
            new(Near(), rig => Ranged(rig, 60, new("close", 40, 220), new("coming", 200, 600))),
            new(
                Near(trigger: "when Left bumper is pressed: go Over"),
                rig => Ranged(rig, 60, new("close", 40, 120), new("coming", 200, 600))
            ),
            new(Near(), rig => Ranged(rig, 60, new("close", 40, 120), new("coming", 120, 600), new("open water", 700, 2000)))
        ),
        new(
            "zone-overlap",
            Severity.Risky,
            new(
                States("  state Wait, initial\n    when Range is coming: stay\n    when Range is close: go Over\n  state Over, final\n"),
                rig => Ranged(rig, 60, new("close", 40, 220), new("coming", 120, 600))
            ),
            new(
                States("  state Wait, initial\n    when Range is coming: stay\n    when Range is close: go Over\n  state Over, final\n"),
                rig => Ranged(rig, 60, new("close", 40, 120), new("coming", 120, 600))
            ),
            new(Near(), rig => Ranged(rig, 60, new("close", 40, 120), new("coming", 180, 600))),
            new(Near(trigger: "when Range < 80 mm: go Over"), rig => Ranged(rig, 60, new("close", 40, 220), new("coming", 120, 600))),
            new(Near(), rig => Ranged(rig, 60, new("close", 40, 120), new("coming", 120, 600), new("open water", 500, 2000)))
        ),
        new(
            "zone-lookalike",
            Severity.Risky,
            new(Tag(), Painted("61 % give or take 2 %")),
            new(Tag(), Painted("38 % give or take 0.3 %")),
            // The zone of the floor, one that is far off, and one that has readings of its own.
            new(Tag(zone: "sleepers"), Painted("21 % give or take 2 %")),
            new(Tag(zone: "bed tag"), Painted("61 % give or take 2 %")),
            new(
                Tag(),
                rig =>
                    In(
                        Body(rig),
                        "floor 2 m by 2 m of sleepers",
                        "start Drive at (500, 500) facing 0 robot deg",
                        "surface weed reads 61 % on Line eye"
                    )
            )
        ),
        new(
            "clicks-missed",
            Severity.Stops,
            // 8 clicks a turn and a reading every 10 ms: 3.125 turns a second.
            new(Runs("run Mast up at 1300 deg/s", "when Clicks is pressed"), rig => Clicks(rig, 8, 10)),
            new(Runs("run Mast up at 1100 deg/s", "when Clicks is pressed"), rig => Clicks(rig, 8, 10)),
            new(Runs("run Mast up at 1300 deg/s", "when Clicks is pressed"), rig => Clicks(rig, 4, 10)),
            new(Runs("run Mast up at 1300 deg/s", "when Clicks is pressed"), rig => Clicks(rig, 8, 5)),
            new(Runs("run Jaws close at 1300 deg/s", "when Clicks is pressed"), rig => Clicks(rig, 8, 10)),
            new(Runs("run Mast up at 1300 deg/s", "when Foot switch is pressed"), rig => Clicks(rig, 8, 10))
        ),
        new(
            "wrong-way",
            Severity.Stops,
            new(Runs("run Mast up at 30 %", "when Foot switch is down"), rig => Body(rig)),
            new(Runs("run Mast down at 30 %", "when Foot switch is down"), rig => Body(rig)),
            // A switch that ends all of it, from outside.
            new(
                States(
                    "  state Work, initial\n    when Foot switch is pressed: go Over\n    state Step, initial\n"
                        + "      while here: run Mast up at 30 %\n"
                        + "      after 3 s: go Back\n    state Back\n      while here: run Mast down at 30 %\n      after 3 s: go Step\n"
                        + "  state Over, final\n"
                ),
                rig => Body(rig)
            ),
            new(Runs("run Mast up at 30 %", "when Mast stalls"), rig => Body(rig)),
            new(Runs("run Jaws close at 30 %", "when Foot switch is down"), rig => Body(rig)),
            new(Runs("run Mast up at 30 %", "when Foot switch is released"), rig => Body(rig))
        ),
        new(
            "wrong-way",
            Severity.Stops,
            new(Runs("drive back at 100 mm/s", "when Range becomes close"), RangedAt(60)),
            new(Runs("drive straight at 100 mm/s", "when Range becomes close"), RangedAt(60)),
            new(Runs("drive back at 100 mm/s", "when Range becomes open water"), RangedAt(60)),
            new(Runs("drive back at 100 mm/s", "when Left bumper is pressed"), RangedAt(60)),
            new(
                Runs("drive back at 100 mm/s", "when Range becomes close"),
                rig => With(Ranged(rig, -60, Bands), "Range", s => s with { Mount = s.Mount with { Facing = Facing.Back } })
            )
        ),
        new(
            "wrong-way",
            Severity.Stops,
            new(Runs("run Mast down at 30 %", "when angle of Mast > 400 motor deg"), rig => Body(rig)),
            new(Runs("run Mast up at 30 %", "when angle of Mast > 400 motor deg"), rig => Body(rig)),
            new(Runs("run Mast down at 30 %", "when angle of Mast < 400 motor deg"), rig => Body(rig)),
            new(Runs("run Jaws close at 30 %", "when angle of Mast > 400 motor deg"), rig => Body(rig))
        ),
        new(
            "wrong-way",
            Severity.Risky,
            new(Runs("run Mast up at -30 %", "when Start button is pressed"), rig => Body(rig)),
            new(Runs("run Mast up at 30 %", "when Start button is pressed"), rig => Body(rig)),
            new(Runs("run Trolley at -30 %", "when Start button is pressed"), rig => Body(rig)),
            new(Runs("run Mast down at 30 %", "when Start button is pressed"), rig => Body(rig))
        ),
        new(
            "react-late",
            Severity.Risky,
            // 2 × 50 + 40 ms, and 120° at 276°/s: 0.57 s, at 1 m/s more than the 540 mm from 600 to 60.
            new(Swings(2), Scene(RangedAt(60), Comes(1000))),
            new(Swings(2), Scene(RangedAt(60), Comes(300))),
            new(Swings(2, "open water"), Scene(RangedAt(60), Comes(1000))),
            new(Near(), Scene(RangedAt(60), Comes(1000))),
            new(Swings(2), Scene(RangedAt(60), "boat comes before Range from 60 mm to 900 mm at 1000 mm/s at 2 s"))
        ),
        new(
            "turn-clearance",
            Severity.Risky,
            // Its corner is 78 mm from the axis; it touches 60 mm ahead.
            new(
                Ahead(
                    "drive straight at 80 mm/s",
                    "when Left bumper is pressed",
                    "    on entry: turn robot right 90 robot deg spinning at 20 %\n"
                ),
                rig => With(Body(rig), "Left bumper", s => s with { Mount = new(Mm(60), Mm(-20), Mm(20), Facing.Ahead) })
            ),
            new(
                Ahead(
                    "drive straight at 80 mm/s",
                    "when Left bumper is pressed",
                    "    on entry: drive back 25 mm at 80 mm/s, then turn robot right 90 robot deg spinning at 20 %\n"
                ),
                rig => With(Body(rig), "Left bumper", s => s with { Mount = new(Mm(60), Mm(-20), Mm(20), Facing.Ahead) })
            ),
            // A round body, a switch behind, and a stop far enough before it.
            new(
                Ahead(
                    "drive straight at 80 mm/s",
                    "when Left bumper is pressed",
                    "    on entry: turn robot right 90 robot deg spinning at 20 %\n"
                ),
                rig =>
                    With(Body(rig), "Left bumper", s => s with { Mount = new(Mm(60), Mm(0), Mm(20), Facing.Ahead) }) with
                    {
                        Outline =
                        [
                            .. Enumerable
                                .Range(0, 24)
                                .Select(i => new Corner(60 * Math.Cos(i * Math.PI / 12), 60 * Math.Sin(i * Math.PI / 12))),
                        ],
                    }
            ),
            new(
                Ahead(
                    "drive back at 80 mm/s",
                    "when Left bumper is pressed",
                    "    on entry: turn robot right 90 robot deg spinning at 20 %\n"
                ),
                rig => With(Body(rig), "Left bumper", s => s with { Mount = new(Mm(-60), Mm(0), Mm(20), Facing.Back) })
            ),
            new(
                Ahead(
                    "drive straight at 80 mm/s",
                    "when Range becomes close",
                    "    on entry: turn robot right 90 robot deg spinning at 20 %\n"
                ),
                RangedAt(60)
            )
        ),
        new(
            "turn-clearance",
            Severity.Risky,
            new(
                Ahead("drive straight at 200 mm/s", "when Range < 60 mm", "    on entry: turn robot right 90 robot deg spinning at 20 %\n"),
                rig => Ranged(Body(rig), 40, Bands) with { Outline = [new(40, -70), new(40, 70), new(-60, 70), new(-60, -70)] }
            ),
            new(
                Ahead(
                    "drive straight at 200 mm/s",
                    "when Range < 150 mm",
                    "    on entry: turn robot right 90 robot deg spinning at 20 %\n"
                ),
                rig => Ranged(Body(rig), 40, Bands) with { Outline = [new(40, -70), new(40, 70), new(-60, 70), new(-60, -70)] }
            ),
            // Turned a little no corner comes that far.
            new(
                Ahead("drive straight at 200 mm/s", "when Range < 60 mm", "    on entry: turn robot right 5 robot deg spinning at 20 %\n"),
                rig => Ranged(Body(rig), 40, Bands) with { Outline = [new(40, -30), new(40, 30), new(-60, 30), new(-60, -30)] }
            ),
            new(
                Ahead("drive straight at 200 mm/s", "when Range < 60 mm", "    on entry: drive straight 10 mm at 40 mm/s\n"),
                rig => Ranged(Body(rig), 40, Bands)
            )
        ),
        new(
            "sweep-fast",
            Severity.Risky,
            // Half 10° and a post of 40 mm at 120 mm: 39° but for the eye ahead; 4 readings every 50 ms.
            new(Search("300 robot deg/s", 4), Scene(RangedAt(60), Post)),
            new(Search("60 robot deg/s", 4), Scene(RangedAt(60), Post)),
            new(
                Search("300 robot deg/s", 1),
                Scene(rig => With(Ranged(rig, 60, Bands), "Range", s => s with { SamplePeriodMs = 10 }), Post)
            ),
            new(
                States(
                    "  state Search, initial\n    while here: turn robot right at 300 robot deg/s\n    when Left bumper is "
                        + "pressed: go Over\n  state Over, final\n"
                ),
                Scene(RangedAt(60), Post)
            ),
            new(
                States(
                    "  state Search, initial\n    on entry: turn robot right 30 robot deg spinning at 300 robot deg/s\n    when "
                        + "Range becomes close for 4 readings: go Over\n  state Over, final\n"
                ),
                Scene(RangedAt(60), Post)
            )
        ),
        new(
            "load-loose",
            Severity.Risky,
            // Friction 0.4 at 120 mm: 328°/s. At 900 motor deg/s its wheels go 471 mm/s, and it turns 450°/s.
            new(Turns("100 %"), Scene(rig => Body(rig), Tray)),
            new(Turns("40 %"), Scene(rig => Body(rig), Tray)),
            new(Turns("100 %"), Scene(rig => Body(rig), Tray[0], Tray[1])),
            new(
                Turns("100 %"),
                Scene(rig => Body(rig), Tray[0], Tray[1], "load tray 80 g on Mast, seat 20 mm from the mast, friction 1.2")
            ),
            new(Turns("100 %"), Scene(rig => Body(rig), Tray[0], Tray[1], "load tray 80 g on Mast, seat 110 mm from the mast"))
        ),
        new(
            "path-wide",
            Severity.Risky,
            new(Chain(1200, 500), Scene(rig => Body(rig), Berth)),
            new(Chain(1200, 500), Scene(rig => Body(rig), Berth[0], Berth[1], "place berth 600 by 600 mm at (1500, 2200)", Berth[3])),
            // Nothing asks it to come there, a sensor puts it right, and only a thing is to come there.
            new(Chain(1200, 500), Scene(rig => Body(rig), Berth[0], Berth[1], Berth[2])),
            new(
                States(
                    "  state Go, initial\n    while here: drive straight at 150 mm/s\n    when Left bumper is pressed: go Over\n  "
                        + "state Over, final\n"
                ),
                Scene(rig => Body(rig), Berth)
            ),
            new(
                Chain(1200, 500),
                Scene(rig => Body(rig), Berth[0], Berth[1], Berth[2], "thing crate 30 by 30 mm 50 g at (600, 600)", "goal: crate on berth")
            )
        ),
        new(
            "marker-missed",
            Severity.Risky,
            new(
                Runs("drive straight at 500 mm/s", "when Tag eye becomes bed tag for 3 readings"),
                Scene(
                    rig => With(Body(rig), "Tag eye", s => s with { Mount = new(Mm(40), Mm(0), Mm(8)), SpotDiameterMm = Mm(8) }),
                    "floor 2 m by 2 m of sleepers",
                    "patch tag of bed tag 20 by 200 mm at (1000, 800)",
                    "start Drive at (1000, 500) facing 0 robot deg"
                )
            ),
            new(
                Runs("drive straight at 100 mm/s", "when Tag eye becomes bed tag for 3 readings"),
                Scene(
                    rig => With(Body(rig), "Tag eye", s => s with { Mount = new(Mm(40), Mm(0), Mm(8)), SpotDiameterMm = Mm(8) }),
                    "floor 2 m by 2 m of sleepers",
                    "patch tag of bed tag 20 by 200 mm at (1000, 800)",
                    "start Drive at (1000, 500) facing 0 robot deg"
                )
            ),
            new(
                Runs("follow Tag eye at 500 mm/s gain 0.2", "when Tag eye becomes bed tag for 3 readings"),
                Scene(
                    rig => With(Body(rig), "Tag eye", s => s with { Mount = new(Mm(40), Mm(0), Mm(8)), SpotDiameterMm = Mm(8) }),
                    "floor 2 m by 2 m of sleepers",
                    "patch tag of bed tag 20 by 200 mm at (1000, 800)",
                    "start Drive at (1000, 500) facing 0 robot deg"
                )
            ),
            new(Runs("drive straight at 500 mm/s", "when Tag eye becomes bed tag for 3 readings"), rig => Body(rig))
        ),
        new(
            "zone-weak",
            Severity.Risky,
            new(
                States("  state Wait, initial\n    when Low probe becomes wet: go Over\n  state Over, final\n"),
                rig => Body(rig),
                () => Probe(8)
            ),
            new(
                States("  state Wait, initial\n    when Low probe becomes wet: go Over\n  state Over, final\n"),
                rig => Body(rig),
                () => Probe(1)
            ),
            new(
                States("  state Wait, initial\n    when Low probe becomes wet for 40 readings: go Over\n  state Over, final\n"),
                rig => Body(rig),
                () => Probe(4)
            ),
            new(
                States("  state Wait, initial\n    when Left bumper is pressed: go Over\n  state Over, final\n"),
                rig => Body(rig),
                () => Probe(8)
            )
        ),
    ];

    // A probe over two zones 40 apart, whose readings tremble by so much.
    private static Dictionary<string, SensorCalibration> Probe(double sd)
    {
        var read = PlantedTests.Calibrations(PatternTests.Rig);
        var random = new RandomStream(7, 1);
        double[] Around(double mean) => [.. Enumerable.Range(0, 40).Select(_ => Math.Round(mean + sd * random.Normal()))];
        read["Low probe"] = read["Low probe"] with { Zones = [new("dry", Around(300)), new("wet", Around(340))] };
        return read;
    }

    private static CheckInput Of(Machine machine)
    {
        var rig = machine.Rig(PatternTests.Rig) with { Programs = [new("program Bench\n\n" + machine.Body, [])] };
        var program = RigPrograms.Of(rig)[0];
        Assert.True(
            program.Parsed.Diagnostics.Count == 0,
            string.Join('\n', program.Parsed.Diagnostics.Select(d => $"{d.Line}: {d.Message}")) + "\n" + machine.Body
        );
        foreach (var scene in rig.Scenes)
            Assert.Empty(SceneParser.Parse(scene.Text, rig).Diagnostics.Select(d => $"{d.Line}: {d.Message}"));
        return PlantedTests.Input(rig, program, machine.Reads?.Invoke() ?? PlantedTests.Calibrations(rig));
    }

    /// <summary>Each planted machine by its place.</summary>
    public static TheoryData<int, string> Machines => PlantedTests.ByPlace(All.Select(p => p.Code));

    // Nothing of this rig is wired, which is not what is looked for here.
    private static Finding[] Find(CheckInput input) =>
        [.. Catalogue.Find([input]).Where(f => f.Severity != Severity.Holds && !f.Code.StartsWith("wiring-", StringComparison.Ordinal))];

    private static string Said(IEnumerable<Finding> found) =>
        string.Join('\n', found.Select(f => $"{f.Severity} {f.Code} {f.Line}: {f.Headline} | {f.Say}"));

    [Theory]
    [MemberData(nameof(Machines))]
    public void It_is_named_where_it_is_and_nowhere_else(int at, string code)
    {
        var planted = All[at];
        var bad = Find(Of(planted.Bad));
        Assert.True(bad.Any(f => f.Code == code && f.Severity == planted.Severity), $"not found; found\n{Said(bad)}");
        // Nothing else is above advice, or it is more that was planted.
        Assert.True(bad.All(f => f.Code == code || f.Severity == Severity.Advice), $"more than was planted\n{Said(bad)}");
        Assert.All(
            bad.Where(f => f.Code == code),
            f => Assert.True(f.Headline.Length < 90 && f.Say.EndsWith('.') && !f.Say.Contains("NaN", StringComparison.Ordinal), f.Say)
        );
        var mended = Find(Of(planted.Mended));
        Assert.True(mended.All(f => f.Code != code), $"still there when mended\n{Said(mended)}");
        for (var i = 0; i < planted.Near.Length; i++)
        {
            var near = Find(Of(planted.Near[i]));
            Assert.True(near.All(f => f.Code != code), $"near miss {i} has it\n{Said(near)}\n{planted.Near[i].Body}");
        }
    }

    [Theory]
    [MemberData(nameof(Machines))]
    public void Its_cure_takes_it_away_and_changes_its_lines_alone(int at, string code)
    {
        var bad = All[at].Bad;
        foreach (var finding in Find(Of(bad)).Where(f => f.Code == code && f.Cure is not null))
        {
            var lines = ("program Bench\n\n" + bad.Body).Split('\n');
            foreach (var edit in finding.Cure!.Edits)
            {
                var old = lines[edit.Line - 1];
                lines[edit.Line - 1] = old[..(old.Length - old.TrimStart().Length)] + edit.Text;
                Assert.NotEqual(old, lines[edit.Line - 1]);
            }
            var cured = Find(Of(bad with { Body = string.Join('\n', lines[2..]) }));
            Assert.DoesNotContain(cured, f => f.Code == code && f.Severity <= finding.Severity);
            Assert.True(cured.All(f => f.Severity == Severity.Advice), $"it brings something worse\n{Said(cured)}");
        }
    }
}
