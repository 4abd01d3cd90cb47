using Chiton.Core.Motion;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;
using Chiton.Core.Simulation;

namespace Chiton.Data.Demo;

/// <summary>A copy of a demo rig.</summary>
/// <param name="Number">Copy number.</param>
/// <param name="Team">Team.</param>
/// <param name="Sent">True when its controller holds the first revision.</param>
/// <param name="Motion">How it moves; null while nothing is known.</param>
/// <param name="Truth">What its sensors really see. Nobody is told.</param>
/// <param name="Calibrations">What was recorded on it.</param>
public sealed record DemoCopy(
    int Number,
    string Team,
    bool Sent,
    RailMotion? Motion,
    IReadOnlyDictionary<string, SeenSurface> Truth,
    IReadOnlyList<FileCalibration> Calibrations
)
{
    /// <summary>Real, or a stand-in.</summary>
    public UnitKind Kind { get; init; } = UnitKind.StandIn;

    /// <summary>What the thing itself is called; null where it has no name.</summary>
    public string? Unit { get; init; }

    /// <summary>What it comes with besides its file.</summary>
    public NewCopy With => new(Truth, Sent);
}

/// <summary>A demo rig with its copies.</summary>
public sealed record DemoRig(string Id, RigDesign Design, IReadOnlyList<DemoCopy> Copies)
{
    /// <summary>What happened on the table; null for nothing.</summary>
    public FileLog? Log { get; init; }
}

/// <summary>
/// The Saltmarsh Oyster Farm: nine rigs that a school builds to model a small oyster farm on a tidal creek. All of it is
/// made up. Some have faults on purpose, so that the judgement has something to find: a fragile pair of zones (Rack
/// hoist), a lead at a port that cannot serve it (Buoy picker), a supply that is too weak (Header tank), a signal too
/// high for its pin (Lock keeper), a stale calibration (Berthing lights) and a copy that deviates (Deck scrubber).
/// </summary>
public static class Farm
{
    private const string Place = "Saltmarsh Oyster Farm";

    private static readonly (string Id, Func<DateTime, DemoRig> Make)[] Rigs =
    [
        ("seed-trolley", Trolley),
        ("rack-hoist", Hoist),
        ("shell-sorter", Sorter),
        ("buoy-picker", Picker),
        ("header-tank", Tank),
        ("berthing-lights", Lights),
        ("deck-scrubber", Scrubber),
        ("buoy-line-rover", Rover),
        ("lock-keeper", Lock),
    ];

    /// <summary>All nine.</summary>
    /// <param name="now">The time from which the ages of their recordings count back, UTC.</param>
    public static IReadOnlyList<DemoRig> All(DateTime now) => [.. Missing(now, new HashSet<string>())];

    /// <summary>Those that are not there yet; the others are not even made.</summary>
    /// <param name="now">The time from which the ages of their recordings count back, UTC.</param>
    /// <param name="there">Addresses of the rigs that are there.</param>
    public static IEnumerable<DemoRig> Missing(DateTime now, IReadOnlySet<string> there) =>
        Rigs.Where(r => !there.Contains(r.Id))
            .Select(r => r.Make(now))
            .Select(r =>
                r with
                {
                    Design = Scenes.With(r.Design),
                    Log = r.Log is { } log
                        ? log with
                        {
                            Earlier = [.. (log.Earlier ?? []).Select(e => e with { Design = Scenes.With(e.Design!) })],
                        }
                        : null,
                }
            );

    // ---- helpers ----

    private static Quantity Measured(double value, string unit, string source, double meanSd, double moveSd = 0, double min = 0) =>
        new(value, unit, Provenance.Measured, source, meanSd, moveSd, 0, min);

    private static Quantity Guessed(double value, string unit, double span, double min = 0) =>
        new(value, unit, Provenance.Guessed, "typed in, never tested", 0, 0, span, min);

    private static Quantity Chosen(double value, string unit) => new(value, unit, Provenance.Chosen, "chosen");

    private static Quantity Ruler(double mm) => Measured(mm, "mm", "ruler", 0.5, 0, -1000);

    private static Mount At(double ahead, double right, double height, Facing facing = Facing.Down) =>
        new(Ruler(ahead), Ruler(right), Measured(height, "mm", "ruler", 0.5), facing);

    private static Sensor Eye(string name, Mount mount, Sequence<string> zones, double spot = 8) =>
        new(name, SensorKind.ReflectedLight, 10, 1, zones)
        {
            Lamp = OwnLamp.On,
            Mount = mount,
            SpotDiameterMm = Measured(spot, "mm", "seen on paper at mounting height", 0.3, 0, 1),
        };

    private static Sensor Switch(string name, string on, SensorKind kind = SensorKind.Touch) =>
        new(name, kind, 10, 0, ["up", "down"]) { On = on };

    private static Actuator Motor(string name) => new(name, ActuatorKind.RegulatedMotor);

    /// <summary>Runs every lead to a port that serves it; what is wired by hand stays.</summary>
    private static RigDesign Wired(RigDesign rig, params Wire[] byHand) =>
        rig with
        {
            Wires = PortAssignment.Assign(rig.Controllers.ToArray(), rig.Plugs, byHand, rig.Links.ToArray()).Wires.ToSequence(),
            Programs = Scripts.Placed(rig.Name),
            Walks = Scripts.WalksOf(rig.Name),
        };

    private static PowerDevice Draws(
        string name,
        double idle,
        double active,
        double stall,
        double duty,
        string by,
        double minV = 4,
        double maxV = 9
    ) => new(name, 1, minV, maxV, idle, active, stall, duty, by);

    /// <summary>What is recorded on a copy.</summary>
    private sealed class Recorder(RigDesign rig, int copy, string team, DateTime now, string conditions)
    {
        public Dictionary<string, SeenSurface> Truth { get; } = [];
        public List<FileCalibration> Calibrations { get; } = [];

        /// <summary>Records a sensor over things of this copy: each becomes a zone's readings and part of what the simulated bench
        /// knows.</summary>
        public Recorder Take(
            string sensor,
            int count,
            double daysAgo,
            School school,
            params (string Zone, SeenSurface Thing, double Amount)[] zones
        )
        {
            var s = rig.Sensors.First(x => x.Name == sensor);
            var recordings = new List<FileRecording>();
            foreach (var (zone, thing, amount) in zones)
            {
                Truth[$"{sensor}/{zone}"] = thing with { Mean = thing.Mean + thing.PerAmount * amount, PerAmount = 0 };
                var held = new SimulatedSensor(
                    s,
                    new(zone, thing.Mean, thing.Sd, thing.Rgb, thing.PerAmount, thing.Lag1, thing.Silent, thing.DriftPerMinute, thing.Taps),
                    amount,
                    BenchCare.AsItIs,
                    new((ulong)(copy + 10), (uint)(SampleBench.Seed(rig.Name, sensor, zone) % 100_000))
                );
                var readings = new List<double>();
                var one = new double[held.Width];
                while (readings.Count < count * held.Width)
                {
                    held.Read(one);
                    if (!double.IsNaN(one[0]))
                        readings.AddRange(one);
                }
                recordings.Add(new(zone, readings, now.AddDays(-daysAgo), team, conditions, s.About, s.ProbeSupplyV));
            }
            Calibrations.Add(new(sensor, school, 1, 1, recordings));
            return this;
        }

        /// <summary>Positions found by hand, three times each.</summary>
        public Recorder Positions(string mechanism, double daysAgo, params (string Position, double Angle, double Sd)[] positions)
        {
            var noise = new RandomStream((ulong)(copy + 50), (uint)(SampleBench.Seed(rig.Name, mechanism) % 100_000));
            var recordings = new List<FileRecording>();
            foreach (var (position, angle, sd) in positions)
                recordings.Add(
                    new(
                        position,
                        [.. Enumerable.Range(0, 3).Select(_ => Math.Round(angle + sd * noise.Normal()))],
                        now.AddDays(-daysAgo),
                        team,
                        "moved by hand"
                    )
                );
            Calibrations.Add(new(mechanism, School.EqualRisk, 1, 1, recordings));
            return this;
        }

        public DemoCopy Done(bool sent = false) => new(copy, team, sent, null, Truth, Calibrations);
    }

    private static SeenSurface Light(double mean, double sd, double lag1 = 0) => new(mean, sd, Lag1: lag1);

    private static (string, SeenSurface, double) Zone(string name, SeenSurface thing, double amount = 0) => (name, thing, amount);

    private static readonly SeenSurface Free = new(0, 0),
        Pressed = new(1, 0);

    private static (string, SeenSurface, double)[] UpDown => [Zone("up", Free), Zone("down", Pressed)];

    // ---- the rigs ----

    private static DemoRig Trolley(DateTime now)
    {
        DemoCopy Copy(int number, string team, RailMotion motion, string? onTable = null)
        {
            var calibration = SeedTrolley.Calibration(number);
            var real = onTable is not null;
            return new(
                number,
                team,
                number == 1,
                motion,
                // Of what stands on a table nobody knows more than was measured there.
                real
                    ? new Dictionary<string, SeenSurface>()
                    : SeedTrolley.Truth(number).ToDictionary(t => $"Tag eye/{t.Key}", t => new SeenSurface(t.Value.Mean, t.Value.Sd)),
                [
                    new(
                        "Tag eye",
                        calibration.School,
                        1,
                        1,
                        [
                            .. calibration.Zones.Select(z => new FileRecording(
                                z.Zone,
                                z.Readings,
                                now,
                                team,
                                "boat shed, grey morning",
                                "reflected light, own lamp on"
                            )
                            {
                                Origin = real ? ReadingOrigin.Pasted : ReadingOrigin.Recorded,
                            }),
                        ]
                    ),
                    new(
                        "Hopper flap",
                        School.EqualRisk,
                        1,
                        1,
                        [
                            new("level", [4, 5, 4], now, team, "servo set by hand"),
                            new("tipped", [88, 90, 89], now, team, "servo set by hand"),
                        ]
                    ),
                ]
            )
            {
                Kind = real ? UnitKind.Real : UnitKind.StandIn,
                Unit = onTable,
            };
        }
        return new(
            SeedTrolley.Id,
            SeedTrolley.Design,
            [
                Copy(1, "Limpets", SeedTrolley.Motion(785, 2200, true)),
                Copy(2, "Winkles", SeedTrolley.Motion(742, 2200, false)),
                Copy(3, "Cockles", SeedTrolley.Motion(771, 2150, true), "the one with blue tape"),
            ]
        )
        {
            Log = TrolleyLog.Of(now),
        };
    }

    private static DemoRig Hoist(DateTime now)
    {
        var rig = Wired(
            new(
                "Rack hoist",
                Place,
                [ControllerTemplates.Make("six sockets", "Shed box")],
                [
                    Eye("Shelf eye", At(6, 0, 7, Facing.Left), ["mast paint", "notch"], 6),
                    Switch("Foot switch", "Mast"),
                    new("Order knob", SensorKind.Button, 10, 0, ["up", "down"]) { Connection = Connection.BuiltIn },
                ],
                [Motor("Mast motor"), Motor("Tongue motor"), new("Lamp", ActuatorKind.Lamp)]
            )
            {
                Mechanisms =
                [
                    new("Mast", MechanismKind.Lift, ["Mast motor"])
                    {
                        Travel = new(
                            Measured(0, "motor deg", "against the foot switch", 2, 3, -1e6),
                            Measured(1640, "motor deg", "moved by hand to the stop", 6, 8),
                            HomeEnd.From,
                            "Foot switch",
                            PastEnd.ComesApart,
                            "a tray that sits crooked on the tongue"
                        ),
                        Positions = ["bottom", "low shelf", "high shelf"],
                        Directions = [new("up", true), new("down", false)],
                        MotorTurnsPerTurn = Chosen(3, ""),
                        WheelDiameterMm = Measured(24, "mm", "caliper", 0.1, 0, 1),
                    },
                    new("Tongue", MechanismKind.ArmJoint, ["Tongue motor"])
                    {
                        Travel = new(Guessed(0, "motor deg", 30, -1e6), Measured(330, "motor deg", "moved by hand to the stop", 4, 6)),
                        Positions = ["in", "out"],
                        Directions = [new("out", true), new("in", false)],
                        TipAheadMm = Ruler(95),
                    },
                ],
                Starts =
                [
                    new("Rack hoist", Chosen(0, "mm")),
                    new("tray", Measured(12, "mm", "8 placements by hand", 0.8, 2.2, -100), Side: "handles towards the mast"),
                ],
                Power = new(
                    6,
                    1.2,
                    2000,
                    2500,
                    110,
                    1500,
                    7.2,
                    [
                        Draws("Shelf eye", 8, 20, 20, 1, "controller"),
                        Draws("Foot switch", 0, 1, 1, 1, "controller"),
                        Draws("Mast motor", 10, 260, 900, 0.4, "controller"),
                        Draws("Tongue motor", 10, 140, 520, 0.2, "controller"),
                        Draws("Lamp", 0, 45, 45, 0.2, "controller"),
                    ]
                ),
            }
        );
        return new(
            "rack-hoist",
            rig,
            [
                new Recorder(rig, 1, "Barnacles", now, "boat shed, strip lamp on")
                    .Take("Shelf eye", 30, 2, School.EqualRisk, Zone("mast paint", Light(33, 3.4)), Zone("notch", Light(47, 4.2)))
                    .Take("Foot switch", 60, 2, School.EqualRisk, UpDown)
                    .Positions("Mast", 2, ("bottom", 4, 3), ("low shelf", 620, 5), ("high shelf", 1310, 6))
                    .Positions("Tongue", 2, ("in", 2, 2), ("out", 310, 4))
                    .Done(true),
            ]
        );
    }

    private static DemoRig Sorter(DateTime now)
    {
        var rig = Wired(
            new(
                "Shell sorter",
                Place,
                [ControllerTemplates.Make("four and four", "Belt box")],
                [
                    new("Shell eye", SensorKind.Colour, 20, 1, ["belt", "white shell", "dark mussel", "pink scallop", "hand"])
                    {
                        Lamp = OwnLamp.On,
                        Mount = At(0, 0, 18),
                        SpotDiameterMm = Measured(12, "mm", "seen on paper at mounting height", 0.4, 0, 1),
                    },
                    new("Belt gate", SensorKind.LightGate, 5, 0, ["up", "down"]) { Mount = At(140, 0, 12, Facing.Right), On = "Belt" },
                    new("Jam bumper", SensorKind.Touch, 10, 0, ["up", "down"]) { On = "Belt" },
                ],
                [
                    Motor("Belt motor"),
                    new("Diverter", ActuatorKind.Servo),
                    new("Beacon", ActuatorKind.Lamp),
                    new("Horn", ActuatorKind.Sounder) { Connection = Connection.BuiltIn },
                ]
            )
            {
                Mechanisms =
                [
                    new("Belt", MechanismKind.Belt, ["Belt motor"])
                    {
                        WheelDiameterMm = Measured(28, "mm", "caliper", 0.1, 0, 1),
                        MotorTurnsPerTurn = Chosen(1, ""),
                        Directions = [new("on", true), new("back", false)],
                    },
                    new("Diverter arm", MechanismKind.Lid, ["Diverter"])
                    {
                        Travel = new(Chosen(0, "deg"), Chosen(180, "deg"), JamRisk: "a shell caught between arm and wall"),
                        Positions = ["left bin", "middle bin", "right bin"],
                    },
                ],
                Starts = [new("Shell sorter", Chosen(0, "mm")), new("shell", Guessed(30, "mm", 40, -100) with { MoveSd = 12 })],
                Power = new(
                    4,
                    1.5,
                    2400,
                    2000,
                    100,
                    1800,
                    6,
                    [
                        Draws("Shell eye", 12, 30, 30, 1, "controller"),
                        Draws("Belt gate", 6, 14, 14, 1, "controller"),
                        Draws("Jam bumper", 0, 1, 1, 1, "controller"),
                        Draws("Belt motor", 10, 210, 800, 0.8, "controller"),
                        Draws("Diverter", 8, 160, 420, 0.1, "controller"),
                        Draws("Beacon", 0, 50, 50, 0.1, "controller"),
                        Draws("Horn", 0, 30, 30, 0.02, "controller"),
                    ]
                ),
            }
        );
        SeenSurface Rgb(double r, double g, double b, double sd) => new(0, sd, [r, g, b]);
        return new(
            "shell-sorter",
            rig,
            [
                new Recorder(rig, 1, "Cockles", now, "class room, blinds down")
                    .Take(
                        "Shell eye",
                        24,
                        1,
                        School.EqualRisk,
                        Zone("belt", Rgb(60, 63, 66, 5)),
                        Zone("white shell", Rgb(204, 198, 187, 7)),
                        Zone("dark mussel", Rgb(48, 47, 70, 5)),
                        Zone("pink scallop", Rgb(186, 112, 122, 8)),
                        Zone("hand", Rgb(176, 127, 106, 10))
                    )
                    .Take("Belt gate", 80, 1, School.EqualRisk, UpDown)
                    .Take("Jam bumper", 60, 1, School.EqualRisk, UpDown)
                    .Positions("Diverter arm", 1, ("left bin", 35, 1), ("middle bin", 92, 1), ("right bin", 148, 1))
                    .Done(),
            ]
        );
    }

    private static DemoRig Picker(DateTime now)
    {
        var rig = Wired(
            new(
                "Buoy picker",
                Place,
                [ControllerTemplates.Make("four and four", "Boom box")],
                [
                    new("Grip force", SensorKind.Force, 10, 0.1, ["loose", "held", "crushing"]) { On = "Jaws" },
                    Switch("Swing end", "Boom"),
                    new("Reach", SensorKind.Distance, 30, 1, ["at the buoy", "beyond"])
                    {
                        Principle = RangePrinciple.Optical,
                        Mount = At(72, 0, 85, Facing.Ahead),
                        BeamHalfAngleDeg = Measured(6, "°", "a card moved sideways", 0.5),
                        BlindMm = Measured(25, "mm", "a card moved closer", 1.5),
                        ReachMm = Measured(900, "mm", "a card moved away", 20, 0, 1),
                        SilentReading = 2000,
                        SilenceIs = "beyond",
                        DelayMs = 8,
                        Bands = [new("at the buoy", 30, 90), new("beyond", 90, 900)],
                    },
                ],
                [
                    Motor("Boom motor"),
                    Motor("Winch motor"),
                    Motor("Jaw motor"),
                    new("Lamp", ActuatorKind.Lamp) { Connection = Connection.BuiltIn },
                ]
            )
            {
                Mechanisms =
                [
                    new("Boom", MechanismKind.ArmJoint, ["Boom motor"])
                    {
                        Travel = new(
                            Measured(0, "motor deg", "against the end switch", 2, 3, -1e6),
                            Guessed(540, "motor deg", 120),
                            HomeEnd.From,
                            "Swing end"
                        ),
                        Positions = ["over water", "over deck"],
                        Directions = [new("to deck", true), new("to water", false)],
                        MotorTurnsPerTurn = Chosen(5, ""),
                    },
                    new("Winch", MechanismKind.Lift, ["Winch motor"])
                    {
                        Travel = new(
                            Guessed(0, "motor deg", 40, -1e6),
                            Guessed(900, "motor deg", 200),
                            PastEnd: PastEnd.ComesApart,
                            JamRisk: "a line that crosses itself on the drum"
                        ),
                        Positions = ["up", "down"],
                        Directions = [new("up", true), new("down", false)],
                        WheelDiameterMm = Ruler(20),
                    },
                    new("Jaws", MechanismKind.Gripper, ["Jaw motor"])
                    {
                        Travel = new(
                            Measured(0, "motor deg", "moved by hand", 3, 4, -1e6),
                            Measured(185, "motor deg", "moved by hand", 3, 4),
                            PastEnd: PastEnd.OverCentre,
                            OverCentre: Measured(162, "motor deg", "moved by hand", 3)
                        ),
                        Positions = ["open", "closed"],
                        Directions = [new("close", true), new("open", false)],
                        TipAheadMm = Ruler(118),
                    },
                ],
                Outline = [new(70, -55), new(70, 55), new(-90, 55), new(-90, -55)],
                Starts =
                [
                    new("Buoy picker", Chosen(0, "mm")),
                    new(
                        "buoy",
                        Measured(210, "mm", "6 placements by hand", 2.5, 6, -1000),
                        Measured(0, "mm", "6 placements by hand", 2, 5, -1000)
                    ),
                ],
                Power = new(
                    6,
                    1.5,
                    2400,
                    3000,
                    100,
                    2400,
                    9,
                    [
                        Draws("Grip force", 5, 12, 12, 1, "controller"),
                        Draws("Swing end", 0, 1, 1, 1, "controller"),
                        Draws("Reach", 10, 24, 24, 1, "controller"),
                        Draws("Boom motor", 10, 250, 900, 0.2, "controller"),
                        Draws("Winch motor", 10, 300, 1000, 0.2, "controller"),
                        Draws("Jaw motor", 10, 150, 620, 0.2, "controller"),
                        Draws("Lamp", 0, 20, 20, 0.3, "controller"),
                    ]
                ),
            },
            // On purpose: a motor socket cannot read a switch.
            new Wire("Swing end", "signal", "Boom box", "motor 4")
        );
        return new(
            "buoy-picker",
            rig,
            [
                new Recorder(rig, 1, "Whelks", now, "boat shed, afternoon")
                    .Take(
                        "Grip force",
                        40,
                        3,
                        School.EqualRisk,
                        Zone("loose", new(0.1, 0.08)),
                        Zone("held", new(3.4, 0.35)),
                        Zone("crushing", new(9.2, 0.6))
                    )
                    .Take("Swing end", 50, 3, School.EqualRisk, UpDown)
                    .Take(
                        "Reach",
                        40,
                        3,
                        School.EqualRisk,
                        Zone("at the buoy", new(0, 2.2, PerAmount: 1), 62),
                        Zone("beyond", new(0, 3, PerAmount: 1), 240)
                    )
                    .Positions("Boom", 3, ("over water", 3, 2), ("over deck", 505, 7))
                    .Positions("Winch", 3, ("up", 20, 4), ("down", 820, 5))
                    .Positions("Jaws", 3, ("open", 4, 3), ("closed", 151, 4))
                    .Done(),
            ]
        );
    }

    private static DemoRig Tank(DateTime now)
    {
        Sensor Probe(string name, double height) =>
            new(name, SensorKind.Probe, 100, 1, ["dry", "wet"])
            {
                Connection = Connection.Pins,
                SupplyMinV = 3,
                SupplyMaxV = 5.5,
                ProbeSupplyV = 5,
                Mount = At(0, 0, height, Facing.Down),
            };
        var board = ControllerTemplates.Make("pin board", "Tank board");
        var rig = Wired(
            new(
                "Header tank",
                Place,
                [
                    board,
                    ControllerTemplates.Make("strip", "Rails"),
                    ControllerTemplates.Make("strip", "Pump rails"),
                    ControllerTemplates.Make("pack", "Pump pack"),
                ],
                [
                    Probe("Low probe", 40),
                    Probe("High probe", 110),
                    new("Silence button", SensorKind.Touch, 10, 0, ["up", "down"])
                    {
                        Connection = Connection.Pins,
                        SignalV = 5,
                        SupplyMinV = 3,
                        SupplyMaxV = 5.5,
                    },
                ],
                [
                    new("Pump", ActuatorKind.PlainMotor)
                    {
                        Connection = Connection.Pins,
                        SupplyMinV = 4.5,
                        SupplyMaxV = 9,
                        NeedsHighV = 2.5,
                        Note = "through a driver board",
                    },
                    new("Drain", ActuatorKind.Servo)
                    {
                        Connection = Connection.Pins,
                        SupplyMinV = 4.8,
                        SupplyMaxV = 6.2,
                        NeedsHighV = 2.5,
                    },
                    new("Alarm", ActuatorKind.Sounder)
                    {
                        Connection = Connection.Pins,
                        SupplyMinV = 3,
                        SupplyMaxV = 5.5,
                    },
                    new("Warning lamp", ActuatorKind.Lamp)
                    {
                        Connection = Connection.Pins,
                        SupplyMinV = 3,
                        SupplyMaxV = 5.5,
                    },
                ]
            )
            {
                Links =
                [
                    new("Tank board", "5 V", "Rails", "plus rail"),
                    new("Tank board", "ground", "Rails", "minus rail"),
                    new("Pump pack", "plus", "Pump rails", "plus rail"),
                    new("Pump pack", "minus", "Pump rails", "minus rail"),
                    new("Pump rails", "minus rail", "Rails", "minus rail"),
                ],
                LeadsAtHand =
                [
                    new(LeadEnd.Plug, LeadEnd.Socket, 20),
                    new(LeadEnd.Plug, LeadEnd.Plug, 6),
                    new(LeadEnd.Bare, LeadEnd.Plug, 2),
                ],
                Mechanisms =
                [
                    new("Drain flap", MechanismKind.Lid, ["Drain"])
                    {
                        Travel = new(Chosen(0, "deg"), Chosen(120, "deg"), JamRisk: "weed in the hinge"),
                        Positions = ["shut", "open"],
                    },
                ],
                Starts = [new("Header tank", Chosen(0, "mm"))],
                // On purpose: the pump at its start draws more than the pack may give.
                Power = new(
                    4,
                    1.5,
                    1800,
                    900,
                    60,
                    400,
                    5,
                    [
                        Draws("Low probe", 1, 5, 5, 1, "controller", 3, 5.5),
                        Draws("High probe", 1, 5, 5, 1, "controller", 3, 5.5),
                        Draws("Silence button", 0, 1, 1, 1, "controller", 3, 5.5),
                        Draws("Pump", 0, 420, 1300, 0.4, "pack", 4.5, 9),
                        Draws("Drain", 8, 180, 600, 0.05, "pack", 4.8, 6.2),
                        Draws("Alarm", 0, 30, 30, 0.1, "controller", 3, 5.5),
                        Draws("Warning lamp", 0, 20, 20, 0.2, "controller", 3, 5.5),
                    ]
                ),
            }
        );
        return new(
            "header-tank",
            rig,
            [
                new Recorder(rig, 1, "Mussels", now, "by the sink, tank half full")
                    .Take("Low probe", 40, 4, School.EqualRisk, Zone("dry", new(150, 9)), Zone("wet", new(612, 34, Lag1: 0.6)))
                    .Take("High probe", 40, 4, School.EqualRisk, Zone("dry", new(158, 11)), Zone("wet", new(590, 41, Lag1: 0.6)))
                    .Take("Silence button", 60, 4, School.EqualRisk, UpDown)
                    .Positions("Drain flap", 4, ("shut", 6, 1), ("open", 96, 1))
                    .Done(),
            ]
        );
    }

    private static DemoRig Lights(DateTime now)
    {
        var rig = Wired(
            new(
                "Berthing lights",
                Place,
                [ControllerTemplates.Make("six sockets", "Quay box")],
                [
                    new("Berth range", SensorKind.Distance, 40, 1, ["touching", "close", "coming", "open water"])
                    {
                        Mount = At(0, 0, 60, Facing.Ahead),
                        BeamHalfAngleDeg = Measured(14, "°", "a board moved sideways", 1),
                        BlindMm = Measured(40, "mm", "a board moved closer", 2),
                        ReachMm = Guessed(1800, "mm", 600, 100),
                        SilentReading = 0,
                        DelayMs = 10,
                        Bands = [new("touching", 30, 70), new("close", 70, 250), new("coming", 260, 700), new("open water", 700, 1800)],
                    },
                ],
                [
                    new("Red lamp", ActuatorKind.Lamp),
                    new("Amber lamp", ActuatorKind.Lamp),
                    new("Green lamp", ActuatorKind.Lamp),
                    new("Fog horn", ActuatorKind.Sounder),
                ]
            )
            {
                Starts = [new("Berthing lights", Chosen(0, "mm")), new("boat", Guessed(1500, "mm", 400, 0) with { MoveSd = 60 })],
                Power = new(
                    4,
                    1.5,
                    2400,
                    1500,
                    100,
                    800,
                    6,
                    [
                        Draws("Berth range", 8, 22, 22, 1, "controller"),
                        Draws("Red lamp", 0, 60, 60, 0.3, "controller"),
                        Draws("Amber lamp", 0, 60, 60, 0.3, "controller"),
                        Draws("Green lamp", 0, 60, 60, 0.3, "controller"),
                        Draws("Fog horn", 0, 40, 40, 0.1, "controller"),
                    ]
                ),
            }
        );
        SeenSurface Board(double sd, double silent) => new(0, sd, PerAmount: 1, Silent: silent);
        // On purpose: taken seven weeks ago.
        return new(
            "berthing-lights",
            rig,
            [
                new Recorder(rig, 1, "Shrimps", now, "quay model, window open")
                    .Take(
                        "Berth range",
                        40,
                        49,
                        School.EqualRisk,
                        Zone("touching", Board(3, 0), 52),
                        Zone("close", Board(3, 0.02), 160),
                        Zone("coming", Board(5, 0.05), 480),
                        Zone("open water", Board(9, 0.12), 1200)
                    )
                    .Done(),
            ]
        );
    }

    private static DemoRig Scrubber(DateTime now)
    {
        var rig = Wired(
            new(
                "Deck scrubber",
                Place,
                [ControllerTemplates.Make("six sockets", "Scrub box")],
                [
                    Eye("Left edge eye", At(58, -62, 8), ["deck", "drop"]),
                    Eye("Right edge eye", At(58, 62, 8), ["deck", "drop"]),
                    Switch("Bumper", "Drive"),
                ],
                [Motor("Left wheel"), Motor("Right wheel") with { Reversed = true }, new("Brush", ActuatorKind.PlainMotor)]
            )
            {
                Mechanisms =
                [
                    new("Drive", MechanismKind.TwoWheelDrive, ["Left wheel", "Right wheel"])
                    {
                        WheelDiameterMm = Measured(56.4, "mm", "10 turns along a tape", 0.15, 0, 1),
                        TrackWidthMm = Guessed(118, "mm", 14, 1),
                        MotorTurnsPerTurn = Chosen(1, ""),
                        TipAheadMm = Ruler(42),
                    },
                    new("Scrubbing brush", MechanismKind.Crank, ["Brush"]) { Travel = null },
                ],
                Outline = [new(70, -72), new(70, 72), new(-60, 72), new(-60, -72)],
                Starts =
                [
                    new(
                        "Deck scrubber",
                        Measured(60, "mm", "10 placements by hand", 1.2, 3.5, -1000),
                        Measured(0, "mm", "10 placements by hand", 1, 3, -1000),
                        Measured(0, "°", "10 placements by hand", 0.4, 1.3, -90),
                        "deck side of the rope"
                    ),
                ],
                Power = new(
                    6,
                    1.2,
                    2200,
                    3000,
                    120,
                    2600,
                    7.2,
                    [
                        Draws("Left edge eye", 8, 20, 20, 1, "controller"),
                        Draws("Right edge eye", 8, 20, 20, 1, "controller"),
                        Draws("Bumper", 0, 1, 1, 1, "controller"),
                        Draws("Left wheel", 10, 240, 850, 0.7, "controller"),
                        Draws("Right wheel", 10, 240, 850, 0.7, "controller"),
                        Draws("Brush", 0, 180, 600, 0.8, "controller"),
                    ]
                ),
            }
        );
        DemoCopy Copy(int number, string team, double left) =>
            new Recorder(rig, number, team, now, "raised deck, hall lamps")
                .Take("Left edge eye", 30, 1, School.EqualRisk, Zone("deck", Light(left, 2.1)), Zone("drop", Light(5, 1.1)))
                .Take("Right edge eye", 30, 1, School.EqualRisk, Zone("deck", Light(46 + number * 0.3, 2.0)), Zone("drop", Light(5.5, 1.2)))
                .Take("Bumper", 50, 1, School.EqualRisk, UpDown)
                .Done(number == 1);
        // On purpose: the left eye of copy 3 sees much less than those of the others.
        return new("deck-scrubber", rig, [Copy(1, "Crabs", 46.5), Copy(2, "Prawns", 47), Copy(3, "Gobies", 31)]);
    }

    private static DemoRig Rover(DateTime now)
    {
        var rig = Wired(
            new(
                "Buoy-line rover",
                Place,
                [ControllerTemplates.Make("six sockets", "Rover box")],
                [
                    Eye("Line eye", At(52, 0, 9), ["line", "edge of line", "sand"], 10),
                    new("Room light", SensorKind.AmbientLight, 50, 1, ["shade", "lit"])
                    {
                        Lamp = OwnLamp.Off,
                        Mount = At(0, 0, 90, Facing.Up),
                    },
                    new("Start button", SensorKind.Button, 10, 0, ["up", "down"]) { Connection = Connection.BuiltIn },
                ],
                [
                    Motor("Left wheel"),
                    Motor("Right wheel") with
                    {
                        Reversed = true,
                    },
                    new("Buzzer", ActuatorKind.Sounder) { Connection = Connection.BuiltIn },
                ]
            )
            {
                Mechanisms =
                [
                    new("Drive", MechanismKind.TwoWheelDrive, ["Left wheel", "Right wheel"])
                    {
                        WheelDiameterMm = Measured(62.4, "mm", "10 turns along a tape", 0.2, 0, 1),
                        TrackWidthMm = Measured(118, "mm", "closed square both ways round", 0.9, 0, 1),
                        MotorTurnsPerTurn = Chosen(1, ""),
                    },
                ],
                Outline = [new(68, -65), new(68, 65), new(-52, 65), new(-52, -65)],
                Starts =
                [
                    new(
                        "Buoy-line rover",
                        Measured(0, "mm", "8 placements by hand", 1, 4, -1000),
                        Measured(6, "mm", "8 placements by hand", 0.8, 2.5, -1000),
                        Measured(0, "°", "8 placements by hand", 0.5, 1.8, -90),
                        "right of the painted line"
                    ),
                ],
                Power = new(
                    6,
                    1.2,
                    2200,
                    3000,
                    120,
                    2600,
                    7.2,
                    [
                        Draws("Line eye", 8, 20, 20, 1, "controller"),
                        Draws("Room light", 4, 8, 8, 1, "controller"),
                        Draws("Left wheel", 10, 240, 850, 0.7, "controller"),
                        Draws("Right wheel", 10, 240, 850, 0.7, "controller"),
                        Draws("Buzzer", 0, 20, 20, 0.05, "controller"),
                    ]
                ),
            }
        );
        return new(
            "buoy-line-rover",
            rig,
            [
                new Recorder(rig, 1, "Terns", now, "hall floor, north windows")
                    .Take(
                        "Line eye",
                        40,
                        0.2,
                        School.EqualRisk,
                        Zone("line", Light(12, 1.4)),
                        Zone("edge of line", Light(31, 3.1)),
                        Zone("sand", Light(58, 2.6))
                    )
                    .Take("Room light", 30, 0.2, School.EqualRisk, Zone("shade", Light(16, 2.2)), Zone("lit", Light(54, 3.4, 0.4)))
                    .Done(true),
            ]
        );
    }

    private static DemoRig Lock(DateTime now)
    {
        Sensor Ask(string name, double volts) =>
            new(name, SensorKind.Touch, 10, 0, ["up", "down"])
            {
                Connection = Connection.Pins,
                SignalV = volts,
                SupplyMinV = 3,
                SupplyMaxV = 5.5,
            };
        var rig = Wired(
            new(
                "Lock keeper",
                Place,
                [
                    ControllerTemplates.Make("rail vehicle", "Sea gate box"),
                    ControllerTemplates.Make("rail vehicle", "Creek gate box"),
                    ControllerTemplates.Make("small board", "Keeper board"),
                    ControllerTemplates.Make("strip", "Keeper rails"),
                    ControllerTemplates.Make("pack", "Keeper pack"),
                ],
                [
                    Switch("Sea gate shut", "Sea gate"),
                    Switch("Creek gate shut", "Creek gate"),
                    Ask("Boat button", 5),
                    Ask("Keeper button", 3.3),
                ],
                [
                    Motor("Sea gate motor"),
                    Motor("Creek gate motor"),
                    new("Signal", ActuatorKind.Lamp)
                    {
                        Connection = Connection.Pins,
                        SupplyMinV = 3,
                        SupplyMaxV = 5.5,
                        NeedsHighV = 2,
                    },
                ]
            )
            {
                Links =
                [
                    new("Keeper board", "ground", "Keeper rails", "minus rail"),
                    new("Keeper board", "3 V", "Keeper rails", "plus rail"),
                    new("Keeper pack", "minus", "Keeper rails", "minus rail"),
                ],
                LeadsAtHand =
                [
                    new(LeadEnd.Socket, LeadEnd.Clip, 3),
                    new(LeadEnd.Plug, LeadEnd.Socket, 8),
                    new(LeadEnd.Plug, LeadEnd.Clip, 2),
                    new(LeadEnd.Plug, LeadEnd.Bare, 1),
                ],
                Mechanisms =
                [
                    new("Sea gate", MechanismKind.Lid, ["Sea gate motor"])
                    {
                        Travel = new(
                            Measured(0, "motor deg", "against the switch", 2, 3, -1e6),
                            Guessed(270, "motor deg", 60),
                            HomeEnd.From,
                            "Sea gate shut",
                            PastEnd.Stalls,
                            "weed on the sill"
                        ),
                        Positions = ["shut", "open"],
                        Directions = [new("open", true), new("shut", false)],
                    },
                    new("Creek gate", MechanismKind.Lid, ["Creek gate motor"])
                    {
                        Travel = new(
                            Measured(0, "motor deg", "against the switch", 2, 3, -1e6),
                            Guessed(270, "motor deg", 60),
                            HomeEnd.From,
                            "Creek gate shut"
                        ),
                        Positions = ["shut", "open"],
                        Directions = [new("open", true), new("shut", false)],
                    },
                ],
                MessageDelay = Guessed(60, "ms", 40, 0),
                Starts = [new("Lock keeper", Chosen(0, "mm")), new("boat", Guessed(400, "mm", 200, 0) with { MoveSd = 25 })],
                Power = new(
                    4,
                    1.5,
                    1800,
                    2500,
                    80,
                    1800,
                    5,
                    [
                        Draws("Sea gate shut", 0, 1, 1, 1, "controller"),
                        Draws("Creek gate shut", 0, 1, 1, 1, "controller"),
                        Draws("Boat button", 0, 2, 2, 1, "controller", 3, 5.5),
                        Draws("Keeper button", 0, 2, 2, 1, "controller", 3, 5.5),
                        Draws("Sea gate motor", 10, 200, 700, 0.3, "controller"),
                        Draws("Creek gate motor", 10, 200, 700, 0.3, "controller"),
                        Draws("Signal", 0, 20, 20, 0.5, "controller", 3, 5.5),
                    ]
                ),
            },
            // On purpose: the button's board gives 5 V and this pin stands 3.6 V.
            new Wire("Boat button", "signal", "Keeper board", "edge 0"),
            // Each gate hangs on the box whose program moves it.
            new Wire("Sea gate shut", "signal", "Sea gate box", "nose"),
            new Wire("Sea gate motor", "drive", "Sea gate box", "tail"),
            new Wire("Creek gate shut", "signal", "Creek gate box", "nose"),
            new Wire("Creek gate motor", "drive", "Creek gate box", "tail")
        );
        return new(
            "lock-keeper",
            rig,
            [
                new Recorder(rig, 1, "Otters", now, "sink model, evening")
                    .Take("Sea gate shut", 60, 6, School.EqualRisk, UpDown)
                    .Take("Creek gate shut", 60, 6, School.EqualRisk, Zone("up", Free), Zone("down", new(1, 0, Silent: 0.06)))
                    .Take("Boat button", 60, 6, School.EqualRisk, UpDown)
                    .Take("Keeper button", 60, 6, School.EqualRisk, UpDown)
                    .Positions("Sea gate", 6, ("shut", 3, 2), ("open", 262, 5))
                    .Positions("Creek gate", 6, ("shut", 2, 2), ("open", 255, 5))
                    .Done(),
            ]
        );
    }
}
